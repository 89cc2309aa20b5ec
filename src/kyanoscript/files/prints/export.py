"""Prints out: rendered in blocks ahead of the writer, in the space and bits asked for.

What is written how stands in `settings`, what colours become in `target`, the formats in `writers`.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Collection
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.picture import Rect
from kyanoscript.core.print.over import Printable
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.base.replace import hasten, replacing
from kyanoscript.files.photos.notes import DESCRIPTION, NOTHING, Notes
from kyanoscript.files.prints.formats import format_of
from kyanoscript.files.prints.settings import PPI, Settings
from kyanoscript.files.prints.target import Target, target_of
from kyanoscript.files.prints.writers import TILE, WRITERS, Blocks, PictureHead
from kyanoscript.translation import tr

_BAND = 80_000  # pixels of a strip where every pass looks at single pixels: about what a core's own cache holds
_BLOCK = 400_000  # pixels rendered in one go where passes look around: their margins count less the larger it is
_HELD = 16 << 20  # bytes that are written before they are sent on to the disk
_THUMBNAIL = 160  # pixels of the longer side (Exif 2.32: 160 × 120)


def export(
    renderer: Printable,
    path: Path,
    settings: Settings,
    never: Collection[Path] = (),
    progress: Progress = UNTOLD,
    threads: int = 2,
    notes: Notes = NOTHING,
    own_ppi: float | None = None,
    trim: Rect | None = None,
    title: str = "",
) -> tuple[int, int]:
    """Render the whole print into a file; returns its width and height in pixels.

    Parameters
    ----------
    renderer : without a cache, so that nothing but the present band is held.
    path : target; its ending chooses the format. Written beside it first, then renamed.
    never : files that must not be written to: the photograph, and pictures that the print is made from.
    progress : told 0…1 by the calling thread, asked between bands whether it is to stop; then nothing is written.
    notes : those of the photograph; the settings say which of them go along.
    own_ppi : the photograph's resolution, which stays unless the settings say another.
    trim : what is left when it is cut, in pixels; a PDF tells it.
    title : what a document is called whose photograph has no description; empty: as its file.

    Raises FileError, Cancelled, ValueError (settings).
    """
    format = format_of(path)
    scale = scale_of(renderer, settings)
    width, height = renderer.size(scale)
    if max(width, height) > format.side:
        raise FileError(
            path,
            tr("a {name} cannot be {width} × {height} pixels", name=format.name, width=width, height=height),
            "Write a TIFF or PNG",
        )
    target = target_of(
        settings,
        settings.bits_of(format),
        renderer.space,
        renderer.planes == 3,
        format.any_space,
        format.inks,
    )
    if format.any_space and target.space is None:
        raise FileError(path, tr('a {name} cannot be written with the file of a profile', name=format.name),
                        "Choose a space by its name, or write a TIFF")  # fmt: skip
    high = TILE if settings.in_tiles and format.tiles else _band_rows(renderer, width)
    blocks = _blocks(renderer, scale, high, target, progress, threads)
    kept = notes.kept(settings.notes)
    ppi = settings.ppi or own_ppi or PPI
    thumbnail = _thumbnail(renderer, scale) if kept and format.thumbnail else None
    header = PictureHead(
        width, height, high, target, settings, ppi, kept, thumbnail, trim, title_of(notes, title or path.stem)
    )
    with replacing(path, never) as file:
        WRITERS[format.word](file, _hastened(blocks, file), header)
        progress.go_on()
    progress.told(1.0)
    return width, height


def in_memory(renderer: Printable, settings: Settings, threads: int) -> NDArray[Any]:
    """The whole print as pixels ``(h, w, 1 or 3)``, as a file with these settings would have them.

    Raises FileError for a profile that cannot be used.
    """
    scale = scale_of(renderer, settings)
    width, height = renderer.size(scale)
    target = target_of(settings, settings.bits, renderer.space, renderer.planes == 3)
    out = np.empty((height, width, target.channels), target.dtype)
    for place, pixels in _blocks(renderer, scale, _band_rows(renderer, width), target, UNTOLD, threads):
        out[place.y : place.bottom, place.x : place.right] = pixels
    return out


def title_of(notes: Notes, otherwise: str) -> str:
    """What a document is called: as the photograph is described, if it is."""
    described = notes.about.get(DESCRIPTION)
    words = described.encode().decode("utf-8", "replace") if isinstance(described, str) else ""
    return " ".join(words.split())[:200] or otherwise


def _thumbnail(renderer: Printable, scale: float) -> NDArray[np.uint8]:
    """The print, small, in sRGB."""
    small = min(scale, _THUMBNAIL / max(renderer.size(1.0)))
    place = Rect(0, 0, *renderer.size(small))
    shown = target_of(Settings(bits=8, profile="srgb", dither=False), 8, renderer.space, True)
    return np.asarray(shown.pixels(renderer.region(place, small), place), np.uint8)


def scale_of(renderer: Printable, settings: Settings) -> float:
    """The scale at which a print is written."""
    if settings.longer_side is None:
        return 1.0
    return min(1.0, settings.longer_side / max(renderer.size(1.0)))


def _blocks(
    renderer: Printable,
    scale: float,
    high: int,
    target: Target,
    progress: Progress,
    threads: int,
) -> Blocks:
    """The print as rows of blocks ``(rows, columns, channels)``; rendering runs ahead of writing."""
    width, height = renderer.size(scale)
    step = width
    if renderer.looks_around and width * high > _BLOCK:
        step = max(TILE, _BLOCK // high // TILE * TILE)
    places = [
        Rect(x, y, min(step, width - x), min(high, height - y))
        for y in range(0, height, high)
        for x in range(0, width, step)
    ]

    def block(place: Rect) -> NDArray[Any]:
        progress.go_on()
        return target.pixels(renderer.region(place, scale), place)

    with ThreadPoolExecutor(threads) as pool:
        ahead: deque[Future[NDArray[Any]]] = deque()
        coming = iter(places)
        try:
            for place in places:
                while len(ahead) <= 2 * threads and (start := next(coming, None)) is not None:
                    ahead.append(pool.submit(block, start))
                yield place, ahead.popleft().result()
                progress.tell((place.y + place.height * place.right / width) / height * 0.99)
        finally:
            for future in ahead:
                future.cancel()


def _hastened(blocks: Blocks, file: BinaryIO) -> Blocks:
    """The blocks as they are; what has been written of them goes to the disk meanwhile."""
    held = 0
    for place, pixels in blocks:
        yield place, pixels
        held += pixels.nbytes
        if held >= _HELD:
            hasten(file)
            held = 0


def _band_rows(renderer: Printable, width: int) -> int:
    """Rows rendered and written in one go."""
    if renderer.looks_around:
        return max(TILE, min(1024, _BLOCK // width))
    return max(8, min(TILE, _BAND // width))
