"""The stops of a gradient as a list, and the colour of the chosen one by lightness, chroma and hue."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kyanoscript.core.colour import from_oklch, hex_of, parse_hex, to_oklch
from kyanoscript.core.params import Param, Stops
from kyanoscript.ui import controls, theme

_ROW = 26
_AXES = (
    Param("number", "Lightness", "How light the colour is", "%", 0, 100, 1, 1),
    Param("number", "Chroma", "How strong the colour is", "%", 0, 100, 1, 1),
    Param("number", "Hue", "Which colour it is", "°", 0, 360, 1, 1),
)
_MOST_CHROMA = 0.32  # Oklch chroma shown as 100 %: the strongest colour of the display reaches it


class StopList(QWidget):
    """One line a stop, darkest at the bottom as on the ladder."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.stops: Stops = ()
        self.current = 0
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down))  # see Window.eventFilter
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Stops")

    def show_stops(self, stops: Stops, current: int) -> None:
        """Show stops, one of them chosen."""
        self.stops, self.current = stops, current
        self.setFixedHeight(_ROW * len(stops))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(260, _ROW * len(self.stops))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.sans(13))
        for row, index in enumerate(reversed(range(len(self.stops)))):
            tone, ink = self.stops[index]
            box = QRectF(0, row * _ROW, self.width(), _ROW)
            if index == self.current:
                painter.fillRect(box, theme.colour("soft"))
            swatch = QRectF(8, box.top() + 5, 34, _ROW - 10)
            painter.fillRect(swatch, QColor(ink))
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawRect(swatch)
            painter.setPen(theme.colour("text"))
            painter.drawText(box.adjusted(52, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, ink)
            painter.setPen(theme.colour("quiet"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box.adjusted(0, 0, -8, 0), right, f"{tone:g} %")
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 1.6))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // _ROW)
        if 0 <= row < len(self.stops):
            self.chosen.emit(len(self.stops) - 1 - row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = 1 if event.key() == Qt.Key.Key_Up else -1
            self.chosen.emit(min(max(self.current + by, 0), len(self.stops) - 1))
        else:
            super().keyPressEvent(event)


class StopsEditor(QWidget):
    """Edits the stops of the selected pass together with the handles on the ladder."""

    began = Signal(str)
    moved = Signal(object)  # the stops
    ended = Signal()
    given_up = Signal()
    chosen = Signal(int)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.stops: Stops = ()
        self.current = 0
        self._asked: tuple[float, float, float] | None = None  # lightness, chroma, hue as last set by hand
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.list = StopList()
        self.list.chosen.connect(self.chosen)
        column.addWidget(self.list)
        row = QHBoxLayout()
        row.setContentsMargins(0, 4, 0, 0)
        row.addWidget(controls.label("Colour", quiet=True))
        self.hex = QLineEdit()
        self.hex.setFont(theme.sans(13))
        self.hex.setFixedWidth(84)
        self.hex.setAccessibleName("Colour of the stop, as #rrggbb")
        self.hex.editingFinished.connect(self._typed)
        row.addWidget(self.hex)
        row.addStretch()
        self.add = controls.word("Add", "Another stop, half-way to the next one")
        self.add.clicked.connect(self._add)
        row.addWidget(self.add)
        self.remove = controls.word("Remove", "Take the chosen stop away")
        self.remove.clicked.connect(self._remove)
        row.addWidget(self.remove)
        column.addLayout(row)
        self.axes = [controls.ValueSlider(spec, 0.0) for spec in _AXES]
        for axis in self.axes:
            axis.began.connect(lambda: self.began.emit("Colour of a stop"))
            axis.moved.connect(self._axis_moved)
            axis.ended.connect(self.ended)
            axis.given_up.connect(self.given_up)
            axis.refused.connect(self.refused)
            column.addWidget(axis)

    def show_stops(self, stops: Stops, current: int) -> None:
        """Show stops, one of them chosen."""
        current = min(max(current, 0), len(stops) - 1)
        if (stops, current) == (self.stops, self.current):
            return
        self.stops, self.current = stops, current
        self.list.show_stops(stops, current)
        ink = stops[current][1]
        self.hex.setText(ink)
        self.remove.setEnabled(len(stops) > 1)
        if self._asked is None or hex_of(from_oklch(*self._asked)) != ink:
            self._asked = None
            lightness, chroma, hue = (float(v) for v in to_oklch(np.array(parse_hex(ink)).reshape(3, 1))[:, 0])
            if chroma < 0.002:  # a gray has no hue of its own: leave the slider where it is
                hue, chroma = self.axes[2].value, 0.0
            for axis, value in zip(self.axes, (lightness * 100, chroma / _MOST_CHROMA * 100, hue), strict=True):
                axis.set_value(round(min(value, axis.spec.high), 1))
        self.updateGeometry()

    def _axis_moved(self, _: float) -> None:
        lightness, chroma, hue = (axis.value for axis in self.axes)
        self._asked = (lightness / 100, chroma / 100 * _MOST_CHROMA, hue)
        self._recolour(hex_of(from_oklch(*self._asked)))

    def _recolour(self, ink: str) -> None:
        self.moved.emit(tuple((t, ink if k == self.current else c) for k, (t, c) in enumerate(self.stops)))

    def _typed(self) -> None:
        text = self.hex.text().strip()
        text = text if text.startswith("#") else f"#{text}"
        try:
            ink = hex_of(parse_hex(text))
        except ValueError as wrong:
            self.refused.emit(str(wrong))
            self.hex.setText(self.stops[self.current][1])
            return
        if ink != self.stops[self.current][1]:
            self._recolour(ink)

    def _add(self) -> None:
        stops, k = self.stops, self.current
        other = k + 1 if k + 1 < len(stops) else k - 1
        tone = (stops[k][0] + stops[other][0]) / 2 if len(stops) > 1 else 50.0
        mixed = (np.array(parse_hex(stops[k][1])) + np.array(parse_hex(stops[other][1]))) / 2
        added = (round(tone, 1), hex_of(mixed))
        index = max(k, other) if len(stops) > 1 else int(stops[0][0] <= tone)
        self.moved.emit((*stops[:index], added, *stops[index:]))
        self.chosen.emit(index)

    def _remove(self) -> None:
        if len(self.stops) > 1:
            k = self.current
            self.moved.emit((*self.stops[:k], *self.stops[k + 1 :]))
            self.chosen.emit(min(k, len(self.stops) - 1))
