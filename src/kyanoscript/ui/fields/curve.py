"""A curve on its histogram: points to add, drag and take away."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from kyanoscript.core.params import Curve
from kyanoscript.core.tones import curve_at
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import tip

_EDGE = 8  # room at the rim, so that points there are whole
_SIZE = 252
_ENDS: Curve = ((0.0, 0.0), (255.0, 255.0))
_LINES = {"": "#17375E", "Red": "#A8443C", "Green": "#2F7A3A", "Blue": "#3B5BA8"}
_STEPS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, 1),
    Qt.Key.Key_Down: (0, -1),
}


class CurveEditor(QWidget):
    """Tone in to the right, tone out upwards. A press makes a point, a double-press on one takes it away."""

    began = Signal(str)
    moved = Signal(object)  # the points
    ended = Signal()
    given_up = Signal()

    def __init__(self, label: str, help: str, tint: str = "") -> None:
        super().__init__()
        self.points: Curve = _ENDS
        self.current = 0
        self.counts: NDArray[np.int64] = np.zeros(256, np.int64)
        self.label, self.tint = label, tint
        self.own_keys = frozenset((*_STEPS, Qt.Key.Key_Delete))  # see Window.eventFilter
        self._drag = False
        self.setFixedHeight(_SIZE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Curve: {label}", label=label))
        self.setAccessibleDescription(
            spoken("Arrows move the chosen point, Page up and down choose one, Delete takes it away")
        )
        tip(self, help)
        self.setMouseTracking(True)

    def sizeHint(self) -> QSize:
        return QSize(_SIZE, _SIZE)

    def show_curve(self, points: Curve) -> None:
        """Show a curve without announcing it."""
        points = points or _ENDS
        if points != self.points:
            self.points = points
            self.current = min(self.current, len(points) - 1)
            self.update()

    def set_counts(self, counts: NDArray[np.int64]) -> None:
        """Show another histogram behind it."""
        self.counts = counts
        self.update()

    def told(self) -> Told:
        """For assistive technology: the chosen point, and its tone out."""
        k = min(self.current, len(self.points) - 1)
        x, y = self.points[k]
        words = tr("Point {k} of {count}: {x:g} becomes {y:g}", k=k + 1, count=len(self.points), x=x, y=y)
        return Told(Role.Chart, words, y, 0.0, 255.0, 1.0, lambda value: self._move(k, x, value))

    def _box(self) -> QRectF:
        return QRectF(_EDGE, _EDGE, self.width() - 2 * _EDGE, self.height() - 2 * _EDGE)

    def place(self, tone_in: float, tone_out: float) -> QPointF:
        """Where a pair of tones lies in the widget."""
        box = self._box()
        return QPointF(box.left() + tone_in / 255 * box.width(), box.bottom() - tone_out / 255 * box.height())

    def tones(self, at: QPointF) -> tuple[float, float]:
        """The pair of tones at a place, held within 0…255."""
        box = self._box()
        x, y = (at.x() - box.left()) / box.width(), (box.bottom() - at.y()) / box.height()
        return float(round(min(max(x, 0), 1) * 255)), float(round(min(max(y, 0), 1) * 255))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self._box()
        painter.fillRect(box, theme.colour("field"))
        most = max(1.0, float(self.counts[1:255].max(initial=0)))
        bars = QPainterPath(box.bottomLeft())
        for tone in range(256):
            share = min(1.0, float(self.counts[tone]) / most) ** 0.6
            bars.lineTo(QPointF(box.left() + tone / 255 * box.width(), box.bottom() - share * box.height() * 0.9))
        bars.lineTo(box.bottomRight())
        painter.fillPath(bars, theme.colour("line"))
        painter.setPen(QPen(theme.colour("line"), 1))
        for k in range(1, 4):
            painter.drawLine(self.place(k * 64, 0), self.place(k * 64, 255))
            painter.drawLine(self.place(0, k * 64), self.place(255, k * 64))
        painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(self.place(0, 0), self.place(255, 255))
        focus = self.hasFocus()
        painter.setPen(QPen(theme.colour("accent" if focus else "line"), 2 if focus else 1))
        painter.drawRect(box)
        tones = np.linspace(0, 1, 129)
        values = curve_at(self.points, tones)
        painter.setPen(QPen(QColor(_LINES[self.tint]) if self.tint else theme.colour("accent"), 1.8))
        painter.drawPolyline(
            QPolygonF([self.place(t * 255, v * 255) for t, v in zip(tones.tolist(), values.tolist(), strict=True)])
        )
        for k, (x, y) in enumerate(self.points):
            painter.setBrush(theme.colour("accent" if k == self.current and focus else "panel"))
            painter.drawEllipse(self.place(x, y), 4.5, 4.5)
        if self.points:
            x, y = self.points[min(self.current, len(self.points) - 1)]
            painter.setFont(theme.sans(11))
            painter.setPen(theme.colour("quiet"))
            inner = box.adjusted(6, 4, -6, -4)
            painter.drawText(inner, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, spoken(f"{x:g} → {y:g}"))
        painter.end()

    def _at(self, at: QPointF) -> int | None:
        near = [
            ((away := self.place(*p) - at).x() ** 2 + away.y() ** 2, k) for k, p in enumerate(self.points)
        ]  # fmt: skip
        distance, k = min(near)
        return k if distance <= 81 else None

    def _set(self, points: Curve) -> None:
        self.points = points
        self.update()
        tell(self)
        self.moved.emit(() if points == _ENDS else points)

    def _move(self, k: int, x: float, y: float) -> None:
        """Move a point, between its neighbours."""
        low = self.points[k - 1][0] + 1 if k else 0.0
        high = self.points[k + 1][0] - 1 if k + 1 < len(self.points) else 255.0
        point = (min(max(x, low), high), min(max(y, 0.0), 255.0))
        if point != self.points[k]:
            self._set((*self.points[:k], point, *self.points[k + 1 :]))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        found = self._at(event.position())
        self.began.emit(tr("Curve: {label}", label=self.label.lower()))
        self._drag = True
        if found is None and len(self.points) < 32:
            x, y = self.tones(event.position())
            if all(abs(x - p[0]) >= 1 for p in self.points):
                points = tuple(sorted((*self.points, (x, y))))
                self.current = points.index((x, y))
                self._set(points)
                return
        self.current = self.current if found is None else found
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag:
            self._move(self.current, *self.tones(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag:
            self._drag = False
            self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._at(event.position())
        if found is not None:
            self.current = found
            self.remove_point()
        else:
            self.mousePressEvent(event)

    def remove_point(self) -> None:
        """Take the chosen point away; the last two stay."""
        if len(self.points) > 2:
            k = self.current
            self.current = max(0, k - 1)
            self._set((*self.points[:k], *self.points[k + 1 :]))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape and self._drag:
            self._drag = False
            self.given_up.emit()
        elif key in _STEPS:
            by = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            dx, dy = _STEPS[key]
            x, y = self.points[self.current]
            self._move(self.current, x + dx * by, y + dy * by)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            step = 1 if key == Qt.Key.Key_PageUp else -1
            self.current = min(max(self.current + step, 0), len(self.points) - 1)
            self.update()
        elif key == Qt.Key.Key_Delete:
            self.remove_point()
        else:
            super().keyPressEvent(event)
