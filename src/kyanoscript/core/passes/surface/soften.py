"""Soften: a Gaussian blur, in linear light as a lens would do it.

However wide it is it costs about the same: see `kyanoscript.core.smooth`.
"""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import to_encoded_planes, to_light_planes
from kyanoscript.core.params import length
from kyanoscript.core.passes.base import Pass, Rim
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, blur_margin


class Soften(Pass):
    """Gaussian blur in light."""

    kind: ClassVar[str] = "soften"
    label: ClassVar[str] = "Soften"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Blurred, as out of focus"
    use: ClassVar[str] = "To put something out of focus, with a stencil for what stays sharp"
    beware: ClassVar[str] = "A blurred rim beside a sharp thing shows where the stencil ends"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "a breath": {"radius": 0.8},
        "out of focus": {"radius": 6.0},
        "only colours and light": {"radius": 40.0},
    }
    pointwise: ClassVar[bool] = False
    rim: ClassVar[Rim] = "symmetric"  # so that a print keeps its light however wide the blur is
    spreads: ClassVar[bool] = True

    radius: float = length(2, 0, 300, "Radius", "Sigma of the Gaussian", step=0.1)

    def margin(self, longer: float) -> int:
        return blur_margin(self.radius / 1000 * longer)

    def apply(self, planes: Planes, place: Place) -> Planes:
        light = place.blurred(planes, place.pixels(self.radius), to_light_planes)
        return np.minimum(to_encoded_planes(light), 1)
