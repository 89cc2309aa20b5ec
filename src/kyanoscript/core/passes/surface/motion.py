"""Motion: everything drawn out along a line, as by a moving camera; to one side alone it is a trail.

In linear light. The picture is slanted until the line lies along a row (or a column, where it is steeper than 45°);
there the mean is exact, pixel by pixel with a part of one at both ends, and any length costs the same; then it is
slanted back.

In the first form the mean is taken by halves: the picture with itself shifted by one step, the result by two, then
four; what lies between pixels makes it uneven along the line.
"""

from __future__ import annotations

import math
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import to_encoded_planes, to_light_planes
from kyanoscript.core.geometry import Affine
from kyanoscript.core.late import cv2
from kyanoscript.core.params import length, number, toggle
from kyanoscript.core.passes.base import Pass, form
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up


class Motion(Pass):
    """Blur along a line."""

    kind: ClassVar[str] = "motion"
    label: ClassVar[str] = "Motion"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Drawn out along a line, or with a trail"
    use: ClassVar[str] = "For speed, rain on a pane, a trail behind a ferry"
    beware: ClassVar[str] = "All over it is a shaken picture: keep what stands out of it"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "shaken a little": {"length": 5.0, "angle": 20.0, "trail": False},
        "passing by": {"length": 40.0, "angle": 0.0, "trail": False},
        "a trail behind": {"length": 60.0, "angle": 0.0, "trail": True},
        "falling": {"length": 30.0, "angle": 90.0, "trail": False},
    }
    pointwise: ClassVar[bool] = False
    spreads: ClassVar[bool] = True

    of: Literal[1, 2] = form("uneven along the line", "as even as a moving camera draws it")
    length: float = length(12, 0, 300, "Length", "From one end of the line to the other", step=1)
    angle: float = number(0, -180, 180, "°", "Angle", "Clockwise; 0: level, a trail to the right", decimals=1)
    trail: bool = toggle(False, "To one side", "A trail behind, instead of both ways alike")

    def placed(self) -> str:
        return "angle"

    def margin(self, longer: float) -> int:
        return math.ceil(self.length / 1000 * longer) + 2 if self.length else 0

    def apply(self, planes: Planes, place: Place) -> Planes:
        pixels = place.pixels(self.length)
        if self.of > 1:
            return self._drawn(planes, place, pixels)
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

    def _drawn(self, planes: Planes, place: Place, pixels: float) -> Planes:
        if pixels < 0.05:
            return place.inner(planes)
        a = math.radians(self.angle)
        across, down = math.cos(a), math.sin(a)
        steep = abs(down) > abs(across)
        along, aside = (down, across) if steep else (across, down)
        reach = pixels * abs(along)  # from one end to the other, along the row
        before = reach / 2 if not self.trail else reach if along > 0 else 0.0  # what it has of the pixels behind it
        slope = aside / along
        corner = place.rect.y if steep else place.rect.x
        out = []
        for plane in to_light_planes(planes):
            lying = np.ascontiguousarray(plane.T) if steep else plane
            # By the print's own columns, so that every region is slanted alike; whole rows are taken back at once.
            height, width = lying.shape
            first = corner - place.margin
            rows = round(slope * (first + (width - 1) / 2))
            more = math.ceil(abs(slope) * (width - 1) / 2) + 2  # rows that slanting carries out above and below
            by = slope * first - rows
            slanted = looked_up(lying[None], Affine(d=slope, f=by - more), width, height + 2 * more)[0]
            drawn = looked_up(_mean_along(slanted, reach, before)[None], Affine(d=-slope, f=more - by), width, height)[
                0
            ]
            out.append(drawn.T if steep else drawn)
        found = place.inner(np.ascontiguousarray(np.stack(out)))
        return np.clip(to_encoded_planes(found), 0, 1)


def _mean_along(plane: NDArray[np.float32], reach: float, before: float) -> NDArray[np.float32]:
    """The mean of every row from ``before`` pixels ahead of each pixel's middle, over ``reach`` pixels."""
    sums = np.zeros((plane.shape[0], plane.shape[1] + 1))
    np.cumsum(plane, axis=1, dtype=np.float64, out=sums[:, 1:])
    start = np.arange(plane.shape[1]) + 0.5 - before
    ends = [_sum_to(sums, np.clip(start + by, 0, plane.shape[1])) for by in (0.0, reach)]
    # What lies outside is as its rim is.
    left, right = np.maximum(-start, 0), np.maximum(start + reach - plane.shape[1], 0)
    total = ends[1] - ends[0] + left * plane[:, :1] + right * plane[:, -1:]
    return (total / reach).astype(np.float32)


def _sum_to(sums: NDArray[np.float64], at: NDArray[np.float64]) -> NDArray[np.float64]:
    low = np.minimum(at.astype(np.intp), sums.shape[1] - 2)
    return sums[:, low] + (at - low) * (sums[:, low + 1] - sums[:, low])


def _shifted(plane: np.ndarray, across: float, down: float) -> np.ndarray:
    """The plane looked at so far to the right and down."""
    where = np.array([[1, 0, across], [0, 1, down]], np.float64)
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    size = (plane.shape[1], plane.shape[0])
    return cv2.warpAffine(plane, where, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
