"""The window on the screen, at once: it is there before the rest of the program is loaded, and then holds it."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QMainWindow, QWidget

from kyanoscript.files.remembered import Remembered
from kyanoscript.ui.widgets import theme


class Shell(QMainWindow):
    """Size and look as they were left; an empty easel under the masthead until the bench moves in."""

    def __init__(self, remembered: Remembered) -> None:
        super().__init__()
        self.setWindowTitle("Kyanoscript")
        self.setMinimumSize(960, 600)
        self.resize(*remembered.size)
        if remembered.maximised:
            self.setWindowState(Qt.WindowState.WindowMaximized)
        self._mat = theme.MATS.get(remembered.mat, "#8C8C8C")

    def hold(self, bench: QWidget) -> None:
        """The bench moves in."""
        self.setCentralWidget(bench)
        bench.setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.centralWidget() is not None:
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        painter.fillRect(133, 45, self.width() - 438, self.height() - 45 - 178, QColor(self._mat))
        painter.fillRect(0, 44, self.width(), 1, theme.colour("line"))
        painter.setPen(theme.colour("accent"))
        painter.setFont(theme.serif(23))
        painter.drawText(20, 0, 300, 44, Qt.AlignmentFlag.AlignVCenter, "Kyanoscript")
        painter.end()

    def closeEvent(self, event: QCloseEvent) -> None:
        bench = self.centralWidget()
        event.setAccepted(bench is None or bench.close())
