"""Local contrast: fine texture and broad modelling, each brought out or softened.

Each pixel goes away from, or towards, those of its neighbours that are nearly as bright (see
`kyanoscript.core.ranges`): first by the near ones, then, without what these have made, by those farther off. A brighter
or darker thing beside it does not count, so that no edge has a halo, however strong the pass is.

The first form parts the brightness by two guided filters into a broad base, what lies between the two bases, and the
finest detail; each part is multiplied.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import ranges
from kyanoscript.core.colour import luma
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import number
from kyanoscript.core.passes.base import Pass, form
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, guided_margin
from kyanoscript.core.tones import table

f = np.float32
_FINE, _BROAD = 1.4, 14.0  # thousandths of the longer side: our own, judged on the demo photographs
_FINE_EDGE, _BROAD_EDGE = 0.05, 0.04  # contrast of what counts as an edge
_MOST = 3.0  # how much a part is strengthened at 100
_MOST_NOW = 3.6  # the same in the second form, which leaves edges out
_SMOOTHED = 1.2  # times as wide the second form smooths what is fine, so that it smooths as much as the first
_TONES = 25  # of a response
_HARDLY = 1e-3  # so little contrast that nothing is held back
_SHARE = 0.85  # of a slope that may be taken back: see `kyanoscript.core.ranges.response`


class LocalContrast(Pass):
    """Fine and broad contrast, edge-aware."""

    kind: ClassVar[str] = "local-contrast"
    label: ClassVar[str] = "Local contrast"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Texture brought out, or smoothed away"
    use: ClassVar[str] = "To bring out texture, or smooth it away, without the edges"
    beware: ClassVar[str] = "Skies and skin grow gritty first; keep them out with a stencil"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "crisp": {"fine": 45.0, "broad": 0.0},
        "weathered wood and stone": {"fine": 80.0, "broad": 25.0},
        "modelled": {"fine": 10.0, "broad": 45.0},
        "smooth skin": {"fine": -55.0, "broad": 0.0},
        "as through a smeared lens": {"fine": -80.0, "broad": -20.0},
        "flat, as in haze": {"fine": 0.0, "broad": -50.0},
    }
    samples: ClassVar[dict[str, Any]] = {"fine": 70, "broad": 50}
    pointwise: ClassVar[bool] = False

    of: Literal[1, 2] = form("each edge with a faint halo", "no halo beside an edge, however strong it is")
    fine: float = number(30, -100, 100, "", "Fine", "Texture; below 0 smooth, as through a smeared lens")
    broad: float = number(0, -100, 100, "", "Broad", "Modelling of larger forms; below 0 flat")

    def margin(self, longer: float) -> int:
        if not self.fine and not self.broad:
            return 0
        fine = _FINE * _SMOOTHED if self.of > 1 and self.fine < 0 else _FINE
        sizes = (fine, _BROAD) if self.broad else (fine,)  # a broad one is made from a coarse picture: no margin
        needed = guided_margin if self.of == 1 else ranges.margin
        return max(needed(size / 1000 * longer) for size in sizes)

    def apply(self, planes: Planes, place: Place) -> Planes:
        base = place.inner(planes)
        if not self.fine and not self.broad:
            return base
        gray = luma(base)
        most = _MOST if self.of == 1 else _MOST_NOW
        by_fine, by_broad = (v / 100 * (most if v > 0 else 1) for v in (self.fine, self.broad))
        if self.of > 1:
            return self._moved(planes, base, gray, place, by_fine, by_broad)
        fine = place.guided(planes, place.pixels(_FINE), _FINE_EDGE, luma)  # broad contrast ends where it begins
        broad = place.guided(planes, place.pixels(_BROAD), _BROAD_EDGE, luma) if self.broad else fine
        out = np.empty_like(base)
        for k in range(len(base)):
            stretch(base[k], gray, fine, broad, out[k], gray.size, by_fine, by_broad)
        return out

    @staticmethod
    def _moved(planes: Planes, base: Planes, gray: Planes, place: Place, by_fine: float, by_broad: float) -> Planes:
        def gained(at: Planes, thousandths: float, by: float, beside: float) -> Planes:
            share = _SHARE * (1 - min(max(beside, 0.0), 1.5) / 3)  # the other takes some of the slope, too
            return ranges.gathered(place, planes, at, place.pixels(thousandths), _away(by, share), luma, True)

        gain = gained(gray, _FINE * _SMOOTHED if by_fine < 0 else _FINE, by_fine or _HARDLY, by_broad)
        if by_broad:  # of what is left without the near ones' part
            near = np.empty_like(gray)
            without(gray, gain, near, gray.size, 1 / (by_fine or _HARDLY))
            broad = gained(near, _BROAD, by_broad, by_fine)
            gain = np.add(gain, broad, out=gain) if by_fine else broad
        out = np.empty_like(base)
        for plane, to in zip(base, out, strict=True):
            without(plane, gain, to, gray.size, -1.0)
        return out


@functools.lru_cache(maxsize=64)
def _away(by: float, share: float) -> ranges.Response:
    """Away from its neighbours by so many times the difference; below 0 towards them."""
    away, one = ranges.near(_TONES)
    return ranges.response(by * away * one, share=share) if by > 0 else table(by * away * one)


@kernel("f4* plane, f4* gain, f4* out, i8 n, f4 share")
def without(plane, gain, out, n, share):
    for k in range(n):
        out[k] = min(max(plane[k] - share * gain[k], f(0.0)), f(1.0))


@kernel("f4* base, f4* gray, f4* fine, f4* broad, f4* out, i8 n, f4 by_fine, f4 by_broad")
def stretch(base, gray, fine, broad, out, n, by_fine, by_broad):
    if by_broad == f(0.0):
        for k in range(n):
            v = gray[k]
            out[k] = min(max(base[k] + by_fine * (v - fine[k] * v - fine[n + k]), f(0.0)), f(1.0))
    else:
        for k in range(n):
            v = gray[k]
            near, far = fine[k] * v + fine[n + k], broad[k] * v + broad[n + k]
            out[k] = min(max(base[k] + by_fine * (v - near) + by_broad * (near - far), f(0.0)), f(1.0))
