"""A photograph at the size that a print needs on paper: enlarged or reduced before the passes, so that their grain and
other noise are those of the paper's own pixels.

Lanczos of three lobes in light (Duchon, J. Appl. Meteorology 18, 1979). It overshoots at edges, which paper shows as a
bright seam: every value is held between the four samples nearest to it, across and down.
"""

# mypy: allow-untyped-defs, allow-untyped-calls, disable-error-code="operator, arg-type"

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture.read import Reading, read
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import Planes, Source
from kyanoscript.translation import tr

f = np.float32
_TAPS = 6
MOST = 60_000  # pixels of a side


@kernel("f4* light, f4* out, i8* columns, f4* weights, i8 rows, i8 sw, i8 w")
def wider(light, out, columns, weights, rows, sw, w):
    for y in range(rows):
        at = y * sw
        for x in range(w):
            total, low, high = f(0.0), f(1e30), f(-1e30)
            for t in range(6):
                v = light[at + columns[x * 6 + t]]
                total += weights[x * 6 + t] * v
                if t >= 1 and t <= 4:
                    low = min(low, v)
                    high = max(high, v)
            out[y * w + x] = min(max(total, low), high)


@kernel("f4* light, f4* out, i8* rows, f4* weights, i8 h, i8 w")
def taller(light, out, rows, weights, h, w):
    for y in range(h):
        for x in range(w):
            total, low, high = f(0.0), f(1e30), f(-1e30)
            for t in range(6):
                v = light[rows[y * 6 + t] * w + x]
                total += weights[y * 6 + t] * v
                if t >= 1 and t <= 4:
                    low = min(low, v)
                    high = max(high, v)
            out[y * w + x] = min(max(total, low), high)


class Resized:
    """A source of another size; it hands out float32, encoded. Raises ValueError for a side below 1 or too long."""

    def __init__(self, source: Source, width: int, height: int) -> None:
        if min(width, height) < 1 or max(width, height) > MOST:
            raise ValueError(
                tr(
                    "a print of {width} × {height} pixels is not made; the longest side is {most}",
                    width=width,
                    height=height,
                    most=MOST,
                )
            )
        self.source = source
        self.width, self.height = width, height
        self.channels = source.channels
        found: Source | None = getattr(source, "infrared", None)
        self.infrared = None if found is None else Resized(found, width, height)

    @property
    def space(self) -> Space:
        return self.source.space

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """The part ``rect`` as ``(h, w, channels)``."""
        planes = _enlarged(self.source, rect, self.width, self.height)
        return np.ascontiguousarray(np.moveaxis(planes, 0, 2))


def resized(source: Source, width: int, height: int) -> Source:
    """The source at that size; itself where it has it."""
    return source if (source.width, source.height) == (width, height) else Resized(source, width, height)


def _enlarged(source: Source, rect: Rect, width: int, height: int) -> Planes:
    scale = min(1.0, width / source.width)
    grid = (source.width, source.height)
    if scale < 1:  # reduced by the photograph's own reading, to just this size
        grid = max(1, round(source.width * scale)), max(1, round(source.height * scale))
        if grid == (width, height):
            return read(source, rect, scale, how=Reading.WRITTEN)
    columns, weights = _lobes(rect.x, rect.width, grid[0] / width, grid[0])
    rows, heights = _lobes(rect.y, rect.height, grid[1] / height, grid[1])
    left, right = int(columns.min()), int(columns.max()) + 1
    top, bottom = int(rows.min()), int(rows.max()) + 1
    planes = read(source, Rect(left, top, right - left, bottom - top), scale, how=Reading.WRITTEN)
    light = np.ascontiguousarray(colour.to_light_planes(planes))
    channels, high, wide = light.shape
    across = np.empty((channels * high, rect.width), np.float32)
    wider(light.reshape(channels * high, wide), across, columns - left, weights, channels * high, wide, rect.width)
    out = np.empty((channels, rect.height, rect.width), np.float32)
    for plane, made in zip(across.reshape(channels, high, rect.width), out, strict=True):
        taller(np.ascontiguousarray(plane), made, rows - top, heights, rect.height, rect.width)
    return np.asarray(colour.to_encoded_planes(out), np.float32)


def _lobes(first: int, count: int, step: float, size: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """The six samples round each pixel and their weights, ``(count, 6)``; at a rim the last sample goes on."""
    middle = (first + np.arange(count) + 0.5) * step - 0.5
    taps = np.floor(middle[:, None]) + np.arange(-2, 4)
    x = np.clip(taps - middle[:, None], -3, 3)
    weights = np.sinc(x) * np.sinc(x / 3)
    weights /= weights.sum(1, keepdims=True)
    return np.clip(taps, 0, size - 1).astype(np.int64), np.ascontiguousarray(weights, np.float32)
