"""The whole print at arm's length: small, with its white rim, in the first corner where it hides nothing to be taken
hold of."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import theme

_LONGEST = 112  # of the small print, in points of the screen
_GRIP = 9  # of a handle, and a little more
_ASIDE = (12.0, 40.0, 64.0, 96.0)  # from the rims: further in where handles lie near all corners
_RIM, _FOOT = 6, 19  # round it, and below it where its words are


def _near(box: QRectF, at: QPointF) -> bool:
    return box.adjusted(-_GRIP, -_GRIP, _GRIP, _GRIP).contains(at)


class Inset:
    """Keeps the print small, in the pixels it is shown in."""

    def __init__(self, easel: QWidget, grips: Callable[[], Iterable[QPointF]]) -> None:
        self._easel, self._grips = easel, grips
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
        places = [self._corner(k, aside, width, height) for aside in _ASIDE for k in range(4)]
        grips = list(self._grips())
        return next((box for box in places if not any(_near(box, at) for at in grips)), places[0])

    def _corner(self, k: int, aside: float, width: float, height: float) -> QRectF:
        """In a corner, the lower right one first, so far from the rims."""
        right, low = k % 2 == 0, k < 2
        x = self._easel.width() - width - aside if right else aside
        return QRectF(x, self._easel.height() - height - aside if low else aside, width, height)

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
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, spoken("at arm’s length"))
