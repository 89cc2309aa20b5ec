"""Charts that a process is measured with: wedges, a strip of exposures, a chart of filter inks. In millimetres.

Patches lie in scattered order, so that uneven light or coating does not look like a curve; the order is the same each
time. Four square markers in the corners (S. Garrido-Jurado et al., "Automatic generation and detection of highly
reliable fiducial markers under occlusion", Pattern Recognition 47, 2014; as OpenCV has them) say which chart it is and
how it lies.
"""

from __future__ import annotations

import colorsys
import functools
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.late import cv2
from kyanoscript.core.paper.layout import Box
from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr

STEPS = (11, 21, 31, 51, 101)
# A chart's number never changes: its markers tell it, on film that is printed already. A new one gets the next that is
# free, below 12: there are fifty markers, four to a chart.
_NUMBERS = {11: 0, 21: 1, 31: 2, 51: 3, 101: 4}
_TIMES_NUMBER, _INKS_NUMBER, _CLOSE_NUMBER = 5, 6, 7
_CLOSE = 21  # steps
_REPEATS = {11: 4, 21: 4, 31: 4, 51: 3, 101: 2}
_SIDES = {11: 9.0, 21: 9.0, 31: 8.0, 51: 7.5, 101: 7.0}  # mm
_COLUMNS = {11: 6, 21: 7, 31: 10, 51: 11, 101: 13}
DICTIONARY = cv2.aruco.DICT_4X4_50
MARKER, MARGIN, GUTTER = 15.0, 5.0, 2.5  # mm
BAND = MARKER + 3.0  # mm: above and below the patches
_CLEAR = 3.0  # mm beside a marker
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
    tape: Box | None = None  # where tape that holds all light back may be laid on the film: bare paper is under it

    @property
    def word(self) -> str:
        """What people call for it by."""
        words = {_TIMES_NUMBER: "times", _INKS_NUMBER: "inks", _CLOSE_NUMBER: "close"}
        return words.get(self.number, str(len(self.values)))

    @property
    def about(self) -> str:
        """What it is, in a list."""
        others = {_TIMES_NUMBER: "strip of exposures", _INKS_NUMBER: "filter inks",
                  _CLOSE_NUMBER: "close wedge, where tones move"}  # fmt: skip
        return others.get(self.number, tr("wedge of {count} steps", count=len(self.values)))

    @property
    def is_wedge(self) -> bool:
        """Whether a curve is read from it."""
        return self.number in _NUMBERS.values()

    @property
    def close(self) -> bool:
        """Whether its values are shares of the range in which a process's tones move."""
        return self.number == _CLOSE_NUMBER

    @property
    def coloured(self) -> bool:
        """Whether its patches are filter inks."""
        return self.number == _INKS_NUMBER

    @property
    def covered(self) -> bool:
        """Whether its patches are clear, and covered one after another in the light."""
        return self.number == _TIMES_NUMBER

    @property
    def values(self) -> tuple[float, ...]:
        """The different values, rising."""
        return tuple(sorted({patch.value for patch in self.patches}))


@functools.lru_cache
def wedge(steps: int = 21) -> Chart:
    """A wedge of 11, 21, 31, 51 or 101 steps, each several times. Raises ValueError for another number."""
    if steps not in STEPS:
        raise ValueError(
            tr(
                "a wedge has {join} or {steps} steps, and not {steps2}",
                join=", ".join(map(str, STEPS[:-1])),
                steps=STEPS[-1],
                steps2=steps,
            )
        )
    values = np.repeat(np.linspace(0, 100, steps), _REPEATS[steps])
    np.random.default_rng(steps).shuffle(values)
    entries = [(float(value), "") for value in values]
    name = tr("Wedge, {steps} steps", steps=steps)
    return _laid(_NUMBERS[steps], name, entries, _COLUMNS[steps], _SIDES[steps], np.linspace(0, 100, steps))


@functools.lru_cache
def close() -> Chart:
    """A second wedge, over the range in which a process's tones move; its values are shares of that, 0…100."""
    return replace(wedge(_CLOSE), number=_CLOSE_NUMBER, name=tr("Close wedge, {close} steps", close=_CLOSE))


@functools.lru_cache
def times() -> Chart:
    """Clear patches that are covered one after another while light falls on them."""
    return _laid(_TIMES_NUMBER, "Strip of exposures", [(float(k), "") for k in range(TIMES)], 4, 15.0)


@functools.lru_cache
def inks() -> Chart:
    """Colours of the printer in several strengths, and its black: which of them holds the light back?"""
    hues = [hex_of(np.array(colorsys.hsv_to_rgb(k / HUES, 1.0, 0.85))) for k in range(HUES)] + ["#000000"]
    entries = []
    for k in range(STRENGTHS):
        share = (k + 1) / STRENGTHS
        entries += [(100 * share, hex_of(1 - share * (1 - np.array(parse_hex(hue))))) for hue in hues]
    return _laid(_INKS_NUMBER, "Chart of filter inks", entries, HUES + 1, 8.0)


def charts() -> tuple[Chart, ...]:
    """Every chart that there is."""
    return (*(wedge(steps) for steps in STEPS), close(), times(), inks())


def called(word: str) -> Chart:
    """The chart of a word: 11, 21, …, close, times, inks. Raises ValueError, with those there are."""
    known = {chart.word: chart for chart in charts()}
    if word not in known:
        raise ValueError(tr("there is no chart {word!r}; there are {known}", word=cut(word), known=", ".join(known)))
    return known[word]


def numbered(number: int) -> Chart | None:
    """The chart of a number; None if there is none."""
    return next((chart for chart in charts() if chart.number == number), None)


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
    between, room = MARGIN + MARKER + _CLEAR, width - 2 * (MARGIN + MARKER + _CLEAR)
    eye: tuple[Patch, ...] = ()
    if strip is not None:
        each = room / len(strip)
        eye = tuple(Patch(Box(between + k * each, far_y + 5, each, 8.0), float(v)) for k, v in enumerate(strip))
    return Chart(
        number, name, width, height, tuple(Box(x, y, MARKER, MARKER) for x, y in corners), patches, eye,
        Box(between, MARGIN + 1, room, 5.5), tape_place(width),
    )  # fmt: skip


def tape_place(width: float) -> Box:
    """Where tape may lie on a chart of a width."""
    between = MARGIN + MARKER + _CLEAR
    return Box(between, MARGIN + 7.5, width - 2 * between, 6.5)
