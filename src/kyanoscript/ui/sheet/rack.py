"""What there is by name, at the left: sheets, processes."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

_ROW = 50


class _Lines(QWidget):
    chosen = Signal(int)

    def __init__(self, name: str) -> None:
        super().__init__()
        self.lines: tuple[tuple[str, str], ...] = ()
        self.current = 0
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken(name))
        hint(self, "A press chooses; F2 names it, Del takes it away")

    def told(self) -> Told:
        """For assistive technology: the chosen one."""
        words = ", ".join(self.lines[self.current]) if self.lines else "none"
        last = max(0, len(self.lines) - 1)
        return Told(Role.List, words, self.current, 0, last, 1.0, lambda value: self.chosen.emit(round(value)))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        row = int(event.position().y() // _ROW)
        if 0 <= row < len(self.lines):
            self.chosen.emit(row)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()), 0)
        if step and self.lines:
            self.chosen.emit(min(max(self.current + step, 0), len(self.lines) - 1))
        elif not step:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        for k, (name, about) in enumerate(self.lines):
            box = QRectF(0, k * _ROW, self.width(), _ROW - 6)
            if k == self.current:
                painter.fillRect(box, theme.colour("soft"))
                painter.fillRect(QRectF(0, box.y(), 3, box.height()), theme.colour("accent"))
            for text, pixels, y, ink in ((name, 13, 4, "text"), (about, 11, 23, "quiet")):
                painter.setFont(theme.sans(pixels))
                painter.setPen(theme.colour(ink))
                shown = painter.fontMetrics().elidedText(spoken(text), Qt.TextElideMode.ElideRight, self.width() - 22)
                painter.drawText(
                    QRectF(16, box.y() + y, self.width() - 20, 18),
                    Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
                    spoken(shown),
                )
        painter.end()


class SheetRack(QWidget):
    """A press chooses; a word below makes another."""

    chosen = Signal(int)
    new = Signal()
    other = Signal()

    def __init__(self, name: str, new: tuple[str, str], other: tuple[str, str]) -> None:
        """``name``: what they are; ``new``, ``other``: words below them, with what they are for."""
        super().__init__()
        self.setFixedWidth(132)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 12)
        title = furniture.title(name)
        title.setContentsMargins(16, 0, 0, 4)
        column.addWidget(title)
        area = furniture.scrolling()
        self.lines = _Lines(name)
        self.lines.chosen.connect(self.chosen)
        area.setWidget(self.lines)
        column.addWidget(area, 1)
        for (text, help), signal in ((new, self.new), (other, self.other)):
            word = furniture.word(text, help, act=signal)
            row = QHBoxLayout()
            row.setContentsMargins(10, 0, 0, 0)
            row.addWidget(word)
            row.addStretch()
            column.addLayout(row)

    def show_lines(self, lines: Sequence[tuple[str, str]], current: int) -> None:
        """Those that there are: a name, and a line about each."""
        self.lines.lines, self.lines.current = tuple(lines), current
        self.lines.setFixedHeight(max(1, len(lines)) * _ROW)
        self.lines.update()
        tell(self.lines)
