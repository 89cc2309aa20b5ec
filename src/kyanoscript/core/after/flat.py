"""A print of two flat tones, as a poster, a stencil or a cut block has: its two colours, and where tones part."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, maximum_filter, minimum_filter

from kyanoscript.core.after.found import Found
from kyanoscript.core.after.picture import Array, Ladder
from kyanoscript.core.after.tint import mapped
from kyanoscript.core.passes.tone.threshold import Threshold, parting
from kyanoscript.translation import spoken, tr

_APART = 40.0  # L* between the two
_SPREAD = (8.0, 12.0, 12.0)  # L*, a*, b* that eight in ten of a flat tone may differ: grain, paper, uneven light, JPEG
_LEAST = 0.03  # of the print, that each tone takes
_INSIDE = 0.3  # of the print, away from edges: a drawing in lines, or a screen, has no tones that lie flat
_EDGE = 160  # of the longer side, that an edge takes to either side


def two_tones(lab: Array) -> Ladder | None:
    """The two colours of a print's L*, a*, b* ``(3, h, w)``, the darker first, as what black and white become; None if
    it has tones between them."""
    light = gaussian_filter(lab[0], 0.7)
    levels = np.clip(light * 2.55, 0, 255).astype(np.uint8)
    above = levels >= parting(levels)
    across = 2 * max(2, round(max(light.shape) / _EDGE)) + 1
    lone = (minimum_filter(above, across) == above) & (maximum_filter(above, across) == above)
    if lone.mean() < _INSIDE or not _LEAST < above.mean() < 1 - _LEAST:
        return None
    sides = [lone & ~above, lone & above]
    if any(side.sum() < 0.2 * _LEAST * light.size for side in sides):
        return None
    for plane, most in zip((light, *lab[1:]), _SPREAD, strict=True):
        if max(float(np.subtract(*np.percentile(plane[side], [90, 10]))) for side in sides) > most:
            return None
    colours = np.array([[np.median(plane[side]) for side in sides] for plane in lab])
    if colours[0, 1] - colours[0, 0] < _APART:
        return None
    return Ladder(colours[0], colours[1], colours[2], 0.0, np.array([0.0, 1.0]))


def parted_at(gray: Array, above: NDArray[np.bool_]) -> int:
    """The level, 0…255, from which an encoded gray is the lighter tone: fewest pixels are taken for the other then."""
    levels = np.clip(gray * 255 + 0.5, 0, 255).astype(np.uint8)
    dark, light = (np.bincount(levels[side], minlength=256) for side in (~above, above))
    wrong = np.concatenate([[0], np.cumsum(light)]) + dark.sum() - np.concatenate([[0], np.cumsum(dark)])
    return int(np.argmin(wrong[:256]))


def flat_tones(colours: Ladder, level: int | None = None) -> list[Found]:
    """Two flat tones and their colours; without a level they part where the photograph's own tones part best."""
    if level is None:
        tones, words = Threshold(auto=True), spoken("two flat tones, parted where those of this photograph part best")
    else:
        tones, words = Threshold(level=level), tr("two flat tones, parted at {level}", level=level)
    step, (dark, light) = mapped(colours), colours.light
    found = tr("{low:.0f} to {high:.0f} L*, as {name}", low=dark, high=light, name=spoken(step.label))
    return [Found("tones", "Tones", words, (tones,)), Found("tint", "Tint along the ladder", found, (step,))]
