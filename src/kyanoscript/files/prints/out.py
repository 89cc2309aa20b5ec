"""The one way out: a photograph and its script become a picture (`What`), and that becomes a file.

Whole prints, sheets, strips, plates and negatives differ in what picture they are, in which formats they can be, and in
what of the settings is theirs to say. Everything else is the same, and stands here once.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from pathlib import Path
from typing import ClassVar, Generic, NamedTuple, TypeVar

from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.picture.pyramid import Pyramid
from kyanoscript.core.print.over import Printable
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.photos.notes import NOTHING, Notes, read_notes
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.formats import FORMATS, format_of
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.writers import too_long
from kyanoscript.translation import tr


class Outgoing(NamedTuple):
    """A picture that goes out."""

    of: Printable
    name: str = ""  # of its ink, where there are several
    trim: Rect | None = None  # what is left when it is cut


class Written(NamedTuple):
    """What came of it: pixels, and what should be known."""

    width: int
    height: int
    files: tuple[Path, ...] = ()
    remarks: tuple[str, ...] = ()


class What(ABC):
    """What picture of a photograph goes out."""

    kinds: ClassVar[tuple[str, ...]] = tuple(FORMATS)
    refusal: ClassVar[tuple[str, str]] = ("a print is not written as that", "Choose another ending")  # and advice

    def check(self, target: Path) -> None:
        """Raise FileError where it cannot become such a file."""
        if format_of(target).word not in self.kinds:
            raise FileError(target, *self.refusal)

    def settings(self, wanted: Settings) -> Settings:
        """How it is written. Raises FileError."""
        return wanted

    def scripts(self, script: Script) -> tuple[Script, ...]:
        """All that it is rendered through."""
        return (script,)

    @abstractmethod
    def pages(self, out: Out[What], source: Source, progress: Progress) -> list[Outgoing]:
        """The pictures. Raises ValueError, in words."""

    def put(self, writing: Writing, pages: list[Outgoing]) -> Written:
        """Into files: of several pages each into one of its own, with its name behind."""
        target, files = writing.out.target, []
        for k, page in enumerate(pages):
            path = target.with_name(f"{target.stem}-{page.name}{target.suffix}") if page.name else target
            size = writing.export(page, path, writing.progress.piece(k, len(pages)))
            files.append(path)
        return Written(*size, tuple(files))


_PLAIN = Settings()
W = TypeVar("W", bound=What, covariant=True)


@dataclass(frozen=True)
class Out(Generic[W]):
    """What is to be written, from what, and where."""

    photo: Photo
    script: Script
    pictures: Pictures
    target: Path  # its ending chooses the format
    what: W
    settings: Settings = _PLAIN
    never: tuple[Path, ...] = ()  # files that must not be written to, besides the photograph and the pictures used
    threads: int = 2

    def pages(self, progress: Progress = UNTOLD) -> list[Outgoing]:
        """The pictures that go out, to be rendered. Raises FileError, ValueError."""
        for script in self.what.scripts(self.script):
            self.pictures.check(script)
        return self.what.pages(self, whole_source(self.photo), progress)


@dataclass(frozen=True)
class Writing:
    """What goes into files, while it does."""

    out: Out[What]
    settings: Settings
    never: tuple[Path, ...]
    notes: Notes
    progress: Progress

    def export(self, page: Outgoing, path: Path, progress: Progress) -> tuple[int, int]:
        """A page into a file; returns its size in pixels."""
        out = self.out
        return export(
            page.of, path, self.settings, self.never, progress, out.threads, self.notes, out.photo.ppi,
            page.trim, out.photo.path.stem,
        )  # fmt: skip


def write(out: Out[What], progress: Progress = UNTOLD) -> Written:
    """Render and write; returns the size in pixels, the files, and what should be known of them.

    What is to stop is asked between bands, and while a pass takes seconds; then nothing is written. Nothing is written
    either without one of the pictures that passes need. Raises FileError, Cancelled, ValueError (settings, values).
    """
    out.what.check(out.target)
    settings = out.what.settings(out.settings)
    pages = out.pages(progress)
    used = (file for script in out.what.scripts(out.script) for file in out.pictures.files(script))
    original = out.photo.original
    notes = NOTHING if original is None or settings.notes == "none" else read_notes(original.reader())
    never = tuple(dict.fromkeys((out.photo.path, *out.never, *used)))
    written = out.what.put(Writing(out, settings, never, notes, progress), pages)
    lost = (*notes.lost, *(too_long(format_of(out.target), notes.kept(settings.notes)) if notes else ()))
    remark = (tr("of the photograph's notes these could not go along: {lost}", lost=", ".join(lost)),) * bool(lost)
    return written._replace(remarks=(*written.remarks, *remark))


def whole_source(photo: Photo) -> Source:
    """The photograph itself, never the copies that are looked at: on screen half of a raw's pixels do.

    Raises FileError.
    """
    if photo.raw and photo.size != (photo.width, photo.height):
        photo = open_photo(photo.path)
    return photo.source.source if isinstance(photo.source, Pyramid) else photo.source


def shape_of(photo: Photo, script: Script) -> tuple[int, float]:
    """How many pixels of the photograph the print is wide, and its width over its height."""
    width, height = Renderer(photo.source, script).size(1.0)
    times = max(photo.size) / max(photo.width, photo.height)  # of a raw half of the pixels are looked at
    return round(width * times), width / height
