"""What is on the sheet out of the window: into files, to the system's printers, to the stand-ins."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QRectF, QSizeF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrinterInfo
from PySide6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QListWidget,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.core.paper.layout import beyond
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.print.plates import making_of
from kyanoscript.core.process.baths import Bath
from kyanoscript.core.process.process import Process
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.negatives import AsNegative
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.plates import InPlates
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.target import target_of
from kyanoscript.files.standins import benchprinter, darkroom
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.jobs.lanes import Job, in_words
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture

_SAME = 1.0  # mm: a paper is not told apart from another by less
_BAND = 400  # rows that are handed to a printer in one go
_SHEETS = "PDF (*.pdf);;TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg)"


_EIGHT = Settings(bits=8)
_ADVICE = "Change the sheet, and try again"


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
            return f"{bath.label}, {process.minutes:g} min, out of the bench darkroom", False

        return self.printing.start(
            f"Exposing in the bench darkroom: {bath.label.lower()}…",
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
        said = f"The print reaches {told(most)} beyond the paper of {told(paper.width)} × {told(paper.height)}."
        more = "Fill the margins makes it as large as the paper has room for."
        return ask(self.context.top, said, more, (cut, "Cancel")) == cut

    def _gray_wanted(self, printer: str) -> bool:
        """Whether a print with colour is to go to a printer that prints grays."""
        said, gray = f"{printer} prints in gray, and the print has colour.", "Print it in gray"
        more = "Its settings in the system say so; nothing is lost if it is printed elsewhere."
        return ask(self.context.top, said, more, (gray, "Cancel")) == gray

    def _asked(self, title: str, name: str, end: str, kinds: str) -> Path | None:
        photo, folders = self.context.desk.photo, self.context.folders
        if photo is None:
            return None
        target = (folders.prints or folders.files) / f"{photo.path.stem}-{name.lower().replace(' ', '-')}{end}"
        path, _ = QFileDialog.getSaveFileName(self.context.top, title, str(target), kinds)
        return Path(path) if path else None

    # Printers

    def ask_print(self, name: str, sheet: Sheet, bands: Bands | None = None) -> None:
        """Ask which printer, then print."""
        if self.context.desk.photo is None or not self._wanted(sheet):
            return
        dialog = Printers(self.context.top, names_in_order(QPrinterInfo.availablePrinterNames(), _usual()))
        if dialog.exec():
            self.print(name, sheet, dialog.chosen(), bands)

    def print(self, name: str, sheet: Sheet, printer: str, bands: Bands | None = None) -> Job | None:
        """Print on a printer of that name."""
        if printer == benchprinter.NAME:
            out = self._out(sheet, bands)
            if out is None or self.printing.busy():
                return None
            return self.printing.start(
                f"Printing {name} on the bench printer…",
                in_words(name, lambda job: benchprinter.print_sheet(out, job.going), _ADVICE),
                lambda place: (f"{name} lies in the bench printer's tray: {place / 'paper.png'}", False),
                "Stopped; the paper was taken out",
            )
        if printer not in QPrinterInfo.availablePrinterNames():
            self.context.foot.say(f"The printer {printer} is not there any more; nothing was printed", warning=True)
            return None
        device = QPrinter(QPrinterInfo.printerInfo(printer), QPrinter.PrinterMode.HighResolution)
        return self.hand_over(name, sheet, device, printer, bands)

    def hand_over(
        self, name: str, sheet: Sheet, device: QPrinter, printer: str, bands: Bands | None = None
    ) -> Job | None:
        """Hand a sheet to a printer of Qt's, page size and all."""
        out = self._out(sheet, bands)
        if out is None or self.printing.busy():
            return None
        set_page(device, name, sheet)
        if wrong := not_its_paper(device, sheet, printer):
            self.context.foot.warn(wrong)
            return None
        if goes_out_gray(device, out) and not self._gray_wanted(printer):
            return None
        return self.printing.start(
            f"Printing {name} on {printer}…", in_words(name, lambda job: paint(out, device, job.going), _ADVICE),
            lambda said: (f"{name}: {said} {printer}", False), "Stopped; nothing more is sent to the printer",
        )  # fmt: skip

    def _out(self, sheet: Sheet, bands: Bands | None) -> Out[OnSheet] | None:
        return self.printing.out(OnSheet(sheet, bands), Path("sheet.png"), _EIGHT)


