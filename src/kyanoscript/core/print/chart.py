"""Charts as pictures: drawn at their exact size, and as the film that prints them."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import parse_hex
from kyanoscript.core.late import cv2
from kyanoscript.core.lettering import lettering
from kyanoscript.core.paper.layout import Box
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.print.film import inked
from kyanoscript.core.print.over import Over
from kyanoscript.core.process.chart import DICTIONARY, Chart
from kyanoscript.core.process.process import Process
from kyanoscript.translation import tr

PPI = 360.0
_LETTERS = 3.2  # mm
_TAPE = "opaque tape here: bare paper"


def film_of(chart: Chart, process: Process, ppi: float = PPI, proving: bool = False) -> ChartFilm:
    """A chart as it goes to the printer for a process; ``proving``: through its curve.

    Raises ValueError; also for a close wedge of a process of which it is not known where its tones move.
    """
    words, tones = chart.name, None
    if chart.close:
        if proving:
            raise ValueError(tr("a close wedge tells of a process without its curve; prove that with a wedge"))
        words, tones = (
            tr(
                "{words}, {close_from:g} to {close_to:g} %",
                words=words,
                close_from=process.close_from,
                close_to=process.close_to,
            ),
            process.close_values(chart.values),
        )
    elif proving:
        words, tones = (
            tr("{words}, through the curve of {name}", words=words, name=process.name),
            process.film_values(chart.values),
        )
    drawn = Drawn(chart, ppi, tones)
    for box, text in ((chart.words, words), (chart.tape, _TAPE)):
        assert box is not None
        drawn.write(box, lettering(text, max(6, round(_LETTERS * ppi / INCH)), round(box.width * ppi / INCH)))
    coloured = drawn.planes == 3  # it has inks of its own, and their paper is held back by black
    return ChartFilm(
        drawn, "#000000" if coloured else process.ink, process.negative, process.mirrored and process.negative
    )


class Drawn:
    """A chart as a picture of what the print is to be, to be written as prints are (`Printable`).

    Values are tones: 1 paper, 0 the deepest. Filter inks are turned round, so that the film makes them what they are.
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
                level = np.full((1, 1, 1), 0.0 if chart.covered else 1 - value / 100, np.float32)
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

    def write(self, box: Box, letters: NDArray[np.float32]) -> None:
        """Words ``(h, w)``, 0 ink … 1 nothing, into their room."""
        rows, columns = self._rows(box), self._columns(box)
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


class ChartFilm(Over):
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


@functools.lru_cache(maxsize=64)
def _marker(number: int) -> NDArray[np.float32]:
    """Six by six modules, 1 white; its rim is black."""
    book = cv2.aruco.getPredefinedDictionary(DICTIONARY)
    return np.asarray(cv2.aruco.generateImageMarker(book, number, 6), np.float32) / np.float32(255)
