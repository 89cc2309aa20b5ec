"""What is asked of the render threads. A new kind of request is one class more: see `site.Request`."""

from __future__ import annotations

import itertools
import os
import time
from collections.abc import Hashable
from dataclasses import dataclass
from typing import ClassVar

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.render import analysis
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import Script
from kyanoscript.files import log
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Felt, Pointed, Proof, Survey, Wanted
from kyanoscript.ui.service.site import Site

SURVEY_SIDE = 384  # pixels of the longer side of the small pictures
SURVEY = "survey"
_SURVEY_PAUSE = 0.15  # seconds between surveys while views keep coming, at least
_SURVEY_SHARE = 6  # times as long as a survey took: a long run must not be slowed by its small pictures
_COARSE_OVER = 0.12  # seconds: a view expected to take longer is shown coarse first
_GIVE_UP_AFTER = 0.25  # seconds after which a view gives way to a newer one of the same place
_ZONE = (0x5E, 0x37, 0x17)  # the accent, in the order of the screen


@dataclass(frozen=True)
class Base:
    """Alone in its slot, which its class names; of use whatever has been asked since."""

    urgency: ClassVar[int] = 0
    apart: ClassVar[bool] = False
    watched: ClassVar[bool] = False
    returns: ClassVar[bool] = False
    after: ClassVar[tuple[str, ...]] = ()

    @property
    def key(self) -> Hashable:
        """Its slot."""
        return type(self).__name__

    @property
    def place(self) -> Hashable:
        """See `site.Request`."""
        return None

    @property
    def group(self) -> object:
        """See `site.Request`."""
        return None


