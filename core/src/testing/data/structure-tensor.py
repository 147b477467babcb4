"""
Makes structure-tensor.ts: directions along the forms by scikit-image, for a picture that both sides draw from the same formula.

Needs Debian's python3-skimage. Usage: python3 structure-tensor.py > structure-tensor.ts
"""

import numpy as np
from skimage.feature import structure_tensor
from skimage.filters import gaussian

W, H = 240, 180
y, x = np.mgrid[0:H, 0:W].astype(float)
# rings about a point, beside stripes that bend
picture = np.where(
    x < 120,
    0.5 + 0.3 * np.sin(0.45 * np.hypot(x - 40, y - 120)),
    0.5 + 0.3 * np.sin(0.4 * (y + 12 * np.sin(x / 25))),
)
# as a study looks at it: calmed, then smoothed over 5 thousandths of the long side, at least a pixel
unit = W / 1000
calm = gaussian(picture, max(0.6, 1.3 * unit), mode="nearest", truncate=6)
rr, rc, cc = structure_tensor(calm, sigma=max(1, 5 * unit), mode="nearest", order="rc")
# twice the angle of the axis along the form: rows go down
u, v = rr - cc, -2 * rc
places = [(px, py) for py in range(12, H - 12, 13) for px in range(12, W - 12, 13) if abs(px - 120) > 16]
print("// Made by structure-tensor.py with scikit-image", __import__("skimage").__version__ + ": x, y, twice the angle along the forms (radians, y down).")
print("export const structureTensor: readonly (readonly [number, number, number])[] = [")
for px, py in places:
    print(f"  [{px}, {py}, {np.arctan2(v[py, px], u[py, px]):.4f}],")
print("]")
