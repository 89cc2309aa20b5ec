"""A print as its paper will have it, for the Sheet view; and what the paper does to its tones."""

from __future__ import annotations

import contextlib
from collections.abc import Hashable
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import SRGB
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.picture import Rect
from kyanoscript.core.print import film, plates
from kyanoscript.core.print.bands import Banded, Bands
from kyanoscript.core.print.over import Printable
from kyanoscript.core.process.process import Process
from kyanoscript.core.script import Script
from kyanoscript.files.colour import proofs
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.ui.service import display
from kyanoscript.ui.service.site import Base, Site
from kyanoscript.ui.service.walls import Hang, Hung

_STRIPE = 8  # pixels: of the pattern over what the printer has not
_MARK = (0x30, 0x30, 0xD0)  # in the order of the screen


@dataclass(frozen=True)
class OnPaper(Hang):
    """The whole print at a scale, through a proof; without one as the screen shows it."""

    proof: Proof | None = None
    marked: bool = False  # what the printer has not is marked
    bands: Bands | None = None  # of a test strip, in the place of the print

    def work(self, site: Site) -> None:
        """In halves, one for each thread."""
        renderer = self._print(site)
        rect = self.rect
        if rect.clipped(*renderer.size(self.scale)) != rect:
            return
        out = np.empty((rect.height, rect.width, 4), np.uint8)
        missed: list[tuple[int, int]] = []  # of each part: parts are worked on at once
        through = replace(self.screen, proof=self.proof)
        half = max(1, -(-rect.height // 2))
        parts = [Rect(rect.x, y, rect.width, min(half, rect.bottom - y)) for y in range(rect.y, rect.bottom, half)]

        def part(of: Rect) -> None:
            planes = renderer.region(of, self.scale)
            through.place(planes, of, rect, out, renderer.space)
            if self.proof is not None:
                beyond = proofs.outside(self.proof, renderer.space, planes)
                missed.append((int(beyond.sum()), beyond.size))
                if self.marked:
                    _mark(out[of.y - rect.y : of.bottom - rect.y], beyond, of)

        if site.share_out(parts, part, lambda: site.newer() is not None):
            share = sum(count for count, _ in missed) / max(1, sum(of for _, of in missed))
            site.send(HungOnPaper(self, rect, self.scale, out, False, share))

    def _print(self, site: Site) -> Printable:
        if self.bands is None:
            return site.renderer(self.script, self.keep)
        return Banded([site.renderer(script, self.keep) for script in self.bands.scripts], self.bands)


@dataclass(frozen=True)
class HungOnPaper(Hung):
    """It is there; ``outside``: the share of it that the printer has not."""

    outside: float = 0.0


NEGATIVE = -1


@dataclass(frozen=True)
class OnFilm(Hang):
    """The whole print at a scale as a plate of it, or as its negative: grays, or the filter ink."""

    leaf: int = NEGATIVE  # or which plate
    process: Process | None = None  # of the negative
    making: plates.Making = field(default_factory=plates.Making)  # of a plate

    def work(self, site: Site) -> None:
        """Whole; such pictures are asked for one by one."""
        picture = self._picture(site)
        rect = self.rect
        if rect.clipped(*picture.size(self.scale)) != rect:
            return
        pixels = self.screen.shown(picture.region(rect, self.scale), SRGB)
        tones = picture.tones() if isinstance(picture, film.InInk) else ()
        site.send(Filmed(self, rect, self.scale, pixels, False, tones))

    def _picture(self, site: Site) -> Printable:
        if self.leaf == NEGATIVE:
            assert self.process is not None
            return film.on_film(site.renderer(self.script, self.keep), self.process)
        return plates.plate_of(lambda below: site.renderer(below, self.keep), self.script, self.leaf, self.making)


@dataclass(frozen=True)
class DotsOf(Base):
    """The dots of a print's plates on one another, a pixel of the screen for one of the device."""

    URGENCY = 2
    script: Script
    sheet: Sheet
    size: tuple[int, int]

    @property
    def key(self) -> Hashable:
        return "hang", "dots"

    def work(self, site: Site) -> None:
        """From the print's middle; what cannot be is said beside the plates, and not here."""
        with contextlib.suppress(ValueError):
            made = plates.dots_of(site.renderer, self.script, self.sheet, self.size)
            site.send(Dots(self, self.screen.shown(made, SRGB)))


@dataclass(frozen=True)
class Dots:
    """They are there."""

    of: DotsOf
    pixels: display.Pixels


@dataclass(frozen=True)
class Filmed(Hung):
    """It is there; ``tones``: of a negative, what the film reflects for grays from black to white."""

    tones: tuple[float, ...] = ()


@dataclass(frozen=True)
class TonesOf(Base):
    """What becomes of the grays of a space on paper."""

    URGENCY = 2
    proof: Proof

    @property
    def key(self) -> Hashable:
        return "hang", "tones"

    def work(self, site: Site) -> None:
        """L* in the print, and on paper."""
        tone, paper = proofs.tones(self.proof, site.source.space)
        site.send(Tones(self.proof, tuple(float(v) for v in tone), tuple(float(v) for v in paper)))


@dataclass(frozen=True)
class Tones:
    """L* of grays in the print, 0…100, and what each is on paper."""

    proof: Proof
    tone: tuple[float, ...]
    paper: tuple[float, ...]


def _mark(pixels: display.Pixels, beyond: NDArray[np.bool_], of: Rect) -> None:
    """Slanted lines over what the printer has not."""
    ys, xs = np.ogrid[of.y : of.bottom, of.x : of.right]
    where = beyond & ((xs + ys) % _STRIPE < 2)
    pixels[where, :3] = _MARK
