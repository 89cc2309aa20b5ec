"""The window on the screen, at once: it is there before the rest of the program is loaded, and then holds it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QCloseEvent, QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QMainWindow, QWidget

from kyanoscript.files.kept.remembered import Remembered
from kyanoscript.translation import spoken
from kyanoscript.ui.easel.glimpse import paint_glimpse
from kyanoscript.ui.widgets import theme

LEAST = 940, 520  # of the window: what a screen of 1920 × 1080 at 200 % has room for


class Shell(QMainWindow):
    """Size and look as they were left; an empty easel under the masthead until the bench moves in."""

    def __init__(self, remembered: Remembered) -> None:
        super().__init__()
        self.setWindowTitle(spoken("Kyanoscript"))
        self.setMinimumSize(*LEAST)
        self.resize(*remembered.size)
        if remembered.maximised:
            self.setWindowState(Qt.WindowState.WindowMaximized)
        self.glimpse = QImage()
        self._mat = theme.MATS.get(remembered.mat, "#8C8C8C")

    def show_glimpse(self, image: QImage) -> None:
        """A print is about to be opened, of which there is a small picture."""
        self.glimpse = image
        self.update()

    def hold(self, bench: QWidget) -> None:
        """The bench moves in."""
        self.setCentralWidget(bench)
        bench.setFocus()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.centralWidget() is not None:
            return
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        easel = QRectF(133, 45, self.width() - 438, self.height() - 45 - 178)
        painter.fillRect(easel, QColor(self._mat))
        paint_glimpse(painter, easel, self.glimpse)
        painter.fillRect(0, 44, self.width(), 1, theme.colour("line"))
        painter.setPen(theme.colour("accent"))
        painter.setFont(theme.serif(23))
        painter.drawText(20, 0, 300, 44, Qt.AlignmentFlag.AlignVCenter, spoken("Kyanoscript"))
        painter.end()

    def closeEvent(self, event: QCloseEvent) -> None:
        bench = self.centralWidget()
        event.setAccepted(bench is None or bench.close())
