"""CIE L*, a*, b* (CIE 15), against the display's white (D65)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.luminance import luminance
from kyanoscript.core.colour.transfer import to_light

# Linear sRGB -> CIE XYZ (IEC 61966-2-1)
_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])


def lightness(planes: ArrayLike) -> NDArray[np.float64]:
    """CIE L* (0…100, CIE 15) of encoded planes ``(1 or 3, …)`` against the display's white."""
    y = luminance(planes)
    return np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3)


def to_lab(planes: ArrayLike) -> NDArray[np.float64]:
    """CIE L*, a*, b* (CIE 15) of encoded sRGB planes ``(3, …)``, against the display's white (D65)."""
    xyz = np.tensordot(_TO_XYZ, to_light(planes), 1) / _TO_XYZ.sum(1).reshape(3, *[1] * (np.ndim(planes) - 1))
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[1] - 16, 500 * (t[0] - t[1]), 200 * (t[1] - t[2])])
