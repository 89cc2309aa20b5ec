"""A sheet as pixels: paper, prints, marks, wedge and caption at the device's resolution, handed out part by part.

Everything lies at whole pixels of the sheet: a mark is where it is to the pixel, on every leaf of the same sheet.
"""

from __future__ import annotations

import numpy as np

from kyanoscript.core.colour import Space, in_colour
from kyanoscript.core.lettering import lettering
from kyanoscript.core.paper.layout import LETTERS, Box, Laid, away, laid, stock_of
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.sharpened import margin, sharpened
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Planes, Reading, Rect, Source
from kyanoscript.core.print.over import Printable
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.render.resized import resized
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, unwatched
from kyanoscript.translation import tr

LINE = 0.25  # mm: how thick the lines of marks are
_INK = 0.0  # encoded
MOST_PIXELS = 2_000_000_000


def pixels(mm: float, ppi: float) -> int:
    """A length in whole pixels."""
    return round(mm * ppi / INCH)


def rect_of(box: Box, ppi: float) -> Rect:
    """A rectangle on the grid of pixels: each edge at the nearest of them."""
    x, y = pixels(box.x, ppi), pixels(box.y, ppi)
    return Rect(x, y, max(1, pixels(box.right, ppi) - x), max(1, pixels(box.bottom, ppi) - y))


def rendered(source: Source, script: Script, library: Library | None, width: int, watch: Watch = unwatched) -> Renderer:
    """A renderer whose print is ``width`` pixels wide: the photograph is brought to its size first."""
    own = Renderer(source, script)
    has = own.size(1.0)[0]
    times = width / has
    best: Renderer | None = None
    for nudge in (0.0, 0.25, -0.25, 0.5, -0.5, 0.75, -0.75):
        factor = times * (1 + nudge / width)
        size = max(1, round(source.width * factor)), max(1, round(source.height * factor))
        made = Renderer(resized(source, *size), script, library=library, watch=watch, reading=Reading.WRITTEN)
        if best is None or abs(made.size(1.0)[0] - width) < abs(best.size(1.0)[0] - width):
            best = made
        if best.size(1.0)[0] == width:
            break
    assert best is not None
    return best


