"""Where in a picture a pass works, and what it may look at there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from kyanoscript.core import smooth
from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.stencil.ground import Ground

_WHOLE = 120_000  # pixels: coarse pictures up to this size are worked out whole and kept


@dataclass(frozen=True)
class View:
    """A view in a drag, worked out in bands: what comes into its passes is seen once."""

    rect: Rect  # all of it
    once: Callable[[tuple[Any, ...], Callable[[], Any]], Any]  # keeps what its bands share, and is gone with it
    rough: bool  # it may be a little less exact


@dataclass(frozen=True)
class Place:
    """Where in the picture the planes handed to a pass lie, and at what size."""

    rect: Rect  # the region wanted, in pixels of the whole print at this scale; planes reach `margin` further
    scale: float  # 1: the photograph's own pixels
    longer: float  # the photograph's longer side at this scale, in pixels: what lengths are a share of
    measured: Any = None  # what the pass's `measure` found on the proxy
    margin: int = 0  # pixels by which the planes are larger than the region, on every side
    look: Callable[[Rect, int, int], smooth.Coarse] | None = None
    ground: Ground | None = None  # for passes that paint: where the region lies on the photograph
    picture: Callable[[str], Any] | None = None  # finds another picture by its name (`bases.Picture`), or None
    chain: int = 0  # stands for everything that comes before the pass
    space: Space = SRGB  # the photograph's: what its planes mean
    before: tuple[Any, ...] = ()  # the passes that have acted before it, in order
    view: View | None = None  # in a drag: what the region is a band of

    def pixels(self, thousandths: float) -> float:
        """A declared length in pixels at this scale."""
        return thousandths / 1000 * self.longer

    def inner(self, planes: Planes, margin: int = 0) -> Planes:
        """Planes cut down to the region and the margin asked for."""
        cut = self.margin - margin
        if cut == 0:
            return planes
        height, width = planes.shape[1:]
        return np.ascontiguousarray(planes[:, cut : height - cut, cut : width - cut])

    def around(self, factor: int, margin: int) -> smooth.Coarse:
        """What comes into the pass, ``factor`` times reduced, around the region with a margin of coarse pixels."""
        assert self.look is not None, "this place cannot be looked around"
        return self.look(self.rect, factor, margin)

    def blurred(self, planes: Planes, sigma: float, prepare: Callable[[Planes], Planes]) -> Planes:
        """The input, prepared (made gray, brought to light), under a Gaussian of ``sigma`` pixels, however wide.

        The pass's margin must be at least `blur_margin`. Returns planes of the region without margin.
        """
        factor = smooth.factor_for(sigma)
        further = self._further(sigma / factor)
        own = smooth.coarse_sigma(sigma, factor * further)
        reach = smooth.reach(own)
        if factor * further == 1:
            return smooth.gaussian(prepare(self.inner(planes, reach)), own)
        name = ("blurred", own)
        return self._enlarged(
            factor, further, reach, name, lambda p: smooth.gaussian(smooth.reduced(prepare(p), further), own)
        )

    def guided(self, planes: Planes, sigma: float, softness: float, prepare: Callable[[Planes], Planes]) -> Planes:
        """The guided filter's gain and offset ``(2, h, w)`` of the input, made gray by ``prepare``.

        The pass's margin must be at least `guided_margin`. Returns planes of the region without margin.
        """
        factor = smooth.factor_for(sigma)
        further = self._further(sigma / factor)
        own = sigma / (factor * further)
        reach = 2 * smooth.reach(own)
        if factor * further == 1:
            return smooth.guided(prepare(self.inner(planes, reach)), own, softness)

        def work(coarse: Planes) -> Planes:
            gray = prepare(coarse)
            return smooth.guided_by(smooth.reduced(np.concatenate([gray, gray * gray]), further), own, softness)

        return self._enlarged(factor, further, reach, ("guided", own, softness), work)

    @property
    def rough(self) -> bool:
        """Whether what comes out may be a little less exact: it is seen for a moment."""
        return self.view is not None and self.view.rough

    def _further(self, sigma: float) -> int:
        """By how much more what a blur works on may be reduced."""
        return smooth.rough_factor_for(sigma) if self.rough else 1

    def kept(self, name: tuple[Any, ...], make: Callable[[], Any]) -> Any:
        """What depends on this place and ``name`` and not on what comes in: kept from one rough picture to the next."""
        if not self.rough or self.ground is None:
            return make()
        return self.ground.memo((*name, self.ground.framing, self.scale, self.rect), make)

    def _enlarged(
        self, factor: int, further: int, reach: int, name: tuple[Any, ...], work: Callable[[Planes], Planes]
    ) -> Planes:
        """What ``work``, which may reduce it ``further``, makes of the coarse input; enlarged."""

        def made(coarse: smooth.Coarse) -> smooth.Coarse:
            x, y = coarse.x / further + reach, coarse.y / further + reach
            return smooth.Coarse(work(coarse.planes), x, y, coarse.across / further, coarse.down / further)

        margin = (reach + smooth.AROUND + (further > 1)) * further
        return smooth.enlarge(self.coarse(factor, margin, name, made), self.rect)

    def coarse(
        self, factor: int, margin: int, name: tuple[Any, ...], work: Callable[[smooth.Coarse], smooth.Coarse]
    ) -> smooth.Coarse:
        """What ``work`` makes of the coarse input with a margin of coarse pixels; ``name`` tells what that is.

        Of a small coarse picture and of a view in a drag it is made once for all regions.
        """
        assert self.ground is not None
        width, height = self.ground.framing.size(self.scale)
        key: tuple[Any, ...] = (self.chain, self.scale, factor, *name)
        if self.view is not None:
            region, keep = replace(self, rect=self.view.rect), self.view.once
        elif width * height <= _WHOLE * factor * factor:
            region, keep = replace(self, rect=Rect(0, 0, width, height)), self.ground.memo
        else:
            region, keep = self, None

        def make() -> smooth.Coarse:
            return work(region.around(factor, margin))

        return make() if keep is None else keep(key, make)


def blur_margin(sigma: float) -> int:
    """The margin that `Place.blurred` needs."""
    return smooth.reach(sigma) if smooth.factor_for(sigma) == 1 else 0


def guided_margin(sigma: float) -> int:
    """The margin that `Place.guided` needs."""
    return 2 * smooth.reach(sigma) if smooth.factor_for(sigma) == 1 else 0
