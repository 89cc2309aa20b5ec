"""Fading evened out and the tonal range opened, from the darks and lights of every part of the picture; silvering."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2

Field = NDArray[np.float32]
_GRID = 24  # parts along the longer side
_VEILED = 0.5  # encoded: what is lighter than that is no veiled dark
_RINGS = 16  # distances from the rim at which silvering is told
_USUAL = 15  # percentile of the darks at one distance
_PATCHY = 1.5  # of what is usual there: so much stronger it may be in a place
_SOUND, _FADED = 0.12, 0.18  # encoded darks: our demo scans 0.20 to 0.25 and, before they faded, 0.02 to 0.10
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


def faded(dark: float) -> float:
    """How far a print has faded, 0…1, by the encoded darks of its middle (`ends`)."""
    return float(np.clip((dark - _SOUND) / (_FADED - _SOUND), 0, 1))


def _part(k: int, step: float, side: int) -> tuple[int, int]:
    """From where to where the surroundings of a part go: at least a pixel, however small the picture."""
    first = min(int(max(0, (k - 2) * step)), side - 1)
    return first, max(first + 1, int(min(side, (k + 3) * step)))


def veil(small: Field) -> Field:
    """How much silvering lifts the darks of every place, of encoded planes ``(planes, h, w)``, each by itself.

    Silver that has come to the surface mirrors the light in the darks, most along the rims, bluish on a colour scan
    (common practice, no source). It is told where dark places lie, by the darkest of each beside the darkest of the
    print: what most of the darks at some distance from the rim are lifted by. A place that is lighter than they are is
    the picture's own; and it never becomes more further in.
    """
    height, width = small.shape[1:]
    longer = max(height, width)
    window = 2 * max(1, longer // 50) + 1
    ys, xs = np.mgrid[:height, :width].astype(np.float32)
    from_rim = np.minimum.reduce([xs, width - 1 - xs, ys, height - 1 - ys])
    bins = np.minimum((from_rim / longer * 2 * _RINGS).astype(np.int64), _RINGS - 1)
    calm = np.stack([cv2.GaussianBlur(plane, (0, 0), max(0.8, longer / 400)) for plane in small])
    gray = calm.mean(axis=0)
    darks = cv2.erode(gray, np.ones((window, window), np.uint8), borderType=cv2.BORDER_REPLICATE)
    above = np.maximum(darks - np.float32(np.percentile(gray, 1)), 0)
    rings = np.zeros(_RINGS)
    for k in range(_RINGS):
        here = above[(bins == k) & (darks < _VEILED)]
        rings[k] = np.percentile(here, _USUAL) if here.size > 20 else 0
    rings = np.maximum.accumulate(rings[::-1])[::-1] - rings[-_RINGS // 4 :].min()
    usual = np.interp(from_rim / longer * 2 * _RINGS - 0.5, np.arange(_RINGS), np.maximum(rings, 0))
    most = np.where(darks < _VEILED, np.minimum(above, _PATCHY * usual), usual)
    lift = cv2.GaussianBlur(most.astype(np.float32), (0, 0), longer / 40)
    if len(small) == 1:
        return np.asarray(lift[None], np.float32)
    # The sheen's colour: how the darks of a place differ from the darks further in.
    weight = np.clip((_VEILED - gray) / 0.1, 0, 1).astype(np.float32) + np.float32(1e-4)
    inner = (gray < _VEILED) & (from_rim > 0.2 * min(height, width))
    out = np.empty_like(small)
    for plane, target in zip(calm, out, strict=True):
        cast = plane - gray
        own = float(np.median(cast[inner])) if inner.any() else 0.0
        there = cv2.GaussianBlur((cast - np.float32(own)) * weight, (0, 0), longer / 40)
        target[:] = lift + there / cv2.GaussianBlur(weight, (0, 0), longer / 40)
    return np.maximum(out, 0)


def unveiled(planes: Field, lift: Field, share: float) -> Field:
    """Planes with so much of the veil taken off: darks come down by all of it, lights by nothing."""
    return np.asarray(np.clip((planes - share * lift) / np.maximum(1 - share * lift, 0.2), 0, 1), np.float32)
