"""Bloom: a blurred copy of the print so far, in light, laid back over it. Lights may count for more than darks."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.blend import BlendMode
from kyanoscript.core.colour import to_encoded_planes, to_light_planes
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass, by_strength, laid_over
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, blur_margin


class Bloom(Pass):
    """Light that spreads."""

    kind: ClassVar[str] = "bloom"
    label: ClassVar[str] = "Bloom"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "A soft copy of the print laid over it"
    use: ClassVar[str] = "For glow and a dream of softness"
    beware: ClassVar[str] = "All over it takes the darks away; lights alone keep them"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "soft portrait": {"radius": 10.0, "lights": 0.0, "blend": "soft-light", "strength": 40.0},
        "lights shine": {"radius": 18.0, "lights": 85.0, "blend": "screen", "strength": 45.0},
        "dream": {"radius": 30.0, "lights": 20.0, "blend": "screen", "strength": 55.0},
        "dark and velvety": {"radius": 14.0, "lights": 0.0, "blend": "multiply", "strength": 35.0},
    }
    pointwise: ClassVar[bool] = False

    radius: float = length(12, 0.5, 300, "Radius", "Sigma of the Gaussian", step=0.5)
    lights: float = number(0, 0, 100, "%", "Lights", "0: everything spreads; 100: the brightest parts alone")
    strength: float = by_strength(45)
    blend: BlendMode = laid_over("soft-light")

    def margin(self, longer: float) -> int:
        return blur_margin(self.radius / 1000 * longer)

    def apply(self, planes: Planes, place: Place) -> Planes:
        light = place.blurred(planes, place.pixels(self.radius), self._spreading)
        return np.minimum(to_encoded_planes(light), 1)

    def _spreading(self, planes: Planes) -> Planes:
        """Light as far as it spreads: dark parts count less, as the square of their light."""
        light = to_light_planes(planes)
        share = np.float32(self.lights / 100)
        return light if share == 0 else light * ((1 - share) + share * light)
