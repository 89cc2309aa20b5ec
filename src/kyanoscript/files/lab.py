"""CIELAB as TIFF files hold it, to sRGB.

Sources: TIFF 6.0, section 23 (CIELAB: L* unsigned, a* and b* signed), Adobe's TIFF technical note on ICCLAB (all
unsigned, a* and b* from 128), CIE 15 (L*a*b* to XYZ), Bradford adaptation from D50 to D65 as in ICC.1 annex E,
IEC 61966-2-1 (sRGB). The white is taken as D50, as programs write it (common practice, no source).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import to_encoded

_D50 = np.array([0.9642, 1.0, 0.8249])  # ICC.1: the profile connection space's white
_D65 = np.array([0.9505, 1.0, 1.0890])  # IEC 61966-2-1: the row sums of its matrix
_BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
_FROM_XYZ = np.linalg.inv(np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]))
_ADAPT = np.linalg.inv(_BRADFORD) @ np.diag(_BRADFORD @ _D65 / (_BRADFORD @ _D50)) @ _BRADFORD
_ROWS = 1 << 18  # pixels converted in one go: every step in between is of doubles


def to_srgb(raw: NDArray[Any], unsigned: bool) -> NDArray[np.uint16]:
    """sRGB ``(h, w, 3)`` of stored values ``(h, w, 3)`` of 8 or 16 bits; colours outside sRGB are held at its rim.

    ``unsigned``: a* and b* are stored from 128 up (ICCLAB) instead of signed.
    """
    height, width = raw.shape[:2]
    out = np.empty((height, width, 3), np.uint16)
    rows = max(1, _ROWS // max(1, width))
    for y in range(0, height, rows):
        rgb = to_encoded(xyz_of(*_stored(raw[y : y + rows], unsigned)) @ (_FROM_XYZ @ _ADAPT).T)
        out[y : y + rows] = np.rint(np.clip(rgb, 0, 1) * 65535)
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
    return np.where(t > 6 / 29, t**3, 3 * (6 / 29) ** 2 * (t - 4 / 29)) * _D50
