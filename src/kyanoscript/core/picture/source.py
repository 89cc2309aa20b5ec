"""Where pixels come from: a photograph in its own type, handed out part by part."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from numpy.typing import NDArray

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
