"""A photograph, its script and a target: the one way by which prints are written."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.errors import Cancelled
from kyanoscript.files.export import Settings, export, kind_of, scale_of
from kyanoscript.files.photo import Photo
from kyanoscript.files.pictures import Pictures


@dataclass(frozen=True)
class Print:
    """What is to be written, and where."""

    photo: Photo
    script: Script
    pictures: Pictures
    target: Path  # its ending chooses the format
    settings: Settings
    stencil: int | None = None  # where this pass acts is written instead of the print
    never: tuple[Path, ...] = ()  # files that must not be written to, besides the photograph and the pictures used
    threads: int = 2


class StencilPrint:
    """Shows where a pass acts instead of the print: white where it acts fully, black where it does not."""

    planes = 1
    looks_around = True

    def __init__(self, of: Renderer, index: int) -> None:
        self._of, self._index = of, index

    def size(self, scale: float) -> tuple[int, int]:
        return self._of.size(scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        return self._of.stencil(self._index, rect, scale)


def write_print(
    job: Print,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[int, int]:
    """Render a print and write it; returns its width and height in pixels.

    ``progress`` hears how far it is, 0…1. ``cancelled`` is asked between bands, and while a pass takes seconds; when it
    is true nothing is written. A print is not written without one of its plates' pictures.

    Raises FileError, Cancelled, ValueError (settings).
    """
    kind_of(job.target)
    job.pictures.check(job.script)

    def watch(what: str, share: float) -> None:
        if cancelled():
            raise Cancelled

    renderer = Renderer(job.photo.source, job.script, library=job.pictures, watch=watch)
    renderer.written = scale_of(renderer, job.settings)
    shown = renderer if job.stencil is None else StencilPrint(renderer, job.stencil)
    never = (job.photo.path, *job.never, *job.pictures.files(job.script))
    return export(shown, job.target, job.settings, never, progress, cancelled, job.threads)
