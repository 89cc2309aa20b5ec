"""Pointwise passes in a row, joined into one table: for pictures that are seen for a moment.

The table holds what the passes make of a grid of colours; between its points it goes straight, within tetrahedra along
the gray diagonal (see `kyanoscript.core.picture.table`).
"""

# mypy: allow-untyped-defs, allow-untyped-calls, disable-error-code="operator, arg-type"

from __future__ import annotations

import functools
from collections.abc import Callable

import numpy as np

from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.picture import Planes

SIDE = 33  # grid points of each channel: with 25 it is quicker by 1 ms and twice as far from exact
LEAST = 2 * SIDE**3  # pixels from which on a table is worth making
_TRIED = 2048  # pixels
_NEAR = 0.3 / 255  # how far they may be away, on average

f = np.float32
i = np.int32
_WIDE, _PLANE, _ALL, _POINTS = i(SIDE), i(SIDE * SIDE), i(SIDE * SIDE + SIDE + 1), i(SIDE**3)


@functools.cache
def grid() -> Planes:
    """The colours ``(3, SIDE, SIDE²)`` that passes are asked for; red changes slowest."""
    steps = np.linspace(0, 1, SIDE, dtype=np.float32)
    made = np.stack(np.meshgrid(steps, steps, steps, indexing="ij")).reshape(3, SIDE, SIDE * SIDE)
    made.flags.writeable = False
    return made


def fits(planes: Planes) -> bool:
    """Whether a table serves: colours, none of them beyond white, and enough of them."""
    return len(planes) == 3 and planes[0].size >= LEAST and float(planes.max()) <= 1


def table(passes: Callable[[Planes], Planes], planes: Planes) -> Planes | None:
    """What passes make of `grid`; None if it does not stand for them in this picture.

    A threshold, or the hues that meet in gray, are not straight between the points of the grid. So some of the
    picture's own pixels go both ways.
    """
    made = passes(grid())
    few = np.linspace(0, planes[0].size - 1, _TRIED).astype(np.intp)
    tried = np.ascontiguousarray(planes.reshape(3, -1)[:, few]).reshape(3, 1, -1)
    away = float(np.abs(through(tried, made) - passes(tried)).mean())
    return made if away < _NEAR else None


def through(planes: Planes, made: Planes) -> Planes:
    """Colours ``(3, h, w)`` 0…1 through a table, which is what the passes made of `grid`, ``(1 or 3, …)``."""
    out = np.empty((len(made), *planes.shape[1:]), np.float32)
    look_up = look_up_colours if len(made) == 3 else look_up_grays
    look_up(planes, np.ascontiguousarray(made), out, planes[0].size)
    return out


@helper
def corners(r, g, b):
    """The four points around a colour, and the weights of all but the first."""
    r = min(max(r, f(0.0)), f(1.0)) * f(SIDE - 1)
    g = min(max(g, f(0.0)), f(1.0)) * f(SIDE - 1)
    b = min(max(b, f(0.0)), f(1.0)) * f(SIDE - 1)
    x, y, z = min(i(r), i(SIDE - 2)), min(i(g), i(SIDE - 2)), min(i(b), i(SIDE - 2))
    base = i(i(x * _PLANE) + i(i(y * _WIDE) + z))
    r, g, b = r - f(x), g - f(y), b - f(z)
    high, low = max(r, max(g, b)), min(r, min(g, b))
    middle = r + g + b - high - low
    # The step of the channel that has gone furthest, and of the one that has gone least.
    first = i(base + (_PLANE if r == high else (_WIDE if g == high else i(1))))
    whole = i(base + _ALL)
    last = i(whole - (i(1) if b == low else (_WIDE if g == low else _PLANE)))
    return base, first, last, whole, high - middle, middle - low, low


@kernel("f4* rgb, f4* table, f4* out, i8 n")
def look_up_grays(rgb, table, out, n):
    for k in range(n):
        p0, p1, p2, p3, w1, w2, w3 = corners(rgb[k], rgb[n + k], rgb[n + n + k])
        out[k] = (f(1.0) - w1 - w2 - w3) * table[p0] + w1 * table[p1] + w2 * table[p2] + w3 * table[p3]


@kernel("f4* rgb, f4* table, f4* out, i8 n")
def look_up_colours(rgb, table, out, n):
    for k in range(n):
        p0, p1, p2, p3, w1, w2, w3 = corners(rgb[k], rgb[n + k], rgb[n + n + k])
        w0 = f(1.0) - w1 - w2 - w3
        out[k] = w0 * table[p0] + w1 * table[p1] + w2 * table[p2] + w3 * table[p3]
        p0, p1, p2, p3 = i(p0 + _POINTS), i(p1 + _POINTS), i(p2 + _POINTS), i(p3 + _POINTS)
        out[n + k] = w0 * table[p0] + w1 * table[p1] + w2 * table[p2] + w3 * table[p3]
        p0, p1, p2, p3 = i(p0 + _POINTS), i(p1 + _POINTS), i(p2 + _POINTS), i(p3 + _POINTS)
        out[n + n + k] = w0 * table[p0] + w1 * table[p1] + w2 * table[p2] + w3 * table[p3]
