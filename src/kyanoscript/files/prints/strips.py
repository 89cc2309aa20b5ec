"""A test strip in a file, with its labels."""

from __future__ import annotations

from dataclasses import dataclass

from kyanoscript.core.picture import Reading, Source
from kyanoscript.core.print.bands import Banded, Bands
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.out import Out, Outgoing, What


@dataclass(frozen=True)
class InBands(What):
    """The bands in the place of the print."""

    bands: Bands

    def scripts(self, script: Script) -> tuple[Script, ...]:
        """Those of the bands."""
        return self.bands.scripts

    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """One, of all bands."""
        renderers = [
            Renderer(source, script, library=out.pictures, watch=progress.watch, reading=Reading.WRITTEN)
            for script in self.bands.scripts
        ]
        return [Outgoing(Banded(renderers, self.bands))]
