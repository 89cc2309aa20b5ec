"""Tiles and measures kept between renders, within a bound of memory."""

from __future__ import annotations

import threading
from collections import OrderedDict
from typing import Any

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes


class TileCache:
    """Finished tiles of one photograph, least recently used ones dropped first. Safe to use from several threads.

    Parameters
    ----------
    limit : bytes of pixels to keep.
    """

    def __init__(self, limit: int = 512 << 20) -> None:
        self.limit = limit
        self.used = 0
        self._tiles: OrderedDict[tuple[Any, ...], Planes] = OrderedDict()
        self._chains: dict[tuple[int, Pass], int] = {}
        self._measures: dict[int, Any] = {}
        self._lock = threading.Lock()

    def chain(self, before: int, one: Pass) -> int:
        """A number that stands for "this pass after that chain of passes"; equal chains get equal numbers."""
        with self._lock:
            return self._chains.setdefault((before, one), len(self._chains) + 1)

    def get(self, key: tuple[Any, ...]) -> Planes | None:
        with self._lock:
            tile = self._tiles.get(key)
            if tile is not None:
                self._tiles.move_to_end(key)
            return tile

    def put(self, key: tuple[Any, ...], tile: Planes) -> None:
        tile.flags.writeable = False
        with self._lock:
            old = self._tiles.pop(key, None)
            self.used += tile.nbytes - (0 if old is None else old.nbytes)
            self._tiles[key] = tile
            while self.used > self.limit and len(self._tiles) > 1:
                self.used -= self._tiles.popitem(last=False)[1].nbytes

    def measured(self, chain: int) -> tuple[bool, Any]:
        """Whether a measure is known, and what it is."""
        with self._lock:
            return chain in self._measures, self._measures.get(chain)

    def keep_measure(self, chain: int, value: Any) -> None:
        with self._lock:
            self._measures[chain] = value
