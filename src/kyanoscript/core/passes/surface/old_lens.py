"""Old lens: the softness of a lens, or of a picture that was a little out of focus, taken off."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import Space, gray_of
from kyanoscript.core.geometry import Framing
from kyanoscript.core.mend import lens
from kyanoscript.core.params import length, number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import grain_of
from kyanoscript.core.watching import Watch, unwatched

_LOW, _HIGH = 0.1, 10.0  # thousandths of the longer side
_SEEN = 0.3  # pixels: a narrower softness is not seen at this size
_PART = 512  # pixels: the side of the middle that grain is measured in


class OldLens(Pass):
    """A blur taken back where the picture is more than its grain."""

    kind: ClassVar[str] = "old-lens"
    label: ClassVar[str] = "Old lens"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "The softness of an old lens or of bad focus, taken off"
    use: ClassVar[str] = "Early, on soft scans and photographs slightly out of focus"
    beware: ClassVar[str] = "More than the softness there is makes ringing and grain"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "as soft as its edges are": {"auto": True, "amount": 100.0},
        "half of it": {"auto": True, "amount": 50.0},
        "a soft portrait lens": {"auto": False, "width": 0.9, "amount": 70.0},
    }
    pointwise: ClassVar[bool] = False
    suggests: ClassVar[tuple[str, ...]] = ("width",)
    samples: ClassVar[dict[str, Any]] = {"width": 2.0}

    amount: float = number(100, 0, 150, "%", "Amount", "How much of the softness is taken off")
    width: float = length(0.6, _LOW, _HIGH, "Width", "How wide the sharpest edges are: the blur's sigma", step=0.05)
    auto: bool = toggle(False, "Width from the picture", "As wide as its sharpest edges are")

    def margin(self, longer: float) -> int:
        return lens.margin(self.width / 1000 * longer)

    def apply(self, planes: Planes, place: Place) -> Planes:
        sigma = place.pixels(self.width)
        if sigma < _SEEN or not self.amount:
            return place.inner(planes)
        grain = 0.0
        if place.ground is not None:
            grain = place.ground.memo(("lens grain", place.chain, place.scale), lambda: _grain(place))
        return place.inner(lens.taken_off(planes, sigma, grain, self.amount / 100))

    def suggest(self, proxy: Planes, framing: Framing, space: Space, watch: Watch = unwatched) -> dict[str, Any]:
        found = lens.width(gray_of(np.ascontiguousarray(proxy, np.float32), space)[0])
        longer = max(framing.photo) * proxy.shape[2] / framing.width
        return {"width": round(min(max(1000 * found / longer, _LOW), _HIGH), 3), "auto": False}


def _grain(place: Place) -> float:
    """Of the middle of what comes into the pass, at this size."""
    ground = place.ground
    assert ground is not None
    width, height = ground.framing.size(place.scale)
    wide, high = min(width, _PART), min(height, _PART)
    part = Rect((width - wide) // 2, (height - high) // 2, wide, high)
    return grain_of(gray_of(ground.inputs("print", part, place.scale), place.space)[0])