class Leaf:
    """One leaf of a sheet, to be written as prints are (`Printable`)."""

    looks_around = True

    def __init__(
        self, sheet: Sheet, of: Printable, ppi: float | None = None, trimmed: bool = False, hard: bool = False
    ) -> None:
        """``of``: the print, or a strip of it, at its size on paper; ``trimmed``: the prints alone, without the paper;
        ``hard``: marks and letters of whole pixels, for a device that prints ink or none.

        Raises ValueError for a sheet of too many pixels.
        """
        self.sheet, self._of, self._hard = sheet, of, hard
        self.ppi = ppi or sheet.output.resolution
        width, height = of.size(1.0)
        self.laid: Laid = laid(sheet, width / height)
        self.planes = of.planes
        self._away = away(sheet.placing.across, width / height)
        self._prints = [self._placed(box) for box in self.laid.prints]
        paper = Rect(0, 0, pixels(sheet.paper.width, self.ppi), pixels(sheet.paper.height, self.ppi))
        if trimmed:
            first, last = self._prints[0], self._prints[-1]
            paper = Rect(first.x, first.y, last.right - first.x, last.bottom - first.y)
        if paper.width * paper.height > MOST_PIXELS:
            raise ValueError(
                tr(
                    "a sheet of {width} × {height} pixels is too large; write it at fewer than {ppi:g} pixels per inch",
                    width=paper.width,
                    height=paper.height,
                    ppi=self.ppi,
                )
            )
        self._paper = paper

    @property
    def space(self) -> Space:
        return self._of.space

    @property
    def prints(self) -> Rect:
        """The rectangle round the prints, in pixels of the leaf."""
        first, last = self._prints[0], self._prints[-1]
        x = first.x - self._paper.x
        if self.sheet.placing.mirrored:
            x = self._paper.width - (last.right - self._paper.x)
        return Rect(x, first.y - self._paper.y, last.right - first.x, last.bottom - first.y)

    def _placed(self, box: Box) -> Rect:
        """A print at whole pixels, as large as it was rendered."""
        width, height = self._of.size(1.0)
        return Rect(pixels(box.x, self.ppi), pixels(box.y, self.ppi), width, height)

    def size(self, scale: float) -> tuple[int, int]:
        """Of the sheet, in pixels."""
        return max(1, round(self._paper.width * scale)), max(1, round(self._paper.height * scale))

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        """A part of the sheet, encoded; at other scales than 1 the nearest pixels, for small pictures of it."""
        if scale != 1.0:
            return self._small(rect, scale)
        width = self._paper.width
        there = rect if not self.sheet.placing.mirrored else Rect(width - rect.right, rect.y, rect.width, rect.height)
        there = Rect(there.x + self._paper.x, there.y + self._paper.y, there.width, there.height)
        out = np.ones((self.planes, rect.height, rect.width), np.float32)
        for place in self._prints:
            self._print(out, there, place)
        self._marks(out, there)
        return np.ascontiguousarray(out[:, :, ::-1]) if self.sheet.placing.mirrored else out

    def _print(self, out: Planes, there: Rect, place: Rect) -> None:
        seen = place.clipped_to(there)
        if seen.width < 1 or seen.height < 1:
            return
        own = Rect(seen.x - place.x, seen.y - place.y, seen.width, seen.height)
        amount = self.sheet.output.sharpen / 100 * stock_of(self.sheet).sharpen
        wide = margin(self.ppi, self._away) if amount else 0
        x0, y0 = max(0, own.x - wide), max(0, own.y - wide)
        x1, y1 = min(place.width, own.right + wide), min(place.height, own.bottom + wide)
        planes = self._of.region(Rect(x0, y0, x1 - x0, y1 - y0))
        if amount:
            planes = sharpened(planes, self.space, amount, self.ppi, self._away)
        planes = planes[:, own.y - y0 : own.bottom - y0, own.x - x0 : own.right - x0]
        out[:, seen.y - there.y : seen.bottom - there.y, seen.x - there.x : seen.right - there.x] = (
            in_colour(planes) if self.planes == 3 else planes
        )

    def _marks(self, out: Planes, there: Rect) -> None:
        thick = max(1, pixels(LINE, self.ppi))
        for line in self.laid.lines:
            x, y = pixels(min(line.x0, line.x1), self.ppi), pixels(min(line.y0, line.y1), self.ppi)
            long = max(1, pixels(abs(line.x1 - line.x0) + abs(line.y1 - line.y0), self.ppi))
            lying = line.y0 == line.y1
            half = thick // 2
            box = Rect(x, y - half, long, thick) if lying else Rect(x - half, y, thick, long)
            fill(out, there, box, _INK)
        for ring in self.laid.rings:
            _ring(out, there, ring.x * self.ppi / INCH, ring.y * self.ppi / INCH, ring.radius * self.ppi / INCH, thick,
                  self._hard)  # fmt: skip
        for box_, level in self.laid.wedge:
            fill(out, there, rect_of(box_, self.ppi), level)
        if self.laid.caption is not None:
            room = rect_of(self.laid.caption, self.ppi)
            ink = lettering(self.sheet.marks.caption, max(6, pixels(LETTERS, self.ppi)), room.width)
            lies = Rect(room.right - ink.shape[1], room.y, ink.shape[1], ink.shape[0])
            seen = lies.clipped_to(there)
            if seen.width > 0 and seen.height > 0:
                part = ink[seen.y - lies.y : seen.bottom - lies.y, seen.x - lies.x : seen.right - lies.x]
                part = np.round(part) if self._hard else part
                target = out[:, seen.y - there.y : seen.bottom - there.y, seen.x - there.x : seen.right - there.x]
                np.minimum(target, part, out=target)

    def _small(self, rect: Rect, scale: float) -> Planes:
        """For the small picture in a file's notes: a row of the sheet at a time."""
        ys = np.minimum(((np.arange(rect.y, rect.bottom) + 0.5) / scale).astype(int), self._paper.height - 1)
        xs = np.minimum(((np.arange(rect.x, rect.right) + 0.5) / scale).astype(int), self._paper.width - 1)
        rows = [self.region(Rect(0, int(y), self._paper.width, 1))[:, :, xs] for y in ys]
        return np.concatenate(rows, axis=1)


def fill(out: Planes, there: Rect, box: Rect, level: float) -> None:
    """Make a box of one level, where planes that lie at ``there`` have any of it."""
    seen = box.clipped_to(there)
    if seen.width > 0 and seen.height > 0:
        out[:, seen.y - there.y : seen.bottom - there.y, seen.x - there.x : seen.right - there.x] = level


def _ring(out: Planes, there: Rect, x: float, y: float, radius: float, thick: int, hard: bool) -> None:
    reach = radius + thick + 1
    box = Rect(int(x - reach), int(y - reach), int(2 * reach) + 2, int(2 * reach) + 2)
    seen = box.clipped_to(there)
    if seen.width < 1 or seen.height < 1:
        return
    xs, ys = np.arange(seen.x, seen.right) + 0.5 - x, np.arange(seen.y, seen.bottom) + 0.5 - y
    away = np.abs(np.hypot(xs[None], ys[:, None]) - radius) - thick / 2
    paper = np.clip(away + 0.5, 0, 1).astype(np.float32)
    if hard:
        paper = np.round(paper)
    part = out[:, seen.y - there.y : seen.bottom - there.y, seen.x - there.x : seen.right - there.x]
    np.minimum(part, paper, out=part)
