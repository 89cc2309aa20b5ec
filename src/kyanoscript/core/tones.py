"""Tone tables: a curve from tone to tone, worked out once in double precision and looked up for every pixel.

Curves through points are monotone cubics (Fritsch and Carlson, SIAM J. Numer. Anal. 17, 1980); a curve on two points is
a straight line.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture import Planes
from kyanoscript.translation import tr

f = np.float32
SIZE = 4097  # entries; kernels mix between them
GRAYS = np.linspace(0, 1, SIZE)  # the tones that the entries stand for
Table = NDArray[np.float32]


def table(values: NDArray[np.floating]) -> Table:
    """A lookup table as kernels want it; not a number becomes an error rather than a black hole in the print."""
    if not math.isfinite(float(np.sum(values))):
        raise ValueError(tr("a table of tones holds a value that is not a number"))
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
    return np.clip(monotone(x, y[None], within)[0], 0, 1)


def monotone(x: NDArray[np.float64], y: NDArray[np.float64], at: NDArray[np.floating]) -> NDArray[np.float64]:
    """Monotone cubics ``(c, len(at))`` through points x (rising, 2 or more) and y ``(c, len(x))``.

    Slopes after Fritsch and Butland (SIAM J. Sci. Stat. Comput. 5, 1984), ends by the three-point formula: the numbers
    of SciPy's ``PchipInterpolator``, without the third of a second that importing it takes. ``at`` within x.
    """
    h = np.diff(x)
    step = np.diff(y, axis=1) / h
    if len(x) == 2:
        return y[:, :1] + step * (at - x[0])
    slope = np.zeros_like(y)
    w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
    same = step[:, :-1] * step[:, 1:] > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (w1 + w2) / (w1 / step[:, :-1] + w2 / step[:, 1:])
    slope[:, 1:-1] = np.where(same, mean, 0)
    slope[:, 0] = _end_slope(h[0], h[1], step[:, 0], step[:, 1])
    slope[:, -1] = _end_slope(h[-1], h[-2], step[:, -1], step[:, -2])
    k = np.clip(np.searchsorted(x, at, "right") - 1, 0, len(h) - 1)
    t = (at - x[k]) / h[k]
    rise = slope[:, k] * h[k]
    fall = slope[:, k + 1] * h[k]
    a, b = y[:, k], y[:, k + 1]
    return a + t * (rise + t * (3 * (b - a) - 2 * rise - fall + t * (rise + fall - 2 * (b - a))))


def _end_slope(h0: float, h1: float, s0: NDArray[np.float64], s1: NDArray[np.float64]) -> NDArray[np.float64]:
    """Slope at an end from the two steps next to it, held so that the curve stays monotone."""
    slope = ((2 * h0 + h1) * s0 - h0 * s1) / (h0 + h1)
    slope = np.where(np.sign(slope) != np.sign(s0), 0, slope)
    return np.where((np.sign(s0) != np.sign(s1)) & (np.abs(slope) > 3 * np.abs(s0)), 3 * s0, slope)


def apply(planes: Planes, tables: Sequence[Table], beyond: Sequence[Table]) -> Planes:
    """Planes ``(1 or 3, h, w)`` through one table for all, or one each; a gray becomes colour by three of them.

    ``beyond`` are as many tables for what is lighter than white, which photographs in floats hold: entries stand for
    the tones ``1 / GRAYS``.
    """
    count = max(len(planes), len(tables))
    out = np.empty((count, *planes.shape[1:]), np.float32)
    lighter = planes.size > 0 and float(planes.max()) > 1
    for k in range(1 if len(tables) == 1 else count):
        part, to = (planes, out) if len(tables) == 1 else (planes[min(k, len(planes) - 1)], out[k])
        table = tables[min(k, len(tables) - 1)]
        if lighter:
            look_beyond(part, to, to.size, table, beyond[min(k, len(beyond) - 1)], SIZE)
        else:
            look_up(part, to, to.size, table, SIZE)
    return out


BEYOND = 1 / np.maximum(GRAYS, 1e-5)  # the tones lighter than white that the entries of a second table stand for


@kernel("f4* values, f4* out, i8 n, f4* table, i8 size")
def look_up(values, out, n, table, size):
    last = f(size - 1)
    top = np.int32(size - 2)
    for k in range(n):
        at = min(max(values[k], f(0.0)), f(1.0)) * last
        low = min(max(np.int32(at), np.int32(0)), top)
        a = table[low]
        out[k] = a + (at - f(low)) * (table[low + 1] - a)


@kernel("f4* values, f4* out, i8 n, f4* table, f4* beyond, i8 size")
def look_beyond(values, out, n, table, beyond, size):
    last = f(size - 1)
    top = np.int32(size - 2)
    for k in range(n):
        lighter = values[k] > f(1.0)
        within = f(1.0) / values[k] if lighter else max(values[k], f(0.0))
        at = within * last
        low = min(max(np.int32(at), np.int32(0)), top)
        a = beyond[low] if lighter else table[low]
        b = beyond[low + 1] if lighter else table[low + 1]
        out[k] = a + (at - f(low)) * (b - a)
