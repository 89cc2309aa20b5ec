"""Where pixels come from: a photograph in its own type, handed out part by part."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture.rect import Rect

Planes = NDArray[np.float32]


class Source(Protocol):
    """What the renderer needs of a photograph."""

    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def channels(self) -> int: ...
    @property
    def space(self) -> Space:
        """Where its primaries lie; its curve is that of sRGB."""
        ...

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """The part ``rect``, within the picture, as ``(h, w, channels)``, uint8, uint16 or float32, contiguous."""
        ...


class ArraySource:
    """A photograph held in memory: ``(h, w)`` or ``(h, w, 1 or 3)``, uint8, uint16 or float32 (encoded 0…1).

    ``levels`` ``(channels, 256 or 65536)`` tells what each stored integer is, encoded, where that is not even steps
    from 0 to 1; windows are float32 then. Raises ValueError for other shapes or types.
    """

    def __init__(
        self,
        pixels: NDArray[np.generic],
        space: Space = SRGB,
        levels: Planes | None = None,
        infrared: Source | None = None,
    ) -> None:
        pixels = pixels[..., None] if pixels.ndim == 2 else pixels
        if pixels.ndim != 3 or pixels.shape[2] not in (1, 3) or 0 in pixels.shape:
            raise ValueError(f"a picture needs (h, w, 1 or 3) values, not {pixels.shape}")
        if pixels.dtype not in (np.uint8, np.uint16, np.float32):
            raise ValueError(f"a picture needs uint8, uint16 or float32 values, not {pixels.dtype}")
        self.pixels = np.ascontiguousarray(pixels)
        self.height, self.width, self.channels = pixels.shape
        self.space = space
        self.levels = levels
        self.infrared = infrared  # what a scanner saw so, of the same size: dust stands out in it

    def window(self, rect: Rect) -> NDArray[np.generic]:
        part = np.ascontiguousarray(self.pixels[rect.y : rect.bottom, rect.x : rect.right])
        return part if self.levels is None else leveled(part, self.levels)


def leveled(part: NDArray[np.generic], levels: Planes) -> NDArray[np.float32]:
    """Stored integers ``(h, w, channels)`` as the encoded values that a table ``(channels, 256 or 65536)`` gives."""
    if part.dtype.itemsize * 8 != levels.shape[1].bit_length() - 1 or part.shape[2] != len(levels):
        raise ValueError(f"levels of {levels.shape} do not fit {part.dtype} pixels {part.shape}")
    out = np.empty(part.shape, np.float32)
    _LEVEL[part.dtype.str[1:]](part, levels, out, out.size // len(levels), len(levels), levels.shape[1])
    return out


def level(part, levels, out, n, channels, count):  # type: ignore[no-untyped-def]  # a kernel: marks tell the types
    for k in range(n):
        for c in range(channels):
            out[k * channels + c] = levels[c * count + part[k * channels + c]]


_LEVEL = {
    kind: kernel(f"{kind}* part, f4* levels, f4* out, i8 n, i8 channels, i8 count", f"level_{kind}")(level)
    for kind in ("u1", "u2")
}


def size_at(source: Source, scale: float) -> tuple[int, int]:
    """Width and height of the whole picture at a scale of 0…1; never less than one pixel."""
    return max(1, round(source.width * scale)), max(1, round(source.height * scale))
