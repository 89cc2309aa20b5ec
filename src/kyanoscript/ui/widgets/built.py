"""A page on the right side that is built anew when what it is about is something else."""

from __future__ import annotations

import functools
from collections.abc import Callable

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture


class BuiltPage(QWidget):
    """Between `begin` and `end` a page is built; then it takes the place of the one before."""

    labels = 56  # pixels: how wide the names of rows are

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setFixedWidth(304)
        self.setAccessibleName(spoken(name))
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self._scroll = furniture.scrolling()
        outer.addWidget(self._scroll)
        self._retired: QWidget | None = None
        self.acts: dict[str, Callable[[], object]] = {}  # what is done when a word is pressed: told by whose page it is
        self.begin()

    def begin(self, top: int = 12, spacing: int = 6) -> QVBoxLayout:
        """An empty page."""
        self.words: dict[str, QPushButton] = {}
        self._page = QWidget()
        self.column = QVBoxLayout(self._page)
        self.column.setContentsMargins(20, top, 16, 14)
        self.column.setSpacing(spacing)
        return self.column

    def end(self) -> None:
        """It is shown, scrolled as the one before was."""
        at = self._scroll.verticalScrollBar().value()
        old = self._scroll.takeWidget()
        if old is not None:
            for control in old.findChildren(QWidget):
                control.blockSignals(True)
            old.hide()
            old.deleteLater()
            self._retired = old  # the button that asked may still be in its own signal
        self._scroll.setWidget(self._page)
        self._scroll.verticalScrollBar().setValue(at)

    def rule(self, around: int = 4) -> None:
        """A line, with room above and below."""
        self.column.addSpacing(around)
        self.column.addWidget(furniture.line())
        self.column.addSpacing(around)

    def add(self, widget: QWidget) -> None:
        """The next thing on the page."""
        self.column.addWidget(widget)

    def main(self, key: str, text: str, help: str) -> None:
        """What is done here first of all."""
        self.words[key] = furniture.main(text, help, functools.partial(self._act, key))
        self.add(self.words[key])

    def word(self, key: str, text: str, help: str) -> QPushButton:
        """Something else that is done here, by its key; where it stands, the page says."""
        self.words[key] = furniture.word(text, help, act=functools.partial(self._act, key))
        return self.words[key]

    def _act(self, key: str) -> None:
        self.acts[key]()

    def line(self, *entries: tuple[str, str, str]) -> None:
        """Things that are done here, beside each other: key, text, help."""
        self.column.addLayout(furniture.in_a_row(*(self.word(*entry) for entry in entries)))

    def row(self, text: str, widget: QWidget, *more: QWidget) -> QWidget:
        """Something with its name before it, and what stands after it."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        label = furniture.label(text)
        label.setFixedWidth(max(self.labels, label.sizeHint().width()))
        row.addWidget(label)
        row.addWidget(widget, 1)
        for other in more:
            row.addWidget(other)
        return holder
