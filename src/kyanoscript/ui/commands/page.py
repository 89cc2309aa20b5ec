"""The page of keys."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QDialog, QGridLayout, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.commands.list import Command
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import tip


class KeysDialog(QDialog):
    """Every key, from the list of commands."""

    def __init__(self, parent: QWidget, every: Sequence[Command]) -> None:
        super().__init__(parent)
        self.setWindowTitle(spoken("Keys"))
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 16, 24, 20)
        column.addWidget(furniture.title("Keys"))
        column.addWidget(
            furniture.label("Hold to compare, push too far and pull back: every step can be undone.", quiet=True)
        )
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        grid.setVerticalSpacing(3)
        column.addLayout(grid)
        halves: list[list[str]] = [["File", "Edit", "Hold", "Help"], ["Pass", "Tint"], ["Stencil", "Look"]]
        for half, menus in enumerate(halves):
            row = 0
            for menu in menus:
                grid.addWidget(furniture.title(menu, 16), row, half * 3, 1, 2)
                row += 1
                for command in (command for command in every if command.menu == menu and command.keys):
                    keys = QKeySequence(command.keys).toString(QKeySequence.SequenceFormat.NativeText)
                    shown = furniture.label(keys)
                    shown.setFont(theme.sans(13, medium=True))
                    grid.addWidget(shown, row, half * 3, Qt.AlignmentFlag.AlignRight)
                    text = furniture.label(command.text.rstrip("…"))
                    tip(text, command.help)
                    grid.addWidget(text, row, half * 3 + 1)
                    row += 1
            grid.setColumnMinimumWidth(half * 3 + 2, 20)
        more = (
            "Wheel on the easel zooms at the pointer; middle-drag or Space-drag moves it; double-press changes between "
            "whole print and actual pixels. Double-press on a label puts that value back. Arrows change the control "
            "that has the keyboard; Escape in a drag gives it up."
        )
        note = furniture.label(more, quiet=True)
        note.setWordWrap(True)
        column.addSpacing(8)
        column.addWidget(note)
