"""A sheet to type or paste readings into."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QPlainTextEdit, QVBoxLayout, QWidget

from kyanoscript.core.process.process import Reading
from kyanoscript.files.kept import cgats
from kyanoscript.translation import spoken
from kyanoscript.ui.jobs.lanes import Job, Jobs, Lane
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.choicebox import ChoiceBox

_KINDS = (("", "as they look"), ("lightness", "L*"), ("density", "densities"), ("reflectance", "reflectance, %"))
_HINT = "95.4\n91.8\n86.0\n…\n\nor a value of the wedge and a number:\n0 95.4\n5 91.8"


class Typing(QDialog):
    """From paper white to the deepest, one number a line; or two, value and reading."""

    def __init__(self, parent: QWidget, jobs: Jobs) -> None:
        super().__init__(parent)
        self._jobs = jobs
        self.setWindowTitle(spoken("Readings"))
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.addWidget(furniture.title("Readings"))
        column.addWidget(furniture.wrapped("A number a line, from paper white to the deepest, or a value and a number; "
                                           "CGATS.17 as well"))  # fmt: skip
        self.text = QPlainTextEdit()
        self.text.setFont(theme.sans(13))
        self.text.setAccessibleName(spoken("Readings"))
        self.text.setPlaceholderText(spoken(_HINT))
        self.text.setTabChangesFocus(True)
        column.addWidget(self.text, 1)
        self.kind = ChoiceBox("What the numbers are")
        for key, words in _KINDS:
            self.kind.addItem(spoken(words), key)
        column.addWidget(self.kind)
        self.warning = furniture.wrapped("")
        self.warning.setObjectName("warning")
        column.addWidget(self.warning)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        self.taking = buttons.addButton(spoken("Take them"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.take)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.readings: tuple[Reading, ...] = ()
        self.resize(380, 460)

    def take(self) -> None:
        """Take what is there, read by another thread; what is wrong with it is said, and it stays open."""
        text, kind = self.text.toPlainText(), self.kind.currentData()
        self.taking.setEnabled(False)
        self.warning.setText("")

        def work(job: Job) -> tuple[tuple[Reading, ...], str]:
            try:
                return cgats.pasted(text, kind), ""
            except ValueError as error:
                return (), str(error)[:1].upper() + str(error)[1:]

        job = self._jobs.run(work, Lane.READ, done=self._read)
        job.ended.connect(lambda: self.taking.setEnabled(True))

    def _read(self, found: tuple[tuple[Reading, ...], str]) -> None:
        self.readings, wrong = found
        self.warning.setText(spoken(wrong))
        if not wrong:
            self.accept()
