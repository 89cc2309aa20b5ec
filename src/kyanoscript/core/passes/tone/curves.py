"""Curves: any tone to any other, all channels together and each.

Monotone cubics through the points (Fritsch and Carlson 1980): between two points a curve never overshoots them. Each
channel's own curve comes first, then the one for all. A channel's opposite: red – cyan, green – magenta, blue – yellow.
"""

from __future__ import annotations

import functools
from typing import Any, ClassVar

import numpy as np

from kyanoscript.core import tones
from kyanoscript.core.params import Curve, curve
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

_EMPTY: dict[str, Any] = {"every": (), "red": (), "green": (), "blue": ()}


class Curves(Pass):
    """Curves through points, for all channels and each."""

    kind: ClassVar[str] = "curves"
    label: ClassVar[str] = "Curves"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Any tone to any other"
    use: ClassVar[str] = "When levels are not enough: any tone, each channel for itself"
    beware: ClassVar[str] = "A curve that falls turns tones round; a steep one shows bands"
    samples: ClassVar[dict[str, Any]] = {"every": ((0, 0), (64, 38), (192, 217), (255, 255))}
    touches: ClassVar[str] = "every"
    # Shapes of the trade (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "straight": _EMPTY,
        "S for contrast": {
            **_EMPTY,
            "every": ((0.0, 0.0), (64.0, 48.0), (128.0, 128.0), (192.0, 208.0), (255.0, 255.0)),
        },
        "faded matte": {**_EMPTY, "every": ((0.0, 42.0), (64.0, 74.0), (192.0, 196.0), (255.0, 244.0))},
        "crossed: warm lights, cool darks": {
            **_EMPTY,
            "red": ((0.0, 0.0), (64.0, 52.0), (192.0, 204.0), (255.0, 255.0)),
            "blue": ((0.0, 18.0), (64.0, 76.0), (192.0, 180.0), (255.0, 232.0)),
        },
        "darks opened": {
            "every": ((0.0, 0.0), (50.0, 74.0), (128.0, 146.0), (255.0, 255.0)),
            "red": (),
            "green": (),
            "blue": (),
        },
        "lights held": {
            "every": ((0.0, 0.0), (128.0, 120.0), (210.0, 188.0), (255.0, 250.0)),
            "red": (),
            "green": (),
            "blue": (),
        },
        "hard, as on hard paper": {
            "every": ((0.0, 0.0), (70.0, 34.0), (186.0, 226.0), (255.0, 255.0)),
            "red": (),
            "green": (),
            "blue": (),
        },
    }

    every: Curve = curve("All", "Tone in and tone out, for all channels", group="All")
    red: Curve = curve("Red – cyan", "Up is red, down is cyan", group="Red")
    green: Curve = curve("Green – magenta", "Up is green, down is magenta", group="Green")
    blue: Curve = curve("Blue – yellow", "Up is blue, down is yellow", group="Blue")

    def apply(self, planes: Planes, place: Place) -> Planes:
        each = (self.red, self.green, self.blue) if self.colours() else (self.red,)
        return tones.apply(
            planes, [_table(own, self.every) for own in each], [_beyond(own, self.every) for own in each]
        )

    def colours(self) -> bool:
        return len({self.red, self.green, self.blue}) > 1


@functools.lru_cache(maxsize=128)
def _table(own: Curve, every: Curve) -> tones.Table:
    """One channel's curve, then the one for all."""
    return tones.table(tones.curve_at(every, tones.curve_at(own, tones.GRAYS)))


@functools.lru_cache(maxsize=128)
def _beyond(own: Curve, every: Curve) -> tones.Table:
    """What is lighter than white goes straight on from there, as the curve left it, and is held at white."""
    last = _table(own, every)[-2:].astype(np.float64)
    straight = last[1] + (tones.BEYOND - 1) * (last[1] - last[0]) * (tones.SIZE - 1)
    return tones.table(np.clip(straight, 0, 1))
