"""The masthead: the program's name, the views, the menus, and what is open."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from kyanoscript.ui.commands.menus import Menus
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import View
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import tip


class Masthead(QWidget):
    """One line of 44 pixels."""

    def __init__(self, registry: Registry, menus: Menus) -> None:
        super().__init__()
        self.registry = registry
        self.setFixedHeight(44)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 0, 12, 0)
        row.setSpacing(8)
        name = furniture.title("Kyanoscript", 23)
        name.setObjectName("name")
        row.addWidget(name)
        row.addSpacing(32)
        self.views: dict[View, QPushButton] = {}
        for command, view in registry.views.items():
            self.views[view] = word = self._word(view)
            word.clicked.connect(lambda _=False, command=command: registry.do(command))
            row.addWidget(word)
            row.addSpacing(12)
        row.addSpacing(16)
        row.addWidget(menus, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addStretch(1)
        self.open = furniture.label("", quiet=True)
        row.addWidget(self.open)
        row.addSpacing(8)
        registry.changed.connect(self.show_view)

    def _word(self, view: View) -> QPushButton:
        word = QPushButton(view.title)
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