def set_page(device: QPrinter, name: str, sheet: Sheet) -> None:
    """The sheet's own size, no margins, nothing scaled."""
    size = QPageSize(QSizeF(min(sheet.paper.width, sheet.paper.height), max(sheet.paper.width, sheet.paper.height)),
                     QPageSize.Unit.Millimeter, name, QPageSize.SizeMatchPolicy.FuzzyMatch)  # fmt: skip
    lying = sheet.paper.width > sheet.paper.height
    device.setPageSize(size)
    device.setPageOrientation(QPageLayout.Orientation.Landscape if lying else QPageLayout.Orientation.Portrait)
    device.setFullPage(True)
    device.setDocName(name)


def _usual() -> str:
    """The printer that the system takes where none is named; empty if there is none."""
    info = QPrinterInfo.defaultPrinter()
    return "" if info.isNull() else info.printerName()


def names_in_order(names: Sequence[str], usual: str) -> list[str]:
    """The usual printer first, then the others, and the stand-in where one is looked for last."""
    return [*(name for name in names if name == usual), *(name for name in names if name != usual), benchprinter.NAME]


def not_its_paper(device: QPrinter, sheet: Sheet, printer: str) -> str:
    """Why a printer is not sent a sheet, in words: it has taken another paper, to which it would scale or cut.

    Empty if it has this one.
    """
    has = device.pageLayout().fullRect(QPageLayout.Unit.Millimeter)
    wide, high = sheet.paper.width, sheet.paper.height
    if abs(has.width() - wide) <= _SAME and abs(has.height() - high) <= _SAME:
        return ""
    other = f"{told(round(has.width(), 1))} × {told(round(has.height(), 1))}"
    return (
        f"{printer} has no paper of {told(wide)} × {told(high)} and would take {other}; nothing was printed. "
        "Choose a size that it has, or set this one up in the system"
    )


def goes_out_gray(device: QPrinter, out: Out[OnSheet]) -> bool:
    """Whether a printer is set to grays, and the print has colour."""
    if device.colorMode() != QPrinter.ColorMode.GrayScale:
        return False
    return Renderer(out.photo.source, out.script).planes == 3


def paint(out: Out[OnSheet], device: QPrinter, progress: Progress) -> str:
    """Send the sheet band by band; returns what was done, in words. Raises FileError, Cancelled, ValueError."""
    sheet, settings = out.what.sheet, out.what.settings(out.settings)
    ((leaf, *_),) = out.pages(progress)
    told = settings.with_(profile="srgb") if not sheet.output.profile else settings
    target = target_of(told, 8, leaf.space, True)
    if target.channels == 4:
        raise FileError(Path(sheet.output.profile), "printers of this machine are told RGB or gray",
                        "Choose a profile for RGB, or write a PDF")  # fmt: skip
    width, height = leaf.size(1.0)
    painter = QPainter()
    if not painter.begin(device):
        raise ValueError("the printer takes no pages; nothing was printed")
    painter.setRenderHint(QPainter.RenderHint.LosslessImageRendering)  # else Qt packs pictures as JPEG
    try:
        each = device.resolution() / sheet.output.resolution
        for y in range(0, height, _BAND):
            if progress.stopping():
                device.abort()
                raise Cancelled
            band = Rect(0, y, width, min(_BAND, height - y))
            pixels = np.ascontiguousarray(target.pixels(leaf.region(band), band))
            kind = QImage.Format.Format_RGB888 if target.channels == 3 else QImage.Format.Format_Grayscale8
            image = QImage(pixels.data, width, band.height, width * target.channels, kind)
            painter.drawImage(QRectF(0, y * each, width * each, band.height * each), image)
            progress.told((y + band.height) / height)
    finally:
        painter.end()
    if device.printerState() in (QPrinter.PrinterState.Error, QPrinter.PrinterState.Aborted):
        raise ValueError("the printer gave up; look at it, and print again")
    return f"{sheet.paper.width:g} × {sheet.paper.height:g} mm at {sheet.output.resolution:g} pixels per inch went to"


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
