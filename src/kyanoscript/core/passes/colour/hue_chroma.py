"""Hue and chroma: the photograph's colours turned, strengthened or held back, in Oklch (Ottosson 2020).

A colour that would leave the display's range gives up chroma until it fits; hue and lightness hold.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import chroma_kept, encoded_of, in_spaces, light_of, light_rgb_of, oklab_of, shown_of
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.fastmath import power
from kyanoscript.core.params import number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_FULL = 0.25  # Oklch chroma that counts as wholly colourful


class HueChroma(Pass):
    """Hue, chroma and lightness in Oklch."""

    kind: ClassVar[str] = "hue-chroma"
    label: ClassVar[str] = "Hue and chroma"
    stage: ClassVar[str] = "colour"
    about: ClassVar[str] = "Colours turned, strengthened, held back"
    use: ClassVar[str] = "To hold colours back after toning, or strengthen dull ones before it"
    beware: ClassVar[str] = "Strong chroma breaks skies and skin into patches"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "colour held back": {"chroma": -35.0},
        "a breath of colour": {"chroma": -80.0},
        "gray of the same lightness": {"chroma": -100.0},
        "dull colours brought up": {"chroma": 40.0, "spare": 80.0},
        "rich": {"chroma": 25.0},
        "a touch warmer in hue": {"hue": -8.0},
    }
    samples: ClassVar[dict[str, Any]] = {"chroma": 45}

    hue: float = number(0, -180, 180, "°", "Hue", "Turns every hue by as many degrees")
    chroma: float = number(0, -100, 100, "%", "Chroma", "−100 leaves grays of the same lightness")
    spare: float = number(0, 0, 100, "%", "Spare the colourful", "Acts less on what is colourful already")
    lightness: float = number(0, -100, 100, "", "Lightness", "Keeps black and white where they are")

    def apply(self, planes: Planes, place: Place) -> Planes:
        out = np.empty_like(planes)
        bend = 2.0 ** (-self.lightness / 100)
        if len(planes) == 1:
            lighten_gray(planes, out, out.size, bend)
            return out
        turn = np.radians(self.hue)
        spare = self.spare / 100 / _FULL
        turn_and_stretch(
            planes,
            out,
            out[0].size,
            float(np.cos(turn)),
            float(np.sin(turn)),
            self.chroma / 100,
            spare,
            bend,
            place.space,
        )
        return out


@kernel("f4* gray, f4* out, i8 n, f4 bend")
def lighten_gray(gray, out, n, bend):
    for k in range(n):
        lightness = power(power(light_of(gray[k]), f(0.3333333333)), bend)
        out[k] = encoded_of(lightness * lightness * lightness)


@in_spaces("f4* rgb, f4* out, i8 n, f4 cosine, f4 sine, f4 chroma, f4 spare, f4 bend, f4* space")
def turn_and_stretch(numbers):
    def turn_and_stretch(rgb, out, n, cosine, sine, chroma, spare, bend, space):
        m = numbers(space)
        for k in range(n):
            lightness, a, c = oklab_of(rgb[k], rgb[n + k], rgb[n + n + k], m)
            much = np.sqrt(a * a + c * c)
            by = f(1.0) + chroma * max(f(1.0) - spare * much, f(0.0))
            a, c = by * (cosine * a - sine * c), by * (sine * a + cosine * c)
            lightness = power(min(max(lightness, f(0.0)), f(1.0)), bend)
            kept = chroma_kept(lightness, a, c, f(1.0) / max(by, f(1.0)), f(1.0001), 9, m)
            r, g, b = light_rgb_of(lightness, kept * a, kept * c, m)
            out[k], out[n + k], out[n + n + k] = shown_of(r), shown_of(g), shown_of(b)

    return turn_and_stretch
