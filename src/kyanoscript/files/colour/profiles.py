"""Colour profiles (ICC): what a file's profile says of its space, and profiles of our own to write into prints.

A profile that is a matrix and curves tells a space of its own (`Space`): its curves become a table of levels, its
colours stay on their own primaries, nothing is clipped. One made of tables, or for inks, is brought into BT.2020.
"""

from __future__ import annotations

import functools
import io
import struct
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import imagecodecs
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.colour import BT2020, D50, OPRGB, SRGB, Space, adaptation, held, space_near, to_encoded
from kyanoscript.core.quoting import words
from kyanoscript.translation import tr

INTENTS = {"perceptual": 0, "relative": 1, "saturation": 2, "absolute": 3}  # ICC.1:2010, 7.2.15
_RELATIVE = INTENTS["relative"]
_BLACK_POINT = 0x2000  # flags of little-CMS: black point compensation, and
_EXACT = 0x0100  # no resampling into a coarse table, which is off by up to 2 % on 16-bit values
_ROWS = 64  # converted in one go by one thread
_KINDS = {1: "GRAY", 3: "RGB", 4: "CMYK"}


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
    return _built("Gray with the sRGB curve", b"GRAY", SRGB, {b"kTRC": _CURVE})


@functools.lru_cache(maxsize=16)
def of_space(space: Space) -> bytes:
    """A profile of a space, with the sRGB curve that all working spaces have."""
    if space == SRGB:
        return srgb()
    columns = dict(zip((b"rXYZ", b"gXYZ", b"bXYZ"), map(_xyz, space.to_d50.T), strict=True))
    curves = dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), _CURVE)
    return _built(tr("{name} primaries with the sRGB curve", name=space.name), b"RGB ", space, columns | curves)


@functools.cache
def oprgb() -> bytes:
    """A profile of opRGB with its own curve, a power of 563/256 (IEC 61966-2-5)."""
    columns = dict(zip((b"rXYZ", b"gXYZ", b"bXYZ"), map(_xyz, OPRGB.to_d50.T), strict=True))
    power = struct.pack(">4s4xIH2x", b"curv", 1, 563)
    return _built("opRGB", b"RGB ", OPRGB, columns | dict.fromkeys((b"rTRC", b"gTRC", b"bTRC"), power))


def _built(name: str, model: bytes, space: Space, parts: dict[bytes, bytes]) -> bytes:
    """A display profile of version 4 (ICC.1:2010, 7.2 and 8.3)."""
    tags = {
        b"desc": _words(name),
        b"cprt": _words("In the public domain"),
        b"wtpt": _xyz(D50),
        b"chad": struct.pack(">4s4x", b"sf32") + _fixed(adaptation(space.white).ravel()),
        **parts,
    }
    table, body, at = struct.pack(">I", len(tags)), b"", 128 + 4 + 12 * len(tags)
    for tag, data in tags.items():
        table += struct.pack(">4sII", tag, at + len(body), len(data))
        body += data + bytes(-len(data) % 4)
    of = (b"mntr", model, b"XYZ ", b"acsp", 0, _fixed(D50))  # class, space, connection; perceptual; its white
    header = struct.pack(">I4xI4s4s4s12x4s4x4x4x4x8xI12s", at + len(body), 0x04200000, *of)
    return _undated(header.ljust(128, b"\0") + table + body)


def _fixed(values: Iterable[float]) -> bytes:
    """Numbers as an ICC profile writes them: 16 bits before the point and 16 behind it."""
    return b"".join(struct.pack(">i", round(float(value) * 65536)) for value in values)


def _xyz(values: Iterable[float]) -> bytes:
    return struct.pack(">4s4x", b"XYZ ") + _fixed(values)


_CURVE = struct.pack(">4s4xH2x", b"para", 3) + _fixed((2.4, 1 / 1.055, 0.055 / 1.055, 1 / 12.92, 0.04045))


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


def named(profile: bytes | None) -> str:
    """A profile by its own name, or by its kind if it has none that can be read; never raises."""
    if not profile:
        return ""
    from PIL import ImageCms

    try:
        name = words(ImageCms.getProfileDescription(ImageCms.ImageCmsProfile(io.BytesIO(profile))))
    except Exception:  # the library raises errors of its own kinds
        name = ""
    return name or (
        tr("{profile} profile without a name", profile=space(profile))
        if space(profile)
        else "a profile that cannot be read"
    )


def _tag(profile: bytes, name: bytes) -> bytes:
    """The data of a tag (ICC.1:2010, 7.3); empty if there is none."""
    (count,) = struct.unpack_from(">I", profile, 128)
    for k in range(min(count, 100)):
        tag, at, size = struct.unpack_from(">4sII", profile, 132 + 12 * k)
        if tag == name:
            return profile[at : at + size]
    return b""


