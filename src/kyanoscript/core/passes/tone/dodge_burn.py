"""Dodge and burn: lighter and darker by strokes of a big soft brush, stroke upon stroke.

Each stroke has an exposure and a range of tones; strokes on the same spot add up. An exposure E bends a tone v to
``v^(2^−E)``: black and white stay, and nothing clips however often one goes over it. The ranges share out the tones as
(1 − v)², 2v(1 − v) and v² (Bernstein's polynomials), doubled so that a range acts fully where it is strongest.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core.colour import luma
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.fastmath import exp2, power
from kyanoscript.core.params import Declared, choice, length, listed, number
from kyanoscript.core.passes.base import Pass, scaled
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.stencil import brush
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.shapes import Dot, dots

f = np.float32
_RANGES = ("shadows", "mids", "highlights")


class Exposing(Declared):
    """One stroke."""

    label: ClassVar[str] = "Brush"

    points: tuple[Dot, ...] = dots("Way", "Places of the brush; a third number is the pressure, 0…1")
    exposure: float = number(50, -100, 100, "%", "Exposure", "Above 0 dodges (lightens), below 0 burns (darkens)")
    tones: Literal["shadows", "mids", "highlights"] = choice(
        "mids", (("shadows", "shadows"), ("mids", "mids"), ("highlights", "highlights")), "Tones", "Where it acts most"
    )
    size: float = length(120, 0.1, 2000, "Size", "Diameter of the brush", step=1)
    hardness: float = number(0, 0, 100, "%", "Hardness", "How much of the brush has its full effect")
    flow: float = number(50, 1, 100, "%", "Flow", "How much is laid down on the way of one radius")


class DodgeBurn(Pass):
    """Strokes that lighten and darken."""

    kind: ClassVar[str] = "dodge-burn"
    label: ClassVar[str] = "Dodge and burn"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Lighter and darker by hand"
    use: ClassVar[str] = "To lead the eye: lighten what counts, darken what distracts"
    beware: ClassVar[str] = "One heavy stroke shows; several light ones do not"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "as it was drawn": {"amount": 100.0},
        "half as far": {"amount": 50.0},
        "farther": {"amount": 160.0},
    }
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "strokes"

    strokes: tuple[Exposing, ...] = listed("strokes", (Exposing,), "Strokes", "One upon the other")
    amount: float = number(100, 0, 200, "%", "Amount", "How far all strokes act together")

    def apply(self, planes: Planes, place: Place) -> Planes:
        if not self.strokes:
            return planes
        *before, last = self.strokes  # of which the last may be the one that is being drawn
        if place.rough and before:
            laid = place.kept(("exposures", *before), lambda: _exposures(before, place))
            exposures = laid + _exposures([last], place)
        else:
            exposures = _exposures(self.strokes, place)
        if not exposures.any():
            return planes
        gray = luma(planes)
        after = np.empty_like(gray)
        expose(gray, exposures, after, gray.size, self.amount / 100)
        return scaled(planes, gray, after)


def _exposures(strokes: Sequence[Exposing], place: Place) -> Planes:
    """Exposure in stops ``(3, h, w)`` for shadows, mids and highlights."""
    ground = place.ground
    assert ground is not None
    groups: dict[int, list[Exposing]] = {}
    for stroke in strokes:
        groups.setdefault(brush.stroke_factor(stroke, ground.longer), []).append(stroke)
    parts = (
        _expose(group, place.rect, ground)
        if factor == 1
        else brush.enlarged(("exposing", tuple(group)), functools.partial(_expose, group), place.rect, ground, factor)
        for factor, group in groups.items()
    )
    return functools.reduce(np.add, parts)


def _expose(strokes: list[Exposing], rect: Rect, ground: Ground) -> Planes:
    out = np.zeros((3, rect.height, rect.width), np.float32)
    for stroke in strokes:
        found = brush.cover(stroke.points, stroke.size, stroke.hardness, stroke.flow, rect, ground)
        if found is not None:
            y, x, covered = found
            h, w = covered.shape
            out[_RANGES.index(stroke.tones), y : y + h, x : x + w] += covered * f(stroke.exposure / 100)
    return out


@kernel("f4* gray, f4* exposures, f4* out, i8 n, f4 amount")
def expose(gray, exposures, out, n, amount):
    for k in range(n):
        v = min(max(gray[k], f(0.0)), f(1.0))
        dark = f(1.0) - v
        e = exposures[k] * dark * dark + exposures[n + k] * f(2.0) * v * dark + exposures[n + n + k] * v * v
        e = min(max(f(2.0) * amount * e, f(-6.0)), f(6.0))
        out[k] = power(v, exp2(-e))
