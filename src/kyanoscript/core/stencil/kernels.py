"""Loops that fill a mask: one for each shape, one for a brush, one for growing."""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np

from kyanoscript.core.colour import hue_of
from kyanoscript.core.kernel import kernel

f = np.float32


@kernel("f4* cover, i8 w, i8 h, f4* dabs, i8 n, f4 radius, f4 inner, f4 flow")
def stamp(cover, w, h, dabs, n, radius, inner, flow):
    per = f(1.0) / (radius - inner)
    for k in range(n):
        ix, fx, iy, fy = dabs[k * 5], dabs[k * 5 + 1], dabs[k * 5 + 2], dabs[k * 5 + 3]
        p = dabs[k * 5 + 4] * flow
        y0, y1 = max(np.int64(iy - radius), 0), min(np.int64(iy + radius) + 3, h)
        x0, x1 = max(np.int64(ix - radius), 0), min(np.int64(ix + radius) + 3, w)
        for y in range(y0, y1):  # type: ignore[call-overload]  # numba's numbers
            dy = (f(y) - iy) - fy
            for x in range(x0, x1):  # type: ignore[call-overload]  # numba's numbers
                dx = (f(x) - ix) - fx
                t = (radius - np.sqrt(dx * dx + dy * dy)) * per
                t = min(max(t, f(0.0)), f(1.0))
                a = p * t * t * (f(3.0) - t - t)
                c = cover[y * w + x]
                cover[y * w + x] = c + a * (f(1.0) - c)


# Kernels of the shapes; ``x0``, ``y0`` is the region's corner, six numbers map its pixels to the shape's own measure


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c, f8 p, f8 q, f8 r, f4 soft, f4 half")
def oval(out, w, h, x0, y0, a, b, c, p, q, r, soft, half):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            ex = f(a * u + b * v + c)
            ey = f(p * u + q * v + r)
            t = (f(1.0) + half - np.sqrt(ex * ex + ey * ey)) / soft  # a hard rim is halved at the rim
            t = min(max(t, f(0.0)), f(1.0))
            out[y * w + x] = t * t * (f(3.0) - t - t)


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c")
def ramp(out, w, h, x0, y0, a, b, c):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            t = f(a * (np.float64(x0 + x) + 0.5) + b * v + c)
            t = min(max(t, f(0.0)), f(1.0))
            out[y * w + x] = t * t * (f(3.0) - t - t)


@kernel("f4* out, i8 w, i8 h, f8* corners, i8 n, f8* crossings")
def outline(out, w, h, corners, n, crossings):
    # Four lines a pixel down, exact shares of a pixel across; the winding number tells in from out.
    for k in range(w * h):
        out[k] = f(0.0)
    for y in range(h):
        for part in range(4):
            line = np.float64(y) + (np.float64(part) + 0.5) * 0.25
            found = 0
            for k in range(n):
                j = k + 1 if k + 1 < n else 0
                ya, yb = corners[k * 2 + 1], corners[j * 2 + 1]
                if (ya <= line) != (yb <= line):
                    xa, xb = corners[k * 2], corners[j * 2]
                    x = xa + (line - ya) / (yb - ya) * (xb - xa)
                    way = 1.0 if yb > ya else -1.0
                    at = found
                    while at > 0 and crossings[(at - 1) * 2] > x:
                        crossings[at * 2] = crossings[(at - 1) * 2]
                        crossings[at * 2 + 1] = crossings[(at - 1) * 2 + 1]
                        at -= 1
                    crossings[at * 2] = x
                    crossings[at * 2 + 1] = way
                    found += 1
            winding = 0.0
            for k in range(found - 1):
                winding += crossings[k * 2 + 1]
                if winding != 0.0:
                    left, right = max(crossings[k * 2], 0.0), min(crossings[k * 2 + 2], np.float64(w))
                    if right > left:
                        first, last = np.int64(left), min(np.int64(right), w - 1)
                        for x in range(first, last + 1):
                            share = min(right, np.float64(x + 1)) - max(left, np.float64(x))
                            if share > 0.0:
                                out[y * w + x] += f(share * 0.25)
    for k in range(w * h):
        out[k] = min(out[k], f(1.0))


@kernel("f4* gray, f4* out, i8 n, f4 low, f4 high, f4 soft")
def tones(gray, out, n, low, high, soft):
    for k in range(n):
        v = gray[k]
        t = f(1.0) - max(low - v, v - high) / soft
        t = min(max(t, f(0.0)), f(1.0))
        out[k] = t * t * (f(3.0) - t - t)


@kernel("f4* rgb, f4* out, i8 n, f4 hue, f4 half, f4 soft, f4* m")
def hues(rgb, out, n, hue, half, soft, m):
    for k in range(n):
        r, g, b = rgb[k], rgb[n + k], rgb[n + n + k]
        away = abs(hue_of(r, g, b, m) - hue)
        away = min(away, f(1.0) - away)
        t = f(1.0) - (away - half) / soft
        t = min(max(t, f(0.0)), f(1.0))
        # Near-grays have no hue worth the name: they come in slowly.
        strong = min(max((max(r, max(g, b)) - min(r, min(g, b)) - f(0.03)) * f(12.0), f(0.0)), f(1.0))
        out[k] = t * t * (f(3.0) - t - t) * strong


@kernel("f4* src, f4* out, i8 w, i8 h, i8 radius, f4 square")
def widen(src, out, w, h, radius, square):
    wide = w + 2 * radius
    for y in range(h):
        for x in range(w):
            out[y * w + x] = f(0.0)
        for dy in range(-radius, radius + 1):
            for dx in range(-radius, radius + 1):
                if f(dx * dx + dy * dy) <= square:
                    at = (y + radius + dy) * wide + radius + dx
                    for x in range(w):
                        out[y * w + x] = max(out[y * w + x], src[at + x])
