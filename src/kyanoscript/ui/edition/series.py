"""The photographs of the edition in the window, what they are printed through, and how it stands with each."""

from __future__ import annotations

import enum
import os
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from kyanoscript.core.past import Done, Past
from kyanoscript.core.render.alike import Tones
from kyanoscript.core.script import Script, numeral
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.editions.edition import MOST, Edition, Entry, keep, recall
from kyanoscript.files.editions.manifest import Standing, standing
from kyanoscript.files.editions.plan import photographs, tones_through
from kyanoscript.files.editions.work import BEGUN, FAILED, LEFT, Result, Task
from kyanoscript.translation import tr, trn
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.edition.smalls import Wanted
from kyanoscript.ui.jobs.lanes import Job, Lane

_SOON = 90  # milliseconds of quiet after which it is looked at anew
_KEPT = 1500  # and after which it is kept
_ITS_OWN = ("entries",)  # what may change while it is printed


class State(enum.Enum):
    """How it stands with a print."""

    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    CHANGED = "changed since"
    FAILED = "failed"
    OUT = "left out"


@dataclass(frozen=True)
class Tile:
    """A print that is wanted, or a photograph that is left out."""

    at: int  # the place of its photograph among all
    entry: Entry
    name: str
    state: State
    words: str  # how it stands with it
    result: Result | None = None  # what came of it last
    copy: int = 0  # of a numbered print, its number


@dataclass(frozen=True)
class _Looked:
    """What was found when it was looked at."""

    edition: Edition
    tasks: list[Task]
    standing: list[Standing]
    problem: str  # why it cannot begin
    tones: Tones | None


