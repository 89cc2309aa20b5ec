"""Exposure and contrast: the photograph put right before anything else.

Exposure multiplies linear light (IEC 61966-2-1). The others bend the encoded scale by formulas of our own; each of
them rises everywhere for every setting, so that no two tones ever change places: ``v + c·v·(1 − v)³`` for shadows
rises for c from −1 to 4, and its mirror image does for highlights.
"""

from __future__ import annotations

import functools
from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour, tones
from kyanoscript.core.params import number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

_END = 0.12  # how far whites and blacks move the ends of the scale


class Exposure(Pass):
    """Exposure in stops, contrast, highlights, shadows, whites, blacks."""

    kind: ClassVar[str] = "exposure"
    label: ClassVar[str] = "Exposure"
    stage: ClassVar[str] = "colour"
    about: ClassVar[str] = "Light and contrast of the photograph"
    use: ClassVar[str] = "First, while the photograph is still in colour: light and contrast"
    beware: ClassVar[str] = "Bright parts that reach white are lost to all passes after it"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "a stop lighter": {"exposure": 1.0},
        "a stop darker": {"exposure": -1.0},
        "harsh light tamed": {"contrast": -15.0, "highlights": -45.0, "shadows": 35.0},
        "crisp, from black to white": {"contrast": 25.0, "whites": 12.0, "blacks": -12.0},
        "high key": {"exposure": 0.7, "contrast": -20.0, "shadows": 40.0, "blacks": 15.0},
        "low key": {"exposure": -1.2, "contrast": 18.0, "highlights": -20.0},
    }
    samples: ClassVar[dict[str, Any]] = {"exposure": 0.7}
    touches: ClassVar[str] = "exposure"

    exposure: float = number(0, -4, 4, "stops", "Exposure", "One stop is twice the light", step=0.05, decimals=2)
    contrast: float = number(0, -100, 100, "", "Contrast", "Tones away from, or towards, the middle")
    highlights: float = number(0, -100, 100, "", "Highlights", "Below 0 brings back bright areas")
    shadows: float = number(0, -100, 100, "", "Shadows", "Above 0 opens dark areas")
    whites: float = number(0, -100, 100, "", "Whites", "Where the scale ends")
    blacks: float = number(0, -100, 100, "", "Blacks", "Where the scale begins")

    def apply(self, planes: Planes, place: Place) -> Planes:
        values = (self.exposure, self.contrast, self.highlights, self.shadows, self.whites, self.blacks)
        return tones.apply(planes, *_tables(*values))


@functools.lru_cache(maxsize=64)
def _tables(*values: float) -> tuple[list[tones.Table], list[tones.Table]]:
    """For the tones from black to white, and for those beyond."""
    return [_table(tones.GRAYS, *values)], [_table(tones.BEYOND, *values)]


def _table(
    tones_: NDArray[np.float64],
    exposure: float,
    contrast: float,
    highlights: float,
    shadows: float,
    whites: float,
    blacks: float,
) -> tones.Table:
    v = colour.to_encoded(np.minimum(colour.to_light(tones_) * 2.0**exposure, 1))
    v = _lift_dark(v, shadows / 100)
    v = 1 - _lift_dark(1 - v, -highlights / 100)
    v = _end(v, blacks / 100)
    v = 1 - _end(1 - v, -whites / 100)
    return tones.table(np.clip(_contrast(v, contrast / 100), 0, 1))


def _lift_dark(v: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    return v + (1.6 * by if by > 0 else 0.9 * by) * v * (1 - v) ** 3


def _end(v: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    """The dark end: raised without flattening, or cut off."""
    if by >= 0:
        return v + _END * by * (1 - v) ** 4
    return np.maximum(v + _END * by, 0) / (1 + _END * by)


def _contrast(v: NDArray[np.float64], by: float) -> NDArray[np.float64]:
    if by <= 0:
        return 0.5 + (v - 0.5) * (1 + 0.6 * by)
    bend = 2.0 ** (1.2 * by)
    low = 0.5 * (2 * np.minimum(v, 1 - v)) ** bend
    return np.where(v < 0.5, low, 1 - low)
