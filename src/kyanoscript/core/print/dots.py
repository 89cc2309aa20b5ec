"""Plates as dots at the device's resolution, in flat memory: strips of bits, 1 where ink lies.

The coverage comes from a plate rendered at a part of the device's resolution and is joined between its pixels; marks
are drawn at the device's own.
"""

from __future__ import annotations

import itertools
import threading
from collections import deque
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.colour import Space
from kyanoscript.core.late import cv2
from kyanoscript.core.paper.screens import Screen, Tile, covered, screened, tile_of
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.print.over import Printable
from kyanoscript.core.watching import Watch, unwatched

ROWS = 256  # of a strip
_PART = 1_000_000  # pixels that are rendered in one go
FINE = 400.0  # pixels per inch: finer a plate is not rendered, dots are coarser anyway

Bits = NDArray[np.uint8]  # (rows, bytes), the first pixel in the highest bit


def times_finer(ppi: float) -> int:
    """How many pixels of the device are one of the plate."""
    return max(1, -(-int(ppi) // int(FINE)))


class Finer:
    """A plate with so many more pixels each way, joined between them."""

    looks_around = True

    def __init__(self, of: Printable, times: int) -> None:
        self._of, self._times = of, times
        self.planes = of.planes

    @property
    def space(self) -> Space:
        return self._of.space

    def size(self, scale: float) -> tuple[int, int]:
        width, height = self._of.size(1.0)
        return max(1, round(width * self._times * scale)), max(1, round(height * self._times * scale))

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        """At its whole size only."""
        times = self._times
        if times == 1:
            return self._of.region(rect)
        width, height = self._of.size(1.0)
        x0, y0 = max(0, rect.x // times - 1), max(0, rect.y // times - 1)
        x1, y1 = min(width, -(-rect.right // times) + 1), min(height, -(-rect.bottom // times) + 1)
        plate = self._of.region(Rect(x0, y0, x1 - x0, y1 - y0))
        out = []
        for plane in plate:
            large = cv2.resize(plane, None, fx=times, fy=times, interpolation=cv2.INTER_LINEAR)
            y, x = rect.y - y0 * times, rect.x - x0 * times
            out.append(large[y : y + rect.height, x : x + rect.width])
        return np.ascontiguousarray(np.stack(out))


def strips(
    plate: Printable,
    screen: Screen,
    watch: Watch = unwatched,
) -> Iterator[Bits]:
    """A plate, 1 where there is no ink, as strips of dots.

    ``watch`` hears how far it is, and may end it. Raises ValueError.
    """
    tile = tile_of(screen)
    width, height = plate.size(1.0)
    wide = max(256, min(width, _PART // ROWS))

    def strip(y: int) -> Bits:
        rows = min(ROWS, height - y)
        dots = np.empty((rows, width), np.bool_)
        for x in range(0, width, wide):
            tell()
            part = Rect(x, y, min(wide, width - x), rows)
            dots[:, x : part.right] = _dots(plate.region(part)[0], tile, x, y)
        return np.packbits(dots, axis=1)

    done, telling = [0.0], threading.Lock()

    def tell() -> None:
        """Threads that do a part each say one after another how far the whole is: it never goes back."""
        with telling:
            watch("dots", done[0])

    threads = machine.processors()
    with ThreadPoolExecutor(threads) as pool:
        coming = iter(range(0, height, ROWS))
        ahead = deque(pool.submit(strip, y) for y in itertools.islice(coming, 2 * threads))
        try:
            for y in range(0, height, ROWS):
                made = ahead.popleft().result()
                if (after := next(coming, None)) is not None:
                    ahead.append(pool.submit(strip, after))
                yield made
                done[0] = min(1.0, (y + ROWS) / height)
                tell()
        finally:
            for future in ahead:
                future.cancel()


def dotted(coverage: NDArray[np.floating[Any]], screen: Screen) -> NDArray[np.bool_]:
    """Where ink lies, of coverage ``(h, w)``, a pixel of the device each. Raises ValueError."""
    return _dots(1 - coverage, tile_of(screen), 0, 0)


def _dots(plate: NDArray[np.floating[Any]], tile: Tile, x: int, y: int) -> NDArray[np.bool_]:
    return screened(covered(1 - plate), tile, x, y)
