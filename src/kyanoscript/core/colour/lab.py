"""CIE L*, a*, b* (CIE 15), against the space's own white."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.core.colour.luminance import luminance
from kyanoscript.core.colour.space import Space
from kyanoscript.core.colour.transfer import to_light


def lightness(planes: ArrayLike, space: Space) -> NDArray[np.float64]:
    """CIE L* (0…100, CIE 15) of encoded planes ``(1 or 3, …)`` against the space's white."""
    y = luminance(planes, space)
    return np.where(y > (6 / 29) ** 3, 116 * np.cbrt(y) - 16, y * (29 / 3) ** 3)


def to_lab(planes: ArrayLike, space: Space) -> NDArray[np.float64]:
    """CIE L*, a*, b* (CIE 15) of encoded planes ``(3, …)``, against the space's white."""
    xyz = np.tensordot(space.to_xyz, to_light(planes), 1) / space.to_xyz.sum(1).reshape(3, *[1] * (np.ndim(planes) - 1))
    t = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.stack([116 * t[1] - 16, 500 * (t[0] - t[1]), 200 * (t[1] - t[2])])
