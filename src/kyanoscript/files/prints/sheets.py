"""Sheets out: a photograph, a script and a sheet, into a file or to whoever takes the pages."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.picture.pyramid import Pyramid
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.colour.proofs import profile_path, read_profile
from kyanoscript.files.photos.notes import NOTHING, read_notes
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints import strips
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.settings import Settings, kind_of

KINDS = ("tiff", "png", "jpeg", "pdf")


@dataclass(frozen=True)
class Out:
    """What is to be written, and where."""

    photo: Photo
    script: Script
    sheet: Sheet
    pictures: Pictures
    target: Path  # its ending chooses the format
    bands: strips.Laid | None = None  # of a test strip, in the place of the print
    bits: int = 8
    trimmed: bool = False  # the prints alone, without the paper round them
    quality: int = 95
    never: tuple[Path, ...] = ()
    threads: int = 2


def shape_of(photo: Photo, script: Script) -> tuple[int, float]:
    """How many pixels of the photograph the print is wide, and its width over its height."""
    width, height = Renderer(photo.source, script).size(1.0)
    times = max(photo.size) / max(photo.width, photo.height)  # of a raw half of the pixels are looked at
    return round(width * times), width / height


def whole_source(photo: Photo) -> Source:
    """The photograph itself, never the copies that are looked at. Raises FileError."""
    if photo.raw and photo.size != (photo.width, photo.height):
        photo = open_photo(photo.path)
    return photo.source.source if isinstance(photo.source, Pyramid) else photo.source


def leaf_of(job: Out, cancelled: Callable[[], bool] = lambda: False, ppi: float | None = None) -> Leaf:
    """The sheet as something to be rendered. Raises FileError, ValueError (of too many pixels)."""

    def watch(what: str, share: float) -> None:
        if cancelled():
            raise Cancelled

    job.pictures.check(job.script)
    resolution = ppi or job.sheet.resolution
    across = pixels(job.sheet.across, resolution)
    if across < 1:
        raise ValueError("the print is less than a pixel wide")
    source = whole_source(job.photo)
    if job.bands is None:
        return Leaf(job.sheet, rendered(source, job.script, job.pictures, across, watch), resolution, job.trimmed)
    for script in job.bands.scripts:
        job.pictures.check(script)
    bands = [rendered(source, script, job.pictures, across, watch) for script in job.bands.scripts]
    return Leaf(job.sheet, strips.Bands(bands, job.bands), resolution, job.trimmed)


def write_sheet(
    job: Out,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[int, int]:
    """Write a sheet; returns its size in pixels. Raises FileError, Cancelled, ValueError."""
    kind = kind_of(job.target)
    if kind not in KINDS:
        raise FileError(job.target, "a sheet is not written as that", "End the name in .tif, .pdf, .png or .jpg")
    sheet = job.sheet
    profile = str(profile_path(sheet.profile)) if sheet.profile else ""
    if profile:
        read_profile(Path(profile))
    settings = Settings(
        bits=job.bits, profile=profile or "auto", ppi=sheet.resolution, quality=job.quality, intent=sheet.intent,
        black_point=sheet.black_point, compression="deflate", carried="rights",
    )  # fmt: skip
    leaf = leaf_of(job, cancelled)
    original = job.photo.original
    notes = NOTHING if original is None else read_notes(original.reader())
    never = (job.photo.path, *job.never, *job.pictures.files(job.script))
    return export(leaf, job.target, settings, never, progress, cancelled, job.threads, notes, trim=_trim(leaf, job))


def _trim(leaf: Leaf, job: Out) -> Rect | None:
    """What is left when it is cut: the prints, where there are marks to cut by."""
    return leaf.prints if job.sheet.cuts and not job.trimmed else None
