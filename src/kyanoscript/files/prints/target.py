"""What a print's colours become in its file: the space or profile asked for, and its whole numbers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import BT2020, DISPLAY_P3, OPRGB, ROMM, SRGB, Space, in_colour
from kyanoscript.core.picture import Planes, Rect, dithered, to_integers
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.colour import profiles
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.files.prints.settings import DEVICE, SPACES, Settings
from kyanoscript.translation import tr

_NAMED = {"srgb": SRGB, "display-p3": DISPLAY_P3, "oprgb": OPRGB, "bt2020": BT2020, "romm": ROMM}
_CHANNELS = {"GRAY": 1, "RGB": 3, "CMYK": 4}
_MOST = 16 << 20  # bytes of a profile
_ALIKE = 1e-5  # of 0…1: channels that differ by no more are a gray's, moved into another space


@dataclass(frozen=True)
class Target:
    """From planes of a print to pixels of a file."""

    channels: int
    dtype: type[Any]
    icc: bytes
    space: Space | None  # a working space with the sRGB curve, or gray of one; None: what only the profile tells
    convert: Callable[[Planes], Planes]  # to encoded planes (channels, h, w) of the target
    dither: bool

    def pixels(self, planes: Planes, place: Rect) -> NDArray[Any]:
        """Planes ``(1 or 3, h, w)`` that lie at ``place`` of the print, as ``(h, w, channels)``."""
        gray = len(planes) == 1 and self.channels == 3
        planes = self.convert(planes)
        out = np.empty((place.height, place.width, self.channels), self.dtype)
        if self.dtype is np.float32:
            out[:] = np.moveaxis(planes, 0, 2)
        elif self.dtype is np.uint8 and self.dither:
            if gray and np.abs(planes[1:] - planes[0]).max(initial=0) < _ALIKE:
                # The noise of each channel is another: a print without colour would have specks of it.
                one = np.empty((place.height, place.width, 1), np.uint8)
                dithered(planes[:1], place, one)
                out[:] = one
            else:
                dithered(planes, place, out)
        else:
            to_integers(planes, self.dtype, out, 0)
        return out


def target_of(
    settings: Settings, bits: int, space: Space, coloured: bool, plain: bool = False, inks: bool = False
) -> Target:
    """The target of a print of a space. ``coloured``: whether it may hold any colour; ``plain``: the format tells any
    space by itself, and needs no curve but that of sRGB; ``inks``: it has a place for four inks.

    Raises FileError for a profile's file that cannot be used.
    """
    dtype = {8: np.uint8, 16: np.uint16, 32: np.float32}[bits]
    wanted = settings.profile
    if wanted == DEVICE:
        return Target(3 if coloured else 1, dtype, b"", None, lambda planes: np.clip(planes, 0, 1), settings.dither)
    if wanted == "auto":
        wanted = "photo" if coloured else "gray"
    if wanted not in SPACES:
        return _by_profile(settings, dtype, space, inks)
    if wanted == "gray":
        return Target(1, dtype, profiles.gray(), SRGB, _grays(space, bits == 32), settings.dither)
    to = space if wanted == "photo" else _NAMED[wanted]
    convert = _floats(space, to) if bits == 32 else _held(space, to)
    if to == OPRGB and not plain:  # whoever does not read profiles takes its own curve for granted
        return Target(3, dtype, profiles.oprgb(), None, _in_oprgb(convert), settings.dither)
    return Target(3, dtype, profiles.of_space(to), to, convert, settings.dither)


def _grays(space: Space, floats: bool) -> Callable[[Planes], Planes]:
    def convert(planes: Planes) -> Planes:
        gray = colour.gray_of(planes, space)
        return gray if floats else np.clip(gray, 0, 1)

    return convert


def _held(space: Space, to: Space) -> Callable[[Planes], Planes]:
    return lambda planes: colour.held(in_colour(planes), space, to)


def _floats(space: Space, to: Space) -> Callable[[Planes], Planes]:
    """Floats keep what lies beyond black and white, and beyond the space."""
    return lambda planes: colour.moved(in_colour(planes), space, to)


def _in_oprgb(convert: Callable[[Planes], Planes]) -> Callable[[Planes], Planes]:
    """With the curve of IEC 61966-2-5, a power of 563/256."""

    def changed(planes: Planes) -> Planes:
        planes = np.ascontiguousarray(convert(planes))
        out = np.empty_like(planes)
        colour.to_power(planes, out, out.size, 256 / 563)
        return out

    return changed


def _by_profile(settings: Settings, dtype: type[Any], space: Space, inks: bool) -> Target:
    path = Path(settings.profile).expanduser()
    icc = read_plain(path, _MOST)
    model = profiles.space(icc)
    if model not in _CHANNELS:
        what = tr("a profile for {model}", model=model) if model else "no colour profile"
        raise FileError(
            path,
            tr("this is {what}", what=what),
            "Choose a profile for RGB, gray or CMYK, or one of the spaces by name",
        )
    if model == "CMYK" and not inks:
        raise FileError(path, "this is a profile for CMYK", "Write a TIFF or PDF, or choose one for RGB or gray")
    channels, own, intent = _CHANNELS[model], profiles.of_space(space), INTENTS[settings.intent]
    whole = np.float32(100 if model == "CMYK" else 1)  # little-CMS counts inks in per cent

    def convert(planes: Planes) -> Planes:
        rows = np.ascontiguousarray(np.moveaxis(in_colour(planes), 0, 2))
        made = profiles.transformed(rows, own, icc, intent, settings.black_point)[..., :channels] / whole
        return np.ascontiguousarray(np.moveaxis(np.clip(made, 0, 1), 2, 0))

    try:
        convert(np.zeros((3, 1, 1), np.float32))
    except Exception as error:  # the library raises errors of its own kinds
        raise FileError(path, "this colour profile cannot be written to", "Choose another") from error
    return Target(channels, dtype, icc, None, convert, settings.dither)
