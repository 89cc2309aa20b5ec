"""A histogram of what enters the pass, with the pass's tones as marks that can be dragged."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from kyanoscript.core.params import Param
from kyanoscript.ui import theme

_EDGE = 7  # room at both ends, so that marks at 0 and 255 are whole
_HEIGHT = 78
_TINTS = {"": "#8E8E8E", "Red": "#B4605A", "Green": "#5C9360", "Blue": "#5F79B0"}


class HistogramMarks(QWidget):
    """Marks beneath a histogram: tones that come in, a middle between the first two, and tones that go out."""

    began = Signal(str)
    moved = Signal(str, float)  # parameter, value
    ended = Signal()
    given_up = Signal()

    def __init__(self, specs: dict[str, Param]) -> None:
        super().__init__()
        self.specs = specs
        self.values: dict[str, float] = {}
        self.counts: NDArray[np.int64] = np.zeros(256, np.int64)
        self.tint = ""
        self._drag: str | None = None
        self.setFixedHeight(_HEIGHT + 40)
        self.setMouseTracking(True)
        self.setAccessibleName("Histogram of what comes in")

    def sizeHint(self) -> QSize:
        return QSize(260, _HEIGHT + 40)

    def set_values(self, values: dict[str, float]) -> None:
        """Show values without announcing them."""
        if values != self.values:
            self.values = values
            self.update()

    def set_counts(self, counts: NDArray[np.int64], tint: str) -> None:
        """Show another histogram."""
        self.counts, self.tint = counts, tint
        self.update()

    def _names(self, mark: str) -> list[str]:
        return [name for name, spec in self.specs.items() if spec.mark == mark]

    def x_of(self, tone: float) -> float:
        """Place of a tone 0…255."""
        return _EDGE + tone / 255 * (self.width() - 2 * _EDGE)

    def place(self, name: str) -> QPointF:
        """Where a parameter's mark lies."""
        spec = self.specs[name]
        if spec.mark == "out":
            return QPointF(self.x_of(self.values[name]), _HEIGHT + 28)
        if spec.mark == "mid":
            black, white = (self.values[n] for n in self._names("in"))
            share = 0.5 ** self.values[name]  # the tone that becomes the middle
            return QPointF(self.x_of(black + share * (white - black)), _HEIGHT + 4)
        return QPointF(self.x_of(self.values[name]), _HEIGHT + 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(_EDGE, 0, self.width() - 2 * _EDGE, _HEIGHT)
        painter.fillRect(box, theme.colour("field"))
        counts = self.counts.astype(float)
        most = max(1.0, float(counts[1:255].max(initial=0)))
        path = QPainterPath(QPointF(box.left(), box.bottom()))
        for tone in range(256):
            height = min(1.0, counts[tone] / most) ** 0.6 * (_HEIGHT - 3)
            path.lineTo(QPointF(self.x_of(tone), box.bottom() - height))
        path.lineTo(QPointF(box.right(), box.bottom()))
        painter.fillPath(path, QColor(_TINTS.get(self.tint, _TINTS[""])))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        if self.values:
            self._paint_marks(painter)
        painter.end()

    def _paint_marks(self, painter: QPainter) -> None:
        outs = self._names("out")
        if outs:
            strip = QRectF(_EDGE, _HEIGHT + 17, self.width() - 2 * _EDGE, 9)
            ramp = QLinearGradient(strip.left(), 0, strip.right(), 0)
            ramp.setColorAt(0, QColor(0, 0, 0))
            ramp.setColorAt(1, QColor(255, 255, 255))
            painter.fillRect(strip, ramp)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawRect(strip)
        fills = {"in": ("#000000", "#FFFFFF"), "mid": ("#8C8C8C",), "out": ("#000000", "#FFFFFF")}
        for mark, inks in fills.items():
            for name, ink in zip(self._names(mark), inks, strict=False):
                at = self.place(name)
                painter.setPen(QPen(theme.colour("accent"), 2.2 if name == self._drag else 1.2))
                painter.setBrush(QColor(ink))
                painter.drawPolygon(QPolygonF([at, at + QPointF(-5.5, 10), at + QPointF(5.5, 10)]))

    def _mark_at(self, at: QPointF) -> str | None:
        """The nearest mark under a point; where several lie on one spot, the one that can still move."""
        near = []
        for name in self.specs:
            away = self.place(name) + QPointF(0, 5) - at
            if abs(away.x()) <= 8 and abs(away.y()) <= 9:
                near.append((abs(away.x()), name))
        if not near:
            return None
        best = [name for distance, name in near if distance <= min(near)[0] + 0.5]
        # Two marks on white: the black one could go left, so take that; on black the white one.
        return best[0] if len(best) == 1 or at.x() > self.width() / 2 else best[-1]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._drag = self._mark_at(event.position())
            if self._drag is not None:
                self.setFocus()
                self.began.emit(f"Levels: {self.specs[self._drag].label.lower()}")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            over = bool(self.values) and self._mark_at(event.position()) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
            return
        spec = self.specs[self._drag]
        tone = (event.position().x() - _EDGE) / (self.width() - 2 * _EDGE) * 255
        if spec.mark == "mid":
            black, white = (self.values[n] for n in self._names("in"))
            share = min(max((tone - black) / max(1.0, white - black), 0.001), 0.99)
            value = round(float(np.log(share) / np.log(0.5)), 2)
        else:
            value = float(round(tone))
            if spec.mark == "in" and len(self._names("in")) == 2:  # black stays below white
                black_name, white_name = self._names("in")
                if self._drag == black_name:
                    value = min(value, self.values[white_name] - 1)
                else:
                    value = max(value, self.values[black_name] + 1)
        value = min(max(value, spec.low), spec.high)
        if value != self.values[self._drag]:
            self.values = {**self.values, self._drag: value}
            self.update()
            self.moved.emit(self._drag, value)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.ended.emit()
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = None
            self.given_up.emit()
        else:
            super().keyPressEvent(event)
