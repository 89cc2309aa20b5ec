"""Views: a part of a print, wanted on the easel. In a drag resolution gives way to the hand (see `pace`)."""

from __future__ import annotations

import math
import time
from collections.abc import Hashable
from dataclasses import dataclass

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour.zones import BORDERS
from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.base import log
from kyanoscript.ui.service import display
from kyanoscript.ui.service.site import Base, Site

_COARSE_OVER = 0.12  # seconds: a view at rest that is expected to take longer is shown coarse first
_COARSE = 1 / 3
_GIVE_UP_AFTER = 0.15  # seconds after which a view gives way to a newer one of the same place
_AT_LENGTH = 1.0  # and one of a drag, however slow the machine: else nothing would be seen of the drag
_REST = 0.04  # seconds that the hand must be still before the view becomes sharp
_LAG = 0.25  # seconds that what lies outside a view in a drag may lag behind
_ZONE = (0x5E, 0x37, 0x17)  # the accent, in the order of the screen


@dataclass(frozen=True)
class Look(Base):
    """A part of a print, wanted on screen.

    It is worked out tile by tile with helpers. In a drag it comes as fine as the hand leaves time for, and sharp
    when the hand rests (`Sharp`); at rest a slow one comes coarse first.
    """

    URGENCY = 2
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
            site.send(self.answer(self._zone(renderer, self.zone_of)))
        elif self.keep is None:
            self._at_rest(site, renderer)
        else:
            self._in_a_drag(site, self.keep)

    @property
    def patience(self) -> float:
        """See `site.Request`."""
        return _GIVE_UP_AFTER if self.keep is None else _AT_LENGTH

    @property
    def _pixels(self) -> int:
        return self.rect.width * self.rect.height

    def _at_rest(self, site: Site, renderer: Renderer) -> None:
        slow = site.memory.pace.expected(self._pixels) > _COARSE_OVER
        if slow and not renderer.is_cached(self.rect, self.scale):
            self._send_coarse(site, _COARSE)
        tiles = [
            Rect(tx * TILE, ty * TILE, TILE, TILE).clipped(*renderer.size(self.scale))
            for tx, ty in self.rect.tiles(TILE)
        ]
        self._send_fine(site, renderer, tiles, _GIVE_UP_AFTER)

    def _in_a_drag(self, site: Site, dragged: int) -> None:
        rough = site.rough(self.script, dragged)

        def ready(share: float) -> bool:
            wide, *_ = self._at_a_share(rough, share)
            return rough.at_hand(wide, self.scale * share, self.scale)

        self._send_coarse(site, site.memory.pace.step(dragged, self._pixels, ready))
        if site.last(self.key) == site.asked.number:
            still = time.monotonic() - site.asked.at
            sharp = Sharp(self.script, self.rect, self.scale, keep=self.keep, of=site.asked.number, screen=self.screen)
            site.ask(sharp, max(0.0, _REST - still))

    @property
    def pairs(self) -> bool:
        """In a drag two pictures are worked out at once, one thread each: that is quicker than two threads on one."""
        return self.keep is not None and self.zone_of is None

    def _send_fine(self, site: Site, renderer: Renderer, parts: list[Rect], patience: float) -> None:
        """All of it at its own scale, unless something newer is wanted before ``patience`` is over."""
        began = time.perf_counter()
        out = np.empty((self.rect.height, self.rect.width, 4), np.uint8)

        def part(rect: Rect) -> None:
            self.screen.place(renderer.region(rect, self.scale), rect, self.rect, out, renderer.space)

        def pointless() -> bool:
            newer = self._newer(site)
            if newer is None:
                return False
            elsewhere = (newer.rect, newer.scale) != (self.rect, self.scale)
            return elsewhere or time.perf_counter() - began > patience

        if site.share_out(parts, part, pointless):
            site.memory.pace.took(self.keep, self._pixels, time.perf_counter() - began)
            site.memory.rested = renderer.keys
            site.send(self.answer(out))

    def answer(self, pixels: display.Pixels, coarse: bool = False) -> Shown:
        """What is sent."""
        return Shown(self, self.rect, self.scale, pixels, coarse)

    def _newer(self, site: Site) -> Look | None:
        found: Look | None = site.newer()
        return found

    def _send_coarse(self, site: Site, share: float) -> None:
        """At a part of its scale, enlarged here and not where the hand would wait for it."""
        began = time.perf_counter()
        renderer = site.rough(self.script, self.keep or 0)
        scale = self.scale * share
        wide, across, down = self._at_a_share(renderer, share)
        place = (self.keep, self.script.frame, [step.kind for step in self.script.passes])
        beside = site.memory.beside
        known = beside is not None and beside[0] == place and began - beside[1] < _LAG
        planes = renderer.roughly(wide, scale, self.scale, beside[2] if beside is not None and known else None)
        if not known:
            site.memory.beside = (place, began, renderer.beside)
        pixels = self.screen.shown(planes, renderer.space)
        if share < 1:
            pixels = _enlarged(pixels, wide, self.rect, across, down)
        if self.keep is not None:
            site.memory.pace.took(self.keep, wide.width * wide.height, time.perf_counter() - began)
        site.send(self.answer(pixels, coarse=True))

    def _at_a_share(self, renderer: Renderer, share: float) -> tuple[Rect, float, float]:
        """What is seen, at a share of its scale, and how much smaller that is across and down."""
        size = renderer.size(self.scale * share)
        across, down = (a / b for a, b in zip(size, renderer.size(self.scale), strict=True))
        left, top = int(self.rect.x * across), int(self.rect.y * down)
        right, bottom = math.ceil(self.rect.right * across), math.ceil(self.rect.bottom * down)
        return Rect(left, top, right - left, bottom - top).clipped(*size), across, down

    def _zone(self, renderer: Renderer, upto: int) -> display.Pixels:
        """The print in pale grays, and in the accent what enters the pass in one zone."""
        gray = colour.gray_of(renderer.region(self.rect, self.scale, upto), renderer.space)[0]
        pixels = self.screen.shown(0.55 + 0.35 * gray[None], renderer.space)
        inside = np.searchsorted(BORDERS, gray, side="right") == self.zone
        pixels[inside, :3] = _ZONE
        return pixels


