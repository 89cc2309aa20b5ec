"""The transfer curve of sRGB: IEC 61966-2-1. Encoded values and light run 0…1."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray


def to_light(encoded: ArrayLike) -> NDArray[np.float64]:
    """Linear light 0…1 from encoded sRGB values 0…1 (IEC 61966-2-1). Any shape; negative values pass through the
    straight part of the curve."""
    v = np.asarray(encoded, np.float64)
    return np.where(v <= 0.04045, v / 12.92, ((np.maximum(v, 0.04045) + 0.055) / 1.055) ** 2.4)


def to_encoded(light: ArrayLike) -> NDArray[np.float64]:
    """Encoded sRGB values from linear light (IEC 61966-2-1). Any shape."""
    v = np.asarray(light, np.float64)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * np.maximum(v, 0.0031308) ** (1 / 2.4) - 0.055)
