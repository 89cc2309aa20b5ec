"""The whole print at arm's length: small, with its white rim, in the corner where it hides least."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.ui.widgets import theme

_LONGEST = 112  # of the small print, in points of the screen
_RIM, _FOOT = 6, 19  # round it, and below it where its words are


class Inset:
    """Keeps the print small, in the pixels it is shown in."""

    def __init__(self, easel: QWidget) -> None:
        self._easel = easel
        self._size = QImage().size()
        self._small = QImage()

    def take(self, print_: QImage) -> None:
        """Another print."""
        self._size = print_.size()
        inner = self.box().adjusted(_RIM, _RIM, -_RIM, -_FOOT).size() * self._easel.devicePixelRatioF()
        self._small = print_.scaled(
            inner.toSize(), Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
        )

    def box(self) -> QRectF:
        """Where it is, with its rim."""
        share = _LONGEST / max(1, self._size.width(), self._size.height())
        width, height = self._size.width() * share + 2 * _RIM, self._size.height() * share + _RIM + _FOOT
        return QRectF(self._easel.width() - width - 12, self._easel.height() - height - 12, width, height)

    def repaint(self) -> None:
        """Draw it again."""
        self._easel.update(self.box().toAlignedRect().adjusted(-2, -2, 2, 2))

    def paint(self, painter: QPainter) -> None:
        """Unless the pointer is there to see what lies beneath."""
        box = self.box()
        if self._small.isNull() or box.contains(QPointF(self._easel.mapFromGlobal(self._easel.cursor().pos()))):
            return
        painter.fillRect(box, QColor("#FFFFFF"))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        painter.drawImage(box.adjusted(_RIM, _RIM, -_RIM, -_FOOT), self._small)
        painter.setFont(theme.serif(12.5, italic=True))
        painter.setPen(QColor("#5A5A5A"))
        words = QRectF(box.x(), box.bottom() - 18, box.width(), 16)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, "at arm’s length")
