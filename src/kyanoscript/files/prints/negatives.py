"""Contact negatives in files: one, or one for each ink beside each other. See `core.print.film`."""

from __future__ import annotations

from dataclasses import dataclass

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Source
from kyanoscript.core.print.film import negatives, remarks_of
from kyanoscript.core.process.process import Process
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.out import Out, Outgoing, What, shape_of
from kyanoscript.files.prints.settings import DEVICE, Settings


@dataclass(frozen=True)
class AsNegative(What):
    """Film in the printer's own numbers, without a profile."""

    kinds = ("tiff", "png", "pdf")
    refusal = ("a negative is not written as that", "End the name in .tif, .png or .pdf")

    sheet: Sheet  # the film: its size, and where the print lies on it
    processes: tuple[Process, ...]  # one; or one for each ink of the print
    rim: bool = True  # marks, words and a wedge, whatever the sheet says

    def settings(self, wanted: Settings) -> Settings:
        """Its numbers as they are; of the photograph's notes none."""
        return wanted.with_(
            profile=DEVICE, ppi=self.sheet.output.resolution, dither=wanted.bits == 8, notes="none",
            compression="deflate", longer_side=None,
        )  # fmt: skip

    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """One, or one an ink."""
        made = negatives(source, out.script, out.pictures, self.sheet, self.processes, self.rim, progress.watch)
        return [Outgoing(film, name) for name, film in made]


def remarks_before(out: Out[AsNegative]) -> list[str]:
    """What should be known before it is printed. Raises ValueError for what cannot be."""
    what = out.what
    return remarks_of(what.sheet, what.processes, shape_of(out.photo, out.script)[1], what.rim)
