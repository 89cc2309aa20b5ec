"""The right side of the States view: the chosen state, how it differs from another, and what can be done with it."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import groupby

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QPushButton, QWidget

from kyanoscript.core.script.differ import Difference
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage

_EMPTY = (
    "S keeps the print as it is on the bench as a state, from any view. States hang side by side here; each can be "
    "gone on from, and any one thing of it taken over."
)


class StatePage(BuiltPage):
    """Built anew for what is chosen."""

    against = Signal(int)
    take_over = Signal(object)  # a Difference

    def __init__(self) -> None:
        super().__init__("State")
        self.takes: list[tuple[Difference, QPushButton]] = []

    def show_empty(self) -> None:
        """There are no states."""
        self._anew()
        self.add(furniture.title("States"))
        self.add(furniture.wrapped(_EMPTY))
        self._done()

    def show_item(
        self,
        title: str,
        about: Sequence[str],
        state: bool,
        others: Sequence[tuple[int, str, str]],
        against: int,
        differences: Sequence[Difference],
        equal: bool,
        hangs: bool,
        can_judge: bool,
        takes: bool,
    ) -> None:
        """The chosen one: ``others`` are those it can be compared with, as item, words and help."""
        self._anew()
        head = QHBoxLayout()
        head.addWidget(furniture.elided_title(title), 1)
        if state:
            head.addWidget(self.word("rename", "Name…", "Its name and note  (F2)"))
            head.addWidget(self.word("let go", "Let go", "Keep it no longer; undo has it  (Delete)"))
        self.column.addLayout(head)
        for line in about:
            if line:
                self.add(furniture.wrapped(line))
        self.rule(3)
        if others:
            self._others(others, against)
            self._differences(differences, equal, takes)
            self.rule(3)
        if state:
            self.main("go on", "Go on from this state", "It comes onto the bench; undo has what was there")
        hang = ("hang", "Take down" if hangs else "Hang", "Return, or a second press on its small picture")
        blind = ("judge", "Judge blind…", "In pairs, without names, in places by chance  (J)")
        self.line(hang, *([blind] if can_judge else []))
        self._done()

    def _others(self, others: Sequence[tuple[int, str, str]], against: int) -> None:
        self.add(furniture.label("How it differs from", quiet=True))
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(10)
        grid.setVerticalSpacing(2)
        together = QButtonGroup(holder)
        used = 0
        row: list[QPushButton] = []
        rows = [row]
        for item, text, help in others:
            word = furniture.word(text, help, checkable=True)
            word.setChecked(item == against)
            word.clicked.connect(lambda _=False, item=item: self.against.emit(item))
            together.addButton(word)
            self.words[f"against {item}"] = word
            width = word.sizeHint().width() + 10
            if used + width > 262:
                row, used = [], 0
                rows.append(row)
            row.append(word)
            used += width
        for k, words in enumerate(rows):
            inner = QHBoxLayout()
            inner.setSpacing(10)
            for word in words:
                inner.addWidget(word)
            inner.addStretch()
            grid.addLayout(inner, k, 0)
        self.add(holder)

    def _differences(self, differences: Sequence[Difference], equal: bool, takes: bool) -> None:
        if equal and differences:
            self.add(furniture.wrapped("The prints are equal: what differs does not act."))
        if not differences:
            self.add(furniture.label("Nothing: they are equal"))
        for title, group in groupby(differences, key=lambda difference: difference.title):
            self.column.addSpacing(3)
            self.add(furniture.elided_title(title, 16))
            for difference in group:
                row = QHBoxLayout()
                row.setSpacing(8)
                said = furniture.wrapped(difference.words)
                row.addWidget(said, 1)
                if takes:
                    word = furniture.word(
                        "Take over",
                        "Onto the bench: just this; undo has what was there",
                        act=lambda difference=difference: self.take_over.emit(difference),
                    )
                    self.takes.append((difference, word))
                    row.addWidget(word, 0, Qt.AlignmentFlag.AlignTop)
                self.column.addLayout(row)

    def _anew(self) -> None:
        self.takes = []
        self.begin(spacing=5)

    def _done(self) -> None:
        self.column.addStretch()
        self.end()
