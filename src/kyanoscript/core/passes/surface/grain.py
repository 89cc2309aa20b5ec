"""Grain: noise that belongs to the picture, not to the screen.

Each grain has a place on a lattice that lies on the print (see `kyanoscript.core.kernel.noise`), so that the same grain
is there whatever region is rendered. Clumped grains gather where a coarser noise is high. Where a pixel holds many
grains (a preview) σ falls as it does when pixels are averaged.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.noise import noise_at
from kyanoscript.core.params import choice, length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_KINDS = ("gaussian", "uniform", "clumped")
_TONES = ("even", "mids", "darks")


class Grain(Pass):
    """Film grain."""

    kind: ClassVar[str] = "grain"
    label: ClassVar[str] = "Grain"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Noise like the grain of film"
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing

    amount: float = number(6, 0, 60, "%", "Amount", "Standard deviation on a mid gray, of the way from black to white")
    size: float = length(0.6, 0.1, 10, "Size", "From grain to grain", step=0.1)
    softness: float = number(30, 0, 100, "%", "Softness", "How far grains run into each other")
    spread: Literal["gaussian", "uniform", "clumped"] = choice(
        "gaussian", (("gaussian", "Gaussian"), ("uniform", "uniform"), ("clumped", "clumped")), "Kind"
    )
    colour: float = number(0, 0, 100, "%", "Colour", "0: the same in all channels; 100: each its own")
    tones: Literal["even", "mids", "darks"] = choice(
        "mids", (("even", "even"), ("mids", "mid-tones most"), ("darks", "darks most")), "By tone"
    )
    seed: int = number(1, 1, 9999, "", "Seed", "Another number, other grain")

    def apply(self, planes: Planes, place: Place) -> Planes:
        # Pixels from grain to grain; where pixels are larger than grains the lattice is that of the pixels.
        spacing = place.pixels(self.size)
        each = max(spacing, 1.0)
        sigma = self.amount / 100 * min(1.0, spacing)
        if sigma == 0:
            return planes
        source = colour.in_colour(planes) if self.colour > 0 else planes
        out = np.empty_like(source)
        reach = 0.9 + 0.6 * self.softness / 100  # lattice steps: never beyond the nine points around a pixel
        lay(
            source, out, len(source), place.rect.width, place.rect.height, place.rect.x, place.rect.y, 1 / each,
            1 / reach**2, sigma, _KINDS.index(self.spread), self.colour / 100, _TONES.index(self.tones), self.seed,
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return self.colour > 0


@kernel(
    "f4* src, f4* out, i8 c, i8 w, i8 h, i8 x0, i8 y0, f8 per, f4 square, f4 sigma, i8 spread, f4 colour, i8 tones, "
    "i8 seed"
)
def lay(src, out, c, w, h, x0, y0, per, square, sigma, spread, colour, tones, seed):
    uniform = spread == 1
    shared = np.sqrt(f(1.0) - colour * colour)
    for y in range(h):
        v = (np.float64(y0 + y) + 0.5) * per - 0.5
        for x in range(w):
            u = (np.float64(x0 + x) + 0.5) * per - 0.5
            amount = sigma
            if spread == 2:  # grains gather where a noise four times as coarse is high
                gathered = f(1.0) + f(0.55) * noise_at(u * 0.25, v * 0.25, seed + 7001, f(0.45), False)
                amount *= max(gathered, f(0.0)) * f(0.8755)
            same = noise_at(u, v, seed, square, uniform) if colour < f(1.0) else f(0.0)
            for k in range(c):
                at = k * w * h + y * w + x
                level = src[at]
                grain = same
                if colour > f(0.0):
                    own = noise_at(u, v, seed + 101 * (k + 1), square, uniform)
                    grain = same * shared + own * colour
                if tones == 1:
                    grain *= f(4.0) * level * (f(1.0) - level)
                elif tones == 2:
                    grain *= min(f(2.0) * (f(1.0) - level), f(1.25))
                out[at] = min(max(level + amount * grain, f(0.0)), f(1.0))
