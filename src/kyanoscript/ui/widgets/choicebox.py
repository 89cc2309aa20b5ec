"""A list that opens, with a name for assistive technology.

On Linux Qt tells its present text where the name is asked for, whatever name was set; what names it there is a label
that it is the buddy of. A list has such a label beside it, which is not seen.
"""

from __future__ import annotations

from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import QComboBox

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets.plain import Label


class ChoiceBox(QComboBox):
    """What is to be chosen; its accessible name is told."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setAccessibleName(spoken(name))
        self._label: Label | None = None

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self._label is None:
            self._label = Label()
            self._label.setBuddy(self)
        self._label.setText(spoken(self.accessibleName()))
        if self._label.parentWidget() is not self.parentWidget():
            self._label.setParent(self.parentWidget())
            self._label.hide()
