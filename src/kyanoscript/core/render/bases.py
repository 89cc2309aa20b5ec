"""What a run starts from: the framed photograph, a flat tone, another picture laid on it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour, warp
from kyanoscript.core.colour import Space, ink_of, moved
from kyanoscript.core.geometry import Affine, Framing, moving, scaling, turning
from kyanoscript.core.passes.plate.plate import Plate
from kyanoscript.core.picture import ArraySource, Planes, Reading, Rect, Source, read, size_at
from kyanoscript.core.render.resized import Resized


@dataclass(frozen=True)
class Picture:
    """Another picture, for a plate."""

    colours: Source
    alpha: Source | None = None  # one channel of float32: how much is there, put through the sRGB curve like a gray


class Library(Protocol):
    """Where plates get other pictures from."""

    def find(self, name: str) -> Picture | None:
        """The picture of that name, or None if there is none."""
        ...


_AROUND = 4  # pixels of a print round a part that is reduced to it by half: three lobes, and a little more


def flat(tone: str, space: Space, rect: Rect) -> Planes:
    """One colour everywhere."""
    rgb = np.array(ink_of(tone, space), np.float32)
    return np.ascontiguousarray(np.broadcast_to(rgb[:, None, None], (3, rect.height, rect.width)))


def read_framed(source: Source, frame: Framing, rect: Rect, scale: float, how: Reading = Reading.MEASURED) -> Planes:
    """A region (pixels of the print at ``scale``) of the framed photograph: planes ``(channels, h, w)``.

    A straight frame is read as it is; a tilted one is resampled from the photograph at the same scale.
    """
    if frame.crop is not None:
        width, height = frame.size(scale)
        return _upright(source, frame, rect, scale, width, height, how)
    width, height = size_at(source, scale)
    to_grid = scaling(width / source.width, height / source.height).after(frame.at(scale))
    return resampled(source, scale, to_grid, rect, how=how)


def resampled(
    source: Source,
    scale: float,
    to_grid: Affine,
    rect: Rect,
    outside: float | None = None,
    how: Reading = Reading.MEASURED,
) -> Planes:
    """A region of something that lies turned: ``to_grid`` maps its pixels to those of the source at ``scale``."""
    if isinstance(source, Resized) and scale == 1:
        return _in_one_step(source, to_grid, rect, outside)
    width, height = size_at(source, scale)
    corners = [to_grid(x, y) for x in (rect.x, rect.right) for y in (rect.y, rect.bottom)]
    x0, y0 = (math.floor(min(c[k] for c in corners)) - warp.LOBES - 1 for k in (0, 1))
    x1, y1 = (math.ceil(max(c[k] for c in corners)) + warp.LOBES + 1 for k in (0, 1))
    box = Rect(x0, y0, x1 - x0, y1 - y0).clipped(width, height)
    if box.width < 1 or box.height < 1:
        return np.full((source.channels, rect.height, rect.width), outside or 0.0, np.float32)
    planes = colour.to_light_planes(read(source, box, scale, how=how))
    place = moving(-box.x, -box.y).after(to_grid).after(moving(rect.x, rect.y))
    return np.minimum(colour.to_encoded_planes(warp.warp(planes, place, rect.width, rect.height, outside)), 1)


def _in_one_step(source: Resized, to_grid: Affine, rect: Rect, outside: float | None) -> Planes:
    """The same of a photograph at the size of a print, from the photograph itself: enlarged and turned at once.

    Where it is reduced it is turned on a grid twice as fine, where turning loses nothing that the print has room for.
    """
    inner = source.source
    if source.width >= inner.width:
        return resampled(inner, 1.0, scaling(inner.width / source.width, inner.height / source.height).after(to_grid),
                         rect, outside)  # fmt: skip
    scale = min(1.0, 2 * source.width / inner.width)
    width, height = size_at(inner, scale)
    to_inner = scaling(width / source.width, height / source.height).after(to_grid).after(scaling(0.5, 0.5))
    around = Rect(2 * (rect.x - _AROUND), 2 * (rect.y - _AROUND), 2 * (rect.width + 2 * _AROUND),
                  2 * (rect.height + 2 * _AROUND))  # fmt: skip
    turned = resampled(inner, scale, to_inner, around, outside, how=Reading.WRITTEN)
    fine = ArraySource(np.ascontiguousarray(np.moveaxis(turned, 0, 2)), inner.space)
    return np.minimum(read(fine, Rect(_AROUND, _AROUND, rect.width, rect.height), 0.5, how=Reading.WRITTEN), 1)


def _upright(source: Source, frame: Framing, rect: Rect, scale: float, width: int, height: int, how: Reading) -> Planes:
    """A region of a straight frame, with its quarter turns and mirror undone for reading and done again after."""
    assert frame.crop is not None
    x, y, w, h = rect.x, rect.y, rect.width, rect.height
    if frame.turns == 1:
        x, y, w, h = rect.y, width - rect.right, rect.height, rect.width
    elif frame.turns == 2:
        x, y = width - rect.right, height - rect.bottom
    elif frame.turns == 3:
        x, y, w, h = height - rect.bottom, rect.x, rect.height, rect.width
    across = width if frame.turns % 2 == 0 else height
    if frame.flip:
        x = across - x - w
    planes = read(source, Rect(x, y, w, h), scale, frame.crop, how)
    if frame.flip:
        planes = planes[:, :, ::-1]
    if frame.turns:
        planes = np.rot90(planes, -frame.turns, (1, 2))
    return np.ascontiguousarray(planes)


class Placed:
    """A picture laid on the print: moved, scaled, turned."""

    def __init__(self, picture: Picture, plate: Plate, frame: Framing, space: Space) -> None:
        self.picture = picture
        self.space = space  # of the print that it is laid on
        self.frame = frame
        pw, ph = frame.photo
        own = picture.colours
        size = plate.size / 100 * max(pw, ph) / max(own.width, own.height)  # the photograph's pixels to one of its own
        self.to_own = (
            moving(plate.x / 100 * pw, plate.y / 100 * ph)
            .after(turning(plate.turn))
            .after(scaling(-size if plate.mirrored else size, size))
            .after(moving(-own.width / 2, -own.height / 2))
            .inverse()
        )

    def _read(self, source: Source, rect: Rect, scale: float, outside: float | None) -> Planes:
        to_own = self.to_own.after(self.frame.at(scale))
        reduced = min(1.0, 1 / to_own.size)
        width, height = size_at(source, reduced)
        to_grid = scaling(width / source.width, height / source.height).after(to_own)
        return resampled(source, reduced, to_grid, rect, outside)

    def colours(self, rect: Rect, scale: float) -> Planes:
        """The picture's colours, carried on beyond its rim."""
        own = self.picture.colours
        return moved(self._read(own, rect, scale, None), own.space, self.space)

    def outline(self, rect: Rect, scale: float) -> Planes:
        """How much of the picture is there: its alpha, or 1 within its rim."""
        alpha = self.picture.alpha or _White(self.picture.colours)
        return np.minimum(colour.to_light_planes(self._read(alpha, rect, scale, 0.0)), 1)


class _White:
    """A picture of the same size, white all over: its rim is that of the picture."""

    channels = 1

    def __init__(self, like: Source) -> None:
        self.width, self.height, self.space = like.width, like.height, like.space

    def window(self, rect: Rect) -> NDArray[np.generic]:
        return np.full((rect.height, rect.width, 1), 255, np.uint8)
