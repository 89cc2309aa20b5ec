"""Toner bath: the silver of a print turned into something else, as far as depth and time allow.

Which silver goes first is common practice: sepia (bleach and sulphide) takes the lights first, since little silver is
bleached soonest; selenium and gold begin in the darks, where the grains are coarse; iron blue and copper take all tones
about evenly. How fast, and the colours of what silver becomes, are our own values, set by eye. A second bath finds only
the silver that the first has left, so that two baths one after the other give split tones.

Of silver of density D (0 paper, 1 the deepest black) a bath of time t has turned ``1 − exp(−t·r(D))``.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from kyanoscript.core.colour import in_spaces, oklab_of, rgb_of
from kyanoscript.core.kernel.fastmath import exp2
from kyanoscript.core.params import choice, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
# Hue (degrees of Oklch) and chroma of the toned silver in mid-tones, how much denser it is, and where it begins: the
# rate at paper and at the deepest black, per unit of time.
_BATHS = {
    "sepia": (62.0, 0.055, -0.06, 3.2, 0.25),
    "selenium": (18.0, 0.022, 0.14, 0.12, 2.6),
    "gold": (262.0, 0.03, 0.06, 0.5, 1.5),
    "iron-blue": (250.0, 0.062, 0.08, 1.3, 1.3),
    "copper": (42.0, 0.06, -0.04, 1.1, 1.1),
}
_FULL = 0.05  # Oklab chroma of a print whose silver is all gone


class TonerBath(Pass):
    """A print in a toner."""

    kind: ClassVar[str] = "toner-bath"
    label: ClassVar[str] = "Toner bath"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Silver turned by a bath, lights or darks first"

    toner: Literal["sepia", "selenium", "gold", "iron-blue", "copper"] = choice(
        "sepia",
        (
            ("sepia", "sepia: lights first"),
            ("selenium", "selenium: darks first"),
            ("gold", "gold: cool, darks first"),
            ("iron-blue", "iron blue"),
            ("copper", "copper"),
        ),
        "Toner",
        "What the silver becomes",
    )
    time: float = number(100, 0, 400, "%", "Time", "How long the print lies in the bath; 100: a usual time")
    depth: float = number(100, 0, 200, "%", "Depth", "How strong the colour of the toned silver is")

    def apply(self, planes: Planes, place: Place) -> Planes:
        hue, chroma, denser, lights, darks = _BATHS[self.toner]
        out = np.empty((3, *planes.shape[1:]), np.float32)
        angle = np.radians(hue)
        strength = chroma * self.depth / 100
        bathe(
            planes, out, len(planes), out[0].size, strength * np.cos(angle), strength * np.sin(angle), denser,
            lights * self.time / 100, darks * self.time / 100, _FULL,
            place.space,
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return True


@in_spaces("f4* rgb, f4* out, i8 c, i8 n, f4 a, f4 b, f4 denser, f4 lights, f4 darks, f4 full, f4* space")
def bathe(numbers):
    def bathe(rgb, out, c, n, a, b, denser, lights, darks, full, space):
        m = numbers(space)
        for k in range(n):
            g = rgb[k + n] if c == 3 else rgb[k]
            light, u, v = oklab_of(rgb[k], g, rgb[k + n + n] if c == 3 else rgb[k], m)
            density = min(max(f(1.0) - light, f(0.0)), f(1.0))
            left = max(f(1.0) - np.sqrt(u * u + v * v) / full, f(0.0))  # silver that no bath has taken yet
            turned = left * (f(1.0) - exp2(f(-1.442695) * (lights + (darks - lights) * density)))
            # Colour shows where there is silver and light to see it by.
            seen = turned * min(f(4.6) * density * max(light, f(0.0)), f(1.0))
            held = light - denser * turned * density * (f(1.0) - density * f(0.4)) * f(0.5)
            out[k], out[n + k], out[n + n + k] = rgb_of(max(held, f(0.0)), u + a * seen, v + b * seen, m)

    return bathe
