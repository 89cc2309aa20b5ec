"""Tiles, measures and coarse grids kept between renders, within a bound of memory."""

from __future__ import annotations

import itertools
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable
from typing import Any

import numpy as np

from kyanoscript.core.watching import GivenUp, breathe

_LISTENING = 0.02  # seconds after which a thread that waits for another looks whether it is still wanted
_LITTLE = 200  # bytes that whatever is kept is taken for, besides its pixels
_DEEP = 6  # parts of parts that are looked through
_CHAINS = 2000  # while a stroke is drawn every place of the brush makes another chain


class TileCache:
    """What was worked out on one photograph, least recently used first out. Safe to use from several threads.

    Parameters
    ----------
    limit : bytes of pixels to keep.
    """

    def __init__(self, limit: int = 512 << 20) -> None:
        self.limit = limit
        self.used = 0
        self._kept: OrderedDict[Hashable, Any] = OrderedDict()
        self._chains: OrderedDict[Hashable, int] = OrderedDict()
        self._numbers = itertools.count(1)
        self._making: dict[Hashable, tuple[threading.Event, int]] = {}
        self._lock = threading.Lock()
        self._closed = False

    def chain(self, before: int, link: Hashable) -> int:
        """A number that stands for "this pass after that chain of passes"; equal chains get equal numbers.

        Of those not asked for in a long time the number is forgotten, and what was kept under it with it.
        """
        with self._lock:
            number = self._chains.get((before, link)) or next(self._numbers)
            self._chains[(before, link)] = number
            self._chains.move_to_end((before, link))
            if len(self._chains) > _CHAINS:
                self._chains.popitem(last=False)
            return number

    def get(self, key: Hashable) -> Any:
        """What is kept under a key, or None."""
        with self._lock:
            return self._get(key)

    def _get(self, key: Hashable) -> Any:
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def make(self, key: Hashable, work: Callable[[], Any]) -> Any:
        """What is kept under a key, worked out first if it is not there; threads that want the same wait for one.

        Waiting cannot go round in a circle: work only ever asks for what comes earlier in the run or is coarser.
        """
        while True:
            with self._lock:
                if self._closed:
                    raise GivenUp
                found = self._get(key)
                if found is not None:
                    return found
                other = self._making.get(key)
                if other is None:
                    mine = threading.Event()
                    self._making[key] = (mine, threading.get_ident())
                    break
            if other[1] == threading.get_ident():
                raise RuntimeError(f"working out {key} asks for itself")
            while not other[0].wait(_LISTENING):
                breathe()
        try:
            made = work()
            self._put(key, made)
            return made
        finally:
            with self._lock:
                del self._making[key]
            mine.set()

    def limit_to(self, limit: int) -> None:
        """Keep no more than so many bytes from now on."""
        with self._lock:
            self.limit = limit
            self._let_go()

    def close(self) -> None:
        """Let go of everything, at once: whoever still works with it is told to give up (`GivenUp`)."""
        with self._lock:
            self._closed, self.used = True, 0
            self._kept.clear()

    def _put(self, key: Hashable, made: Any) -> None:
        if isinstance(made, np.ndarray):
            made.flags.writeable = False
        with self._lock:
            if self._closed:
                return
            old = self._kept.pop(key, None)
            self.used += _bytes(made) - _bytes(old)
            self._kept[key] = made
            self._let_go()

    def _let_go(self) -> None:
        while self.used > self.limit and len(self._kept) > 1:
            self.used -= _bytes(self._kept.popitem(last=False)[1])


def _bytes(thing: Any) -> int:
    """What is counted of what is kept; nothing of nothing."""
    return 0 if thing is None else _LITTLE + _pixels(thing, _DEEP)


def _pixels(thing: Any, deep: int) -> int:
    """Bytes of the arrays that it is put together of, in whatever way."""
    if isinstance(thing, np.ndarray):
        return int(thing.nbytes)
    if not deep or isinstance(thing, type):
        return 0
    if isinstance(thing, (tuple, list)):
        parts: Iterable[Any] = thing
    elif isinstance(thing, dict):
        parts = thing.values()
    else:
        parts = getattr(thing, "__dict__", {}).values()
    return sum(_pixels(part, deep - 1) for part in parts)
