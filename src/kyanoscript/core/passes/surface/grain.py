"""Grain: noise that belongs to the picture, not to the screen.

Each grain has a place on a lattice that lies on the print (see `kyanoscript.core.kernel.noise`), so that the same grain
is there whatever region is rendered. Clumped grains gather where a coarser noise is high. Where a pixel holds many
grains (a preview) σ falls as it does when pixels are averaged, so that σ of the density times the root of the area
looked at stays the same (E. W. H. Selwyn, "A theory of graininess", The Photographic Journal 75, 1935).

Grain is silver, more of it here and less there: it lies in the density. How strong it is at each tone is told as a
change of density; in the darks it goes with the root of the density, as with grains that lie at random (H. Siedentopf,
"Über Körnigkeit, Dichteschwankungen und Vergrößerung photographischer Negative", Physikalische Zeitschrift 38, 1937;
from memory). What paper has no room for is cut off, and the whole is lightened or darkened, tone by tone, so that the
mean light is what it was. The first form adds the grain to the encoded tone.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import encoded_of, light_of
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import exp2
from kyanoscript.core.kernel.noise import noise_at
from kyanoscript.core.params import choice, length, number
from kyanoscript.core.passes.base import Pass, form
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.tones import table

f = np.float32
_KINDS = ("gaussian", "uniform", "clumped")
_TONES = ("even", "mids", "darks")
_STEPS = 256  # of the tables over tones
_SAMPLE, _SHARES = 192, 384  # pixels each way of grain that is looked at, and how many parts of it count
_GRAY = 0.5  # the tone at which `Grain.amount` is told
_FARTHEST = f(2.5)  # σ: the few grains beyond it would be holes in the white
_MOST = 0.7  # density: stronger grain would be black and white alone


class Grain(Pass):
    """Film grain."""

    kind: ClassVar[str] = "grain"
    label: ClassVar[str] = "Grain"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Noise like the grain of film"
    use: ClassVar[str] = "Late, at the size of the print: it ties tones together"
    beware: ClassVar[str] = "Finer than the paper shows, it only grays; strong grain hides faces"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "fine film": {
            "amount": 4.0,
            "size": 0.45,
            "softness": 30.0,
            "spread": "gaussian",
            "tones": "mids",
            "colour": 0.0,
        },
        "fast film": {
            "amount": 10.0,
            "size": 0.9,
            "softness": 40.0,
            "spread": "gaussian",
            "tones": "mids",
            "colour": 0.0,
        },
        "pushed two stops": {
            "amount": 18.0,
            "size": 1.3,
            "softness": 45.0,
            "spread": "gaussian",
            "tones": "darks",
            "colour": 0.0,
        },
        "lith, in clumps": {
            "amount": 16.0,
            "size": 1.1,
            "softness": 60.0,
            "spread": "clumped",
            "tones": "darks",
            "colour": 0.0,
        },
        "night view": {
            "amount": 5.0,
            "size": 0.6,
            "softness": 0.0,
            "spread": "gaussian",
            "tones": "even",
            "colour": 0.0,
        },
        "colour film": {
            "amount": 7.0,
            "size": 0.7,
            "softness": 40.0,
            "spread": "gaussian",
            "tones": "mids",
            "colour": 60.0,
        },
    }
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing

    of: Literal[1, 2] = form("mid-tones and darks become lighter", "in density, every tone keeps its mean light")
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
        if self.of > 1:
            tones = _densities(sigma, self.tones, self.spread, each, self._reach())
            own = self.colour / 100
            same = self._grain(place.rect, each, self.seed) * f(math.sqrt(1 - own * own))
            for k, plane in enumerate(source):
                grain = same if own == 0 else same + self._grain(place.rect, each, self.seed + 101 * (k + 1)) * f(own)
                lay_in_density(plane, grain, out[k], plane.size, tones, _STEPS)
            return out
        lay(
            source, out, len(source), place.rect.width, place.rect.height, place.rect.x, place.rect.y, 1 / each,
            1 / self._reach() ** 2, sigma, _KINDS.index(self.spread), self.colour / 100, _TONES.index(self.tones),
            self.seed,
        )  # fmt: skip
        return out

    def _grain(self, rect: Rect, each: float, seed: int) -> NDArray[np.float32]:
        out = np.empty((rect.height, rect.width), np.float32)
        kind = _KINDS.index(self.spread)
        show(out, rect.width, rect.height, rect.x, rect.y, 1 / each, 1 / self._reach() ** 2, kind, seed)
        return out

    def _reach(self) -> float:
        """Lattice steps: never beyond the nine points around a pixel."""
        return 0.9 + 0.6 * self.softness / 100

    def colours(self) -> bool:
        return self.colour > 0


# In density


@functools.lru_cache(maxsize=64)
def _densities(sigma: float, tones: str, spread: str, each: float, reach: float) -> NDArray[np.float32]:
    """For tones evenly from black to white: σ of the density, and what light is multiplied by, so that it stays."""
    gray = np.linspace(0, 1, _STEPS)
    light = np.maximum(colour.to_light(gray), 1e-7)
    density = -np.log10(light)
    at = -np.log10(colour.to_light(np.array(_GRAY)))
    per = float(np.gradient(gray, density)[np.searchsorted(gray, _GRAY)])  # encoded tone to one unit of density there
    by_tone = {
        "even": np.ones(_STEPS), "mids": 4 * gray * (1 - gray), "darks": np.sqrt(np.clip(density / at, 0, 2.5)),
    }[tones]  # fmt: skip
    wanted = sigma / abs(per) * by_tone
    told = wanted / np.sqrt(1 + (wanted / _MOST) ** 2)
    takes = 10 ** (-told[:, None] * _quantiles(spread, each, reach))
    low, high = np.full(_STEPS, -2.0), np.full(_STEPS, 10.0)  # powers of two
    for _ in range(26):
        middle = (low + high) / 2
        mean = np.minimum(light[:, None] * 2 ** middle[:, None] * takes, 1).mean(axis=1)
        low, high = np.where(mean < light, middle, low), np.where(mean < light, high, middle)
    return table(np.stack([told, (low + high) / 2]))


@functools.lru_cache(maxsize=64)
def _quantiles(spread: str, each: float, reach: float) -> NDArray[np.float64]:
    """What grain there is, in equal parts, from the least to the most: looked at as it is laid."""
    out = np.empty((_SAMPLE, _SAMPLE), np.float32)
    show(out, _SAMPLE, _SAMPLE, 0, 0, 1 / each, 1 / reach**2, _KINDS.index(spread), 1)
    both = np.sort(np.concatenate([out.ravel(), -out.ravel()]).astype(np.float64))  # it is as often more as less
    return both.reshape(_SHARES, -1).mean(axis=1)


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 per, f4 square, i8 spread, i8 seed")
def show(out, w, h, x0, y0, per, square, spread, seed):
    for y in range(h):
        v = (np.float64(y0 + y) + 0.5) * per - 0.5
        for x in range(w):
            u = (np.float64(x0 + x) + 0.5) * per - 0.5
            out[y * w + x] = grain_at(u, v, seed, square, spread)


@helper
def grain_at(u, v, seed, square, spread):
    """Grain of one kind at a place of the lattice: mean 0, σ about 1."""
    if spread == 2:  # as in lith: silver gathers in clumps, or there is none
        clumps = f(0.7) * noise_at(u * 0.4, v * 0.4, seed + 7001, f(0.45), False)
        return min(max(f(2.2) * (clumps + f(0.72) * noise_at(u, v, seed, square, False)), f(-1.15)), f(1.15))
    return min(max(noise_at(u, v, seed, square, spread == 1), -_FARTHEST), _FARTHEST)


@kernel("f4* src, f4* grain, f4* out, i8 n, f4* tones, i8 steps")
def lay_in_density(src, grain, out, n, tones, steps):
    last, top = f(steps - 1), np.int32(steps - 2)
    for k in range(n):
        level = min(max(src[k], f(0.0)), f(1.0))
        tone = level * last
        low = min(np.int32(tone), top)
        t = tone - f(low)
        sigma = tones[low] + t * (tones[low + 1] - tones[low])
        kept = tones[steps + low] + t * (tones[steps + low + 1] - tones[steps + low])
        light = light_of(max(src[k], f(0.0))) * exp2(kept - sigma * f(3.3219281) * grain[k])
        out[k] = encoded_of(min(light, f(1.0)))


# The first form


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
