"""What is done to pixels as read: laid on white, turned upright. In bands: that takes hardly any memory besides."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

MOST_HELD = 1_000_000_000  # pixels of a picture that is held as a whole
# What is done with the alpha of pixels (h, w, values): the pixels without it, and notes
_BAND = 1 << 18  # values
Lay = Callable[[NDArray[Any], bool], tuple[NDArray[Any], tuple[str, ...]]]


def flatten(pixels: NDArray[Any], associated: bool) -> tuple[NDArray[Any], tuple[str, ...]]:
    """Colour or gray without alpha, laid on white paper (W3C simple alpha compositing on encoded values)."""
    channels = pixels.shape[2]
    if channels in (1, 3):
        return pixels, ()
    top = 1.0 if pixels.dtype.kind == "f" else float(np.iinfo(pixels.dtype).max)
    if float(pixels[..., -1].min()) >= top:
        return np.ascontiguousarray(pixels[..., :-1]), ()

    def laid(band: NDArray[Any]) -> NDArray[Any]:
        alpha = band[..., -1:].astype(np.float32) / top
        found = band[..., :-1].astype(np.float32) * (1 if associated else alpha) + (1 - alpha) * top
        found = np.clip(found, 0, top)
        return (found if band.dtype.kind == "f" else np.rint(found)).astype(band.dtype)

    return by_bands(pixels, laid), ("Transparent parts lie on white paper",)


def by_bands(pixels: NDArray[Any], work: Callable[[NDArray[Any]], NDArray[Any]]) -> NDArray[Any]:
    """What some work makes of pixels ``(h, w, …)``, each by itself, a band of rows after another."""
    rows = max(1, _BAND // max(1, pixels[:1].size))
    out: NDArray[Any] | None = None
    for y in range(0, len(pixels), rows):
        made = work(pixels[y : y + rows])
        if out is None:
            out = np.empty((len(pixels), *made.shape[1:]), made.dtype)
        out[y : y + rows] = made
    assert out is not None
    return out


def spread(pixels: NDArray[Any], top: int) -> NDArray[Any]:
    """Integers 0…top over the whole of eight bits, or of sixteen where they do not fit into those."""
    white, kind = (255, np.uint8) if top < 256 else (65535, np.uint16)
    if top == white:
        return pixels.astype(kind, copy=False)
    return by_bands(pixels, lambda band: ((band.astype(np.uint32) * white + top // 2) // top).astype(kind))


def held(pixels: NDArray[Any], far: float) -> NDArray[np.float32]:
    """Floats without what is no number, and within ``far`` of black: the same array, if it can be written to."""
    if pixels.dtype != np.float32:
        return by_bands(pixels, lambda band: held(np.clip(band, -far, far).astype(np.float32), far))
    if not pixels.flags.writeable:
        pixels = pixels.copy()
    rows = max(1, _BAND // max(1, pixels[:1].size))
    for y in range(0, len(pixels), rows):
        band = pixels[y : y + rows]
        np.nan_to_num(band, copy=False, nan=0.0, posinf=far, neginf=-far)
        np.clip(band, -far, far, out=band)
    return pixels


def upright(pixels: NDArray[Any], orientation: int) -> NDArray[Any]:
    """Apply an EXIF orientation (1 to 8; anything else counts as 1)."""
    if orientation in (5, 6, 7, 8):
        pixels = pixels.swapaxes(0, 1)
    if orientation in (2, 3, 6, 7):
        pixels = pixels[:, ::-1]
    if orientation in (3, 4, 7, 8):
        pixels = pixels[::-1]
    return np.ascontiguousarray(pixels)
