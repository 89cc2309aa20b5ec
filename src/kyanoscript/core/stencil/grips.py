"""Taking hold of what lies on the picture: where its handles are, and what it becomes when one is dragged.

Everything here is in pixels of the photograph as opened. What can be taken hold of has fields of these names, whether
it is a shape of a stencil or a pass: an oval x, y, width, height, turn, soft; a ramp x1, y1, x2, y2; an outline points;
a picture x, y, size, turn; a point x, y, and a turn if it has one; an angle angle, and x, y if it lies somewhere (it
is shown in the middle if not). Places are in per cent, lengths in thousandths of the
longer side, the size of a picture in per cent of it, all rounded to what can be told apart.
"""

from __future__ import annotations

import math
from typing import Any

from kyanoscript.core.params import Declared

Point = tuple[float, float]
Photo = tuple[int, int]  # its width and height in pixels
MIDDLE = "middle"


def placed(thing: Any) -> str:
    """Which of the kinds above a shape or a pass is; "" if it cannot be taken hold of."""
    shape = getattr(thing, "shape", None)
    if shape is not None:
        return shape if shape in ("oval", "ramp", "outline") else ""
    return str(thing.placed()) if thing is not None and hasattr(thing, "placed") else ""


def grips(thing: Any, photo: Photo, away: float, aspect: float = 1.0) -> dict[str, Point]:
    """The handles by name; the one for turning lies ``away`` pixels outside. ``aspect``: width to height."""
    kind = placed(thing)
    if kind == "ramp":
        a, b = _at(thing.x1, thing.y1, photo), _at(thing.x2, thing.y2, photo)
        return {"from": a, "to": b, MIDDLE: ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)}
    if kind == "outline":
        corners = [_at(p[0], p[1], photo) for p in thing.points]
        middle = sum(x for x, _ in corners) / len(corners), sum(y for _, y in corners) / len(corners)
        few = corners if len(corners) <= _CORNERS else []  # a line drawn by hand is moved as one
        return {**{str(k): at for k, at in enumerate(few)}, MIDDLE: middle}
    if kind not in ("oval", "picture", "point", "angle"):
        return {}
    x, y = centre(thing, photo)
    found = {MIDDLE: (x, y)} if hasattr(thing, "x") else {}
    if kind == "oval":
        rx, ry = _radii(thing, photo)
        inner = 1 - thing.soft / 100
        found |= {
            "right": _turned(x, y, rx, 0, thing.turn),
            "left": _turned(x, y, -rx, 0, thing.turn),
            "top": _turned(x, y, 0, -ry, thing.turn),
            "bottom": _turned(x, y, 0, ry, thing.turn),
            "soft": _turned(x, y, rx * inner * _DIAGONAL, ry * inner * _DIAGONAL, thing.turn),
            "turn": _turned(x, y, 0, -ry - away, thing.turn),
        }
    elif kind == "picture":
        w, h = _sides(thing, photo, aspect)
        found |= {f"corner {k}": _turned(x, y, sx * w / 2, sy * h / 2, thing.turn) for k, (sx, sy) in enumerate(_SIGNS)}
        found["turn"] = _turned(x, y, 0, -h / 2 - away, thing.turn)
    elif kind == "angle" or hasattr(thing, "turn"):
        found["turn"] = _turned(x, y, 2 * away, 0, thing.angle if kind == "angle" else thing.turn)
    return found


def centre(thing: Any, photo: Photo) -> Point:
    """Where something lies that has one place; the picture's middle, if it lies nowhere."""
    return _at(getattr(thing, "x", 50.0), getattr(thing, "y", 50.0), photo)


