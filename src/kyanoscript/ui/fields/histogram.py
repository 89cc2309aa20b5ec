"""A histogram of what enters the pass, lying as the ladder lies: black at the bottom, white at the top."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.plain import tip

_HEIGHT = 112
_SCALE = 10  # pixels: width of the grays that stand beside it
_TINTS = {"": "#8E8E8E", "Red": "#B4605A", "Green": "#5C9360", "Blue": "#5F79B0"}


class Histogram(QWidget):
    """How much of the picture lies at each tone; what lies beyond the edges is pale."""

    def __init__(self) -> None:
        super().__init__()
        self.edges: list[float] = []  # tones 0…255 that are set on what comes in
        self.counts: NDArray[np.int64] = np.zeros(256, np.int64)
        self.tint = ""
        self.setFixedHeight(_HEIGHT)
        self.setAccessibleName(spoken("Histogram of what comes in, dark below; its tones are set on the ladder"))
        tip(self, "What comes in, dark below. Its tones are set on the ladder, or by the numbers here")

    def sizeHint(self) -> QSize:
        return QSize(260, _HEIGHT)

    def set_edges(self, edges: list[float]) -> None:
        """Show where blacks end and whites begin."""
        if edges != self.edges:
            self.edges = edges
            self.update()

    def set_counts(self, counts: NDArray[np.int64], tint: str) -> None:
        """Show another histogram."""
        self.counts, self.tint = counts, tint
        self.update()

    def y_of(self, tone: float) -> float:
        """Height of a tone 0…255."""
        return 1 + (1 - tone / 255) * (self.height() - 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        box = QRectF(_SCALE + 4, 0, self.width() - _SCALE - 5, self.height() - 1)
        painter.fillRect(box, theme.colour("field"))
        most = max(1.0, float(self.counts[1:255].max(initial=0)))
        ink, pale = QColor(_TINTS.get(self.tint, _TINTS[""])), theme.colour("line")
        low, high = (self.edges[0], self.edges[-1]) if len(self.edges) > 1 else (0.0, 255.0)
        step = (self.height() - 2) / 256
        for tone in range(256):
            y = self.y_of(tone + 0.5)
            painter.fillRect(QRectF(0, y, _SCALE, step + 1), QColor(tone, tone, tone))
            share = min(1.0, float(self.counts[tone]) / most) ** 0.6
            if share > 0:
                wide = max(1.0, share * (box.width() - 4))
                painter.fillRect(QRectF(box.left(), y, wide, step + 0.5), ink if low <= tone <= high else pale)
        painter.setPen(QPen(theme.colour("accent"), 1))
        for tone_ in self.edges:
            y = round(self.y_of(tone_)) + 0.5
            painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        painter.end()
