"""Contact negatives: the print through its aim and the inverse of a process, on film at its size.

Print → tone wanted → L* on the dried print (the aim) → value of the film (the process's curve) → ink, in gray or in the
filter ink, mirrored. Marks, words and a small wedge lie on the clear rim; the wedge goes through the curve as well. Of
a print in several inks each ink has a negative of its own, through a process of its own, with the same marks.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, parse_hex
from kyanoscript.core.paper.layout import away, laid, reaches_beyond
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.over import Over
from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.paper.sharpened import margin, sharpened
from kyanoscript.core.paper.tabled import Table, through
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.process.aims import lost
from kyanoscript.core.process.chart import inked
from kyanoscript.core.process.process import POINTS, Process
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.photos.photo import Photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.export import export
from kyanoscript.files.prints.plates import apart_of, pass_of
from kyanoscript.files.prints.settings import DEVICE, Settings, kind_of
from kyanoscript.files.prints.sheets import shape_of, whole_source

KINDS = ("tiff", "png", "pdf")
_TONES = np.linspace(0, 100, POINTS)


@dataclass(frozen=True)
class Negative:
    """What is to be written."""

    photo: Photo
    script: Script
    sheet: Sheet  # the film: its size, and where the print lies on it
    processes: tuple[Process, ...]  # one; or one for each ink of the print
    pictures: Pictures
    target: Path
    bits: int = 16
    rim: bool = True  # marks, words and a wedge, whatever the sheet says
    never: tuple[Path, ...] = ()
    threads: int = 2


def film_sheet(sheet: Sheet, process: Process, rim: bool = True) -> Sheet:
    """The sheet as film: turned over as the process asks for, with what belongs on the rim."""
    values: dict[str, object] = {"mirrored": process.mirrored and process.negative, "profile": ""}
    if rim:
        words = sheet.caption or f"{process.name} · {process.minutes:g} min"
        values |= {"marks": True, "wedge": True, "caption": words, "steps": min(sheet.steps, 21)}
    return sheet.model_copy(update=values)


def table_of(process: Process) -> Table:
    """What the film is to be for grays of a print. Raises ValueError, in words."""
    gray = np.linspace(0, 1, POINTS)
    tones = 100 - colour.lightness(gray[None], SRGB)
    return _film(process, np.interp(tones, _TONES, process.curve()))


def table_of_ink(process: Process, covers: NDArray[np.float64]) -> Table:
    """What the film of one ink is to be, for grays of the print; coverage is even in light. Raises ValueError."""
    values = np.interp(100 * covers, _TONES, process.curve("light"))
    gray = np.linspace(0, 1, POINTS)
    return _film(process, np.interp(gray, np.linspace(0, 1, len(values)), values))


def _film(process: Process, values: NDArray[np.float64]) -> Table:
    amount = 1 - values / 100 if process.negative else values / 100
    return (1 - amount).astype(np.float32)


def remarks_of(job: Negative, shape: float) -> list[str]:
    """What should be known before it is printed. Raises ValueError for what cannot be."""
    said = [beyond_rim(job.sheet, job.processes[0], shape)] if job.rim else []
    said = [words for words in said if words]
    for process in job.processes:
        found = process.response()
        if found is None:
            said.append(f"{process.name} has no readings yet: the film gets the tones as they are")
            continue
        said += [f"{process.name}: {words}" for words in (*process.stale(), *found.said())]
        words = lost(process.aim, found.deepest)
        if words:
            said.append(words)
    return said


def check_size(sheet: Sheet, shape: float) -> None:
    """Raise ValueError, in words, where a print of a shape reaches beyond the film."""
    if reaches_beyond(sheet, shape):
        place = laid(sheet, shape).all_prints
        raise ValueError(
            f"the negative is {told(place.width)} × {told(place.height)} and reaches beyond the film, which is "
            f"{told(sheet.width)} × {told(sheet.height)}; make it smaller, or lay it on a larger film"
        )


def beyond_rim(sheet: Sheet, process: Process, shape: float) -> str:
    """What of the rim has no place on the film, in words; empty if all has."""
    film = film_sheet(sheet, process)
    everything = laid(film, shape)
    low = max([box.bottom for box, _ in everything.wedge] + ([everything.caption.bottom] if everything.caption else []))
    side = max((abs(ring.x - film.width / 2) + ring.radius for ring in everything.rings), default=0.0)
    if low <= film.height and side <= film.width / 2:
        return ""
    return "the rim is too narrow for wedge, words and marks; make the print smaller, or take a larger film"


def negatives(job: Negative, cancelled: Callable[[], bool] = lambda: False) -> list[tuple[str, InInk]]:
    """The negatives, each by its ink's name (empty: there is one). Raises FileError, ValueError."""

    def watch(what: str, share: float) -> None:
        if cancelled():
            raise Cancelled

    job.pictures.check(job.script)
    check_size(job.sheet, shape_of(job.photo, job.script)[1])
    across, ppi = pixels(job.sheet.across, job.sheet.resolution), job.sheet.resolution
    if len(job.processes) == 1:
        which: list[tuple[str, Process, Table]] = [("", job.processes[0], table_of(job.processes[0]))]
        script = job.script
    else:
        apart, (at, _) = apart_of(job.script), pass_of(job.script)
        if len(apart.inks) != len(job.processes):
            raise ValueError(f"there are {len(apart.inks)} inks and {len(job.processes)} processes; name one for each")
        which = [
            (f"ink-{k + 1}", process, table_of_ink(process, covers))
            for k, (process, covers) in enumerate(zip(job.processes, apart.coverage, strict=True))
        ]
        script = Script(job.script.passes[:at], job.script.frame, job.script.stencils, develop=job.script.develop)
    source = whole_source(job.photo)
    print_ = rendered(source, script, job.pictures, across, watch)
    made = []
    for name, process, table in which:
        sheet = film_sheet(job.sheet, process, job.rim)
        if name and not job.sheet.caption and job.rim:
            sheet = sheet.model_copy(update={"caption": f"{name.replace('-', ' ')} · {sheet.caption}"})
        width, height = print_.size(1.0)
        film = _Film(print_, table, ppi, sheet.sharpen / 100, away(sheet.across, width / height))
        leaf = Leaf(sheet.model_copy(update={"sharpen": 0.0}), film, ppi)
        steps = tuple((box, float(np.interp(level, np.linspace(0, 1, POINTS), table)))
                      for box, level in leaf.laid.wedge)  # fmt: skip
        leaf.laid = replace(leaf.laid, wedge=steps)
        made.append((name, InInk(leaf, process.ink)))
    return made


