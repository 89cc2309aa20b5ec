"""The one door to the screen: every pixel that is shown goes through here.

What comes in are encoded values of the photograph's space. What the screen is handed are those of the monitor's profile
(`ui.commands.monitor` finds it); without one the monitor is taken as sRGB. Between the two stands a table of
33 steps each way, made by little-CMS: relative colorimetric, with black point compensation.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PySide6.QtGui import QColor, QImage

from kyanoscript.core.colour import SRGB, Space, parse_hex
from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Planes, Rect, to_screen
from kyanoscript.core.picture.table import SIDE, Table, grid, packed, through, to_screen_by
from kyanoscript.files.colour import profiles, proofs
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.translation import tr

Pixels = NDArray[np.uint8]  # (h, w, 4): blue, green, red, 255
_RELATIVE = INTENTS["relative"]
_UNSEEN = 0.03  # encoded: what comes back from the monitor's profile further away than this, it could not show


@dataclass(frozen=True)
class Viewing:
    """What prints are seen through; every request has its own, as it was when it was asked for."""

    monitor: bytes = b""  # its profile; empty: sRGB
    proof: Proof | None = None  # the paper that they are shown as if on

    def shown(self, planes: Planes, space: Space) -> Pixels:
        """Planes ``(1 or 3, h, w)`` of a space as pixels of the screen."""
        return _pixels(planes, self._table(space))

    def place(self, planes: Planes, lies: Rect, within: Rect, out: Pixels, space: Space) -> None:
        """Put the part of some planes that lies within a view into the view's pixels."""
        left, top = max(lies.x, within.x), max(lies.y, within.y)
        right, bottom = min(lies.right, within.right), min(lies.bottom, within.bottom)
        part = planes[:, top - lies.y : bottom - lies.y, left - lies.x : right - lies.x]
        _put(part, self._table(space), out, (top - within.y) * within.width + left - within.x, within.width)

    def unseen(self, planes: Planes, space: Space) -> float:
        """Which share of a print, 0…1, is more colourful than the monitor can show."""
        if len(planes) == 1 or (space == SRGB and not self.monitor):
            return 0.0
        beyond = _beyond(space, self.monitor or profiles.srgb())
        r, g, b = np.rint(np.clip(planes, 0, 1) * (SIDE - 1)).astype(np.intp)
        return float(beyond[r, g, b].mean())

    def _table(self, space: Space) -> NDArray[np.int32] | None:
        return _packed(space, self.monitor) if self.proof is None else _on_paper(self.proof, space, self.monitor)


_here = Viewing()


def screen() -> Viewing:
    """The one that the window stands on."""
    return _here


def set_monitor(profile: bytes) -> None:
    """Show everything for this monitor from now on; what is on the screen already has to be asked for again.

    Raises ValueError for a profile that is not one of a monitor.
    """
    global _here
    if profile:
        if profiles.space(profile) != "RGB":
            raise ValueError(
                tr(
                    "it is a profile for {profile}, not of a monitor",
                    profile=profiles.space(profile) or "nothing readable",
                )
            )
        try:
            _made(SRGB, profile)
        except Exception as error:  # the library raises errors of its own kinds
            raise ValueError("it cannot be used") from error
    _here = Viewing(profile)


def _table(space: Space, monitor: bytes) -> Table | None:
    """From a space to a monitor; None where they are the same."""
    return None if space == SRGB and not monitor else _made(space, monitor or profiles.srgb())


@functools.lru_cache(maxsize=8)
def _packed(space: Space, monitor: bytes) -> NDArray[np.int32] | None:
    table = _table(space, monitor)
    return None if table is None else packed(table)


@functools.lru_cache(maxsize=8)
def _made(space: Space, monitor: bytes) -> Table:
    made = profiles.transformed(grid(), profiles.of_space(space), monitor, _RELATIVE, True)
    return np.ascontiguousarray(np.clip(made, 0, 1).reshape(SIDE, SIDE, SIDE, 3), np.float32)


@functools.lru_cache(maxsize=8)
def _on_paper(proof: Proof, space: Space, monitor: bytes) -> NDArray[np.int32]:
    return packed(proofs.table(proof, space, monitor))


def plain(planes: Planes, space: Space) -> Pixels:
    """The same in sRGB, whatever the monitor is: for a picture that is kept."""
    return _pixels(planes, _packed(space, b""))


def _pixels(planes: Planes, table: NDArray[np.int32] | None) -> Pixels:
    height, width = planes.shape[1:]
    out = np.empty((height, width, 4), np.uint8)
    _put(planes, table, out, 0, width)
    return out


def _put(planes: Planes, table: NDArray[np.int32] | None, out: Pixels, start: int, row: int) -> None:
    planes = np.ascontiguousarray(planes, np.float32)
    channels, height, width = planes.shape
    if table is None:
        to_screen(planes, out, start, channels, width, height, row)
    else:
        to_screen_by(planes, table, out.view(np.int32), start, channels, width, height, row)


@functools.lru_cache(maxsize=8)
def _beyond(space: Space, monitor: bytes) -> NDArray[np.bool_]:
    """Of the table's colours, which do not come back as they were."""
    own = profiles.of_space(space)
    back = profiles.transformed(np.clip(_made(space, monitor), 0, 1).reshape(-1, 1, 3), monitor, own, _RELATIVE, True)
    away = np.abs(back - grid()).max(-1) > _UNSEEN
    return np.asarray(away.reshape(SIDE, SIDE, SIDE))


def fitted(pixels: Pixels, room: tuple[int, int]) -> Pixels:
    """Pixels reduced to fit into a room."""
    height, width = pixels.shape[:2]
    share = min(room[0] / width, room[1] / height, 1.0)
    size = (max(1, round(width * share)), max(1, round(height * share)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), np.uint8)


def view(pixels: Pixels) -> QImage:
    """Pixels to be drawn, not copied: they must live as long as the picture. They may be a part of larger rows."""
    height, width = pixels.shape[:2]
    row = pixels.strides[0]
    memory = np.lib.stride_tricks.as_strided(pixels, ((height - 1) * row + width * 4,), (1,))
    return QImage(memory.data, width, height, row, QImage.Format.Format_RGB32)


def image(pixels: Pixels) -> QImage:
    """Pixels as a picture that owns them."""
    return view(pixels).copy()


def colours(rgb: NDArray[Any], alpha: NDArray[Any] | None = None) -> QImage:
    """Encoded sRGB colours ``(3, h, w)`` 0…1 as a picture; ``alpha`` ``(h, w)`` 0…1."""
    out = np.full((*rgb.shape[1:], 4), 255, np.uint8)
    out[..., :3] = np.rint(np.clip(np.moveaxis(_for_monitor(rgb)[::-1], 0, -1), 0, 1) * 255)
    if alpha is not None:
        out[..., 3] = np.rint(alpha * 255)
        out[alpha == 0] = 0
    height, width = out.shape[:2]
    return QImage(out.data, width, height, width * 4, QImage.Format.Format_ARGB32).copy()


def ink(text: str) -> QColor:
    """A colour written as #rrggbb, as the screen is handed it."""
    r, g, b = (float(v) for v in _for_monitor(np.array(parse_hex(text)).reshape(3, 1, 1))[:, 0, 0])
    return QColor.fromRgbF(r, g, b)


def _for_monitor(rgb: NDArray[Any]) -> NDArray[Any]:
    table = _table(SRGB, _here.monitor)
    if table is None:
        return rgb
    values = np.ascontiguousarray(rgb, np.float32)
    out = np.empty_like(values)
    through(values, table, out, 3, values[0].size)
    return np.clip(out, 0, 1)
