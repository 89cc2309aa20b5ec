"""Glow and flare: light from a point, spreading in the lens, with ghosts along the line through the picture's middle.

Light is added, not painted over: ``1 − (1 − v)(1 − s)`` on encoded values (screen, W3C Compositing and Blending
Level 1), so that nothing clips. How glow falls off and where ghosts lie are our own values, set by eye.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import Colour, ink, length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
# Ghosts: how far along the line from the light (0) through the middle (1), size and strength of each
_GHOSTS = np.array([(0.55, 0.22, 0.5), (0.8, 0.08, 0.8), (1.25, 0.14, 0.7), (1.5, 0.3, 0.35), (1.9, 0.11, 0.6)])


class Flare(Pass):
    """Light that scatters."""

    kind: ClassVar[str] = "flare"
    label: ClassVar[str] = "Glow and flare"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Light from a point, with its ghosts"
    use: ClassVar[str] = "For light that looks into the lens"
    beware: ClassVar[str] = "It has to come from a light that is there"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "low sun": {"size": 160.0, "brightness": 80.0, "ghosts": 25.0, "tint": "#ffe6b8"},
        "lamp": {"size": 60.0, "brightness": 110.0, "ghosts": 0.0, "tint": "#fff2d8"},
        "with its ghosts": {"size": 120.0, "brightness": 90.0, "ghosts": 70.0, "tint": "#fff4e0"},
        "without colour": {"size": 120.0, "brightness": 123.0, "ghosts": 20.0, "tint": "#ffffff"},
    }
    pointwise: ClassVar[bool] = False

    x: float = number(25, -1000, 1000, "%", "Across", "Where the light is", decimals=2)
    y: float = number(20, -1000, 1000, "%", "Down", "Where the light is", decimals=2)
    size: float = length(120, 5, 2000, "Size", "Of the glow", step=5)
    brightness: float = number(70, 0, 200, "%", "Brightness", "Of the glow")
    ghosts: float = number(0, 0, 100, "%", "Ghosts", "How strong the reflections in the lens are")
    tint: Colour = ink("#fff4e0", "Colour", "Of the light")

    def placed(self) -> str:
        return "point"

    def apply(self, planes: Planes, place: Place) -> Planes:
        rect, ground = place.rect, place.ground
        assert ground is not None
        rgb = colour.ink_of(self.tint, place.space)
        grays = len(planes) == 1 and not self.colours()
        source = planes if grays else colour.in_colour(planes)
        out = np.empty_like(source)
        width, height = ground.framing.photo
        m, longer = ground.to_photo, max(width, height)
        lx, ly = self.x / 100 * width, self.y / 100 * height
        spots = np.stack(
            [
                lx + _GHOSTS[:, 0] * (width / 2 - lx),
                ly + _GHOSTS[:, 0] * (height / 2 - ly),
                _GHOSTS[:, 1] * self.size / 1000 * longer,
                _GHOSTS[:, 2] * self.ghosts / 100 * 0.35,
            ],
            1,
        )
        shine(
            source, out, len(source), rect.width, rect.height, rect.x, rect.y, m.a, m.b, m.c, m.d, m.e, m.f,
            lx, ly, 1000 / (self.size * longer), self.brightness / 100, np.ascontiguousarray(spots), len(spots),
            np.array(rgb, np.float32),
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return len(set(colour.parse_hex(self.tint))) > 1


@kernel(
    "f4* src, f4* out, i8 c, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c0, f8 d, f8 e, f8 g, f8 lx, f8 ly, f8 per, "
    "f8 bright, f8* spots, i8 n, f4* tint"
)
def shine(src, out, c, w, h, x0, y0, a, b, c0, d, e, g, lx, ly, per, bright, spots, n, tint):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            px, py = a * u + b * v + c0, d * u + e * v + g
            away = ((px - lx) * (px - lx) + (py - ly) * (py - ly)) * per * per
            light = bright / ((1.0 + 4.0 * away) * (1.0 + 0.25 * away))
            for k in range(n):
                strength = spots[k * 4 + 3]
                if strength > 0.0:
                    dx, dy = px - spots[k * 4], py - spots[k * 4 + 1]
                    t = np.sqrt(dx * dx + dy * dy) / spots[k * 4 + 2]
                    # A disc a little brighter towards its rim, with a soft edge.
                    light += strength * (0.6 + 0.4 * t) * min(max((1.0 - t) * 12.0, 0.0), 1.0)
            s = f(min(light, 1.0))
            for k in range(c):
                at = k * w * h + y * w + x
                out[at] = f(1.0) - (f(1.0) - src[at]) * (f(1.0) - s * tint[k])
