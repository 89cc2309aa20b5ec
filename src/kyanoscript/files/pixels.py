"""What is done to pixels as read: laid on white, turned upright."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

# What is done with the alpha of pixels (h, w, values): the pixels without it, and notes
Lay = Callable[[NDArray[Any], bool], tuple[NDArray[Any], tuple[str, ...]]]


def flatten(pixels: NDArray[Any], associated: bool) -> tuple[NDArray[Any], tuple[str, ...]]:
    """Colour or gray without alpha, laid on white paper (W3C simple alpha compositing on encoded values)."""
    channels = pixels.shape[2]
    if channels in (1, 3):
        return pixels, ()
    top = 1.0 if pixels.dtype.kind == "f" else float(np.iinfo(pixels.dtype).max)
    alpha = pixels[..., -1:].astype(np.float32) / top
    colours = pixels[..., :-1]
    if float(alpha.min()) >= 1:
        return np.ascontiguousarray(colours), ()
    laid = colours.astype(np.float32) * (1 if associated else alpha) + (1 - alpha) * top
    laid = np.clip(laid, 0, top)
    whole = laid if pixels.dtype.kind == "f" else np.rint(laid)
    return whole.astype(pixels.dtype), ("Transparent parts lie on white paper",)


def upright(pixels: NDArray[Any], orientation: int) -> NDArray[Any]:
    """Apply an EXIF orientation (1 to 8; anything else counts as 1)."""
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return np.ascontiguousarray(pixels)
