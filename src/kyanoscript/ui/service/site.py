"""What a request is worked out with: the photograph, its cache, the other threads, and the way back."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable, Iterable
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from typing import Any, ClassVar, Protocol

from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, unwatched
from kyanoscript.ui.service.queue import Asked, Queue


@dataclass
class Memory:
    """What one request leaves for the next."""

    seconds_per_pixel: float = 0.0  # of the latest view
    mask: Any = None  # the latest stencil


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
        return Renderer(self.source, script, self.cache, keep, self.library, self.watch)

    def newer(self) -> Any:
        """What waits in this request's slot, if anything does."""
        return self.queue.waiting(self.asked.request.key)

    def rest(self, seconds: float) -> None:
        """Leave this slot alone for a while."""
        with self.queue.wake:
            self.queue.rest(self.asked.request.key, seconds)

    def share_out(self, parts: Iterable[Rect], work: Callable[[Rect], None], pointless: Callable[[], bool]) -> bool:
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

        helpers = [self.helpers.submit(go) for _ in range(self.count)]
        try:
            go()
            for helper in helpers:
                helper.result()
        finally:
            alive, done = False, alive
            wait(helpers)
        return done and not self.stopping()


class Request(Protocol):
    """Something to be worked out for the screen."""

    urgency: ClassVar[int]  # of those waiting, the lowest goes first
    apart: ClassVar[bool]  # in the thread for stencils
    watched: ClassVar[bool]  # gives way to a view that is waiting
    returns: ClassVar[bool]  # and is asked for again then
    after: ClassVar[tuple[str, ...]]  # slots that go first however long they wait

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
