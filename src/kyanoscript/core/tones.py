"""Tone tables: a curve from tone to tone, worked out once in double precision and looked up for every pixel.

Curves through points are monotone cubics (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 1980, as in SciPy's PCHIP);
a curve on two points is a straight line.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.native import kernel
from kyanoscript.core.picture import Planes

f = np.float32
SIZE = 4097  # entries; kernels mix between them
GRAYS = np.linspace(0, 1, SIZE)  # the tones that the entries stand for
Table = NDArray[np.float32]


def table(values: NDArray[np.floating]) -> Table:
    """A lookup table as kernels want it; not a number becomes an error rather than a black hole in the print."""
    if not math.isfinite(float(np.sum(values))):
        raise ValueError("a table of tones holds a value that is not a number")
    return np.ascontiguousarray(values, np.float32)


@functools.lru_cache(maxsize=256)
def through(points: tuple[tuple[float, float], ...]) -> Table:
    """Table of the curve through points (tone in, tone out, 0…255, rising in the first); level beyond the end points.

    No points give a straight line, one point a level one.
    """
    return table(curve_at(points, GRAYS))


def curve_at(points: tuple[tuple[float, float], ...], tones: NDArray[np.floating]) -> NDArray[np.float64]:
    """The curve through points at tones 0…1."""
    if not points:
        return np.asarray(tones, np.float64)
    x, y = (np.array(v) / 255 for v in zip(*points, strict=True))
    within = np.clip(tones, x[0], x[-1])
    if len(x) < 3:
        return np.interp(within, x, y)
    from scipy.interpolate import PchipInterpolator

    return np.clip(PchipInterpolator(x, y)(within), 0, 1)


def apply(planes: Planes, tables: Sequence[Table]) -> Planes:
    """Planes ``(1 or 3, h, w)`` through one table for all, or one each; a gray becomes colour by three of them."""
    count = max(len(planes), len(tables))
    out = np.empty((count, *planes.shape[1:]), np.float32)
    n = out[0].size
    if len(tables) == 1:
        look_up(planes, out, out.size, tables[0], SIZE)
        return out
    for k in range(count):
        look_up(planes[min(k, len(planes) - 1)], out[k], n, tables[min(k, len(tables) - 1)], SIZE)
    return out


@kernel("f4* values, f4* out, i8 n, f4* table, i8 size")
def look_up(values, out, n, table, size):
    last = f(size - 1)
    top = np.int32(size - 2)
    for k in range(n):
        at = min(max(values[k], f(0.0)), f(1.0)) * last
        low = min(np.int32(at), top)
        a = table[low]
        out[k] = a + (at - f(low)) * (table[low + 1] - a)
