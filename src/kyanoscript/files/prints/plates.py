"""Ink plates in files: each ink of a print as a gray picture of its own, black where the ink is full; or as dots.

Values are coverage itself, without a profile: half covered is 127.5 of 255. One page a plate in a TIFF, with its ink as
PageName, or in a PDF; one file a plate in a folder, or as PNG; or, of four inks, one *Separated* TIFF with InkNames
(TIFF 6.0, section 16).
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.paper.screens import Screen
from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.print.dots import Bits, strips
from kyanoscript.core.print.plates import Making, Plate, made_plates, plates_of
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.prints import bits
from kyanoscript.files.prints.out import Out, Outgoing, What, Writing, Written
from kyanoscript.files.prints.pdf import add_page, save_pdf
from kyanoscript.files.prints.settings import DEVICE, PPI, Settings
from kyanoscript.translation import tr

_ROWS = 256  # of a strip in the file, and rendered in one go
_PAGE_NAME, _INK_SET, _INK_NAMES, _INKS = 285, 332, 333, 334  # TIFF 6.0
KINDS = (".tif", ".tiff", ".pdf")  # of one file for all; of a PNG there is one for each; other names are folders


@dataclass(frozen=True)
class InPlates(What):
    """Every ink by itself: pages of one file, a file each in a folder, or PNGs; of four inks also one picture."""

    making: Making
    separated: bool = False  # one picture with a channel an ink

    def check(self, target: Path) -> None:
        """Folders are files without an ending."""
        ending = target.suffix.lower()
        if self.separated and ending not in (".tif", ".tiff"):
            raise FileError(target, "a separated picture is a TIFF", "End the name in .tif")
        if ending and ending not in (*KINDS, ".png"):
            raise FileError(
                target, "plates are not written as that", "Name a folder, or end the name in .tif, .pdf or .png"
            )

    def settings(self, wanted: Settings) -> Settings:
        """Coverage itself; eight linear bits are too few in the darks: the plates together are 3/255 off there."""
        making = self.making
        ppi = making.ppi if making.sheet is None else making.sheet.output.resolution
        return wanted.with_(profile=DEVICE, ppi=ppi, dither=False, notes="none", compression="none",
                       longer_side=None)  # fmt: skip

    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """One a plate, all of the same size."""
        plates = plates_of(out.script, self.making)
        screened = self.making.screen is not None
        if self.separated and (len(plates) != 4 or screened):
            what = "dots" if screened else tr("{count} inks", count=len(plates))
            raise ValueError(tr("a separated TIFF has four inks, and not {what}; write pages or a folder", what=what))
        made = made_plates(source, out.script, out.pictures, self.making, progress.watch)
        return [Outgoing(plate, f"ink-{k + 1}") for k, plate in enumerate(made)]

    def put(self, writing: Writing, pages: list[Outgoing]) -> Written:
        """Into what the name says."""
        target, making = writing.out.target, self.making
        pack = _Packing(writing, making, plates_of(writing.out.script, making), pages)
        ending = target.suffix.lower()
        if not ending:
            return Written(*pack.size, pack.folder(target))
        if ending == ".png":
            return Written(*pack.size, pack.pngs(target))
        with replacing(target, writing.never) as file:
            if ending == ".pdf":
                pack.pdf(file)
            else:
                pack.tiff(file, range(len(pages)), self.separated)
        return Written(*pack.size, (target,))


class _Packing:
    """Plates on their way into files."""

    def __init__(self, writing: Writing, making: Making, plates: Sequence[Plate], pages: Sequence[Outgoing]) -> None:
        self.writing, self.making, self.plates, self.pages = writing, making, plates, pages
        self.screen = making.screen
        self.size = pages[0].of.size(1.0)
        self.bits = min(16, writing.settings.bits)
        self.ppi = writing.settings.ppi or PPI

    def _rows(self, those: Sequence[int], full_is_most: bool = False) -> Iterator[NDArray[Any]]:
        """Strips of grays; of several plates side by side."""
        width, height = self.size
        dtype: type[Any] = {8: np.uint8, 16: np.uint16}[self.bits]
        most = np.iinfo(dtype).max
        progress = self.writing.progress.part(those[0] / len(self.pages), (those[-1] + 1) / len(self.pages))
        for y in range(0, height, _ROWS):
            rect = Rect(0, y, width, min(_ROWS, height - y))
            rows = np.stack([self.pages[k].of.region(rect)[0] for k in those], axis=-1)
            rows = np.rint(np.clip(1 - rows if full_is_most else rows, 0, 1) * most).astype(dtype)
            yield rows[..., 0] if len(those) == 1 else rows
            progress.tell(rect.bottom / height)

    def _dots(self, k: int, screen: Screen) -> Iterator[Bits]:
        """Strips of dots."""
        progress = self.writing.progress.piece(k, len(self.pages))
        own = replace(screen, angle=self.plates[k].angle)
        return strips(self.pages[k].of, own, lambda what, share: progress.tell(share))

    def tiff(self, file: BinaryIO, those: Sequence[int], separated: bool = False) -> None:
        """A page a plate; or all of them as the channels of one picture."""
        if self.screen is not None:
            out = bits.Tiff(file)
            for k in those:
                made, plate = self._dots(k, self.screen), self.plates[k]
                out.page(made, self.size, self.screen.ppi, plate.name, plate.about)
            return
        import tifffile

        width, height = self.size
        names = "\0".join(self.plates[k].name for k in those) + "\0"
        with tifffile.TiffWriter(file) as tiff:
            for page in [tuple(those)] if separated else [(k,) for k in those]:
                extra = ([(_INK_SET, "H", 1, 2, True), (_INKS, "H", 1, 4, True), (_INK_NAMES, "s", 0, names, True)]
                         if separated else [(_PAGE_NAME, "s", 0, self.plates[page[0]].name, True)])  # fmt: skip
                tiff.write(
                    self._rows(page, separated),  # in a separated picture a full ink is the largest number
                    shape=(height, width, 4) if separated else (height, width), dtype=f"u{self.bits // 8}",
                    photometric="separated" if separated else "minisblack",
                    planarconfig="contig" if separated else None, rowsperstrip=_ROWS,
                    resolution=(self.ppi, self.ppi), resolutionunit="INCH", software="Kyanoscript", metadata=None,
                    description="\n".join(self.plates[k].about for k in page),
                    extratags=extra,
                )  # fmt: skip

    def folder(self, folder: Path) -> tuple[Path, ...]:
        """A TIFF for each plate, by the ink's name."""
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(folder, "the folder cannot be made", "Look at who may write there") from error
        stem, written = self.writing.out.photo.path.stem, []
        for k, plate in enumerate(self.plates):
            path = folder / (re.sub(r"[^\w-]+", "-", f"{stem}-{plate.name}") + ".tif")
            with replacing(path, self.writing.never) as file:
                self.tiff(file, [k])
            written.append(path)
        return tuple(written)

    def pngs(self, target: Path) -> tuple[Path, ...]:
        """A PNG for each plate, by the ink's number."""
        written = []
        for k, page in enumerate(self.pages):
            path = target.with_name(f"{target.stem}-{page.name}.png")
            if self.screen is not None:
                with replacing(path, self.writing.never) as file:
                    bits.write_png(file, self._dots(k, self.screen), self.size, self.screen.ppi)
            else:
                self.writing.export(page, path, self.writing.progress.piece(k, len(self.pages)))
            written.append(path)
        return tuple(written)

    def pdf(self, file: BinaryIO) -> None:
        """A page a plate, at its exact size, in gray; each page has its ink's name as its label."""
        import pikepdf
        from pikepdf import Array, Dictionary, Name, String

        screen = self.screen
        with pikepdf.new() as pdf:
            labels = []
            for k, plate in enumerate(self.plates):
                if screen is not None:
                    bands: Iterator[bytes] = (np.invert(row).tobytes() for row in self._dots(k, screen))
                    add_page(pdf, bands, self.size, 1, screen.ppi, Name.DeviceGray)
                else:
                    bands = (rows.astype(rows.dtype.newbyteorder(">")).tobytes() for rows in self._rows([k]))
                    add_page(pdf, bands, self.size, self.bits, self.ppi, Name.DeviceGray)
                labels += [k, Dictionary(P=String(plate.name))]
            pdf.Root.PageLabels = Dictionary(Nums=Array(labels))
            save_pdf(pdf, file, f"Plates of {self.writing.out.photo.path.stem}")
