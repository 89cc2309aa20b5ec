"""What is asked of the render threads. A new kind of request is one class more: see `site.Request`."""

from __future__ import annotations

import time
from collections.abc import Container, Hashable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.develop import CameraSource, developed
from kyanoscript.core.passes.toning.hand_tint import HandTint, scene_of
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.render import analysis
from kyanoscript.core.render.faults import faults
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.tint import waiting
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Felt, Pointed, Survey, Thumbnail, Told, Wanted, WhiteFound
from kyanoscript.ui.service.site import Base, Site
from kyanoscript.ui.service.views import Sharp

SURVEY_SIDE = 384  # pixels of the longer side of the small pictures
SURVEY = "survey"
_SURVEY_PAUSE = 0.15  # seconds between surveys while views keep coming, at least
_SURVEYED = 4  # how urgent a survey is at rest
_SURVEY_SHARE = 6  # times as long as a survey took: a long run must not be slowed by its small pictures


@dataclass(frozen=True)
class LookOver(Base):
    """A survey: the small pictures under the run, the ladder's wedge and histogram. At least a few times a second
    during a drag; otherwise it waits until views have stopped coming for a moment."""

    watched = True
    after = (Sharp.__name__,)

    wanted: Wanted

    @property
    def urgency(self) -> int:
        """In a drag it comes between two pictures; at rest the print is there first."""
        return _SURVEYED if self.wanted.rested else 1

    @property
    def rank(self) -> int:
        """Behind whatever the eye is on."""
        return _SURVEYED

    @property
    def moment(self) -> float:
        """In a drag it is quick, and would never come if every picture ended it."""
        return super().moment if self.wanted.rested else _SURVEY_PAUSE

    @property
    def patience(self) -> float:
        """That it is a little behind the hand does not matter."""
        return 1.0

    @property
    def key(self) -> Hashable:
        """Its slot, which others wait for."""
        return SURVEY

    def work(self, site: Site) -> None:
        """Everything about the print, and about what enters the chosen pass."""
        began = time.monotonic()
        wanted = self.wanted
        renderer = site.renderer(wanted.script)
        # In a drag it comes between two pictures, and must not be felt.
        whole, scale = analysis.overview(renderer, SURVEY_SIDE if wanted.rested else SURVEY_SIDE // 2)
        if wanted.rested:
            stages = [renderer.region(whole, scale, k) for k in range(len(wanted.script.passes) + 1)]
        else:
            stages = site.rough(wanted.script, max(0, wanted.selected)).every(scale)
        row: list[Planes] = []
        script, selected = wanted.looked_at
        looked_at = renderer
        if wanted.within is not None:
            inner = site.renderer(wanted.within.script)
            places = range(wanted.within.first, len(wanted.within.script.passes) + 1)
            row = [inner.region(whole, scale, k) for k in places]
            looked_at = inner if script is wanted.within.script else renderer
        entering = looked_at.region(whole, scale, max(0, selected))
        space = site.source.space
        gray = colour.gray_of(entering, space)[0]
        raw = developed(site.source, wanted.script.develop)
        photo = site.cache.make(("opened", wanted.script.develop), lambda: analysis.opened(raw, SURVEY_SIDE))
        survey = Survey(
            wanted,
            self._small(photo, space),
            [self._small(planes, space) for planes in stages],
            [self._small(planes, space) for planes in row],
            self.screen.shown(stages[-1], space),
            display.plain(stages[-1], space),
            analysis.histogram(gray),
            analysis.histograms(entering),
            self.screen.unseen(stages[-1], space),
            analysis.clipped(stages[-1], space),
            analysis.wedge(looked_at, max(0, selected)),
            analysis.rose(entering, space),
            analysis.taken(looked_at, script, selected),
            analysis.aspect(script, selected, site.library),
            gray,
        )
        site.rest(max(_SURVEY_PAUSE, _SURVEY_SHARE * (time.monotonic() - began)))
        site.send(survey)

    def _small(self, planes: Planes, space: colour.Space) -> display.Pixels:
        return display.fitted(self.screen.shown(planes, space), self.wanted.tray)


def pixel_at(renderer: Renderer, scale: float, x: float, y: float) -> tuple[int, int]:
    """The pixel at a place 0…1; of one on the mat, the nearest at the rim."""
    width, height = renderer.size(scale)
    return min(max(0, int(x * width)), width - 1), min(max(0, int(y * height)), height - 1)


@dataclass(frozen=True)
class Point(Base):
    """The values at a place (0…1 across and down), as seen at ``scale``."""

    URGENCY = 4
    lane = "hand"

    wanted: Wanted
    scale: float
    x: float
    y: float

    def work(self, site: Site) -> None:
        """After every pass of the run, and of the second row."""
        wanted = self.wanted
        renderer = site.renderer(wanted.script)
        x, y = pixel_at(renderer, self.scale, self.x, self.y)
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
        site.send(Pointed(self.x, self.y, first, others, entering.gray, found[-1].lightness, found[-1].gray, along))


@dataclass(frozen=True)
class Feel(Base):
    """What enters a pass on a disc round a place (0…1 across and down)."""

    lane = "hand"

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
        x, y = pixel_at(renderer, self.scale, self.x, self.y)
        found = analysis.touched(renderer, x, y, self.radius, self.scale, max(0, self.selected))
        site.send(Felt(found.hue, found.chroma, found.gray, found.colour, self.tag))


@dataclass(frozen=True)
class FindWhite(Base):
    """The light under which a place of a raw (0…1 across and down) is gray."""

    lane = "hand"

    script: Script
    scale: float
    x: float
    y: float
    radius: int

    def work(self, site: Site) -> None:
        """From a disc of its pixels, however they are developed."""
        renderer = site.renderer(self.script)
        raw = renderer.source
        if isinstance(raw, CameraSource):
            found = analysis.gray_under(renderer, raw, self.x, self.y, self.radius / self.scale)
            site.send(WhiteFound(found.kelvin, found.tint))


@dataclass(frozen=True)
class Offers:
    """What each part of a scene is offered by now, by its name, and what it looks like."""

    offer: Offer
    found: waiting.Followed


@dataclass(frozen=True)
class Offer(Base):
    """What the parts of the scene that enters a pass are offered, after what was chosen for others."""

    URGENCY = 5
    lane = "hand"

    script: Script
    index: int
    turns: tuple[tuple[str, int], ...] = ()  # which six of its tints a part is offered, if not the first
    before: tuple[waiting.Before, ...] = ()  # what was chosen for other scans of the album

    def work(self, site: Site) -> None:
        """The scene is read once, and kept."""
        renderer = site.renderer(self.script)
        step = renderer.settled(self.index)
        if isinstance(step, HandTint):
            scene = renderer.found(self.index, "scene", lambda planes: scene_of(planes, renderer.space))
            found = waiting.followed(scene, step.dabs, renderer.framing, dict(self.turns), self.before)
            site.send(Offers(self, found))


@dataclass(frozen=True)
class Ready(Base):
    """What enters the chosen pass, as large as it is seen, before a hand begins to drag it: nobody sees it."""

    URGENCY = 5
    watched = True
    after = (SURVEY,)

    script: Script
    rect: Rect
    scale: float
    chosen: int  # the pass

    def work(self, site: Site) -> None:
        """Tile by tile, into the cache."""
        renderer = site.renderer(self.script, self.chosen)
        if self.rect.clipped(*renderer.size(self.scale)) != self.rect:
            return
        for tx, ty in self.rect.tiles(TILE):
            tile = Rect(tx * TILE, ty * TILE, TILE, TILE).clipped(*renderer.size(self.scale))
            renderer.region(tile, self.scale, self.chosen)


@dataclass(frozen=True)
class Judge(Base):
    """What goes wrong in a print: last of all, once the small pictures are there."""

    URGENCY = 6
    watched = True
    after = (SURVEY,)

    script: Script

    def work(self, site: Site) -> None:
        """Looked for on the whole, small, and in a few places at the print's own size."""
        site.send(Told(self.script, tuple(faults(site.passing(self.script), self.script))))


PROOFS = "proofs"


@dataclass(frozen=True)
class Prove(Base):
    """A small picture of another script, to fit into ``size``: those of a chooser come one at a time, last of all."""

    URGENCY = 5
    watched = True
    after = (SURVEY,)

    tag: object  # who asks
    name: str
    script: Script
    size: tuple[int, int]

    @property
    def pairs(self) -> bool:
        """They are many, each made in one thread; but what takes long needs much memory, and two would need twice."""
        return not self.script.takes_long

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
        site.send(Thumbnail(self.tag, self.name, display.fitted(self.screen.shown(planes, renderer.space), self.size)))


def proofs(
    tag: object, scripts: dict[str, Script], size: tuple[int, int], in_sight: Container[str] | None = None
) -> list[Prove]:
    """Requests for small pictures of scripts by name: first of what is in sight, and there the quick ones first."""
    shown = scripts if in_sight is None else in_sight
    in_order = sorted(scripts.items(), key=lambda named: (named[0] not in shown, named[1].takes_long))
    return [Prove(tag, name, script, size) for name, script in in_order]


@dataclass(frozen=True)
class Cut(Base):
    """The stencil of a pass, for a part of the print: in a thread of its own, so that a brush's mark follows the hand
    however long the print takes."""

    lane = "stencils"

    script: Script
    index: int
    rect: Rect
    scale: float
    drawing: bool = False

    @property
    def patience(self) -> float:
        """While a brush is drawn each place of it asks anew."""
        return 1.0 if self.drawing else super().patience

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
