"""A small popup for names and notes: of a pass, of a recipe."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QCompleter, QFrame, QGridLayout, QLineEdit, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.popup import pop_up


@dataclass(frozen=True)
class Entry:
    """One line to type into."""

    label: str
    value: str
    help: str
    hint: str = ""  # shown while it is empty
    known: Sequence[str] = ()  # what is completed while typing
    longest: int = 1000


class Naming(QFrame):
    """Pops up over what is named; Return takes every line, Escape none."""

    named = Signal(list)  # what is in the lines

    def __init__(self, parent: QWidget, entries: Sequence[Entry]) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFrameShape(QFrame.Shape.Box)
        self.setObjectName("popup")
        grid = QGridLayout(self)
        grid.setContentsMargins(12, 10, 12, 10)
        self.lines = [QLineEdit(entry.value) for entry in entries]
        for row, (line, entry) in enumerate(zip(self.lines, entries, strict=True)):
            line.setFont(theme.sans(13))
            line.setMinimumWidth(300)
            line.setMaxLength(entry.longest)
            line.setPlaceholderText(spoken(entry.hint))
            line.setAccessibleName(spoken(entry.label))
            tip(line, entry.help)
            if entry.known:
                completer = QCompleter(list(entry.known), line)
                completer.setCompletionMode(QCompleter.CompletionMode.InlineCompletion)
                line.setCompleter(completer)
            grid.addWidget(furniture.label(entry.label), row, 0)
            grid.addWidget(line, row, 1)

    def pop_up(self, at: QPoint, above: bool = True) -> None:
        """Show it above a point, or below; always within the screen."""
        self.adjustSize()
        pop_up(self, at - QPoint(0, self.height() + 4 if above else -4))
        self.lines[0].setFocus()
        self.lines[0].selectAll()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.hide()
            self.named.emit([line.text().strip() for line in self.lines])
            self.close()
        else:
            super().keyPressEvent(event)

    def hideEvent(self, event: object) -> None:
        parent = self.parentWidget()
        if parent is not None:
            parent.window().activateWindow()
