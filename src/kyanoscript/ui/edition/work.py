"""The edition at work: begun, paused, stopped, and how far it is."""

from __future__ import annotations

import threading
import time
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from contextlib import ExitStack
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from kyanoscript.files.editions import cluster
from kyanoscript.files.editions.edition import Edition
from kyanoscript.files.editions.manifest import Differs, Standing, checked
from kyanoscript.files.editions.printed import How, printed
from kyanoscript.files.editions.run import USUAL, Begun, Courtesy, jobs_for
from kyanoscript.files.editions.work import DONE, FAILED, LEFT, Result, Task
from kyanoscript.translation import tr
from kyanoscript.ui.edition.series import Series
from kyanoscript.ui.jobs.lanes import Job, Lane

_LOOK, _RESTS = 20, 12  # milliseconds between looks at whether a hand is at work, and looks until it rests


class Work(QObject):
    """One run of an edition at a time."""

    went = Signal()  # it began, paused, or is over
    said = Signal(str)
    warned = Signal(str)
    _happened = Signal(object)

    def __init__(self, series: Series) -> None:
        super().__init__(series)
        self._series, self._jobs = series, series.context.jobs
        self.running: Job | None = None
        self.checking: Job | None = None
        self.share_checked = 0.0
        self.paused = False
        self._pause = threading.Event()
        self._courtesy = Courtesy()
        self._quiet = 0  # looks in a row at which no hand was at work
        self._looks = QTimer(self)
        self._looks.setInterval(_LOOK)
        self._looks.timeout.connect(self._stand_back)
        self._count: Counter[str] = Counter()
        self._total = 0
        self._began = self._since = 0.0
        self._happened.connect(self._take)

    def start(self, only: Collection[str] = ()) -> None:
        """Print what is not there yet; ``only`` some, by the names of their prints. It has been looked at just now."""
        series = self._series
        edition, folder = series.edition, series.edition.folder
        if self.running is not None or series.problem or folder is None:
            return
        tasks = [task for task in series.tasks if not only or task.target.name in only]
        self._count.clear()
        self._total, self._began = len(tasks), time.monotonic()
        self.paused = False
        self._pause.clear()
        self.running = job = self._jobs.run(lambda job: self._work(job, edition, folder, tasks), Lane.EDITION)
        job.done.connect(lambda _: self._over(""))
        job.cancelled.connect(lambda: self._over("stopped; "))
        job.failed.connect(lambda text: self._over("", text))
        series.at_work = True
        self._looks.start()
        series.keep()
        self.went.emit()

    def _work(self, job: Job, edition: Edition, folder: Path, tasks: list[Task]) -> None:
        with ExitStack() as held:
            there = held.enter_context(cluster.connected(edition.cluster)) if edition.cluster else None
            room = there.room if there is not None else jobs_for(USUAL)
            how = How(min(edition.jobs or room, max(1, len(tasks))), True, edition.leaves, there, self._courtesy)
            happens = printed(tasks, folder, how, lambda: job.stopping, self._pause.is_set)
            held.callback(happens.close)
            for happened in happens:
                self._happened.emit(happened)

    def _stand_back(self) -> None:
        """While a hand is at work, and until it has rested for a moment, the window has the machine for itself."""
        self._quiet = self._quiet + 1 if self._series.context.service.idle() else 0
        self._courtesy.hold(self._quiet < _RESTS)

    def check(self, done: Callable[[Sequence[Differs], int], None]) -> None:
        """Compare what is there with what was written: ``done`` hears what differs, and how many were looked at."""
        folder = self._series.edition.folder
        if folder is None or self.checking is not None:
            return
        self.checking = job = self._jobs.run(
            lambda job: checked(folder, job.going), Lane.LONG, done=lambda found: done(found[1], len(found[0]))
        )
        job.failed.connect(self.warned)
        job.cancelled.connect(lambda: self.said.emit("Stopped; not every print was looked at"))
        job.progress.connect(lambda share: self._looked(share))
        job.ended.connect(self._checked)
        self._looked(0.0)

    def _looked(self, share: float) -> None:
        self.share_checked = share
        self.went.emit()

    def _checked(self) -> None:
        self.checking = None
        self.went.emit()

    def pause(self) -> None:
        """Begin no other, or go on."""
        if self.running is not None:
            self.paused = not self.paused
            (self._pause.set if self.paused else self._pause.clear)()
            if self.paused:
                self._since = time.monotonic()
            else:
                self._began += time.monotonic() - self._since  # it does not count in what is left
            self.went.emit()

    def stop(self) -> None:
        """What is being worked on is given up; all the rest stays. A check ends."""
        for job in (self.running, self.checking):
            if job is not None:
                job.cancel()

    def _take(self, happened: object) -> None:
        series = self._series
        if isinstance(happened, Begun):
            series.begun.add(happened.task.target.name)
        elif isinstance(happened, Result):
            series.begun.discard(happened.file)
            self._count[happened.result] += 1
            task = next((task for task in series.tasks if task.target.name == happened.file), None)
            holds = task is not None and happened.result == DONE and task.how == happened.how
            series.standing[happened.file] = Standing(happened, holds, False)
        else:
            self._count["there"] += 1
        series.changed.emit()

    def _over(self, words: str, wrong: str = "") -> None:
        series = self._series
        self.running, self.paused = None, False
        series.begun.clear()
        series.at_work = False
        self._looks.stop()
        self._courtesy.hold(False)
        done, failed, there, left = (self._count[what] for what in (DONE, FAILED, "there", LEFT))
        if wrong:
            self.warned.emit(wrong)
        else:
            told = [tr("{done} of {total} done", done=done, total=self._total)]
            told += [tr("{there} were there", there=there)] if there else []
            told += [tr("{left} left as they were", left=left)] if left else []
            told += [tr("{failed} could not be", failed=failed)] if failed else []
            (self.warned if failed else self.said).emit(
                tr("The edition: {words}{told}", words=words, told=", ".join(told))
            )
        self.went.emit()
        series.look()

    @property
    def share(self) -> float:
        """How much of it is over, 0…1."""
        return sum(self._count.values()) / self._total if self._total else 0.0

    def progress(self) -> str:
        """How far it is, in words."""
        over = sum(self._count.values())
        worked = over - self._count["there"]
        if self.paused:
            left = "paused; what was begun comes to its end" if self._series.begun else "paused"
        elif worked:
            left = tr(
                "about {minutes} left",
                minutes=_minutes((time.monotonic() - self._began) / worked * (self._total - over)),
            )
        else:
            left = "begun"
        failed = tr(", {count} failed", count=self._count[FAILED]) if self._count[FAILED] else ""
        return tr("{over} of {total}{failed} · {left}", over=over, total=self._total, failed=failed, left=left)


def _minutes(seconds: float) -> str:
    if seconds < 90:
        return tr("{max} seconds", max=max(1, round(seconds)))
    minutes = round(seconds / 60)
    return tr("{minutes} minutes", minutes=minutes) if minutes < 90 else tr("{minutes:.1f} hours", minutes=minutes / 60)
