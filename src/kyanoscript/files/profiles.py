"""Colour profiles (ICC): into the working space when a photo is read, and the two that prints are tagged with."""

from __future__ import annotations

import functools
import os
import struct
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour

_RELATIVE = 1  # ICC rendering intent
_BLACK_POINT = 0x2000  # flags of little-CMS: black point compensation, and
_EXACT = 0x0100  # no resampling into a coarse table, which is off by up to 2 % on 16-bit values
_ROWS = 64  # converted in one go by one thread


@functools.cache
def srgb() -> bytes:
    """An sRGB profile (IEC 61966-2-1 primaries, curve and white)."""
    return _undated(imagecodecs.cms_profile("srgb"))


@functools.cache
def gray() -> bytes:
    """A gray profile with the sRGB curve and the sRGB white, so that a gray print looks the same as its sRGB twin."""
    curve = np.round(colour.to_light(np.linspace(0, 1, 4096)) * 65535).astype(np.uint16)
    return _undated(imagecodecs.cms_profile("gray", whitepoint=(0.3127, 0.3290, 1.0), transferfunction=curve))


def _undated(profile: bytes) -> bytes:
    """The profile with a fixed date in its header (ICC.1, bytes 24 to 35), so that the same print is the same file."""
    return bytes(profile[:24]) + struct.pack(">6H", 2026, 1, 1, 0, 0, 0) + bytes(profile[36:])


def space(profile: bytes) -> str:
    """Colour space of a profile as its header names it: ``RGB``, ``GRAY``, ``CMYK``, …; empty if it is no profile."""
    if len(profile) < 128 or profile[36:40] != b"acsp":
        return ""
    return profile[16:20].decode("latin-1").strip()


class Conversion:
    """From an embedded profile to sRGB, keeping the type of the values: 16-bit stays 16-bit, float stays float.

    Raises ValueError if the profile does not fit the number of channels or is damaged.
    """

    def __init__(self, profile: bytes, channels: int) -> None:
        wanted = "GRAY" if channels == 1 else "RGB"
        if space(profile) != wanted:
            raise ValueError(
                f"its colour profile is for {space(profile) or 'nothing readable'}, its pixels are {wanted}"
            )
        self.profile = profile
        self.channels = channels
        steps = np.linspace(0, 65535, 9).astype(np.uint16)
        probe = np.stack(np.meshgrid(*[steps] * channels), -1).reshape(1, -1, channels)
        try:
            moved = self._convert(probe)
        except Exception as error:  # the library raises errors of its own kinds
            raise ValueError("its colour profile cannot be used") from error
        # A quarter of an 8-bit step: the profile is sRGB by another maker, and converting would only add rounding.
        self.needed = int(np.abs(moved.astype(np.int64) - probe).max()) > 64

    def __call__(self, pixels: NDArray[Any]) -> NDArray[Any]:
        """Convert ``(h, w, channels)`` pixels of uint8, uint16 or float32."""
        if not self.needed:
            return pixels
        out = np.empty(pixels.shape, pixels.dtype)

        def part(top: int) -> None:
            out[top : top + _ROWS] = self._convert(pixels[top : top + _ROWS])

        with ThreadPoolExecutor(os.cpu_count()) as pool:
            list(pool.map(part, range(0, len(pixels), _ROWS)))
        return out

    def _convert(self, pixels: NDArray[Any]) -> NDArray[Any]:
        gray_ = self.channels == 1
        out = imagecodecs.cms_transform(
            np.ascontiguousarray(pixels[..., 0] if gray_ else pixels),
            self.profile,
            srgb(),
            colorspace="gray" if gray_ else "rgb",
            outcolorspace="rgb",
            intent=_RELATIVE,
            flags=_BLACK_POINT if pixels.dtype == np.uint8 else _BLACK_POINT | _EXACT,
        )
        return np.ascontiguousarray(out[..., :1]) if gray_ else out
