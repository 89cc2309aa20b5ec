"""What ten dabs do to portraits that were made gray, after the first colouring: mean CIEDE2000 to their true colours.

The dabs are laid as a hand would that compares: each time whatever helps most, be it another colour for a thing of a
person's that was found (its true one), or a dab of the true colour at one of the places that are farthest off.

Usage: portraits.py FOLDER   (which holds the files that judge.py names; needs scikit-image)
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import skimage.data
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript.core import colour
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.tint.dabs import Dab

PORTRAITS = (
    "astronaut", "0-f1-su-ph.jpg", "0-f15-hao-ph.jpg", "15-f13-anc-ph.jpg", "45-m7-di-ph.jpg", "single_face.jpg",
)  # fmt: skip
DABS, PLACES = 10, 4
P = load_all()


def differences(planes: np.ndarray, true: np.ndarray) -> np.ndarray:
    """CIEDE2000 of every pixel of two encoded pictures ``(3, h, w)``."""
    return np.asarray(deltaE_ciede2000(*(rgb2lab(np.moveaxis(np.clip(p, 0, 1), 0, -1)) for p in (planes, true))))


def printed(gray: np.ndarray, dabs: tuple[Dab, ...]) -> np.ndarray:
    """The gray picture with those dabs."""
    renderer = Renderer(ArraySource(gray), Script((P["hand-tint"](dabs=dabs),)), TileCache())
    return renderer.region(Rect(0, 0, gray.shape[1], gray.shape[0])).astype(np.float64)


def hexed(rgb: np.ndarray) -> str:
    """A colour as dabs have it."""
    return "#" + "".join(f"{round(float(v) * 255):02x}" for v in np.clip(rgb, 0, 1))


def given(dabs: tuple[Dab, ...], name: str, true: np.ndarray) -> tuple[Dab, ...]:
    """What was found of somebody and has that name, in the colour that it has."""
    height, width = true.shape[1:]
    mask = np.zeros((height, width), np.uint8)
    for dab in dabs:
        if dab.name == name:
            cv2.fillPoly(mask, [np.rint(np.array(dab.outline) / 100 * [width, height]).astype(np.int32)], 1)
    if not mask.any():
        return dabs
    tint = {"colour": hexed(np.median(true[:, mask > 0], axis=1)), "guess": False, "sure": 100.0}
    return tuple(dab.model_copy(update=tint) if dab.name == name else dab for dab in dabs)


def next_one(dabs: tuple[Dab, ...], off: np.ndarray, true: np.ndarray) -> Iterator[tuple[Dab, ...]]:
    """What a hand might do next."""
    height, width = off.shape
    for name in {dab.name for dab in dabs if dab.name and dab.guess}:
        yield given(dabs, name, true)
    soft = cv2.GaussianBlur(off, (0, 0), max(off.shape) / 25)
    for _ in range(PLACES):
        y, x = np.unravel_index(int(soft.argmax()), soft.shape)
        around = np.s_[:, max(0, y - 3) : y + 4, max(0, x - 3) : x + 4]
        tint = hexed(true[around].mean(axis=(1, 2)))
        yield (*dabs, Dab(points=((100 * x / width, 100 * y / height),), colour=tint))
        cv2.circle(soft, (int(x), int(y)), max(off.shape) // 8, 0.0, -1)


def judged(name: str, folder: Path) -> tuple[float, float, float]:
    """Gray, first colouring, and with ten dabs."""
    picture = np.asarray(skimage.data.astronaut())[..., ::-1] if name == "astronaut" else cv2.imread(str(folder / name))
    scale = min(1.0, (262_144 / (picture.shape[0] * picture.shape[1])) ** 0.5)
    picture = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    true = np.moveaxis(picture[..., ::-1], -1, 0).astype(np.float64) / 255
    gray = colour.to_encoded(colour.to_oklab(true, colour.SRGB)[0] ** 3).astype(np.float32)
    height, width = gray.shape
    auto = Renderer(ArraySource(gray), Script((P["hand-tint"](auto=True),)), TileCache())
    dabs = auto.settled(0).dabs
    first = differences(auto.region(Rect(0, 0, width, height)).astype(np.float64), true)
    off = first
    for _ in range(DABS):
        tried = [(differences(printed(gray, way), true), way) for way in next_one(dabs, off, true)]
        off, dabs = min(tried, key=lambda pair: float(pair[0].mean()))
    plain = differences(np.repeat(gray[None].astype(np.float64), 3, axis=0), true)
    return float(plain.mean()), float(first.mean()), float(off.mean())


def main() -> None:
    """Judge each, then all."""
    rows = []
    for name in PORTRAITS:
        rows.append(judged(name, Path(sys.argv[1])))
        print("gray {:5.2f}  first colouring {:5.2f}  ten dabs {:5.2f}".format(*rows[-1]), name, flush=True)
    print("mean: gray {:.2f}, first colouring {:.2f}, ten dabs {:.2f}".format(*np.mean(rows, axis=0)))


if __name__ == "__main__":
    main()
