"""A widget that shows when the keyboard came to it: easel, wall, strip and paper."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QFocusEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.ui.widgets import theme


class ByKeyboard(QWidget):
    """A press with the pointer needs no frame round the print; coming here by the keyboard does."""

    by_keyboard = False  # came here by the keyboard

    def paint_focus(self, painter: QPainter) -> None:
        """The frame of what has the keyboard, if it came by it."""
        if self.by_keyboard:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.by_keyboard = False
        self.update()
