"""What is waiting to be rendered: the latest request of each slot, the most urgent first.

And the one place that knows whether a result is still of any use: not if it belongs to a former photograph, or if
something else has been asked for in its slot since, of another place (another frame or zoom).
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass
from typing import Any

Fits = Callable[[Any], bool]  # whether a request is one for a thread
_GIVEN_WAY = 0.15  # seconds that what gave way leaves to what it gave way to


@dataclass
class Asked:
    """A request, and what it was asked for on."""

    request: Any  # `site.Request`
    photo: int  # which photograph it was
    batch: int  # which asking of its group it was
    number: int  # later ones have higher numbers
    at: float  # seconds of the monotonic clock


class Queue:
    """Used by several threads; ``wake`` is held while it is looked at or changed."""

    def __init__(self) -> None:
        self.wake = threading.Condition()
        self._photo = 0
        self._waiting: dict[Hashable, Asked] = {}
        self._latest: dict[Hashable, Hashable] = {}  # the place of the latest request of each slot
        self._batch: dict[object, int] = {}
        self._working: list[Asked] = []  # what has been taken
        self._count = 0
        self._last: dict[Hashable, int] = {}  # the number of the latest request of each slot
        self._shown: dict[Hashable, int] = {}  # and of the latest that has brought a result
        self._rest: dict[Hashable, float] = {}  # slots that are not to be worked on before a time

    def other_photo(self) -> None:
        """Another photograph: whatever was asked for before is of no use any more."""
        self._photo += 1
        self._waiting.clear()
        self._latest.clear()
        self._rest.clear()

    def ask(self, request: Any) -> None:
        """Another request, in place of an older one of its slot; none if just this is being worked on."""
        batch = self._batch.get(request.group, 0)
        for asked in self._working:
            same = (asked.photo, asked.batch, asked.request) == (self._photo, batch, request)
            if same and request.key not in self._waiting:
                return
        self._latest[request.key] = request.place
        self._waiting.pop(request.key, None)
        self._count += 1
        self._last[request.key] = self._count
        self._waiting[request.key] = Asked(
            request, self._photo, self._batch.get(request.group, 0), self._count, time.monotonic()
        )
        self.wake.notify_all()

    def ask_instead(self, group: object, requests: Iterable[Any]) -> None:
        """Requests of a group in place of all that were asked for before."""
        self._batch[group] = self._batch.get(group, 0) + 1
        self._waiting = {key: waiting for key, waiting in self._waiting.items() if waiting.request.group != group}
        for request in requests:
            self.ask(request)
        self.wake.notify_all()

    def drop(self, unwanted: Any) -> None:
        """Forget what waits and fits."""
        self._waiting = {key: waiting for key, waiting in self._waiting.items() if not unwanted(waiting.request)}

    def again(self, asked: Asked) -> None:
        """It gave way: it waits again, before its equals and not at once, unless something newer does."""
        key = asked.request.key
        if not self.stale(asked) and key not in self._waiting:
            self._waiting = {key: asked, **self._waiting}
            self.rest(key, _GIVEN_WAY)

    def rest(self, key: Hashable, seconds: float) -> None:
        """Leave a slot alone for a while."""
        self._rest[key] = time.monotonic() + seconds

    def stale(self, asked: Asked) -> bool:
        """Whether the result of a request is of no use any more."""
        request = asked.request
        if asked.photo != self._photo or asked.batch != self._batch.get(request.group, 0):
            return True
        if asked.number < self._shown.get(request.key, 0):  # of two that were worked on at once the newer was quicker
            return True
        return request.place is not None and self._latest.get(request.key) != request.place

    def brought(self, asked: Asked) -> None:
        """A result of a request is shown: those of older ones are of no use from now on."""
        self._shown[asked.request.key] = asked.number

    def last(self, key: Hashable) -> int:
        """The number of the latest request of a slot."""
        return self._last.get(key, 0)

    def take(self, fits: Fits) -> Asked | None:
        """The most urgent request that fits and may be worked on now; None if there is none."""
        now = time.monotonic()
        ready = [
            waiting
            for key, waiting in self._waiting.items()
            if fits(waiting.request) and self._rest.get(key, 0.0) <= now and not self._held_up(waiting)
        ]
        if not ready:
            return None
        first = min(ready, key=lambda waiting: waiting.request.urgency)  # the one asked for first, of equals
        del self._waiting[first.request.key]
        self._working.append(first)
        return first

    def done(self, asked: Asked) -> None:
        """It has been worked on."""
        self._working.remove(asked)

    def _held_up(self, asked: Asked) -> bool:
        """Whether something that waits goes first, however long."""
        return any(slot in self._waiting for slot in asked.request.after)

    def seconds(self, fits: Fits) -> float | None:
        """How long until something that rests may be worked on; None if nothing waits."""
        times = [
            self._rest.get(key, 0.0)
            for key, waiting in self._waiting.items()
            if fits(waiting.request) and not self._held_up(waiting)
        ]
        return max(0.001, min(times) - time.monotonic()) if times else None

    def waiting(self, key: Hashable) -> Any:
        """The request that waits in a slot, or None."""
        asked = self._waiting.get(key)
        return asked.request if asked is not None else None

    @property
    def empty(self) -> bool:
        """Whether nothing waits."""
        return not self._waiting
