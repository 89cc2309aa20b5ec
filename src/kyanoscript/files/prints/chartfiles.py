"""Charts into files, to be printed on film or paper at their exact size; and read from scans of the dried print."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np

from kyanoscript.core.colour import parse_hex
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.picture import Rect, read
from kyanoscript.core.print.leaf import lettering
from kyanoscript.core.process.chart import Chart, Drawn, Film
from kyanoscript.core.process.process import Process
from kyanoscript.core.process.reading import Scan, read_chart
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.settings import DEVICE, Settings, kind_of

KINDS = ("tiff", "png", "pdf")
PPI = 360.0
_LETTERS = 3.2  # mm
_LONGEST = 6000  # pixels of a scan that are read; of a finer one areas are averaged


def film_of(chart: Chart, process: Process, ppi: float = PPI, proving: bool = False) -> Film:
    """A chart as it goes to the printer for a process; ``proving``: through its curve. Raises ValueError."""
    tones = process.film_values(chart.values) if proving else None
    drawn = Drawn(chart, ppi, tones)
    words = f"{chart.name}{', through the curve of ' + process.name if proving else ''}"
    assert chart.words is not None
    room = round(chart.words.width * ppi / INCH)
    drawn.write(lettering(words, max(6, round(_LETTERS * ppi / INCH)), room))
    coloured = drawn.planes == 3  # it has inks of its own, and their paper is held back by black
    return Film(drawn, "#000000" if coloured else process.ink, process.negative, process.mirrored and process.negative)


def write_chart(
    target: Path,
    chart: Chart,
    process: Process,
    ppi: float = PPI,
    proving: bool = False,
    progress: Callable[[float], None] = lambda _: None,
) -> tuple[int, int]:
    """Write a chart for a process; returns its size in pixels. The printer's own numbers, without a profile.

    Raises FileError, ValueError.
    """
    if kind_of(target) not in KINDS:
        raise FileError(target, "a chart is not written as that", "End the name in .tif, .png or .pdf")
    if not 72 <= ppi <= 2880:
        raise ValueError(f"{ppi:g} pixels per inch are not possible for a chart; 72…2880 are")
    parse_hex(process.ink)
    film = film_of(chart, process, ppi, proving)
    settings = Settings(bits=8, profile=DEVICE, ppi=ppi, dither=False, carried="none", compression="none")
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
