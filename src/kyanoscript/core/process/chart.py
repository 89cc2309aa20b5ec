"""Charts that a process is measured with: wedges, a strip of exposures, a chart of filter inks. In millimetres.

Patches lie in scattered order, so that uneven light or coating does not look like a curve; the order is the same each
time. Four square markers in the corners (S. Garrido-Jurado et al., "Automatic generation and detection of highly
reliable fiducial markers under occlusion", Pattern Recognition 47, 2014; as OpenCV has them) say which chart it is and
how it lies.
"""

from __future__ import annotations

import colorsys
import functools
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.paper.layout import Box
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.over import Over
from kyanoscript.core.picture import Planes, Rect

STEPS = (11, 21, 31, 51, 101)
_REPEATS = {11: 4, 21: 4, 31: 4, 51: 3, 101: 2}
_SIDES = {11: 9.0, 21: 9.0, 31: 8.0, 51: 7.5, 101: 7.0}  # mm
_COLUMNS = {11: 6, 21: 7, 31: 10, 51: 11, 101: 13}
DICTIONARY = cv2.aruco.DICT_4X4_50
MARKER, MARGIN, GUTTER = 15.0, 5.0, 2.5  # mm
BAND = MARKER + 3.0  # mm: above and below the patches
TIMES, HUES, STRENGTHS = 12, 12, 5


@dataclass(frozen=True)
class Patch:
    """One patch of a chart."""

    box: Box
    value: float  # 0 paper white … 100 the deepest, as wanted; of a strip of exposures its number
    colour: str = ""  # of the filter ink


@dataclass(frozen=True)
class Chart:
    """Where everything lies."""

    number: int  # its markers are number × 4 …, from the upper left corner round with the clock
    name: str
    width: float
    height: float
    markers: tuple[Box, ...]
    patches: tuple[Patch, ...]
    strip: tuple[Patch, ...] = ()  # for the eye, in order
    words: Box | None = None  # room for what is written on it

    @property
    def values(self) -> tuple[float, ...]:
        """The different values, rising."""
        return tuple(sorted({patch.value for patch in self.patches}))


@functools.lru_cache
def wedge(steps: int = 21) -> Chart:
    """A wedge of 11, 21, 31, 51 or 101 steps, each several times. Raises ValueError for another number."""
    if steps not in STEPS:
        raise ValueError(f"a wedge has {', '.join(map(str, STEPS[:-1]))} or {STEPS[-1]} steps, and not {steps}")
    values = np.repeat(np.linspace(0, 100, steps), _REPEATS[steps])
    np.random.default_rng(steps).shuffle(values)
    entries = [(float(value), "") for value in values]
    name = f"Wedge, {steps} steps"
    return _laid(STEPS.index(steps), name, entries, _COLUMNS[steps], _SIDES[steps], np.linspace(0, 100, steps))


@functools.lru_cache
def times() -> Chart:
    """Clear patches that are covered one after another while light falls on them."""
    return _laid(len(STEPS), "Strip of exposures", [(float(k), "") for k in range(TIMES)], 4, 15.0)


@functools.lru_cache
def inks() -> Chart:
    """Colours of the printer in several strengths, and its black: which of them holds the light back?"""
    hues = [hex_of(np.array(colorsys.hsv_to_rgb(k / HUES, 1.0, 0.85))) for k in range(HUES)] + ["#000000"]
    entries = []
    for k in range(STRENGTHS):
        share = (k + 1) / STRENGTHS
        entries += [(100 * share, hex_of(1 - share * (1 - np.array(parse_hex(hue))))) for hue in hues]
    return _laid(len(STEPS) + 1, "Chart of filter inks", entries, HUES + 1, 8.0)


def charts() -> tuple[Chart, ...]:
    """Every chart that there is, by its number."""
    return (*(wedge(steps) for steps in STEPS), times(), inks())


