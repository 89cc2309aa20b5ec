"""Learns what colours regions of gray pictures had, and writes them as ``core/tint/offers.npz``.

Usage: offers.py OUT.npz FOLDER…   (pictures whole, and five parts of each; of folders whose name ends in "-part" one)
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2] / "src"))
from kyanoscript.core import colour
from kyanoscript.core.tint import offers, reading
from kyanoscript.core.tint.regions import divided

PARTS = 5


def picture(path: Path) -> np.ndarray:
    """Encoded planes ``(3, h, w)``, of the size that a scene is read at."""
    pixels = cv2.imread(str(path), cv2.IMREAD_COLOR)
    scale = min(1.0, reading.SIDE / max(pixels.shape[:2]))
    pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.moveaxis(pixels[..., ::-1], -1, 0).astype(np.float64) / 255


def part(planes: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """A part of a picture, perhaps its mirror image."""
    height, width = planes.shape[1:]
    share = rng.uniform(0.5, 0.95)
    h, w = int(height * share), int(width * share)
    y, x = rng.integers(height - h + 1), rng.integers(width - w + 1)
    cut = planes[:, y : y + h, x : x + w]
    return np.ascontiguousarray(cut[:, :, ::-1] if rng.random() < 0.5 else cut)


def learned(planes: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """The numbers of each of its regions, its tint and its share of the picture."""
    lab = colour.to_oklab(planes, colour.SRGB)
    scene = offers.looked_over((lab[0] * 100).astype(np.float32))
    labels = divided(scene.ready, scene.chroma)
    flat, count = labels.ravel(), int(labels.max()) + 1
    light = np.bincount(flat, lab[0].ravel(), count)
    tints = np.stack([np.bincount(flat, plane.ravel(), count) / light for plane in lab[1:]], axis=1)
    return offers.told(scene, labels), tints, np.bincount(flat, minlength=count) / flat.size


def main() -> None:
    """Learn, and write."""
    rng = np.random.default_rng(11)
    rows = []
    for folder in map(Path, sys.argv[2:]):
        for path in sorted(folder.iterdir()):
            whole = picture(path)
            parts = 1 if folder.name.endswith("-part") else PARTS
            rows += [learned(planes) for planes in (whole, *(part(whole, rng) for _ in range(parts)))]
    told, tints, share = (np.concatenate(column).astype(np.float16) for column in zip(*rows, strict=True))
    np.savez_compressed(sys.argv[1], told=told, tints=tints, share=share)
    print(len(told), "regions,", Path(sys.argv[1]).stat().st_size, "bytes")


if __name__ == "__main__":
    main()
