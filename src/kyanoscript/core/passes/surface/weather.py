"""Snow and rain: flakes or streaks in three depths, near ones larger, softer and fewer.

Each has a place in a cell of a lattice that lies on the print (see `kyanoscript.core.kernel.noise`); wind and the
length of streaks bend the lattice. How large, how many and how soft is our own choice, set by eye.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.noise import scrambled
from kyanoscript.core.params import choice, length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
# Depths, far to near: size, cells to a size, softness, strength
_DEPTHS = ((0.5, 5.0, 0.5, 0.6), (1.0, 5.5, 0.6, 0.8), (2.4, 8.0, 0.9, 0.7))


class Weather(Pass):
    """Falling snow or rain."""

    kind: ClassVar[str] = "weather"
    label: ClassVar[str] = "Snow and rain"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Falling flakes or streaks"
    use: ClassVar[str] = "For snow and rain that were not there"
    beware: ClassVar[str] = "Flakes as large as faces read as dust"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "light snow": {"falls": "snow", "density": 30.0, "size": 3.0, "wind": 10.0, "depth": 60.0},
        "driving snow": {"falls": "snow", "density": 80.0, "size": 4.5, "wind": 45.0, "depth": 80.0},
        "drizzle": {"falls": "rain", "density": 35.0, "size": 1.5, "wind": 5.0, "depth": 50.0},
        "downpour": {"falls": "rain", "density": 85.0, "size": 3.5, "wind": 20.0, "depth": 70.0},
    }
    pointwise: ClassVar[bool] = False

    falls: Literal["snow", "rain"] = choice("snow", (("snow", "snow"), ("rain", "rain")), "What falls")
    density: float = number(50, 0, 100, "%", "Density", "How much of it there is")
    size: float = length(4, 0.5, 40, "Size", "Of a flake half-way off; a streak is ten times as long", step=0.5)
    wind: float = number(15, -80, 80, "°", "Wind", "How far it falls aslant; below 0 to the left", decimals=1)
    depth: float = number(60, 0, 100, "%", "Depth", "How many are nearer, larger and softer")
    seed: int = number(1, 1, 9999, "", "Seed", "Another number, other flakes")

    def apply(self, planes: Planes, place: Place) -> Planes:
        rect = place.rect
        shown = np.zeros((rect.height, rect.width), np.float32)
        a = -math.radians(self.wind)  # the lattice is turned against the clock for a fall to the right
        rain = self.falls == "rain"
        long, thin = (10.0, 0.16) if rain else (1.0, 1.0)
        for k, (size, cells, soft, strength) in enumerate(_DEPTHS):
            near = (1.0, 1.0, self.depth / 100)[k]
            wide = place.pixels(self.size) * size
            across, down = cells * wide * (0.6 if rain else 1.0), cells * wide * (long / 2 if rain else 1.0)
            scatter(
                shown, rect.width, rect.height, rect.x, rect.y, math.cos(a), math.sin(a),
                1 / max(across, 1e-3), 1 / max(down, 1e-3), wide * thin / 2, wide * long / 2, soft, strength * near,
                self.density / 100, self.seed + 31 * k,
            )  # fmt: skip
        return np.ascontiguousarray(1 - (1 - planes) * (1 - np.minimum(shown, 1)))


@kernel(
    "f4* shown, i8 w, i8 h, i8 x0, i8 y0, f8 cos, f8 sin, f8 across, f8 down, f8 rx, f8 ry, f8 soft, f8 strength, "
    "f8 density, i8 seed"
)
def scatter(shown, w, h, x0, y0, cos, sin, across, down, rx, ry, soft, strength, density, seed):
    # A thing smaller than a pixel fills it in part: drawn a pixel large, and as much fainter.
    least = 0.6
    fx, fy = max(rx, least), max(ry, least)
    faint = strength * (rx / fx) * (ry / fy)
    for y in range(h):
        py = np.float64(y0 + y) + 0.5
        for x in range(w):
            px = np.float64(x0 + x) + 0.5
            u, v = px * cos + py * sin, py * cos - px * sin
            cu, cv = np.int64(np.floor(u * across)), np.int64(np.floor(v * down))
            total = f(0.0)
            for j in range(-1, 2):
                for i in range(-1, 2):
                    bits = scrambled(cu + i, cv + j, seed)
                    if np.float64(bits & 1023) < density * 1024.0:
                        ou = (np.float64((bits >> 10) & 1023) + 0.5) / 1024.0
                        ov = (np.float64((bits >> 20) & 1023) + 0.5) / 1024.0
                        dx = u - (np.float64(cu + i) + ou) / across
                        dy = v - (np.float64(cv + j) + ov) / down
                        grown = 0.6 + 0.8 * np.float64((bits >> 5) & 31) / 31.0
                        t = np.sqrt((dx / (fx * grown)) ** 2 + (dy / (fy * grown)) ** 2)
                        edge = min(max((1.0 - t) / soft, 0.0), 1.0)
                        total += f(faint * edge * edge * (3.0 - 2.0 * edge))
            at = y * w + x
            shown[at] = f(1.0) - (f(1.0) - shown[at]) * (f(1.0) - min(total, f(1.0)))
