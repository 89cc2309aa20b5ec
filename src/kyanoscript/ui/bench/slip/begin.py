"""What a print can begin with, while there is no pass yet: three ways, each by one press."""

from __future__ import annotations

import functools
from typing import NamedTuple

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture


class Way(NamedTuple):
    """What is pressed, and what comes of it: passes, or the recipes of a group."""

    text: str
    about: str
    passes: tuple[str, ...] = ()
    recipes: str = ""


_IN_COLOUR = (
    Way("A recipe…", "Looks of all kinds, each of them shown on this picture", recipes="all"),
    Way("A gray", "Its colours weighed into tones, as you like them", ("gray-weights",)),
    Way("A toned print", "Gray first, then a bath: sepia, selenium, gold and others", ("gray-weights", "toner-bath")),
)
_GRAY = (
    Way("Mend it", "Dust, scratches, creases and fading of an old print", ("mend",)),
    Way("Tint it", "A tint is offered for every part: skin, cloth, leaves, walls", ("hand-tint",)),
    Way("A recipe for old scans…", "Mended and tinted in one; each of them shown", recipes="scans"),
    Way("A toned print", "In a bath: sepia, selenium, gold and others", ("toner-bath",)),
)


class Begin(QWidget):
    """The ways, for a photograph in colour or a gray one."""

    chosen = Signal(object)  # a `Way`

    def __init__(self) -> None:
        super().__init__()
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 14, 0, 0)
        self._column.setSpacing(2)
        self.ways: dict[str, QWidget] = {}
        self._gray: bool | None = None

    def show_for(self, gray: bool) -> None:
        """The ways that suit the photograph."""
        if gray == self._gray:
            return
        self._gray = gray
        while (item := self._column.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        self._column.addWidget(furniture.title("Begin with", 17))
        self.ways = {}
        for way in _GRAY if gray else _IN_COLOUR:
            self._column.addSpacing(6)
            word = furniture.word(way.text, way.about, act=functools.partial(self.chosen.emit, way))
            word.setAccessibleDescription(spoken(way.about))
            word.setStyleSheet("QPushButton { padding-left: 0 }")  # it stands where the line below it does
            self.ways[way.text] = word
            self._column.addWidget(word)
            self._column.addWidget(furniture.wrapped(way.about))
