"""The window in the desktop's session: one for all files, notices when long work has ended, awake while it goes on."""

from __future__ import annotations

import contextlib
import os
import time
from pathlib import Path

from PySide6.QtCore import ClassInfo, QObject, QTimer, QUrl, Slot
from PySide6.QtWidgets import QWidget

from kyanoscript.files.base import bus
from kyanoscript.ui.commands.opening import Opening
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Job, Jobs, Lane

_LONG = 10.0  # seconds: of what took longer people have gone on to something else
_TOLD = (Lane.LONG, Lane.EDITION)


@ClassInfo({"D-Bus Interface": bus.OPENS})  # type: ignore[call-arg]
class _Application(QObject):  # type: ignore[operator]
    """What other starts of the program, and the desktop, ask of this one."""

    def __init__(self, opening: Opening, window: QWidget) -> None:
        super().__init__(window)
        self._opening, self._window = opening, window

    @Slot("QVariantMap")
    def Activate(self, platform: object) -> None:
        top = self._window.window()
        top.show()
        top.raise_()
        top.activateWindow()

    @Slot("QStringList", "QVariantMap")
    def Open(self, uris: list[str], platform: object) -> None:
        self.Activate(platform)
        files = [Path(QUrl(uri).toLocalFile()) for uri in uris if QUrl(uri).isLocalFile()]
        if files:  # not before the caller has its answer: somebody may be asked whether the work may be lost
            QTimer.singleShot(0, lambda: self._opening.open(files[0]))


class Session(QObject):
    """Lives as long as the window."""

    def __init__(self, jobs: Jobs, opening: Opening, foot: Foot, window: QWidget) -> None:
        super().__init__(window)
        self._jobs, self._foot, self._window = jobs, foot, window
        self._began: dict[Job, float] = {}
        self._awake: bus.Awake | None = None
        self._application = _Application(opening, window)
        jobs.began.connect(self._begins)

    def take_name(self) -> None:
        """From now on other starts of the program bring their files here."""
        if not bus.there():
            return
        with contextlib.suppress(ImportError):
            from PySide6.QtDBus import QDBusConnection

            session = QDBusConnection.connectToBus(os.environ["DBUS_SESSION_BUS_ADDRESS"], "kyanoscript")
            flag = QDBusConnection.RegisterOption.ExportAllSlots
            if session.registerObject(bus.PLACE, self._application, flag):
                session.registerService(bus.NAME)

    def _begins(self, job: Job, lane: Lane) -> None:
        if lane not in _TOLD:
            return
        self._began[job] = time.monotonic()
        job.ended.connect(self._ends)
        if len(self._began) == 1:
            self._jobs.run(self._keep_awake, Lane.DESKTOP)

    def _ends(self) -> None:
        job = self.sender()
        if not isinstance(job, Job) or job not in self._began:
            return
        took = time.monotonic() - self._began.pop(job)
        if not self._began:
            self._jobs.run(self._let_sleep, Lane.DESKTOP)
        if took > _LONG and not job.stopping and not self._window.window().isActiveWindow():
            QTimer.singleShot(0, self._tell)  # once the foot says what came of it

    def _tell(self) -> None:
        said = self._foot.message.text() or "What was under way has ended"
        self._jobs.run(lambda _: bus.notify("Kyanoscript", said), Lane.DESKTOP)

    def _keep_awake(self, _: Job) -> None:
        self._awake = bus.Awake("A print is being written")

    def _let_sleep(self, _: Job) -> None:
        if self._awake is not None:
            self._awake.release()
            self._awake = None
