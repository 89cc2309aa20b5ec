"""Taking hold of what lies on the picture: where its handles are, and what it becomes when one is dragged.

Everything here is in pixels of the photograph as opened. There is a class for each way of lying on a picture; a shape
of a stencil or a pass says which is its own (`placed`), and has fields of the names that the class asks for. Places are
in per cent, lengths in thousandths of the longer side, the size of a picture in per cent of it, all rounded to what can
be told apart.
"""

from __future__ import annotations

import math
from typing import Any

from kyanoscript.core.params import Declared

Point = tuple[float, float]
Photo = tuple[int, int]  # its width and height in pixels
Values = dict[str, Any]
MIDDLE = "middle"
_CORNERS = 40  # more corners than that were drawn in one go and have no handles of their own
_DIAGONAL = math.sqrt(0.5)
_SIGNS = ((-1, -1), (1, -1), (1, 1), (-1, 1))


class Hold:
    """What has one place: ``x`` and ``y``. It has no handle but its middle."""

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        """The handles by name."""
        return {MIDDLE: centre(thing, photo)} if hasattr(thing, "x") else {}

    def rims(self, thing: Any, photo: Photo, aspect: float) -> list[list[Point]]:
        """Lines to be drawn for it."""
        return []

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        """The values that change when a handle other than the middle is dragged."""
        return {}

    def moved(self, thing: Any, dx: float, dy: float, photo: Photo) -> Values:
        """And when all of it is moved."""
        return {"x": _held(thing.x + dx / photo[0] * 100), "y": _held(thing.y + dy / photo[1] * 100)}


class _Turning(Hold):
    """It can be turned; its handle for that lies outside."""

    name = "turn"
    ahead = 90.0  # degrees between where the handle lies and where the thing looks

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        x, y = centre(thing, photo)
        degrees = math.degrees(math.atan2(at[1] - y, at[0] - x)) + self.ahead
        # Of level lines half a turn is all there is.
        half = thing.number(self.name).high if isinstance(thing, Declared) else 180
        return {self.name: round((degrees + half) % (2 * half) - half, 1)}


class Spot(_Turning):
    """A point; with a turn if it has one."""

    ahead = 0.0

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        found = super().grips(thing, photo, away, aspect)
        if hasattr(thing, self.name):
            found["turn"] = _turned(*centre(thing, photo), 2 * away, 0, getattr(thing, self.name))
        return found


class Angle(Spot):
    """An angle; in the picture's middle, if it lies nowhere."""

    name = "angle"


class Oval(_Turning):
    """``x``, ``y``, ``width``, ``height``, ``turn``, ``soft``."""

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        x, y = centre(thing, photo)
        rx, ry = _radii(thing, photo)
        inner = (1 - thing.soft / 100) * _DIAGONAL
        ways = {"right": (rx, 0), "left": (-rx, 0), "top": (0, -ry), "bottom": (0, ry),
                "soft": (rx * inner, ry * inner), "turn": (0, -ry - away)}  # fmt: skip
        return {MIDDLE: (x, y), **{name: _turned(x, y, dx, dy, thing.turn) for name, (dx, dy) in ways.items()}}

    def rims(self, thing: Any, photo: Photo, aspect: float) -> list[list[Point]]:
        x, y = centre(thing, photo)
        rx, ry = _radii(thing, photo)
        round_ = [2 * math.pi * k / 72 for k in range(73)]
        return [
            [_turned(x, y, rx * s * math.cos(a), ry * s * math.sin(a), thing.turn) for a in round_]
            for s in (1.0, 1 - thing.soft / 100)
            if s > 0
        ]

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        if grip == "turn":
            return super().dragged(thing, grip, start, at, photo, even)
        x, y = centre(thing, photo)
        along, down = _turned(0, 0, at[0] - x, at[1] - y, -thing.turn)
        if grip == "soft":
            rx, ry = _radii(thing, photo)
            inner = math.hypot(along / rx, down / ry)
            return {"soft": float(round(min(max((1 - inner) * 100, 0.0), 100.0)))}
        side = "width" if grip in ("left", "right") else "height"
        reach = abs(along) if side == "width" else abs(down)
        value = round(_within(thing, side, reach * 2000 / max(photo)), 2)
        return {"width": value, "height": value} if even else {side: value}


class Picture(_Turning):
    """``x``, ``y``, ``size``, ``turn``."""

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        x, y = centre(thing, photo)
        corners = {f"corner {k}": at for k, at in enumerate(self._corners(thing, photo, aspect))}
        half = _sides(thing, photo, aspect)[1] / 2
        return {MIDDLE: (x, y), **corners, "turn": _turned(x, y, 0, -half - away, thing.turn)}

    def rims(self, thing: Any, photo: Photo, aspect: float) -> list[list[Point]]:
        corners = self._corners(thing, photo, aspect)
        return [[*corners, corners[0]]]

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        if grip == "turn":
            return super().dragged(thing, grip, start, at, photo, even)
        x, y = centre(thing, photo)
        before = math.hypot(start[0] - x, start[1] - y)
        grown = thing.size * math.hypot(at[0] - x, at[1] - y) / max(before, 1e-6)
        return {"size": round(_within(thing, "size", grown), 1)}

    @staticmethod
    def _corners(thing: Any, photo: Photo, aspect: float) -> list[Point]:
        w, h = _sides(thing, photo, aspect)
        return [_turned(*centre(thing, photo), sx * w / 2, sy * h / 2, thing.turn) for sx, sy in _SIGNS]


