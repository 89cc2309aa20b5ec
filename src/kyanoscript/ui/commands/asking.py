"""Questions in the way: few, and only where something would be lost."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QMessageBox, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets.plain import question


def ask(over: QWidget, text: str, more: str, answers: Sequence[str]) -> str:
    """A question; the last answer is what Escape means."""
    box = question(over, text, more)
    buttons = {}
    for k, word in enumerate(answers):
        role = QMessageBox.ButtonRole.RejectRole if k == len(answers) - 1 else QMessageBox.ButtonRole.AcceptRole
        buttons[word] = box.addButton(spoken(word), role)
    box.setEscapeButton(buttons[answers[-1]])
    box.setDefaultButton(buttons[answers[-1]])
    box.exec()
    return next((word for word, button in buttons.items() if button is box.clickedButton()), answers[-1])
