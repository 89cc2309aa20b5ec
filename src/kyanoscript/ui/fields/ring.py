"""The gray ring: a circle of hue with the picture's colours on it. Pull a hue out to lighten it, in to darken it."""

from __future__ import annotations

import functools
import math

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QConicalGradient, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.core.colour import from_oklch
from kyanoscript.core.params import Ring
from kyanoscript.core.passes.gray.gray_weights import lift_table
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import tip_at

_OUTER, _NEUTRAL, _REACH = 84.0, 54.0, 24.0  # radii: the band of hue, the circle of no lift, a lift of 100
_ROSE = 42.0  # radius of the picture's strongest hue, from the hole of 10 outwards
_HIT = 9.0
_KEYS = (
    Qt.Key.Key_Left,
    Qt.Key.Key_Right,
    Qt.Key.Key_Up,
    Qt.Key.Key_Down,
    Qt.Key.Key_Insert,
    Qt.Key.Key_Delete,
)


@functools.lru_cache(maxsize=1024)
def _whole_hue(hue: int, chroma: float, lightness: float) -> QColor:
    r, g, b = from_oklch(lightness, chroma, hue)
    return QColor.fromRgbF(r, g, b)


def _hue_colour(hue: float, chroma: float = 0.13, lightness: float = 0.72) -> QColor:
    """A colour of that hue; whole degrees are kept, since the ring is drawn again with every step of a drag."""
    return _whole_hue(round(hue) % 360, chroma, lightness)


