"""Faces, however small: the detector sees the whole picture, and then overlapping squares of it."""

from __future__ import annotations

import functools
import math
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.people.networks import run, surely
from kyanoscript.core.people.squares import Levels, cut, laid
from kyanoscript.core.watching import Watch, carried, unwatched

_SIDE = 128  # of what the detector sees
_SURE = 0.6  # the least it must be
LIKE_A_FACE = 0.76  # to the best of many looks (`likest`): animals' are less so, but for apes'
_SAME = 0.3  # two boxes with so much in common are one face
_SHARES = (1.0, 0.62, 0.36, 0.2)  # of the shorter side: sides of the squares that are looked at besides the whole
_STEP = 0.5  # of a square's side, from one to the next
_FLAT = 0.03  # where there is no more than this, there is nobody
_AT_ONCE = 2  # squares; so small a network keeps one processor busy only
_LEAST = 110.0  # pixels of a square of the picture below which there is nothing more to be seen


@dataclass(frozen=True)
class Face:
    """A face, in pixels of the picture."""

    x: float  # middle, across
    y: float
    size: float  # side of the square round it
    turn: float  # radians that the line from eye to eye is turned by, clockwise
    sure: float  # 0…1


@functools.cache
def _anchors() -> NDArray[np.float32]:
    """Middles of the 896 places that the detector speaks of, 0…1: two for each of 16 × 16, six for each of 8 × 8."""
    rows = []
    for side, each in ((16, 2), (8, 6)):
        at = (np.arange(side) + 0.5) / side
        grid = np.stack(np.meshgrid(at, at), axis=-1).reshape(-1, 2)
        rows.append(np.repeat(grid, each, axis=0))
    return np.concatenate(rows).astype(np.float32)


def faces(levels: Levels, watch: Watch = unwatched) -> list[Face]:
    """All faces, the surest first."""
    height, width = levels.shape
    found = _within(levels, -(max(height, width) - width) / 2, -(max(height, width) - height) / 2, max(height, width))
    squares = [
        (x, y, share * min(height, width))
        for share in _SHARES
        if share * min(height, width) >= _LEAST
        for y in _places(height, share * min(height, width))
        for x in _places(width, share * min(height, width))
    ]

    def look(square: tuple[float, float, float]) -> list[Face]:
        return _within(levels, *square)

    with ThreadPoolExecutor(_AT_ONCE) as pool:
        for k, some in enumerate(pool.map(carried(look), squares)):
            watch("Looking for people", k / len(squares))
            found += some
    watch("Looking for people", 1.0)
    kept: list[Face] = []
    for face in sorted(found, key=lambda face: -face.sure):
        if all(_common(face, other) < _SAME for other in kept):
            kept.append(face)
    return kept


def likest(levels: Levels, x: float, y: float, size: float, enough: float = 1.0) -> float:
    """How much a place is like a face to the detector, 0…1, whichever way it may look.

    Heads from the side are somewhat so. ``x``, ``y`` and ``size`` are a head's, in pixels; what is ``enough`` is not
    looked at again.
    """
    best = 0.0
    for share in (0.8, 1.2, 1.8, 2.6):
        for turn in (0.0, -0.35, 0.35):
            square = cut(levels, laid(x, y, size * share, turn, _SIDE), _SIDE)
            for turned in (square, square[:, ::-1]):
                _, scores = run("faces", np.ascontiguousarray(turned, np.float32) * 2 - 1)
                best = max(best, float(surely(scores.max())))
                if best > enough:
                    return best
    return best


def _places(room: float, side: float) -> list[float]:
    count = max(1, math.ceil((room - side) / (side * _STEP)) + 1) if room > side else 1
    return [float(v) for v in np.linspace(0, max(0.0, room - side), count)]


def _within(levels: Levels, x: float, y: float, side: float) -> list[Face]:
    """The faces in a square of the picture, which may reach beyond it."""
    square = cut(levels, laid(x + side / 2, y + side / 2, side, 0.0, _SIDE), _SIDE, 0.5)
    if float(square.std()) < _FLAT:
        return []
    boxes, scores = run("faces", square * 2 - 1)
    boxes, score = boxes.reshape(-1, 16), surely(scores.reshape(-1))
    found = []
    for k in np.flatnonzero(score > _SURE):
        middle = boxes[k, :2] / _SIDE + _anchors()[k]
        right, left = boxes[k, 4:6] / _SIDE + _anchors()[k], boxes[k, 6:8] / _SIDE + _anchors()[k]
        turn = math.atan2(left[1] - right[1], left[0] - right[0])
        across, down = x + middle[0] * side, y + middle[1] * side
        size = float(max(boxes[k, 2], boxes[k, 3])) / _SIDE * side
        if 0 <= across < levels.shape[1] and 0 <= down < levels.shape[0]:
            found.append(Face(float(across), float(down), size, turn, float(score[k])))
    return found


def _common(a: Face, b: Face) -> float:
    """How much two squares have in common, of the smaller one."""
    wide = min(a.x + a.size / 2, b.x + b.size / 2) - max(a.x - a.size / 2, b.x - b.size / 2)
    high = min(a.y + a.size / 2, b.y + b.size / 2) - max(a.y - a.size / 2, b.y - b.size / 2)
    return max(0.0, wide) * max(0.0, high) / min(a.size, b.size) ** 2
