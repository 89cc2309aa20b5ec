"""Pictures as read: the photograph's pixels in their own type, handed out as float planes of any region and scale.

The source stays 8-bit, 16-bit or float as it was read; float planes exist only for the region asked for. Prints that
are looked at or written smaller are reduced by Lanczos of three lobes (Duchon, J. Appl. Meteorology 18, 1979) in linear
light. What passes measure by, and look at far around, is averaged by areas in light (a box filter with exact partial
pixels), as it always was: it leaves values within those that there are. Both are as bright as the whole; of a pattern
too fine for the print, 0.45 cycles a pixel from 900 to 600 pixels, areas leave 36 % as a false coarser one, Lanczos
4 %; of 0.75 cycles a pixel of a print of a sixth areas leave 31 %, Lanczos 1 %.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import enum
import functools
import math

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of, light_of
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import Planes, Source

f = np.float32
d = np.float64


class Reading(enum.Enum):
    """How a photograph is reduced."""

    MEASURED = "by areas"
    SEEN = "by Lanczos, from a smaller copy where there is one"
    WRITTEN = "by Lanczos, from the photograph itself"


def read(source: Source, rect: Rect, scale: float, crop: Rect | None = None, how: Reading = Reading.MEASURED) -> Planes:
    """A region of the picture, or of a part of it, at a scale, as planes ``(channels, h, w)``, encoded 0…1.

    Parameters
    ----------
    rect : region in pixels of the part at that scale, within it.
    scale : above 0 up to 1.
    crop : the part, in pixels of the source; None for the whole.
    how : it is reduced, where it is.
    """
    crop = crop or Rect(0, 0, source.width, source.height)
    out = np.empty((source.channels, rect.height, rect.width), np.float32)
    width, height = max(1, round(crop.width * scale)), max(1, round(crop.height * scale))
    if (width, height) == (crop.width, crop.height):
        part = source.window(Rect(crop.x + rect.x, crop.y + rect.y, rect.width, rect.height))
        kind = part.dtype.str[1:]
        step = 1.0 if kind == "f4" else 1.0 / (255 if kind == "u1" else 65535)
        _SPLIT[kind](part, out, source.channels, rect.width * rect.height, step)
        return out
    across, down = crop.width / width, crop.height / height
    ox, oy, far_x, far_y = float(crop.x), float(crop.y), crop.right, crop.bottom
    copy = getattr(source, "copy_for", None)
    smaller: tuple[Source, int] | None = None
    if copy is not None and how != Reading.WRITTEN:
        smaller = copy(min(across, down))
    if smaller is not None:
        source, times = smaller
        ox, oy, across, down = ox / times, oy / times, across / times, down / times
        far_x, far_y = -(-far_x // times), -(-far_y // times)
    if how != Reading.MEASURED:
        return reduced(source, rect, ox, oy, far_x, far_y, across, down)
    left, right = int(ox + rect.x * across), min(far_x, int(ox + rect.right * across) + 1)
    line = np.empty((right - left) * source.channels, np.float32)
    band = max(1, int(min(_BAND, _BAND_VALUES / line.size) / down))
    for y in range(0, rect.height, band):
        count = min(band, rect.height - y)
        top = int(oy + (rect.y + y) * down)
        bottom = min(far_y, int(oy + (rect.y + y + count) * down) + 1)
        part = source.window(Rect(left, top, right - left, bottom - top))
        kind = part.dtype.str[1:]
        _SHRINK[kind](
            part, light_table(kind), line, out,
            left, top, right - left, source.channels,
            ox + rect.x * across, oy + (rect.y + y) * down, far_x, far_y,
            rect.width, count, y * rect.width, rect.width * rect.height, across, down,
        )  # fmt: skip
    return out


def reduced(
    source: Source, rect: Rect, ox: float, oy: float, right: int, bottom: int, across: float, down: float
) -> Planes:
    """A region of pixels that are ``across`` and ``down`` times as large as the source's, the first of them at ``ox``,
    ``oy``: by Lanczos. What lies before there, or at or beyond ``right`` and ``bottom``, does not count."""
    first, weights = _lobes(ox + rect.x * across, rect.width, across, int(ox), right)
    top, heights = _lobes(oy + rect.y * down, rect.height, down, int(oy), bottom)
    taps, high = weights.shape[1], heights.shape[1]
    left = int(first[0])
    channels, wide = source.channels, int(first[-1]) + taps - left
    out = np.empty((channels, rect.height, rect.width), np.float32)
    line, ring = np.empty(channels * wide, np.float32), np.empty((high, channels * wide), np.float32)
    band = max(1, int(_BAND_VALUES / (wide * channels) / down))
    for y in range(0, rect.height, band):
        count = min(band, rect.height - y)
        begins = top[y : y + count]
        part = source.window(Rect(left, int(begins[0]), wide, int(begins[-1]) + high - int(begins[0])))
        kind = part.dtype.str[1:]
        most = _NO_END if kind == "f4" else 1.0  # floats may reach beyond black and white
        _FINELY[kind](
            part, light_table(kind), ring, line, out, begins - begins[0], heights[y : y + count], first - left, weights,
            high, taps, channels, wide, count, rect.width, y * rect.width, rect.width * rect.height, most,
        )  # fmt: skip
    return out


def _lobes(at: float, count: int, step: float, low: int, high: int) -> tuple[NDArray[np.int64], NDArray[np.float32]]:
    """For pixels ``step`` times as large as the source's, from ``at`` on: the first pixel of the source that each
    takes, and the weights of that and those after it, ``(count, taps)``.

    What lies outside ``low`` … ``high`` has no weight; the rest sums to 1.
    """
    middle = at + (np.arange(count) + 0.5) * step - 0.5
    taps = min(2 * math.ceil(3 * step) + 1, high - low)
    begins = np.clip(np.floor(middle).astype(np.int64) - math.ceil(3 * step) + 1, low, high - taps)
    x = (begins[:, None] + np.arange(taps) - middle[:, None]) / step
    weights = np.where(np.abs(x) < 3, np.sinc(x) * np.sinc(x / 3), 0)
    weights /= weights.sum(1, keepdims=True)
    return begins, np.ascontiguousarray(weights, np.float32)


@helper
def light_by(v, table):
    """Light of a stored integer."""
    return table[v]


@helper
def light_as(v, table):
    """Light of a float; it may lie outside 0…1."""
    return light_of(v)


def finely_with(lit):
    def finely(
        rows, table, ring, line, out, tops, heights, firsts, weights, high, taps, ch, sw, h, w, start, plane, most
    ):
        """Each output row from ``high`` rows of the source, brought to light once and kept in a ring; then each pixel
        from ``taps`` of it. ``tops`` and ``firsts``: where they begin; they never go back."""
        length = ch * sw
        known = np.int64(0)
        for y in range(h):
            for sy in range(max(known, tops[y]), tops[y] + high):
                at = (sy % high) * length
                for c in range(ch):
                    for x in range(sw):
                        ring[at + c * sw + x] = lit(rows[(sy * sw + x) * ch + c], table)
            known = tops[y] + high
            for j in range(length):
                line[j] = f(0.0)
            for t in range(high):
                at, weight = ((tops[y] + t) % high) * length, heights[y * high + t]
                for j in range(length):
                    line[j] += weight * ring[at + j]
            for c in range(ch):
                for x in range(w):
                    at = c * sw + firsts[x]
                    total = f(0.0)
                    for t in range(taps):
                        total += weights[x * taps + t] * line[at + t]
                    out[c * plane + start + y * w + x] = encoded_of(min(max(total, f(1.0) - most), most))

    return finely


_NO_END = 1e9
# Source rows, and values, looked at in one go while reducing, so that little of a large photograph is held at once
_BAND, _BAND_VALUES = 512, 3_000_000


@functools.cache
def light_table(kind: str) -> NDArray[np.float32]:
    size = 256 if kind == "u1" else 65536
    return colour.to_light(np.linspace(0, 1, size)).astype(np.float32)


def split(part, out, channels, n, step):
    if channels == 3:  # together, in vectors
        for k in range(n):
            out[k] = f(part[3 * k]) * step
            out[n + k] = f(part[3 * k + 1]) * step
            out[n + n + k] = f(part[3 * k + 2]) * step
        return
    for c in range(channels):
        for k in range(n):
            out[c * n + k] = f(part[k * channels + c]) * step


def shrink_with(lit):
    def shrink(rows, table, line, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down):
        """Area average in light of each output pixel's rectangle of the source.

        ``rows`` is a window of the source, ``sw`` pixels wide from ``left`` and ``top``; the first output pixel begins
        at ``ox``, ``oy``; nothing at or beyond ``right`` and ``bottom`` counts.
        """
        length = sw * ch
        for y in range(h):
            ya = oy + d(y) * down
            yb = min(ya + down, d(bottom))
            y_from, y_to = np.int64(ya), min(np.int64(np.ceil(yb - 1e-7)), bottom)
            for j in range(length):
                line[j] = f(0.0)
            for sy in range(y_from, y_to):
                part = f(min(yb, d(sy + 1)) - max(ya, d(sy)))
                at = (sy - top) * length
                for j in range(length):
                    line[j] += part * lit(rows[at + j], table)
            for x in range(w):
                xa = ox + d(x) * across
                xb = min(xa + across, d(right))
                x_from, x_to = np.int64(xa), min(np.int64(np.ceil(xb - 1e-7)), right)
                first = f(min(xb, d(x_from + 1)) - xa)
                last = f(xb - d(x_to - 1))
                area = f((xb - xa) * (yb - ya))
                for c in range(ch):
                    at = (x_from - left) * ch + c
                    total = first * line[at]
                    for k in range(1, x_to - x_from - 1):
                        total += line[at + k * ch]
                    if x_to - x_from > 1:
                        total += last * line[at + (x_to - x_from - 1) * ch]
                    out[c * plane + start + y * w + x] = total / area
        for c in range(ch):
            for k in range(h * w):
                out[c * plane + start + k] = encoded_of(out[c * plane + start + k])

    return shrink


_KINDS = ("u1", "u2", "f4")  # what a source may hand out
_SPLIT = {kind: kernel(f"{kind}* part, f4* out, i8 channels, i8 n, f4 step", f"split_{kind}")(split) for kind in _KINDS}
LIT = {"u1": light_by, "u2": light_by, "f4": light_as}
_FINELY = {
    kind: kernel(
        f"{kind}* rows, f4* table, f4* ring, f4* line, f4* out, i8* tops, f4* heights, i8* firsts, f4* weights, "
        "i8 high, i8 taps, i8 ch, i8 sw, i8 h, i8 w, i8 start, i8 plane, f4 most",
        f"finely_{kind}",
    )(finely_with(LIT[kind]))
    for kind in _KINDS
}
_SHRINK = {
    kind: kernel(
        f"{kind}* rows, f4* table, f4* line, f4* out, i8 left, i8 top, i8 sw, i8 ch, f8 ox, f8 oy, "
        "i8 right, i8 bottom, i8 w, i8 h, i8 start, i8 plane, f8 across, f8 down",
        f"shrink_{kind}",
    )(shrink_with(LIT[kind]))
    for kind in _KINDS
}
