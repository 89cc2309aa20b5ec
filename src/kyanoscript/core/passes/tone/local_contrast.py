"""Local contrast: fine texture and broad modelling, each brought out or softened.

The brightness is parted by two guided filters (see `kyanoscript.core.smooth`) into a broad base, what lies between the
two bases, and the finest detail; each part is multiplied. Edges stay in the base, so that they get no halos.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from kyanoscript.core.colour import luma
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place, guided_margin

f = np.float32
_FINE, _BROAD = 1.4, 14.0  # thousandths of the longer side: our own, judged on the demo photographs
_FINE_EDGE, _BROAD_EDGE = 0.05, 0.04  # contrast of what counts as an edge
_MOST = 3.0  # how much a part is strengthened at 100


class LocalContrast(Pass):
    """Fine and broad contrast, edge-aware."""

    kind: ClassVar[str] = "local-contrast"
    label: ClassVar[str] = "Local contrast"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Texture brought out, or smoothed away"
    samples: ClassVar[dict[str, Any]] = {"fine": 70, "broad": 50}
    pointwise: ClassVar[bool] = False

    fine: float = number(30, -100, 100, "", "Fine", "Texture; below 0 smooth, as through a smeared lens")
    broad: float = number(0, -100, 100, "", "Broad", "Modelling of larger forms; below 0 flat")

    def margin(self, longer: float) -> int:
        if not self.fine and not self.broad:
            return 0
        sizes = (_FINE, _BROAD) if self.broad else (_FINE,)  # a broad one is made from a coarse picture: no margin
        return max(guided_margin(size / 1000 * longer) for size in sizes)

    def apply(self, planes: Planes, place: Place) -> Planes:
        base = place.inner(planes)
        if not self.fine and not self.broad:
            return base
        gray = luma(base)
        fine = place.guided(planes, place.pixels(_FINE), _FINE_EDGE, luma)  # broad contrast ends where it begins
        broad = place.guided(planes, place.pixels(_BROAD), _BROAD_EDGE, luma) if self.broad else fine
        out = np.empty_like(base)
        by_fine, by_broad = (v / 100 * (_MOST if v > 0 else 1) for v in (self.fine, self.broad))
        for k in range(len(base)):
            stretch(base[k], gray, fine, broad, out[k], gray.size, by_fine, by_broad)
        return out


@kernel("f4* base, f4* gray, f4* fine, f4* broad, f4* out, i8 n, f4 by_fine, f4 by_broad")
def stretch(base, gray, fine, broad, out, n, by_fine, by_broad):
    if by_broad == f(0.0):
        for k in range(n):
            v = gray[k]
            out[k] = min(max(base[k] + by_fine * (v - fine[k] * v - fine[n + k]), f(0.0)), f(1.0))
    else:
        for k in range(n):
            v = gray[k]
            near, far = fine[k] * v + fine[n + k], broad[k] * v + broad[n + k]
            out[k] = min(max(base[k] + by_fine * (v - near) + by_broad * (near - far), f(0.0)), f(1.0))
