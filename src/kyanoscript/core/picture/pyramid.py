"""A large photograph with smaller copies of it, so that looking at all of it does not read all of it again.

Each copy is a quarter as wide and high as the one before, reduced by Lanczos in light as what is seen is; a reduction
is taken from the smallest copy that is at least twice as fine as what is wanted. What is written is never taken from a
copy.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import Space
from kyanoscript.core.picture.read import reduced
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import ArraySource, Source

QUARTER = 4  # times as many pixels each way as the next smaller copy
_FINER = 2.0  # pixels of a copy to one that is wanted, at least
_LEAST = 1_000_000  # pixels: a copy smaller than this needs no smaller one
_BAND = 12_000_000  # pixels read in one go

Share = Callable[[Iterable[Any], Callable[[Any], None]], bool]  # work on every part; whether all was done


class Pyramid:
    """A source, and smaller copies of it: the largest first."""

    def __init__(self, source: Source, copies: Sequence[NDArray[np.generic]]) -> None:
        self.source = source
        self.width, self.height, self.channels = source.width, source.height, source.channels
        self.space: Space = source.space
        self.infrared: Source | None = getattr(source, "infrared", None)
        self.copies = [ArraySource(pixels, source.space) for pixels in copies]

    def window(self, rect: Rect) -> NDArray[np.generic]:
        """As the source's."""
        return self.source.window(rect)

    def copy_for(self, times: float) -> tuple[Source, int] | None:
        """The copy to take where pixels are wanted so many times as large, and by how much it is smaller."""
        found = None
        for k, copy in enumerate(self.copies, 1):
            if times >= _FINER * QUARTER**k:
                found = (copy, QUARTER**k)
        return found


def copies(source: Source, share_out: Share) -> list[NDArray[np.generic]] | None:
    """Smaller copies of a source; None if ``share_out``, which works on bands with helpers, was stopped.

    Integers have 16 bits, even where the source has 8: an average lies between its steps.
    """
    made: list[NDArray[np.generic]] = []
    while source.width * source.height > _LEAST:
        smaller = _quarter(source, share_out)
        if smaller is None:
            return None
        made.append(smaller)
        source = ArraySource(smaller, source.space)
    return made


def _quarter(source: Source, share_out: Share) -> NDArray[np.generic] | None:
    width, height, channels = -(-source.width // QUARTER), -(-source.height // QUARTER), source.channels
    whole = source.window(Rect(0, 0, 1, 1)).dtype.kind == "f"
    out = np.empty((height, width, channels), np.float32 if whole else np.uint16)
    piece: int = getattr(source, "rows", QUARTER)  # a band that ends within a strip would have it decoded twice
    piece = math.lcm(piece, QUARTER)
    rows = max(1, _BAND // (source.width * piece)) * piece

    def work(y: int) -> None:
        at, high = y // QUARTER, -(-min(rows, source.height - y) // QUARTER)
        part = Rect(0, at, width, high)
        made = reduced(source, part, 0.0, 0.0, source.width, source.height, float(QUARTER), float(QUARTER))
        lies = np.moveaxis(made, 0, 2)
        out[at : at + high] = lies if whole else np.rint(np.clip(lies, 0, 1) * np.float32(65535))

    return out if share_out(range(0, source.height, rows), work) else None
