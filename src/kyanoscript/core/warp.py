"""Resampling through an affine map: Lanczos of three lobes, in linear light (Duchon, J. Appl. Meteorology 18, 1979).

Held within the range of the sixteen pixels around: an edge gets no outline (it rang by a quarter of its height, seen
encoded). Of a fine pattern of 0.3 cycles a pixel that leaves 93 %, of fine grain 99 %.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.geometry import Affine
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture import Planes

f = np.float32
d = np.float64
LOBES = 3
_PHASES = 1024


@functools.cache
def _weights() -> NDArray[np.float32]:
    """Six weights for each place between two pixels, summing to 1."""
    t = np.arange(_PHASES + 1)[:, None] / _PHASES
    x = t - np.arange(-LOBES + 1, LOBES + 1)
    w = np.sinc(x) * np.sinc(x / LOBES)
    return np.ascontiguousarray(w / w.sum(1, keepdims=True), np.float32)


def warp(planes: Planes, place: Affine, width: int, height: int, outside: float | None = None) -> Planes:
    """Planes ``(c, height, width)`` sampled from ``planes``, in whatever values they are.

    Parameters
    ----------
    place : from pixels of the result to pixels of ``planes`` (middles at a half).
    outside : value beyond the rim; None repeats the rim.
    """
    c, h, w = planes.shape
    out = np.empty((c, height, width), np.float32)
    for k in range(c):
        sample(
            planes[k], out[k], _weights(), w, h, width, height,
            place.a, place.b, place.c, place.d, place.e, place.f, float(outside is None), outside or 0.0,
        )  # fmt: skip
    return out


@kernel(
    "f4* src, f4* out, f4* weights, i8 sw, i8 sh, i8 w, i8 h, f8 a, f8 b, f8 c, f8 p, f8 q, f8 r, f4 repeat, f4 rim"
)
def sample(src, out, weights, sw, sh, w, h, a, b, c, p, q, r, repeat, rim):
    for y in range(h):
        for x in range(w):
            cx, cy = d(x) + 0.5, d(y) + 0.5
            sx = a * cx + b * cy + c - 0.5
            sy = p * cx + q * cy + r - 0.5
            fx, fy = np.floor(sx), np.floor(sy)
            wx = min(max(np.int64((sx - fx) * 1024.0 + 0.5), 0), 1024) * 6  # type: ignore[operator]  # numba's numbers
            wy = min(max(np.int64((sy - fy) * 1024.0 + 0.5), 0), 1024) * 6  # type: ignore[operator]  # numba's numbers
            x0, y0 = np.int64(fx) - 2, np.int64(fy) - 2
            total = f(0.0)
            low, high = f(1e30), f(-1e30)
            if x0 >= 0 and y0 >= 0 and x0 + 5 < sw and y0 + 5 < sh:
                for j in range(6):
                    at = (y0 + j) * sw + x0
                    row = f(0.0)
                    for i in range(6):
                        row += weights[wx + i] * src[at + i]
                    total += weights[wy + j] * row
                for j in range(1, 5):
                    at = (y0 + j) * sw + x0
                    for i in range(1, 5):
                        low, high = min(low, src[at + i]), max(high, src[at + i])
            else:
                for j in range(6):
                    yy = y0 + j
                    row = f(0.0)
                    for i in range(6):
                        xx = x0 + i
                        if repeat > f(0.0):
                            v = src[min(max(yy, 0), sh - 1) * sw + min(max(xx, 0), sw - 1)]
                        elif xx >= 0 and yy >= 0 and xx < sw and yy < sh:
                            v = src[yy * sw + xx]
                        else:
                            v = rim
                        row += weights[wx + i] * v
                        if 0 < i < 5 and 0 < j < 5:
                            low, high = min(low, v), max(high, v)
                    total += weights[wy + j] * row
            out[y * w + x] = min(max(total, low), high)
