"""A photograph, its script and a target: the one way by which prints are written."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import NamedTuple

from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.picture.pyramid import Pyramid
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled
from kyanoscript.files.photos.notes import NOTHING, read_notes
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.export import export, scale_of
from kyanoscript.files.prints.settings import Settings, kind_of


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


class Written(NamedTuple):
    """What came of it: pixels, and what should be known."""

    width: int
    height: int
    remarks: tuple[str, ...] = ()


class StencilPrint:
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


def write_print(
    job: Print,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Written:
    """Render a print and write it; returns its width and height in pixels, and what should be known of it.

    ``progress`` hears how far it is, 0…1. ``cancelled`` is asked between bands, and while a pass takes seconds; when it
    is true nothing is written. A print is not written without one of its plates' pictures.

    Raises FileError, Cancelled, ValueError (settings).
    """
    kind_of(job.target)
    job.pictures.check(job.script)

    def watch(what: str, share: float) -> None:
        if cancelled():
            raise Cancelled

    photo = job.photo
    if photo.raw and photo.size != (photo.width, photo.height):
        photo = open_photo(photo.path)  # on screen half of its pixels do
    # What is written comes from the photograph itself, never from the copies that are looked at.
    source = photo.source.source if isinstance(photo.source, Pyramid) else photo.source
    renderer = Renderer(source, job.script, library=job.pictures, watch=watch)
    renderer.written = scale_of(renderer, job.settings)
    shown = renderer if job.stencil is None else StencilPrint(renderer, job.stencil)
    never = (job.photo.path, *job.never, *job.pictures.files(job.script))
    original = job.photo.original
    notes = NOTHING if original is None or job.settings.carried == "none" else read_notes(original.reader())
    size = export(shown, job.target, job.settings, never, progress, cancelled, job.threads, notes, job.photo.ppi)
    return Written(
        *size, (f"of the photograph's notes these could not go along: {', '.join(notes.lost)}",) * bool(notes.lost)
    )
