"""The print itself, in a file; or where one of its passes acts."""

from __future__ import annotations

from dataclasses import dataclass

from kyanoscript.core.picture import Planes, Reading, Rect, Source
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.prints.out import Out, Outgoing, What


@dataclass(frozen=True)
class WholePrint(What):
    """The print, at its pixels or smaller."""

    stencil: int | None = None  # where this pass acts is written instead of the print

    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """One."""
        renderer = Renderer(source, out.script, library=out.pictures, watch=progress.watch, reading=Reading.WRITTEN)
        return [Outgoing(renderer if self.stencil is None else _Stencil(renderer, self.stencil))]


class _Stencil:
    """Shows where a pass acts instead of the print: white where it acts fully, black where it does not."""

    planes = 1
    looks_around = True

    def __init__(self, of: Renderer, index: int) -> None:
        self._of, self._index = of, index
        self.space = of.space

    def size(self, scale: float) -> tuple[int, int]:
        return self._of.size(scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        return self._of.stencil(self._index, rect, scale)
