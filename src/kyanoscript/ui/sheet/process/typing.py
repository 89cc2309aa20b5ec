"""A sheet to type or paste readings into."""

from __future__ import annotations

from PySide6.QtWidgets import QComboBox, QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from kyanoscript.core.process.process import Reading
from kyanoscript.files import cgats
from kyanoscript.ui.widgets import furniture, theme

_KINDS = (("", "as they look"), ("lightness", "L*"), ("density", "densities"), ("reflectance", "reflectance, %"))
_HINT = "95.4\n91.8\n86.0\n…\n\nor a value of the wedge and a number:\n0 95.4\n5 91.8"


class Typing(QDialog):
    """From paper white to the deepest, one number a line; or two, value and reading."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Readings")
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.addWidget(furniture.title("Readings"))
        column.addWidget(furniture.wrapped("A number a line, from paper white to the deepest, or a value and a number; "
                                           "CGATS.17 as well"))  # fmt: skip
        self.text = QPlainTextEdit()
        self.text.setFont(theme.sans(13))
        self.text.setAccessibleName("Readings")
        self.text.setPlaceholderText(_HINT)
        self.text.setTabChangesFocus(True)
        column.addWidget(self.text, 1)
        self.kind = QComboBox()
        self.kind.setAccessibleName("What the numbers are")
        for key, words in _KINDS:
            self.kind.addItem(words, key)
        column.addWidget(self.kind)
        self.warning = furniture.wrapped("")
        self.warning.setObjectName("warning")
        column.addWidget(self.warning)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton("Take them", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.take)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.readings: tuple[Reading, ...] = ()
        self.resize(380, 460)

    def take(self) -> None:
        """Take what is there; what is wrong with it is said, and it stays open."""
        try:
            self.readings = cgats.parsed(self.text.toPlainText(), self.kind.currentData())
        except ValueError as error:
            self.warning.setText(str(error)[:1].upper() + str(error)[1:])
            return
        self.accept()
