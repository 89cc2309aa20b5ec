"""Pictures as read: the photograph's pixels in their own type, handed out as float planes of any region and scale.

The source stays 8-bit, 16-bit or float as it was read; float planes exist only for the region asked for. Reductions
average areas in linear light (a box filter with exact partial pixels), so a reduced picture is as bright as the whole.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import Planes, Source

f = np.float32
d = np.float64


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
        table = _light_table(kind)
        _SHRINK[kind](
            part, table, len(table) - 1, line, 65535 if kind == "f4" else 1, out,
            left, top, right - left, source.channels,
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


def split(part, out, channels, n, step):
    for c in range(channels):
        for k in range(n):
            out[c * n + k] = f(part[k * channels + c]) * step


def shrink(
    rows, table, most, line, factor, out, left, top, sw, ch, ox, oy, right, bottom, w, h, start, plane, across, down
):
    """Area average in light of each output pixel's rectangle of the source; ``table`` ends with entry ``most``.

    ``rows`` is a window of the source, ``sw`` pixels wide from ``left`` and ``top``; the first output pixel begins at
    ``ox``, ``oy``; nothing at or beyond ``right`` and ``bottom`` counts.
    """
    length = sw * ch
    last_entry = np.int32(most)
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
                line[j] += part * table[min(max(np.int32(f(rows[at + j]) * factor + f(0.5)), np.int32(0)), last_entry)]
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


_KINDS = ("u1", "u2", "f4")  # what a source may hand out
_SPLIT = {kind: kernel(f"{kind}* part, f4* out, i8 channels, i8 n, f4 step", f"split_{kind}")(split) for kind in _KINDS}
_SHRINK = {
    kind: kernel(
        f"{kind}* rows, f4* table, i8 most, f4* line, f4 factor, f4* out, i8 left, i8 top, i8 sw, i8 ch, f8 ox, f8 oy, "
        "i8 right, i8 bottom, i8 w, i8 h, i8 start, i8 plane, f8 across, f8 down",
        f"shrink_{kind}",
    )(shrink)
    for kind in _KINDS
}
