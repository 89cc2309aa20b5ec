"""Pictures as read: the photograph's pixels in their own type, handed out as float planes of any region and scale.

The source stays 8-bit, 16-bit or float as it was read; float planes exist only for the region asked for. Reductions
average areas in linear light (a box filter with exact partial pixels), so a reduced picture is as bright as the whole.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of
from kyanoscript.core.kernel import helper, kernel

Planes = NDArray[np.float32]
f = np.float32
d = np.float64


@dataclass(frozen=True)
class Rect:
    """A region in whole pixels at some scale."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        return self.x + self.width

    @property
    def bottom(self) -> int:
        return self.y + self.height

    def grown(self, by: int) -> Rect:
        """The region with a margin on every side; it may reach outside the picture."""
        return Rect(self.x - by, self.y - by, self.width + 2 * by, self.height + 2 * by)

    def clipped(self, width: int, height: int) -> Rect:
        """The part within a picture of that size."""
        x, y = min(max(self.x, 0), width), min(max(self.y, 0), height)
        return Rect(x, y, max(0, min(self.right, width) - x), max(0, min(self.bottom, height) - y))


class Source(Protocol):
    """What the renderer needs of a photograph."""

    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def channels(self) -> int: ...

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """The part ``rect``, within the picture, as ``(h, w, channels)``, uint8, uint16 or float32, contiguous."""
        ...


class ArraySource:
    """A photograph held in memory: ``(h, w)`` or ``(h, w, 1 or 3)``, uint8, uint16 or float32 (encoded 0…1).

    Raises ValueError for other shapes or types.
    """

    def __init__(self, pixels: NDArray[np.generic]) -> None:
        pixels = pixels[..., None] if pixels.ndim == 2 else pixels
        if pixels.ndim != 3 or pixels.shape[2] not in (1, 3) or 0 in pixels.shape:
            raise ValueError(f"a picture needs (h, w, 1 or 3) values, not {pixels.shape}")
        if pixels.dtype not in (np.uint8, np.uint16, np.float32):
            raise ValueError(f"a picture needs uint8, uint16 or float32 values, not {pixels.dtype}")
        self.pixels = np.ascontiguousarray(pixels)
        self.height, self.width, self.channels = pixels.shape

    def window(self, rect: Rect) -> NDArray[np.generic]:
        return np.ascontiguousarray(self.pixels[rect.y : rect.bottom, rect.x : rect.right])


def size_at(source: Source, scale: float) -> tuple[int, int]:
    """Width and height of the whole picture at a scale of 0…1; never less than one pixel."""
    return max(1, round(source.width * scale)), max(1, round(source.height * scale))


def read(source: Source, rect: Rect, scale: float, crop: Rect | None = None) -> Planes:
    """A region of the picture, or of a part of it, at a scale, as planes ``(channels, h, w)``, encoded 0…1.

    Parameters
    ----------
    rect : region in pixels of the part at that scale, within it.
    scale : above 0 up to 1.
    crop : the part, in pixels of the source; None for the whole.
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
    left, right = int(crop.x + rect.x * across), min(crop.right, int(crop.x + rect.right * across) + 1)
    line = np.empty((right - left) * source.channels, np.float32)
    band = max(1, int(min(_BAND, _BAND_VALUES / line.size) / down))
    for y in range(0, rect.height, band):
        count = min(band, rect.height - y)
        top = int(crop.y + (rect.y + y) * down)
        bottom = min(crop.bottom, int(crop.y + (rect.y + y + count) * down) + 1)
        part = source.window(Rect(left, top, right - left, bottom - top))
        kind = part.dtype.str[1:]
        _SHRINK[kind](
            part, _light_table(kind), line, out, left, top, right - left, source.channels,
            crop.x + rect.x * across, crop.y + (rect.y + y) * down, crop.right, crop.bottom,
            rect.width, count, y * rect.width, rect.width * rect.height, across, down,
        )  # fmt: skip
    return out


# Source rows, and values, looked at in one go while reducing, so that little of a large photograph is held at once
_BAND, _BAND_VALUES = 512, 3_000_000


@functools.cache
def _light_table(kind: str) -> NDArray[np.float32]:
    size = 256 if kind == "u1" else 65536
    return colour.to_light(np.linspace(0, 1, size)).astype(np.float32)


@helper
def _split(part, out, channels, n, step):
    for c in range(channels):
        for k in range(n):
            out[c * n + k] = f(part[k * channels + c]) * step


@kernel("u1* part, f4* out, i8 channels, i8 n, f4 step")
def split_u1(part, out, channels, n, step):
    _split(part, out, channels, n, step)


@kernel("u2* part, f4* out, i8 channels, i8 n, f4 step")
def split_u2(part, out, channels, n, step):
    _split(part, out, channels, n, step)


@kernel("f4* part, f4* out, i8 channels, i8 n, f4 step")
def split_f4(part, out, channels, n, step):
    _split(part, out, channels, n, step)


@helper
def _shrink(
    rows, table, most, line, factor, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down
):
    """Area average in light of each output pixel's rectangle of the source; ``table`` ends with entry ``most``.

    ``rows`` is a window of the source, ``sw`` pixels wide from ``left`` and ``top``; the first output pixel begins at
    ``ox``, ``oy``; nothing at or beyond ``right`` and ``bottom`` counts.
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
                # Held within the table whatever a file may hold: a float need not lie within 0…1, nor be a number.
                line[j] += part * table[min(max(np.int32(f(rows[at + j]) * factor + f(0.5)), np.int32(0)), most)]
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


