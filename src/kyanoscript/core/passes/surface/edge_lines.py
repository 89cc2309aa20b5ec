"""Edge lines: outlines found in the print, dark on white.

A line lies along the ridge of steepness, and is as wide as is asked for, however high the edge is: across an edge that
is blurred, by the lens and by us, steepness is a Gaussian bell, so that its logarithm is a parabola, and three places
of it tell how far away the ridge is (in the manner of ridge and stroke, Kang, Lee and Chui, "Coherent line drawing",
NPAR 2007, without their flow along the edge). How high the edge is, is the area under the bell.

In the first form it is the steepness itself, by Sobel's operator (Sobel and Feldman 1968), scaled as in scikit-image,
after a blur as wide as the lines are to be: high edges are drawn twice as wide.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

from typing import Any, ClassVar, Literal

import numpy as np

from kyanoscript.core import colour, smooth
from kyanoscript.core.blend import BlendMode
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import exp2, log2
from kyanoscript.core.params import length, number
from kyanoscript.core.passes.base import Pass, form, laid_over
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place

f = np.float32
_WIDEST = 4.0  # times the narrowest: what is wider is a slow passage, and counts as if it were no wider
_NARROWEST = 0.75  # of our blur: what falls faster is where that is cut off, and no bell


class EdgeLines(Pass):
    """Outlines."""

    kind: ClassVar[str] = "edge-lines"
    label: ClassVar[str] = "Edge lines"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Outlines, dark on white"
    use: ClassVar[str] = "For drawings out of photographs, or a metal's fine lines"
    beware: ClassVar[str] = "Texture becomes scribble: less sensitive, or soften before it"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "pen": {"thickness": 0.8, "sensitivity": 30.0},
        "fine pencil": {"thickness": 0.5, "sensitivity": 55.0, "strength": 70.0},
        "thick contours": {"thickness": 2.4, "sensitivity": 15.0},
        "every edge": {"thickness": 0.6, "sensitivity": 85.0},
    }
    pointwise: ClassVar[bool] = False

    of: Literal[1, 2] = form("high edges are drawn wider", "every line as wide as is asked for")
    thickness: float = length(0.8, 0.1, 10, "Thickness", "How wide lines are", step=0.1)
    sensitivity: float = number(30, 0, 100, "%", "Sensitivity", "How faint an edge is still drawn")
    blend: BlendMode = laid_over("multiply")

    def margin(self, longer: float) -> int:
        thickness = self.thickness / 1000 * longer
        if self.of > 1:
            sigma = _bell_of(thickness)
            return smooth.reach(sigma) + 2 + int(_apart(sigma))
        return smooth.reach(self._sigma(thickness)) + 1

    @staticmethod
    def _sigma(thickness: float) -> float:
        """A blur that makes edges about as wide."""
        return thickness / 2 if thickness > 0.5 else 0.0

    def apply(self, planes: Planes, place: Place) -> Planes:
        thickness = place.pixels(self.thickness)
        if self.of > 1:
            return self._ridges(colour.gray_of(planes, place.space), place, thickness)
        gray = smooth.gaussian(colour.gray_of(planes, place.space), self._sigma(thickness))
        out = np.empty((1, gray.shape[1] - 2, gray.shape[2] - 2), np.float32)
        steepness(gray, out, out.shape[2], out.shape[1])
        # A step of the height h is h/2 steep over one pixel, and over t pixels a t-th of that.
        least = f(0.5 * 10 ** (-2 * self.sensitivity / 100))
        found = out * f(max(thickness, 1.0)) / (least + f(1e-6))
        # A line is a pixel of the full print wide at least; where pixels are larger, it fills them in part.
        filled = f(min(1.0, max(thickness, place.scale)))
        return np.ascontiguousarray(1 - filled * np.clip(found - f(0.5), 0, 1))

    def _ridges(self, gray: Planes, place: Place, thickness: float) -> Planes:
        sigma = _bell_of(thickness)
        apart = int(_apart(sigma))
        cut = place.margin - self.margin(place.longer)
        inner = gray[:, cut : gray.shape[1] - cut, cut : gray.shape[2] - cut] if cut else gray
        blurred = smooth.gaussian(np.ascontiguousarray(inner), sigma)
        h, w = blurred.shape[1] - 2, blurred.shape[2] - 2
        steep, turned = np.empty((1, h, w), np.float32), np.empty((2, h, w), np.float32)
        slopes(blurred, steep, turned, w, h)
        out = np.empty((1, place.rect.height, place.rect.width), np.float32)
        least = 10 ** (-2 * self.sensitivity / 100)  # the step of a faint edge, of the way from black to white
        wide = max(thickness, min(place.scale, 1.0))
        draw(steep, turned, out, place.rect.width, place.rect.height, apart, wide, least, _NARROWEST * sigma)
        return out

    def grays(self) -> bool:
        return True


def _bell_of(thickness: float) -> float:
    """A blur in pixels that shows the bell of an edge as far as a line of that width reaches."""
    return max(0.9, thickness / 2.5)


def _apart(sigma: float) -> float:
    """Pixels between the places of the bell that are looked at."""
    return max(1.0, sigma / 2)


@kernel("f4* gray, f4* steep, f4* turned, i8 w, i8 h")
def slopes(gray, steep, turned, w, h):
    """How steep the gray is, and which way."""
    n, wide = w * h, w + 2
    for y in range(h):
        for x in range(w):
            at, k = (y + 1) * wide + x + 1, y * w + x
            across, down = (gray[at + 1] - gray[at - 1]) * f(0.5), (gray[at + wide] - gray[at - wide]) * f(0.5)
            size = np.sqrt(across * across + down * down)
            per = f(1.0) / (size + f(1e-12))
            steep[k], turned[k], turned[n + k] = size, across * per, down * per


@kernel("f4* steep, f4* turned, f4* out, i8 w, i8 h, i8 apart, f4 wide, f4 least, f4 narrowest")
def draw(steep, turned, out, w, h, apart, wide, least, narrowest):
    edge = apart + 1  # what the planes reach beyond the region
    across = w + 2 * edge
    n = across * (h + 2 * edge)
    step = f(apart)
    half = wide * f(0.5)
    # What a line's edge rises by is at most so many times as steep as it is in a pixel that the line still reaches.
    reached = (half + f(0.5)) / narrowest
    most = f(2.5066283 * _WIDEST) * narrowest * exp2(f(0.7213475) * min(reached * reached, f(12.0)))
    faint = max(f(0.5) * least / most, f(1e-6))
    for y in range(h):
        for x in range(w):
            k = (y + edge) * across + x + edge
            middle = steep[k]
            out[y * w + x] = f(1.0)
            if middle > faint:
                u, v = turned[k] * step, turned[n + k] * step
                ahead = max(between(steep, k, across, u, v), f(1e-9))
                behind = max(between(steep, k, across, -u, -v), f(1e-9))
                if ahead * behind < f(0.9993071) * middle * middle:  # a ridge: 2 to the power -1e-3
                    m = log2(middle)
                    a, b = log2(ahead) - m, log2(behind) - m
                    bend = a + b  # of the parabola; below 0 on a ridge
                    away = f(0.5) * (b - a) / bend * step
                    # -bend/step² is what the parabola falls by: log2(e)/s² of a bell of the width s
                    s = step * np.sqrt(f(1.442695) / -bend)
                    wide_bell = min(s, f(_WIDEST) * narrowest)
                    rise = f(2.5066283) * wide_bell * middle * exp2(f(0.7213475) * min(away * away / (s * s), f(12.0)))
                    told = min(max(rise / least - f(0.5), f(0.0)), f(1.0)) if s > narrowest else f(0.0)
                    filled = min(max(half + f(0.5) - abs(away), f(0.0)), min(wide, f(1.0)))
                    out[y * w + x] = f(1.0) - told * filled


@helper
def between(steep, k, across, u, v):
    """The steepness beside a pixel, straight between four."""
    x0, y0 = np.int64(np.floor(u)), np.int64(np.floor(v))
    tx, ty = u - f(x0), v - f(y0)
    at = k + y0 * across + x0
    top = steep[at] + tx * (steep[at + 1] - steep[at])
    low = steep[at + across] + tx * (steep[at + across + 1] - steep[at + across])
    return top + ty * (low - top)


# The first form


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
