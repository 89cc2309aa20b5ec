"""The print that is followed: its own part, without mount and border, and the tint of each of its tones."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import SRGB, to_encoded, to_lab
from kyanoscript.core.picture import Planes, Rect

Array = NDArray[np.float64]

_FLAT, _ALIKE = 2.5, 5.0  # L*: how much a line of a border may vary in itself, and from the rim
_WIDEST = 0.25  # of a side: a border is no wider
_BINS = 16  # tones of the ladder
_FEWEST = 12  # pixels that a tone needs
_TINTED = 1.5  # CIE chroma of a ladder, under which it is neutral
_ONE_TINT = 6.0  # CIE a*, b*: how far colours of one tone may lie apart, in the mean


@dataclass(frozen=True, eq=False)
class Ladder:
    """The tint of each tone of a print, dark to light."""

    light: Array  # (n,) L*
    a: Array  # (n,)
    b: Array  # (n,)
    spread: float  # how far the colours of one tone lie apart, in the mean
    grays: Array | None = None  # (n,) where lightness does not tell them: the encoded grays that became these colours

    @property
    def tinted(self) -> bool:
        """Whether there is any tint."""
        return bool(len(self.light)) and float(np.hypot(self.a, self.b).mean()) > _TINTED

    @property
    def one_tint(self) -> bool:
        """Whether each tone has one tint; a colour photograph has many."""
        return self.spread < _ONE_TINT

    def at(self, light: Array) -> tuple[Array, Array]:
        """The tint of any lightnesses."""
        return np.interp(light, self.light, self.a), np.interp(light, self.light, self.b)


def ladder(lab: Array) -> Ladder:
    """Of a print's L*, a*, b* ``(3, p)``: medians, so that dust, marks and a few stray colours do not count."""
    light, a, b = lab
    low, high = np.percentile(light, [0.2, 99.8])
    edges = np.linspace(low, high, _BINS + 1)
    at = np.clip(np.searchsorted(edges, light, side="right") - 1, 0, _BINS - 1)
    rows, spread = [], []
    for k in range(_BINS):
        here = at == k
        if here.sum() < _FEWEST:
            continue
        row = [float(np.median(values[here])) for values in (light, a, b)]
        rows.append(row)
        spread.append(float(np.hypot(a[here] - row[1], b[here] - row[2]).mean()) * here.sum())
    if not rows:
        rows, spread = [[float(np.median(values)) for values in lab]], [0.0]
    found = np.array(rows).T
    return Ladder(found[0], found[1], found[2], sum(spread) / light.size)


def colours_along(gray: Array, lab: Array) -> Ladder:
    """The colours ``(3, p)`` that grays ``(p,)`` of another picture have become; their lightness may turn."""
    edges = np.linspace(gray.min(), gray.max() + 1e-6, _BINS + 1)
    at = np.searchsorted(edges, gray, side="right") - 1
    some = [k for k in range(_BINS) if (at == k).sum() >= _FEWEST]
    rows = [[float(np.median(gray[at == k])), *(float(np.median(values[at == k])) for values in lab)] for k in some]
    found = np.array(rows).T
    return Ladder(found[1], found[2], found[3], 0.0, found[0])


def inside(planes: Planes) -> tuple[Rect, bool]:
    """The part of a picture within its border or mount, and whether there is one: lines from the rim that are as even
    as paper. A little more is cut then, for edges that lie askew."""
    light = to_lab(planes, SRGB)[0]
    height, width = light.shape

    def margin(lines: Array) -> int:
        first = np.median(lines[0])
        most = int(_WIDEST * len(lines))
        for k in range(most):
            if np.subtract(*np.percentile(lines[k], [90, 10])) > _FLAT or abs(np.median(lines[k]) - first) > _ALIKE:
                return k
        return 0  # even as far as one looks: a sky, not a border

    sides = [margin(lines) for lines in (light, light[::-1], light.T, light.T[::-1])]
    least = max(2, round(0.008 * max(height, width)))
    if sum(side >= least for side in sides) < 3:  # a sky, or water, is even on one side or two
        return Rect(0, 0, width, height), False
    more = round(0.02 * max(height, width))
    top, bottom, left, right = (side + more for side in sides)
    return Rect(left, top, width - left - right, height - top - bottom), True


def gray_of_light(light: Array) -> Array:
    """The encoded gray, 0…1, of a CIE L*."""
    t = (np.asarray(light, float) + 16) / 116
    y = np.where(t > 6 / 29, t**3, 3 * (6 / 29) ** 2 * (t - 4 / 29))
    return np.asarray(to_encoded(np.clip(y, 0.0, 1.0)), float)


def light_of_gray(gray: Array) -> Array:
    """The CIE L* of an encoded gray."""
    flat = np.asarray(gray, np.float32).reshape(1, -1)
    return to_lab(np.repeat(flat, 3, axis=0), SRGB)[0].reshape(np.shape(gray))