class Series(QObject):
    """One edition: everything in the view asks it, and changes it."""

    changed = Signal()  # something else is wanted, or it stands otherwise
    said = Signal(str)
    warned = Signal(str)

    def __init__(self, context: Context) -> None:
        super().__init__(context.top)
        self.context = context
        self.past: Past[Edition] = Past(Edition())
        self.tasks: list[Task] = []
        self.problem = ""
        self.standing: dict[str, Standing] = {}  # by the print's name
        self.begun: set[str] = set()  # names of prints that are being worked on
        self.at_work = False
        self._recalled = False
        self._looking: Job | None = None
        self._again = False  # it has changed while it was looked at
        self._then: Callable[[], None] | None = None  # once it has been looked at
        self._soon, self._keeping = QTimer(self), QTimer(self)
        for timer, wait, act in ((self._soon, _SOON, self.look), (self._keeping, _KEPT, self.keep)):
            timer.setSingleShot(True)
            timer.setInterval(wait)
            timer.timeout.connect(act)

    @property
    def edition(self) -> Edition:
        """As it is."""
        return self.past.present.value

    def recall(self) -> None:
        """What was left at the end of the last time, once."""
        if not self._recalled:
            self._recalled = True
            self.context.jobs.run(lambda _: recall(), Lane.READ, done=self._recall)

    def _recall(self, found: Edition | None) -> None:
        if found is not None and self.edition == Edition():
            self.past = Past(found)
            self._look_soon()

    # What is wanted

    def put(self, label: str, **values: Any) -> bool:
        """Other values, as one step of undo; whether they could be."""
        return self._do(label, replace(self.edition, **values))

    def _do(self, label: str, edition: Edition) -> bool:
        now = self.edition
        if edition == now or not self._may(now, edition):
            return edition == now
        if edition.tones is not None and _printed_otherwise(now, edition):
            edition = replace(edition, tones=None)  # they are looked at again
        self.past.do(label, edition)
        self._look_soon()
        return True

    def _may(self, now: Edition, then: Edition) -> bool:
        same = {name: getattr(now, name) for name in _ITS_OWN}
        if self.at_work and replace(then, **same) != now:
            self.said.emit("The edition is at work; stop it first, or let it come to its end")
            return False
        return True

    def undo(self) -> None:
        """Take back the last thing done."""
        if self.past.at and self._may(self.edition, self.past.entries[self.past.at - 1].value):
            self.past.take_back()
            self._look_soon()

    def redo(self) -> None:
        """Do it again."""
        following = self.past.following
        if following is not None and self._may(self.edition, following.value):
            self.past.do_again()
            self._look_soon()

    # Photographs

    def add(self, named: Sequence[Path]) -> Job:
        """Photographs, and those of folders; what is there already is not there twice."""
        return self.context.jobs.run(lambda _: photographs(named), Lane.READ, done=self._add, failed=self.warned)

    def _add(self, found: list[Path]) -> None:
        known = {entry.photo for entry in self.edition.entries}
        fresh = []
        for photo in map(_place, found):
            if photo not in known:
                known.add(photo)
                fresh.append(Entry(photo))
        if len(known) > MOST:
            self.warned.emit(tr("{most} photographs are the most that an edition has", most=MOST))
            return
        there = len(found) - len(fresh)
        more = tr("; {there} there already", there=there) if there else ""
        self._do(_photographs("Add", len(fresh)), replace(self.edition, entries=(*self.edition.entries, *fresh)))
        self.said.emit(
            tr("Added {count}{more}", count=_count(len(fresh)), more=more) if fresh else "They were there already"
        )

    def remove(self, places: Collection[int]) -> None:
        """They are none of the edition's any more; nothing happens to their files."""
        left = tuple(entry for k, entry in enumerate(self.edition.entries) if k not in places)
        self.put(_photographs("Take off", len(places)), entries=left)

    def leave_out(self, places: Collection[int], out: bool) -> None:
        """They are not printed, but stay; or are taken in again."""
        self._each(_photographs("Leave out" if out else "Take in", len(places)), places, out=out)

    def except_(self, photo: Path, script: Script | None) -> None:
        """A photograph is printed through a script of its own, or as all the others again."""
        places = [k for k, entry in enumerate(self.edition.entries) if entry.photo == photo]
        self._each(f"{photo.stem}, {'as the others' if script is None else 'an exception'}", places, own=script)

    def _each(self, label: str, places: Collection[int], **values: Any) -> None:
        every = enumerate(self.edition.entries)
        self.put(label, entries=tuple(replace(entry, **values) if k in places else entry for k, entry in every))

    def move(self, places: Collection[int], to: int) -> None:
        """In another order: they stand before what stands at a place now."""
        entries = self.edition.entries
        taken = tuple(entries[k] for k in sorted(places))
        before = tuple(entry for k, entry in enumerate(entries[:to]) if k not in places)
        after = tuple(entry for k, entry in enumerate(entries[to:], to) if k not in places)
        self.put(_photographs("Move", len(taken)), entries=(*before, *taken, *after))

    def in_order(self, by: str) -> None:
        """All of them, by ``name`` or by the ``time`` at which their files were written."""

        def sorted_(_: Job) -> list[Entry]:
            return sorted(self.edition.entries, key=_written if by == "time" else _by_name)

        def done(entries: list[Entry]) -> None:
            self.put(tr("In order of {by}", by=by), entries=tuple(entries))

        self.context.jobs.run(sorted_, Lane.READ, done=done)

    # How it stands

    def _look_soon(self) -> None:
        self.changed.emit()
        self._soon.start()
        self._keeping.start()

    def look(self, then: Callable[[], None] | None = None) -> None:
        """Find out how it stands with each; ``then`` is done once that is known."""
        self._soon.stop()
        self._then = then or self._then
        if self._looking is not None:
            self._again = True
            return
        edition = self.edition

        def work(job: Job) -> _Looked:
            tones = edition.tones
            try:
                if edition.match is not None and tones is None and edition.whence:
                    tones = _tones(edition)
                tasks = replace(edition, tones=tones).tasks()
            except (ValueError, FileError) as error:
                return _Looked(edition, [], [], str(error), tones)
            assert edition.folder is not None
            try:
                return _Looked(edition, tasks, standing(edition.folder, tasks, lambda: job.stopping), "", tones)
            except FileError as error:
                return _Looked(edition, tasks, [], str(error), tones)

        self._looking = job = self.context.jobs.run(work, Lane.READ, done=self._looked, failed=self._not_looked)
        job.ended.connect(self._looked_over)

    def _not_looked(self, words: str) -> None:
        self._then = None  # nobody knows what would be begun
        self.warned.emit(words)

    def _looked(self, found: _Looked) -> None:
        if found.edition is not self.edition:
            self._again = True
            return
        if found.tones != self.edition.tones:  # no step of its own: it belongs to what asked for it
            present = self.past.present
            self.past.entries[self.past.at] = Done(present.label, replace(present.value, tones=found.tones))
        self.tasks, self.problem = found.tasks, found.problem
        self.standing = {t.target.name: s for t, s in zip(found.tasks, found.standing, strict=False)}
        self.changed.emit()

    def _looked_over(self) -> None:
        self._looking = None
        if self._again:
            self._again = False
            self.look()
        elif self._then is not None:
            then, self._then = self._then, None
            then()

    def tiles(self) -> list[Tile]:
        """All of them in their order; of one photograph in several numbered prints, each of these."""
        edition = self.edition
        entries = list(enumerate(edition.entries))
        if edition.copies > 1 and len(edition.included) == 1:
            ((at, entry),) = [(k, entry) for k, entry in entries if not entry.out]
            copies = [f"{entry.photo.stem}  {k}/{edition.copies}" for k in range(1, edition.copies + 1)]
            return [replace(self._tile(at, entry, name, k), copy=k + 1) for k, name in enumerate(copies)]
        made, number = [], 0
        for at, entry in entries:
            made.append(self._tile(at, entry, entry.photo.stem, number))
            number += not entry.out
        return made

    def _tile(self, at: int, entry: Entry, name: str, number: int) -> Tile:
        if entry.out:
            return Tile(at, entry, name, State.OUT, State.OUT.value)
        own = " · exception" if entry.own is not None else ""
        task = self.tasks[number] if number < len(self.tasks) else None
        if task is None or task.photo != entry.photo:  # it has not been looked at since
            return Tile(at, entry, name, State.WAITING, f"waiting{own}")
        found = self.standing.get(task.target.name)
        result = found.known if found is not None else None
        if task.target.name in self.begun:
            return Tile(at, entry, name, State.WORKING, f"working{own}", result)
        if found is None or result is None or result.result == BEGUN:
            strange = found is not None and found.strange
            return Tile(at, entry, name, State.WAITING, f"waiting{', a file is there' if strange else ''}{own}")
        if found.holds:
            return Tile(at, entry, name, State.DONE, f"done{own}", result)
        if result.result == FAILED:
            reason = result.reason.removeprefix(f"{entry.photo.name}: ").partition(". ")[0]
            return Tile(at, entry, name, State.FAILED, reason, result)
        if result.result == LEFT:
            return Tile(at, entry, name, State.WAITING, tr("stays as it was{own}", own=own), result)
        return Tile(at, entry, name, State.CHANGED, f"changed{own or ' since'}", result)

    def small(self, entry: Entry, stages: bool = False) -> Wanted:
        """What its small picture is of."""
        edition = self.edition
        return Wanted(entry.photo, edition.asked_for(entry), edition.tones if entry.own is None else None, stages)

    @property
    def strange(self) -> int:
        """How many files are there by the names of prints that no edition made."""
        return sum(found.strange for found in self.standing.values())

    def whence(self, script: Script, whence: str, stem: str, state: int = 0, file: Path | None = None) -> None:
        """It is printed through a script: that of the bench, a state, a file."""
        asked = replace(self.edition.asked, script=_bare(script), file=file, recipe=None, base=Script(), values=())
        self.put(
            tr("Through {whence}", whence=whence),
            asked=asked,
            whence=whence,
            stem=stem,
            state=numeral(state) if state else "",
        )

    # Kept

    def keep(self) -> None:
        """Leave it for the next start, now."""
        self._keeping.stop()
        edition = self.edition
        self.context.jobs.run(lambda _: keep(edition), failed=self.warned)

    def keep_last(self) -> None:
        """The window closes."""
        if self._keeping.isActive():
            self._keeping.stop()
            edition = self.edition
            self.context.jobs.last(lambda: keep(edition))


def _printed_otherwise(now: Edition, then: Edition) -> bool:
    """Whether the print that all others are matched to may be another one."""
    if now.match != then.match or now.asked != then.asked or now.framed != then.framed:
        return True
    mine = [[entry.own for entry in one.entries if entry.photo == one.match] for one in (now, then)]
    return mine[0] != mine[1]


def _tones(edition: Edition) -> Tones:
    """Of the print that all others are brought to. Raises FileError."""
    assert edition.match is not None
    entry = next((entry for entry in edition.entries if entry.photo == edition.match), Entry(edition.match))
    return tones_through(edition.match, edition.asked_for(entry))


def _bare(script: Script) -> Script:
    return replace(script, sheets=(), states=(), origin=0)


def _place(path: Path) -> Path:
    return Path(os.path.abspath(path))


def _by_name(entry: Entry) -> str:
    return entry.photo.name.casefold()


def _written(entry: Entry) -> float:
    try:
        return entry.photo.stat().st_mtime
    except OSError:
        return float("inf")


def _count(count: int) -> str:
    return trn("{count} photograph", "{count} photographs", count, count=count)


def _photographs(what: str, count: int) -> str:
    return f"{what} {_count(count)}"
