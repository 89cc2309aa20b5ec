"""Planes made into whole numbers: of a file, of the screen."""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.noise import scrambled
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import Planes

f = np.float32
i = np.int32


def to_integers(planes: Planes, dtype: type[np.uint8] | type[np.uint16], out: NDArray[np.generic], row: int) -> None:
    """Write planes ``(1 or 3, h, w)`` 0…1, rounded to whole steps, into ``out`` ``(rows, w, channels)``."""
    top = 255.0 if dtype is np.uint8 else 65535.0
    channels, height, width = planes.shape
    if out.shape[1:] != (width, channels):
        raise ValueError(f"rows of {out.shape[1:]} cannot take planes of {(width, channels)}")
    _JOIN["u1" if dtype is np.uint8 else "u2"](planes, out, row * width * channels, width * height, channels, top)


def join(planes, out, start, n, channels, top):
    if channels == 3:  # together, in vectors
        for k in range(n):
            r = min(max(planes[k], f(0.0)), f(1.0))
            g = min(max(planes[n + k], f(0.0)), f(1.0))
            b = min(max(planes[n + n + k], f(0.0)), f(1.0))
            out[start + 3 * k] = np.int32(r * top + f(0.5))
            out[start + 3 * k + 1] = np.int32(g * top + f(0.5))
            out[start + 3 * k + 2] = np.int32(b * top + f(0.5))
        return
    for c in range(channels):
        for k in range(n):
            v = min(max(planes[c * n + k], f(0.0)), f(1.0))
            out[start + k * channels + c] = np.int32(v * top + f(0.5))


_JOIN = {
    kind: kernel(f"f4* planes, {kind}* out, i8 start, i8 n, i8 channels, f4 top", f"join_{kind}")(join)
    for kind in ("u1", "u2")
}


def dithered(planes: Planes, place: Rect, out: NDArray[np.uint8]) -> None:
    """Planes ``(1 or 3, h, w)`` 0…1 as 8 bits ``(h, w, channels)``, their rounding spread by triangular noise.

    The noise is one step either way (R. A. Wannamaker, S. P. Lipshitz, J. Vanderkooy, "A theory of nonsubtractive
    dither", IEEE Trans. Signal Processing 48, 2000): the mean of an even tone is the tone itself. It belongs to places,
    ``place`` in pixels of the print, so that the same print is the same file however it is divided. Black, white and
    tones that lie on a step stay as they are.
    """
    channels, height, width = planes.shape
    if out.shape != (height, width, channels) or (place.width, place.height) != (width, height):
        raise ValueError(f"{out.shape} cannot take planes of {planes.shape} at {place}")
    dither(np.ascontiguousarray(planes, np.float32), out, channels, width, height, place.x, place.y)


@kernel("f4* planes, u1* out, i8 channels, i8 w, i8 h, i8 x0, i8 y0")
def dither(planes, out, channels, w, h, x0, y0):
    for c in range(channels):
        for y in range(h):
            for x in range(w):
                v = min(max(planes[(c * h + y) * w + x], f(0.0)), f(1.0)) * f(255.0)
                near = np.floor(v + f(0.5))
                bits = scrambled(x0 + x, y0 + y, 31 + c)
                noise = f((bits & 0xFFFF) + (bits >> 16)) * f(1.0 / 65536.0) - f(1.0)
                spread = np.floor(v + noise + f(0.5))
                level = near if abs(v - near) < f(1e-3) else min(max(spread, f(0.0)), f(255.0))
                out[(y * w + x) * channels + c] = np.int32(level)


@helper
def threshold(x, y):
    """From which part of a step on the next one is shown, 0…255 of 256: spread evenly over neighbouring places.

    The lattice of the plastic number: M. Roberts, "The unreasonable effectiveness of quasirandom sequences" (2018).
    """
    bits = i(i(i(x) * i(-1052792407)) + i(i(y) * i(-1847521882)))  # its numbers, of 2³², as signed
    return i(i(bits >> i(24)) & i(255))


@kernel("f4* planes, u1* out, i8 start, i8 channels, i8 w, i8 h, i8 row")
def to_screen(planes, out, start, channels, w, h, row):
    """Planes into a screen picture (blue, green, red, 255) whose rows are ``row`` pixels long, from pixel ``start``.

    What lies between two steps is now the one and now the other, by its place on the screen, so that slow ramps have no
    bands: still, and alike in all channels, so that gray stays gray. What lies on a step stays as it is.
    """
    n = w * h
    green = n if channels == 3 else np.int64(0)
    left, top = start % row, start // row
    for y in range(h):
        for x in range(w):
            k = y * w + x
            at = (start + y * row + x) * 4
            more = (f(threshold(left + x, top + y)) + f(0.5)) * f(1 / 256)
            out[at + 2] = np.int32(min(max(planes[k], f(0.0)), f(1.0)) * f(255.0) + more)
            out[at + 1] = np.int32(min(max(planes[k + green], f(0.0)), f(1.0)) * f(255.0) + more)
            out[at] = np.int32(min(max(planes[k + green + green], f(0.0)), f(1.0)) * f(255.0) + more)
            out[at + 3] = 255
