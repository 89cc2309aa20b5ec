"""Border: the rim of the print left bare, with a thin line, torn, or as a brush with emulsion left it.

It lies on the print, within its rim, whatever the frame is.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.noise import clouds_at
from kyanoscript.core.params import Colour, choice, ink, length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_FORMS = ("plain", "keyline", "rough", "brushed")


class Border(Pass):
    """A rim of bare paper."""

    kind: ClassVar[str] = "border"
    label: ClassVar[str] = "Border"
    stage: ClassVar[str] = "edge"
    about: ClassVar[str] = "A bare, lined, rough or brushed rim"
    use: ClassVar[str] = "To end the print: bare, lined, torn or brushed"
    beware: ClassVar[str] = "A wide rim makes a small picture"
    pointwise: ClassVar[bool] = False  # each place by where it is: on a wedge it would mean nothing
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "white with a thin line": {"form": "keyline", "width": 40.0, "paper": "#fbf9f3", "line": "#1a1a1a"},
        "torn": {"form": "rough", "width": 30.0, "paper": "#f6f1e6", "uneven": 60.0},
        "brushed emulsion": {"form": "brushed", "width": 45.0, "paper": "#f3ecdd", "uneven": 80.0},
        "black": {"form": "plain", "width": 25.0, "paper": "#0c0c0c"},
    }

    form: Literal["plain", "keyline", "rough", "brushed"] = choice(
        "plain",
        (("plain", "plain"), ("keyline", "with a thin line"), ("rough", "rough"), ("brushed", "brushed")),
        "Form",
    )
    width: float = length(30, 0, 250, "Width", "Of the rim", step=1)
    paper: Colour = ink("#fbf9f3", "Paper", "Colour of the rim")
    line: Colour = ink("#1a1a1a", "Line", "Colour of the thin line", when=("form", "keyline"))
    thin: float = length(1.2, 0.1, 20, "Line's width", "Of the thin line", when=("form", "keyline"))
    uneven: float = number(
        60, 0, 100, "%", "Unevenness", "Of the torn or brushed edge", when=("form", "rough", "brushed")
    )
    seed: int = number(1, 1, 9999, "", "Seed", "Another number, another edge", when=("form", "rough", "brushed"))

    def apply(self, planes: Planes, place: Place) -> Planes:
        assert place.ground is not None
        rect = place.rect
        width, height = place.ground.framing.size(place.scale)
        inks = np.array([colour.ink_of(self.paper, place.space), colour.ink_of(self.line, place.space)])
        grays = len(planes) == 1 and not self.colours()
        source = planes if grays else colour.in_colour(planes)
        out = np.empty_like(source)
        rim(
            source, out, len(source), rect.width, rect.height, rect.x, rect.y, width, height,
            place.pixels(self.width), place.pixels(self.thin), _FORMS.index(self.form), self.uneven / 100,
            1000 / place.longer, self.seed, np.ascontiguousarray(inks, np.float32),
        )  # fmt: skip
        return out

    def colours(self) -> bool:
        used = (self.paper, self.line) if self.form == "keyline" else (self.paper,)
        return any(len(set(colour.parse_hex(text))) > 1 for text in used)


@kernel(
    "f4* src, f4* out, i8 c, i8 w, i8 h, i8 x0, i8 y0, i8 width, i8 height, f8 rim_, f8 thin, i8 form, f8 uneven, "
    "f8 per, i8 seed, f4* inks"
)
def rim(src, out, c, w, h, x0, y0, width, height, rim_, thin, form, uneven, per, seed, inks):
    # How far a place lies within the rim's inner edge, in pixels; half a pixel either way is shared out.
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            side, level = min(u, np.float64(width) - u), min(v, np.float64(height) - v)
            near = min(side, level)
            soft = 1.0
            if form == 2 and rim_ > 0.0:
                near += rim_ * uneven * np.float64(clouds_at(u * per * 0.08, v * per * 0.08, seed))
                soft = max(1.0, 0.8 / per)
            elif form == 3 and rim_ > 0.0:
                # The brush went from side to side: its bristles end raggedly there, and lie along top and foot.
                slow = 0.004 if level > side else 0.006
                near += rim_ * uneven * 1.1 * np.float64(clouds_at(u * per * slow, v * per * 0.11, seed))
                soft = max(1.0, 1.2 / per)
            bare = f(min(max((rim_ - near) / soft + 0.5, 0.0), 1.0)) if rim_ > 0.0 else f(0.0)
            drawn = f(0.0)
            if form == 1 and rim_ > 0.0:
                from_line = abs(near - rim_)
                full = min(max(thin / 2 - from_line + 0.5, 0.0), 1.0)
                drawn = f(full * min(thin, 1.0))
            for k in range(c):
                at = k * w * h + y * w + x
                level_ = src[at] + bare * (inks[k] - src[at])
                out[at] = level_ + drawn * (inks[3 + k] - level_)
