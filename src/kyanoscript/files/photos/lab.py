"""CIELAB as TIFF files hold it, to RGB of a space.

Sources: TIFF 6.0, section 23 (CIELAB: L* unsigned, a* and b* signed), Adobe's TIFF technical note on ICCLAB (all
unsigned, a* and b* from 128), CIE 15 (L*a*b* to XYZ). The white is taken as D50, as programs write it (common practice,
no source).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import D50, Space, to_encoded
from kyanoscript.files.colour.profiles import within_integers

_ROWS = 1 << 16  # pixels converted in one go: every step in between is of doubles


def to_space(raw: NDArray[Any], unsigned: bool, space: Space) -> NDArray[np.uint16]:
    """RGB ``(h, w, 3)`` of stored values ``(h, w, 3)`` of 8 or 16 bits; colours outside the space are fitted into it.

    ``unsigned``: a* and b* are stored from 128 up (ICCLAB) instead of signed.
    """
    height, width = raw.shape[:2]
    out = np.empty((height, width, 3), np.uint16)
    rows = max(1, _ROWS // max(1, width))
    for y in range(0, height, rows):
        rgb = to_encoded(xyz_of(*_stored(raw[y : y + rows], unsigned)) @ space.from_d50.T)
        out[y : y + rows] = within_integers(rgb, space)
    return out


def _stored(raw: NDArray[Any], unsigned: bool) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
    """L* 0…100, a*, b* of stored values."""
    wide = raw.dtype.itemsize == 2
    step = 256.0 if wide else 1.0
    light = raw[..., 0].view(f"u{raw.dtype.itemsize}") / ((0xFF00 if unsigned else 0xFFFF) if wide else 255.0) * 100
    if unsigned:
        a, b = (raw[..., k].view(f"u{raw.dtype.itemsize}") / step - 128 for k in (1, 2))
    else:
        a, b = (raw[..., k].view(f"i{raw.dtype.itemsize}") / step for k in (1, 2))
    return light, a, b


def xyz_of(light: Any, a: Any, b: Any) -> NDArray[np.float64]:
    """CIE XYZ ``(…, 3)`` under D50, white 1, of L*a*b* (CIE 15)."""
    fy = (np.asarray(light, np.float64) + 16) / 116
    t = np.stack([fy + np.asarray(a) / 500, fy, fy - np.asarray(b) / 200], -1)
    return np.where(t > 6 / 29, t**3, 3 * (6 / 29) ** 2 * (t - 4 / 29)) * D50
