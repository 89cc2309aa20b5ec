"""Contact negatives: the print through its aim and the inverse of a process, on film at its size.

Print → tone wanted → L* on the dried print (the aim) → value of the film (the process's curve) → ink, in gray or in the
filter ink, mirrored. Marks, words and a small wedge lie on the clear rim; the wedge goes through the curve as well. Of
a print in several inks each ink has a negative of its own, through a process of its own, with the same marks.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB, parse_hex
from kyanoscript.core.paper.layout import away, beyond, laid
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sharpened import margin, sharpened
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.paper.tabled import Table, through
from kyanoscript.core.picture import Planes, Rect, Source
from kyanoscript.core.print.leaf import Leaf, pixels, rendered
from kyanoscript.core.print.over import Over
from kyanoscript.core.print.plates import apart_of, below_inks
from kyanoscript.core.process.aims import lost
from kyanoscript.core.process.process import POINTS, Process
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, unwatched
from kyanoscript.translation import tr

_TONES = np.linspace(0, 100, POINTS)


def film_sheet(sheet: Sheet, process: Process, rim: bool = True) -> Sheet:
    """The sheet as film: turned over as the process asks for, with what belongs on the rim."""
    values: dict[str, object] = {"mirrored": process.mirrored and process.negative, "profile": ""}
    if rim:
        words = sheet.marks.caption or tr("{name} · {minutes:g} min", name=process.name, minutes=process.minutes)
        values |= {"registers": True, "wedge": True, "caption": words, "steps": min(sheet.marks.steps, 21)}
    return sheet.with_values(**values)


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


def remarks_of(sheet: Sheet, processes: tuple[Process, ...], shape: float, rim: bool = True) -> list[str]:
    """What should be known before it is printed. Raises ValueError for what cannot be."""
    said = [beyond_rim(sheet, processes[0], shape)] if rim else []
    said = [words for words in said if words]
    for process in processes:
        found = process.response()
        if found is None:
            said.append(tr("{name} has no readings yet: the film gets the tones as they are", name=process.name))
            continue
        said += [f"{process.name}: {words}" for words in (*process.stale(), *found.said())]
        words = lost(process.aim, found.deepest)
        if words:
            said.append(words)
    return said


def check_size(sheet: Sheet, shape: float) -> None:
    """Raise ValueError, in words, where a print of a shape reaches beyond the film."""
    if beyond(sheet, shape):
        place = laid(sheet, shape).all_prints
        raise ValueError(
            tr(
                "the negative is {width} × {height} and reaches beyond the film, which is {width2} × "
                "{height2}; make it smaller, or lay it on a larger film",
                width=told(place.width),
                height=told(place.height),
                width2=told(sheet.paper.width),
                height2=told(sheet.paper.height),
            )
        )


def beyond_rim(sheet: Sheet, process: Process, shape: float) -> str:
    """What of the rim has no place on the film, in words; empty if all has."""
    film = film_sheet(sheet, process)
    everything = laid(film, shape)
    low = max([box.bottom for box, _ in everything.wedge] + ([everything.caption.bottom] if everything.caption else []))
    side = max((abs(ring.x - film.paper.width / 2) + ring.radius for ring in everything.rings), default=0.0)
    if low <= film.paper.height and side <= film.paper.width / 2:
        return ""
    return "the rim is too narrow for wedge, words and marks; make the print smaller, or take a larger film"


def negatives(
    source: Source,
    script: Script,
    library: Library | None,
    sheet: Sheet,
    processes: tuple[Process, ...],
    rim: bool = True,
    watch: Watch = unwatched,
) -> list[tuple[str, InInk]]:
    """The negatives, each by its ink's name (empty: there is one). Raises ValueError."""
    width, height = Renderer(source, script).size(1.0)
    check_size(sheet, width / height)
    across, ppi = pixels(sheet.placing.across, sheet.output.resolution), sheet.output.resolution
    if len(processes) == 1:
        which: list[tuple[str, Process, Table]] = [("", processes[0], table_of(processes[0]))]
    else:
        apart = apart_of(script)
        if len(apart.inks) != len(processes):
            raise ValueError(
                tr(
                    "there are {count} inks and {count2} processes; name one for each",
                    count=len(apart.inks),
                    count2=len(processes),
                )
            )
        which = [
            (f"ink-{k + 1}", process, table_of_ink(process, covers))
            for k, (process, covers) in enumerate(zip(processes, apart.coverage, strict=True))
        ]
        script = below_inks(script)
    print_ = rendered(source, script, library, across, watch)
    made = []
    for name, process, table in which:
        film = film_sheet(sheet, process, rim)
        if name and not sheet.marks.caption and rim:
            film = film.with_values(caption=f"{name.replace('-', ' ')} · {film.marks.caption}"[:1000])
        width, height = print_.size(1.0)
        tones = _Film(print_, table, ppi, film.output.sharpen / 100, away(film.placing.across, width / height))
        leaf = Leaf(film.with_values(sharpen=0.0), tones, ppi)
        steps = tuple((box, float(np.interp(level, np.linspace(0, 1, POINTS), table)))
                      for box, level in leaf.laid.wedge)  # fmt: skip
        leaf.laid = replace(leaf.laid, wedge=steps)
        made.append((name, InInk(leaf, process.ink)))
    return made


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


def inked(amount: Planes, ink: NDArray[np.float32]) -> Planes:
    """Film that has so much of an ink ``(1 or 3, 1, 1)``, 0…1: encoded as the printer is told."""
    return np.ascontiguousarray(1 - amount * (1 - ink), np.float32)
