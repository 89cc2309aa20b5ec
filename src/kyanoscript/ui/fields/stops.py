"""The stops of a gradient as a list, and the colour of the chosen one."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.params import Stops
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.fields.colour import ColourField
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell

_ROW = 26


class StopList(QWidget):
    """One line a stop, darkest at the bottom as on the ladder."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.stops: Stops = ()
        self.current = 0
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down))  # see Window.eventFilter
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Stops"))

    def show_stops(self, stops: Stops, current: int) -> None:
        """Show stops, one of them chosen."""
        self.stops, self.current = stops, current
        self.setFixedHeight(_ROW * len(stops))
        self.update()
        tell(self)

    def told(self) -> Told:
        """For assistive technology: the chosen stop."""
        if not self.stops:
            return Told(Role.List, "none", 0, 0, 0, 1.0, lambda _: None)
        tone, ink = self.stops[self.current]
        words = tr(
            "Stop {current} of {count}: {ink} at {tone:g} %",
            current=self.current + 1,
            count=len(self.stops),
            ink=ink,
            tone=tone,
        )
        last = len(self.stops) - 1
        return Told(Role.List, words, self.current, 0, last, 1.0, lambda value: self.chosen.emit(round(value)))

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
            painter.fillRect(swatch, display.ink(ink))
            painter.setPen(QPen(theme.colour("rim"), 1))
            painter.drawRect(swatch)
            painter.setPen(theme.colour("text"))
            painter.drawText(box.adjusted(52, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, spoken(ink))
            painter.setPen(theme.colour("quiet"))
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(box.adjusted(0, 0, -8, 0), right, spoken(f"{tone:g} %"))
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

    def __init__(self) -> None:
        super().__init__()
        self.stops: Stops = ()
        self.current = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.list = StopList()
        self.list.chosen.connect(self.chosen)
        column.addWidget(self.list)
        row = QHBoxLayout()
        row.setContentsMargins(0, 2, 0, 0)
        row.addWidget(furniture.label("Stops", quiet=True))
        row.addStretch()
        self.add = furniture.word("Add", "Another stop, half-way to the next one", act=self._add)
        row.addWidget(self.add)
        self.remove = furniture.word("Remove", "Take the chosen stop away", act=self._remove)
        row.addWidget(self.remove)
        column.addLayout(row)
        self.colour = ColourField("Colour of a stop")
        self.colour.began.connect(self.began)
        self.colour.moved.connect(self._recolour)
        self.colour.ended.connect(self.ended)
        self.colour.given_up.connect(self.given_up)
        column.addWidget(self.colour)

    def show_stops(self, stops: Stops, current: int) -> None:
        """Show stops, one of them chosen."""
        current = min(max(current, 0), len(stops) - 1)
        if (stops, current) == (self.stops, self.current):
            return
        self.stops, self.current = stops, current
        self.list.show_stops(stops, current)
        self.colour.show_colour(stops[current][1])
        self.remove.setEnabled(len(stops) > 1)
        self.updateGeometry()

    def _recolour(self, ink: str) -> None:
        self.moved.emit(tuple((t, ink if k == self.current else c) for k, (t, c) in enumerate(self.stops)))

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
