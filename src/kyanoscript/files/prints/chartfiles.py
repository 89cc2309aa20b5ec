"""Charts into files, to be printed on film or paper at their exact size; and read from scans of the dried print."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from kyanoscript.core.colour import parse_hex
from kyanoscript.core.picture import Rect, read
from kyanoscript.core.print.chart import PPI, film_of
from kyanoscript.core.process.chart import Chart
from kyanoscript.core.process.process import Process
from kyanoscript.core.process.reading import Scan, read_chart
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.formats import format_of
from kyanoscript.files.prints.settings import DEVICE, Settings
from kyanoscript.translation import tr

KINDS = ("tiff", "png", "pdf")
_LONGEST = 6000  # pixels of a scan that are read; of a finer one areas are averaged


def write_chart(
    target: Path,
    chart: Chart,
    process: Process,
    ppi: float = PPI,
    proving: bool = False,
    progress: Progress = UNTOLD,
) -> tuple[int, int]:
    """Write a chart for a process; returns its size in pixels. The printer's own numbers, without a profile.

    Raises FileError, ValueError.
    """
    if format_of(target).word not in KINDS:
        raise FileError(target, "a chart is not written as that", "End the name in .tif, .png or .pdf")
    if not 72 <= ppi <= 2880:
        raise ValueError(tr("{ppi:g} pixels per inch are not possible for a chart; 72…2880 are", ppi=ppi))
    parse_hex(process.ink)
    film = film_of(chart, process, ppi, proving)
    settings = Settings(bits=8, profile=DEVICE, ppi=ppi, dither=False, notes="none", compression="none")
    return export(film, target, settings, (), progress)


def read_scan(path: Path, white: float | None = None) -> Scan:
    """Read a chart from a picture's file. Raises FileError."""
    source = open_photo(path, hold=False).source
    scale = min(1.0, _LONGEST / max(source.width, source.height))
    size = max(1, round(source.width * scale)), max(1, round(source.height * scale))
    try:
        found = read_chart(np.ascontiguousarray(read(source, Rect(0, 0, *size), scale)), source.space, white)
    except ValueError as error:
        raise FileError(path, str(error), "Scan the dried print again, or choose another file") from error
    return found if scale == 1 else found.enlarged(1 / scale)
