"""Files of the Process page: charts, scans, lists of readings, processes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog, QWidget

from kyanoscript.core.process.chart import Chart, called
from kyanoscript.core.process.process import Process
from kyanoscript.core.process.taken import strip_of
from kyanoscript.files.base.opening import PICTURES
from kyanoscript.files.kept import cgats, processfile
from kyanoscript.files.prints import chartfiles
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Job, Lane, in_words
from kyanoscript.ui.sheet.process.readings import Readings
from kyanoscript.ui.sheet.process.shelf import Shelf
from kyanoscript.ui.sheet.process.typing import Typing
from kyanoscript.ui.widgets.naming import Entry, Naming

_PRINTS = "TIFF (*.tif);;PNG (*.png);;PDF (*.pdf)"


def ask(top: QWidget, page: QWidget, entries: list[Entry], then: Callable[[list[str]], None]) -> Naming:
    """Ask for words beside the page."""
    naming = Naming(top, entries)
    naming.named.connect(then)
    naming.pop_up(page.mapToGlobal(QPoint(-400, 40)), above=False)
    return naming


class ProcessFiles:
    """Asks which file, then writes or reads it."""

    def __init__(self, context: Context, shelf: Shelf, readings: Readings, page: QWidget) -> None:
        self.context, self.shelf, self.readings, self.page = context, shelf, readings, page
        self.typing: Typing | None = None
        self.naming: Naming | None = None

    @property
    def process(self) -> Process:
        """The one that is looked at."""
        return self.shelf.process

    def _asked(self, title: str, name: str, kinds: str) -> Path | None:
        """Where something is to be written to."""
        folders = self.context.folders
        folder = folders.prints or folders.files
        path, _ = QFileDialog.getSaveFileName(self.context.top, spoken(title), str(folder / name), kinds)
        if not path:
            return None
        folders.prints = Path(path).absolute().parent
        return Path(path)

    def _found(self, title: str, kinds: str) -> Path | None:
        """Which file is to be read."""
        folders = self.context.folders
        path, _ = QFileDialog.getOpenFileName(self.context.top, spoken(title), str(folders.files), kinds)
        if not path:
            return None
        folders.files = Path(path).absolute().parent
        return Path(path)

    def ask_write(self, chart: Chart, proving: bool = False) -> None:
        """Ask where a chart goes, and write it."""
        name = f"{self.process.name}-{chart.name.lower()}{'-proof' if proving else ''}".replace(",", "")
        path = self._asked("Write the chart", f"{name.replace(' ', '-')}.tif", _PRINTS)
        if path is not None:
            self.write(path, chart, proving)

    def write(self, path: Path, chart: Chart, proving: bool = False) -> Job:
        """Write a chart."""
        process = self.process
        work = in_words(
            path.name, lambda job: chartfiles.write_chart(path, chart, process, proving=proving, progress=job.going)
        )
        words = tr(
            "Wrote {name}, {width:g} × {height:g} mm; print it at its exact size, colours unmanaged",
            name=path.name,
            width=chart.width,
            height=chart.height,
        )
        return self._writing(work, words, Lane.LONG)

    def _writing(self, work: Callable[[Job], object], words: str, lane: Lane = Lane.SHORT) -> Job:
        return self.context.jobs.run(
            work, lane, done=lambda _: self.context.foot.say(words), failed=self.context.foot.warn
        )

    def ask_export(self) -> None:
        """Ask where the process's file goes."""
        process = self.process
        path = self._asked("Keep as a file", f"{process.name}{processfile.SUFFIX}", "Processes (*.json)")
        if path is not None:
            self._writing(lambda job: processfile.write_process(path, process), tr("Wrote {name}", name=path.name))

    def ask_cgats(self) -> None:
        """Ask where its readings go."""
        process = self.process
        path = self._asked("Readings as text", f"{process.name}.txt", "CGATS.17 (*.txt)")
        if path is not None:
            self._writing(lambda job: cgats.write_readings(path, process), tr("Wrote {name}", name=path.name))

    def ask_import(self) -> None:
        """Ask for a process file, and take it."""
        path = self._found("A process from a file", "Processes (*.json)")
        if path is not None:
            self.shelf.import_(path)

    def ask_scan(self, chart: str, proving: bool = False) -> None:
        """Ask for a scan, and read it; of a strip of exposures, for its times."""
        path = self._found("Read a scan", tr("Pictures ({pictures})", pictures=PICTURES))
        if path is None:
            return
        if not called(chart).covered or proving:
            self.readings.read(path, proving)
            return
        entry = Entry("Times, min", "1..45", "Of the twelve patches: 1,2,4… or 1..45")
        self.naming = ask(self.context.top, self.page, [entry], lambda words: self._read_strip(path, words[0]))

    def _read_strip(self, path: Path, words: str) -> None:
        try:
            self.readings.read(path, strip=strip_of(words))
        except ValueError as error:
            self.context.foot.warn(str(error)[:1].upper() + str(error)[1:])

    def ask_list(self) -> None:
        """Ask for a file of readings."""
        path = self._found("Readings from a file", "Readings (*.txt *.cgats *.ti3 *.csv *.tsv);;All files (*)")
        if path is not None:
            self.readings.read_list(path)

    def type_in(self) -> None:
        """Type or paste readings."""
        self.typing = dialog = Typing(self.context.top, self.context.jobs)
        if dialog.exec():
            self.readings.take_list(dialog.readings)
