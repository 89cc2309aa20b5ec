"""Bodies: 33 points on somebody, where head, arms and hands are, however the face is turned.

The network that finds them thinks much to be a body, animals too. It is asked of somebody whose face was found already,
or where an outline has no face; then the detector of faces must think as well that there is a head.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.people.faces import Face, likest
from kyanoscript.core.people.networks import run, surely
from kyanoscript.core.people.squares import Levels, cut, laid, on_picture, put_back

_SIDE = 256  # of what the network sees
# Of the face: how far below it the middle of the square lies, and how large that is. The first is right for most.
_SQUARES = ((2.2, 8.0), (1.2, 5.0), (3.2, 12.0))
_SURE, _AWAY = 0.9, 0.5  # the least it must be, and how far off a face its head may lie, in sizes of the face
_OUTLINES = (1.3, 1.6)  # of the longer side of an outline: squares that somebody without a face is looked for in
_LOOKS = 3  # more, at such an outline
_FAIRLY, _WELL = 0.8, 0.95  # the least it must be of somebody without a face, at every look and at the surest
_FROM_THE_SIDE = 0.7  # how like a face a head must be: a soldier 0.75, a photographer 0.95, a kingfisher 0.64
_WITHIN, _LIKE = 0.8, 0.6  # of the head's points within the outline, and what both outlines have in common
_LEAST, _PIECES = 0.02, 3  # of the picture: smaller outlines are not asked about; nor more of them

HEAD, SHOULDERS, ELBOWS, WRISTS = tuple(range(11)), (11, 12), (13, 14), (15, 16)
FINGERS = ((15, 17, 19, 21), (16, 18, 20, 22))  # of either hand: wrist, small finger, first finger, thumb
_DEEP = 160.0  # what it answers well within an outline is half of that, and 0 at the rim
_MIDDLE, _TOP = 33, 34  # between the hips, and how far the body reaches from there


@dataclass(frozen=True)
class Body:
    """Somebody's points, in pixels of the picture."""

    places: NDArray[np.float64]  # (35, 2)
    seen: NDArray[np.float64]  # (35,) 0…1
    sure: float  # 0…1
    outline: NDArray[np.float32]  # (h, w) 0…1; at the rim 0.5


def of_face(levels: Levels, face: Face) -> Body | None:
    """The body below a face that was found; None if none is seen."""
    down = np.array([-math.sin(face.turn), math.cos(face.turn)])
    for below, side in _SQUARES:
        body = _looked_at(levels, np.array([face.x, face.y]) + below * face.size * down, side * face.size, face.turn)
        away = np.hypot(*(body.places[list(HEAD)].mean(axis=0) - [face.x, face.y]))
        if body.sure > _SURE and away < _AWAY * face.size:
            return body
    return None


def without_faces(levels: Levels, outline: NDArray[np.float32], taken: NDArray[np.bool_]) -> list[Body]:
    """Whoever stands in front and has no face that was found, as one seen from the side.

    ``outline``: whoever stands in front, 0…1; ``taken``: what belongs to those whose faces were found.
    """
    free = ((outline > 0.5) & ~taken).astype(np.uint8)
    count, marks, stats, _ = cv2.connectedComponentsWithStats(free)
    large = [k for k in range(1, count) if stats[k, 4] > _LEAST * free.size]
    found = []
    for k in sorted(large, key=lambda k: -stats[k, 4])[:_PIECES]:
        body = _in_outline(levels, marks == k, stats[k])
        if body is not None:
            found.append(body)
    return found


def _in_outline(levels: Levels, piece: NDArray[np.bool_], stats: NDArray[np.int32]) -> Body | None:
    """Somebody who fills an outline: where looks at two squares agree on the head, and that is like a face."""
    x, y, wide, high, _ = (float(v) for v in stats)
    height, width = piece.shape
    found: list[tuple[float, NDArray[np.float64], float, Body]] = []
    for share in _OUTLINES:
        body = _settled(levels, np.array([x + wide / 2, y + high / 2]), share * max(wide, high))
        head = np.clip(np.rint(body.places[list(HEAD)]).astype(int), 0, [width - 1, height - 1])
        own = body.outline > 0.5
        within = piece[head[:, 1], head[:, 0]].mean() > _WITHIN and (own & piece).sum() > _LIKE * (own | piece).sum()
        if body.sure < _FAIRLY or not within:
            return None
        middle, size = _head(body)
        found.append((likest(levels, middle[0], middle[1], size), middle, size, body))
    like, middle, size, body = max(found, key=lambda look: look[0])
    apart = max(float(np.hypot(*(other - middle))) for _, other, _, _ in found)
    well = max(look[3].sure for look in found) > _WELL
    return body if well and like > _FROM_THE_SIDE and apart < _AWAY * size else None


def _settled(levels: Levels, middle: NDArray[np.float64], side: float) -> Body:
    """Looked at again where the first look tells; the surest."""
    body = best = _looked_at(levels, middle, side, 0.0)
    for _ in range(_LOOKS):
        way = body.places[_TOP] - body.places[_MIDDLE]
        side = 2.5 * float(np.hypot(*way))
        body = _looked_at(levels, body.places[_MIDDLE], side, math.atan2(way[1], way[0]) + math.pi / 2)
        best = body if body.sure > best.sure else best
    return best


def _head(body: Body) -> tuple[NDArray[np.float64], float]:
    """The middle of a head, and how large it is, by how far off the shoulders are."""
    middle = body.places[list(HEAD)].mean(axis=0)
    return middle, 2.2 * float(np.hypot(*(body.places[list(SHOULDERS)].mean(axis=0) - middle)))


def _looked_at(levels: Levels, middle: NDArray[np.float64], side: float, turn: float) -> Body:
    """What the network finds in a square of the picture, which may reach beyond it."""
    way = laid(middle[0], middle[1], max(side, 16.0), turn, _SIDE)
    points, sure, outline = run("body", cut(levels, way, _SIDE, 0.0))
    rows = points.reshape(-1, 5)[:35]
    return Body(
        on_picture(rows[:, :2], way),
        surely(rows[:, 3]),
        float(np.ravel(sure)[0]),
        put_back(np.clip(0.5 + outline.reshape(_SIDE, _SIDE) / np.float32(_DEEP), 0, 1), way, levels.shape),
    )
