"""Sharpening for paper: of L*, at the size that it is printed at, where there is an edge.

Ink spreads and rough paper swallows what is fine. What is flat stays as it is, its grain too: a place counts as an edge
by how steeply the softened picture goes there, which noise does not. A print that is looked at from further away is
sharpened more broadly: what is fine is what the eye finds fine from there. The way of it is our own, no source.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space
from kyanoscript.core.late import cv2
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.picture import Planes

RADIUS = 0.1  # mm on paper: sigma of what is fine at reading distance
_STEEP = (12.0, 40.0)  # L* per millimetre: nothing is sharpened below, and all of it above
_MOST = 12.0  # L*: no edge gains more

Field = NDArray[np.float32]


def margin(ppi: float, away: float = 1.0) -> int:
    """Pixels that a region depends on around itself."""
    return int(np.ceil(3.5 * 2 * RADIUS * away * ppi / INCH)) + 2


def sharpened(planes: Planes, space: Space, amount: float, ppi: float, away: float = 1.0) -> Planes:
    """Encoded planes ``(1 or 3, h, w)`` sharpened for paper.

    Parameters
    ----------
    amount : 0…; 1 doubles the contrast of what is fine at an edge.
    ppi : pixels per inch on paper.
    away : reading distances that it is looked at from, 1…
    """
    sigma = RADIUS * away * ppi / INCH
    light = np.maximum(colour.to_light_planes(planes), 0)
    weights = np.asarray(space.luminance if len(light) == 3 else (1.0,), np.float32)
    tone = _lightness(np.tensordot(weights, light, 1))
    soft = cv2.GaussianBlur(tone, (0, 0), max(sigma, 0.3), borderType=cv2.BORDER_REPLICATE)
    softer = cv2.GaussianBlur(soft, (0, 0), max(1.7 * sigma, 0.5), borderType=cv2.BORDER_REPLICATE)
    across, down = cv2.Sobel(softer, cv2.CV_32F, 1, 0, scale=1 / 8), cv2.Sobel(softer, cv2.CV_32F, 0, 1, scale=1 / 8)
    steep = np.hypot(across, down) * np.float32(away * ppi / INCH)
    share = np.clip((steep - _STEEP[0]) / (_STEEP[1] - _STEEP[0]), 0, 1)
    more = np.clip(np.float32(amount) * share * (tone - soft), -_MOST, _MOST)
    wanted = np.clip(tone + more, 0, 100)
    ratio = _luminance(wanted) / np.maximum(_luminance(tone), 1e-5)
    out = colour.to_encoded_planes(np.asarray(light * ratio, np.float32))
    untouched = np.abs(more) < 1e-4
    return np.ascontiguousarray(np.where(untouched, planes, np.clip(out, 0, 1)), np.float32)


def _lightness(y: Field) -> Field:
    """CIE L* (CIE 15) of relative luminance."""
    return np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3).astype(np.float32)


def _luminance(tone: Field) -> Field:
    return np.where(tone > 8, ((tone + 16) / 116) ** 3, tone * (3 / 29) ** 3).astype(np.float32)
