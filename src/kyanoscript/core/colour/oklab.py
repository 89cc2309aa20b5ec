"""Oklab and Oklch: B. Ottosson, "A perceptual color space for image processing" (2020)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.transfer import to_encoded, to_light

# Oklab, Ottosson 2020: linear sRGB -> LMS, then LMS' -> Lab
_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_TO_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)


def to_oklab(planes: ArrayLike) -> NDArray[np.float64]:
    """Oklab (L 0…1, a, b) of encoded sRGB planes ``(3, …)`` (Ottosson 2020)."""
    lms = np.cbrt(np.tensordot(_TO_LMS, to_light(planes), 1))
    return np.tensordot(_TO_OKLAB, lms, 1)


def from_oklab(lab: ArrayLike) -> NDArray[np.float64]:
    """Encoded sRGB planes of Oklab ``(3, …)``; colours outside sRGB come out below 0 or above 1."""
    lms = np.tensordot(np.linalg.inv(_TO_OKLAB), np.asarray(lab, np.float64), 1)
    return to_encoded(np.tensordot(np.linalg.inv(_TO_LMS), lms**3, 1))


def to_oklch(planes: ArrayLike) -> NDArray[np.float64]:
    """Oklab lightness 0…1, chroma, and hue in degrees 0…360 of encoded planes ``(3, …)``."""
    lightness_, a, b = to_oklab(planes)
    return np.stack([lightness_, np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360])


def fitted(lab: ArrayLike) -> NDArray[np.float64]:
    """Encoded sRGB planes 0…1 of Oklab ``(3, …)``, lightness held between black and white.

    Out of gamut, chroma is lowered until it fits: hue and lightness stay.
    """
    lightness_, a, b = np.asarray(lab, np.float64)
    lightness_ = np.clip(lightness_, 0, 1)
    low, high = np.zeros_like(lightness_), np.ones_like(lightness_)
    kept = np.where(_inside(from_oklab(np.stack([lightness_, a, b]))), 1.0, 0.0)
    for _ in range(24):
        middle = (low + high) / 2
        fits = _inside(from_oklab(np.stack([lightness_, middle * a, middle * b])))
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    kept = np.maximum(kept, low)
    return np.clip(from_oklab(np.stack([lightness_, kept * a, kept * b])), 0, 1)


def from_oklch(lightness_: float, chroma: float, hue: float) -> tuple[float, float, float]:
    """Encoded sRGB 0…1 of one Oklch colour. Out of gamut, chroma is lowered until it fits: hue and lightness stay."""

    h = np.radians(hue)
    r, g, b = fitted([lightness_, chroma * np.cos(h), chroma * np.sin(h)])
    return float(r), float(g), float(b)


def _inside(rgb: NDArray[np.float64]) -> NDArray[np.bool_]:
    return np.asarray(np.all((rgb >= -1e-4) & (rgb <= 1 + 1e-4), axis=0))
