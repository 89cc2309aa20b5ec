"""The masthead: the program's name, the views, the menus, and what is open."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QSpacerItem, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.commands.menus import Menus
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import View
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import Label, tip

_APART = "    "
_NAME = 168  # pixels that are kept for what is open


class WhatIsOpen(Label):
    """What is open, as much of it as there is room for: its size goes first, then the middle of its name."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(theme.sans(13))
        self.setObjectName("quiet")
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(_NAME)
        self._facts: tuple[str, str, str] = ("", "", "")

    def tell(self, name: str, size: str, state: str) -> None:
        """Name, size in pixels, and whether it is edited."""
        self._facts = name, size, state
        self.setText(_APART.join(filter(None, self._facts)))
        tip(self, self.text())

    def shown(self) -> str:
        """What there is room for."""
        metrics, (name, _, state) = self.fontMetrics(), self._facts
        for words in (self.text(), _APART.join(filter(None, (name, state)))):
            if metrics.horizontalAdvance(spoken(words)) <= self.width():
                return words
        rest = f"{_APART}{state}" if state else ""
        room = self.width() - metrics.horizontalAdvance(spoken(rest))
        return metrics.elidedText(spoken(name), Qt.TextElideMode.ElideMiddle, room) + rest

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, spoken(self.shown()))
        painter.end()


def _room(wide: int) -> QSpacerItem:
    """Room that gives way."""
    return QSpacerItem(wide, 0, QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Minimum)


class Masthead(QWidget):
    """One line of 44 pixels."""

    def __init__(self, registry: Registry, menus: Menus) -> None:
        super().__init__()
        self.registry = registry
        self.setFixedHeight(44)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 0, 12, 0)
        row.setSpacing(2)
        name = furniture.title("Kyanoscript", 23)
        name.setObjectName("name")
        row.addWidget(name)
        row.addSpacerItem(_room(44))
        self.views: dict[View, QPushButton] = {}
        for command, view in registry.views.items():
            self.views[view] = word = self._word(view)
            word.clicked.connect(lambda _=False, command=command: registry.do(command))
            row.addWidget(word)
            row.addSpacerItem(_room(24))
        row.addSpacerItem(_room(28))
        row.addWidget(menus, 0, Qt.AlignmentFlag.AlignVCenter)
        self.open = WhatIsOpen()
        row.addWidget(self.open, 1)
        row.addSpacing(6)
        registry.changed.connect(self.show_view)

    def _word(self, view: View) -> QPushButton:
        word = furniture.Word(view.title)
        word.setFont(theme.serif(18))
        word.setFixedHeight(44)
        word.setObjectName("view")
        word.setCheckable(True)
        tip(word, f"{view.help}  ({view.keys})")
        word.setCursor(theme.HAND)
        word.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return word

    def show_view(self) -> None:
        """Which view is on the screen."""
        for view, word in self.views.items():
            word.setChecked(view is self.registry.view)
