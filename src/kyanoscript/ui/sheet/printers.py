"""The system's printers: which there are, whether one can take a sheet as it is, and sending it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import QRectF, QSizeF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrinterInfo

from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.target import target_of
from kyanoscript.files.standins import benchprinter

_SAME = 1.0  # mm: a paper is not told apart from another by less
_BAND = 400  # rows that are handed to a printer in one go


def set_page(device: QPrinter, name: str, sheet: Sheet) -> None:
    """The sheet's own size, no margins, nothing scaled."""
    size = QPageSize(QSizeF(min(sheet.paper.width, sheet.paper.height), max(sheet.paper.width, sheet.paper.height)),
                     QPageSize.Unit.Millimeter, name, QPageSize.SizeMatchPolicy.FuzzyMatch)  # fmt: skip
    lying = sheet.paper.width > sheet.paper.height
    device.setPageSize(size)
    device.setPageOrientation(QPageLayout.Orientation.Landscape if lying else QPageLayout.Orientation.Portrait)
    device.setFullPage(True)
    device.setDocName(name)


def usual() -> str:
    """The printer that the system takes where none is named; empty if there is none."""
    info = QPrinterInfo.defaultPrinter()
    return "" if info.isNull() else info.printerName()


def there() -> list[str]:
    """Those of the system, by name."""
    return list(QPrinterInfo.availablePrinterNames())


def in_order() -> list[str]:
    """The usual printer first, then the others, and the stand-in where one is looked for last."""
    names, first = there(), usual()
    return [*(name for name in names if name == first), *(name for name in names if name != first), benchprinter.NAME]


def device_of(name: str) -> QPrinter:
    """One of them, to be sent to."""
    return QPrinter(QPrinterInfo.printerInfo(name), QPrinter.PrinterMode.HighResolution)


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
