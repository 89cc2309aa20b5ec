"""Sheets out of the window: into files, to the system's printers, to the bench printer."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QRectF, QSizeF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrinterInfo
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFileDialog, QListWidget, QVBoxLayout, QWidget

from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.process.baths import Bath
from kyanoscript.core.process.process import Process
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.colour.proofs import profile_path
from kyanoscript.files.prints.negatives import Negative, write_negatives
from kyanoscript.files.prints.plates import plates_on, write_plates
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import Out, leaf_of, write_sheet
from kyanoscript.files.prints.strips import Laid as Strip
from kyanoscript.files.prints.target import target_of
from kyanoscript.files.standins import benchprinter, darkroom
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.jobs.lanes import Job
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture

_BAND = 400  # rows that are handed to a printer in one go
_KINDS = "PDF (*.pdf);;TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg)"


class SheetsOut(QObject):
    """One at a time, with progress in the foot and a word to stop it."""

    def __init__(self, context: Context, printing: Printing) -> None:
        super().__init__()
        self.context, self.printing = context, printing

    def _job(self, sheet: Sheet, target: Path, bands: Strip | None = None) -> Out | None:
        desk = self.context.desk
        if desk.photo is None or desk.pictures is None:
            return None
        if desk.photo.stand_in:
            self.context.foot.say("The raw is being developed; it can be printed in a moment", warning=True)
            return None
        never = (desk.file,) if desk.file else ()
        return Out(desk.photo, desk.script, sheet, desk.pictures, target, bands, never=never)

    # Files

    def ask_write(self, name: str, sheet: Sheet, bands: Strip | None = None) -> None:
        """Ask where to, then write."""
        if self.context.desk.photo is None:
            return
        target = self._named(name, "-strip.pdf" if bands is not None else ".pdf")
        path, _ = QFileDialog.getSaveFileName(self.context.top, "Write the sheet", str(target), _KINDS)
        if path:
            self.write(sheet, Path(path), bands)

    def write(self, sheet: Sheet, path: Path, bands: Strip | None = None) -> Job | None:
        """Write a sheet into a file, with the print or a strip of it."""
        job = self._job(sheet, path, bands)
        if job is None or self.printing.busy():
            return None
        self.context.folders.prints = path.absolute().parent
        return self.printing.start(
            f"Writing {path.name}…",
            _told(lambda running: write_sheet(job, running.progress.emit, lambda: running.stopping)),
            lambda size: (f"Wrote {path.name}, {size[0]} × {size[1]} pixels", False),
        )

    # Plates and negatives

    def ask_plates(self, name: str, sheet: Sheet) -> None:
        """Ask where the plates go, then write them."""
        target = self._named(name, "-plates.tif")
        path, _ = QFileDialog.getSaveFileName(
            self.context.top, "Write the plates", str(target), "TIFF (*.tif);;PDF (*.pdf);;A folder (*)"
        )
        if path:
            self.write_plates(sheet, Path(path))

    def write_plates(self, sheet: Sheet, path: Path) -> Job | None:
        """Write every plate of the print, on the sheet."""
        job = self._job(sheet, path)
        if job is None or self.printing.busy():
            return None
        self.context.folders.prints = path.absolute().parent
        plates = plates_on(sheet, job.photo, job.script, job.pictures)
        return self.printing.start(
            f"Writing plates: {path.name}…",
            _told(lambda running: write_plates(plates, path, running.progress.emit, lambda: running.stopping)),
            lambda files: (f"Wrote {', '.join(file.name for file in files)}", False),
        )

    def ask_negative(self, name: str, sheet: Sheet, processes: tuple[Process, ...]) -> None:
        """Ask where the negative goes, then write it."""
        target = self._named(name, "-negative.tif")
        path, _ = QFileDialog.getSaveFileName(
            self.context.top, "Write the negative", str(target), "TIFF (*.tif);;PNG (*.png);;PDF (*.pdf)"
        )
        if path:
            self.write_negative(sheet, processes, Path(path))

    def write_negative(self, sheet: Sheet, processes: tuple[Process, ...], path: Path) -> Job | None:
        """Write the negative for a process, or one for each ink."""
        job = self._job(sheet, path)
        if job is None or self.printing.busy():
            return None
        self.context.folders.prints = path.absolute().parent
        wanted = Negative(job.photo, job.script, sheet, processes, job.pictures, path, never=job.never)
        return self.printing.start(
            f"Writing the negative: {path.name}…",
            _told(lambda running: write_negatives(wanted, running.progress.emit, lambda: running.stopping)),
            lambda made: (
                f"Wrote {', '.join(file.name for file in made[0])}, {made[1][0]} × {made[1][1]} pixels",
                False,
            ),
        )

    def expose(self, sheet: Sheet, process: Process, bath: Bath, then: Callable[[QImage], None]) -> Job | None:
        """The negative exposed in the bench darkroom: the dried print, to be laid on the sheet."""
        job = self._job(sheet, Path("negative.tif"))
        if job is None or self.printing.busy():
            return None
        wanted = Negative(job.photo, job.script, sheet, (process,), job.pictures, job.target)

        def done(pixels: NDArray[np.float32]) -> tuple[str, bool]:
            then(display.colours(pixels))
            return f"{bath.label}, {process.minutes:g} min, out of the bench darkroom", False

        return self.printing.start(
            f"Exposing in the bench darkroom: {bath.label.lower()}…",
            _told(lambda running: darkroom.printed_small(wanted, process, bath, lambda: running.stopping)), done,
            "Stopped; the light is off",
        )  # fmt: skip

    def _named(self, name: str, end: str) -> Path:
        photo, folders = self.context.desk.photo, self.context.folders
        stem = photo.path.stem if photo is not None else "print"
        return (folders.prints or folders.files) / f"{stem}-{name.lower().replace(' ', '-')}{end}"

    # Printers

    def ask_print(self, name: str, sheet: Sheet, bands: Strip | None = None) -> None:
        """Ask which printer, then print."""
        if self.context.desk.photo is None:
            return
        dialog = Printers(self.context.top, [benchprinter.NAME, *QPrinterInfo.availablePrinterNames()])
        if dialog.exec():
            self.print(name, sheet, dialog.chosen(), bands)

    def print(self, name: str, sheet: Sheet, printer: str, bands: Strip | None = None) -> Job | None:
        """Print on a printer of that name."""
        job = self._job(sheet, Path("sheet.png"), bands)
        if job is None or self.printing.busy():
            return None
        if printer == benchprinter.NAME:
            return self.printing.start(
                f"Printing {name} on the bench printer…",
                _told(lambda running: benchprinter.print_sheet(job, running.progress.emit, lambda: running.stopping)),
                lambda place: (f"{name} lies in the bench printer's tray: {place / 'paper.png'}", False),
                "Stopped; the paper was taken out",
            )
        if printer not in QPrinterInfo.availablePrinterNames():
            self.context.foot.say(f"The printer {printer} is not there any more; nothing was printed", warning=True)
            return None
        device = QPrinter(QPrinterInfo.printerInfo(printer), QPrinter.PrinterMode.HighResolution)
        return self.hand_over(name, sheet, device, printer, bands)

    def hand_over(
        self, name: str, sheet: Sheet, device: QPrinter, printer: str, bands: Strip | None = None
    ) -> Job | None:
        """Hand a sheet to a printer of Qt's, page size and all."""
        job = self._job(sheet, Path("sheet.png"), bands)
        if job is None:
            return None
        set_page(device, name, sheet)

        def work(running: Job) -> str:
            return paint(job, device, running.progress.emit, lambda: running.stopping)

        return self.printing.start(
            f"Printing {name} on {printer}…", _told(work), lambda said: (f"{name}: {said} {printer}", False),
            "Stopped; nothing more is sent to the printer",
        )  # fmt: skip


