"""The ladder: black at the bottom, white at the top. The gray going in, how much of it there is, the colour coming out.

It looks at the selected tray: the histogram is of what enters that pass, the colours are what becomes of each gray by
the end of the run. Passes that place colours on the scale of tones have their handles here.
"""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QToolTip, QWidget

from kyanoscript.core.colour import ZONES, hex_of
from kyanoscript.core.params import Stop
from kyanoscript.ui import theme
from kyanoscript.ui.desk import Desk
from kyanoscript.ui.easel import Easel
from kyanoscript.ui.service import RenderService, Spot, Survey

_TOP, _BOTTOM = 44, 26  # room for the title and for the figures beneath
_GRAY, _BARS, _COLOUR = (32, 12), (50, 40), (96, 14)  # left edge and width of the three columns
_HIT = 7  # pixels around a handle
_KEYS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Delete)


class Ladder(QWidget):
    """Shows the tones of the selected pass and holds its stops."""

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.desk, self.easel = desk, easel
        self._survey: Survey | None = None
        self._spot: Spot | None = None
        self._drag: int | None = None
        self._zone: int | None = None
        self._still: QPixmap | None = None
        self._drawn: tuple[Stop, ...] | None = None  # the stops as last drawn
        self.setFixedWidth(132)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Ladder of tones")
        service.survey.connect(self._take)
        service.spot.connect(self._take_spot)
        easel.left.connect(lambda: self._take_spot(None))
        desk.script_changed.connect(self._follow)
        for signal in (desk.selection_changed, desk.handle_changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(132, 400)

    def _follow(self, *_: object) -> None:
        """Only the handles follow the script at once; the rest comes with the next survey."""
        if self.stops() != self._drawn:
            self.update(_COLOUR[0] + _COLOUR[1], 0, self.width(), self.height())

    def _take(self, survey: Survey) -> None:
        old, self._survey = self._survey, survey
        same = old is not None and old.out_ends == survey.out_ends
        same = same and np.array_equal(old.wedge, survey.wedge) and np.array_equal(old.histogram, survey.histogram)
        if not same:
            self._still = None
            self.update()

    def redraw(self) -> None:
        """Draw everything again, in another look."""
        self._still = None
        self.update()

    def _take_spot(self, spot: Spot | None) -> None:
        self._spot = spot
        self.update()

    # Tones and places

    def _scale(self) -> tuple[float, float]:
        return float(_TOP), float(self.height() - _BOTTOM)

    def y_of(self, tone: float) -> float:
        """Height on the widget of a tone 0…1."""
        top, bottom = self._scale()
        return bottom - tone * (bottom - top)

    def tone_at(self, y: float) -> float:
        """Tone 0…1 at a height of the widget."""
        top, bottom = self._scale()
        return min(max((bottom - y) / (bottom - top), 0.0), 1.0)

    @property
    def own_keys(self) -> frozenset[Qt.Key]:
        """Keys that are not shortcuts while the ladder has the keyboard; see Window.eventFilter."""
        return frozenset(_KEYS) if self.stops() is not None else frozenset()

    def stops(self) -> tuple[Stop, ...] | None:
        """The stops of the selected pass, if it has any."""
        return getattr(self.desk.selected_pass, "stops", None)

    def paintEvent(self, event: QPaintEvent) -> None:
        ratio = self.devicePixelRatioF()
        if self._still is None or self._still.size() != self.size() * ratio:
            self._still = QPixmap(self.size() * ratio)
            self._still.setDevicePixelRatio(ratio)
            self._paint_still(QPainter(self._still))
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_stops(painter)
        self._paint_spot(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def _paint_still(self, painter: QPainter) -> None:
        """All that changes only with a survey: drawn once, since a drag repaints the handles many times a second."""
        painter.fillRect(self.rect(), theme.colour("panel"))
        painter.setFont(theme.serif(18))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(16, 6, 110, 30), Qt.AlignmentFlag.AlignVCenter, "Ladder")
        self._paint_zones(painter)
        self._paint_bars(painter)
        self._paint_colours(painter)
        painter.end()

    def _paint_zones(self, painter: QPainter) -> None:
        top, bottom = self._scale()
        gray = QLinearGradient(0, bottom, 0, top)
        gray.setColorAt(0, QColor(0, 0, 0))
        gray.setColorAt(1, QColor(255, 255, 255))
        painter.fillRect(QRectF(_GRAY[0], top, _GRAY[1], bottom - top), gray)
        painter.setFont(theme.sans(11))
        step = (bottom - top) / 11
        for k, name in enumerate(ZONES):
            y = bottom - k * step
            painter.setPen(theme.colour("quiet"))
            box = QRectF(0, y - step, 27, step)
            painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, name)
            if k:
                painter.fillRect(QRectF(_GRAY[0], y, _GRAY[1], 1), theme.colour("panel"))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(QRectF(_GRAY[0] - 0.5, top - 0.5, _GRAY[1] + 1, bottom - top + 1))

    def _paint_bars(self, painter: QPainter) -> None:
        if self._survey is None:
            return
        counts = self._survey.histogram.astype(float)
        # The very ends often hold a spike that would flatten everything else.
        most = max(1.0, float(np.percentile(counts, 99.5)), float(counts[1:255].max()))
        top, bottom = self._scale()
        height = (bottom - top) / 64
        shares = np.minimum(counts.reshape(64, 4).mean(1) / most, 1) ** 0.6
        bars = [
            QRectF(_BARS[0], bottom - (k + 1) * height, max(1.0, share * _BARS[1]), max(1.0, height - 1))
            for k, share in enumerate(shares.tolist())
            if share > 0
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#8E8E8E"))
        painter.drawRects(bars)
        black, white = self._survey.out_ends
        clipped = max(black, white) >= 0.0005
        painter.setFont(theme.sans(10.5))
        painter.setPen(theme.colour("warning" if max(black, white) > 0.02 else "quiet"))
        text = f"clips {black:.1%} · {white:.1%}".replace("%", " %") if clipped else "no clipping"
        painter.drawText(QRectF(4, bottom + 4, 126, 18), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_colours(self, painter: QPainter) -> None:
        if self._survey is None:
            return
        top, bottom = self._scale()
        wedge = np.ascontiguousarray(self._survey.wedge[::-1]).reshape(256, 1, 3)
        image = QImage(wedge.data, 1, 256, 3, QImage.Format.Format_RGB888)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(_COLOUR[0], top, _COLOUR[1], bottom - top), image)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(_COLOUR[0] - 0.5, top - 0.5, _COLOUR[1] + 1, bottom - top + 1))

    def _paint_stops(self, painter: QPainter) -> None:
        self._drawn = self.stops()
        for k, (tone, ink) in enumerate(self._drawn or ()):
            y = self.y_of(tone / 100)
            x = _COLOUR[0] + _COLOUR[1] + 2
            chosen = k == self.desk.handle
            painter.setPen(QPen(theme.colour("accent"), 2.2 if chosen else 1.2))
            painter.setBrush(QColor(ink))
            painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x + 12, y - 6), QPointF(x + 12, y + 6)]))

    def _paint_spot(self, painter: QPainter) -> None:
        if self._spot is None:
            return
        y = self.y_of(self._spot.entering)
        painter.setPen(QPen(theme.colour("accent"), 1.5))
        painter.drawLine(QPointF(_GRAY[0] - 3, y), QPointF(_COLOUR[0] + _COLOUR[1] + 2, y))

    # Handles and zones

    def _stop_at(self, at: QPointF) -> int | None:
        stops = self.stops()
        if stops is None or at.x() < _COLOUR[0] + _COLOUR[1]:
            return None
        near = [(abs(self.y_of(tone / 100) - at.y()), k) for k, (tone, _) in enumerate(stops)]
        distance, index = min(near)
        return index if distance <= _HIT else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        found = self._stop_at(at)
        if found is not None:
            self.desk.choose_handle(found)
            self.desk.begin("Move a stop")
            self._drag = found
        elif self.stops() is not None and at.x() >= _COLOUR[0]:
            self._add_stop(self.tone_at(at.y()))
        elif at.x() < _GRAY[0] + _GRAY[1]:
            self._zone = min(10, int(self.tone_at(at.y()) * 11))
            self.easel.hold_zone(self._zone)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._move_stop(self._drag, self.tone_at(event.position().y()) * 100)
            return
        over_handle = self._stop_at(event.position()) is not None
        self.setCursor(Qt.CursorShape.SizeVerCursor if over_handle else Qt.CursorShape.ArrowCursor)
        if event.position().x() < _GRAY[0] + _GRAY[1]:
            zone = ZONES[min(10, int(self.tone_at(event.position().y()) * 11))]
            QToolTip.showText(event.globalPosition().toPoint(), f"Hold to see where zone {zone} is", self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.desk.commit()
        if self._zone is not None:
            self._zone = None
            self.easel.hold_zone(None)
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._stop_at(event.position())
        if found is not None:
            self.desk.abort()
            self._drag = None
            self.remove_stop(found)
        else:
            self.mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down move the chosen stop, left and right choose another, Insert adds one, Delete takes it away."""
        stops = self.stops()
        if stops is None:
            super().keyPressEvent(event)
            return
        chosen = min(self.desk.handle, len(stops) - 1)
        step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        match event.key():
            case Qt.Key.Key_Escape if self._drag is not None:
                self._drag = None
                self.desk.abort()
            case Qt.Key.Key_Up:
                self._move_stop(chosen, stops[chosen][0] + step)
            case Qt.Key.Key_Down:
                self._move_stop(chosen, stops[chosen][0] - step)
            case Qt.Key.Key_Left:
                self.desk.choose_handle(max(0, chosen - 1))
            case Qt.Key.Key_Right:
                self.desk.choose_handle(min(len(stops) - 1, chosen + 1))
            case Qt.Key.Key_Insert:
                self._add_stop(min(1.0, stops[chosen][0] / 100 + 0.1))
            case Qt.Key.Key_Delete:
                self.remove_stop(chosen)
            case _:
                super().keyPressEvent(event)

    def _move_stop(self, index: int, tone: float) -> None:
        """Move a stop between its neighbours: stops never pass one another, so dark stays at its end."""
        stops = list(self.stops() or ())
        low = stops[index - 1][0] if index else 0.0
        high = stops[index + 1][0] if index + 1 < len(stops) else 100.0
        stops[index] = (round(min(max(tone, low), high), 1), stops[index][1])
        self.desk.set_values("Move a stop", merge="stop", stops=tuple(stops))

    def _add_stop(self, tone: float) -> None:
        """Put a stop where the scale is, with the colour it has there."""
        stops = self.stops() or ()
        one = self.desk.selected_pass
        if one is None or len(stops) >= 64:
            return
        from kyanoscript.core.passes.toning.gradient_map import tone_table

        colours = tone_table(stops, one.smoothness, one.mix)  # type: ignore[attr-defined]
        ink = hex_of(colours[:, round(tone * (colours.shape[1] - 1))])
        added = (round(tone * 100, 1), ink)
        index = sum(s[0] <= added[0] for s in stops)
        self.desk.set_values("Add a stop", stops=(*stops[:index], added, *stops[index:]))
        self.desk.choose_handle(index)

    def remove_stop(self, index: int) -> None:
        """Take a stop away; the last one stays."""
        stops = self.stops() or ()
        if len(stops) > 1:
            self.desk.set_values("Remove a stop", stops=(*stops[:index], *stops[index + 1 :]))
            self.desk.choose_handle(min(index, len(stops) - 2))
