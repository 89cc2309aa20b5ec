"""The one door to the screen: every pixel that is shown goes through here.

What comes in is encoded sRGB. What the screen is handed is the same, for now: a monitor's profile has its place here.
"""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QImage

from kyanoscript.core.picture import Planes, Rect, to_screen

Pixels = NDArray[np.uint8]  # (h, w, 4): blue, green, red, 255


def shown(planes: Planes) -> Pixels:
    """Planes ``(1 or 3, h, w)`` as pixels of the screen."""
    planes = np.ascontiguousarray(planes, np.float32)
    channels, height, width = planes.shape
    out = np.empty((height, width, 4), np.uint8)
    to_screen(planes, out, 0, channels, width, height, width)
    return out


def place(planes: Planes, lies: Rect, within: Rect, out: Pixels) -> None:
    """Put the part of some planes that lies within a view into the view's pixels."""
    left, top = max(lies.x, within.x), max(lies.y, within.y)
    right, bottom = min(lies.right, within.right), min(lies.bottom, within.bottom)
    part = planes[:, top - lies.y : bottom - lies.y, left - lies.x : right - lies.x]
    start = (top - within.y) * within.width + left - within.x
    to_screen(np.ascontiguousarray(part), out, start, len(part), right - left, bottom - top, within.width)


def fitted(pixels: Pixels, room: tuple[int, int]) -> Pixels:
    """Pixels reduced to fit into a room."""
    height, width = pixels.shape[:2]
    share = min(room[0] / width, room[1] / height, 1.0)
    size = (max(1, round(width * share)), max(1, round(height * share)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def view(pixels: Pixels) -> QImage:
    """Pixels to be drawn, not copied: they must live as long as the picture."""
    height, width = pixels.shape[:2]
    return QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)


def image(pixels: Pixels) -> QImage:
    """Pixels as a picture that owns them."""
    return view(pixels).copy()


def colours(rgb: NDArray[Any], alpha: NDArray[Any] | None = None) -> QImage:
    """Encoded colours ``(3, h, w)`` 0…1 as a picture; ``alpha`` ``(h, w)`` 0…1."""
    out = np.full((*rgb.shape[1:], 4), 255, np.uint8)
    out[..., :3] = np.rint(np.clip(np.moveaxis(rgb[::-1], 0, -1), 0, 1) * 255)
    if alpha is not None:
        out[..., 3] = np.rint(alpha * 255)
        out[alpha == 0] = 0
    height, width = out.shape[:2]
    return QImage(out.data, width, height, width * 4, QImage.Format.Format_ARGB32).copy()
