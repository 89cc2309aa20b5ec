"""The tray of tints: swatches in groups, one group shown at a time."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Iterable, Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kyanoscript.core.tint.tints import TINTS
from kyanoscript.translation import spoken
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint, tip_at

_CELL, _ROW = 29, 25
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -9, Qt.Key.Key_Down: 9}


class Tints(QWidget):
    """Swatches to press."""

    chosen = Signal(str)
    pointed = Signal(str)  # the tint under the pointer; "": none

    def __init__(self, group: str = "") -> None:
        super().__init__()
        hint(self, "Tints of a tray: the next dab has the one that is pressed", "Strong ones leave no gray between")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(3)
        self.group = shrinking("Group of tints")
        for name in TINTS:
            self.group.addItem(spoken(name), name)
        self.group.setCurrentIndex(max(0, self.group.findData(group)))
        column.addWidget(self.group)
        self.tray = _Tray()
        column.addWidget(self.tray)
        self.tray.chosen.connect(self.chosen)
        self.tray.pointed.connect(self.pointed)
        self.group.currentIndexChanged.connect(lambda at: self.tray.show_group(self.group.itemData(at)))
        self.tray.show_group(self.group.currentData())


class Swatches(QWidget):
    """A row of tints to point at and press: what both rows have. Which tints there are, and what is done, each says."""

    pointed = Signal(str)  # the tint under the pointer, or that the keyboard is on; "": none

    def __init__(self, name: str, cell: int, high: int, keys: Iterable[Qt.Key]) -> None:
        super().__init__()
        self.own_keys = frozenset((*keys, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space))
        self._cell, self._high = cell, high
        self._at, self._over = 0, -1
        self.setFixedHeight(high)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken(name))
        self.setCursor(theme.HAND)
        self.setMouseTracking(True)

    @property
    @abstractmethod
    def inks(self) -> Sequence[str]:
        """The tints, #rrggbb."""

    @abstractmethod
    def _words(self, k: int) -> str:
        """What is said of a tint."""

    @abstractmethod
    def _chose(self, k: int) -> None:
        """One of them was pressed."""

    def _under(self, x: float) -> int:
        k = int(x // self._cell)
        return k if 0 <= k < len(self.inks) else -1

    def _point(self, k: int) -> None:
        if k != self._over:
            self._over = k
            self.pointed.emit(self.inks[k] if 0 <= k < len(self.inks) else "")

    def _look_at(self, index: float) -> None:
        self._at = round(index)
        self.update()
        tell(self)

    def _take(self, k: int) -> None:
        if 0 <= k < len(self.inks):
            self._at = k
            self._point(-1)
            self.update()
            self._chose(k)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._point(self._under(event.position().x()))

    def leaveEvent(self, event: object) -> None:
        self._point(-1)

    def hideEvent(self, event: object) -> None:
        self._point(-1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._take(self._under(event.position().x()))

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            k = self._under(event.pos().x())
            if k >= 0:
                tip_at(event.globalPos(), self._words(k), self)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]  # the same event that came


class _Tray(Swatches):
    chosen = Signal(str)

    def __init__(self) -> None:
        super().__init__("Tints", _CELL, _ROW, _STEPS)
        self._tints: tuple[tuple[str, str], ...] = ()

    @property
    def inks(self) -> Sequence[str]:
        return [ink for _, ink in self._tints]

    def _words(self, k: int) -> str:
        return self._tints[k][0]

    def _chose(self, k: int) -> None:
        self.chosen.emit(self._tints[k][1])

    def sizeHint(self) -> QSize:
        return QSize(9 * _CELL, _ROW)

    def told(self) -> Told:
        """For assistive technology: the tint that is looked at."""
        last = max(0, len(self._tints) - 1)
        words = self._tints[self._at][0] if self._tints else "none"
        return Told(Role.List, words, self._at, 0, last, 1.0, self._look_at)

    def show_group(self, name: str) -> None:
        """Show the tints of a group."""
        self._tints, self._at = TINTS.get(name, ()), 0
        self.update()

    def box(self, k: int) -> QRectF:
        """Where a tint is."""
        return QRectF(k * _CELL, 1, _CELL - 3, _ROW - 2)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        for k, (_, ink) in enumerate(self._tints):
            painter.fillRect(self.box(k), display.ink(ink))
            here = self.hasFocus() and k == self._at
            painter.setPen(QPen(theme.colour("accent" if here else "line"), 2 if here else 1))
            painter.drawRect(self.box(k))
        painter.end()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in _STEPS and self._tints:
            self._at = min(max(self._at + _STEPS[key], 0), len(self._tints) - 1)
            self.setAccessibleDescription(spoken(self._tints[self._at][0]))
            self.update()
        elif key in self.own_keys and self._tints:
            self._take(self._at)
        else:
            super().keyPressEvent(event)
