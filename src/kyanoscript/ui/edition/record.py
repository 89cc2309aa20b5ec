"""The record of an edition: which prints were made, and when; to be read, and to be written as a table."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractItemView,
    QDialog,
    QFileDialog,
    QHeaderView,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from kyanoscript.files.editions.manifest import record, written
from kyanoscript.files.editions.work import Result
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.widgets import furniture, theme

_HEADS = ("", "Print", "Photograph", "When", "How")


class Record(QDialog):
    """Of the folder that prints go to."""

    def __init__(self, context: Context, folder: Path) -> None:
        super().__init__(context.top)
        self.context, self.folder = context, folder
        self.results: list[Result] = []
        self.setWindowTitle(spoken("Record"))
        self.resize(720, 480)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        column.addWidget(furniture.title("Record"))
        self.about = furniture.label("", quiet=True)
        column.addWidget(self.about)
        self.table = QTableWidget(0, len(_HEADS))
        self.table.setAccessibleName(spoken("Prints"))
        self.table.setHorizontalHeaderLabels(_HEADS)
        self.table.verticalHeader().hide()
        self.table.setShowGrid(False)
        self.table.setFont(theme.sans(13))
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setStretchLastSection(True)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        column.addWidget(self.table, 1)
        self.save = furniture.word(
            "Write it as a table…", "Values between commas, for a spreadsheet", act=self.ask_save
        )
        close = furniture.word("Close", act=self.accept)
        column.addLayout(furniture.in_a_row(self.save, close))

    def ask(self) -> None:
        """Read it, and show it."""
        folder = self.folder
        self.context.jobs.run(lambda _: record(folder), Lane.READ, done=self._show, failed=self.context.foot.warn)

    def _show(self, results: Sequence[Result]) -> None:
        self.results = sorted(results, key=lambda one: one.number)
        done = sum(one.result == "done" for one in results)
        self.about.setText(
            spoken(
                tr("{done} of {count} printed into {folder}", done=done, count=len(results), folder=self.folder)
                if results
                else "Nothing was printed here yet"
            )
        )
        self.table.setRowCount(len(results))
        for row, one in enumerate(self.results):
            how = one.reason or (
                tr("{width} × {height} px, {seconds:.1f} s", width=one.width, height=one.height, seconds=one.seconds)
                if one.width
                else one.result
            )
            for place, text in enumerate((str(one.number), one.file, Path(one.photo).name, _when(one.when), how)):
                self.table.setItem(row, place, QTableWidgetItem(spoken(text)))
        self.save.setEnabled(bool(results))
        self.open()

    def ask_save(self) -> None:
        """Where to."""
        start = str(self.folder / "record.csv")
        name, _ = QFileDialog.getSaveFileName(self, spoken("Write the record"), start, "Tables (*.csv)")
        if name:
            self.write(Path(name))

    def write(self, target: Path) -> None:
        """Write it as a table."""
        results, foot = list(self.results), self.context.foot

        def done(_: None) -> None:
            foot.say(tr("Wrote {name}, {count} prints", name=target.name, count=len(results)))

        self.context.jobs.run(lambda _: written(results, target), done=done, failed=foot.warn)


def _when(text: str) -> str:
    try:
        return datetime.fromisoformat(text).astimezone().strftime("%Y-%m-%d %H:%M")
    except ValueError:
        return text
