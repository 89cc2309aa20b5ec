"""Fading evened out and the tonal range opened, from the darks and lights of every part of the picture."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Field = NDArray[np.float32]
_GRID = 24  # parts along the longer side
_DARK, _LIGHT = 3.0, 97.0  # percentiles of a part that stand for its darks and lights


def ends(small: Field) -> tuple[Field, float, float]:
    """Darks and lights of every part ``(2, rows, columns)`` of an encoded gray ``(h, w)``, and those of the middle."""
    height, width = small.shape
    step = max(height, width) / _GRID
    rows, columns = max(2, round(height / step)), max(2, round(width / step))
    found = np.empty((2, rows, columns), np.float32)
    for r in range(rows):
        for c in range(columns):
            (y0, y1), (x0, x1) = _part(r, step, height), _part(c, step, width)
            found[:, r, c] = np.percentile(small[y0:y1, x0:x1], (_DARK, _LIGHT))
    smooth = np.stack([cv2.GaussianBlur(p, (0, 0), 3.0, borderType=cv2.BORDER_REPLICATE) for p in found])
    inner = small[height // 8 : height - height // 8, width // 8 : width - width // 8]
    dark, light = (float(v) for v in np.percentile(inner, (0.5, 99.5)))
    return np.ascontiguousarray(smooth, np.float32), dark, light


def _part(k: int, step: float, side: int) -> tuple[int, int]:
    """From where to where the surroundings of a part go: at least a pixel, however small the picture."""
    first = min(int(max(0, (k - 2) * step)), side - 1)
    return first, max(first + 1, int(min(side, (k + 3) * step)))
