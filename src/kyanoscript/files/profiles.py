"""Colour profiles (ICC): into the working space when a photo is read, and the two that prints are tagged with."""

from __future__ import annotations

import functools
import os
import struct
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

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
    """A gray profile (ICC.1:2010, version 4) with the sRGB curve, so that a gray print looks the same as its sRGB twin.

    Its white is that of the connection space, D50, as version 4 asks; the adaptation from sRGB's own white, D65, is
    told (Annex E), so that an absolute proof is as white as one of sRGB.
    """
    tags = {
        b"desc": _words("Gray with the sRGB curve"),
        b"cprt": _words("In the public domain"),
        b"wtpt": struct.pack(">4s4x", b"XYZ ") + _fixed(_D50),
        b"chad": struct.pack(">4s4x", b"sf32") + _fixed(_to_d50().ravel()),
        b"kTRC": struct.pack(">4s4xH2x", b"para", 3) + _fixed((2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045)),
    }
    table, body, at = struct.pack(">I", len(tags)), b"", 128 + 4 + 12 * len(tags)
    for name, data in tags.items():
        table += struct.pack(">4sII", name, at + len(body), len(data))
        body += data + bytes(-len(data) % 4)
    of = (b"mntr", b"GRAY", b"XYZ ", b"acsp", 0, _fixed(_D50))  # class, space, connection; perceptual; its white
    header = struct.pack(">I4xI4s4s4s12x4s4x4x4x4x8xI12s", at + len(body), 0x04200000, *of)
    return _undated(header.ljust(128, b"\0") + table + body)


_D50 = (0.9642, 1.0, 0.8249)  # ICC.1:2010, 7.2.16
_D65 = (0.3127 / 0.3290, 1.0, (1 - 0.3127 - 0.3290) / 0.3290)  # IEC 61966-2-1: x 0.3127, y 0.3290
# Bradford cones of XYZ (ICC.1:2010, Annex E)
_CONES = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])


def _to_d50() -> NDArray[np.float64]:
    """XYZ under D65 to XYZ under D50."""
    gain = (_CONES @ _D50) / (_CONES @ _D65)
    return np.asarray(np.linalg.inv(_CONES) @ np.diag(gain) @ _CONES)


def _fixed(values: Iterable[float]) -> bytes:
    """Numbers as an ICC profile writes them: 16 bits before the point and 16 behind it."""
    return b"".join(struct.pack(">i", round(float(value) * 65536)) for value in values)


def _words(said: str) -> bytes:
    """A text of a profile, in English."""
    data = said.encode("utf-16-be")
    return struct.pack(">4s4xII2s2sII", b"mluc", 1, 12, b"en", b"US", len(data), 28) + data


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
