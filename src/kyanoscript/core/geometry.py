"""Where things lie: plane affine maps, and the frame resolved for one photograph.

Places are told in pixels of the photograph as opened (upright, whole), x to the right and y down, from its upper left
corner; a pixel's middle lies at a half. Shapes and strokes are stored so, in shares, and stay on the picture's content
whatever the frame does.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

from kyanoscript.core.picture import Rect

if TYPE_CHECKING:
    from kyanoscript.core.frame import Frame


@dataclass(frozen=True)
class Affine:
    """``x' = a·x + b·y + c``, ``y' = d·x + e·y + f``."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 0.0
    e: float = 1.0
    f: float = 0.0

    def __call__(self, x: float, y: float) -> tuple[float, float]:
        return self.a * x + self.b * y + self.c, self.d * x + self.e * y + self.f

    def after(self, first: Affine) -> Affine:
        """The map that does ``first`` and then this one."""
        return Affine(
            self.a * first.a + self.b * first.d,
            self.a * first.b + self.b * first.e,
            self.a * first.c + self.b * first.f + self.c,
            self.d * first.a + self.e * first.d,
            self.d * first.b + self.e * first.e,
            self.d * first.c + self.e * first.f + self.f,
        )

    def inverse(self) -> Affine:
        """The way back. Raises ZeroDivisionError for a map that flattens the plane."""
        det = self.a * self.e - self.b * self.d
        a, b, d, e = self.e / det, -self.b / det, -self.d / det, self.a / det
        return Affine(a, b, -(a * self.c + b * self.f), d, e, -(d * self.c + e * self.f))

    @property
    def size(self) -> float:
        """How much longer a length becomes (of its even part)."""
        return math.sqrt(abs(self.a * self.e - self.b * self.d))


def scaling(x: float, y: float) -> Affine:
    """Longer or shorter along the axes."""
    return Affine(a=x, e=y)


def turning(degrees: float) -> Affine:
    """About the corner, clockwise as seen."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return Affine(c, -s, 0.0, s, c, 0.0)


def moving(x: float, y: float) -> Affine:
    """By a distance."""
    return Affine(c=x, f=y)


@dataclass(frozen=True)
class Framing:
    """A frame on a photograph of a certain size: what part of it is the print."""

    photo: tuple[int, int]  # pixels
    width: int  # of the print at full size, pixels
    height: int
    to_photo: Affine  # pixels of the print at full size -> pixels of the photograph
    crop: Rect | None  # the part of the photograph, where the frame is not tilted
    turns: int = 0
    flip: bool = False

    def size(self, scale: float) -> tuple[int, int]:
        """Width and height of the print at a scale; never less than one pixel."""
        return max(1, round(self.width * scale)), max(1, round(self.height * scale))

    def at(self, scale: float) -> Affine:
        """Pixels of the print at a scale -> pixels of the photograph."""
        width, height = self.size(scale)
        return self.to_photo.after(scaling(self.width / width, self.height / height))


@functools.lru_cache(maxsize=256)
def framing(frame: Frame, width: int, height: int) -> Framing:
    """Resolve a frame on a photograph of ``width`` × ``height`` pixels.

    The rectangle is shrunk about its middle until all its corners lie in the photograph, so that a print never has an
    empty corner, whatever the tilt.
    """
    across = frame.turns % 2 == 1
    tw, th = (height, width) if across else (width, height)  # the photograph after its quarter turns
    wanted_w, wanted_h = frame.width / 100 * tw, frame.height / 100 * th
    ratio = frame.shape(tw, th)
    if ratio is not None:
        wanted_w, wanted_h = min(wanted_w, wanted_h * ratio), min(wanted_h, wanted_w / ratio)
    # A tilted pixel must still fit: its corners reach √½ of a pixel from its middle.
    rim_x, rim_y = min(0.75, tw / 2), min(0.75, th / 2)
    cx, cy = min(max(frame.x / 100 * tw, rim_x), tw - rim_x), min(max(frame.y / 100 * th, rim_y), th - rim_y)
    c, s = abs(math.cos(math.radians(frame.tilt))), abs(math.sin(math.radians(frame.tilt)))
    if frame.tilt == 0:
        # Moving is kinder than shrinking while the frame lies straight.
        w, h = min(max(1, round(wanted_w)), tw), min(max(1, round(wanted_h)), th)
        x0, y0 = min(max(round(cx - w / 2), 0), tw - w), min(max(round(cy - h / 2), 0), th - h)
        cx, cy = x0 + w / 2, y0 + h / 2
    else:
        reach_x, reach_y = (wanted_w * c + wanted_h * s) / 2, (wanted_w * s + wanted_h * c) / 2
        fit = min(1.0, min(cx, tw - cx) / reach_x, min(cy, th - cy) / reach_y)
        w, h = max(1, math.floor(wanted_w * fit + 1e-6)), max(1, math.floor(wanted_h * fit + 1e-6))
        room_x, room_y = min(cx, tw - cx) + 1e-6, min(cy, th - cy) + 1e-6
        while max(w, h) > 1 and ((w * c + h * s) / 2 > room_x or (w * s + h * c) / 2 > room_y):
            w, h = (w - 1, h) if w > h else (w, h - 1)  # a side of less than a pixel became one
    turned = moving(cx, cy).after(turning(frame.tilt)).after(moving(-w / 2, -h / 2))
    back = _unturned(width, height, frame.turns, frame.flip)
    crop = None
    if frame.tilt == 0:
        corners = [back(x0, y0), back(x0 + w, y0 + h)]
        xs, ys = sorted(round(x) for x, _ in corners), sorted(round(y) for _, y in corners)
        crop = Rect(xs[0], ys[0], xs[1] - xs[0], ys[1] - ys[0])
    return Framing((width, height), w, h, back.after(turned), crop, frame.turns, frame.flip)


def _unturned(width: int, height: int, turns: int, flip: bool) -> Affine:
    """From the photograph after mirroring and quarter turns (clockwise) back to the photograph as opened."""
    back = (
        Affine(),
        Affine(a=0, b=1, c=0, d=-1, e=0, f=height),
        Affine(a=-1, c=width, e=-1, f=height),
        Affine(a=0, b=-1, c=width, d=1, e=0, f=0),
    )[turns]
    return Affine(a=-1, c=width).after(back) if flip else back
