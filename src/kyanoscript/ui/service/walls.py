"""Several prints side by side: states on their wall, bands of a strip, and the values at one place of all of them."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np

from kyanoscript.core.picture import Rect
from kyanoscript.core.render import analysis
from kyanoscript.core.script import Script
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import pixel_at
from kyanoscript.ui.service.site import Base, Site
from kyanoscript.ui.service.views import Look, Shown


@dataclass(frozen=True)
class Hang(Look):
    """A part of a print that hangs with others; each has a slot of its own, and they come as they were asked for."""

    slot: Hashable = None

    @property
    def key(self) -> Hashable:
        """One slot each."""
        return "hang", self.slot

    def answer(self, pixels: display.Pixels, coarse: bool = False) -> Shown:
        """Not for the easel."""
        return Hung(self, self.rect, self.scale, pixels, coarse)


@dataclass(frozen=True)
class Band(Hang):
    """A narrow part of a print: worked out by itself, and not in the tiles that lie under it.

    What enters the pass ``changed``, from which on it is another print than its neighbours, is shared with them.
    """

    changed: int = 0

    def work(self, site: Site) -> None:
        """In two halves, one for each thread."""
        renderer = site.renderer(self.script, self.changed)
        rect = self.rect
        if rect.clipped(*renderer.size(self.scale)) != rect:
            return
        out = np.empty((rect.height, rect.width, 4), np.uint8)
        half = max(1, rect.height // 2)
        parts = [Rect(rect.x, y, rect.width, min(half, rect.bottom - y)) for y in range(rect.y, rect.bottom, half)]

        def part(of: Rect) -> None:
            self.screen.place(renderer.region(of, self.scale), of, rect, out, renderer.space)

        if site.share_out(parts, part, lambda: site.newer() is not None):
            site.send(self.answer(out))


@dataclass(frozen=True)
class Hung(Shown):
    """It is there."""


@dataclass(frozen=True)
class Values(Base):
    """The values at one place (0…1 across and down) of several prints."""

    URGENCY = 4
    lane = "hand"

    scripts: tuple[tuple[Hashable, Script], ...]
    scale: float
    x: float
    y: float

    def work(self, site: Site) -> None:
        """Of each print, and of the photograph under the first."""
        found = {}
        for key, script in self.scripts:
            renderer = site.renderer(script)
            spot = analysis.spot(renderer, *pixel_at(renderer, self.scale, self.x, self.y), self.scale)
            found[key] = Value(spot.levels, spot.gray)
        first = site.renderer(self.scripts[0][1])
        photo = analysis.spot(first, *pixel_at(first, self.scale, self.x, self.y), self.scale, 0).levels
        site.send(ValuesThere(photo, found))


@dataclass(frozen=True)
class Value:
    """A print's value at a place."""

    levels: tuple[int, int, int]
    gray: float  # as bright, 0…1


@dataclass(frozen=True)
class ValuesThere:
    """The values of all, by their slots."""

    photo: tuple[int, int, int]
    values: dict[Hashable, Value]
