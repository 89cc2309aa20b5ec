"""The print beside another: split by a line, or on two halves."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QImage, QPainter, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.ui.easel.notices import paint_caption
from kyanoscript.ui.service import display
from kyanoscript.ui.service.views import Shown
from kyanoscript.ui.widgets import theme

COMPARE = ("whole", "split", "side by side")


class Comparison:
    """How the print is compared, and with what."""

    def __init__(self, easel: QWidget) -> None:
        self._easel = easel
        self.how = COMPARE[0]
        self.against: str | int = "photo"  # or "without" the chosen pass, or the number of a state
        self.divide = 0.5  # share of the easel's width where a split lies
        self.beside: Shown | None = None  # the other picture
        self.image = QImage()

    def take(self, shown: Shown) -> None:
        """The other picture has come."""
        self.beside, self.image = shown, display.image(shown.pixels)

    def pane(self, how: str) -> QRectF:
        """The part of the easel where the print is: all of it, or the right half."""
        if how == "side by side":
            half = self._easel.width() / 2
            return QRectF(half, 0, self._easel.width() - half, self._easel.height())
        return QRectF(self._easel.rect())

    def edge(self, how: str) -> float:
        """Where the other picture ends, in points of the easel."""
        return self._easel.width() * self.divide if how == "split" else self.pane(how).left()

    def move_to(self, x: float) -> None:
        """The line of a split follows the hand."""
        self.divide = min(max(x / max(1, self._easel.width()), 0.02), 0.98)

    def over(self, at: QPointF, busy: bool) -> bool:
        """Whether a point is on the line of a split; while a tool is ``busy`` along it too, on its grip alone."""
        if abs(at.x() - self._easel.width() * self.divide) > 7:
            return False
        return not busy or self._grip().contains(at)

    def _grip(self) -> QRectF:
        return QRectF(self._easel.width() * self.divide - 7, self._easel.height() * 0.86 - 16, 14, 32)

    def paint(self, painter: QPainter, how: str, other: str) -> None:
        """The line between the two pictures, and what each is."""
        x = self.edge(how)
        painter.fillRect(QRectF(x - 1, 0, 2, self._easel.height()), theme.colour("panel"))
        if how == "split":
            grip = self._grip().adjusted(2, 2, -2, -2)
            painter.fillRect(grip, theme.colour("panel"))
            painter.setPen(QPen(theme.colour("accent"), 1.4))
            painter.drawRect(grip)
        paint_caption(painter, other, right=x - 8)
        paint_caption(painter, "the print", left=x + 8)
