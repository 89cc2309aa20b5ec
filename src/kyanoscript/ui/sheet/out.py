"""What is on the sheet out of the window: into files, to the system's printers, to the stand-ins."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject
from PySide6.QtGui import QImage
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QFormLayout,
    QListWidget,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)
from shiboken6 import isValid

from kyanoscript.core.paper.layout import beyond
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.print.plates import making_of
from kyanoscript.core.process.baths import Bath
from kyanoscript.core.process.process import Process
from kyanoscript.files.prints import queues
from kyanoscript.files.prints.negatives import AsNegative
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.plates import InPlates
from kyanoscript.files.prints.queues import Queue
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.standins import benchprinter, darkroom
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.jobs.lanes import Job, Lane, in_words
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet import printers
from kyanoscript.ui.sheet.printers import Wanted
from kyanoscript.ui.widgets import furniture

_SHEETS = "PDF (*.pdf);;TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg)"


_EIGHT = Settings(bits=8)
_ADVICE = "Change the sheet, and try again"
_LIST = 120  # pixels: of the printers, some of them
_OFFERED = {queues.MEDIA: "Paper", queues.TRAY: "Tray", queues.QUALITY: "Quality", queues.COLOUR: "Colour"}


class SheetsOut(QObject):
    """One at a time, with progress in the foot and a word to stop it."""

    def __init__(self, context: Context, printing: Printing) -> None:
        super().__init__()
        self.context, self.printing = context, printing

    def ask_write(self, name: str, sheet: Sheet, bands: Bands | None = None) -> None:
        """Ask where to, then write."""
        if not self._wanted(sheet):
            return
        path = self._asked("Write the sheet", name, "-strip.pdf" if bands is not None else ".pdf", _SHEETS)
        if path is not None:
            self.write(sheet, path, bands)

    def write(self, sheet: Sheet, path: Path, bands: Bands | None = None) -> Job | None:
        """Write a sheet into a file, with the print or a strip of it."""
        return self.printing.write(OnSheet(sheet, bands), path, _EIGHT)

    def ask_plates(self, name: str, sheet: Sheet) -> None:
        """Ask where the plates go, then write them."""
        if not self._wanted(sheet):
            return
        path = self._asked("Write the plates", name, "-plates.tif", "TIFF (*.tif);;PDF (*.pdf);;A folder (*)")
        if path is not None:
            self.write_plates(sheet, path)

    def write_plates(self, sheet: Sheet, path: Path) -> Job | None:
        """Write every plate of the print, on the sheet."""
        return self.printing.write(InPlates(making_of(sheet)), path, words="plates: ")

    def ask_negative(self, name: str, sheet: Sheet, processes: tuple[Process, ...]) -> None:
        """Ask where the negative goes, then write it."""
        path = self._asked("Write the negative", name, "-negative.tif", "TIFF (*.tif);;PNG (*.png);;PDF (*.pdf)")
        if path is not None:
            self.write_negative(sheet, processes, path)

    def write_negative(self, sheet: Sheet, processes: tuple[Process, ...], path: Path) -> Job | None:
        """Write the negative for a process, or one for each ink."""
        return self.printing.write(AsNegative(sheet, processes), path, words="the negative: ")

    def expose(self, sheet: Sheet, process: Process, bath: Bath, then: Callable[[QImage], None]) -> Job | None:
        """The negative exposed in the bench darkroom: the dried print, to be laid on the sheet."""
        out = self.printing.out(AsNegative(sheet, (process,)), Path("negative.tif"), Settings())
        if out is None or self.printing.busy():
            return None

        def done(pixels: NDArray[np.float32]) -> tuple[str, bool]:
            then(display.colours(pixels))
            return tr(
                "{label}, {minutes:g} min, out of the bench darkroom", label=bath.label, minutes=process.minutes
            ), False

        return self.printing.start(
            tr('Exposing in the bench darkroom: {label}…', label=bath.label.lower()),
            in_words("negative", lambda job: darkroom.printed_small(out, process, bath, job.going), _ADVICE), done,
            "Stopped; the light is off",
        )  # fmt: skip

    def _wanted(self, sheet: Sheet) -> bool:
        """Whether a print that has no room on its paper is to go out all the same; whoever is there is asked."""
        width, height = self.context.desk.print_size()
        most = beyond(sheet, width / max(1, height))
        if most <= 0:
            return True
        paper, cut = sheet.paper, "Cut off what reaches beyond"
        said = tr(
            "The print reaches {most} beyond the paper of {width} × {height}.",
            most=told(most),
            width=told(paper.width),
            height=told(paper.height),
        )
        more = "Fill the margins makes it as large as the paper has room for."
        return ask(self.context.top, said, more, (cut, "Cancel")) == cut

    def _gray_wanted(self, printer: str) -> bool:
        """Whether a print with colour is to go to a printer that prints grays."""
        said, gray = tr("{printer} prints in gray, and the print has colour.", printer=printer), "Print it in gray"
        more = "Its settings in the system say so; nothing is lost if it is printed elsewhere."
        return ask(self.context.top, said, more, (gray, "Cancel")) == gray

    def _asked(self, title: str, name: str, end: str, kinds: str) -> Path | None:
        photo, folders = self.context.desk.photo, self.context.folders
        if photo is None:
            return None
        target = (folders.prints or folders.files) / f"{photo.path.stem}-{name.lower().replace(' ', '-')}{end}"
        path, _ = QFileDialog.getSaveFileName(self.context.top, spoken(title), str(target), kinds)
        return Path(path) if path else None

    # Printers

    def ask_print(self, name: str, sheet: Sheet, bands: Bands | None = None) -> None:
        """Ask which printer, then print."""
        if self.context.desk.photo is None or not self._wanted(sheet):
            return
        dialog = Printers(self.context.top, printers.in_order(), self._ask_queue)
        if dialog.exec():
            self.print(name, sheet, dialog.chosen(), bands, dialog.wanted())

    def _ask_queue(self, printer: str, take: Callable[[Queue], None]) -> None:
        """What a printer lets one choose, asked in another thread."""
        self.context.jobs.run(lambda job: queues.asked(printer), Lane.READ, done=take, failed=self.context.foot.warn)

    def print(
        self, name: str, sheet: Sheet, printer: str, bands: Bands | None = None, wanted: Wanted | None = None
    ) -> Job | None:
        """Print on a printer of that name."""
        if printer == benchprinter.NAME:
            out = self._out(sheet, bands)
            if out is None or self.printing.busy():
                return None
            return self.printing.start(
                tr("Printing {name} on the bench printer…", name=name),
                in_words(name, lambda job: benchprinter.print_sheet(out, job.going), _ADVICE),
                lambda place: (
                    tr("{name} lies in the bench printer's tray: {place}", name=name, place=place / "paper.png"),
                    False,
                ),
                "Stopped; the paper was taken out",
            )
        if printer not in printers.there():
            self.context.foot.say(
                tr("The printer {printer} is not there any more; nothing was printed", printer=printer), warning=True
            )
            return None
        return self.hand_over(name, sheet, printers.device_of(printer), printer, bands, wanted)

    def hand_over(
        self, name: str, sheet: Sheet, device: QPrinter, printer: str, bands: Bands | None = None,
        wanted: Wanted | None = None,
    ) -> Job | None:  # fmt: skip
        """Hand a sheet to a printer, page size and all."""
        wanted = wanted or Wanted()
        out = self._out(sheet, bands)
        if out is None or self.printing.busy():
            return None
        printers.set_page(device, name, sheet)
        if wrong := printers.not_its_paper(device, sheet, printer, wanted.queue):
            self.context.foot.warn(wrong)
            return None
        if printers.goes_out_gray(device, out, wanted) and not self._gray_wanted(printer):
            return None
        return self.printing.start(
            tr("Printing {name} on {printer}…", name=name, printer=printer),
            in_words(name, lambda job: printers.hand(out, device, printer, name, wanted, job.going), _ADVICE),
            lambda said: (f"{name}: {said} {printer}", False),
            "Stopped; nothing more is sent to the printer",
        )

    def _out(self, sheet: Sheet, bands: Bands | None) -> Out[OnSheet] | None:
        return self.printing.out(OnSheet(sheet, bands), Path("sheet.png"), _EIGHT)


class Printers(QDialog):
    """Which printer, and what of it."""

    def __init__(
        self, parent: QWidget | None, names: list[str],
        ask_for: Callable[[str, Callable[[Queue], None]], None] = lambda printer, take: None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle(spoken("Print"))
        self._ask_for, self._known = ask_for, dict[str, Queue]()
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.addWidget(furniture.title("Print"))
        column.addWidget(furniture.wrapped("The bench printer is a stand-in: it gives a picture of the paper"))
        self.list = QListWidget()
        self.list.setAccessibleName(spoken("Printers"))
        self.list.addItems(names)
        self.list.setMinimumHeight(_LIST)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        column.addWidget(self.list)
        self.boxes: dict[str, QComboBox] = {}
        self._rows = QFormLayout()
        column.addLayout(self._rows)
        self.copies = QSpinBox()
        self.copies.setRange(1, 999)
        self._rows.addRow("Copies", self.copies)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton(spoken("Print"), QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.resize(420, 320)
        self.list.currentRowChanged.connect(lambda _: self._show())
        self.list.setCurrentRow(0)

    def chosen(self) -> str:
        """Its name."""
        item = self.list.currentItem()
        return item.text() if item is not None else benchprinter.NAME

    def wanted(self) -> Wanted:
        """What was chosen of it."""
        chosen = {what: str(box.currentData()) for what, box in self.boxes.items()}
        return Wanted(self._known.get(self.chosen(), Queue()), chosen, self.copies.value())

    def _show(self) -> None:
        """What the printer has; it is asked once."""
        printer = self.chosen()
        while self.boxes:
            _, box = self.boxes.popitem()
            self._rows.removeRow(box)
        self.copies.setEnabled(printer != benchprinter.NAME)
        if printer == benchprinter.NAME:
            return
        if printer not in self._known:
            self._known[printer] = Queue(printer)
            self._ask_for(printer, lambda queue: self._take(printer, queue))
            return
        for k, offer in enumerate(self._known[printer].offers):
            box = QComboBox()
            for choice in offer.choices:
                box.addItem(spoken(offer.words(choice)), choice)
            box.setCurrentIndex(box.findData(offer.usual))
            self._rows.insertRow(k, _OFFERED[offer.what], box)
            self.boxes[offer.what] = box

    def _take(self, printer: str, queue: Queue) -> None:
        if isValid(self):
            self._known[printer] = queue
            if printer == self.chosen():
                self._show()
