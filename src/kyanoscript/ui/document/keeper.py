"""Keeps work safe: writes the journal while one works, and finds what an interrupted program left behind."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer, Signal

from kyanoscript.files.kept.journal import Journal, find_lost
from kyanoscript.translation import tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.jobs.lanes import Job, Jobs

_AFTER = 1500  # milliseconds of quiet after which a change is written
_LATEST = 5000  # and at the latest while one goes on working


class Keeper(QObject):
    """Follows one desk."""

    lost = Signal(object)  # Lost: work that can be taken up again
    said = Signal(str)

    def __init__(self, desk: Desk, jobs: Jobs) -> None:
        super().__init__()
        self.desk, self._jobs = desk, jobs
        self.journal = Journal()
        self._failed = False
        self._soon, self._latest = QTimer(self), QTimer(self)
        for timer, wait in ((self._soon, _AFTER), (self._latest, _LATEST)):
            timer.setSingleShot(True)
            timer.setInterval(wait)
            timer.timeout.connect(self.write)
        desk.script_changed.connect(self._changed)
        desk.history_changed.connect(self._changed)

    def look(self) -> None:
        """Look for lost work, off the interface thread."""
        self._jobs.run(lambda _: find_lost(), done=lambda found: self.lost.emit(found) if found is not None else None)

    def _changed(self, *_: object) -> None:
        self._soon.start()
        if not self._latest.isActive():
            self._latest.start()

    def write(self) -> Job:
        """Write the present work, or clear the journal when nothing would be lost."""
        self._soon.stop()
        self._latest.stop()
        work = self._writing()
        return self._jobs.run(lambda _: work(), failed=self._complain)

    def write_now(self) -> None:
        """Write it without going through the event loop, which is about to end."""
        self._jobs.last(self._writing())

    def _writing(self) -> Callable[[], None]:
        photo, script, file, digest = self.desk.photo, self.desk.whole, self.desk.file, self.desk.digest
        if photo is None or not self.desk.edited:
            return self.journal.clear
        path = photo.named
        return lambda: self.journal.write(path, script, file, digest)

    def _complain(self, text: str) -> None:
        if not self._failed:  # once is enough
            self._failed = True
            self.said.emit(tr("The work cannot be kept safe while you go on: {text}", text=text))

    def stop(self) -> None:
        """The window closes properly."""
        self._soon.stop()
        self._latest.stop()
        self._jobs.last(self.journal.close)  # after whatever is being written of it
