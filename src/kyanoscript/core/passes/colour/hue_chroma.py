"""Hue and chroma: the photograph's colours turned, strengthened or held back, in Oklch (Ottosson 2020).

A colour that would leave the display's range gives up chroma until it fits; hue and lightness hold.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import encoded_of, light_of
from kyanoscript.core.kernel import helper, kernel
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
            planes, out, out[0].size, float(np.cos(turn)), float(np.sin(turn)), self.chroma / 100, spare, bend
        )
        return out


@helper
def _cube_root(v):
    return power(max(v, f(0.0)), f(0.3333333433))


@kernel("f4* gray, f4* out, i8 n, f4 bend")
def lighten_gray(gray, out, n, bend):
    for k in range(n):
        lightness = power(_cube_root(light_of(gray[k])), bend)
        out[k] = encoded_of(lightness * lightness * lightness)


@kernel("f4* rgb, f4* out, i8 n, f4 cosine, f4 sine, f4 chroma, f4 spare, f4 bend")
def turn_and_stretch(rgb, out, n, cosine, sine, chroma, spare, bend):
    for k in range(n):
        r, g, b = light_of(rgb[k]), light_of(rgb[n + k]), light_of(rgb[n + n + k])
        m1 = _cube_root(f(0.4122214708) * r + f(0.5363325363) * g + f(0.0514459929) * b)
        m2 = _cube_root(f(0.2119034982) * r + f(0.6806995451) * g + f(0.1073969566) * b)
        m3 = _cube_root(f(0.0883024619) * r + f(0.2817188376) * g + f(0.6299787005) * b)
        lightness = f(0.2104542553) * m1 + f(0.7936177850) * m2 - f(0.0040720468) * m3
        a = f(1.9779984951) * m1 - f(2.4285922050) * m2 + f(0.4505937099) * m3
        c = f(0.0259040371) * m1 + f(0.7827717662) * m2 - f(0.8086757660) * m3
        much = np.sqrt(a * a + c * c)
        by = f(1.0) + chroma * max(f(1.0) - spare * much, f(0.0))
        a, c = by * (cosine * a - sine * c), by * (sine * a + cosine * c)
        lightness = power(min(max(lightness, f(0.0)), f(1.0)), bend)
        gray = lightness * lightness * lightness
        keep = f(1.0)
        r, g, b = gray, gray, gray
        for _ in range(4):  # less chroma until it fits; the last rest is taken straight towards gray
            a, c = keep * a, keep * c
            m1 = lightness + f(0.3963377774) * a + f(0.2158037573) * c
            m2 = lightness - f(0.1055613458) * a - f(0.0638541728) * c
            m3 = lightness - f(0.0894841775) * a - f(1.2914855480) * c
            m1, m2, m3 = m1 * m1 * m1, m2 * m2 * m2, m3 * m3 * m3
            r = f(4.0767416621) * m1 - f(3.3077115913) * m2 + f(0.2309699292) * m3
            g = -f(1.2684380046) * m1 + f(2.6097574011) * m2 - f(0.3413193965) * m3
            b = -f(0.0041960863) * m1 - f(0.7034186147) * m2 + f(1.7076147010) * m3
            low, high = min(r, min(g, b)), max(r, max(g, b))
            keep = f(1.0)
            keep = min(keep, gray / max(gray - low, f(1e-9))) if low < f(0.0) else keep
            keep = min(keep, (f(1.0) - gray) / max(high - gray, f(1e-9))) if high > f(1.0) else keep
        out[k] = encoded_of(min(max(gray + keep * (r - gray), f(0.0)), f(1.0)))
        out[n + k] = encoded_of(min(max(gray + keep * (g - gray), f(0.0)), f(1.0)))
        out[n + n + k] = encoded_of(min(max(gray + keep * (b - gray), f(0.0)), f(1.0)))
