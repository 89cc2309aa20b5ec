"""Colour balance: shadows, mid-tones and highlights each moved along three axes.

Red–cyan, green–magenta, blue–yellow, as every darkroom enlarger's filters have them. The three ranges share out each
tone y of the encoded scale as (1 − y)², 2y(1 − y) and y² (Bernstein's polynomials: they sum to 1). Holding brightness
brings linear luminance back to what it was.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import encoded_of, in_colour, light_of, luminance_of
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_FULL = 0.35  # of the encoded scale: what 100 moves a channel by
_RANGES, _AXES = ("shadows", "mids", "highlights"), ("red", "green", "blue")


def _axis(group: str, to: str, away: str) -> Any:
    return number(0, -100, 100, "", to, f"Below 0 towards {away}", group=group)


class ColourBalance(Pass):
    """Three axes for shadows, mid-tones and highlights."""

    kind: ClassVar[str] = "colour-balance"
    label: ClassVar[str] = "Colour balance"
    stage: ClassVar[str] = "colour"
    about: ClassVar[str] = "Shadows, mids, highlights between opposite colours"
    use: ClassVar[str] = "To warm lights and cool darks, or take a cast out, tone by tone"
    beware: ClassVar[str] = "Pushed far in all three it only turns the whole print; begin with one"
    samples: ClassVar[dict[str, Any]] = {"highlights_red": 20, "highlights_blue": -30, "shadows_blue": 25}
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        # The check of the trade for a lith look (common practice, no source)
        "lith": dict(
            zip(
                [f"{r}_{a}" for r in _RANGES for a in _AXES],
                (7.0, 2.0, 15.0, 22.0, 0.0, -24.0, 5.0, -20.0, -30.0),
                strict=True,
            )
        ),
        "warm lights, cool darks": dict(
            zip(
                [f"{r}_{a}" for r in _RANGES for a in _AXES],
                (-10.0, 0.0, 14.0, 0.0, 0.0, 0.0, 10.0, 0.0, -16.0),
                strict=True,
            )
        ),
        "warm lights": {"highlights_red": 12.0, "highlights_blue": -16.0},
        "cool darks": {"shadows_red": -8.0, "shadows_blue": 12.0},
        "green mids, rose lights": {"mids_green": 10.0, "highlights_red": 8.0, "highlights_green": -6.0},
        "aged paper": {
            "highlights_red": 10.0,
            "highlights_green": 2.0,
            "highlights_blue": -22.0,
            "mids_red": 6.0,
            "mids_blue": -8.0,
        },
    }

    shadows_red: float = _axis("Shadows", "Cyan – red", "cyan")
    shadows_green: float = _axis("Shadows", "Magenta – green", "magenta")
    shadows_blue: float = _axis("Shadows", "Yellow – blue", "yellow")
    mids_red: float = _axis("Mids", "Cyan – red", "cyan")
    mids_green: float = _axis("Mids", "Magenta – green", "magenta")
    mids_blue: float = _axis("Mids", "Yellow – blue", "yellow")
    highlights_red: float = _axis("Highlights", "Cyan – red", "cyan")
    highlights_green: float = _axis("Highlights", "Magenta – green", "magenta")
    highlights_blue: float = _axis("Highlights", "Yellow – blue", "yellow")
    hold: bool = toggle(True, "Hold brightness", "Luminance stays what it was")

    def apply(self, planes: Planes, place: Place) -> Planes:
        if not self.colours() and len(planes) == 1:
            return planes
        planes = in_colour(planes)
        moves = np.array([[getattr(self, f"{r}_{a}") for r in _RANGES] for a in _AXES]) / 100 * _FULL
        out = np.empty_like(planes)
        balance(
            planes, out, out[0].size, np.ascontiguousarray(moves, np.float32), float(self.hold), place.space.numbers
        )
        return out

    def colours(self) -> bool:
        return any(len({getattr(self, f"{r}_{a}") for a in _AXES}) > 1 or not self.hold for r in _RANGES)


@kernel("f4* rgb, f4* out, i8 n, f4* moves, f4 hold, f4* m")
def balance(rgb, out, n, moves, hold, m):
    r0, r1, r2 = moves[0], moves[1], moves[2]
    g0, g1, g2 = moves[3], moves[4], moves[5]
    b0, b1, b2 = moves[6], moves[7], moves[8]
    for k in range(n):
        r, g, b = rgb[k], rgb[n + k], rgb[n + n + k]
        y = min(max(f(0.299) * r + f(0.587) * g + f(0.114) * b, f(0.0)), f(1.0))
        dark, light = (f(1.0) - y) * (f(1.0) - y), y * y
        mid = f(1.0) - dark - light
        was = luminance_of(light_of(r), light_of(g), light_of(b), m)
        r = light_of(max(r + r0 * dark + r1 * mid + r2 * light, f(0.0)))
        g = light_of(max(g + g0 * dark + g1 * mid + g2 * light, f(0.0)))
        b = light_of(max(b + b0 * dark + b1 * mid + b2 * light, f(0.0)))
        now = luminance_of(r, g, b, m)
        by = was / max(now, f(1e-6)) if hold > f(0.0) else f(1.0)
        out[k] = encoded_of(min(r * by, f(1.0)))
        out[n + k] = encoded_of(min(g * by, f(1.0)))
        out[n + n + k] = encoded_of(min(b * by, f(1.0)))