def _numbers(data: bytes, count: int) -> NDArray[np.float64] | None:
    """So many fixed-point numbers behind a tag's head; None if they are not there."""
    return np.array(struct.unpack_from(f">{count}i", data, 8)) / 65536 if len(data) >= 8 + 4 * count else None


def space_of(profile: bytes) -> Space | None:
    """The space of a profile that is a matrix and curves; None for one of tables, of inks or of gray.

    Its own to the last digit: `space_near` tells whether it is one with a name.
    """
    try:
        if space(profile) != "RGB" or profile[20:24] != b"XYZ " or _tag(profile, b"A2B0"):
            return None
        columns = [_numbers(_tag(profile, name), 3) for name in (b"rXYZ", b"gXYZ", b"bXYZ")]
        if any(column is None for column in columns):
            return None
        to_d50 = np.stack(columns, 1)  # type: ignore[arg-type]  # none is None
        if np.abs(to_d50.sum(1) - D50).max() > _OFF_WHITE:
            return None
        white = _white(profile)
        own = np.linalg.inv(adaptation(white)) @ to_d50
        return Space("its own", tuple(float(v) for v in (own / own[1].sum()).ravel()), white)
    except (struct.error, np.linalg.LinAlgError, FloatingPointError, ZeroDivisionError):
        return None


_OFF_WHITE = 0.02  # of the connection space's white: beyond it equal channels are no gray


def _white(profile: bytes) -> tuple[float, float]:
    """The white that the profile's colours were measured under: by its adaptation, else D65 as displays have."""
    chad = _numbers(_tag(profile, b"chad"), 9)
    if chad is None:
        return SRGB.white
    xyz = np.linalg.solve(chad.reshape(3, 3), D50)
    x, y = (float(v) for v in xyz[:2] / xyz.sum())
    return (x, y) if 0.2 < x < 0.5 and 0.2 < y < 0.5 else SRGB.white


@dataclass(frozen=True)
class Meaning:
    """How the stored values of a photograph become encoded values of its space."""

    space: Space = SRGB
    levels: NDArray[np.float32] | None = None  # (channels, 256 or 65536): what each stored level is; None: even
    profile: bytes = b""  # to be converted from as a whole, into the space; empty: nothing to be done
    note: str = ""
    curve: Callable[[NDArray[np.float64]], NDArray[np.float64]] | None = None  # of floats, to encoded values
    by_inks: bool = False  # no profile tells of a press: usual inks are taken

    def converted(self, pixels: NDArray[Any]) -> NDArray[Any]:
        """Pixels ``(h, w, channels)`` after conversion as a whole, if that is to be done.

        Of integers 16 bits come out, into which what lies beyond the space is fitted; of floats floats, with what lies
        beyond black and white.
        """
        if self.by_inks:
            return _printed(pixels)
        if self.curve is not None:
            for y in range(0, len(pixels), _ROWS):
                pixels[y : y + _ROWS] = self.curve(pixels[y : y + _ROWS])
            return pixels
        if not self.profile:
            return pixels
        kind: type[Any] = np.float32 if pixels.dtype.kind == "f" else np.uint16
        gray_ = pixels.shape[2] == 1
        out = np.empty((*pixels.shape[:2], 1 if gray_ else 3), kind)

        def part(top: int) -> None:
            rows = slice(top, top + _ROWS)
            moved = transformed(pixels[rows], self.profile, of_space(self.space), _RELATIVE, True)[..., : out.shape[2]]
            out[rows] = moved if kind is np.float32 else within_integers(moved, self.space)

        with ThreadPoolExecutor(machine.processors()) as pool:
            list(pool.map(part, range(0, len(pixels), _ROWS)))
        return out


def within_integers(rgb: NDArray[Any], own: Space) -> NDArray[np.uint16]:
    """Encoded RGB or gray ``(h, w, channels)`` of a space as 16 bits; what lies beyond it is fitted (`colour.held`)."""
    planes = np.ascontiguousarray(np.moveaxis(rgb, -1, 0), np.float32)
    return np.asarray(np.rint(np.moveaxis(held(planes, own, own), 0, -1) * 65535), np.uint16)


def reading(profile: bytes | None, channels: int, dtype: np.dtype[Any]) -> Meaning:
    """How to read pixels of so many channels and that type, with the profile that their file embeds.

    A profile that cannot be used is told of in the note, and the colours are taken as sRGB.
    """
    if not profile:
        return Meaning(by_inks=True, note=_NO_PRESS) if channels == 4 else Meaning()
    try:
        return _reading(profile, channels, dtype)
    except ValueError as error:
        if channels == 4:
            return Meaning(by_inks=True, note=f"{_NO_PRESS} ({error})")
        return Meaning(note=tr("The colours are taken as sRGB: {error}", error=error))


