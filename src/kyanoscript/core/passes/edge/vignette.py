"""Vignette: corners darker or lighter, by an oval that can be moved, turned and made rounder.

In stops of light, as less light falls there: the darkening at full is ``amount`` stops, from where the oval's fading
begins to its rim.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Self

import numpy as np

from kyanoscript.core.colour import to_encoded_planes, to_light_planes
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.fastmath import exp2
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.stencil.mask import joined
from kyanoscript.core.stencil.shapes import Oval

f = np.float32


class Vignette(Pass):
    """Dark or light corners."""

    kind: ClassVar[str] = "vignette"
    label: ClassVar[str] = "Vignette"
    stage: ClassVar[str] = "edge"
    about: ClassVar[str] = "Corners darker, or lighter"
    use: ClassVar[str] = "To lead the eye inward"
    beware: ClassVar[str] = "It has gone too far when one sees the oval"
    pointwise: ClassVar[bool] = False
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "soft corners": {"amount": -0.8, "width": 1250.0, "height": 950.0, "soft": 75.0},
        "burnt corners": {"amount": -2.0, "width": 1150.0, "height": 850.0, "soft": 55.0},
        "light rim": {"amount": 1.2, "width": 1150.0, "height": 850.0, "soft": 60.0},
    }

    amount: float = number(-1.2, -4, 4, "stops", "Amount", "Below 0 darkens, above 0 lightens", step=0.1, decimals=2)
    x: float = number(50, -1000, 1000, "%", "Across", "Middle of the oval", decimals=2)
    y: float = number(50, -1000, 1000, "%", "Down", "Middle of the oval", decimals=2)
    width: float = length(1200, 1, 20_000, "Width", "Diameter at which all of it acts", step=5)
    height: float = length(900, 1, 20_000, "Height", "Diameter at which all of it acts", step=5)
    turn: float = number(0, -180, 180, "°", "Turn", "Clockwise", decimals=1)
    soft: float = number(65, 0, 100, "%", "Softness", "How much of the radius the fading takes")

    def placed(self) -> str:
        return "oval"

    def apply(self, planes: Planes, place: Place) -> Planes:
        assert place.ground is not None
        oval = Oval(x=self.x, y=self.y, width=self.width, height=self.height, turn=self.turn, soft=self.soft)
        outside = 1 - joined((oval,), place.rect, place.ground)
        light = to_light_planes(planes)
        out = np.empty_like(light)
        fall(light, outside, out, len(planes), outside.size, self.amount)
        return np.minimum(to_encoded_planes(out), 1)

    def suited(self, shape: float) -> Self:
        """As far from the middles of the sides as on a print of 3 to 2; on a square a circle from an oval."""
        along, down = self.width / 1000, self.height / (1000 / _TOLD_FOR)  # of the longer side, and of the shorter
        longer = max(shape, 1 / shape)
        share, middle = min(math.log(longer) / math.log(_TOLD_FOR), 1.0), math.sqrt(along * down)
        major = 1000 * middle * (along / middle) ** share
        minor = 1000 / longer * middle * (down / middle) ** share
        width, height = (major, minor) if shape >= 1 else (minor, major)
        return self.with_(width=round(width, 1), height=round(height, 1))

    def remarks(self) -> str:
        """Says when the falloff is steep enough to be seen as a shape."""
        return "The oval may be seen as a shape" if self.steepness() > VISIBLE else ""

    def steepness(self) -> float:
        """Stops to a tenth of the longer side."""
        radius = min(self.width, self.height) / 2 * self.soft / 100
        return abs(self.amount) / max(radius, 1e-6) * 100


_TOLD_FOR = 1.5  # width over height of the print that sizes are told for
VISIBLE = 1.2  # stops to a tenth of the longer side, set by eye: steeper falling light shows its outline


@kernel("f4* light, f4* outside, f4* out, i8 c, i8 n, f4 stops")
def fall(light, outside, out, c, n, stops):
    for p in range(c):
        for k in range(n):
            out[p * n + k] = light[p * n + k] * exp2(stops * outside[k])
