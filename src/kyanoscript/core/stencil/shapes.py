"""What a stencil is made of: strokes, ovals, ramps, outlines, ranges of tone and hue.

Places are in per cent of the photograph's width and height as opened, lengths in thousandths of its longer side. Shapes
therefore lie on the picture's content, whatever the frame does, and carry over to other resolutions. Each shape knows
what it covers, and how a hand takes hold of it; strokes are painted together, in `mask`.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import gray_of
from kyanoscript.core.geometry import Affine
from kyanoscript.core.params import Declared, choice, declared, length, listed, number, toggle
from kyanoscript.core.params.checks import Limits, Told
from kyanoscript.core.params.kinds import Listed
from kyanoscript.core.picture import Rect
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.kernels import hues, oval, ramp, tones
from kyanoscript.core.stencil.kernels import outline as outline_of

Cover = NDArray[np.float32]

_Place = Annotated[float, Limits(low=-1000, high=1000)]
Dot = tuple[_Place, _Place] | tuple[_Place, _Place, Annotated[float, Limits(low=0, high=1)]]
Join = Literal["add", "take-away", "intersect"]
_JOINS = (("add", "add"), ("take-away", "take away"), ("intersect", "only where both"))


def _place(default: float, label: str) -> Any:
    return number(default, -1000, 1000, "%", label, "May lie outside the picture", decimals=3)


def dots(label: str, help: str, least: int = 1) -> Any:
    """The places of a stroke or outline."""
    spec = Listed(label=label, help=help, what="places [x %, y %]", shown=False)
    return declared(spec, shortest=least, longest=20_000)


def outline(label: str, help: str) -> Any:
    """The corners of a closed line, or none."""
    spec = Listed(label=label, help=help, what="places [x %, y %]", shown=False)
    return declared(spec, (), longest=2000)


class Shape(Declared):
    """One part of a stencil, and how it joins the parts before it."""

    wrong: ClassVar[dict[str, str]] = {
        "join": "An intersect with nothing under it leaves nothing at all",
        "opacity": "Half of it everywhere is no soft edge: feather it",
    }

    tags: ClassVar[tuple[str, ...]] = ("shape",)
    label: ClassVar[str] = ""

    join: Join = choice("add", _JOINS, "Joins", "How it meets the parts before it")
    opacity: float = number(100, 0, 100, "%", "Opacity", "How much of it counts")

    def placed(self) -> str:
        """How it lies on the picture, for the hand (`grips.HOLDS`); "": it cannot be taken hold of."""
        return ""

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        """How far it covers each pixel of ``rect`` ``(h, w)``, 0…1, at full opacity, not turned inside out."""
        raise NotImplementedError


class Stroke(Shape):
    """One stroke of a soft round brush: builds up along its way by the flow, up to its opacity."""

    wrong: ClassVar[dict[str, str]] = {
        "size": "Too large, it runs over edges that the eye looks at",
        "hardness": "Hard rims are seen in skies and skin",
        "flow": "Low flow adds up where the brush goes twice",
    }

    label: ClassVar[str] = "Stroke"
    shape: Literal["stroke"] = "stroke"
    points: tuple[Dot, ...] = dots("Way", "Places of the brush; a third number is the pressure, 0…1", 1)
    size: float = length(60, 0.1, 2000, "Size", "Diameter of the brush", step=1)
    hardness: float = number(0, 0, 100, "%", "Hardness", "How much of the brush has its full effect")
    flow: float = number(50, 1, 100, "%", "Flow", "How much is laid down on the way of one radius")


class Oval(Shape):
    """An oval that fades towards its rim."""

    wrong: ClassVar[dict[str, str]] = {
        "soft": "A hard rim shows as soon as the pass is strong",
    }

    label: ClassVar[str] = "Oval"
    shape: Literal["oval"] = "oval"
    x: float = _place(50, "Centre, across")
    y: float = _place(50, "Centre, down")
    width: float = length(500, 1, 20_000, "Width", "Diameter", step=5)
    height: float = length(500, 1, 20_000, "Height", "Diameter", step=5)
    turn: float = number(0, -180, 180, "°", "Turn", "Clockwise", decimals=1)
    soft: float = number(50, 0, 100, "%", "Softness", "How much of the radius the fading takes")
    inverted: bool = toggle(False, "Outside", "Everything but the oval")

    def placed(self) -> str:
        return "oval"

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        pw, ph = ground.framing.photo
        longer = max(pw, ph)
        rx, ry = self.width / 2000 * longer, self.height / 2000 * longer
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        cx, cy = self.x / 100 * pw, self.y / 100 * ph
        own = Affine(c / rx, s / rx, -(c * cx + s * cy) / rx, -s / ry, c / ry, (s * cx - c * cy) / ry)
        own = own.after(ground.to_photo)
        out = _empty(rect)
        six = own.a, own.b, own.c, own.d, own.e, own.f
        oval(out, rect.width, rect.height, rect.x, rect.y, *six, max(self.soft / 100, own.size), own.size / 2)
        return out


class Ramp(Shape):
    """A straight ramp: nothing before its first place, everything beyond its second."""

    label: ClassVar[str] = "Ramp"
    shape: Literal["ramp"] = "ramp"
    x1: float = _place(50, "Nothing, across")
    y1: float = _place(60, "Nothing, down")
    x2: float = _place(50, "Everything, across")
    y2: float = _place(20, "Everything, down")
    inverted: bool = toggle(False, "Other side", "Everything before, nothing beyond")

    def placed(self) -> str:
        return "ramp"

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        pw, ph = ground.framing.photo
        x1, y1, x2, y2 = self.x1 / 100 * pw, self.y1 / 100 * ph, self.x2 / 100 * pw, self.y2 / 100 * ph
        square = max((x2 - x1) ** 2 + (y2 - y1) ** 2, 1e-6)
        dx, dy = (x2 - x1) / square, (y2 - y1) / square
        own = Affine(dx, dy, -(dx * x1 + dy * y1), 0, 0, 0).after(ground.to_photo)
        out = _empty(rect)
        ramp(out, rect.width, rect.height, rect.x, rect.y, own.a, own.b, own.c)
        return out


class Outline(Shape):
    """An area within a closed line; where the line crosses itself, all of it counts."""

    label: ClassVar[str] = "Outline"
    shape: Literal["outline"] = "outline"
    points: tuple[Dot, ...] = dots("Line", "Corners of the area", 3)
    inverted: bool = toggle(False, "Outside", "Everything but the area")

    def placed(self) -> str:
        return "outline"

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        pw, ph = ground.framing.photo
        back = ground.to_photo.inverse()
        dots = np.array([back(p[0] / 100 * pw, p[1] / 100 * ph) for p in self.points])
        corners = np.ascontiguousarray(dots - (rect.x, rect.y))
        out, crossings = _empty(rect), np.empty(2 * len(corners), np.float64)
        outline_of(out, rect.width, rect.height, corners, len(corners), crossings)
        return out


class Tones(Shape):
    """Where the picture lies in a range of tones."""

    wrong: ClassVar[dict[str, str]] = {
        "soft": "Without it, grain and noise are cut into dots",
        "of": "Read in the print, it moves when passes before it are changed",
    }

    label: ClassVar[str] = "Tones"
    shape: Literal["tones"] = "tones"
    low: float = number(0, 0, 255, "", "From", "The darkest tone that counts in full")
    high: float = number(80, 0, 255, "", "To", "The lightest tone that counts in full")
    soft: float = number(30, 0, 255, "", "Softness", "Over how many tones it fades")
    of: Literal["print", "photo"] = choice(
        "print",
        (("print", "the print so far"), ("photo", "the photograph")),
        "Looked for in",
        "What comes into the pass",
    )
    inverted: bool = toggle(False, "All but these", "Everything outside the range")

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        gray = gray_of(ground.inputs(self.of, rect, ground.scale), ground.space)
        low, high = min(self.low, self.high) / 255, max(self.low, self.high) / 255
        out = _empty(rect)
        tones(np.ascontiguousarray(gray), out, out.size, low, high, max(self.soft / 255, 1e-4))
        return out


class Hues(Shape):
    """Where the picture has a range of hues; grays have none."""

    wrong: ClassVar[dict[str, str]] = {
        "width": "Too narrow, a surface falls into spots",
        "soft": "Without it, hues at the border flicker from pixel to pixel",
        "of": "Read in a gray print there are no hues to find",
    }

    label: ClassVar[str] = "Hues"
    shape: Literal["hues"] = "hues"
    hue: float = number(250, 0, 360, "°", "Hue", "Degrees of Oklch: red 29, yellow 110, green 142, blue 264")
    width: float = number(50, 0, 360, "°", "Width", "The range that counts in full")
    soft: float = number(30, 0, 180, "°", "Softness", "Over how many degrees it fades")
    of: Literal["print", "photo"] = choice(
        "photo",
        (("print", "the print so far"), ("photo", "the photograph")),
        "Looked for in",
        "Where the hues are read",
    )
    inverted: bool = toggle(False, "All but these", "Everything outside the range")

    def cover(self, rect: Rect, ground: Ground) -> Cover:
        planes, out = ground.inputs(self.of, rect, ground.scale), _empty(rect)
        if len(planes) == 1:  # grays have none
            out[:] = 0
            return out
        soft = max(self.soft / 360, 1e-4)
        hues(planes, out, out.size, self.hue / 360, self.width / 720, soft, ground.space.numbers)
        return out


def _empty(rect: Rect) -> Cover:
    return np.empty((rect.height, rect.width), np.float32)


SHAPES: tuple[type[Shape], ...] = (Stroke, Oval, Ramp, Outline, Tones, Hues)
AnyShape = Annotated[Stroke | Oval | Ramp | Outline | Tones | Hues, Told("shape")]


class Stencil(Declared):
    """Where a pass acts: its shapes joined in order, then grown, feathered, inverted, weakened."""

    wrong: ClassVar[dict[str, str]] = {
        "grow": "Far out it meets the next edge and shows as a seam",
        "feather": "Wide, it gives things a glow; none, it looks cut out",
        "invert": "An empty stencil, inverted, acts everywhere",
        "strength": "At 0 the pass acts everywhere again",
    }

    label: ClassVar[str] = "Stencil"

    shapes: tuple[AnyShape, ...] = listed("shapes", SHAPES, "Shapes", "Joined in order")
    grow: float = length(0, -100, 100, "Grow", "Wider; below 0 narrower", step=0.5)
    feather: float = length(0, 0, 300, "Feather", "How far its edges are softened", step=0.5)
    invert: bool = toggle(False, "Inverted", "Acts where it did not")
    strength: float = number(100, 0, 100, "%", "Strength", "0: as if there were no stencil at all")

    @property
    def limits(self) -> bool:
        """Whether it keeps anything back."""
        return self.strength > 0 and bool(self.shapes)
