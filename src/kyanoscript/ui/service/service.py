"""Rendering off the interface thread: it is handed requests and gives back pictures.

One thread takes what is most urgent from the queue, others the stencils and the values under the hand. What is
overtaken gives way and goes on later where it stopped; if it cannot stop at once, a spare thread takes what is wanted.
"""

from __future__ import annotations

import functools
import math
import threading
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor

from PySide6.QtCore import QObject, Signal, SignalInstance

from kyanoscript.core import ending, kernel, machine
from kyanoscript.core.picture import Source
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.prepare import prepare
from kyanoscript.core.watching import GivenUp, unwatched, while_wanted
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import FileError
from kyanoscript.ui.service.queue import Asked, Fits, Queue
from kyanoscript.ui.service.requests import PROOFS, SURVEY
from kyanoscript.ui.service.site import Memory, Site

_FITS: dict[str, Fits] = {  # what each role works on
    "views": lambda request: request.lane == "views",
    "pair": lambda request: request.pairs,
    "hand": lambda request: request.lane == "hand",
    "stencils": lambda request: request.lane == "stencils",
}
_UNPREPARED = "The program cannot work on this machine; what is missing stands in the log (Help, About)"
_STARVED = "There is not enough memory for this picture. Close other programs, or show it smaller"
_UNSEEN = "A part of what is shown could not be worked out; why stands in the log (Help, About)"


class _Channel(QObject):
    """Results of one kind: whoever is connected and goes is connected no longer."""

    came = Signal(object)


