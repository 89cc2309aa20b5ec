"""Where in a picture a pass works, and what it may look at there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from kyanoscript.core import smooth
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.stencil.ground import Ground

_WHOLE = 120_000  # pixels: coarse pictures up to this size are worked out whole and kept


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
        own = smooth.coarse_sigma(sigma, factor)
        reach = smooth.reach(own)
        if factor == 1:
            return smooth.gaussian(prepare(self.inner(planes, reach)), own)
        return self._enlarged(factor, reach, ("blurred", own), lambda p: smooth.gaussian(prepare(p), own))

    def guided(self, planes: Planes, sigma: float, softness: float, prepare: Callable[[Planes], Planes]) -> Planes:
        """The guided filter's gain and offset ``(2, h, w)`` of the input, made gray by ``prepare``.

        The pass's margin must be at least `guided_margin`. Returns planes of the region without margin.
        """
        factor = smooth.factor_for(sigma)
        own = sigma / factor
        reach = 2 * smooth.reach(own)
        if factor == 1:
            return smooth.guided(prepare(self.inner(planes, reach)), own, softness)
        name = ("guided", own, softness)
        return self._enlarged(factor, reach, name, lambda p: smooth.guided(prepare(p), own, softness))

    def _enlarged(self, factor: int, reach: int, name: tuple[Any, ...], work: Callable[[Planes], Planes]) -> Planes:
        """What ``work`` makes of the coarse input, enlarged; of a small coarse picture it is made once."""
        assert self.ground is not None
        width, height = self.ground.framing.size(self.scale)
        whole = width * height <= _WHOLE * factor * factor
        region = replace(self, rect=Rect(0, 0, width, height)) if whole else self

        def make() -> smooth.Coarse:
            coarse = region.around(factor, reach + smooth.AROUND)
            made = work(coarse.planes)
            return smooth.Coarse(made, coarse.x + reach, coarse.y + reach, coarse.across, coarse.down)

        made = self.ground.memo((self.chain, self.scale, factor, *name), make) if whole else make()
        return smooth.enlarge(made, self.rect)


def blur_margin(sigma: float) -> int:
    """The margin that `Place.blurred` needs."""
    return smooth.reach(sigma) if smooth.factor_for(sigma) == 1 else 0


def guided_margin(sigma: float) -> int:
    """The margin that `Place.guided` needs."""
    return 2 * smooth.reach(sigma) if smooth.factor_for(sigma) == 1 else 0
