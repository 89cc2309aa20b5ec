"""Queues of the system's print service, by its own commands: what each has to offer, and a sheet sent there as it is.

``lpoptions`` tells what there is, ``lp`` takes a PDF of the sheet's exact size whose pixels are what the printer is to
be told, without loss, and is told to scale nothing. Where these commands are not, Qt prints (`ui.sheet.printers`).
"""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import tempfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.quoting import cut, quoted
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.out import Out
from kyanoscript.files.prints.pdf import add_page
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.target import target_of
from kyanoscript.translation import tr

# What is offered, and the names that printers have for it (PPD 4.3; CUPS; IPP, RFC 8011)
MEDIA, TRAY, QUALITY, COLOUR = "media", "tray", "quality", "colour"
_NAMES = {
    MEDIA: ("MediaType", "media-type"),
    TRAY: ("InputSlot", "media-source"),
    QUALITY: ("cupsPrintQuality", "print-quality", "OutputMode", "Quality", "PrintQuality", "Resolution"),
    COLOUR: ("ColorModel", "print-color-mode", "ColorMode"),
}
_PAPERS = ("PageSize", "media")
CUSTOM = "Custom."
_QUALITIES = {"3": "draft", "4": "normal", "5": "high"}  # RFC 8011, 5.2.13
_GRAYS = ("gray", "grey", "mono", "black")
_WAIT = 20.0  # seconds for an answer
_BAND = 400  # rows rendered in one go


@dataclass(frozen=True)
class Offer:
    """Something that a queue lets one choose."""

    what: str  # media, tray, quality or colour
    option: str  # its own name for it
    choices: tuple[str, ...]
    usual: str

    def words(self, choice: str) -> str:
        """A choice, to be read."""
        if self.option == "print-quality":
            return _QUALITIES.get(choice, choice)
        return re.sub(r"(?<=[a-z])(?=[A-Z])", " ", choice.replace("-", " ").replace("_", " "))


@dataclass(frozen=True)
class Queue:
    """What is known of a queue."""

    name: str = ""
    offers: tuple[Offer, ...] = ()
    papers: tuple[str, ...] = ()  # sizes, by its own names; `CUSTOM`… where it takes any

    @property
    def answers(self) -> bool:
        """Whether the print service knows it."""
        return bool(self.offers or self.papers)


@dataclass(frozen=True)
class Sent:
    """How a sheet is to be sent."""

    queue: Queue
    title: str
    paper: str  # the queue's name for the size
    chosen: Mapping[str, str]  # by what they are about
    copies: int = 1


def there() -> bool:
    """Whether there is a print service with its commands."""
    return shutil.which("lp") is not None and shutil.which("lpoptions") is not None


def asked(queue: str) -> Queue:
    """What is known of a queue; nothing where there is no print service, or it does not answer."""
    if not there():
        return Queue(queue)
    try:
        found = dict(_parsed(_asked(["lpoptions", "-p", queue, "-l"])))
    except (OSError, subprocess.SubprocessError):
        return Queue(queue)
    papers = next((found[name][0] for name in _PAPERS if name in found), ())
    made = []
    for what, names in _NAMES.items():
        option = next((name for name in names if name in found), None)
        if option is not None and len(found[option][0]) > 1:
            choices, usual = found[option]
            made.append(Offer(what, option, choices, usual))
    return Queue(queue, tuple(made), papers)


def _parsed(text: str) -> Iterator[tuple[str, tuple[tuple[str, ...], str]]]:
    """Options, their choices, and which is marked as usual."""
    for line in text.splitlines():
        head, colon, tail = line.partition(":")
        if not colon:
            continue
        words = tail.split()
        usual = next((word[1:] for word in words if word.startswith("*")), "")
        choices = tuple(word.lstrip("*") for word in words)
        if choices:
            yield head.partition("/")[0].strip(), (choices, usual or choices[0])


def checked(queue: Queue, chosen: Mapping[str, str]) -> dict[str, str]:
    """Choices by the queue's own names. Raises ValueError for what it has not, with what it has."""
    made = {}
    for what, choice in chosen.items():
        offer = next((one for one in queue.offers if one.what == what), None)
        if offer is None:
            has = ", ".join(one.what for one in queue.offers) or "nothing"
            raise ValueError(tr("{name} lets no {what} be chosen; it has {has}", name=queue.name, what=what, has=has))
        same = [one for one in offer.choices if choice.casefold() in (one.casefold(), offer.words(one).casefold())]
        if not same:
            raise ValueError(
                tr(
                    "{name} has no {what} {choice}; it has {choices}",
                    name=queue.name,
                    what=what,
                    choice=quoted(choice),
                    choices=", ".join(offer.choices),
                )
            )
        made[what] = same[0]
    return made


