"""Where everything lies on a sheet, in millimetres from its upper left corner; and how fine the print is on it."""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass

from kyanoscript.core.paper.customs import usual_paper
from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.papers import PAPERS, Stock
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.paper.sizes import SIZES
from kyanoscript.translation import tr

LOWER = 1.1  # the lower margin against the upper one in the optical middle (common practice, no source)
ENOUGH, READING = 180.0, 450.0  # pixels per inch that hold at reading distance, mm (common practice, no source)
AWAY = 1.5  # diagonals of a print that it is looked at from, at least (common practice, no source)
MARK, MARK_AWAY = 5.0, 4.0  # mm: length of a mark's arm, and how far from the print it begins
WEDGE, BENEATH = 6.0, 8.0  # mm: the wedge's height, and how far below the print things lie
_SAME = 0.005  # mm: so much beyond is rounding
MARGIN = 25.0  # mm: of a print that fills its paper
LETTERS = 5.0  # mm: height of the caption's letters


@dataclass(frozen=True)
class Box:
    """A rectangle in millimetres."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        return self.x + self.width

    @property
    def bottom(self) -> float:
        return self.y + self.height


@dataclass(frozen=True)
class Line:
    """A line of a mark, in millimetres."""

    x0: float
    y0: float
    x1: float
    y1: float


@dataclass(frozen=True)
class Ring:
    """A circle of a mark, in millimetres."""

    x: float
    y: float
    radius: float


@dataclass(frozen=True)
class Laid:
    """Everything on a sheet."""

    paper: Box
    prints: tuple[Box, ...]
    lines: tuple[Line, ...]
    rings: tuple[Ring, ...]
    wedge: tuple[tuple[Box, float], ...]  # the steps, and how much light each reflects, encoded 1…0
    caption: Box | None  # the room that the caption has; it ends at the right

    @property
    def all_prints(self) -> Box:
        """The rectangle round the prints."""
        first, last = self.prints[0], self.prints[-1]
        return Box(first.x, first.y, last.right - first.x, last.bottom - first.y)


def block(sheet: Sheet, shape: float) -> tuple[float, float]:
    """Width and height of all copies together; ``shape`` is a print's width over its height."""
    lies = sheet.placing
    width = lies.columns * lies.across + (lies.columns - 1) * lies.gutter
    return width, lies.rows * lies.across / shape + (lies.rows - 1) * lies.gutter


def start(sheet: Sheet, shape: float) -> tuple[float, float]:
    """Where the first print begins: in the optical middle, or where it was put."""
    if not sheet.placing.middle:
        return sheet.placing.left, sheet.placing.top
    width, height = block(sheet, shape)
    return (sheet.paper.width - width) / 2, (sheet.paper.height - height) / (1 + LOWER)


def fitting(sheet: Sheet, shape: float, margin: float) -> float:
    """How wide a print is that leaves a margin on every side; above 0."""
    paper, lies = sheet.paper, sheet.placing
    across = (paper.width - 2 * margin - (lies.columns - 1) * lies.gutter) / lies.columns
    down = (paper.height - 2 * margin - (lies.rows - 1) * lies.gutter) / lies.rows
    return max(1.0, min(across, down * shape))


def first_sheet(shape: float) -> Sheet:
    """The sheet that a print of a shape, width over height, begins with: of the usual paper, turned as the print is,
    which fits it."""
    return _first(shape, usual_paper())


@functools.lru_cache(maxsize=16)
def _first(shape: float, paper: str) -> Sheet:
    short, long = (round(side, 3) for side in SIZES[paper])
    width, height = (long, short) if shape >= 1 else (short, long)
    return filled(Sheet.of(width=width, height=height, middle=True), shape)


def filled(sheet: Sheet, shape: float) -> Sheet:
    """With the print as large as even margins of 25 mm let it be, or a quarter of a small paper's side."""
    room = min(MARGIN, sheet.paper.width / 4, sheet.paper.height / 4)
    return sheet.with_values(across=round(fitting(sheet, shape, room), 2))


