"""The processes that there are: one's own, which are kept by themselves, those that ship, and none.

What was done can be taken back; files follow, in another thread.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.past import Past
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.files.kept import processfile
from kyanoscript.translation import tr
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Job, Jobs, Lane


@dataclass(frozen=True)
class _Own:
    """One's own processes after something was done."""

    processes: tuple[Process, ...] = ()
    name: str = ""  # the one that was looked at
    before: str = ""  # and before it was done


class Shelf(QObject):
    """Which process is looked at, and every change of it."""

    followed = Signal()  # another one, or the same changed

    def __init__(self, jobs: Jobs, foot: Foot) -> None:
        super().__init__()
        self._jobs, self._foot = jobs, foot
        self.own: tuple[Process, ...] = ()
        self.ships: tuple[Process, ...] = ()
        self.name = ""
        self._loaded = False
        self._past = Past(_Own())
        self._drag: tuple[str, _Own] | None = None  # what is being done, and how all was when it began

    def load(self, then: Callable[[], None]) -> None:
        """Read what is kept, once."""
        if self._loaded:
            then()
            return

        def done(found: tuple[tuple[list[Process], list[str]], list[Process]]) -> None:
            (own, broken), ships = found
            self.own, self.ships, self._loaded = tuple(own), tuple(ships), True
            self.name = self.name or self.processes[0].name
            self._past = Past(_Own(self.own, self.name))
            for line in broken[:1]:
                self._foot.warn(line)
            self.followed.emit()
            then()

        self._jobs.run(
            lambda job: (processfile.kept(), processfile.demos()), Lane.READ, done=done, failed=self._foot.warn
        )

    # Which

    @property
    def processes(self) -> tuple[Process, ...]:
        """One's own, those that ship, and none."""
        names = {process.name for process in self.own}
        return (*self.own, *(process for process in self.ships if process.name not in names), AS_IT_IS)

    @property
    def process(self) -> Process:
        """The one that is looked at."""
        return next((process for process in self.processes if process.name == self.name), self.processes[0])

    @property
    def mine(self) -> bool:
        """Whether it is one's own."""
        return any(process.name == self.name for process in self.own)

    def named(self, name: str) -> Process | None:
        """A process by its name; None if there is none."""
        return next((process for process in self.processes if process.name == name), None)

    def choose(self, at: int) -> None:
        """Look at another."""
        self.name = self.processes[at].name
        self.followed.emit()

    def free(self, name: str) -> str:
        """A name that no process has yet."""
        names = {process.name for process in self.processes}
        if name not in names:
            return name
        return next(f"{name} {k}" for k in range(2, 10_000) if f"{name} {k}" not in names)

    # What is done

    def add(self) -> None:
        """A new one."""
        name = self.free("New process")
        self._change(tr("New process: {name}", name=name), (*self.own, Process(name=name)), name)

    def take_over(self, process: Process) -> None:
        """One from a file."""
        made = process.with_(name=self.free(process.name))
        self._change(tr("Process {name} taken over", name=made.name), (*self.own, made), made.name)

    def put(self, words: str, **values: Any) -> None:
        """Change values of the process."""
        self.replace(words, self.process.with_(**values))

    def replace(self, words: str, made: Process) -> None:
        """Another in its place; of one that ships, or of none, an own one is made."""
        if made == self.process:
            return
        if self.process is AS_IT_IS and made.name == AS_IT_IS.name:
            made = made.with_(name=self.free("New process"), notes="")
        own = tuple(made if process.name == self.name else process for process in self.own)
        self._change(tr("Process: {words}", words=words), own if self.mine else (*self.own, made), made.name)

    def remove(self) -> None:
        """Take the process away."""
        if not self.mine:
            self._foot.say(tr("{name} is none of your own, and stays", name=self.process.name))
            return
        gone = self.name
        left = tuple(process for process in self.own if process.name != gone)
        self._change(tr("Process {gone} taken away", gone=gone), left, gone)
        if self.named(gone) is None:
            self.name = self.processes[0].name
            self.followed.emit()
        self._foot.say(tr("{gone} was taken away; Ctrl+Z brings it back", gone=gone))

    def _change(self, label: str, own: tuple[Process, ...], name: str) -> None:
        before, self.own, self.name = _Own(self.own, self.name), own, name
        if self._drag is None:
            self._done(label, before)
        else:
            self._drag = label, self._drag[1]
        self.followed.emit()

    def _done(self, label: str, before: _Own) -> None:
        self._past.do(label, _Own(self.own, self.name, before.name))
        self._keep(before.processes)

    def begin(self) -> None:
        """A drag begins: all of it is one thing done."""
        self._drag = "Process", _Own(self.own, self.name)

    def commit(self) -> None:
        """And is over."""
        drag, self._drag = self._drag, None
        if drag is not None and drag[1].processes != self.own:
            self._done(*drag)
            self.followed.emit()

    def abort(self) -> None:
        """It is given up: all is as it was when it began."""
        drag, self._drag = self._drag, None
        if drag is not None:
            self.own, self.name = drag[1].processes, drag[1].name
            self.followed.emit()

    @property
    def dragging(self) -> bool:
        """Whether a drag is under way."""
        return self._drag is not None

    def undo(self) -> None:
        """Take the last change back."""
        if (done := self._past.take_back()) is not None:
            self._go(done.value.before)

    def redo(self) -> None:
        """Do it again."""
        if (done := self._past.do_again()) is not None:
            self._go(done.value.name)

    def undo_words(self) -> tuple[str, str]:
        """What would be taken back, and done again."""
        return self._past.words

    def _go(self, name: str) -> None:
        before, self.own, self.name = self.own, self._past.present.value.processes, name
        self._keep(before)
        self.followed.emit()

    def _keep(self, before: tuple[Process, ...]) -> None:
        """Files become what the processes are."""
        own = self.own

        def work(job: Job) -> None:
            names = {process.name for process in own}
            for process in before:
                if process.name not in names:
                    processfile.remove(process)
            for process in own:
                if process not in before:
                    processfile.keep(process)

        self._jobs.run(work, Lane.SHORT).failed.connect(self._foot.warn)

    def import_(self, path: Path) -> Job:
        """Take a process from a file."""
        return self._jobs.run(
            lambda job: processfile.read_process(path), Lane.READ, done=self.take_over, failed=self._foot.warn
        )


def bath_of(process: Process, otherwise: str) -> str:
    """What of the bench darkroom a process is likely to be, by its words."""
    words = f"{process.name} {process.chemistry}".lower()
    return next((key for key, bath in BATHS.items() if bath.label.lower().split()[0][:8] in words), otherwise)


def about(process: Process) -> str:
    """A line about it."""
    if process is AS_IT_IS:
        return "no curve"
    parts = [process.paper, tr("{minutes:g} min", minutes=process.minutes)]
    return ", ".join(part for part in parts if part)
