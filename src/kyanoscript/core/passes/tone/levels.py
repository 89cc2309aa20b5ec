"""Levels: where the blacks begin, where the whites end, and the middle between them.

``out = ob + (ow − ob) · ((v − ib) / (iw − ib))^(1/γ)`` on encoded values, the bracket held within 0…1 (common practice,
the formula is in every handbook). Each channel first, then all channels together.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import math
from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import Space, in_colour
from kyanoscript.core.geometry import Framing
from kyanoscript.core.kernel import kernel
from kyanoscript.core.kernel.fastmath import power
from kyanoscript.core.order import Order
from kyanoscript.core.params import number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.watching import Watch, unwatched

f = np.float32
_MOST_GAMMA = 2.5  # taken from a picture: further than that its tones tear apart
_AS_IT_IS = (0.0, 1.0, 1.0, 0.0, 1.0)


def _in_black(group: str) -> Any:
    return number(0, 0, 255, "", "In black", "Everything below becomes the out black", group=group, mark="in")


def _gamma(group: str) -> Any:
    return number(
        1,
        0.1,
        9.99,
        "",
        "Middle",
        "Above 1 lightens the mid-tones",
        group=group,
        step=0.01,
        decimals=2,
        mark="mid",
        ratio=True,
    )


def _in_white(group: str) -> Any:
    return number(255, 0, 255, "", "In white", "Everything above becomes the out white", group=group, mark="in")


def _out_black(group: str) -> Any:
    return number(0, 0, 255, "", "Out black", "The darkest tone of the print", group=group, mark="out")


def _out_white(group: str) -> Any:
    return number(255, 0, 255, "", "Out white", "The lightest tone of the print", group=group, mark="out")


def _start(**values: Any) -> dict[str, Any]:
    """A start point sets every value, so that nothing of an earlier one is left."""
    plain = {"in_black": 0.0, "gamma": 1.0, "in_white": 255.0, "out_black": 0.0, "out_white": 255.0}
    every = {prefix + name: value for prefix in ("", "red_", "green_", "blue_") for name, value in plain.items()}
    return {**every, "auto": False, **values}


class Levels(Pass):
    """Input black, middle and white; output black and white; all channels and each."""

    kind: ClassVar[str] = "levels"
    label: ClassVar[str] = "Levels"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Where blacks begin, where whites end"
    use: ClassVar[str] = "To set black and white, and how the middle lies between them"
    beware: ClassVar[str] = "Ends drawn far in clip; a look at the ladder tells how much"
    samples: ClassVar[dict[str, Any]] = {"gamma": 1.4}
    suggests: ClassVar[tuple[str, ...]] = ("in_black", "in_white")
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        # The three checks of the trade (common practice, no source)
        "from end to end of the picture": _start(auto=True),
        "flat mid-tones, a base for lith": _start(out_black=103.0, out_white=176.0),
        "matte, raised blacks": _start(out_black=82.0),
        "aged, reddish blacks": _start(out_black=25.0, red_out_black=27.0),
        "darker middle": {"gamma": 0.8},
        "lighter middle": {"gamma": 1.25},
        "soft, no black and no white": {"out_black": 24.0, "out_white": 232.0},
    }

    auto: bool = toggle(
        False, "Ends from the picture", "In black and in white where its tones begin and end", group="All"
    )
    middle: float = number(
        0, 0, 250, "", "Half of it at", "Half of the picture comes to lie below this tone; 0: the middle stays",
        group="All", when=("auto", True),
    )  # fmt: skip
    clip: float = number(
        0.1, 0, 10, "%", "Cut off", "Share of the picture beyond each end", group="All", decimals=2, step=0.05
    )
    in_black: float = _in_black("All")
    gamma: float = _gamma("All")
    in_white: float = _in_white("All")
    out_black: float = _out_black("All")
    out_white: float = _out_white("All")
    red_in_black: float = _in_black("Red")
    red_gamma: float = _gamma("Red")
    red_in_white: float = _in_white("Red")
    red_out_black: float = _out_black("Red")
    red_out_white: float = _out_white("Red")
    green_in_black: float = _in_black("Green")
    green_gamma: float = _gamma("Green")
    green_in_white: float = _in_white("Green")
    green_out_black: float = _out_black("Green")
    green_out_white: float = _out_white("Green")
    blue_in_black: float = _in_black("Blue")
    blue_gamma: float = _gamma("Blue")
    blue_in_white: float = _in_white("Blue")
    blue_out_black: float = _out_black("Blue")
    blue_out_white: float = _out_white("Blue")

    def apply(self, planes: Planes, place: Place) -> Planes:
        each = [self._five(prefix) for prefix in ("red_", "green_", "blue_")]
        if len(planes) == 1 and self.colours():
            planes = in_colour(planes)
        if any(five != _AS_IT_IS for five in each):
            out = np.empty_like(planes)
            for k in range(len(planes)):
                levels(planes[k], out[k], out[k].size, *each[k])
            planes = out
        if self._five("") == _AS_IT_IS:
            return planes
        out = np.empty_like(planes)
        levels(planes, out, out.size, *self._five(""))
        return out

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        order = Order(proxy)
        low, high = (255 * value for value in order.quantiles((self.clip / 100, 1 - self.clip / 100)))
        if high - low < 8:  # a picture of one tone has no ends to stretch
            return {"auto": False}
        found: dict[str, Any] = {"in_black": low, "in_white": high, "auto": False}
        if self.middle:
            half = min(max((order.median * 255 - low) / (high - low), 0.01), 0.99)
            gamma = math.log(half) / math.log(self.middle / 255)
            found["gamma"] = round(min(max(gamma, 1 / _MOST_GAMMA), _MOST_GAMMA), 3)
        return found

    def suggested(self) -> tuple[str, ...]:
        return (*self.suggests, "gamma") if self.middle else self.suggests

    def _five(self, prefix: str) -> tuple[float, ...]:
        """In black, one over the input range, one over gamma, out black, output range; tones as fractions."""
        ib, gamma, iw, ob, ow = (
            getattr(self, prefix + name) for name in ("in_black", "gamma", "in_white", "out_black", "out_white")
        )
        # Black and white on one value (or crossed) is a hard edge at that value.
        return ib / 255, 255 / max(iw - ib, 1e-3), 1 / gamma, ob / 255, (ow - ob) / 255

    def colours(self) -> bool:
        return len({self._five(prefix) for prefix in ("red_", "green_", "blue_")}) > 1


@kernel("f4* values, f4* out, i8 n, f4 black, f4 per_range, f4 exponent, f4 low, f4 reach")
def levels(values, out, n, black, per_range, exponent, low, reach):
    if exponent == f(1.0):
        for k in range(n):
            t = min(max((values[k] - black) * per_range, f(0.0)), f(1.0))
            out[k] = low + reach * t
    else:
        for k in range(n):
            t = min(max((values[k] - black) * per_range, f(0.0)), f(1.0))
            out[k] = low + reach * power(t, exponent)
