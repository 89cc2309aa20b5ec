"""Work with files, off the interface thread.

In lanes: what is short (the journal, saving, habits) never waits for a photograph that is being read, and neither of
them for a print that is being written, nor for an edition, which may take hours.
"""

from __future__ import annotations

import enum
import queue
import threading
import time
from collections.abc import Callable
from typing import Any, TypeVar

from PySide6.QtCore import QEventLoop, QObject, QTimer, Signal, SignalInstance

from kyanoscript.core import ending
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress

T = TypeVar("T")
UNFORESEEN = "Something went wrong that should not; your work is as it was. What it was stands in the log (Help, About)"


def in_words(name: str, work: Callable[[Job], T], advice: str = "") -> Callable[[Job], T]:
    """Work that says of values that cannot be what was meant for people, with the name of what they are of."""

    def run(job: Job) -> T:
        try:
            return work(job)
        except ValueError as error:
            raise FileError(name, str(error), advice) from error

    return run


class Lane(enum.Enum):
    """Which other work a job may have to wait for."""

    SHORT = "short writes"
    READ = "reading"
    LONG = "writing a print"
    SMALL = "looking at photographs"
    EDITION = "printing an edition"
    DESKTOP = "telling the desktop"


def until(over: Callable[[], bool], seconds: float = 1e9, hands: bool = True) -> bool:
    """Stay responsive until something is over, or for so long; whether it is over. ``hands``: to hands, too."""
    end = time.monotonic() + seconds
    loop, beat = QEventLoop(), QTimer()
    beat.timeout.connect(lambda: loop.quit() if over() or time.monotonic() > end else None)
    beat.start(10)
    flags = QEventLoop.ProcessEventsFlag
    if not over():
        loop.exec(flags.AllEvents if hands else flags.ExcludeUserInputEvents)
    beat.stop()
    return over()


class Job(QObject):
    """One piece of work. Its signals come out in the interface thread."""

    done = Signal(object)
    failed = Signal(str)
    progress = Signal(float)
    cancelled = Signal()
    ended = Signal()  # after one of these
    told = Signal()  # last of all: everybody who is connected to `ended` has been sent word

    def __init__(self) -> None:
        super().__init__()
        self.error: Exception | None = None  # what failed
        self._stop = threading.Event()

    def cancel(self) -> None:
        """Ask it to stop."""
        self._stop.set()

    @property
    def going(self) -> Progress:
        """What work with files is handed, to tell how far it is and to ask whether it is to stop."""
        return Progress(self.progress.emit, lambda: self.stopping)

    @property
    def stopping(self) -> bool:
        """Whether it has been asked to stop."""
        return self._stop.is_set()


class Jobs(QObject):
    """Runs jobs; those of one lane one after another in a thread of its own."""

    began = Signal(object, object)  # a job, and its lane

    def __init__(self) -> None:
        super().__init__()
        self._lanes: dict[Lane, queue.SimpleQueue[Callable[[], None] | None]] = {}
        self._threads: dict[Lane, threading.Thread] = {}
        self._running: set[Job] = set()
        self._stopped = False
        ending.in_order(self)

    def run(
        self,
        work: Callable[[Job], Any],
        lane: Lane = Lane.SHORT,
        done: Callable[[Any], object] | None = None,
        failed: Callable[[str], object] | SignalInstance | None = None,
    ) -> Job:
        """Start work that is handed its job, as soon as the caller is back in the event loop.

        done, failed : called in the interface thread with what came of it, or with what is wrong in words.
        """
        job = Job()
        for signal, then in ((job.done, done), (job.failed, failed)):
            if then is not None:
                signal.connect(then)
        self._running.add(job)
        # Not on `ended`: it would be let go while the thread still sends word to others, and they would never hear.
        job.told.connect(self._over)
        self.began.emit(job, lane)

        def go() -> None:
            try:
                result = work(job)
            except Cancelled:
                job.cancelled.emit()
            except FileError as error:
                job.error = error
                job.failed.emit(str(error))
            except MemoryError as error:
                job.error = error
                job.failed.emit("There is not enough memory for this. Close other programs, or make it smaller")
            except Exception as error:  # nothing that happens to a file may end the program
                log.note("work with a file failed", error)
                job.error = error
                job.failed.emit(UNFORESEEN)
            else:
                job.done.emit(result)
            finally:
                job.ended.emit()
                job.told.emit()

        # Not before the caller is back in the event loop: by then it has connected to the job's signals.
        QTimer.singleShot(0, lambda: None if self._stopped else self._put(lane, go))
        return job

    def _over(self, *_: object) -> None:
        """A job has ended, and told so. What is connected to it holds on to it, unseen by any collector."""
        job = self.sender()
        if isinstance(job, Job):
            self._running.discard(job)
            job.deleteLater()

    @property
    def busy(self) -> bool:
        """Whether something is under way."""
        return bool(self._running)

    def last(self, work: Callable[[], Any]) -> None:
        """Something short to be done before the end, when the event loop is over already."""

        def go() -> None:
            try:
                work()
            except Exception as error:
                log.note("the last work before the end failed", error)

        self._put(Lane.SHORT, go)

    def end(self) -> None:
        """Cancel what is running and let the threads end; `left` tells which have not."""
        self._stopped = True
        for job in list(self._running):
            job.cancel()
        for lane in self._threads:
            self._lanes[lane].put(None)

    def left(self) -> list[str]:
        """What has not ended yet, in words."""
        return [lane.value for lane, thread in self._threads.items() if thread.is_alive()]

    def stop(self) -> None:
        """Cancel what is running and wait for the threads to end."""
        self.end()
        for thread in self._threads.values():
            thread.join()

    def wait(self, seconds: float) -> None:
        """Wait for what is short, at most so long."""
        end = time.monotonic() + seconds
        done = threading.Event()
        self._put(Lane.SHORT, done.set)
        done.wait(max(0.0, end - time.monotonic()))

    def _put(self, lane: Lane, work: Callable[[], None]) -> None:
        if lane not in self._threads:
            self._lanes[lane] = queue.SimpleQueue()
            self._threads[lane] = threading.Thread(target=self._work, args=(lane,), name=lane.value, daemon=True)
            self._threads[lane].start()
        self._lanes[lane].put(work)

    def _work(self, lane: Lane) -> None:
        waiting = self._lanes[lane]
        while (work := waiting.get()) is not None:
            work()
