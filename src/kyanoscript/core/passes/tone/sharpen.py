"""Sharpen: the unsharp mask, ``v + amount · (v − blurred v)``.

As in scikit-image's `unsharp_mask`, but on the brightness alone, so that coloured edges get no coloured fringes.
Differences below the threshold are left alone.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import luma
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, blur_margin

f = np.float32


class Sharpen(Pass):
    """Unsharp mask."""

    kind: ClassVar[str] = "sharpen"
    label: ClassVar[str] = "Sharpen"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Edges and grain brought out"
    use: ClassVar[str] = "Near the end, for the size of the print; or far too much, on purpose"
    beware: ClassVar[str] = "Bright rims beside dark edges; noise of skies comes with it"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "for the screen": {"amount": 70.0, "radius": 0.4, "threshold": 0.0},
        "for a large print": {"amount": 120.0, "radius": 0.25, "threshold": 2.0},
        "portrait: edges, not pores": {"amount": 90.0, "radius": 0.7, "threshold": 8.0},
        "grain brought out": {"amount": 320.0, "radius": 0.3, "threshold": 0.0},
        "etched": {"amount": 260.0, "radius": 2.0, "threshold": 4.0},
    }
    samples: ClassVar[dict[str, Any]] = {"radius": 3, "amount": 200}
    pointwise: ClassVar[bool] = False

    amount: float = number(100, 0, 500, "%", "Amount", "Far beyond 100 brings out grain")
    radius: float = length(0.4, 0.02, 20, "Radius", "How far from an edge it acts", step=0.05)
    threshold: float = number(0, 0, 255, "", "Threshold", "Differences smaller than this are left alone")

    def margin(self, longer: float) -> int:
        return blur_margin(self.radius / 1000 * longer)

    def apply(self, planes: Planes, place: Place) -> Planes:
        soft = place.blurred(planes, place.pixels(self.radius), luma)
        base = place.inner(planes)
        out = np.empty_like(base)
        gray = luma(base)
        for k in range(len(base)):
            add_detail(base[k], gray, soft, out[k], soft.size, self.amount / 100, self.threshold / 255)
        return out


@kernel("f4* base, f4* gray, f4* soft, f4* out, i8 n, f4 amount, f4 threshold")
def add_detail(base, gray, soft, out, n, amount, threshold):
    for k in range(n):
        detail = gray[k] - soft[k]
        detail = detail if abs(detail) >= threshold else f(0.0)
        out[k] = min(max(base[k] + amount * detail, f(0.0)), f(1.0))
