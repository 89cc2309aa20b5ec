"""Edge lines: outlines found in the print, dark on white.

The steepness of the gray by Sobel's operator (Sobel and Feldman 1968), scaled as in scikit-image, after a blur as wide
as the lines are to be.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import ClassVar

import numpy as np

from kyanoscript.core import colour, smooth
from kyanoscript.core.blend import BlendMode
from kyanoscript.core.kernel import kernel
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass, laid_over
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32


class EdgeLines(Pass):
    """Outlines."""

    kind: ClassVar[str] = "edge-lines"
    label: ClassVar[str] = "Edge lines"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Outlines, dark on white"
    pointwise: ClassVar[bool] = False

    thickness: float = length(0.8, 0.1, 10, "Thickness", "How wide lines are", step=0.1)
    sensitivity: float = number(30, 0, 100, "%", "Sensitivity", "How faint an edge is still drawn")
    blend: BlendMode = laid_over("multiply")

    def margin(self, longer: float) -> int:
        return smooth.reach(self._sigma(self.thickness / 1000 * longer)) + 1

    @staticmethod
    def _sigma(thickness: float) -> float:
        """A blur that makes edges about as wide."""
        return thickness / 2 if thickness > 0.5 else 0.0

    def apply(self, planes: Planes, place: Place) -> Planes:
        thickness = place.pixels(self.thickness)
        gray = smooth.gaussian(colour.gray_of(planes, place.space), self._sigma(thickness))
        out = np.empty((1, gray.shape[1] - 2, gray.shape[2] - 2), np.float32)
        steepness(gray, out, out.shape[2], out.shape[1])
        # A step of the height h is h/2 steep over one pixel, and over t pixels a t-th of that.
        least = f(0.5 * 10 ** (-2 * self.sensitivity / 100))
        found = out * f(max(thickness, 1.0)) / (least + f(1e-6))
        # A line is a pixel of the full print wide at least; where pixels are larger, it fills them in part.
        filled = f(min(1.0, max(thickness, place.scale)))
        return np.ascontiguousarray(1 - filled * np.clip(found - f(0.5), 0, 1))

    def grays(self) -> bool:
        return True


@kernel("f4* gray, f4* out, i8 w, i8 h")
def steepness(gray, out, w, h):
    wide = w + 2
    for y in range(h):
        for x in range(w):
            a = y * wide + x
            b, c = a + wide, a + 2 * wide
            down = (gray[c] - gray[a]) + f(2.0) * (gray[c + 1] - gray[a + 1]) + (gray[c + 2] - gray[a + 2])
            across = (gray[a + 2] - gray[a]) + f(2.0) * (gray[b + 2] - gray[b]) + (gray[c + 2] - gray[c])
            out[y * w + x] = np.sqrt((down * down + across * across) * f(0.5)) * f(0.25)