def gray(queue: Queue, chosen: Mapping[str, str]) -> bool:
    """Whether a queue is to print in grays, as it is chosen, or as is usual there."""
    offer = next((one for one in queue.offers if one.what == COLOUR), None)
    if offer is None:
        return False
    choice = chosen.get(COLOUR, offer.usual).casefold()
    return any(word in choice for word in _GRAYS)


def send(out: Out[OnSheet], how: Sent, progress: Progress) -> str:
    """A sheet to a queue; returns what was done, in words. Raises FileError, Cancelled, ValueError."""
    sheet = out.what.sheet
    chosen = checked(how.queue, how.chosen)
    with tempfile.TemporaryDirectory(prefix="kyanoscript-") as folder:
        page = Path(folder) / "sheet.pdf"
        write_page(out, page, progress)
        _check_size(page, sheet)
        words = ["lp", "-d", how.queue.name, "-t", cut(how.title), "-n", str(how.copies), "-o", "print-scaling=none",
                 "-o", f"media={how.paper}"]  # fmt: skip
        for offer in how.queue.offers:
            if offer.what in chosen:
                words += ["-o", f"{offer.option}={chosen[offer.what]}"]
        if progress.stopping():
            raise Cancelled
        try:
            _asked([*words, "--", str(page)])
        except subprocess.CalledProcessError as error:
            said = " ".join((error.stderr or "").split()).removeprefix("lp: ")
            raise ValueError(
                tr("{name} did not take it: {cut}", name=how.queue.name, cut=cut(said or "no reason was given", 200))
            ) from error
        except (OSError, subprocess.SubprocessError) as error:
            raise ValueError(
                tr("the print service does not answer; nothing was printed ({cut})", cut=cut(str(error)))
            ) from error
    return tr(
        "{width:g} × {height:g} mm at {resolution:g} pixels per inch went to",
        width=sheet.paper.width,
        height=sheet.paper.height,
        resolution=sheet.output.resolution,
    )


@dataclass(frozen=True)
class Told:
    """A sheet as a printer is told it: eight bits, RGB or gray, in its own numbers."""

    size: tuple[int, int]
    channels: int
    bands: Iterator[tuple[Rect, NDArray[np.uint8]]]


def told_by(out: Out[OnSheet], progress: Progress) -> Told:
    """A sheet, band by band as it is rendered. Raises FileError, ValueError; the bands Cancelled."""
    sheet, settings = out.what.sheet, out.what.settings(out.settings)
    ((leaf, *_),) = out.pages(progress)
    plain = settings.with_(profile="srgb") if not sheet.output.profile else settings
    target = target_of(plain, 8, leaf.space, True)
    if target.channels == 4:
        raise FileError(Path(sheet.output.profile), "printers of this machine are told RGB or gray",
                        "Choose a profile for RGB, or write a PDF")  # fmt: skip
    width, height = leaf.size(1.0)

    def bands() -> Iterator[tuple[Rect, NDArray[np.uint8]]]:
        for y in range(0, height, _BAND):
            if progress.stopping():
                raise Cancelled
            band = Rect(0, y, width, min(_BAND, height - y))
            yield band, np.ascontiguousarray(target.pixels(leaf.region(band), band), np.uint8)
            progress.told((y + band.height) / height)

    return Told((width, height), target.channels, bands())


def write_page(out: Out[OnSheet], path: Path, progress: Progress) -> None:
    """The sheet as a PDF of one page, whose pixels are what the printer is told: no space of its own stands beside
    them, so that nobody converts them again. Raises FileError, Cancelled, ValueError."""
    import pikepdf
    from pikepdf import Name

    said = told_by(out, progress)
    with pikepdf.new() as pdf:
        colours = Name.DeviceRGB if said.channels == 3 else Name.DeviceGray
        pixels = (band.tobytes() for _, band in said.bands)
        add_page(pdf, pixels, said.size, 8, out.what.sheet.output.resolution, colours)
        pdf.save(path)


def _check_size(page: Path, sheet: Sheet) -> None:
    """Raise ValueError where a page is not as large as its sheet, to a pixel."""
    import pikepdf

    width, height, same = sheet.paper.width, sheet.paper.height, INCH / sheet.output.resolution + 0.01
    with pikepdf.open(page) as pdf:
        box = [float(v) * INCH / 72 for v in pdf.pages[0].MediaBox]
    if abs(box[2] - box[0] - width) > same or abs(box[3] - box[1] - height) > same:
        raise ValueError(
            tr(
                "the page came out as {told} × {told2} instead of {width} × {height}; nothing was printed",
                told=told(box[2] - box[0]),
                told2=told(box[3] - box[1]),
                width=told(width),
                height=told(height),
            )
        )


def _asked(words: list[str]) -> str:
    """What a command of the print service says, in English. Raises OSError, subprocess.SubprocessError."""
    found = subprocess.run(words, capture_output=True, text=True, errors="replace", timeout=_WAIT, check=True,
                           stdin=subprocess.DEVNULL, env={**os.environ, "LC_ALL": "C"})  # fmt: skip
    return found.stdout