class Ramp(Hold):
    """``x1``, ``y1``, ``x2``, ``y2``."""

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        a, b = self._ends(thing, photo)
        return {"from": a, "to": b, MIDDLE: ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)}

    def rims(self, thing: Any, photo: Photo, aspect: float) -> list[list[Point]]:
        a, b = self._ends(thing, photo)
        dx, dy = b[0] - a[0], b[1] - a[1]
        return [[(p[0] - dy, p[1] + dx), (p[0] + dy, p[1] - dx)] for p in (a, b)] + [[a, b]]

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        end = "1" if grip == "from" else "2"
        return {f"x{end}": _share(at[0], photo[0]), f"y{end}": _share(at[1], photo[1])}

    def moved(self, thing: Any, dx: float, dy: float, photo: Photo) -> Values:
        by = {"x": dx / photo[0] * 100, "y": dy / photo[1] * 100}
        return {name: _held(getattr(thing, name) + by[name[0]]) for name in ("x1", "y1", "x2", "y2")}

    @staticmethod
    def _ends(thing: Any, photo: Photo) -> tuple[Point, Point]:
        return _at(thing.x1, thing.y1, photo), _at(thing.x2, thing.y2, photo)


class Outline(Hold):
    """``points``."""

    def grips(self, thing: Any, photo: Photo, away: float, aspect: float) -> dict[str, Point]:
        corners = [_at(p[0], p[1], photo) for p in thing.points]
        middle = sum(x for x, _ in corners) / len(corners), sum(y for _, y in corners) / len(corners)
        few = corners if len(corners) <= _CORNERS else []  # a line drawn by hand is moved as one
        return {**{str(k): at for k, at in enumerate(few)}, MIDDLE: middle}

    def rims(self, thing: Any, photo: Photo, aspect: float) -> list[list[Point]]:
        corners = [_at(p[0], p[1], photo) for p in thing.points]
        return [[*corners, corners[0]]]

    def dragged(self, thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool) -> Values:
        k = int(grip)
        corner = (_share(at[0], photo[0]), _share(at[1], photo[1]), *thing.points[k][2:])
        return {"points": (*thing.points[:k], corner, *thing.points[k + 1 :])}

    def moved(self, thing: Any, dx: float, dy: float, photo: Photo) -> Values:
        by_x, by_y = dx / photo[0] * 100, dy / photo[1] * 100
        return {"points": tuple((_held(p[0] + by_x), _held(p[1] + by_y), *p[2:]) for p in thing.points)}


HOLDS: dict[str, Hold] = {
    "point": Spot(), "angle": Angle(), "oval": Oval(), "picture": Picture(), "ramp": Ramp(), "outline": Outline(),
}  # fmt: skip


def placed(thing: Any) -> str:
    """How a shape or a pass lies on the picture, a key of `HOLDS`; "" if it cannot be taken hold of."""
    found = str(thing.placed()) if thing is not None and hasattr(thing, "placed") else ""
    return found if found in HOLDS else ""


def grips(thing: Any, photo: Photo, away: float, aspect: float = 1.0) -> dict[str, Point]:
    """The handles by name; the one for turning lies ``away`` pixels outside. ``aspect``: width to height."""
    hold = HOLDS.get(placed(thing))
    return hold.grips(thing, photo, away, aspect) if hold is not None else {}


def rims(thing: Any, photo: Photo, aspect: float = 1.0) -> list[list[Point]]:
    """Lines to be drawn for it; a closed one ends where it began."""
    hold = HOLDS.get(placed(thing))
    return hold.rims(thing, photo, aspect) if hold is not None else []


def dragged(thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool = False) -> Values:
    """The values that change when ``grip`` is dragged from ``start`` to ``at``; ``even``: an oval's sides alike."""
    if grip == MIDDLE:
        return moved(thing, at[0] - start[0], at[1] - start[1], photo)
    return HOLDS[placed(thing)].dragged(thing, grip, start, at, photo, even)


def moved(thing: Any, dx: float, dy: float, photo: Photo) -> Values:
    """The values that change when the whole thing is moved."""
    return HOLDS[placed(thing)].moved(thing, dx, dy, photo)


def centre(thing: Any, photo: Photo) -> Point:
    """Where something lies that has one place; the picture's middle, if it lies nowhere."""
    return _at(getattr(thing, "x", 50.0), getattr(thing, "y", 50.0), photo)


def _at(x: float, y: float, photo: Photo) -> Point:
    return x / 100 * photo[0], y / 100 * photo[1]


def _share(at: float, side: int) -> float:
    return _held(at / side * 100)


def _held(share: float) -> float:
    return round(min(max(share, -1000.0), 1000.0), 3)


def _within(thing: Declared, name: str, value: float) -> float:
    return thing.number(name).held(value)


def _radii(thing: Any, photo: Photo) -> Point:
    longer = max(photo)
    return max(thing.width / 2000 * longer, 1e-6), max(thing.height / 2000 * longer, 1e-6)


def _sides(thing: Any, photo: Photo, aspect: float) -> Point:
    longer = thing.size / 100 * max(photo)
    return (longer, longer / aspect) if aspect >= 1 else (longer * aspect, longer)


def _turned(x: float, y: float, dx: float, dy: float, degrees: float) -> Point:
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return x + c * dx - s * dy, y + s * dx + c * dy
