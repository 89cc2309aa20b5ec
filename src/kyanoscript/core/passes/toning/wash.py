"""Wash: colour laid over the print, even, straight or round.

Along a line from its beginning to its end (which may lie outside the picture) colours go from stop to stop; a round
wash goes from the beginning outwards.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core.blend import BlendMode
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import Stops, choice, number, stops
from kyanoscript.core.passes.base import Pass, by_strength, laid_over
from kyanoscript.core.passes.toning.gradient_map import SIZE, tone_table
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32


def _place(default: float, label: str) -> Any:
    help = "May lie outside the picture"
    return number(default, -1000, 1000, "%", label, help, decimals=2, when=("form", "straight", "round"))


class Wash(Pass):
    """A wash of colour."""

    kind: ClassVar[str] = "wash"
    label: ClassVar[str] = "Wash"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Colour laid over, even, straight or round"
    use: ClassVar[str] = "To lay one colour, or a passage between two, over a part or all"
    beware: ClassVar[str] = "Over 50 % it covers what the print says"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "evening sky": {
            "form": "straight",
            "stops": ((0.0, "#e8b26a"), (100.0, "#5a7aa6")),
            "x1": 50.0,
            "y1": 100.0,
            "x2": 50.0,
            "y2": 0.0,
        },
        "one warm layer": {"form": "flat", "stops": ((0.0, "#e9c58f"),)},
        "one cold layer": {"form": "flat", "stops": ((0.0, "#9fb4c8"),)},
        "lamp in the middle": {
            "form": "round",
            "stops": ((0.0, "#fff0cf"), (100.0, "#6b5440")),
            "x1": 50.0,
            "y1": 50.0,
            "x2": 100.0,
            "y2": 50.0,
        },
    }
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing

    form: Literal["flat", "straight", "round"] = choice(
        "straight", (("flat", "even: the first colour"), ("straight", "straight"), ("round", "round")), "Form"
    )
    stops: Stops = stops(((0.0, "#e8b26a"), (100.0, "#5a7aa6")), "Colours", "Along the way, from beginning to end")
    x1: float = _place(50, "Beginning, across")
    y1: float = _place(100, "Beginning, down")
    x2: float = _place(50, "End, across")
    y2: float = _place(0, "End, down")
    strength: float = by_strength(40)
    blend: BlendMode = laid_over("multiply")

    def placed(self) -> str:
        return "" if self.form == "flat" else "ramp"

    def apply(self, planes: Planes, place: Place) -> Planes:
        rect, ground = place.rect, place.ground
        assert ground is not None
        out = np.empty((3, rect.height, rect.width), np.float32)
        colours = tone_table(self.stops, 0, "oklab", place.space)
        if self.form == "flat":
            out[:] = colours[:, :1, None]
            return out
        width, height = ground.framing.photo
        x1, y1 = self.x1 / 100 * width, self.y1 / 100 * height
        dx, dy = self.x2 / 100 * width - x1, self.y2 / 100 * height - y1
        reach = max(math.hypot(dx, dy), 1e-6)
        m = ground.to_photo
        lay_wash(
            out, rect.width, rect.height, rect.x, rect.y, m.a, m.b, m.c - x1, m.d, m.e, m.f - y1,
            dx / reach, dy / reach, 1 / reach, int(self.form == "round"), colours, SIZE,
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        return True


@kernel(
    "f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c, f8 d, f8 e, f8 g, f8 dx, f8 dy, f8 per, i8 round_, "
    "f4* colours, i8 size"
)
def lay_wash(out, w, h, x0, y0, a, b, c, d, e, g, dx, dy, per, round_, colours, size):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            px, py = a * u + b * v + c, d * u + e * v + g
            t = np.sqrt(px * px + py * py) * per if round_ else (px * dx + py * dy) * per
            at = f(min(max(t, 0.0), 1.0)) * f(size - 1)
            low = min(max(np.int64(at), 0), size - 2)
            part = at - f(low)
            for k in range(3):
                first = colours[k * size + low]
                out[k * w * h + y * w + x] = first + part * (colours[k * size + low + 1] - first)