_SHRINK_SIGNATURE = (
    "{}* rows, f4* table, f4* line, f4* out, i8 left, i8 top, i8 sw, i8 ch, f8 ox, f8 oy, i8 right, i8 bottom, "
    "i8 w, i8 h, i8 start, i8 plane, f8 across, f8 down"
)


@kernel(_SHRINK_SIGNATURE.format("u1"))
def shrink_u1(rows, table, line, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down):
    _shrink(
        rows, table, np.int32(255), line, f(1.0), out, left, top, sw, ch, ox, oy, right, bottom, w, h,
        start, plane, across, down,
    )  # fmt: skip


@kernel(_SHRINK_SIGNATURE.format("u2"))
def shrink_u2(rows, table, line, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down):
    _shrink(
        rows, table, np.int32(65535), line, f(1.0), out, left, top, sw, ch, ox, oy, right, bottom, w, h,
        start, plane, across, down,
    )  # fmt: skip


@kernel(_SHRINK_SIGNATURE.format("f4"))
def shrink_f4(rows, table, line, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down):
    _shrink(
        rows, table, np.int32(65535), line, f(65535.0), out, left, top, sw, ch, ox, oy, right, bottom, w, h,
        start, plane, across, down,
    )  # fmt: skip


_SPLIT = {"u1": split_u1, "u2": split_u2, "f4": split_f4}
_SHRINK = {"u1": shrink_u1, "u2": shrink_u2, "f4": shrink_f4}


def to_integers(planes: Planes, dtype: type[np.uint8] | type[np.uint16], out: NDArray[np.generic], row: int) -> None:
    """Write planes ``(1 or 3, h, w)`` 0…1, rounded to whole steps, into ``out`` ``(rows, w, channels)``."""
    top = 255.0 if dtype is np.uint8 else 65535.0
    channels, height, width = planes.shape
    if out.shape[1:] != (width, channels):
        raise ValueError(f"rows of {out.shape[1:]} cannot take planes of {(width, channels)}")
    _JOIN["u1" if dtype is np.uint8 else "u2"](planes, out, row * width * channels, width * height, channels, top)


@helper
def _join(planes, out, start, n, channels, top):
    for c in range(channels):
        for k in range(n):
            v = min(max(planes[c * n + k], f(0.0)), f(1.0))
            out[start + k * channels + c] = np.int32(v * top + f(0.5))


@kernel("f4* planes, u1* out, i8 start, i8 n, i8 channels, f4 top")
def join_u1(planes, out, start, n, channels, top):
    _join(planes, out, start, n, channels, top)


@kernel("f4* planes, u2* out, i8 start, i8 n, i8 channels, f4 top")
def join_u2(planes, out, start, n, channels, top):
    _join(planes, out, start, n, channels, top)


_JOIN = {"u1": join_u1, "u2": join_u2}


@kernel("f4* planes, u1* out, i8 start, i8 channels, i8 w, i8 h, i8 row")
def to_screen(planes, out, start, channels, w, h, row):
    """Planes into a screen picture (blue, green, red, 255) whose rows are ``row`` pixels long, from pixel ``start``."""
    n = w * h
    green = n if channels == 3 else np.int64(0)
    for y in range(h):
        for x in range(w):
            k = y * w + x
            at = (start + y * row + x) * 4
            out[at + 2] = np.int32(min(max(planes[k], f(0.0)), f(1.0)) * f(255.0) + f(0.5))
            out[at + 1] = np.int32(min(max(planes[k + green], f(0.0)), f(1.0)) * f(255.0) + f(0.5))
            out[at] = np.int32(min(max(planes[k + green + green], f(0.0)), f(1.0)) * f(255.0) + f(0.5))
            out[at + 3] = 255
