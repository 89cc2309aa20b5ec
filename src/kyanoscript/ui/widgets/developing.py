"""Holding to develop: a strength that comes up from nothing as long as something is held."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, QTimer, Signal

_SECONDS = 6.0  # from nothing to the full strength


class Developing(QObject):
    """The clock of it."""

    came = Signal(float)  # the strength so far, 0…100

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.seconds = _SECONDS
        self._began = 0.0
        self._clock = QTimer(self)
        self._clock.setInterval(16)
        self._clock.timeout.connect(self._tick)

    @property
    def running(self) -> bool:
        """Whether it is held."""
        return self._clock.isActive()

    def start(self) -> None:
        """From nothing."""
        self._began = time.monotonic()
        self._clock.start()
        self._tick()

    def stop(self) -> bool:
        """Let go. False if it was not held."""
        was = self.running
        self._clock.stop()
        return was

    def _tick(self) -> None:
        share = min(1.0, (time.monotonic() - self._began) / self.seconds)
        self.came.emit(round(share * 100, 1))
