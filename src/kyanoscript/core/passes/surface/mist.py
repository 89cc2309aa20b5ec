"""Mist: the upper or lower part of the picture, or all of it, veiled; uneven if it is to drift."""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.noise import clouds_at
from kyanoscript.core.params import Colour, choice, ink, length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_PART = ("part", "upper", "lower")


class Mist(Pass):
    """A veil that thickens with distance from its edge."""

    kind: ClassVar[str] = "mist"
    label: ClassVar[str] = "Mist"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "A veil over a part of the picture"
    use: ClassVar[str] = "To open a crowded background, or lay depth between near and far"
    beware: ClassVar[str] = "An even edge shows: let it drift in patches"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "morning over water": {
            "amount": 65.0,
            "part": "upper",
            "edge": 62.0,
            "transition": 45.0,
            "uneven": 35.0,
            "patches": 180.0,
        },
        "ground fog": {
            "amount": 75.0,
            "part": "lower",
            "edge": 55.0,
            "transition": 30.0,
            "uneven": 50.0,
            "patches": 140.0,
        },
        "haze all over": {"amount": 35.0, "part": "all", "uneven": 15.0, "patches": 400.0},
        "smoke": {"amount": 60.0, "part": "all", "uneven": 95.0, "patches": 110.0, "tint": "#b9b4ae"},
    }
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing

    amount: float = number(70, 0, 100, "%", "Amount", "How much of the picture it hides where it is thickest")
    part: Literal["upper", "lower", "all"] = choice(
        "upper", (("upper", "upper part"), ("lower", "lower part"), ("all", "everywhere")), "Part"
    )
    edge: float = number(60, -100, 200, "%", "Edge", "How far down the picture its edge lies", when=_PART)
    transition: float = number(50, 1, 200, "%", "Transition", "Over how much of the height it thickens", when=_PART)
    uneven: float = number(30, 0, 100, "%", "Unevenness", "How far it drifts in patches")
    patches: float = length(150, 5, 1000, "Patches", "How large they are", step=5)
    tint: Colour = ink("#dfe2e4", "Colour", "Of the mist")
    seed: int = number(1, 1, 9999, "", "Seed", "Another number, other patches")

    def apply(self, planes: Planes, place: Place) -> Planes:
        rect, ground = place.rect, place.ground
        assert ground is not None
        rgb = np.array(colour.ink_of(self.tint, place.space))
        grays = len(planes) == 1 and len(set(rgb)) == 1
        source = planes if grays else colour.in_colour(planes)
        out = np.empty_like(source)
        m, height = ground.to_photo, ground.framing.photo[1]
        way = {"upper": -1.0, "lower": 1.0, "all": 0.0}[self.part] / (self.transition / 100)
        veil(
            source, out, len(source), rect.width, rect.height, rect.x, rect.y, m.d / height, m.e / height,
            m.f / height - self.edge / 100, way, self.amount / 100, self.uneven / 100,
            1 / max(place.pixels(self.patches), 1e-3), self.seed, *(float(v) for v in rgb),
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return len(set(colour.parse_hex(self.tint))) > 1


@kernel(
    "f4* src, f4* out, i8 c, i8 w, i8 h, i8 x0, i8 y0, f8 dx, f8 dy, f8 d0, f8 way, f4 amount, f4 uneven, f8 per, "
    "i8 seed, f4 r, f4 g, f4 b"
)
def veil(src, out, c, w, h, x0, y0, dx, dy, d0, way, amount, uneven, per, seed, r, g, b):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            t = f(1.0)
            if way != 0.0:
                t = min(max(f((u * dx + v * dy + d0) * way), f(0.0)), f(1.0))
                t = t * t * (f(3.0) - t - t)
            if uneven > f(0.0):
                t *= min(max(f(1.0) + uneven * (clouds_at(u * per, v * per, seed) - f(0.35)), f(0.0)), f(1.0))
            t *= amount
            for k in range(c):
                at = k * w * h + y * w + x
                tint = r if k == 0 else (g if k == 1 else b)
                out[at] = src[at] + t * (tint - src[at])
