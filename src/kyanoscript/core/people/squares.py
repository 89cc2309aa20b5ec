"""What a network is shown: a square of the picture, turned and reduced."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2

Levels = NDArray[np.float32]  # (h, w), 0…1


def laid(x: float, y: float, side: float, turn: float, pixels: int) -> NDArray[np.float64]:
    """From the pixels of a square's own to those of the picture ``(2, 3)``.

    The square is ``side`` pixels of the picture wide, has its middle at ``x``, ``y``, and is turned clockwise by
    ``turn`` radians.
    """
    scale = side / pixels
    cos, sin = scale * math.cos(turn), scale * math.sin(turn)
    a = np.array([[cos, -sin], [sin, cos]])
    shift = np.array([x, y]) - a @ np.array([pixels / 2, pixels / 2]) + a @ [0.5, 0.5] - 0.5
    return np.concatenate([a, shift[:, None]], axis=1)


def cut(levels: Levels, way: NDArray[np.float64], pixels: int, beyond: float | None = None) -> Levels:
    """The square ``(pixels, pixels)``; where the picture ends it is ``beyond``, or goes on as at its rim.

    A picture that is reduced much is softened first, or what is fine turns into false edges.
    """
    height, width = levels.shape
    scale = math.hypot(way[0, 0], way[1, 0])
    corners = np.array([[0, 0, 1], [pixels, 0, 1], [0, pixels, 1], [pixels, pixels, 1]]) @ way.T
    room = 2 * scale + 3  # the softening reaches as far
    x0, y0 = (int(v) for v in np.clip(np.floor(corners.min(axis=0) - room), 0, [width - 1, height - 1]))
    x1, y1 = (int(v) for v in np.clip(np.ceil(corners.max(axis=0) + room), [x0 + 1, y0 + 1], [width, height]))
    part = levels[y0:y1, x0:x1]
    soft = cv2.GaussianBlur(part, (0, 0), 0.4 * scale) if scale > 1.5 else part
    shift = way - np.array([[0, 0, x0], [0, 0, y0]])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    border = cv2.BORDER_REPLICATE if beyond is None else cv2.BORDER_CONSTANT
    found = cv2.warpAffine(soft, shift, (pixels, pixels), flags=flags, borderMode=border, borderValue=beyond or 0.0)
    return np.asarray(found, np.float32)


def on_picture(places: NDArray[np.floating], way: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places in a square ``(n, 2)``, in pixels from its corner, as pixels of the picture."""
    return np.asarray((places.astype(np.float64) - 0.5) @ way[:, :2].T + way[:, 2] + 0.5, np.float64)


def put_back(square: NDArray[np.float32], way: NDArray[np.float64], shape: tuple[int, ...]) -> NDArray[np.float32]:
    """What a network found in a square, on a picture of a shape ``(h, w)``; 0 round it."""
    return np.asarray(cv2.warpAffine(square, way, (shape[1], shape[0]), flags=cv2.INTER_LINEAR), np.float32)
