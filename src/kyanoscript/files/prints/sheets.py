"""A sheet of paper with the print on it, or a test strip, in a file; or as it is handed to a printer."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Source
from kyanoscript.core.print.bands import Banded, Bands
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.script import Script
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.colour.proofs import profile_path, read_profile
from kyanoscript.files.prints.out import Out, Outgoing, What
from kyanoscript.files.prints.settings import Settings
from kyanoscript.translation import tr


@dataclass(frozen=True)
class OnSheet(What):
    """Paper, print, marks, wedge and caption. Of the settings its bits and quality are told by whoever writes it."""

    kinds = ("tiff", "png", "jpeg", "pdf")
    refusal = ("a sheet is not written as that", "End the name in .tif, .pdf, .png or .jpg")

    sheet: Sheet
    bands: Bands | None = None  # of a test strip, in the place of the print
    trimmed: bool = False  # the prints alone, without the paper round them

    def settings(self, wanted: Settings) -> Settings:
        """The profile of the paper, or none; never more of the notes than whose print it is."""
        sheet = self.sheet
        profile = str(profile_path(sheet.output.profile)) if sheet.output.profile else ""
        if profile:
            read_profile(Path(profile))
        return wanted.with_(
            profile=profile or "auto", ppi=sheet.output.resolution, intent=sheet.output.intent,
            black_point=sheet.output.black_point, compression="deflate", notes="rights", longer_side=None,
        )  # fmt: skip

    def scripts(self, script: Script) -> tuple[Script, ...]:
        """That of the print, and those of the bands."""
        return (script,) if self.bands is None else (script, *self.bands.scripts)

    def leaf(self, out: Out[What], source: Source, progress: Progress) -> Leaf:
        """The sheet as something to be rendered. Raises ValueError, of too many pixels or too few."""
        sheet = self.sheet
        across = pixels(sheet.placing.across, sheet.output.resolution)
        if across < 1:
            raise ValueError(tr("the print is less than a pixel wide"))
        if self.bands is None:
            return Leaf(sheet, rendered(source, out.script, out.pictures, across, progress.watch), None, self.trimmed)
        each = [rendered(source, script, out.pictures, across, progress.watch) for script in self.bands.scripts]
        return Leaf(sheet, Banded(each, self.bands), None, self.trimmed)

    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """One; where there are marks to cut by, with what they leave."""
        leaf = self.leaf(out, source, progress)
        return [Outgoing(leaf, trim=leaf.prints if self.sheet.marks.cuts and not self.trimmed else None)]
