"""Blurs and what is made of them: Gaussian, enlarging of coarse pictures, edge-aware base and detail.

Wide blurs work on a coarse version of the picture and are enlarged by cubic B-splines; the spread that reducing and
enlarging add (variances 1/12 and 1/3 of a coarse pixel) is taken off the blur, so that the whole has the spread asked
for. The edge-aware base is the guided filter (He, Sun and Tang, ECCV 2010) with the picture as its own guide, Gaussian
windows, and its two coefficients worked out on the coarse picture (He and Sun, "Fast guided filter", 2015).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.geometry import Affine
from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.translation import tr

f = np.float32
d = np.float64
AROUND = 2  # coarse pixels around a region that enlarging looks at
_CUT = 3.0  # sigmas at which the bell is cut off
FACTORS = (1, 4, 16, 64, 256)  # few of them, so that passes share coarse pictures
_LEAST = 0.2  # pixels: below it the neighbours get less than 4e-6, and soon numbers so small that processors stumble
_KEPT = 2.0  # pixels of a coarse picture that a blur must at least be wide, or it would show the coarseness
_ROUGHLY_KEPT = 1.2  # where it is seen for a moment


@dataclass(frozen=True)
class Coarse:
    """Planes of a picture at a part of the present scale, around a region."""

    planes: Planes
    x: float  # place of the first column in the coarse picture; below 0 outside it
    y: float
    across: float  # coarse pixels to one present pixel
    down: float


def factor_for(sigma: float) -> int:
    """By how much the picture may be reduced for a blur of ``sigma`` pixels."""
    return max(k for k in FACTORS if k == 1 or sigma / k >= _KEPT)


def rough_factor_for(sigma: float) -> int:
    """By how much a coarse picture may be reduced further for a blur that is seen for a moment."""
    return max(1 << k for k in range(9) if k == 0 or sigma / (1 << k) >= _ROUGHLY_KEPT)


def coarse_sigma(sigma: float, factor: int) -> float:
    """The blur to give a coarse picture so that, enlarged, it is blurred by ``sigma`` present pixels."""
    return sigma if factor == 1 else math.sqrt((sigma / factor) ** 2 - 1 / 12 - 1 / 3)


def reach(sigma: float) -> int:
    """Pixels around a region that a blur looks at."""
    return (len(bell(sigma)) - 1) // 2


@functools.lru_cache(maxsize=256)
def bell(sigma: float) -> NDArray[np.float32]:
    """Weights of a Gaussian of ``sigma`` pixels."""
    if sigma < _LEAST:
        return np.ones(1, np.float32)
    radius = max(1, math.ceil(_CUT * sigma))
    weights = np.exp(-0.5 * (np.arange(-radius, radius + 1) / sigma) ** 2)
    return np.ascontiguousarray(weights / weights.sum(), np.float32)


def gaussian(planes: Planes, sigma: float) -> Planes:
    """Blur planes ``(c, h, w)``; the result is smaller by `reach` on every side."""
    taps = bell(sigma)
    if len(taps) == 1:
        return planes
    c, h, w = planes.shape
    inner_w, inner_h = w - len(taps) + 1, h - len(taps) + 1
    rows = np.empty((c, h, inner_w), np.float32)
    convolve_across(planes, rows, taps, len(taps), c * h, w)
    out = np.empty((c, inner_h, inner_w), np.float32)
    for k in range(c):
        convolve_down(rows[k], out[k], taps, len(taps), inner_h, inner_w)
    return out


# The bell is even, so taps come in pairs; four pairs at a time, as loading and storing costs more than the arithmetic.


@kernel("f4* src, f4* out, f4* taps, i8 count, i8 rows, i8 width")
def convolve_across(src, out, taps, count, rows, width):
    w = width - count + 1
    half = (count - 1) // 2
    for y in range(rows):
        s, o = y * width, y * w
        for x in range(w):
            out[o + x] = taps[half] * src[s + x + half]
        for t in range(0, half, 4):
            t1, t2, t3 = min(t + 1, half), min(t + 2, half), min(t + 3, half)
            a, b = taps[t], taps[t1] if t1 < half else f(0.0)
            c, e = taps[t2] if t2 < half else f(0.0), taps[t3] if t3 < half else f(0.0)
            p0, p1, p2, p3 = s + t, s + t1, s + t2, s + t3
            q0, q1, q2, q3 = s + count - 1 - t, s + count - 1 - t1, s + count - 1 - t2, s + count - 1 - t3
            for x in range(w):
                out[o + x] += (
                    a * (src[p0 + x] + src[q0 + x])
                    + b * (src[p1 + x] + src[q1 + x])
                    + c * (src[p2 + x] + src[q2 + x])
                    + e * (src[p3 + x] + src[q3 + x])
                )


@kernel("f4* src, f4* out, f4* taps, i8 count, i8 rows, i8 width")
def convolve_down(src, out, taps, count, rows, width):
    half = (count - 1) // 2
    for y in range(rows):
        o = y * width
        for x in range(width):
            out[o + x] = taps[half] * src[o + half * width + x]
        for t in range(0, half, 4):
            t1, t2, t3 = min(t + 1, half), min(t + 2, half), min(t + 3, half)
            a, b = taps[t], taps[t1] if t1 < half else f(0.0)
            c, e = taps[t2] if t2 < half else f(0.0), taps[t3] if t3 < half else f(0.0)
            p0, p1, p2, p3 = (y + t) * width, (y + t1) * width, (y + t2) * width, (y + t3) * width
            last = y + count - 1
            q0, q1, q2, q3 = (last - t) * width, (last - t1) * width, (last - t2) * width, (last - t3) * width
            for x in range(width):
                out[o + x] += (
                    a * (src[p0 + x] + src[q0 + x])
                    + b * (src[p1 + x] + src[q1 + x])
                    + c * (src[p2 + x] + src[q2 + x])
                    + e * (src[p3 + x] + src[q3 + x])
                )


def enlarge(coarse: Coarse, rect: Rect) -> Planes:
    """Planes of ``rect`` in present pixels from a coarse picture that reaches at least two of its pixels around it."""
    c, hc, wc = coarse.planes.shape
    xi, xw = spline(rect.x, rect.width, coarse.across, coarse.x, wc)
    yi, yw = spline(rect.y, rect.height, coarse.down, coarse.y, hc)
    top, bottom = int(yi[0]), int(yi[-1]) + 4
    out = np.empty((c, rect.height, rect.width), np.float32)
    rows = np.empty((bottom - top, rect.width), np.float32)
    for k in range(c):
        enlarge_across(coarse.planes[k, top:bottom], rows, xi, xw, bottom - top, wc, rect.width)
        enlarge_down(rows, out[k], yi - top, yw, rect.width, rect.height)
    return out


@functools.lru_cache(maxsize=256)
def spline(start: int, count: int, step: float, origin: float, size: int) -> tuple[NDArray[np.int64], Planes]:
    """First coarse pixel and four weights of a cubic B-spline for ``count`` present pixels from ``start`` on."""
    at = (start + np.arange(count) + 0.5) * step - 0.5 - origin
    low = np.floor(at)
    t = at - low
    weights = np.stack([(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3]) / 6
    first = low.astype(np.int64) - 1
    if first.min() < 0 or first.max() + 3 >= size:
        raise ValueError(tr("the coarse picture does not reach around the region"))
    return first, np.ascontiguousarray(weights, np.float32)


@kernel("f4* src, f4* out, i8* xi, f4* xw, i8 h, i8 wc, i8 w")
def enlarge_across(src, out, xi, xw, h, wc, w):
    for y in range(h):
        at = y * wc
        for x in range(w):
            k = at + xi[x]
            out[y * w + x] = (
                xw[x] * src[k] + xw[w + x] * src[k + 1] + xw[w + w + x] * src[k + 2] + xw[3 * w + x] * src[k + 3]
            )


@kernel("f4* src, f4* out, i8* yi, f4* yw, i8 w, i8 h")
def enlarge_down(src, out, yi, yw, w, h):
    for y in range(h):
        at = yi[y] * w
        a, b, c, e = yw[y], yw[h + y], yw[h + h + y], yw[3 * h + y]
        for x in range(w):
            out[y * w + x] = a * src[at + x] + b * src[at + w + x] + c * src[at + w + w + x] + e * src[at + 3 * w + x]


def looked_up(planes: Planes, where: Affine, width: int, height: int) -> Planes:
    """Planes looked up between their pixels, straight from one to the next: ``where`` maps a pixel to theirs."""
    out = np.empty((len(planes), height, width), np.float32)
    h, w = planes.shape[1:]
    across, down = (where.a, where.b, where.c), (where.d, where.e, where.f)
    for k, plane in enumerate(planes):
        look_up(np.ascontiguousarray(plane, f), out[k], w, h, width, height, *across, *down)
    return out


# Places are reckoned in double: a library's rounding to a 1/32 of a pixel made a tile differ from the whole.


@kernel("f4* src, f4* out, i8 sw, i8 sh, i8 w, i8 h, f8 a, f8 b, f8 c, f8 p, f8 q, f8 r")
def look_up(src, out, sw, sh, w, h, a, b, c, p, q, r):
    for y in range(h):
        for x in range(w):
            sx = min(max(a * d(x) + b * d(y) + c, d(0)), d(sw - 1))
            sy = min(max(p * d(x) + q * d(y) + r, d(0)), d(sh - 1))
            x0, y0 = int(sx), int(sy)
            x1, y1 = min(x0 + 1, sw - 1), min(y0 + 1, sh - 1)
            tx, ty = f(sx - d(x0)), f(sy - d(y0))
            top = src[y0 * sw + x0] + tx * (src[y0 * sw + x1] - src[y0 * sw + x0])
            low = src[y1 * sw + x0] + tx * (src[y1 * sw + x1] - src[y1 * sw + x0])
            out[y * w + x] = top + ty * (low - top)


def guided(gray: Planes, sigma: float, softness: float) -> Planes:
    """The guided filter's two coefficients ``(2, h, w)`` (gain, offset) for a gray plane ``(1, h, w)``.

    The base of a tone v is gain·v + offset; edges whose contrast is well above ``softness`` (encoded, 0…1) stay in it.
    The result is smaller by twice the `reach` of ``sigma`` on every side.
    """
    return guided_by(np.concatenate([gray, gray * gray]), sigma, softness)


def guided_by(moments: Planes, sigma: float, softness: float) -> Planes:
    """The same for a gray plane and its square ``(2, h, w)``, which may have been reduced: so nothing of the contrast
    within a coarse pixel is lost."""
    moments = gaussian(moments, sigma)
    mean = moments[:1]
    spread = np.maximum(moments[1:] - mean * mean, 0)
    gain = spread / (spread + f(softness * softness))
    return gaussian(np.concatenate([gain, mean * (1 - gain)]), sigma)


def reduced(planes: Planes, by: int) -> Planes:
    """Planes at a whole part of their size, by areas; what is left over at the right and below is cut off."""
    if by == 1:
        return planes
    h, w = planes.shape[1] // by, planes.shape[2] // by
    return resized(np.ascontiguousarray(planes[:, : h * by, : w * by]), w, h)


def resized(planes: Planes, width: int, height: int) -> Planes:
    """Planes at another size, by areas."""
    out = np.empty((len(planes), height, width), np.float32)
    for plane, to in zip(planes, out, strict=True):
        cv2.resize(plane, (width, height), dst=to, interpolation=cv2.INTER_AREA)
    return out


def grain_of(plane: NDArray[np.float32] | NDArray[np.uint8]) -> float:
    """The standard deviation of a plane's grain, in its own numbers (Immerkær, CVIU 64, 1996)."""
    kernel_ = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    return float(np.abs(cv2.filter2D(plane, cv2.CV_32F, kernel_)).mean()) * math.sqrt(math.pi / 2) / 6


def steered(plane: NDArray[np.float32], guide: NDArray[np.float32], radius: int, even: float) -> NDArray[np.float32]:
    """A plane ``(h, w)`` smoothed, but for where a guide ``(h, w)`` turns: the guided filter (He, Sun and Tang 2010).

    ``radius`` in pixels; ``even``: a square of the guide's unit below which it hardly varies.
    """

    def mean(values: NDArray[np.float32]) -> NDArray[np.float32]:
        side = (2 * radius + 1,) * 2
        return np.asarray(cv2.blur(values, side, borderType=cv2.BORDER_REPLICATE), np.float32)

    middle, level = mean(guide), mean(plane)
    varies = mean(guide * guide) - middle * middle + np.float32(even)
    gain = ((mean(plane * guide) - level * middle) / varies).astype(np.float32)
    return np.asarray(mean(gain) * guide + mean(level - gain * middle), np.float32)
