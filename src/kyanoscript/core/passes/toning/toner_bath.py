"""Toner bath: the silver of a print turned into something else, as far as depth and time allow.

Which silver goes first is common practice: sepia (bleach and sulphide) takes the lights first, since little silver is
bleached soonest; selenium and gold begin in the darks, where the grains are coarse; iron blue and copper take all tones
about evenly. How fast, and the colours of what silver becomes, are our own values, set by eye. A second bath finds only
the silver that the first has left, so that two baths one after the other give split tones.

Of silver of density D (0 paper, 1 the deepest black) a bath of time t has turned ``1 − exp(−t·r(D))``.

What is toned is the silver on the paper, not the paper: the colour that the pass *Paper and tone* gives it is taken off
before, and laid beneath again. Baths that come before it in the run have taken ``1 − exp(−Σ t·r(D))`` of the silver.
Gold turns what sepia has made orange-red (silver sulphide takes gold in another colour than silver does; common
practice, no source; how red is our own). The first form finds both by the colour of what comes in, so that a tinted
paper counts as toned, and a second bath finds nothing left.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of, in_spaces, light_of, light_rgb_of, oklab_of, oklab_of_light, rgb_of
from kyanoscript.core.kernel.fastmath import exp2
from kyanoscript.core.params import choice, number
from kyanoscript.core.passes.base import Pass, form
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
_RED = (44.0, 0.085)  # gold on sepia: hue and chroma
_FULL = 0.05  # Oklab chroma of a print whose silver is all gone


class TonerBath(Pass):
    """A print in a toner."""

    kind: ClassVar[str] = "toner-bath"
    label: ClassVar[str] = "Toner bath"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Silver turned by a bath, lights or darks first"
    use: ClassVar[str] = "To turn the silver of a print; two baths one after the other split it"
    beware: ClassVar[str] = "A long first bath leaves nothing for the second"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "selenium, just deeper blacks": {"toner": "selenium", "time": 60.0, "depth": 60.0},
        "selenium, plum": {"toner": "selenium", "time": 200.0, "depth": 130.0},
        "sepia, the lights alone": {"toner": "sepia", "time": 35.0, "depth": 100.0},
        "sepia to the end": {"toner": "sepia", "time": 300.0, "depth": 110.0},
        "gold: cool and deep": {"toner": "gold", "time": 150.0, "depth": 100.0},
        "iron blue": {"toner": "iron-blue", "time": 100.0, "depth": 100.0},
        "copper, salmon": {"toner": "copper", "time": 120.0, "depth": 120.0},
    }

    of: Literal[1, 2] = form("the paper's tint counts as toned", "silver beneath the paper's colour; baths add up")
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
        if self.of > 1:
            self._tone(planes, out, place)
            return out
        bathe(
            planes, out, len(planes), out[0].size, strength * np.cos(angle), strength * np.sin(angle), denser,
            lights * self.time / 100, darks * self.time / 100, _FULL,
            place.space,
        )  # fmt: skip
        return out

    def _tone(self, planes: Planes, out: Planes, place: Place) -> None:
        paper = next((step.lies_on() for step in reversed(place.before) if step.lies_on()), "#ffffff")
        r, g, b = (float(v) for v in colour.to_light(np.array(colour.ink_of(paper, place.space))))
        baths = [step for step in place.before if isinstance(step, TonerBath)]
        lights, darks = self._rates()
        taken = _together(baths)
        sepia = [bath for bath in baths if bath.toner == "sepia"] if self.toner == "gold" else []
        red = _together(sepia)
        hue, chroma, denser, _, _ = _BATHS[self.toner]
        angle, strength = np.radians(hue), chroma * self.depth / 100
        red_angle, red_strength = np.radians(_RED[0]), _RED[1] * self.depth / 100
        bathe_silver(
            planes, out, len(planes), out[0].size, max(r, 1e-3), max(g, 1e-3), max(b, 1e-3),
            strength * np.cos(angle), strength * np.sin(angle), denser, lights, darks, taken[0], taken[1],
            red[0], red[1], red_strength * np.cos(red_angle), red_strength * np.sin(red_angle), place.space,
        )  # fmt: skip

    def _rates(self) -> tuple[float, float]:
        """How much it has turned at paper and at the deepest black, as an exponent."""
        _, _, _, lights, darks = _BATHS[self.toner]
        return lights * self.time / 100, darks * self.time / 100

    def colours(self) -> bool:
        return True


def _together(baths: Sequence[TonerBath]) -> tuple[float, float]:
    """How much several baths have turned, as an exponent; one that acts in part, in part."""
    rates = [[rate * bath.strength / 100 for rate in bath._rates()] for bath in baths]
    return sum(lights for lights, _ in rates), sum(darks for _, darks in rates)


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


@in_spaces(
    "f4* rgb, f4* out, i8 c, i8 n, f4 pr, f4 pg, f4 pb, f4 a, f4 b, f4 denser, f4 lights, f4 darks, f4 taken_lights, "
    "f4 taken_darks, f4 red_lights, f4 red_darks, f4 ra, f4 rb, f4* space"
)
def bathe_silver(numbers):
    def bathe_silver(
        rgb, out, c, n, pr, pg, pb, a, b, denser, lights, darks, taken_lights, taken_darks, red_lights, red_darks, ra,
        rb, space,
    ):  # fmt: skip
        m = numbers(space)
        e = f(-1.442695)
        for k in range(n):
            red, green = rgb[k], rgb[k + n] if c == 3 else rgb[k]
            blue = rgb[k + n + n] if c == 3 else rgb[k]
            # The silver alone, as if it lay on perfect white; what is lighter than the paper stays so.
            light, u, v = oklab_of_light(light_of(red) / pr, light_of(green) / pg, light_of(blue) / pb, m)
            density = min(max(f(1.0) - light, f(0.0)), f(1.0))
            left = exp2(e * (taken_lights + (taken_darks - taken_lights) * density))
            turned = left * (f(1.0) - exp2(e * (lights + (darks - lights) * density)))
            seen = min(f(4.6) * density * max(light, f(0.0)), f(1.0))
            held = light - denser * turned * density * (f(1.0) - density * f(0.4)) * f(0.5)
            # Gold on what sepia has made
            sulphide = f(1.0) - exp2(e * (red_lights + (red_darks - red_lights) * density))
            gilt = sulphide * (f(1.0) - exp2(e * (lights + (darks - lights) * density) * f(2.0)))
            u, v = u + a * turned * seen, v + b * turned * seen
            u, v = u + (ra * seen - u) * gilt, v + (rb * seen - v) * gilt
            if density > f(0.0):
                sr, sg, sb = light_rgb_of(max(held, f(0.0)), u, v, m)
                red = encoded_of(min(max(sr, f(0.0)), f(1.0)) * pr)
                green = encoded_of(min(max(sg, f(0.0)), f(1.0)) * pg)
                blue = encoded_of(min(max(sb, f(0.0)), f(1.0)) * pb)
            out[k], out[n + k], out[n + n + k] = red, green, blue

    return bathe_silver