@dataclass(frozen=True)
class Look(Base):
    """A part of a print, wanted on screen.

    It is worked out tile by tile with helpers; a slow one in a drag comes coarse first.
    """

    urgency = 2
    watched = True

    script: Script
    rect: Rect  # in pixels of the print at `scale`
    scale: float
    zone_of: int | None = None  # show which parts enter this pass in `zone` instead of the print
    zone: int = 0
    keep: int | None = None  # in a drag: the pass that is changing; what it and later ones give is not kept

    @property
    def place(self) -> Hashable:
        """Another zoom or frame, and its pixels would lie elsewhere."""
        return self.script.frame, self.scale, self.zone_of is None

    def work(self, site: Site) -> None:
        """Coarse first where that helps, then all of it."""
        renderer = site.renderer(self.script, self.keep)
        if self.rect.clipped(*renderer.size(self.scale)) != self.rect:
            # Asked for a frame that is another one by now; the easel has asked again or will.
            log.note(f"a view of {self.rect} was asked for of a print of {renderer.size(self.scale)} pixels")
        elif self.zone_of is not None:
            site.send(Shown(self, self.rect, self.scale, self._zone(renderer, self.zone_of)))
        else:
            self._print(site, renderer)

    def _print(self, site: Site, renderer: Renderer) -> None:
        pixels = self.rect.width * self.rect.height
        slow = pixels * site.memory.seconds_per_pixel > _COARSE_OVER
        if slow and not renderer.is_cached(self.rect, self.scale):
            site.send(self._coarse(renderer))
        began = time.perf_counter()
        out = np.empty((self.rect.height, self.rect.width, 4), np.uint8)

        def part(rect: Rect) -> None:
            display.place(renderer.region(rect, self.scale), rect, self.rect, out)

        def pointless() -> bool:
            newer = self._newer(site)
            if newer is None:
                return False
            elsewhere = (newer.rect, newer.scale) != (self.rect, self.scale)
            return elsewhere or time.perf_counter() - began > _GIVE_UP_AFTER

        if site.share_out(self._parts(renderer), part, pointless):
            site.memory.seconds_per_pixel = (time.perf_counter() - began) / pixels
            site.send(Shown(self, self.rect, self.scale, out))

    def _newer(self, site: Site) -> Look | None:
        found: Look | None = site.newer()
        return found

    def _parts(self, renderer: Renderer) -> list[Rect]:
        """Tiles; in a drag, where nothing is kept, bands of whole rows, one for every core: what Python adds counts
        once for each."""
        if self.keep is None:
            return [renderer.tile_rect(tx, ty, self.scale) for tx, ty in self.rect.tiles(TILE)]
        count = max(1, min(os.cpu_count() or 2, self.rect.height // 64))
        edges = [self.rect.y + self.rect.height * k // count for k in range(count + 1)]
        return [Rect(self.rect.x, top, self.rect.width, bottom - top) for top, bottom in itertools.pairwise(edges)]

    def _coarse(self, renderer: Renderer) -> Shown:
        """A quarter of the resolution, for the same part of the print."""
        scale, rect = self.scale / 4, self.rect
        wide = Rect(rect.x // 4 - 1, rect.y // 4 - 1, rect.width // 4 + 3, rect.height // 4 + 3)
        wide = wide.clipped(*renderer.size(scale))
        return Shown(self, wide, scale, display.shown(renderer.region(wide, scale)), coarse=True)

    def _zone(self, renderer: Renderer, upto: int) -> display.Pixels:
        """The print in pale grays, and in the accent what enters the pass in one zone."""
        gray = colour.gray_of(renderer.region(self.rect, self.scale, upto))[0]
        pixels = display.shown(0.55 + 0.35 * gray[None])
        inside = np.minimum((gray * 11).astype(np.int32), 10) == self.zone
        pixels[inside, :3] = _ZONE
        return pixels


@dataclass(frozen=True)
class Shown:
    """A part of a print on the screen: ``pixels`` cover ``rect`` at ``scale``."""

    look: Look
    rect: Rect
    scale: float
    pixels: display.Pixels
    coarse: bool = False


@dataclass(frozen=True)
class Beside(Look):
    """The same of the picture that the print is compared with."""

    urgency = 3
    returns = True

    def _newer(self, site: Site) -> Look | None:
        return None  # it is finished whatever has been asked since


@dataclass(frozen=True)
class LookOver(Base):
    """A survey: the small pictures under the run, the ladder's wedge and histogram. At least a few times a second
    during a drag; otherwise it waits until views have stopped coming for a moment."""

    urgency = 1
    watched = True
    returns = True

    wanted: Wanted

    @property
    def key(self) -> Hashable:
        """Its slot, which others wait for."""
        return SURVEY

    def work(self, site: Site) -> None:
        """Everything about the print, and about what enters the chosen pass."""
        began = time.monotonic()
        wanted = self.wanted
        renderer = site.renderer(wanted.script)
        whole, scale = analysis.overview(renderer, SURVEY_SIDE)
        stages = [renderer.region(whole, scale, k) for k in range(len(wanted.script.passes) + 1)]
        row: list[Planes] = []
        script, selected = wanted.looked_at
        looked_at = renderer
        if wanted.within is not None:
            inner = site.renderer(wanted.within.script)
            places = range(wanted.within.first, len(wanted.within.script.passes) + 1)
            row = [inner.region(whole, scale, k) for k in places]
            looked_at = inner if script is wanted.within.script else renderer
        entering = looked_at.region(whole, scale, max(0, selected))
        gray = colour.gray_of(entering)[0]
        photo = site.cache.make("opened", lambda: analysis.opened(site.source, SURVEY_SIDE))
        survey = Survey(
            wanted,
            _small(photo, wanted),
            [_small(planes, wanted) for planes in stages],
            [_small(planes, wanted) for planes in row],
            display.shown(stages[-1]),
            analysis.histogram(gray),
            analysis.histograms(entering),
            analysis.clipped(stages[-1]),
            analysis.wedge(looked_at, max(0, selected)),
            analysis.rose(entering),
            analysis.taken(looked_at, script, selected),
            analysis.aspect(script, selected, site.library),
            gray,
        )
        site.rest(max(_SURVEY_PAUSE, _SURVEY_SHARE * (time.monotonic() - began)))
        site.send(survey)


def _small(planes: Planes, wanted: Wanted) -> display.Pixels:
    return display.fitted(display.shown(planes), wanted.tray)


def _pixel(renderer: Renderer, scale: float, x: float, y: float) -> tuple[int, int]:
    """The pixel at a place 0…1; of one on the mat, the nearest at the rim."""
    width, height = renderer.size(scale)
    return min(max(0, int(x * width)), width - 1), min(max(0, int(y * height)), height - 1)


@dataclass(frozen=True)
class Point(Base):
    """The values at a place (0…1 across and down), as seen at ``scale``."""

    urgency = 4

    wanted: Wanted
    scale: float
    x: float
    y: float

    def work(self, site: Site) -> None:
        """After every pass of the run, and of the second row."""
        wanted = self.wanted
        renderer = site.renderer(wanted.script)
        x, y = _pixel(renderer, self.scale, self.x, self.y)
        found = analysis.trace(renderer, x, y, self.scale)
        script, selected = wanted.looked_at
        row: list[analysis.Spot] = []
        entering = found[max(0, selected)] if script is wanted.script else None
        if wanted.within is not None:
            inner = site.renderer(wanted.within.script)
            places = range(wanted.within.first + 1, len(wanted.within.script.passes) + 1)
            row = analysis.trace(inner, x, y, self.scale, places)
            entering = entering or analysis.spot(inner, x, y, self.scale, selected)
        assert entering is not None
        first, *others = [spot.levels for spot in found]
        along = [spot.levels for spot in row]
        site.send(Pointed(self.x, self.y, first, others, entering.gray, found[-1].lightness, along))


@dataclass(frozen=True)
class Feel(Base):
    """What enters a pass on a disc round a place (0…1 across and down)."""

    urgency = 0

    script: Script
    selected: int
    scale: float
    x: float
    y: float
    radius: int
    tag: str = ""

    def work(self, site: Site) -> None:
        """Its mean."""
        renderer = site.renderer(self.script)
        x, y = _pixel(renderer, self.scale, self.x, self.y)
        found = analysis.touched(renderer, x, y, self.radius, self.scale, max(0, self.selected))
        site.send(Felt(found.hue, found.chroma, found.gray, found.colour, self.tag))


PROOFS = "proofs"


@dataclass(frozen=True)
class Prove(Base):
    """A small picture of another script, to fit into ``size``: those of a chooser come one at a time, last of all."""

    urgency = 5
    watched = True
    returns = True
    after = (SURVEY,)

    tag: object  # who asks
    name: str
    script: Script
    size: tuple[int, int]

    @property
    def key(self) -> Hashable:
        """One slot each."""
        return PROOFS, self.name

    @property
    def group(self) -> object:
        """There is one chooser at a time."""
        return PROOFS

    def work(self, site: Site) -> None:
        """Rendered a little larger than wanted, and reduced."""
        renderer = site.renderer(self.script)
        width, height = renderer.size(1.0)
        scale = min(1.0, SURVEY_SIDE / max(width, height), max(self.size[0] / width, self.size[1] / height))
        planes = renderer.region(Rect(0, 0, *renderer.size(scale)), scale)
        site.send(Proof(self.tag, self.name, display.fitted(display.shown(planes), self.size)))


def proofs(tag: object, scripts: dict[str, Script], size: tuple[int, int]) -> list[Prove]:
    """Requests for small pictures of scripts by name; those with a pass that takes seconds come last."""
    in_order = sorted(scripts.items(), key=lambda named: named[1].takes_long)
    return [Prove(tag, name, script, size) for name, script in in_order]


@dataclass(frozen=True)
class Cut(Base):
    """The stencil of a pass, for a part of the print: in a thread of its own, so that a brush's mark follows the hand
    however long the print takes."""

    apart = True

    script: Script
    index: int
    rect: Rect
    scale: float
    drawing: bool = False

    @property
    def place(self) -> Hashable:
        """Another zoom or frame, and its pixels would lie elsewhere."""
        return self.script.frame, self.scale

    def work(self, site: Site) -> None:
        """Its values, and what differs from those before."""
        renderer = site.renderer(self.script, self.index if self.drawing else None)
        if self.rect.clipped(*renderer.size(self.scale)) != self.rect:
            return  # of a frame that is another one by now
        values = renderer.stencil(self.index, self.rect, self.scale)[0]
        levels = np.rint(values * 255).astype(np.uint8)
        site.memory.mask = made = Mask(self, levels, _changed(site.memory.mask, self, levels))
        site.send(made)


@dataclass(frozen=True)
class Mask:
    """A stencil on a part of the print: ``values`` ``(h, w)``, 255 where the pass acts fully."""

    cut: Cut
    values: NDArray[np.uint8]
    changed: Rect | None  # within the values: what differs from the one before; None: it lies elsewhere


def _changed(before: Mask | None, cut: Cut, levels: NDArray[np.uint8]) -> Rect | None:
    """Where a mask differs from the one before it of the same place."""
    if before is None or (before.cut.rect, before.cut.scale) != (cut.rect, cut.scale):
        return None
    differs = before.values != levels
    rows, columns = np.flatnonzero(differs.any(axis=1)), np.flatnonzero(differs.any(axis=0))
    if not len(rows):
        return Rect(0, 0, 0, 0)
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, int(columns[-1]) - x + 1, int(rows[-1]) - y + 1)
