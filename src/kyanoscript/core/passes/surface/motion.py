"""Motion: everything drawn out along a line, as by a moving camera; to one side alone it is a trail.

In linear light. The mean along the line is taken by halves: the picture with itself shifted by one step, the result by
two, then four: any length costs its logarithm.
"""

from __future__ import annotations

import math
from typing import ClassVar

import cv2
import numpy as np

from kyanoscript.core.colour import to_encoded_planes, to_light_planes
from kyanoscript.core.params import length, number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place


class Motion(Pass):
    """Blur along a line."""

    kind: ClassVar[str] = "motion"
    label: ClassVar[str] = "Motion"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Drawn out along a line, or with a trail"
    pointwise: ClassVar[bool] = False
    spreads: ClassVar[bool] = True

    length: float = length(12, 0, 300, "Length", "From one end of the line to the other", step=1)
    angle: float = number(0, -180, 180, "°", "Angle", "Clockwise; 0: level, a trail to the right", decimals=1)
    trail: bool = toggle(False, "To one side", "A trail behind, instead of both ways alike")

    def placed(self) -> str:
        return "angle"

    def margin(self, longer: float) -> int:
        return math.ceil(self.length / 1000 * longer) + 2 if self.length else 0

    def apply(self, planes: Planes, place: Place) -> Planes:
        pixels = place.pixels(self.length)
        light = to_light_planes(planes)
        steps = math.ceil(math.log2(pixels)) if pixels > 1 else int(pixels > 0.05)
        step = pixels / 2**steps
        a = math.radians(self.angle)
        across, down = math.cos(a), math.sin(a)
        before = 0.0 if self.trail else (pixels - step) / 2
        planes_ = [_shifted(p, before * across, before * down) if before else p for p in light]
        for k in range(steps):
            by = step * 2**k
            planes_ = [(p + _shifted(p, -by * across, -by * down)) / 2 for p in planes_]
        out = place.inner(np.stack(planes_))
        return np.clip(to_encoded_planes(np.ascontiguousarray(out)), 0, 1)


def _shifted(plane: np.ndarray, across: float, down: float) -> np.ndarray:
    """The plane looked at so far to the right and down."""
    where = np.array([[1, 0, across], [0, 1, down]], np.float64)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    size = (plane.shape[1], plane.shape[0])
    return cv2.warpAffine(plane, where, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
