"""How a process answers, with its readings and their error, and the curve that makes it even."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from kyanoscript.core.colour import to_encoded
from kyanoscript.core.process.aims import Array, aimed, y_from
from kyanoscript.core.process.process import POINTS
from kyanoscript.translation import spoken
from kyanoscript.ui.sheet.process.worked import Worked
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.bykeyboard import ByKeyboard
from kyanoscript.ui.widgets.plain import hint

_LINES = 129
_STRIP = np.linspace(0, 100, 21)
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}


class CurveView(ByKeyboard):
    """Tones wanted from left to right; how dark the print gets, or what the film gets, upwards."""

    pointed = Signal(float)  # a tone wanted, 0…100; −1: none

    def __init__(self) -> None:
        super().__init__()
        self.worked: Worked | None = None
        self.tone = -1.0
        self.own_keys = frozenset(_STEPS)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Curve"))
        hint(
            self,
            "What the print makes of the film's values, and the curve that makes it even",
            "Kinks are readings that went wrong: leave them out",
        )
        self.setMinimumSize(160, 160)

    def show_worked(self, worked: Worked | None) -> None:
        """Another process, or the same changed."""
        self.worked = worked
        self.update()
        tell(self)

    def told(self) -> Told:
        """For assistive technology: a tone, and what becomes of it."""
        words = self.worked.at(max(0.0, self.tone)) if self.worked is not None else ""
        return Told(Role.Slider, words or "no readings yet", max(0.0, self.tone), 0, 100, 1.0, self._go)

    def box(self) -> QRectF:
        """Where the curve is drawn."""
        return QRectF(self.rect()).adjusted(34, 24, -24, -104)

    def _go(self, tone: float) -> None:
        if tone != self.tone:
            self.tone = tone
            self.pointed.emit(tone)
            self.update()
            tell(self)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        box = self.box()
        self._go(min(max(100 * (event.position().x() - box.x()) / box.width(), 0.0), 100.0))

    def leaveEvent(self, event: object) -> None:
        if not self.hasFocus():
            self._go(-1.0)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = _STEPS.get(Qt.Key(event.key()), 0)
        if step:
            self._go(min(max(round(self.tone) + step, 0), 100))
        else:
            super().keyPressEvent(event)

    # Drawn

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = self.box()
        self._grid(painter, box)
        worked = self.worked
        if worked is not None and worked.response is not None and worked.curve is not None:
            self._lines(painter, box, worked)
        elif worked is not None:
            painter.setPen(theme.colour("warning" if worked.wrong else "quiet"))
            words = worked.wrong or "No readings yet. Print the wedge, expose it, scan it, and read it."
            painter.drawText(box.adjusted(20, 20, -20, -20), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap,
                             spoken(words))  # fmt: skip
        self.paint_focus(painter)
        painter.end()

    def _grid(self, painter: QPainter, box: QRectF) -> None:
        painter.setPen(QPen(theme.colour("line"), 1))
        for k in range(5):
            x, y = box.x() + box.width() * k / 4, box.y() + box.height() * k / 4
            painter.drawLine(QPointF(x, box.y()), QPointF(x, box.bottom()))
            painter.drawLine(QPointF(box.x(), y), QPointF(box.right(), y))
        painter.setFont(theme.sans(11))
        painter.setPen(theme.colour("quiet"))
        below = QRectF(box.x(), box.bottom() + 5, box.width(), 16)
        painter.drawText(below, Qt.AlignmentFlag.AlignLeft, "0 %")
        painter.drawText(below, Qt.AlignmentFlag.AlignHCenter, spoken("tone wanted"))
        painter.drawText(below, Qt.AlignmentFlag.AlignRight, "100 %")
        painter.setPen(QPen(theme.colour("quiet"), 1, Qt.PenStyle.DotLine))
        painter.drawLine(box.bottomLeft(), box.topRight())

    def _lines(self, painter: QPainter, box: QRectF, worked: Worked) -> None:
        found = worked.response
        assert found is not None
        assert worked.curve is not None
        tall = max(1e-6, found.white - found.deepest)

        def at(x: float, dark: float) -> QPointF:
            return QPointF(box.x() + box.width() * x / 100, box.bottom() - box.height() * min(max(dark, -0.04), 1.04))

        def dark(lightness: float) -> float:
            return (found.white - lightness) / tall

        xs = np.linspace(0, 100, _LINES)
        light = found.at(xs)
        band = 2 * np.interp(xs, found.grid, found.band)
        edge = [at(x, dark(v)) for x, v in zip(xs, light + band, strict=True)]
        edge += [at(x, dark(v)) for x, v in zip(xs[::-1], (light - band)[::-1], strict=True)]
        haze = QColor(theme.colour("quiet"))
        haze.setAlpha(50)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(haze)
        painter.drawPolygon(QPolygonF(edge))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("quiet"), 1.6))
        painter.drawPolyline(QPolygonF([at(x, dark(v)) for x, v in zip(xs, light, strict=True)]))
        film = np.interp(xs, np.linspace(0, 100, POINTS), worked.curve)
        painter.setPen(QPen(theme.colour("accent"), 2.2))
        painter.drawPolyline(QPolygonF([at(x, v / 100) for x, v in zip(xs, film, strict=True)]))
        wanted = aimed(worked.process.aim, xs, found.white, found.deepest)
        painter.setPen(QPen(theme.colour("accent"), 1, Qt.PenStyle.DashLine))
        if worked.process.aim != "lightness":
            painter.drawPolyline(QPolygonF([at(x, dark(v)) for x, v in zip(xs, wanted, strict=True)]))
        painter.setPen(QPen(theme.colour("text"), 1.4))
        painter.setBrush(theme.colour("panel"))
        for value, mean in zip(found.values, found.means, strict=True):
            painter.drawEllipse(at(float(value), dark(float(mean))), 3.4, 3.4)
        painter.setBrush(theme.colour("accent"))
        painter.setPen(Qt.PenStyle.NoPen)
        for one in worked.left:
            painter.drawRect(QRectF(at(one.tone, dark(one.read)) - QPointF(2.5, 2.5), at(one.tone, dark(one.read))
                                    + QPointF(2.5, 2.5)))  # fmt: skip
        if self.tone >= 0:
            painter.setPen(QPen(theme.colour("text"), 1))
            x = box.x() + box.width() * self.tone / 100
            painter.drawLine(QPointF(x, box.y()), QPointF(x, box.bottom()))
        self._strips(painter, box, found.at(_STRIP), aimed(worked.process.aim, _STRIP, found.white, found.deepest))
        self._legend(painter, box, bool(worked.left))

    def _strips(self, painter: QPainter, box: QRectF, before: Array, after: Array) -> None:
        """Even tones as they print without the curve, and with it."""
        wide = box.width() / len(_STRIP)
        for row, tones in enumerate((before, after)):
            y = box.bottom() + 26 + 17 * row
            for k, lightness in enumerate(tones):
                gray = float(to_encoded(y_from(float(lightness))))
                shade = QColor.fromRgbF(*[min(max(gray, 0.0), 1.0)] * 3)
                painter.fillRect(QRectF(box.x() + k * wide, y, wide + 0.6, 15), shade)
            painter.setFont(theme.sans(10))
            painter.setPen(QColor("#1C1C1C"))  # on the lightest tone, in either look
            words = ("before", "after")[row]
            painter.drawText(QRectF(box.x() + 4, y, 60, 15), Qt.AlignmentFlag.AlignVCenter, spoken(words))

    def _legend(self, painter: QPainter, box: QRectF, proved: bool) -> None:
        painter.setFont(theme.sans(12))
        metrics, y, x = painter.fontMetrics(), box.bottom() + 64, box.x()
        entries = [("○", "read", "text"), ("—", "the process", "quiet"), ("—", "the curve of the film", "accent")]
        if proved:
            entries.append(("■", "proved", "accent"))
        for sign, words, ink in entries:
            painter.setPen(theme.colour(ink))
            text = f"{sign} {spoken(words)}"
            if x > box.x() and x + metrics.horizontalAdvance(text) > self.width() - 4:
                x, y = box.x(), y + 19
            painter.drawText(QRectF(x, y, 220, 18), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, text)
            x += metrics.horizontalAdvance(text) + 16