@functools.lru_cache(maxsize=8)
def _reading(profile: bytes, channels: int, dtype: np.dtype[Any]) -> Meaning:
    wanted = _KINDS[channels]
    if space(profile) != wanted:
        raise ValueError(
            tr(
                "its colour profile is for {profile}, its pixels are {wanted}",
                profile=space(profile) or "nothing readable",
                wanted=wanted,
            )
        )
    own = SRGB if channels == 1 else space_of(profile)
    try:
        if channels != 4 and _like_srgb(profile, channels):
            return Meaning()
        if own is None:
            _probed(profile, channels, BT2020)
            return Meaning(BT2020, profile=profile)
        known = SRGB if channels == 1 else space_near(own.to_d50, own.white, own.name)
        if dtype.kind == "f":
            _probed(profile, channels, known)
            return Meaning(known, profile=profile)
        count = 256 if dtype.itemsize == 1 else 65536
        ramp = np.repeat(np.linspace(0, 1, count, dtype=np.float32)[:, None, None], channels, 2)
        # Against its very own primaries, so that each channel is seen by itself.
        levels = transformed(ramp, profile, of_space(own), _RELATIVE, True)[:, 0, :channels].T
    except ValueError:
        raise
    except Exception as error:  # the library raises errors of its own kinds
        raise ValueError(tr("its colour profile cannot be used")) from error
    if not np.isfinite(levels).all():
        raise ValueError(tr("its colour profile cannot be used"))
    if np.abs(levels - np.linspace(0, 1, count)).max() < _SAME:
        return Meaning(known)
    return Meaning(known, np.ascontiguousarray(levels, np.float32))


_NO_PRESS = "No profile tells how its inks were printed; usual ones are taken, and colours are a guess"
# Light that cyan, magenta, yellow and black of a usual press let through (common practice, no source)
_INKS = np.array([[0.0, 0.36, 0.74], [0.78, 0.0, 0.21], [1.0, 0.84, 0.0], [0.015, 0.015, 0.015]])


def _printed(inks: NDArray[Any]) -> NDArray[np.uint16]:
    """sRGB of shares of four inks ``(h, w, 4)`` that lie on one another by chance (see `core.passes.toning.inks`)."""
    out = np.empty((*inks.shape[:2], 3), np.uint16)
    top = 1.0 if inks.dtype.kind == "f" else float(np.iinfo(inks.dtype).max)
    for y in range(0, len(inks), _ROWS):
        shares = np.clip(inks[y : y + _ROWS].astype(np.float32) / top, 0, 1)
        light = np.ones((*shares.shape[:2], 3), np.float32)
        for k in range(4):
            light *= 1 - shares[..., k : k + 1] * (1 - _INKS[k].astype(np.float32))
        out[y : y + _ROWS] = np.rint(to_encoded(light) * 65535)
    return out


_SAME = 64 / 65535  # a quarter of an 8-bit step: another maker's curve of sRGB, and converting would only add rounding


def _probed(profile: bytes, channels: int, to: Space) -> NDArray[np.float32]:
    steps = np.linspace(0, 1, 5 if channels == 4 else 9, dtype=np.float32)
    probe = np.stack(np.meshgrid(*[steps] * channels), -1).reshape(1, -1, channels)
    return transformed(probe, profile, of_space(to), _RELATIVE, True)


def _like_srgb(profile: bytes, channels: int) -> bool:
    """Whether it is sRGB by another maker, or the gray of it."""
    steps = np.linspace(0, 1, 9, dtype=np.float32)
    probe = np.stack(np.meshgrid(*[steps] * channels), -1).reshape(1, -1, channels)
    return float(np.abs(_probed(profile, channels, SRGB)[..., :channels] - probe).max()) < _SAME


def transformed(pixels: NDArray[Any], profile: bytes, to: bytes, intent: int, black_point: bool) -> NDArray[np.float32]:
    """Pixels ``(h, w, channels)`` from one profile to another by little-CMS, in float; gray comes out where it goes in
    as gray and to gray, else three channels.

    CMYK runs 0…1 of ink. Raises the library's own errors.
    """
    model = {"GRAY": "gray", "RGB": "rgb", "CMYK": "cmyk"}
    source, target = model[space(profile)], model[space(to)]
    values = np.ascontiguousarray(pixels[..., 0] if source == "gray" else pixels)
    if values.dtype.kind != "f":
        values = values.astype(np.float32) / np.float32(np.iinfo(values.dtype).max)
    if source == "cmyk":
        values = values * np.float32(100)  # little-CMS counts inks in per cent
    out = imagecodecs.cms_transform(
        np.ascontiguousarray(values, np.float32),
        profile,
        to,
        colorspace=source,
        outcolorspace=target,
        outdtype=np.float32,
        intent=intent,
        flags=(_BLACK_POINT if black_point else 0) | _EXACT,
    )
    out = np.asarray(out, np.float32)
    return out[..., None] if out.ndim == 2 else out