def write_negatives(
    job: Negative,
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[tuple[Path, ...], tuple[int, int]]:
    """Write the negative, or one for each ink beside each other; returns files and the size of each in pixels.

    The printer's own numbers, without a profile. Raises FileError, Cancelled, ValueError.
    """
    if kind_of(job.target) not in KINDS:
        raise FileError(job.target, "a negative is not written as that", "End the name in .tif, .png or .pdf")
    settings = Settings(bits=job.bits, profile=DEVICE, ppi=job.sheet.resolution, dither=job.bits == 8, carried="none",
                        compression="deflate")  # fmt: skip
    every = negatives(job, cancelled)
    never = (job.photo.path, *job.never, *job.pictures.files(job.script))
    written, size = [], (0, 0)
    for k, (name, film) in enumerate(every):
        path = job.target.with_name(f"{job.target.stem}-{name}{job.target.suffix}") if name else job.target

        def share(of: float, k: int = k) -> None:
            progress((k + of) / len(every))

        size = export(film, path, settings, never, share, cancelled, job.threads)
        written.append(path)
    return tuple(written), size


def shape_and_remarks(job: Negative) -> list[str]:
    """`remarks_of` of the job's own print."""
    return remarks_of(job, shape_of(job.photo, job.script)[1])


def on_film(print_: Renderer, process: Process) -> InInk:
    """A print as the film of a process, not sharpened, right reading; a curve that cannot be is left out."""
    try:
        table = table_of(process)
    except ValueError:
        table = table_of(process.with_(readings=()))
    return InInk(_Film(print_, table, 0.0, 0.0), process.ink)


class _Film(Over):
    """A print as what the film reflects; sharpened before it goes through the curve."""

    def __init__(self, of: Renderer, table: Table, ppi: float, sharpen: float, away: float = 1.0) -> None:
        super().__init__(of)
        self._of, self.table, self._ppi, self._sharpen, self._away = of, table, ppi, sharpen, away

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        wide = margin(self._ppi, self._away) if self._sharpen and scale == 1 else 0
        width, height = self._of.size(scale)
        x0, y0 = max(0, rect.x - wide), max(0, rect.y - wide)
        planes = self._of.region(
            Rect(x0, y0, min(width, rect.right + wide) - x0, min(height, rect.bottom + wide) - y0), scale
        )
        if wide:
            planes = sharpened(planes, self._of.space, self._sharpen, self._ppi, self._away)
        planes = planes[:, rect.y - y0 : rect.bottom - y0, rect.x - x0 : rect.right - x0]
        gray = colour.gray_of(np.ascontiguousarray(planes), self._of.space)
        return through(gray, self.table)


class InInk(Over):
    """Film, as the printer is told it in a filter ink."""

    def __init__(self, of: Leaf | _Film, ink: str) -> None:
        super().__init__(of)
        self._of = of
        self._ink = np.array(parse_hex(ink), np.float32).reshape(3, 1, 1)
        self.planes = 3 if self._ink.any() else 1

    def tones(self, count: int = 129) -> tuple[float, ...]:
        """What the film reflects, 1 clear … 0 full of ink, for grays of the print from black to white."""
        table = self._of.table if isinstance(self._of, _Film) else np.linspace(0, 1, 2)
        return tuple(float(v) for v in np.interp(np.linspace(0, 1, count), np.linspace(0, 1, len(table)), table))

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        return inked(1 - self._of.region(rect, scale), self._ink[: self.planes])
