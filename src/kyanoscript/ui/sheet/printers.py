"""The system's printers: which there are, whether one can take a sheet as it is, and sending it."""

from __future__ import annotations

import functools
import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from PySide6.QtCore import QRectF, QSizeF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrinter, QPrinterInfo

from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.quoting import cut
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.files.base.errors import Cancelled
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints import queues
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.queues import Queue
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.standins import benchprinter
from kyanoscript.translation import tr

_SAME = 1.0  # mm: a paper is not told apart from another by less


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


def paper_of(queue: Queue, sheet: Sheet) -> str | None:
    """A queue's own name for a sheet's paper; None if it has no such paper. Where it names none, the size is told."""
    short, long = sorted((sheet.paper.width, sheet.paper.height))
    for name in queue.papers:
        size = _sizes().get(name) or _told_by_name(name)
        if size is not None and abs(size[0] - short) <= _SAME and abs(size[1] - long) <= _SAME:
            return name
    if not queue.papers or any(name.startswith(queues.CUSTOM) for name in queue.papers):
        return f"{queues.CUSTOM}{short:g}x{long:g}mm"
    return None


@functools.cache
def _sizes() -> dict[str, tuple[float, float]]:
    """Sizes, short and long side in mm, by the names that printers have for them (PPD 4.3), as Qt knows them."""
    found = {}
    for size in map(QPageSize, QPageSize.PageSizeId):
        if size.isValid():
            mm = size.size(QPageSize.Unit.Millimeter)
            found[size.key()] = min(mm.width(), mm.height()), max(mm.width(), mm.height())
    return found


def _told_by_name(name: str) -> tuple[float, float] | None:
    """The size of a name that says it, as iso_a4_210x297mm (PWG 5101.1); None if it says none."""
    found = re.search(r"_([\d.]+)x([\d.]+)(mm|in)$", name)
    if found is None:
        return None
    unit = INCH if found[3] == "in" else 1.0
    short, long = sorted((float(found[1]) * unit, float(found[2]) * unit))
    return short, long


def not_its_paper(device: QPrinter, sheet: Sheet, printer: str, queue: Queue) -> str:
    """Why a printer is not sent a sheet, in words: it has not its paper, or has taken another one, to which it would
    scale or cut. Empty if it has this one.
    """
    if queue.answers and paper_of(queue, sheet) is None:
        return tr(
            "{printer} has no paper of {width} × {height}; nothing was printed. It has {cut}",
            printer=printer,
            width=told(sheet.paper.width),
            height=told(sheet.paper.height),
            cut=cut(", ".join(queue.papers), 200),
        )
    has = device.pageLayout().fullRect(QPageLayout.Unit.Millimeter)
    wide, high = sheet.paper.width, sheet.paper.height
    if abs(has.width() - wide) <= _SAME and abs(has.height() - high) <= _SAME:
        return ""
    other = f"{told(round(has.width(), 1))} × {told(round(has.height(), 1))}"
    return tr(
        "{printer} has no paper of {wide} × {high} and would take {other}; nothing was printed. "
        "Choose a size that it has, or set this one up in the system",
        printer=printer,
        wide=told(wide),
        high=told(high),
        other=other,
    )


@dataclass(frozen=True)
class Wanted:
    """How a sheet is to be printed."""

    queue: Queue = field(default_factory=Queue)  # what is known of the printer, if the print service says anything
    chosen: Mapping[str, str] = field(default_factory=dict)  # of it, by what it is about
    copies: int = 1


def goes_out_gray(device: QPrinter, out: Out[OnSheet], wanted: Wanted) -> bool:
    """Whether a printer is to print in grays, and the print has colour."""
    queue = wanted.queue
    grays = queues.gray(queue, wanted.chosen) if queue.answers else device.colorMode() == QPrinter.ColorMode.GrayScale
    return grays and Renderer(out.photo.source, out.script).planes == 3


def hand(out: Out[OnSheet], device: QPrinter, printer: str, title: str, wanted: Wanted, progress: Progress) -> str:
    """Hand the sheet over, by the print service itself where that answers; returns what was done, in words.

    Raises FileError, Cancelled, ValueError.
    """
    if not wanted.queue.answers:
        device.setCopyCount(wanted.copies)
        return paint(out, device, progress)
    paper = paper_of(wanted.queue, out.what.sheet)
    assert paper is not None  # it was asked for
    return queues.send(out, queues.Sent(wanted.queue, title, paper, wanted.chosen, wanted.copies), progress)


def paint(out: Out[OnSheet], device: QPrinter, progress: Progress) -> str:
    """Send the sheet band by band; returns what was done, in words. Raises FileError, Cancelled, ValueError."""
    sheet, said = out.what.sheet, queues.told_by(out, progress)
    painter = QPainter()
    if not painter.begin(device):
        raise ValueError("the printer takes no pages; nothing was printed")
    painter.setRenderHint(QPainter.RenderHint.LosslessImageRendering)  # else Qt packs pictures as JPEG
    kind = QImage.Format.Format_RGB888 if said.channels == 3 else QImage.Format.Format_Grayscale8
    each = device.resolution() / sheet.output.resolution
    try:
        for band, pixels in said.bands:
            image = QImage(pixels.data, band.width, band.height, band.width * said.channels, kind)
            painter.drawImage(QRectF(0, band.y * each, band.width * each, band.height * each), image)
    except Cancelled:
        device.abort()
        raise
    finally:
        painter.end()
    if device.printerState() in (QPrinter.PrinterState.Error, QPrinter.PrinterState.Aborted):
        raise ValueError("the printer gave up; look at it, and print again")
    return tr(
        "{width:g} × {height:g} mm at {resolution:g} pixels per inch went to",
        width=sheet.paper.width,
        height=sheet.paper.height,
        resolution=sheet.output.resolution,
    )
