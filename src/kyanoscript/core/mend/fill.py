"""Damaged places filled from around, so that edges and grain go on.

The tones are carried in along lines of equal lightness (Bertalmio, Bertozzi and Sapiro, "Navier-Stokes, fluid dynamics,
and image and video inpainting", CVPR 2001, as OpenCV has it) from a slightly softened picture; the grain is that of
sound places nearby.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.watching import breathe

Field = NDArray[np.float32]
_SOFT = 1.2  # sigma of what counts as tone; what is finer is grain
_REACH = 4  # pixels around a damaged one that are carried in
_APART = 2 * _REACH + 5  # pixels: what lies farther from each other is filled by itself
_STEPS = (
    (0, -9),
    (9, 0),
    (0, 9),
    (-9, 0),
    (13, 13),
    (-13, 13),
    (13, -13),
    (-13, -13),
    (0, 27),
    (27, 0),
    (0, -27),
    (-27, 0),
)


def filled(plane: Field, mask: NDArray[np.uint8], grain: float = 1.0) -> Field:
    """An encoded plane ``(h, w)`` with the pixels of the mask filled; the others stay as they are."""
    if not mask.any():
        return plane
    sound = (mask == 0).astype(np.float32)
    under = cv2.GaussianBlur(sound, (0, 0), _SOFT)
    soft = cv2.GaussianBlur(plane * sound, (0, 0), _SOFT) / np.maximum(under, 1e-3)
    levels = np.rint(np.clip(soft, 0, 1) * 65535).astype(np.uint16)
    tones = _carried_in(levels, mask).astype(np.float32) / 65535
    breathe()
    fine = (plane - soft) * sound
    out = plane.copy()
    inside = mask > 0
    out[inside] = tones[inside] + grain * _grain(fine, mask)[inside]
    return np.clip(out, 0, 1)


def _carried_in(levels: NDArray[np.uint16], mask: NDArray[np.uint8]) -> NDArray[np.uint16]:
    """Tones from around, one damaged place after another, so that it can be ended: the same as of all at once."""
    out = levels.copy()
    near = cv2.dilate(mask, np.ones((_APART, _APART), np.uint8))
    count, groups, boxes, _ = cv2.connectedComponentsWithStats(near, connectivity=8)
    for k in range(1, count):
        breathe()
        x, y, w, h = (int(v) for v in boxes[k, :4])
        part = np.s_[max(0, y - _APART) : y + h + _APART, max(0, x - _APART) : x + w + _APART]
        own = (groups[part] == k) & (mask[part] > 0)
        done = cv2.inpaint(np.ascontiguousarray(levels[part]), own.astype(np.uint8), _REACH, cv2.INPAINT_NS)
        out[part][own] = done[own]
    return out


def _grain(fine: Field, mask: NDArray[np.uint8]) -> Field:
    """The grain of a sound place near every damaged one: the first of a few shifts that leads to one."""
    out = np.zeros_like(fine)
    left = mask > 0
    height, width = mask.shape
    for dx, dy in _STEPS:
        breathe()
        if not left.any():
            break
        move = np.array([[1, 0, dx], [0, 1, dy]], np.float32)
        flags = cv2.INTER_NEAREST | cv2.WARP_INVERSE_MAP
        there = cv2.warpAffine(mask, move, (width, height), flags=flags, borderValue=1)
        use = left & (there == 0)
        if use.any():
            moved = cv2.warpAffine(fine, move, (width, height), flags=flags)
            out[use] = moved[use]
            left &= ~use
    return out
