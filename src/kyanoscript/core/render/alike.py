"""One print's tones brought to another's: mean and spread of L*, by an ordinary Levels pass at the head of its run."""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import lightness, to_encoded
from kyanoscript.core.passes import named
from kyanoscript.core.picture import Rect, Source
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import Watch, breathe, unwatched

NAME = "Match"  # of the pass
MEAN, SPREAD = 1.0, 0.05  # L*, and a share of the spread: nearer is alike
_PIXELS = 60_000  # of a print that is looked at
_MIDDLES, _CONTRAST = math.log(6.0), 1.6  # how far the middle and the contrast may go
_COARSE = (-0.9, -0.4, 0.01, 0.4, 0.9)  # both are looked for from here, round four tones
_STARTS = 4  # from how many of the best
_TRIED, _STEP = 25, 0.02  # prints that are looked at in each way, and how far apart slopes are taken


@dataclass(frozen=True)
class Tones:
    """Of a print: L*."""

    mean: float
    spread: float  # standard deviation

    def alike(self, other: Tones) -> bool:
        """Whether they are as near as one wants."""
        return abs(self.mean - other.mean) <= MEAN and abs(self.spread - other.spread) <= SPREAD * other.spread


def tones_of(source: Source, script: Script, library: Library | None = None, watch: Watch = unwatched) -> Tones:
    """Those of a print."""
    print_ = Renderer(source, script, library=library, watch=watch)
    width, height = print_.size(1.0)
    scale = min(1.0, math.sqrt(_PIXELS / (width * height)))
    tones = lightness(np.clip(print_.region(Rect(0, 0, *print_.size(scale)), scale), 0, 1), print_.space)
    return Tones(float(tones.mean()), float(tones.std()))


def matched(
    source: Source, script: Script, wanted: Tones, library: Library | None = None, watch: Watch = unwatched
) -> tuple[Script, Tones]:
    """The script with a Levels pass before all others that brings its print to some tones, and the tones that it then
    has: as near as there are. A pass of an earlier match is replaced; where it is near anyway there is none."""
    from scipy.optimize import least_squares

    bare = replace(script, passes=tuple(step for step in script.passes if step.name != NAME))
    now = tones_of(source, bare, library, watch)
    if now.alike(wanted):
        return bare, now
    levels = named("levels")
    assert levels is not None
    tone = 255 * float(to_encoded(((wanted.mean + 16) / 116) ** 3))

    def of(middle: float, contrast: float, about: float) -> Script:
        share, way = 1 - math.exp(-abs(contrast)), "in" if contrast > 0 else "out"
        values: dict[str, Any] = {
            f"{way}_black": round(share * about, 3), f"{way}_white": round(255 - share * (255 - about), 3),
            "gamma": round(math.exp(middle), 4), "name": NAME,
        }  # fmt: skip
        return replace(bare, passes=(levels(**values), *bare.passes))

    def off(x: NDArray[np.float64], about: float) -> list[float]:
        breathe()
        tones = tones_of(source, of(float(x[0]), float(x[1]), about), library, watch)
        return [(tones.mean - wanted.mean) / MEAN, (tones.spread / wanted.spread - 1) / SPREAD]

    every = [
        (np.array(start), about) for about in (127.5, tone, 0.0, 255.0) for start in itertools.product(_COARSE, _COARSE)
    ]
    starts = sorted(every, key=lambda start: float(np.square(off(*start)).sum()))[:_STARTS]
    limits = ([-_MIDDLES, -_CONTRAST], [_MIDDLES, _CONTRAST])
    best, cost = bare, math.inf
    for start, about in starts:
        found = least_squares(off, start, bounds=limits, diff_step=_STEP, max_nfev=_TRIED, args=(about,))
        if found.cost < cost:
            best, cost = of(float(found.x[0]), float(found.x[1]), about), float(found.cost)
        if max(abs(part) for part in found.fun) < 0.5:
            break
    return best, tones_of(source, best, library, watch)
