"""A widget with several prints on a mat, which are zoomed and moved together: the wall, the strip."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QResizeEvent

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets.bykeyboard import ByKeyboard
from kyanoscript.ui.widgets.plain import hint

WHEEL = 1.25  # of the magnification, for one notch


class Prints(ByKeyboard):
    """What they have in common: mat, zoom, the held key to drag by, the keyboard's frame."""

    zoomed = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.mat = "mid gray"
        self.space = False  # the key to drag by is held
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken(name))
        hint(self, "The wheel zooms, Space and drag moves: all of them at the same place")
        self.setMinimumSize(240, 160)

    def refresh(self) -> None:
        """Ask for what should be seen."""
        raise NotImplementedError

    def show_whole(self) -> None:
        """All of every print."""
        raise NotImplementedError

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Another magnification, about a point of the widget or the middle."""
        raise NotImplementedError

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        raise NotImplementedError

    def show_actual(self, at: QPointF | None = None) -> None:
        """Actual pixels."""
        self.set_zoom(1.0, at)

    def hold_space(self, down: bool) -> None:
        """Space is held: the prints can be dragged."""
        self.space = down
        self.setCursor(Qt.CursorShape.OpenHandCursor if down else Qt.CursorShape.ArrowCursor)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh()
        self.zoomed.emit()

    def showEvent(self, event: object) -> None:
        self.refresh()
