"""Work with files, off the interface thread."""

from __future__ import annotations

import threading
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from PySide6.QtCore import QObject, QTimer, Signal

from kyanoscript.files.errors import Cancelled, FileError


class Job(QObject):
    """One piece of work. Its signals come out in the interface thread."""

    done = Signal(object)
    failed = Signal(str)
    progress = Signal(float)
    cancelled = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._stop = threading.Event()

    def cancel(self) -> None:
        """Ask it to stop."""
        self._stop.set()

    @property
    def stopping(self) -> bool:
        """Whether it has been asked to stop."""
        return self._stop.is_set()


class Jobs:
    """Runs jobs one after another in a thread."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(1, "files")
        self._running: set[Job] = set()
        self._stopped = False

    def run(self, work: Callable[[Job], Any]) -> Job:
        """Start work that is handed its job, as soon as the caller is back in the event loop."""
        job = Job()
        self._running.add(job)
        job.done.connect(lambda _: self._running.discard(job))
        job.failed.connect(lambda _: self._running.discard(job))
        job.cancelled.connect(lambda: self._running.discard(job))

        def go() -> None:
            try:
                result = work(job)
            except Cancelled:
                job.cancelled.emit()
            except FileError as error:
                job.failed.emit(str(error))
            except Exception as error:  # nothing that happens to a file may end the program
                job.failed.emit(f"Something went wrong: {type(error).__name__}: {error}")
            else:
                job.done.emit(result)

        # Not before the caller is back in the event loop: by then it has connected to the job's signals.
        QTimer.singleShot(0, lambda: None if self._stopped else self._pool.submit(go))
        return job

    @property
    def busy(self) -> bool:
        """Whether something is under way."""
        return bool(self._running)

    def last(self, work: Callable[[], Any]) -> None:
        """Something to be done before the end, when the event loop is over already."""
        self._pool.submit(work)

    def stop(self) -> None:
        """Cancel what is running and end the thread."""
        self._stopped = True
        for job in list(self._running):
            job.cancel()
        self._pool.shutdown()