class RenderService(QObject):
    """The threads that render. Results come out in the interface thread."""

    looking = Signal(str, float)  # work within a pass that takes seconds: what it is, and how far; 1 when it is over
    preparing = Signal(float)  # the first start ever: how far the program is made ready for this machine; 1: it is
    failed = Signal(str)  # what is said of a fault; what it was stands in the log
    _found = Signal(object, object)  # from the threads: what was asked for, and what was found

    def __init__(self, cache_bytes: int = 384 << 20) -> None:
        super().__init__()
        self.cache_bytes = cache_bytes
        self._queue = Queue(_FITS)
        self._source: Source | None = None
        self._library: Library | None = None
        self._cache = TileCache(cache_bytes)
        self._memory = Memory()
        self._channels: dict[type, _Channel] = {}
        self._stopping = False
        self._prepared = False
        self._unprepared = False  # there are no kernels to work with
        self._trim = False  # a photograph was let go, and its memory is to be given back once there is time
        self._busy: dict[int, bool] = {}  # by thread: whether a request is worked on
        self._found.connect(self._deliver)
        self._count = max(1, machine.processors() - 1)
        self._helpers = ThreadPoolExecutor(self._count, "tiles")
        # Of each role a spare one, for when overtaken work cannot be ended at once; of views two.
        roles = ["views"] * 2 + ["hand"] * 2 + ["stencils"] * 2 + ["pair"] * (machine.processors() > 1)
        works = [("render", self._render)]
        works += [(f"{role} {k}", functools.partial(self._serve, role, k)) for k, role in enumerate(roles, 1)]
        self._threads = [threading.Thread(target=work, name=name, daemon=True) for name, work in works]
        ending.in_order(self)

    def start(self) -> None:
        """Begin, once everybody is connected who wants to hear how far it is."""
        for thread in self._threads:
            thread.start()

    # Asked from the interface thread

    def set_source(self, source: Source, library: Library | None = None) -> None:
        """Work on another photograph from now on; plates find other pictures in the library."""
        with self._queue.lock:
            self._library = library
            self._cache.close()  # at once, and not when the last of its renderers is collected
            self._source, self._cache = source, TileCache(self.cache_bytes)
            self._queue.other_photo()
            self._trim = True

    def set_budget(self, cache_bytes: int) -> None:
        """Keep no more of what has been worked out than so many bytes, from now on."""
        with self._queue.lock:
            self.cache_bytes = cache_bytes
            self._cache.limit_to(cache_bytes)
            self._trim = True
            self._queue.wake()

    def ask(self, request: object) -> None:
        """Ask for something (see `requests`); an older one of its kind that is still waiting is forgotten."""
        with self._queue.lock:
            self._queue.ask(request)

    def ask_instead(self, group: object, requests: Iterable[object]) -> None:
        """Ask for the requests of a group; those asked for before are forgotten."""
        with self._queue.lock:
            self._queue.ask_instead(group, requests)

    def answers(self, kind: type) -> SignalInstance:
        """The signal that hands on every result of a kind (see `results`), as long as it is of any use."""
        if kind not in self._channels:
            self._channels[kind] = _Channel(self)
        return self._channels[kind].came

    def give_up(self) -> None:
        """End the long work that is under way; the picture that wanted it is not made."""
        with self._queue.lock:
            self._queue.stop()
            self._queue.drop(lambda request: request.group == PROOFS and request.script.takes_long)

    def forget(self, *families: str) -> None:
        """Nobody looks any more at what was asked for in slots of these names: ``"hang"``, or a request's class."""
        with self._queue.lock:
            self._queue.forget(families)

    def idle(self) -> bool:
        """Whether everything asked for has been sent; or nothing ever will be, which `failed` has told."""
        with self._queue.lock:
            return self._unprepared or (self._queue.empty and not any(self._busy.values()))

    @property
    def kept(self) -> int:
        """Bytes of pixels that are kept."""
        return self._cache.used

    def end(self) -> None:
        """Ask the threads to end; `left` tells which have not."""
        with self._queue.lock:
            self._stopping = True
            self._queue.wake()

    def left(self) -> list[str]:
        """What has not ended yet, in words."""
        return ["working out the print"] if any(thread.is_alive() for thread in self._threads) else []

    def stop(self) -> None:
        """End the threads."""
        self.end()
        for thread in self._threads:
            thread.join()

    def _deliver(self, asked: Asked, result: object) -> None:
        with self._queue.lock:
            stale = self._queue.stale(asked)
            if not stale:
                self._queue.brought(asked)
        if not stale:
            self.answers(type(result)).emit(result)

    # In the threads

    def _render(self) -> None:
        try:
            prepare(self._prepare)
            with self._queue.lock:
                self._prepared = True
                self._queue.wake()
            self._serve("views", 0)
        except GivenUp:
            pass
        except Exception as error:  # whatever it is, the person must hear of it
            log.note("the kernels could not be loaded", error)
            self._unprepared = True
            self.failed.emit(_UNPREPARED)
        self._helpers.shutdown(wait=False)

    def _prepare(self, share: float) -> None:
        self.preparing.emit(share)
        if self._stopping:
            raise GivenUp

    def _serve(self, role: str, number: int) -> None:
        queue, fits = self._queue, _FITS[role]
        while True:
            with queue.lock:
                self._busy[number] = False
                while (asked := queue.take(fits, role) if self._ready else None) is None and not self._stopping:
                    if self._trim and role == "views" and queue.waiting(SURVEY) is None:
                        self._trim = False
                        kernel.give_back()
                    queue.sleep(role, queue.seconds(fits, role) if self._ready else None)
                if self._stopping or asked is None:
                    return
                self._busy[number] = True
                site = self._site(asked)
            try:
                self._work(asked, site)
            finally:
                with queue.lock:
                    queue.done(asked)
                    # Many small prints leave memory behind that is free but in pieces.
                    self._trim = self._trim or asked.request.group == PROOFS

    @property
    def _ready(self) -> bool:
        return self._prepared and self._source is not None

    def _site(self, asked: Asked) -> Site:
        assert self._source is not None
        return Site(
            self._source,
            self._cache,
            self._library,
            self._queue,
            asked,
            lambda result: self._found.emit(asked, result),
            self._over,
            self._helpers,
            self._count,
            functools.partial(self._watch, asked) if asked.request.watched else unwatched,
            self._memory,
        )

    def _work(self, asked: Asked, site: Site) -> None:
        try:
            with while_wanted(lambda: self._wanted(asked)):
                asked.request.work(site)
        except GivenUp:
            if asked.told:
                self.looking.emit("", 1.0)
            with self._queue.lock:
                self._queue.again(asked)
        except Exception as error:  # a failed picture must not end the service
            if self._over():  # its helpers were gone before it
                return
            log.note(f"{type(asked.request).__name__} could not be worked out", error)
            said = str(error) if isinstance(error, FileError) else ""
            self.failed.emit(said or (_STARVED if isinstance(error, MemoryError) else _UNSEEN))

    def _over(self) -> bool:
        """Whether nothing is to be worked out any more: it was stopped, or the program is at its end."""
        return self._stopping or not threading.main_thread().is_alive()

    def _wanted(self, asked: Asked) -> bool:
        """Whether work on a request is to go on."""
        return self._queue.wanted(asked) and not self._over() and not (asked.told and asked.stopped)

    def _watch(self, asked: Asked, what: str, share: float) -> None:
        """Long work within a pass: told on, and given up as soon as something is wanted more."""
        asked.told = True
        if not self._wanted(asked) or asked.overtaken < math.inf:
            raise GivenUp
        self.looking.emit(what, share)
