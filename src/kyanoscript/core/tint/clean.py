"""Noise: of the chroma, calmed along the edges of the lightness; of the gray, by other places that look alike."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Planes
from kyanoscript.core.smooth import grain_of
from kyanoscript.core.tint.spline import Field
from kyanoscript.core.watching import breathe

PATCH, SEARCH = 5, 15  # pixels: what is compared, and where it is looked for
REACH = PATCH // 2 + SEARCH // 2  # pixels around a region that calming looks at
_AT_ONCE = 120_000  # pixels of a band
_PER_SIGMA = 1.1  # OpenCV's h to the noise's sigma: the best of 0.7 to 1.2 at sigma 12, measured


def calm_chroma(lightness: Field, chroma: Field, radius: int = 4, softness: float = 1.0) -> Field:
    """Chroma ``(2, h, w)`` by the guided filter with the lightness ``(h, w)``, 0…100, as its guide (He 2010)."""
    window = (2 * radius + 1, 2 * radius + 1)

    def mean(plane: Field) -> Field:
        return np.asarray(cv2.blur(plane, window, borderType=cv2.BORDER_REFLECT), np.float32)

    middle = mean(lightness)
    varies = mean(lightness * lightness) - middle * middle + np.float32(softness * softness)
    out = np.empty_like(chroma)
    for k, plane in enumerate(chroma):
        average = mean(plane)
        gain = ((mean(plane * lightness) - average * middle) / varies).astype(np.float32)
        out[k] = mean(gain) * lightness + mean(average - gain * middle)
    return out


def without_grain(lightness: Field) -> Field:
    """A small lightness ``(h, w)``, 0…100, without its grain, however strong that is: for telling what is where."""
    levels = np.rint(np.clip(lightness, 0, 100) * 2.55).astype(np.uint8)
    calmed = _by_bands(levels, 1.2 * grain_of(levels))
    return (calmed / np.float32(2.55)).astype(np.float32)


def _by_bands(levels: NDArray[np.uint8], strength: float) -> NDArray[np.uint8]:
    """Non-local means in bands of rows, between which it can be ended."""
    rows = max(32, _AT_ONCE // levels.shape[1])
    out = np.empty_like(levels)
    for y in range(0, len(levels), rows):
        breathe()
        above, below = min(y, REACH), REACH
        part = np.ascontiguousarray(levels[y - above : y + rows + below])
        out[y : y + rows] = cv2.fastNlMeansDenoising(part, None, strength, PATCH, SEARCH)[above : above + rows]
    return out


def calm_gray(gray: Planes, sigma: float) -> Planes:
    """An encoded gray ``(1, h, w)`` without noise of ``sigma`` levels of 255: non-local means (Buades et al. 2005).

    What is taken away is found in 8 bits and taken from the finer values, so that no steps appear. The rim of `REACH`
    pixels is only looked at.
    """
    if sigma < 0.5:
        return gray
    levels = np.rint(np.clip(gray[0], 0, 1) * 255).astype(np.uint8)
    calmed = _by_bands(levels, _PER_SIGMA * sigma)
    made = gray[0] + (calmed.astype(np.float32) - levels) / np.float32(255)
    return np.ascontiguousarray(np.clip(made, 0, 1)[None], np.float32)
