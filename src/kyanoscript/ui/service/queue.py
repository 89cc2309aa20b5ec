"""What is waiting to be rendered: the latest request of each slot, the most urgent first.

And the one place that knows whether a result is still of any use: not if it belongs to a former photograph, or if
something else has been asked for in its slot since, of another place (another frame or zoom).

What is wanted never waits for what is not. Work is overtaken when something nearer to the hand or the eye is asked for:
it may go on for a moment, for it may be nearly done, and is given up then at the next place where it can be
(`watching.breathe`). If there is none for a while, another thread of its role begins with what is wanted all the same.
"""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable, Container, Hashable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

Fits = Callable[[Any], bool]  # whether a request is one for a thread
_NONE = -1  # no photograph
_GIVEN_WAY = 0.15  # seconds that what gave way leaves to what it gave way to


@dataclass
class Asked:
    """A request, and what it was asked for on."""

    request: Any  # `site.Request`
    photo: int  # which photograph it was
    batch: int  # which asking of its group it was
    number: int  # later ones have higher numbers
    at: float  # seconds of the monotonic clock
    role: str = ""  # of the thread that works on it
    told: bool = False  # that it takes long
    stopped: bool = False  # somebody wants no long work of it
    overtaken: float = math.inf  # when something else was wanted more
    until: float = math.inf  # and until when the work may go on all the same

    def overtake(self, now: float, moment: float) -> None:
        """Something else is wanted more."""
        self.overtaken, self.until = min(self.overtaken, now), min(self.until, now + moment)


class Queue:
    """Used by several threads; ``lock`` is held while it is looked at or changed.

    Threads that sleep do so by role, and one of those is woken that may take what has been asked for. In a drag there
    is something new a hundred times a second: woken all at once, they kept the interface waiting for the interpreter.
    """

    def __init__(self, roles: Mapping[str, Fits] | None = None) -> None:
        self.lock = threading.RLock()
        self._roles = roles or {}
        self._beds = {role: threading.Condition(self.lock) for role in self._roles}
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
            if same and asked.overtaken == math.inf and request.key not in self._waiting:
                return
        self._latest[request.key] = request.place
        self._waiting.pop(request.key, None)
        self._count += 1
        self._last[request.key] = self._count
        new = Asked(request, self._photo, self._batch.get(request.group, 0), self._count, time.monotonic())
        self._waiting[request.key] = new
        for asked in self._working:
            if _wanted_more(request, asked.request):
                asked.overtake(new.at, _moment(request, asked.request))
        for role, fits in self._roles.items():
            if fits(request):
                self._beds[role].notify()

    def ask_instead(self, group: object, requests: Iterable[Any]) -> None:
        """Requests of a group in place of all that were asked for before."""
        self._batch[group] = self._batch.get(group, 0) + 1
        self._waiting = {key: waiting for key, waiting in self._waiting.items() if waiting.request.group != group}
        for request in requests:
            self.ask(request)

    def drop(self, unwanted: Any) -> None:
        """Forget what waits and fits."""
        self._waiting = {key: waiting for key, waiting in self._waiting.items() if not unwanted(waiting.request)}

    def stop(self) -> None:
        """No long work goes on in what is being worked on."""
        for asked in self._working:
            asked.stopped = True

    def forget(self, families: Container[Hashable]) -> None:
        """What belongs to them need not be worked out, nor worked on any longer."""
        self.drop(lambda request: family(request) in families)
        for asked in self._working:
            if family(asked.request) in families:
                asked.photo = _NONE
                asked.overtake(time.monotonic(), 0.0)

    def again(self, asked: Asked) -> None:
        """It gave way: it waits again, and not at once, unless something newer has been asked for in its slot."""
        key = asked.request.key
        if not asked.stopped and not self.stale(asked) and self.last(key) == asked.number:
            asked = replace(asked, role="", told=False, overtaken=math.inf, until=math.inf)
            behind = asked.request.rank <= _SEEN  # what it gave way to is on the screen now
            self._waiting = {**self._waiting, key: asked} if behind else {key: asked, **self._waiting}
            self.rest(key, _GIVEN_WAY)

    def wanted(self, asked: Asked) -> bool:
        """Whether work on a request is to go on."""
        current = asked.photo == self._photo and asked.batch == self._batch.get(asked.request.group, 0)
        return current and (asked.until == math.inf or time.monotonic() < asked.until)

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

    def take(self, fits: Fits, role: str = "") -> Asked | None:
        """The most urgent request that fits and may be worked on now; None if there is none, or if another thread of
        this role is at work that has not been overtaken."""
        now = time.monotonic()
        if self._free_at(role) > now:
            return None
        ready = [
            waiting
            for key, waiting in self._waiting.items()
            if fits(waiting.request) and self._rest.get(key, 0.0) <= now and not self._held_up(waiting)
        ]
        if not ready:
            return None
        first = min(ready, key=lambda waiting: waiting.request.urgency)  # the one asked for first, of equals
        del self._waiting[first.request.key]
        first.role = role
        self._working.append(first)
        for other in ready:
            if other is not first and first.request.rank > other.request.rank:
                first.overtake(now, first.request.moment)
        if role in self._beds and any(fits(waiting.request) for waiting in self._waiting.values()):
            self._beds[role].notify()  # another of the role waits for the moment at which this has been overtaken
        return first

    def done(self, asked: Asked) -> None:
        """It has been worked on."""
        self._working.remove(asked)

    def _held_up(self, asked: Asked) -> bool:
        """Whether something that waits goes first, however long."""
        return any(slot in self._waiting for slot in asked.request.after)

    def _free_at(self, role: str) -> float:
        """When a thread of a role may take something: if all that others work on has been overtaken."""
        return max((asked.until for asked in self._working if role and asked.role == role), default=0.0)

    def sleep(self, role: str, seconds: float | None) -> None:
        """A thread of a role sleeps until something is asked for that it may take, or for so long."""
        self._beds[role].wait(seconds)

    def wake(self) -> None:
        """All of them."""
        for bed in self._beds.values():
            bed.notify_all()

    def seconds(self, fits: Fits, role: str = "") -> float | None:
        """How long until something may be worked on that cannot be yet; None if nothing waits, or no time tells."""
        free = self._free_at(role)
        times = [
            max(free, self._rest.get(key, 0.0))
            for key, waiting in self._waiting.items()
            if fits(waiting.request) and not self._held_up(waiting)
        ]
        return max(0.001, min(times) - time.monotonic()) if times and min(times) < math.inf else None

    def waiting(self, key: Hashable) -> Any:
        """The request that waits in a slot, or None."""
        asked = self._waiting.get(key)
        return asked.request if asked is not None else None

    @property
    def empty(self) -> bool:
        """Whether nothing waits."""
        return not self._waiting


_SEEN = 2  # the rank of what the eye is on


def _wanted_more(new: Any, old: Any) -> bool:
    """Whether a request that is asked for overtakes one that is being worked on."""
    if new.lane != old.lane:
        return False
    if new.key == old.key:
        return bool(new != old)
    return bool(new.rank < old.rank or (new.rank == old.rank and family(new) != family(old)))


def _moment(new: Any, old: Any) -> float:
    """How long what is overtaken may go on: nothing would ever be seen of a drag if each place ended the one before."""
    return float(old.patience if new.key == old.key and new.place == old.place else old.moment)


def family(request: Any) -> Hashable:
    """What is asked for together, and does not overtake one another."""
    key: Hashable = request.key
    return key[0] if isinstance(key, tuple) else key