def rims(thing: Any, photo: Photo, aspect: float = 1.0) -> list[list[Point]]:
    """Lines to be drawn for it; a closed one ends where it began."""
    kind = placed(thing)
    if kind == "oval":
        x, y = _at(thing.x, thing.y, photo)
        rx, ry = _radii(thing, photo)
        round_ = [2 * math.pi * k / 72 for k in range(73)]
        return [
            [_turned(x, y, rx * s * math.cos(a), ry * s * math.sin(a), thing.turn) for a in round_]
            for s in (1.0, 1 - thing.soft / 100)
            if s > 0
        ]
    if kind == "ramp":
        a, b = _at(thing.x1, thing.y1, photo), _at(thing.x2, thing.y2, photo)
        dx, dy = b[0] - a[0], b[1] - a[1]
        return [[(p[0] - dy, p[1] + dx), (p[0] + dy, p[1] - dx)] for p in (a, b)] + [[a, b]]
    if kind == "outline":
        corners = [_at(p[0], p[1], photo) for p in thing.points]
        return [[*corners, corners[0]]]
    if kind == "picture":
        x, y = _at(thing.x, thing.y, photo)
        w, h = _sides(thing, photo, aspect)
        corners = [_turned(x, y, sx * w / 2, sy * h / 2, thing.turn) for sx, sy in _SIGNS]
        return [[*corners, corners[0]]]
    return []


def dragged(thing: Any, grip: str, start: Point, at: Point, photo: Photo, even: bool = False) -> dict[str, Any]:
    """The values that change when ``grip`` is dragged from ``start`` to ``at``; ``even``: an oval's sides alike."""
    kind = placed(thing)
    dx, dy = at[0] - start[0], at[1] - start[1]
    if grip == MIDDLE:
        return moved(thing, dx, dy, photo)
    if kind == "ramp":
        end = "1" if grip == "from" else "2"
        return {f"x{end}": _share(at[0], photo[0]), f"y{end}": _share(at[1], photo[1])}
    if kind == "outline":
        k = int(grip)
        corner = (_share(at[0], photo[0]), _share(at[1], photo[1]), *thing.points[k][2:])
        return {"points": (*thing.points[:k], corner, *thing.points[k + 1 :])}
    x, y = centre(thing, photo)
    if grip == "turn":
        degrees = math.degrees(math.atan2(at[1] - y, at[0] - x)) + (0 if kind in ("angle", "point") else 90)
        name = "angle" if kind == "angle" else "turn"
        half = thing.number(name).high if isinstance(thing, Declared) else 180
        return {name: round((degrees + half) % (2 * half) - half, 1)}  # of level lines, half a turn is all there is
    along, down = _turned(0, 0, at[0] - x, at[1] - y, -thing.turn)
    longer = max(photo)
    if kind == "picture":
        before = math.hypot(start[0] - x, start[1] - y)
        grown = thing.size * math.hypot(at[0] - x, at[1] - y) / max(before, 1e-6)
        return {"size": round(_within(thing, "size", grown), 1)}
    rx, ry = _radii(thing, photo)
    if grip == "soft":
        inner = math.hypot(along / rx, down / ry)
        return {"soft": float(round(min(max((1 - inner) * 100, 0.0), 100.0)))}
    side = "width" if grip in ("left", "right") else "height"
    reach = abs(along) if side == "width" else abs(down)
    value = round(_within(thing, side, reach * 2000 / longer), 2)
    return {"width": value, "height": value} if even else {side: value}


def moved(thing: Any, dx: float, dy: float, photo: Photo) -> dict[str, Any]:
    """The values that change when the whole thing is moved."""
    by_x, by_y = dx / photo[0] * 100, dy / photo[1] * 100
    kind = placed(thing)
    if kind == "ramp":
        return {n: _held(getattr(thing, n) + (by_x if n[0] == "x" else by_y)) for n in ("x1", "y1", "x2", "y2")}
    if kind == "outline":
        return {"points": tuple((_held(p[0] + by_x), _held(p[1] + by_y), *p[2:]) for p in thing.points)}
    return {"x": _held(thing.x + by_x), "y": _held(thing.y + by_y)}


_CORNERS = 40  # more corners than that were drawn in one go and have no handles of their own
_DIAGONAL = math.sqrt(0.5)
_SIGNS = ((-1, -1), (1, -1), (1, 1), (-1, 1))


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
