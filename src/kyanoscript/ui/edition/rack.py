"""The left side of the Edition view: how many stand how, which of them are shown, and the words that bring in more."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.edition.series import State
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

_ROW = 28
_NAMES: dict[State | None, str] = {
    None: "All",
    State.WAITING: "Waiting",
    State.WORKING: "Working",
    State.DONE: "Done",
    State.CHANGED: "Changed since",
    State.FAILED: "Failed",
    State.OUT: "Left out",
}
_ALWAYS = (None, State.WAITING, State.DONE)


class _Counts(QWidget):
    """A press shows those alone."""

    chosen = Signal(object)  # a State, or None: all

    def __init__(self) -> None:
        super().__init__()
        self.counts: dict[State | None, int] = {}
        self.current: State | None = None
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Which photographs are shown"))
        hint(self, "How many stand how; a press shows only those")

    def rows(self) -> list[State | None]:
        """Those that there are any of, and some always."""
        return [what for what in _NAMES if self.counts.get(what) or what in _ALWAYS or what == self.current]

    def told(self) -> Told:
        """For assistive technology: what is shown, and how many they are."""
        rows = self.rows()
        at = rows.index(self.current)
        words = f"{_NAMES[self.current]}, {self.counts.get(self.current, 0)}"
        return Told(Role.List, words, at, 0, len(rows) - 1, 1.0, lambda value: self.chosen.emit(rows[round(value)]))

    def _at(self, at: QPointF) -> None:
        row = int(at.y() // _ROW)
        if 0 <= row < len(self.rows()):
            self.chosen.emit(self.rows()[row])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._at(event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        rows = self.rows()
        if by:
            self.chosen.emit(rows[min(max(rows.index(self.current) + by, 0), len(rows) - 1)])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.sans(13))
        middle = Qt.AlignmentFlag.AlignVCenter
        for k, what in enumerate(self.rows()):
            box = QRectF(0, k * _ROW, self.width(), _ROW - 2)
            if what == self.current:
                painter.fillRect(box, theme.colour("soft"))
                painter.fillRect(QRectF(0, box.y(), 3, box.height()), theme.colour("accent"))
                if self.hasFocus():
                    painter.setPen(theme.colour("accent"))
                    painter.drawRect(box.adjusted(0, 0, -1, -1))
            words = box.adjusted(16, 0, -14, 0)
            painter.setPen(theme.colour("warning" if what == State.FAILED else "text"))
            painter.drawText(words, middle, spoken(_NAMES[what]))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(words, middle | Qt.AlignmentFlag.AlignRight, spoken(str(self.counts.get(what, 0))))
        painter.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()


class Rack(QWidget):
    """Counts above, words below."""

    folder = Signal()
    photographs = Signal()
    recent = Signal()
    order = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(148)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 12)
        title = furniture.title("Photographs")
        title.setContentsMargins(16, 0, 0, 4)
        column.addWidget(title)
        self.counts = _Counts()
        column.addWidget(self.counts)
        column.addStretch()
        for text, help, act in (
            ("In order…", "By name, by time, or turned round; dragged to where they are wanted", self.order),
            ("From recent…", "What was opened lately, and what is on the bench", self.recent),
            ("Add a folder…", "Every photograph in it", self.folder),
            ("Add photographs…", "Some, by their names; they can be dropped on the window too", self.photographs),
        ):
            word = furniture.word(text, help, act=act)
            row = QHBoxLayout()
            row.setContentsMargins(10, 0, 0, 0)
            row.addWidget(word)
            row.addStretch()
            column.addLayout(row)

    def show_counts(self, counts: Mapping[State | None, int], current: State | None) -> None:
        """How many stand how, and which of them are shown."""
        self.counts.counts, self.counts.current = dict(counts), current
        self.counts.setFixedHeight(len(self.counts.rows()) * _ROW)
        self.counts.update()
        tell(self.counts)