class RingEditor(QWidget):
    """Edits the handles of a ring. Press on the curve adds one, double-press takes it away."""

    began = Signal(str)
    moved = Signal(object)  # tuple of (hue, lift)
    ended = Signal()
    given_up = Signal()

    def __init__(self, label: str, help: str) -> None:
        super().__init__()
        self.ring: Ring = ()
        self.own_keys = frozenset(_KEYS)  # see Window.eventFilter
        self.rose: list[float] = []
        self.chosen = 0
        self._drag: int | None = None
        self.setFixedHeight(174)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(spoken(label))
        self.setAccessibleDescription(
            tr(
                "{help}. Left and right choose a handle, up and down lift it, Shift with left and "
                "right turns it, Insert adds one, Delete takes it away",
                help=help,
            )
        )

    def sizeHint(self) -> QSize:
        return QSize(260, 174)

    def set_ring(self, ring: Ring) -> None:
        """Show handles without announcing them."""
        if ring != self.ring:
            self.ring = ring
            self.chosen = min(self.chosen, max(0, len(ring) - 1))
            self.update()

    def set_rose(self, rose: list[float]) -> None:
        """Show how much of each hue the picture has."""
        self.rose = rose
        self.update()

    def told(self) -> Told:
        """For assistive technology: the chosen handle, and its lift."""
        if not self.ring:
            return Told(Role.Dial, "No handle: no hue is lifted", 0.0, -100.0, 100.0, 2.0, lambda _: self._add())
        k = self.chosen
        hue, lift = self.ring[k]
        words = tr(
            "Handle {k} of {count}: hue {hue:.0f} degrees, lift {lift:.0f}",
            k=k + 1,
            count=len(self.ring),
            hue=hue,
            lift=lift,
        )
        return Told(Role.Dial, words, lift, -100.0, 100.0, 2.0, lambda value: self._put(k, hue, value))

    def _centre(self) -> QPointF:
        return QPointF(self.width() / 2, self.height() / 2)

    def point(self, hue: float, lift: float) -> QPointF:
        """Where a handle lies."""
        radius = _NEUTRAL + lift / 100 * _REACH
        angle = math.radians(hue)
        return self._centre() + QPointF(radius * math.cos(angle), -radius * math.sin(angle))

    def _at(self, point: QPointF) -> tuple[float, float]:
        """Hue and lift of a point."""
        away = point - self._centre()
        hue = math.degrees(math.atan2(-away.y(), away.x())) % 360
        lift = (math.hypot(away.x(), away.y()) - _NEUTRAL) / _REACH * 100
        return round(hue, 1) % 360, float(round(min(max(lift, -100.0), 100.0)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        centre = self._centre()
        hues = QConicalGradient(centre, 0)
        for k in range(25):
            hues.setColorAt(k / 24, _hue_colour(k * 15))
        band = QPen(hues, 7)
        painter.setPen(band)
        painter.drawEllipse(centre, _OUTER, _OUTER)
        painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
        painter.drawEllipse(centre, _NEUTRAL, _NEUTRAL)
        self._paint_rose(painter, centre)
        path = QPainterPath()
        lifts = lift_table(self.ring)
        steps = len(lifts) - 1
        for k in range(0, steps + 1, 4):
            at = self.point(k * 360 / steps, float(lifts[k]) * 100)
            path.lineTo(at) if k else path.moveTo(at)
        painter.setPen(QPen(theme.colour("accent"), 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        for k, (hue, lift) in enumerate(self.ring):
            chosen = self.hasFocus() and k == self.chosen
            painter.setPen(QPen(theme.colour("accent"), 2.4 if chosen else 1.4))
            painter.setBrush(_hue_colour(hue) if chosen else theme.colour("panel"))
            painter.drawEllipse(self.point(hue, lift), 5, 5)
        if not self.ring:
            painter.setFont(theme.sans(11))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(
                QRectF(0, centre.y() + 34, self.width(), 18), Qt.AlignmentFlag.AlignHCenter, spoken("pull the circle")
            )
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.end()

    def _paint_rose(self, painter: QPainter, centre: QPointF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        count = len(self.rose)
        for k, share in enumerate(self.rose):
            if share < 0.02:
                continue
            start = k * 360 / count
            radius = 10 + share * (_ROSE - 10)
            petal = QPainterPath(centre)
            box = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius)
            petal.arcTo(box, start, 360 / count)
            petal.closeSubpath()
            painter.setBrush(_hue_colour(start + 180 / count, 0.15, 0.66))
            painter.drawPath(petal)
        painter.setBrush(theme.colour("panel"))
        painter.drawEllipse(centre, 8, 8)

    def _handle_at(self, point: QPointF) -> int | None:
        for k, (hue, lift) in enumerate(self.ring):
            away = point - self.point(hue, lift)
            if math.hypot(away.x(), away.y()) <= _HIT:
                return k
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        away = at - self._centre()
        radius = math.hypot(away.x(), away.y())
        if event.button() != Qt.MouseButton.LeftButton or not 24 < radius < _OUTER + 6:
            return
        found = self._handle_at(at)
        hue, lift = self._at(at)
        self.began.emit("Pull the gray ring")
        if found is None:
            if radius > _OUTER - 5 or len(self.ring) >= 64:
                lift = 0.0  # pressed on the band of hue: a handle there, to be pulled
            self.ring = (*self.ring, (hue, lift))
            found = len(self.ring) - 1
            self.moved.emit(self.ring)
        self._drag = self.chosen = found
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        hue, lift = self._at(event.position())
        if self._drag is None:
            if self._handle_at(event.position()) is not None:
                self.setCursor(theme.HAND)
            else:
                self.setCursor(Qt.CursorShape.ArrowCursor)
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            hue = self.ring[self._drag][0]  # Shift keeps the hue
        self._put(self._drag, hue, lift)
        tip_at(event.globalPosition().toPoint(), tr("hue {hue:.0f}°  lift {lift:+.0f}", hue=hue, lift=lift), self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._handle_at(event.position())
        if found is not None:
            self._take_away(found)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, shift = event.key(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if key == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = None
            self.given_up.emit()
        elif key == Qt.Key.Key_Insert or (key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and not self.ring):
            self._add()
        elif key == Qt.Key.Key_Delete and self.ring:
            self._take_away(self.chosen)
        elif key in _KEYS and self.ring:
            hue, lift = self.ring[self.chosen]
            if key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                by = (10 if shift else 2) * (1 if key == Qt.Key.Key_Up else -1)
                self._put(self.chosen, hue, min(max(lift + by, -100.0), 100.0))
            elif shift:
                self._put(self.chosen, (hue + (2 if key == Qt.Key.Key_Left else -2)) % 360, lift)
            else:
                order = sorted(range(len(self.ring)), key=lambda k: self.ring[k][0])
                place = order.index(self.chosen) + (1 if key == Qt.Key.Key_Left else -1)
                self.chosen = order[place % len(order)]
                self.update()
        else:
            super().keyPressEvent(event)

    def _put(self, index: int, hue: float, lift: float) -> None:
        self.ring = tuple((hue, lift) if k == index else h for k, h in enumerate(self.ring))
        self.update()
        tell(self)
        self.moved.emit(self.ring)

    def _add(self) -> None:
        """A handle at the picture's strongest hue that has none yet."""
        taken = [h for h, _ in self.ring]
        order = sorted(range(len(self.rose)), key=lambda k: -self.rose[k]) or [12]
        each = 360 / max(1, len(self.rose))
        free = [k for k in order if all(abs((k * each - h + 180) % 360 - 180) > 20 for h in taken)] or order
        self.chosen = len(self.ring)
        self.ring = (*self.ring, ((free[0] + 0.5) * each % 360, 0.0))
        self.update()
        self.moved.emit(self.ring)

    def _take_away(self, index: int) -> None:
        self._drag = None
        self.ring = tuple(h for k, h in enumerate(self.ring) if k != index)
        self.chosen = max(0, min(self.chosen, len(self.ring) - 1))
        self.update()
        self.moved.emit(self.ring)
        self.ended.emit()