def set_page(device: QPrinter, name: str, sheet: Sheet) -> None:
    """The sheet's own size, no margins, nothing scaled."""
    size = QPageSize(QSizeF(min(sheet.width, sheet.height), max(sheet.width, sheet.height)),
                     QPageSize.Unit.Millimeter, name, QPageSize.SizeMatchPolicy.FuzzyMatch)  # fmt: skip
    lying = sheet.width > sheet.height
    device.setPageSize(size)
    device.setPageOrientation(QPageLayout.Orientation.Landscape if lying else QPageLayout.Orientation.Portrait)
    device.setFullPage(True)
    device.setDocName(name)


def paint(job: Out, device: QPrinter, progress: Callable[[float], None], cancelled: Callable[[], bool]) -> str:
    """Send the sheet band by band; returns what was done, in words. Raises FileError, Cancelled, ValueError."""
    sheet = job.sheet
    leaf = leaf_of(job, cancelled)
    profile = str(profile_path(sheet.profile)) if sheet.profile else "srgb"
    told = Settings(bits=8, profile=profile, intent=sheet.intent, black_point=sheet.black_point)
    target = target_of(told, 8, leaf.space, True)
    if target.channels == 4:
        raise FileError(Path(sheet.profile), "printers of this machine are told RGB or gray",
                        "Choose a profile for RGB, or write a PDF")  # fmt: skip
    width, height = leaf.size(1.0)
    painter = QPainter()
    if not painter.begin(device):
        raise ValueError("the printer takes no pages; nothing was printed")
    try:
        each = device.resolution() / leaf.ppi
        for y in range(0, height, _BAND):
            if cancelled():
                device.abort()
                raise Cancelled
            band = Rect(0, y, width, min(_BAND, height - y))
            pixels = np.ascontiguousarray(target.pixels(leaf.region(band), band))
            kind = QImage.Format.Format_RGB888 if target.channels == 3 else QImage.Format.Format_Grayscale8
            image = QImage(pixels.data, width, band.height, width * target.channels, kind)
            painter.drawImage(QRectF(0, y * each, width * each, band.height * each), image)
            progress((y + band.height) / height)
    finally:
        painter.end()
    if device.printerState() in (QPrinter.PrinterState.Error, QPrinter.PrinterState.Aborted):
        raise ValueError("the printer gave up; look at it, and print again")
    return f"{sheet.width:g} × {sheet.height:g} mm at {leaf.ppi:g} pixels per inch went to"


def _told(work: Callable[[Job], object]) -> Callable[[Job], object]:
    """Of values that cannot be, the words are those that were meant for people."""

    def run(job: Job) -> object:
        try:
            return work(job)
        except ValueError as error:
            raise FileError(Path("sheet"), str(error), "Change the sheet, and try again") from error

    return run


class Printers(QDialog):
    """Which printer."""

    def __init__(self, parent: QWidget, names: list[str]) -> None:
        super().__init__(parent)
        self.setWindowTitle("Print")
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.addWidget(furniture.title("Print"))
        column.addWidget(furniture.wrapped("The bench printer is a stand-in: it gives a picture of the paper"))
        self.list = QListWidget()
        self.list.setAccessibleName("Printers")
        self.list.addItems(names)
        self.list.setCurrentRow(0)
        self.list.itemDoubleClicked.connect(lambda _: self.accept())
        column.addWidget(self.list)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Cancel)
        buttons.addButton("Print", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.resize(420, 320)

    def chosen(self) -> str:
        """Its name."""
        item = self.list.currentItem()
        return item.text() if item is not None else benchprinter.NAME
