"""How near the first colouring comes to the true colours of photographs, beside gray.

Usage: judge.py PHOTOGRAPH…   (needs scikit-image)
"""

from __future__ import annotations

import sys
from pathlib import Path

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000, rgb2lab

from kyanoscript.core import colour
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

PIXELS = 117_000


def difference(a: np.ndarray, b: np.ndarray) -> float:
    """Mean CIEDE2000 of two encoded pictures ``(3, h, w)``."""
    return float(deltaE_ciede2000(*(rgb2lab(np.moveaxis(np.clip(p, 0, 1), 0, -1)) for p in (a, b))).mean())


def judged(path: str) -> tuple[float, float]:
    """A photograph's distance from its gray, and from its gray with a first colouring."""
    pixels = cv2.imread(path, cv2.IMREAD_COLOR)
    scale = min(1.0, (PIXELS / (pixels.shape[0] * pixels.shape[1])) ** 0.5)
    pixels = cv2.resize(pixels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    true = np.moveaxis(pixels[..., ::-1], -1, 0).astype(np.float64) / 255
    light = colour.to_oklab(true, colour.SRGB)[0]
    gray = colour.to_encoded(light**3).astype(np.float32)
    renderer = Renderer(ArraySource(gray), Script((load_all()["hand-tint"](auto=True),)), TileCache())
    print_ = renderer.region(Rect(0, 0, gray.shape[1], gray.shape[0]))
    return difference(true, np.repeat(gray[None], 3, axis=0)), difference(true, print_.astype(np.float64))


def main() -> None:
    """Judge each, then all of them."""
    rows = []
    for path in sys.argv[1:]:
        before, after = judged(path)
        rows.append((before, after))
        print(
            f"{before:6.2f} {after:6.2f} {100 * (after / max(before, 1e-6) - 1):+6.0f} %  {Path(path).name}", flush=True
        )
    before, after = np.array(rows).T
    coloured = before > 1
    print(
        f"{len(rows)} photographs: gray {before.mean():.2f}, first colouring {after.mean():.2f}, "
        f"{100 * (1 - after.mean() / before.mean()):.1f} % less; better on {100 * (after < before).mean():.0f} %; "
        f"worst {100 * (after / before)[coloured].max() - 100:+.0f} %; of those with any colour "
        f"{100 * (after <= 1.1 * before)[coloured].mean():.1f} % not more than 10 % worse"
    )


if __name__ == "__main__":
    main()
