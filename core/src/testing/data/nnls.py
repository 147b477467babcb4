"""
Makes nnls.ts: non-negative least squares by scipy, for systems that both sides are given.

Needs Debian's python3-scipy. Usage: python3 nnls.py > nnls.ts
"""

import numpy as np
import scipy
from scipy.optimize import nnls

rng = np.random.default_rng(11)
print("// Made by nnls.py with scipy", scipy.__version__ + ": rows of A, b, and the x >= 0 that comes nearest, with what is left over (Euclidean).")
print("export const nnlsCases: readonly { a: number[][]; b: number[]; x: number[]; left: number }[] = [")
for rows, n in [(3, 3), (4, 3), (4, 8), (6, 4), (4, 12), (5, 1), (3, 6), (8, 8)]:
    for kind in range(2):
        a = np.round(rng.uniform(0 if kind else -1, 1, (rows, n)), 4)
        b = np.round(rng.uniform(-0.3 if kind else -1, 1, rows), 4)
        x, left = nnls(a, b)
        print(f"  {{ a: {a.tolist()}, b: {b.tolist()}, x: {[round(float(v), 8) for v in x]}, left: {left:.8f} }},")
print("]")
