"""Lines: even stripes laid over the print, dark and white.

Their edges are exact shares of a pixel, or softened by a straight ramp; where a pixel holds many lines it is their
mean.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.blend import BlendMode
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass, by_strength, laid_over
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32


class Lines(Pass):
    """Stripes."""

    kind: ClassVar[str] = "lines"
    label: ClassVar[str] = "Lines"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Even lines over the print"
    use: ClassVar[str] = "For screens, blinds and the lines of a night view"
    beware: ClassVar[str] = "Close lines and the screen's pixels make patterns: judge at actual size"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "night view, level": {
            "pitch": 3.3,
            "duty": 50.0,
            "angle": 0.0,
            "soft": 0.0,
            "blend": "soft-light",
            "strength": 53.0,
        },
        "engraved, aslant": {
            "pitch": 2.4,
            "duty": 45.0,
            "angle": 45.0,
            "soft": 30.0,
            "blend": "multiply",
            "strength": 35.0,
        },
        "blinds": {"pitch": 60.0, "duty": 40.0, "angle": -12.0, "soft": 60.0, "blend": "multiply", "strength": 45.0},
    }
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing
    samples: ClassVar[dict[str, Any]] = {"pitch": 12.0}

    pitch: float = length(3.3, 0.3, 200, "Pitch", "From line to line", step=0.1)
    duty: float = number(50, 0, 100, "%", "Dark share", "How much of the pitch is dark")
    angle: float = number(0, -90, 90, "°", "Angle", "0: level lines", decimals=1)
    soft: float = number(0, 0, 100, "%", "Softness", "Of their edges")
    strength: float = by_strength(50)
    blend: BlendMode = laid_over("soft-light")

    def placed(self) -> str:
        return "angle"

    def apply(self, planes: Planes, place: Place) -> Planes:
        rect = place.rect
        out = np.empty((1, rect.height, rect.width), np.float32)
        pitch = max(place.pixels(self.pitch), 1e-3)
        a = math.radians(self.angle)
        # How wide a pixel is across the lines; half a ramp on either side of an edge.
        wide = (abs(math.sin(a)) + abs(math.cos(a))) / pitch
        ramp = self.soft / 100 * min(self.duty, 100 - self.duty) / 100
        stripes(
            out, rect.width, rect.height, rect.x, rect.y, -math.sin(a) / pitch, math.cos(a) / pitch,
            self.duty / 100, max(wide, ramp),
        )  # fmt: skip
        return out

    def grays(self) -> bool:
        return True


@helper
def white_until(t, duty):
    """How much white there is from 0 to ``t`` pitches, where the dark part of each comes first."""
    whole = np.floor(t)
    return whole * (1.0 - duty) + max(t - whole - duty, 0.0)


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 across, f8 down, f8 duty, f8 wide")
def stripes(out, w, h, x0, y0, across, down, duty, wide):
    for y in range(h):
        for x in range(w):
            t = (np.float64(x0 + x) + 0.5) * across + (np.float64(y0 + y) + 0.5) * down
            share = (white_until(t + wide / 2, duty) - white_until(t - wide / 2, duty)) / wide
            out[y * w + x] = f(min(max(share, 0.0), 1.0))
