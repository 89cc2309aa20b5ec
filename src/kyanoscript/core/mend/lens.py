"""The softness of an old lens taken off: how wide it is, is found at the picture's edges.

An edge that is blurred once more loses the less of its steepness the softer it was (Zhuo and Sim, "Defocus map
estimation from a single image", Pattern Recognition 44, 2011). The blur is taken back by the first steps of Van
Cittert's series (Zeitschrift für Physik 69, 1931), a sum of Gaussians, so that any part of a print is the whole's part;
and only where the picture does more than its grain (Lee, IEEE PAMI 2, 1980), which would be made coarser.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2

Field = NDArray[np.float32]
Planes = NDArray[np.float32]

_AGAIN = 1.0  # sigma of the blur that edges are compared with, pixels
_EDGES = 0.02  # of the pixels: the steepest
_LEAST, _MOST = 0.8, 6.0  # sigmas in pixels: sharper pictures are left as they are, softer ones have no edges
_SERIES = (4.0, -6.0, 4.0, -1.0)  # of the picture and of the picture blurred once, twice, three times: four steps
_BEFORE, _GRAINY, _SLIGHT = 0.5, 0.01, 0.2  # sigmas that grain is softened by, from how much grain on; less is nothing
_GRAIN = 1.5  # variances of the grain that a place must have for half of it


def width(gray: Field) -> float:
    """The sigma, in pixels, of an encoded gray's own blur at its sharpest edges; 0 where it is sharp or has none."""
    if min(gray.shape) < 32:
        return 0.0
    once = _blurred(gray, _AGAIN)
    # Grain has steep places too: both are looked at after a first blur, which is taken off again.
    twice = _blurred(once, _AGAIN)
    first, second = (_steep(field) for field in (once, twice))
    edge = first >= np.quantile(first, 1 - _EDGES)
    ratio = first[edge] / np.maximum(second[edge], 1e-6)
    ratio = ratio[ratio > 1.001]
    if not ratio.size or float(np.median(first[edge])) < 0.01:
        return 0.0
    # Of the steepest places the steeper half of ratios: the sharpest edges, not those of what is out of focus.
    sharp = float(np.quantile(ratio, 0.75))
    blurred = _AGAIN / math.sqrt(sharp * sharp - 1)  # with the first blur
    own = math.sqrt(max(0.0, blurred * blurred - _AGAIN * _AGAIN))
    return own if _LEAST <= own <= _MOST else 0.0


def margin(sigma: float) -> int:
    """Pixels that a part depends on round itself."""
    return math.ceil(10 * sigma) + 3


def taken_off(planes: Planes, sigma: float, grain: float, share: float) -> Planes:
    """Encoded planes ``(1 or 3, h, w)`` without a blur of ``sigma`` pixels.

    Parameters
    ----------
    grain : standard deviation of the picture's grain, encoded; where there is some, it is softened before.
    share : 0…1, how much of it.
    """
    before = _BEFORE * sigma * min(1.0, grain / _GRAINY)
    left = grain * grain * (min(1.0, 1 / (4 * math.pi * before * before)) if before > 0 else 1.0)
    out = np.empty_like(planes)
    for plane, made in zip(planes, out, strict=True):
        calm = _blurred(plane, before) if before > _SLIGHT else plane
        blurred = [_blurred(calm, sigma * math.sqrt(k)) for k in (1, 2, 3)]
        whole = np.float32(_SERIES[0]) * calm
        for factor, field in zip(_SERIES[1:], blurred, strict=True):
            whole += np.float32(factor) * field
        detail = calm - blurred[0]
        near = _blurred(detail * detail, max(1.0, sigma))
        there = np.clip((near - np.float32(left)) / (near + np.float32(_GRAIN * left + 1e-7)), 0, 1)
        made[:] = np.clip(plane + np.float32(share) * there * (whole - calm), 0, 1)
    return out


def _blurred(field: Field, sigma: float) -> Field:
    return np.asarray(cv2.GaussianBlur(field, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE), np.float32)


def _steep(field: Field) -> Field:
    across, down = (cv2.Sobel(field, cv2.CV_32F, *order, scale=1 / 8) for order in ((1, 0), (0, 1)))
    return np.asarray(np.hypot(across, down), np.float32)