def _enlarged(pixels: display.Pixels, lies: Rect, rect: Rect, across: float, down: float) -> display.Pixels:
    """``rect`` on a grid that is finer, by ``across`` and ``down``, than the one on which pixels lie at ``lies``."""
    size = max(rect.width, round(lies.width / across)), max(rect.height, round(lies.height / down))
    large = np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_LINEAR), np.uint8)
    x, y = round(rect.x - lies.x / across), round(rect.y - lies.y / down)
    x, y = min(max(0, x), size[0] - rect.width), min(max(0, y), size[1] - rect.height)
    return large[y : y + rect.height, x : x + rect.width]


@dataclass(frozen=True)
class Sharp(Look):
    """A view of a drag at its own scale, once the hand rests; it gives way at once when the hand moves on."""

    of: int = 0  # the number of the view in whose place it comes, unless there is a newer one

    @property
    def rank(self) -> int:
        """It never overtakes the view that asks for it."""
        return self.URGENCY + 1

    @property
    def pairs(self) -> bool:
        """It is for all threads together."""
        return False

    def work(self, site: Site) -> None:
        """Pass by pass, so that the hand need not wait."""
        if site.last(Look.__name__) != self.of:
            return
        renderer = site.staged(self.script, self.keep)
        if self.rect.clipped(*renderer.size(self.scale)) != self.rect:
            return

        def moved_on() -> bool:
            return site.last(Look.__name__) != self.of

        planes = renderer.view(self.rect, self.scale, lambda parts, work: site.share_out(parts, work, moved_on))
        if planes is not None:
            site.memory.rested = renderer.keys
            site.send(self.answer(self.screen.shown(planes, renderer.space)))


@dataclass(frozen=True)
class Shown:
    """A part of a print on the screen: ``pixels`` cover ``rect`` at ``scale``."""

    look: Look
    rect: Rect
    scale: float
    pixels: display.Pixels
    coarse: bool = False  # worked out at a part of the scale, and enlarged


@dataclass(frozen=True)
class LookBeside(Look):
    """The same of the picture that the print is compared with."""

    URGENCY = 3

    def _newer(self, site: Site) -> Look | None:
        return None  # it is finished whatever has been asked since