def laid(sheet: Sheet, shape: float) -> Laid:
    """Everything on a sheet, of prints of a shape, width over height."""
    x, y = start(sheet, shape)
    lies, on = sheet.placing, sheet.marks
    across, down = lies.across, lies.across / shape
    prints = tuple(
        Box(x + c * (across + lies.gutter), y + r * (down + lies.gutter), across, down)
        for r in range(lies.rows)
        for c in range(lies.columns)
    )
    first, last = prints[0], prints[-1]
    lines: list[Line] = []
    rings: list[Ring] = []
    if on.registers:
        # Beside the print; above and below too where nothing else lies there.
        for px, py in _beside(first, last)[: 2 if on.wedge or on.caption else 4]:
            lines += [Line(px - MARK, py, px + MARK, py), Line(px, py - MARK, px, py + MARK)]
            rings.append(Ring(px, py, 0.6 * MARK))
    if on.cuts:
        for box in prints:
            lines += _cuts(box, lies.gutter if len(prints) > 1 else 2 * (MARK + MARK_AWAY))
    below = last.bottom + BENEATH
    width = last.right - first.x
    wedge: tuple[tuple[Box, float], ...] = ()
    if on.wedge:
        room = width * (0.62 if on.caption else 1.0)
        each = room / on.steps
        wedge = tuple((Box(first.x + k * each, below, each, WEDGE), 1 - k / (on.steps - 1)) for k in range(on.steps))
    caption = None
    if on.caption:
        from_left = first.x + (width * 0.64 if on.wedge else 0.0)
        caption = Box(from_left, below, last.right - from_left, 1.5 * LETTERS)
    return Laid(Box(0, 0, sheet.paper.width, sheet.paper.height), prints, tuple(lines), tuple(rings), wedge, caption)


def _beside(first: Box, last: Box) -> list[tuple[float, float]]:
    away = MARK_AWAY + MARK
    middle_x, middle_y = (first.x + last.right) / 2, (first.y + last.bottom) / 2
    return [
        (first.x - away, middle_y), (last.right + away, middle_y), (middle_x, first.y - away),
        (middle_x, last.bottom + away),
    ]  # fmt: skip


def _cuts(box: Box, room: float) -> list[Line]:
    """Two lines at each corner, outside the print; shorter where another copy is near."""
    away = min(MARK_AWAY, room / 8)
    far = min(MARK_AWAY + MARK, room / 2)
    lines = []
    for x, out in ((box.x, -1), (box.right, 1)):
        for y, down in ((box.y, -1), (box.bottom, 1)):
            lines.append(Line(x + out * away, y, x + out * far, y))
            lines.append(Line(x, y + down * away, x, y + down * far))
    return lines


def pixels_per_inch(across_pixels: int, across: float) -> float:
    """Of a print that is so many pixels of the photograph, and so many millimetres, wide."""
    return across_pixels * INCH / across


def needed(across: float, shape: float) -> float:
    """The pixels per inch that a print of a width and shape has to have, from where it is looked at."""
    return ENOUGH * min(1.0, READING / (AWAY * math.hypot(across, across / shape)))


def away(across: float, shape: float) -> float:
    """How many reading distances a print of a width and shape is looked at from, 1…3."""
    return min(3.0, max(1.0, AWAY * math.hypot(across, across / shape) / READING))


def stock_of(sheet: Sheet) -> Stock:
    """The sheet's paper."""
    own = sheet.paper
    if own.stock == "own":
        return Stock("A paper of one's own", (own.white_l, own.white_a, own.white_b), own.density, 1.2)
    return PAPERS[own.stock]


def beyond(sheet: Sheet, shape: float) -> float:
    """How far prints of a shape reach beyond the paper where they do so most, mm; 0: they have all of their place."""
    there = laid(sheet, shape)
    place, paper = there.all_prints, there.paper
    most = max(-place.x, -place.y, place.right - paper.right, place.bottom - paper.bottom)
    return most if most > _SAME else 0.0


def remarks(sheet: Sheet, shape: float, across_pixels: int) -> list[str]:
    """What somebody should know before it is printed, the gravest first."""
    said = []
    if (most := beyond(sheet, shape)) > 0:
        said.append(tr("The print reaches {most} beyond the paper", most=told(most)))
    has, needs = pixels_per_inch(across_pixels, sheet.placing.across), needed(sheet.placing.across, shape)
    if has < needs:
        said.append(
            tr(
                "{has:.0f} pixels per inch are few at this size; {needs:.0f} hold from where it is looked at",
                has=has,
                needs=needs,
            )
        )
    return said
