"""Fine detail: what a blur takes away, around mid gray. In overlay, soft light or glint it brings out lines."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.blend import BlendMode
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass, laid_over
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, blur_margin


class FineDetail(Pass):
    """High-pass: the print less its blur, on mid gray."""

    kind: ClassVar[str] = "fine-detail"
    label: ClassVar[str] = "Fine detail"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Fine lines and edges, to be laid over"
    use: ClassVar[str] = "To lay fine lines back over a toned or softened print"
    beware: ClassVar[str] = "Halos where its radius is wide"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "fine lines": {"radius": 1.0, "amount": 120.0, "blend": "overlay"},
        "relief": {"radius": 6.0, "amount": 150.0, "blend": "hard-light"},
        "soft punch": {"radius": 20.0, "amount": 80.0, "blend": "soft-light"},
        "metal's glint": {"radius": 1.5, "amount": 200.0, "blend": "glint"},
    }
    pointwise: ClassVar[bool] = False
    samples: ClassVar[dict[str, Any]] = {"radius": 6.0, "amount": 250.0}

    radius: float = length(1.5, 0.1, 100, "Radius", "Sigma of the Gaussian that is taken away", step=0.1)
    amount: float = number(100, 0, 500, "%", "Amount", "How far detail stands out from mid gray")
    blend: BlendMode = laid_over("overlay")

    def margin(self, longer: float) -> int:
        return blur_margin(self.radius / 1000 * longer)

    def apply(self, planes: Planes, place: Place) -> Planes:
        blurred = place.blurred(planes, place.pixels(self.radius), lambda p: colour.gray_of(p, place.space))
        gray = colour.gray_of(place.inner(planes), place.space)
        return np.clip(np.float32(0.5) + np.float32(self.amount / 100) * (gray - blurred), 0, 1)

    def grays(self) -> bool:
        return True
