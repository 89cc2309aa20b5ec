"""Oklab and Oklch: B. Ottosson, "A perceptual color space for image processing" (2020)."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.space import SRGB, TO_OKLAB, Space
from kyanoscript.core.colour.transfer import to_encoded, to_light

_FROM_OKLAB = np.linalg.inv(TO_OKLAB)


def to_oklab(planes: ArrayLike, space: Space) -> NDArray[np.float64]:
    """Oklab (L 0…1, a, b) of encoded planes ``(3, …)`` of a space (Ottosson 2020)."""
    lms = np.cbrt(np.tensordot(space.to_lms, to_light(planes), 1))
    return np.tensordot(TO_OKLAB, lms, 1)


def from_oklab(lab: ArrayLike, space: Space) -> NDArray[np.float64]:
    """Encoded planes of Oklab ``(3, …)``; colours outside the space come out below 0 or above 1."""
    lms = np.tensordot(_FROM_OKLAB, np.asarray(lab, np.float64), 1)
    return to_encoded(np.tensordot(space.from_lms, lms**3, 1))


def to_oklch(planes: ArrayLike, space: Space) -> NDArray[np.float64]:
    """Oklab lightness 0…1, chroma, and hue in degrees 0…360 of encoded planes ``(3, …)``."""
    lightness_, a, b = to_oklab(planes, space)
    return np.stack([lightness_, np.hypot(a, b), np.degrees(np.arctan2(b, a)) % 360])


def fitted(lab: ArrayLike, space: Space, most: float = 1.0) -> NDArray[np.float64]:
    """Encoded planes 0…1 of Oklab ``(3, …)``, lightness held between black and white.

    Out of gamut, chroma is lowered until it fits: hue and lightness stay. ``most``: of a channel's light, which is held
    at 1 afterwards.
    """
    top = float(to_encoded(most))
    lightness_, a, b = np.asarray(lab, np.float64)
    lightness_ = np.clip(lightness_, 0, 1)
    low, high = np.zeros_like(lightness_), np.ones_like(lightness_)
    rgb = from_oklab(np.stack([lightness_, a, b]), space)
    inside = _inside(rgb, top)
    if inside.all():
        return np.clip(rgb, 0, 1)
    kept = np.where(inside, 1.0, 0.0)
    for _ in range(24):
        middle = (low + high) / 2
        fits = _inside(from_oklab(np.stack([lightness_, middle * a, middle * b]), space), top)
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    kept = np.maximum(kept, low)
    return np.clip(from_oklab(np.stack([lightness_, kept * a, kept * b]), space), 0, 1)


@functools.lru_cache(maxsize=4096)
def from_oklch(lightness_: float, chroma: float, hue: float) -> tuple[float, float, float]:
    """Encoded sRGB 0…1 of one Oklch colour. Out of gamut, chroma is lowered until it fits: hue and lightness stay."""
    h = np.radians(hue)
    r, g, b = fitted([lightness_, chroma * np.cos(h), chroma * np.sin(h)], SRGB)
    return float(r), float(g), float(b)


def _inside(rgb: NDArray[np.float64], top: float) -> NDArray[np.bool_]:
    return np.asarray(np.all((rgb >= -1e-4) & (rgb <= top + 1e-4), axis=0))
