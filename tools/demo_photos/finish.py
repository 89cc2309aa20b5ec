"""Turn the stored linear renders into photographs: enlarge to 2400x1600, then lens, film response and grain."""

import argparse
import os
from pathlib import Path

import cv2
import numpy as np

from common import WORK, develop

LOOKS = {
    "table-by-the-window": {"exposure": 4.0, "grain": 0.010},
    "ferry-landing": {"exposure": 1.22, "grain": 0.008, "vig": 0.3, "bloom": 0.03, "sat": 0.92},
}
SIZE = (2400, 1600)


def enlarge(x, size):
    """cubic enlargement on the square root, so bright edges do not ring"""
    if size is None or (x.shape[1], x.shape[0]) == tuple(size):
        return x
    y = cv2.resize(np.sqrt(np.maximum(x, 0)).astype(np.float32), tuple(size), interpolation=cv2.INTER_CUBIC)
    return np.maximum(y, 0) ** 2


def look(name, x, size=SIZE, **over):
    return develop(enlarge(x, size).astype(np.float32), **{**LOOKS.get(name, {}), **over})


def keep(d, name):
    """store the linear picture to be finished, and a small developed preview"""
    np.save(WORK / f"{name}.npy", d.astype(np.float32))
    print(name, "median", np.median(d), "p99", np.percentile(d, 99))
    cv2.imwrite(str(WORK / f"{name}_preview.png"), look(name, d, None)[..., ::-1])


def jpeg(path, a, q=92):
    path = Path(path)
    path.parent.mkdir(parents=True, exist_ok=True)
    cv2.imwrite(
        str(path), a[..., ::-1] if a.ndim == 3 else a, [cv2.IMWRITE_JPEG_QUALITY, q, cv2.IMWRITE_JPEG_OPTIMIZE, 1]
    )
    print(path.name, a.shape, os.path.getsize(path) // 1024, "KiB")


def main(out, names):
    for n in names:
        jpeg(Path(out) / "photos" / f"{n}.jpg", look(n, np.load(WORK / f"{n}.npy")))


if __name__ == "__main__":
    here = Path(__file__).resolve().parents[2] / "src" / "kyanoscript" / "demo"
    a = argparse.ArgumentParser()
    a.add_argument("--out", default=str(here))
    a.add_argument("names", nargs="*", default=list(LOOKS))
    a = a.parse_args()
    main(a.out, a.names)
