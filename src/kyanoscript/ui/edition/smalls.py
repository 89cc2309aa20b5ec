"""Small pictures of photographs that are not on the bench: read, printed and reduced in a lane of their own.

What is in sight is made first, and what is no longer wanted not at all. A few photographs stay shrunk in memory, so
that another script is seen on them at once.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.develop import Develop
from kyanoscript.core.picture import Reading, Rect, Source
from kyanoscript.core.render.alike import Tones, matched
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp, while_wanted
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import Stamp
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.editions.small import shrunk
from kyanoscript.files.editions.work import stamp
from kyanoscript.translation import tr
from kyanoscript.ui.jobs.lanes import Job, Jobs, Lane
from kyanoscript.ui.service import display

_ROOM = 128 << 20  # bytes of shrunk photographs that are kept
_MOST = 400  # small pictures that are kept
_STRANGE = "its small picture could not be made; what it was stands in the log"


@dataclass(frozen=True)
class Wanted:
    """A photograph, and what it is seen through."""

    photo: Path
    asked: Asked
    match: Tones | None = None  # that its print is brought to
    stages: bool = False  # a picture after each pass, too


@dataclass(frozen=True, eq=False)
class Small:
    """What came of it, to be drawn."""

    wanted: Wanted
    before: display.Pixels | None = None  # as photographed
    after: display.Pixels | None = None  # None: not yet
    plain: display.Pixels | None = None  # without its match
    script: Script = field(default_factory=Script)  # that it was seen through, match and all
    tones: Tones | None = None  # that a match comes to
    stages: tuple[display.Pixels, ...] = ()
    wrong: str = ""  # why there is none


class Smalls(QObject):
    """Keeps them, and has those made that are missing."""

    made = Signal(object)  # a Small; first without its print

    def __init__(self, jobs: Jobs, parent: QObject) -> None:
        super().__init__(parent)
        self._jobs = jobs
        self._kept: OrderedDict[Path, Small] = OrderedDict()
        self._sources: OrderedDict[Path, tuple[Stamp, Develop, Source]] = OrderedDict()
        self._sure: set[Path] = set()  # of which nothing can have changed since
        self._waiting: list[Wanted] = []
        self._now: Wanted | None = None  # what is being made
        self._lock = threading.Lock()
        self._running: Job | None = None
        self.size = (150, 100)  # pixels of the screen that each fits into
        self.made.connect(self._keep)

    def find(self, wanted: Wanted) -> Small | None:
        """The picture, if it is there; that of another script until then. Never one whose stages are missing."""
        found = self._kept.get(wanted.photo)
        if found is None or (wanted.stages and not found.stages and not found.wrong):
            return None
        return found

    def want(self, wanted: Iterable[Wanted]) -> None:
        """These and no others, in this order; those that are there are not made again."""
        missing = [one for one in wanted if one != self._now and not self._there(one)]
        with self._lock:
            self._waiting = missing
        if missing and self._running is None:
            self._running = job = self._jobs.run(self._work, Lane.SMALL)
            job.ended.connect(self._over)

    def doubt(self) -> None:
        """Any photograph may have changed: each is looked at again when it is wanted, and seen as it was until then."""
        self._sure.clear()

    def forget_all(self) -> None:
        """They are of another size, or for another screen."""
        self._kept.clear()

    def _there(self, wanted: Wanted) -> bool:
        found = self._kept.get(wanted.photo)
        if found is None or (found.after is None and not found.wrong):
            return False
        if wanted.photo not in self._sure:
            return False
        same = found.wanted.asked == wanted.asked and found.wanted.match == wanted.match
        return same and (found.wanted.stages or not wanted.stages)

    def _keep(self, small: Small) -> None:
        before = self._kept.get(small.wanted.photo)
        if small.after is None and not small.wrong and before is not None and before.after is not None:
            small = replace(before, before=small.before)  # what was seen so far stays until there is another
        self._kept[small.wanted.photo] = small
        self._sure.add(small.wanted.photo)
        self._kept.move_to_end(small.wanted.photo)
        while len(self._kept) > _MOST:
            self._kept.popitem(last=False)

    def _over(self) -> None:
        self._running = self._now = None
        with self._lock:
            waiting = list(self._waiting)
        self.want(waiting)

    # In the lane

    def _work(self, job: Job) -> None:
        while not job.stopping:
            with self._lock:
                if not self._waiting:
                    return
                wanted = self._now = self._waiting.pop(0)
            try:
                with while_wanted(lambda: not job.stopping):
                    self.made.emit(self._small(wanted))
            except GivenUp:
                return

    def _small(self, wanted: Wanted) -> Small:
        try:
            return self._printed(wanted)
        except GivenUp:
            raise
        except FileError as error:
            return Small(wanted, wrong=str(error))
        except MemoryError:
            return Small(wanted, wrong=tr("{name}: there is not enough memory to look at it", name=wanted.photo.name))
        except Exception as error:
            log.note(f"a small picture of {wanted.photo.name} could not be made", error)
            return Small(wanted, wrong=f"{wanted.photo.name}: {_STRANGE}")

    def _printed(self, wanted: Wanted) -> Small:
        asked = wanted.asked
        source = self._source(wanted.photo, asked.script.develop)
        size, screen = self.size, display.screen()

        def seen(print_: Renderer, upto: int | None = None) -> display.Pixels:
            width, height = print_.size(1.0)
            scale = min(1.0, max(size[0] / width, size[1] / height))
            planes = print_.region(Rect(0, 0, *print_.size(scale)), scale, upto)
            return display.fitted(screen.shown(planes, print_.space), size)

        before = seen(Renderer(source, Script(), reading=Reading.SEEN))
        self.made.emit(Small(wanted, before))
        pictures = asked.pictures(wanted.photo)
        first = Renderer(source, Script(frame=asked.script.frame))
        width, height = first.size(1.0)
        script = asked.script if asked.recipe is None else asked.at(width / height).script
        print_ = Renderer(source, script, library=pictures, reading=Reading.SEEN)
        after, plain, tones = seen(print_), None, None
        if wanted.match is not None:
            plain = after
            script, tones = matched(source, script, wanted.match, pictures)
            print_ = Renderer(source, script, library=pictures, reading=Reading.SEEN)
            after = seen(print_)
        stages = tuple(seen(print_, k) for k in range(len(script.passes) + 1)) if wanted.stages else ()
        return Small(wanted, before, after, plain, script, tones, stages)

    def _source(self, photo: Path, develop: Develop) -> Source:
        now = stamp(photo)
        known = self._sources.pop(photo, None)
        if known is None or known[:2] != (now, develop):
            known = (now, develop, shrunk(photo, develop))
        self._sources[photo] = known
        while len(self._sources) > 1 and sum(_bytes(held[2]) for held in self._sources.values()) > _ROOM:
            self._sources.popitem(last=False)
        return known[2]


def _bytes(source: Source) -> int:
    held = getattr(source, "copy", source)
    pixels = getattr(held, "pixels", None)
    return int(pixels.nbytes) if pixels is not None else 0
