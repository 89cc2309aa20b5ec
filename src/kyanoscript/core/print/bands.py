"""A test strip as a picture with its labels, to be judged on paper."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kyanoscript.core.colour import Space, in_colour
from kyanoscript.core.lettering import LEAST, label
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.print.leaf import fill
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script

_LETTERS = 0.016  # height of the labels' letters, of the longer side


@dataclass(frozen=True)
class Bands:
    """A test strip: what every band shows, and how they lie."""

    scripts: tuple[Script, ...]
    labels: tuple[str, ...]
    grid: tuple[int, int]  # columns and rows
    same: bool = False  # all of them show the same part, from the middle


def part(grid: tuple[int, int], cell: int, size: tuple[int, int]) -> Rect:
    """The place of a band on a strip of a size in pixels."""
    columns, rows = grid
    column, row = cell % columns, cell // columns
    width, height = size
    x0, x1 = column * width // columns, (column + 1) * width // columns
    y0, y1 = row * height // rows, (row + 1) * height // rows
    return Rect(x0, y0, x1 - x0, y1 - y0)


class Banded:
    """The bands as one print, to be written as prints are (`Printable`)."""

    def __init__(self, renderers: list[Renderer], bands: Bands) -> None:
        self._renderers, self._bands = renderers, bands
        self.planes = max(renderer.planes for renderer in renderers)
        self.looks_around = any(renderer.looks_around for renderer in renderers)

    @property
    def space(self) -> Space:
        return self._renderers[0].space

    def size(self, scale: float) -> tuple[int, int]:
        """That of the first print."""
        return self._renderers[0].size(scale)

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        """Each band's part of it, bit for bit as its own print has it; lines and labels over it."""
        size = self.size(scale)
        out = np.ones((self.planes, rect.height, rect.width), np.float32)
        for cell, renderer in enumerate(self._renderers):
            box = part(self._bands.grid, cell, size)
            seen = box.clipped_to(rect)
            if seen.width < 1 or seen.height < 1:
                continue
            x, y = self._start(box, size) if self._bands.same else (box.x, box.y)
            there = Rect(x + seen.x - box.x, y + seen.y - box.y, seen.width, seen.height)
            there = there.clipped(*renderer.size(scale))  # a tilted frame may have made its print smaller
            if there.width < 1 or there.height < 1:
                continue
            planes = renderer.region(there, scale)
            planes = in_colour(planes) if self.planes == 3 else planes
            top, left = seen.y - rect.y, seen.x - rect.x
            out[:, top : top + there.height, left : left + there.width] = planes
        for cell in range(len(self._renderers)):
            self._mark(out, rect, cell, size)
        return out

    def _start(self, box: Rect, size: tuple[int, int]) -> tuple[int, int]:
        return (size[0] - box.width) // 2, (size[1] - box.height) // 2

    def _mark(self, out: Planes, rect: Rect, cell: int, size: tuple[int, int]) -> None:
        """A white line where a band begins, and its label at its lower left."""
        box = part(self._bands.grid, cell, size)
        columns = self._bands.grid[0]
        thick = max(1, round(max(size) / 2000))
        if cell % columns:
            fill(out, rect, Rect(box.x, box.y, thick, box.height), 1.0)
        if cell >= columns:
            fill(out, rect, Rect(box.x, box.y, box.width, thick), 1.0)
        letters = max(LEAST, round(max(size) * _LETTERS))
        ink = label(self._bands.labels[cell], letters, box.width)
        gap = letters // 2
        lies = Rect(
            box.x + min(gap, max(0, box.width - ink.shape[1])), box.bottom - gap - ink.shape[0], *ink.shape[::-1]
        )
        seen = lies.clipped_to(rect).clipped_to(box)
        if seen.width > 0 and seen.height > 0:
            part_of = ink[seen.y - lies.y : seen.bottom - lies.y, seen.x - lies.x : seen.right - lies.x]
            out[:, seen.y - rect.y : seen.bottom - rect.y, seen.x - rect.x : seen.right - rect.x] = part_of
