"""Planes through a table of colours: what a profile makes of them, quickly.

Tetrahedral interpolation (common practice; described in H. R. Kang, "Color Technology for Electronic Imaging Devices",
1997): each cell of the table's grid is cut into six tetrahedra along its gray diagonal, so that grays stay between
grays.
"""

# mypy: allow-untyped-defs, allow-untyped-calls, disable-error-code="operator, arg-type"

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.picture.write import threshold

f = np.float32
SIDE = 33  # grid points of each channel
Table = NDArray[np.float32]  # (SIDE, SIDE, SIDE, 3), encoded 0…1 in and out


def grid() -> NDArray[np.float32]:
    """What a table is made for: ``(SIDE³, 1, 3)`` colours, red slowest."""
    steps = np.linspace(0, 1, SIDE, dtype=np.float32)
    return np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), -1).reshape(-1, 1, 3)


@helper
def within(table, r, g, b):
    """The colour of encoded r, g, b in a table; beyond 0…1 the nearest."""
    most = f(SIDE - 1)
    r = min(max(r, f(0.0)), f(1.0)) * most
    g = min(max(g, f(0.0)), f(1.0)) * most
    b = min(max(b, f(0.0)), f(1.0)) * most
    i, j, k = min(np.int32(r), SIDE - 2), min(np.int32(g), SIDE - 2), min(np.int32(b), SIDE - 2)
    r, g, b = r - f(i), g - f(j), b - f(k)
    base = ((i * SIDE + j) * SIDE + k) * 3
    # Steps of the three channels, the one that has gone furthest first: from corner to corner of one tetrahedron.
    red, green, blue = SIDE * SIDE * 3, SIDE * 3, 3
    if r >= g:
        if g >= b:
            first, second, x, y, z = red, green, r, g, b
        elif r >= b:
            first, second, x, y, z = red, blue, r, b, g
        else:
            first, second, x, y, z = blue, red, b, r, g
    elif r >= b:
        first, second, x, y, z = green, red, g, r, b
    elif g >= b:
        first, second, x, y, z = green, blue, g, b, r
    else:
        first, second, x, y, z = blue, green, b, g, r
    p1 = base + first
    p2 = p1 + second
    p3 = base + red + green + blue
    w0, w1, w2 = f(1.0) - x, x - y, y - z
    return (
        w0 * table[base] + w1 * table[p1] + w2 * table[p2] + z * table[p3],
        w0 * table[base + 1] + w1 * table[p1 + 1] + w2 * table[p2 + 1] + z * table[p3 + 1],
        w0 * table[base + 2] + w1 * table[p1 + 2] + w2 * table[p2 + 2] + z * table[p3 + 2],
    )


def packed(table: Table) -> NDArray[np.int32]:
    """The table for the screen: three channels of ten bits in one number, 1020 being white, one step further along each
    channel than the table has, so that white lies within."""
    levels = np.rint(np.clip(table, 0, 1) * 1020).astype(np.int32)
    levels = np.pad(levels, ((0, 1), (0, 1), (0, 1), (0, 0)), mode="edge")
    return np.ascontiguousarray(levels[..., 0] << 20 | levels[..., 1] << 10 | levels[..., 2])


i = np.int32
_WIDE = i(SIDE + 1)
_PLANE = i((SIDE + 1) * (SIDE + 1))
_STEPS = f(256 * (SIDE - 1))  # parts of a step of the table that places are told in
_OPAQUE = i(-16777216)


@kernel("f4* planes, i4* table, i4* out, i8 start, i8 channels, i8 w, i8 h, i8 row")
def to_screen_by(planes, table, out, start, channels, w, h, row):
    """As `to_screen`, through a packed table; a pixel of ``out`` is one number.

    All of it in numbers of 32 bits and without branches, so that the processor takes several pixels at once.
    """
    n = w * h
    green = n if channels == 3 else np.int64(0)
    left, top = start % row, start // row
    for y in range(h):
        for x in range(w):
            k = y * w + x
            r = i(min(max(planes[k], f(0.0)), f(1.0)) * _STEPS + f(0.5))
            g = i(min(max(planes[k + green], f(0.0)), f(1.0)) * _STEPS + f(0.5))
            b = i(min(max(planes[k + green + green], f(0.0)), f(1.0)) * _STEPS + f(0.5))
            base = i(i(i(r >> i(8)) * _PLANE) + i(i(i(g >> i(8)) * _WIDE) + i(b >> i(8))))
            r, g, b = i(r & i(255)), i(g & i(255)), i(b & i(255))
            high, low = max(r, max(g, b)), min(r, min(g, b))
            middle = i(i(r + g) + i(b - high)) - low
            # The step of the channel that has gone furthest, and of the one that has gone least.
            first = _PLANE if r == high else (_WIDE if g == high else i(1))
            last = i(1) if b == low else (_WIDE if g == low else _PLANE)
            whole = i(base + i(_PLANE + i(_WIDE + i(1))))
            t0, t1, t2, t3 = table[base], table[i(base + first)], table[i(whole - last)], table[whole]
            w0, w1, w2 = i(i(256) - high), i(high - middle), i(middle - low)
            red = i(t0 >> i(20)) * w0 + i(t1 >> i(20)) * w1 + i(t2 >> i(20)) * w2 + i(t3 >> i(20)) * low
            mid = (
                i(i(t0 >> i(10)) & i(1023)) * w0
                + i(i(t1 >> i(10)) & i(1023)) * w1
                + i(i(t2 >> i(10)) & i(1023)) * w2
                + i(i(t3 >> i(10)) & i(1023)) * low
            )
            blue = i(t0 & i(1023)) * w0 + i(t1 & i(1023)) * w1 + i(t2 & i(1023)) * w2 + i(t3 & i(1023)) * low
            more = i(i(threshold(left + x, top + y) << i(2)) + i(2))
            red, mid, blue = i(i(red + more) >> i(10)), i(i(mid + more) >> i(10)), i(i(blue + more) >> i(10))
            out[start + y * row + x] = _OPAQUE | i(red << i(16)) | i(mid << i(8)) | blue


@kernel("f4* planes, f4* table, f4* out, i8 channels, i8 n")
def through(planes, table, out, channels, n):
    """Planes ``(1 or 3, n)`` through a table, to ``(3, n)``."""
    green = n if channels == 3 else np.int64(0)
    for k in range(n):
        out[k], out[n + k], out[n + n + k] = within(table, planes[k], planes[k + green], planes[k + green + green])
