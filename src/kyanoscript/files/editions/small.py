"""A photograph shrunk to what is looked at when it is small: hundreds of them can be read one after another.

It passes for the photograph itself, of all its pixels: passes whose measures are of paper or of the photograph look as
they do on the whole print, seen small.
"""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.develop import CameraSource, Develop, developed
from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.picture.read import reduced
from kyanoscript.core.picture.source import ArraySource
from kyanoscript.files.photos.photo import open_photo

_PIXELS = 1_000_000  # of the copy, at least: it is never coarser than what passes measure by
_READ = 4_000_000  # values that are read in one go


class Shrunk:
    """A source of which only a copy is there, so many times smaller each way. Finer than that it is coarse."""

    def __init__(self, source: Source, times: int) -> None:
        self.width, self.height, self.channels = source.width, source.height, source.channels
        self.space = source.space
        self.times = times
        width, height = max(1, self.width // times), max(1, self.height // times)
        whole = source.window(Rect(0, 0, 1, 1)).dtype.kind == "f"
        out = np.empty((height, width, self.channels), np.float32 if whole else np.uint16)
        rows = max(1, _READ // (width * self.channels))
        for y in range(0, height, rows):
            part = Rect(0, y, width, min(rows, height - y))
            made = reduced(source, part, 0.0, 0.0, self.width, self.height, float(times), float(times))
            lies = np.moveaxis(made, 0, 2)
            out[y : y + part.height] = lies if whole else np.rint(np.clip(lies, 0, 1) * np.float32(65535))
        self.copy = ArraySource(out, self.space)

    def copy_for(self, times: float) -> tuple[Source, int] | None:
        """The copy, for all that is no finer than it."""
        return (self.copy, self.times) if times >= self.times else None

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """The part ``rect`` of the whole photograph: pixels of the copy, each as often as it stands for."""
        rows = np.minimum(np.arange(rect.y, rect.bottom) // self.times, self.copy.height - 1)
        columns = np.minimum(np.arange(rect.x, rect.right) // self.times, self.copy.width - 1)
        return np.ascontiguousarray(self.copy.pixels[rows[:, None], columns])


def shrunk(path: Path, develop: Develop) -> Source:
    """A photograph to be looked at small; of a raw, as it is developed. Raises FileError."""
    source = open_photo(path, hold=False, half=True).source
    if isinstance(source, CameraSource):
        source = developed(source, develop)
    times = math.floor(math.sqrt(source.width * source.height / _PIXELS))
    return Shrunk(source, times) if times >= 2 else source
