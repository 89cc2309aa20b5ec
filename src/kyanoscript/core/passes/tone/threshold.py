"""Threshold: black below a level, white from it on.

The level that the picture suggests is Otsu's ("A threshold selection method from gray-level histograms", IEEE Trans.
SMC 9, 1979): the one that parts the tones into two groups of the least spread.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import Space, gray_of
from kyanoscript.core.geometry import Framing
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.watching import Watch, unwatched

f = np.float32


class Threshold(Pass):
    """Pure black and white at a level."""

    kind: ClassVar[str] = "threshold"
    label: ClassVar[str] = "Threshold"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Pure black and white"
    use: ClassVar[str] = "For posters, line work and stencils for other passes"
    beware: ClassVar[str] = "Noise becomes specks: soften a little before it"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "where tones part best": {"auto": True, "softness": 0.0},
        "dark: only the lights stay white": {"auto": False, "level": 168.0, "softness": 0.0},
        "light: only the darks stay black": {"auto": False, "level": 72.0, "softness": 0.0},
        "soft, as lith film": {"auto": False, "level": 120.0, "softness": 60.0},
    }
    samples: ClassVar[dict[str, Any]] = {"auto": True}
    suggests: ClassVar[tuple[str, ...]] = ("level",)

    auto: bool = toggle(False, "Level from the picture", "Where its tones part best into dark and light")
    level: float = number(128, 0, 255, "", "Level", "This tone and lighter ones become white", mark="in")
    softness: float = number(0, 0, 255, "", "Softness", "Over how many tones black passes into white")

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = gray_of(planes, place.space)
        out = np.empty_like(gray)
        # A whole number of the 8-bit scale is met a hair below, so that "128 and lighter" means what it says.
        part(gray, out, out.size, self.level / 255 - 1e-6, self.softness / 255)
        return out

    def grays(self) -> bool:
        return True

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        steps = np.clip(gray_of(proxy, space) * 255 + 0.5, 0, 255).astype(np.uint8)
        return {"level": float(parting(steps)), "auto": False}


def parting(steps: Any) -> int:
    """The first of the levels 0…255 (uint8) of the lighter group, where the tones part best (Otsu)."""
    counts = np.bincount(steps.ravel(), minlength=256).astype(np.float64)
    below = np.cumsum(counts)[:-1]
    above = counts.sum() - below
    sums = np.cumsum(counts * np.arange(256))
    parted = np.full(255, -1.0)
    both = (below > 0) & (above > 0)
    means = sums[:-1][both] / below[both], (sums[-1] - sums[:-1][both]) / above[both]
    parted[both] = below[both] * above[both] * (means[0] - means[1]) ** 2
    return int(np.argmax(parted)) + 1


@kernel("f4* gray, f4* out, i8 n, f4 level, f4 soft")
def part(gray, out, n, level, soft):
    if soft <= f(0.0):
        for k in range(n):
            out[k] = f(1.0) if gray[k] >= level else f(0.0)
    else:
        per = f(1.0) / soft
        for k in range(n):
            t = min(max((gray[k] - level) * per + f(0.5), f(0.0)), f(1.0))
            out[k] = t * t * (f(3.0) - t - t)
