"""OpenCV native (Debian's python3-opencv) as a measured reference: one thread, CPU time.

Reads lines of JSON: {"load": path, "width": w, "height": h} (plain RGB, 8 bits), {"op": name}. Answers each with a line of JSON.
"""
import json
import sys
import time

import cv2
import numpy as np

cv2.setNumThreads(1)
R = cv2.BORDER_REPLICATE
P = {}


def load(path, width, height):
    rgb8 = np.fromfile(path, np.uint8).reshape(height, width, 3)
    P.clear()
    P["rgb8"] = rgb8
    rgba8 = np.dstack([rgb8, np.full((height, width), 255, np.uint8)])
    P["rgba8"] = np.ascontiguousarray(rgba8)
    P["a"] = np.ascontiguousarray(rgba8.astype(np.uint16) * 257)
    P["b"] = np.ascontiguousarray(P["a"][:, ::-1])
    P["alpha"] = np.ascontiguousarray(np.repeat(P["a"][:, :, 3:], 4, 2))
    P["f3"] = np.ascontiguousarray(P["a"][:, :, :3].astype(np.float32) / 65535)
    P["full"] = np.full_like(P["a"], 65535)
    P["table"] = (65535 * (np.arange(65536) / 65535) ** 0.8).astype(np.uint16)


M = np.array([[0.4, 0.7, 0.1, 0, 0], [0.3, 0.6, 0.1, 0, 0], [0.2, 0.5, 0.2, 0, 0], [0, 0, 0, 1, 0]], np.float32)
LUMA = (0.2126, 0.7152, 0.0722)


def luma(a):
    return cv2.transform(a, np.array([LUMA + (0,) * (a.shape[2] - 3)], np.float32))


def guided(r, eps):
    """He, Sun & Tang's filter by box means in float, grey guide, three channels."""
    p, n = P["f3"], (2 * r + 1, 2 * r + 1)
    i = luma(p)
    i3 = cv2.merge([i, i, i])
    mi = cv2.blur(i, n, borderType=R)
    var = cv2.subtract(cv2.blur(cv2.multiply(i, i), n, borderType=R), cv2.multiply(mi, mi))
    mi3, var3 = cv2.merge([mi, mi, mi]), cv2.merge([var, var, var])
    mp = cv2.blur(p, n, borderType=R)
    cov = cv2.subtract(cv2.blur(cv2.multiply(i3, p), n, borderType=R), cv2.multiply(mi3, mp))
    a = cv2.divide(cov, cv2.add(var3, (eps, eps, eps, 0)))
    b = cv2.subtract(mp, cv2.multiply(a, mi3))
    return cv2.add(cv2.multiply(cv2.blur(a, n, borderType=R), i3), cv2.blur(b, n, borderType=R))


def sobel():
    g = luma(P["a"])
    return cv2.Sobel(g, cv2.CV_32F, 1, 0, borderType=R), cv2.Sobel(g, cv2.CV_32F, 0, 1, borderType=R)


def tensor():
    x, y = cv2.Sobel(P["f3"], cv2.CV_32F, 1, 0, borderType=R), cv2.Sobel(P["f3"], cv2.CV_32F, 0, 1, borderType=R)
    one = np.ones((1, 3), np.float32)
    return [cv2.transform(cv2.multiply(u, v), one) for u, v in ((x, x), (x, y), (y, y))]


def resized(k, how):
    a = P["a"]
    return cv2.resize(a, (round(a.shape[1] * k), round(a.shape[0] * k)), interpolation=how)


def histogram():
    a = P["a"]
    grey = luma(a)
    return [cv2.calcHist([a], [c], None, [256], [0, 65536]) for c in range(3)] + [cv2.calcHist([grey], [0], None, [256], [0, 65536])]


def warp():
    a = P["a"]
    m = cv2.getRotationMatrix2D((a.shape[1] / 2, a.shape[0] / 2), 7, 0.9)
    return cv2.warpAffine(a, m, (a.shape[1], a.shape[0]), flags=cv2.INTER_CUBIC)


def graphite(sigma):
    """The graphite chain operation by operation at 16 bits, on RGB."""
    rgb = np.ascontiguousarray(P["a"][:, :, :3])
    grey = cv2.merge([luma(rgb)] * 3)
    negative = cv2.bitwise_not(grey)
    blurred = cv2.GaussianBlur(negative, (0, 0), sigma, borderType=R)
    dodged = cv2.divide(grey, cv2.bitwise_not(blurred), scale=65535)
    return P["table"][dodged]


OPS = {
    "premultiply": lambda: cv2.multiply(P["a"], P["alpha"], scale=1 / 65535),
    "table": lambda: P["table"][P["a"]],
    "matrix": lambda: cv2.transform(P["a"], M),
    "blend multiply": lambda: cv2.multiply(P["a"], P["b"], scale=1 / 65535),
    "blend colour dodge": lambda: cv2.divide(P["a"], cv2.subtract(P["full"], P["b"]), scale=65535),
    "blend at half opacity": lambda: cv2.addWeighted(P["a"], 0.5, P["b"], 0.5, 0),
    "Gaussian, sigma 3": lambda: cv2.GaussianBlur(P["a"], (0, 0), 3, borderType=R),
    "Gaussian, sigma 25": lambda: cv2.GaussianBlur(P["a"], (0, 0), 25, borderType=R),
    "box, radius 8": lambda: cv2.blur(P["a"], (17, 17), borderType=R),
    "median, radius 1": lambda: cv2.medianBlur(P["a"], 3),
    "median, radius 2": lambda: cv2.medianBlur(P["a"], 5),
    "median, radius 8": lambda: cv2.medianBlur(P["rgba8"], 17),
    "guided, radius 8": lambda: guided(8, 0.01),
    "bilateral, radius 8": lambda: cv2.bilateralFilter(P["f3"], 17, 0.1, 4, borderType=R),
    "Sobel": sobel,
    "structure tensor": tensor,
    "halve": lambda: resized(0.5, cv2.INTER_AREA),
    "resample, area 0.4": lambda: resized(0.4, cv2.INTER_AREA),
    "resample, cubic 1.3": lambda: resized(1.3, cv2.INTER_CUBIC),
    "resample, nearest 1.3": lambda: resized(1.3, cv2.INTER_NEAREST),
    "affine warp, cubic": warp,
    "histogram": histogram,
    "tone mode, radius 4": lambda: cv2.xphoto.oilPainting(P["rgb8"], 4, 10) if hasattr(cv2, "xphoto") else None,
    "to 8 bits": lambda: cv2.convertScaleAbs(P["a"], alpha=1 / 257),
}

for line in sys.stdin:
    ask = json.loads(line)
    if "load" in ask:
        load(ask["load"], ask["width"], ask["height"])
        print(json.dumps({"ok": True}), flush=True)
        continue
    work = (lambda: graphite(ask["sigma"])) if ask["op"] == "graphite" else OPS.get(ask["op"])
    if work is None:
        print(json.dumps({"seconds": None}), flush=True)
        continue
    start = time.process_time()
    done = work()
    seconds = time.process_time() - start
    answer = {"seconds": seconds if done is not None else None}
    if ask.get("mean"):
        answer["mean"] = float(np.mean(done)) / 257
    print(json.dumps(answer), flush=True)
