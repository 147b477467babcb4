"""
Makes seamless-clone.ts: what OpenCV's seamlessClone (Pérez 2003) makes of a picture that both sides draw from the same formula, and
the solution of Poisson's equation with Dirichlet's condition by SciPy's sparse solver, over the mask as OpenCV erodes it.

Needs Debian's python3-opencv and python3-scipy. Usage: python3 seamless-clone.py > seamless-clone.ts
"""

import cv2
import numpy as np
import scipy
from scipy.sparse import lil_matrix
from scipy.sparse.linalg import spsolve

W, H = 160, 120
y, x = np.mgrid[0:H, 0:W].astype(float)


def drawn(k):
    """Waves on a slope, differently for each channel."""
    v = 120 + 0.4 * x - 0.3 * y + 22 * np.sin(x * (0.11 + 0.02 * k) + k) * np.cos(y * 0.09 - k)
    return np.clip(np.rint(v), 0, 255).astype(np.uint8)


picture = np.dstack([drawn(k) for k in range(3)])
# a disc about (50, 60), from 60 pixels to the right
disc = (np.hypot(x - 50, y - 60) <= 22).astype(np.uint8) * 255
source = np.roll(picture, -60, axis=1)
left, top = np.where(disc.any(0))[0][0], np.where(disc.any(1))[0][0]
wide, high = np.where(disc.any(0))[0][-1] - left + 1, np.where(disc.any(1))[0][-1] - top + 1
out = cv2.seamlessClone(source, picture, disc, (int(left + wide // 2), int(top + high // 2)), cv2.NORMAL_CLONE)
mask = cv2.erode(disc, np.ones((3, 3), np.uint8), iterations=3) > 0
rows, columns = np.where(mask)
at = {p: i for i, p in enumerate(zip(rows, columns))}
matrix = lil_matrix((len(rows), len(rows)))
right = np.zeros((len(rows), 3))
for (py, px), i in at.items():
    matrix[i, i] = 4
    for q in ((py - 1, px), (py + 1, px), (py, px - 1), (py, px + 1)):
        if q in at:
            matrix[i, at[q]] = -1
        else:
            right[i] += picture[q].astype(float) - source[q].astype(float)
healed = source.astype(float)
healed[rows, columns] += spsolve(matrix.tocsr(), right)
places = [(px, py) for py in range(38, 83, 4) for px in range(28, 73, 4) if mask[py, px]]
print("// Made by seamless-clone.py with OpenCV", cv2.__version__, "and SciPy", scipy.__version__ + ": x, y, three channels of each, 0…255.")
print("export const seamlessClone: readonly { x: number; y: number; openCv: readonly number[]; scipy: readonly number[] }[] = [")
for px, py in places:
    theirs = ", ".join(str(v) for v in out[py, px])
    exact = ", ".join(f"{v:.2f}" for v in np.clip(healed[py, px], 0, 255))
    print(f"  {{ x: {px}, y: {py}, openCv: [{theirs}], scipy: [{exact}] }},")
print("]")
