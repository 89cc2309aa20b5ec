"""What a request is worked out with: the photograph, its cache, the other threads, and the way back."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol

from kyanoscript.core import machine
from kyanoscript.core.picture import Reading, Source
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import NOTHING, Renderer
from kyanoscript.core.render.stages import Beside, Rough, Staged
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, carried, unwatched
from kyanoscript.ui.service.display import Viewing, screen
from kyanoscript.ui.service.pace import Pace
from kyanoscript.ui.service.queue import Asked, Queue


@dataclass
class Memory:
    """What one request leaves for the next."""

    pace: Pace = field(default_factory=lambda: Pace(min(2, machine.processors())))  # how long views take
    mask: Any = None  # the latest stencil
    rested: tuple[int, ...] = ()  # what stands for the run that was last worked out exactly
    beside: tuple[Any, float, Beside | None] | None = None  # small print of the whole: of what, since when


@dataclass(frozen=True)
class Site:
    """Handed to every request."""

    source: Source
    cache: TileCache
    library: Library | None
    queue: Queue
    asked: Asked
    send: Callable[[object], None]
    stopping: Callable[[], bool]
    helpers: ThreadPoolExecutor
    count: int  # of helpers
    watch: Watch = unwatched
    memory: Memory = field(default_factory=Memory)

    def renderer(self, script: Script, keep: int | None = None) -> Renderer:
        """A renderer of a script on the photograph."""
        return Renderer(self.source, script, self.cache, keep, self.library, self.watch, Reading.SEEN)

    def passing(self, script: Script) -> Renderer:
        """One for what is seen once: it would push out what the eye and the hand come back to."""
        return self.renderer(script, NOTHING)

    def staged(self, script: Script, keep: int | None) -> Staged:
        """One for a view in a drag of pass ``keep``."""
        return Staged(self.source, script, self.cache, keep, self.library, self.watch, Reading.SEEN)

    def rough(self, script: Script, keep: int) -> Rough:
        """And one that hurries."""
        rested = self.memory.rested
        return Rough(self.source, script, self.cache, keep, self.library, self.watch, Reading.SEEN, rested=rested)

    def newer(self) -> Any:
        """What waits in this request's slot, if anything does."""
        return self.queue.waiting(self.asked.request.key)

    def waiting(self, key: Hashable) -> Any:
        """What waits in a slot, if anything does."""
        return self.queue.waiting(key)

    def last(self, key: Hashable) -> int:
        """The number of the latest request of a slot."""
        return self.queue.last(key)

    def ask(self, request: Any, rest: float) -> None:
        """Ask for more, to be worked on after a while."""
        with self.queue.lock:
            self.queue.ask(request)
            self.queue.rest(request.key, rest)

    def rest(self, seconds: float) -> None:
        """Leave this slot alone for a while."""
        with self.queue.lock:
            self.queue.rest(self.asked.request.key, seconds)

    def share_out(self, parts: Iterable[Any], work: Callable[[Any], None], pointless: Callable[[], bool]) -> bool:
        """Work on every part, with the helpers; False if it was given up as pointless on the way."""
        rest = iter(parts)
        lock = threading.Lock()
        alive = True

        def go() -> None:
            nonlocal alive
            while alive and not self.stopping():
                with lock:
                    part = next(rest, None)
                if part is None:
                    return
                work(part)
                if pointless():
                    alive = False

        helpers = [self.helpers.submit(carried(go)) for _ in range(self.count)]
        try:
            go()
            for helper in helpers:
                if not helper.cancel():  # one that is still busy with something else is not waited for
                    helper.result()
        finally:
            alive, done = False, alive
            wait([helper for helper in helpers if not helper.cancel()])
        return done and not self.stopping()


class Request(Protocol):
    """Something to be worked out for the screen."""

    lane: ClassVar[str]  # "views", "hand" or "stencils": no lane ever waits for another
    watched: ClassVar[bool]  # it is told how far long work within it is
    after: ClassVar[tuple[str, ...]]  # slots that go first however long they wait

    @property
    def urgency(self) -> int:
        """Of those waiting, the lowest goes first."""
        ...

    @property
    def rank(self) -> int:
        """How near it is to the hand or the eye: what is nearer, or as near and of another kind, overtakes it."""
        ...

    @property
    def moment(self) -> float:
        """Seconds that it may go on after it was overtaken."""
        ...

    @property
    def patience(self) -> float:
        """And after the same was asked for of a newer script."""
        ...

    @property
    def pairs(self) -> bool:
        """Whether two of them may be worked on at once, each in one thread."""
        ...

    @property
    def key(self) -> Hashable:
        """Its slot: a newer request takes the place of an older one that is still waiting."""
        ...

    @property
    def place(self) -> Hashable:
        """What must not have changed for the result to be of use: frame and zoom; None if nothing need be."""
        ...

    @property
    def group(self) -> object:
        """Requests of one group are asked for together, and forgotten together; None: it belongs to none."""
        ...

    def work(self, site: Site) -> None:
        """Work it out, in a render thread, and send what is found."""
        ...


@dataclass(frozen=True)
class Base:
    """Alone in its slot, which its class names; of use whatever has been asked since."""

    screen: Viewing = field(default_factory=screen, kw_only=True)

    URGENCY: ClassVar[int] = 0
    lane: ClassVar[str] = "views"
    watched: ClassVar[bool] = False
    after: ClassVar[tuple[str, ...]] = ()

    @property
    def urgency(self) -> int:
        """See `site.Request`."""
        return self.URGENCY

    @property
    def rank(self) -> int:
        """As urgent as it is."""
        return self.urgency

    @property
    def moment(self) -> float:
        """Nearly done, perhaps."""
        return 0.03

    @property
    def patience(self) -> float:
        """See `site.Request`."""
        return 0.15

    @property
    def pairs(self) -> bool:
        """See `site.Request`."""
        return False

    @property
    def key(self) -> Hashable:
        """Its slot."""
        return type(self).__name__

    @property
    def place(self) -> Hashable:
        """See `site.Request`."""
        return None

    @property
    def group(self) -> object:
        """See `site.Request`."""
        return None