def _laid(
    number: int,
    name: str,
    entries: list[tuple[float, str]],
    columns: int,
    side: float,
    strip: NDArray[np.float64] | None = None,
) -> Chart:
    pitch = side + GUTTER
    rows = -(-len(entries) // columns)
    inner, down = columns * pitch - GUTTER, rows * pitch - GUTTER
    width = max(inner, 3 * MARKER) + 2 * MARGIN
    height = down + 2 * BAND + 2 * MARGIN
    left, top = (width - inner) / 2, MARGIN + BAND
    patches = tuple(
        Patch(Box(left + (k % columns) * pitch, top + (k // columns) * pitch, side, side), value, colour)
        for k, (value, colour) in enumerate(entries)
    )
    far_x, far_y = width - MARGIN - MARKER, height - MARGIN - MARKER
    corners = ((MARGIN, MARGIN), (far_x, MARGIN), (far_x, far_y), (MARGIN, far_y))
    between = MARGIN + MARKER + 3.0
    room = width - 2 * between
    eye: tuple[Patch, ...] = ()
    if strip is not None:
        each = room / len(strip)
        eye = tuple(Patch(Box(between + k * each, far_y + 5, each, 8.0), float(v)) for k, v in enumerate(strip))
    return Chart(
        number, name, width, height, tuple(Box(x, y, MARKER, MARKER) for x, y in corners), patches, eye,
        Box(between, MARGIN + 2, room, 7.0),
    )  # fmt: skip


class Drawn:
    """A chart as a picture of what the print is to be, to be written as prints are (`Printable`).

    Values are tones: 1 paper, 0 the deepest. Filter inks are turned round, so that `Film` makes them what they are.
    """

    looks_around = False

    def __init__(self, chart: Chart, ppi: float, tones: dict[float, float] | None = None) -> None:
        """``tones``: another value for each, 0…100, as a curve has it."""
        self.chart, self.ppi = chart, ppi
        width, height = (max(1, round(mm * ppi / INCH)) for mm in (chart.width, chart.height))
        colours = any(patch.colour for patch in chart.patches)
        self.planes = 3 if colours else 1
        self._whole = np.ones((self.planes, height, width), np.float32)
        for patch in (*chart.patches, *chart.strip):
            if patch.colour:
                level = 1 - np.array(parse_hex(patch.colour), np.float32).reshape(3, 1, 1)
            else:
                value = patch.value if not tones else tones[patch.value]
                level = np.full((1, 1, 1), 0.0 if chart.number == len(STEPS) else 1 - value / 100, np.float32)
            self._whole[:, self._rows(patch.box), self._columns(patch.box)] = level
        for k, box in enumerate(chart.markers):
            rows, columns = self._rows(box), self._columns(box)
            bits = _marker(4 * chart.number + k)
            # Each module by its own edges, so that it is exact at any number of pixels.
            ys = ((np.arange(rows.stop - rows.start) + 0.5) * 6 / (rows.stop - rows.start)).astype(int)
            xs = ((np.arange(columns.stop - columns.start) + 0.5) * 6 / (columns.stop - columns.start)).astype(int)
            self._whole[:, rows, columns] = bits[np.ix_(ys, xs)]

    def _rows(self, box: Box) -> slice:
        return slice(round(box.y * self.ppi / INCH), round(box.bottom * self.ppi / INCH))

    def _columns(self, box: Box) -> slice:
        return slice(round(box.x * self.ppi / INCH), round(box.right * self.ppi / INCH))

    def write(self, letters: NDArray[np.float32]) -> None:
        """Words ``(h, w)``, 0 ink … 1 nothing, into their room."""
        assert self.chart.words is not None
        rows, columns = self._rows(self.chart.words), self._columns(self.chart.words)
        room = self._whole[:, rows, columns]
        part = letters[: room.shape[1], : room.shape[2]]
        room[:, : part.shape[0], : part.shape[1]] = np.minimum(room[:, : part.shape[0], : part.shape[1]], part)

    def size(self, scale: float) -> tuple[int, int]:
        height, width = self._whole.shape[1:]
        return max(1, round(width * scale)), max(1, round(height * scale))

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        """A part of it; at other scales than 1 the nearest pixels."""
        if scale == 1.0:
            return np.ascontiguousarray(self._whole[:, rect.y : rect.bottom, rect.x : rect.right])
        height, width = self._whole.shape[1:]
        ys = np.minimum(((np.arange(rect.y, rect.bottom) + 0.5) / scale).astype(int), height - 1)
        xs = np.minimum(((np.arange(rect.x, rect.right) + 0.5) / scale).astype(int), width - 1)
        return np.ascontiguousarray(self._whole[:, ys][:, :, xs])


class Film(Over):
    """What is printed on film for a picture of tones: its negative, or, for a print in ink, the picture itself.

    A negative is clear where the print is to be deepest, and full of ink where paper is to stay white.
    """

    looks_around = False

    def __init__(self, of: Drawn, ink: str = "#000000", negative: bool = True, mirrored: bool = True) -> None:
        super().__init__(of)
        self._of, self._negative, self._mirrored = of, negative, mirrored
        self._ink = np.array(parse_hex(ink), np.float32).reshape(3, 1, 1)
        self.planes = 1 if of.planes == 1 and not self._ink.any() else 3

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        width = self._of.size(scale)[0]
        there = Rect(width - rect.right, rect.y, rect.width, rect.height) if self._mirrored else rect
        tones = self._of.region(there, scale)
        if self._mirrored:
            tones = tones[:, :, ::-1]
        return inked(tones if self._negative else 1 - tones, self._ink[: self.planes])


def inked(amount: Planes, ink: NDArray[np.float32]) -> Planes:
    """Film that has so much of an ink ``(1 or 3, 1, 1)``, 0…1: encoded as the printer is told."""
    return np.ascontiguousarray(1 - amount * (1 - ink), np.float32)


@functools.lru_cache(maxsize=64)
def _marker(number: int) -> NDArray[np.float32]:
    """Six by six modules, 1 white; its rim is black."""
    book = cv2.aruco.getPredefinedDictionary(DICTIONARY)
    return np.asarray(cv2.aruco.generateImageMarker(book, number, 6), np.float32) / np.float32(255)
