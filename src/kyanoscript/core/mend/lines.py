"""Cracks, creases and long scratches followed across the picture: what was found in pieces is joined.

A crease that is plain in the sky is faint on a tiled roof. Where one piece ends and another begins in the same
direction, or where a long one ends before the rim, the likeliest way between is taken (a shortest path through what the
detector thought of each pixel), and counts if there is something along it, or if it is short.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2

Mask = NDArray[np.uint8]
Point = NDArray[np.float64]

# Lengths are shares of the picture's longer side.
_PIECE = 0.012  # shorter ones are no lines
_END = 0.015  # of a piece, that tells which way it ends
_GAP = 0.09  # the longest that is bridged
_SURELY = 0.012  # so short a gap is bridged whatever lies in it
_LONG = 0.08  # what is followed beyond its ends
_CREASE = 0.12  # such a line is a crease
_EDGE = 0.012  # so near to where the paper ends a line is its edge
_WIDER = 0.0012  # at either side of a long line
_STEP = 0.03  # that it is followed by at a time
_RIM = 0.03  # so near the rim it goes on to it
_ALIGNED = math.cos(math.radians(14))  # of two ends that look at each other
_STRAIGHT = math.cos(math.radians(5))  # of those that have a long way to go
_MORE = 0.8  # logits: a way along which there is something, above what lies beside it
_WANDER = 0.06  # how far a way may stray from the straight one, as a share of its length


@dataclass
class _End:
    place: Point
    way: Point  # outward, of length 1
    piece: int
    length: float
    width: float


def followed(eighths: NDArray[np.int8], found: Mask, sensitivity: float) -> Mask:
    """What is to be added to ``found`` so that its lines go on, 1.

    Parameters
    ----------
    eighths : how likely each pixel is damaged, a logit in eighths, ``(h, w)``.
    found : 1 where damage was found.
    sensitivity : 0…100; what is a piece of a line is told more easily.
    """
    longer = max(eighths.shape)
    weak = (eighths > 8 * (2.0 - 0.03 * sensitivity)).astype(np.uint8)
    ends, whole = _ends(np.maximum(weak, found), longer)
    added = np.zeros_like(found)
    taken: set[int] = set()
    chains = list(range(whole))

    def root(piece: int) -> int:
        while chains[piece] != piece:
            piece = chains[piece]
        return piece

    total = {end.piece: end.length for end in ends}
    for a, b in _pairs(ends, longer):
        first, second = ends[a], ends[b]
        if a in taken or b in taken or root(first.piece) == root(second.piece):
            continue
        way, more = _between(eighths, first.place, second.place)
        gap = float(np.hypot(*(second.place - first.place)))
        if gap < _SURELY * longer or more > _MORE or gap < 0.25 * min(first.length, second.length):
            _drawn(added, way, (first.width + second.width) / 2)
            taken |= {a, b}
            keep, gone = root(first.piece), root(second.piece)
            total[keep] = total.get(keep, 0) + total.get(gone, 0) + gap
            chains[gone] = keep
    for k, end in enumerate(ends):
        if k not in taken and total[root(end.piece)] > _LONG * longer:
            _beyond(eighths, added, end, longer)
    return added


def off_the_rim(missing: Mask) -> NDArray[np.bool_]:
    """Where lines are looked for: not along the edge of the paper, beyond which the picture is ``missing``."""
    if not missing.any():
        return np.ones(missing.shape, bool)
    side = 2 * max(2, round(_EDGE * max(missing.shape))) + 1
    near = cv2.dilate(missing, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    return np.asarray(near == 0)


def widened(found: Mask) -> Mask:
    """The same with long lines a little wider: paper is cracked more finely than is seen beside what is seen."""
    longer = max(found.shape)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(found, connectivity=8)
    long_ = np.hypot(stats[:, 2], stats[:, 3]) > _LONG * longer
    long_ &= stats[:, 4] < 0.02 * np.hypot(stats[:, 2], stats[:, 3]) * longer
    long_[0] = False
    if count < 2 or not long_.any():
        return found
    side = 2 * max(1, round(_WIDER * longer)) + 1
    wide = cv2.dilate(long_[labels].astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    return np.maximum(found, wide).astype(np.uint8)


def creases(found: Mask) -> list[NDArray[np.float64]]:
    """The long, nearly straight lines of what was found: a place at every few pixels of each ``(n, 2)``.

    Where paper was folded it is shaded beside the crack as well.
    """
    longer = max(found.shape)
    count, labels, stats, _ = cv2.connectedComponentsWithStats(found, connectivity=8)
    lines = []
    for k in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[k])
        extent = math.hypot(w, h)
        if extent < _CREASE * longer or area > 0.02 * extent * longer:
            continue
        ys, xs = np.nonzero(labels[y : y + h, x : x + w] == k)
        places = np.stack([xs + x, ys + y], -1).astype(np.float64)
        middle, way = places.mean(axis=0), _axis(places)
        along = (places - middle) @ way
        aside = (places - middle) @ np.array([-way[1], way[0]])
        bins = np.rint((along - along.min()) / 6).astype(int)
        filled, where = np.unique(bins, return_inverse=True)
        share = np.bincount(where)
        a, b = np.bincount(where, along) / share, np.bincount(where, aside) / share
        if np.ptp(b) < 0.12 * extent and len(filled) > 0.8 * (bins.max() + 1):
            lines.append(middle + a[:, None] * way + b[:, None] * np.array([-way[1], way[0]]))
    return lines


def _ends(mask: Mask, longer: int) -> tuple[list[_End], int]:
    """Both ends of every piece of a line, and how many pieces of anything there are."""
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
    ends = []
    for k in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[k])
        extent = math.hypot(w, h)
        if extent < _PIECE * longer or area > 0.25 * extent * max(8.0, 0.15 * extent):
            continue
        ys, xs = np.nonzero(labels[y : y + h, x : x + w] == k)
        places = np.stack([xs + x, ys + y], -1).astype(np.float64)
        along = (places - places.mean(axis=0)) @ _axis(places)
        for sign in (-1, 1):
            last = along * sign > (along * sign).max() - _END * longer
            tip = places[last]
            way = _axis(tip)
            tip_along = (tip - tip.mean(axis=0)) @ way
            outward = sign * np.sign(np.dot(_axis(places), way)) or 1.0
            far = tip_along * outward
            place = tip[far > far.max() - 3].mean(axis=0)
            ends.append(_End(place, way * outward, k, extent, area / extent))
    return ends, count


def _axis(places: NDArray[np.float64]) -> Point:
    """The direction in which places lie, of length 1."""
    if len(places) < 2:
        return np.array([1.0, 0.0])
    _, ways = np.linalg.eigh(np.cov(places.T) + 1e-9 * np.eye(2))
    return np.asarray(ways[:, -1], np.float64)


def _pairs(ends: list[_End], longer: int) -> list[tuple[int, int]]:
    """Ends that look at each other, the nearest first."""
    if len(ends) < 2:
        return []
    from scipy.spatial import cKDTree  # not needed for a first look

    places = np.array([end.place for end in ends])
    near = cKDTree(places).query_pairs(_GAP * longer, output_type="ndarray")
    rows = []
    for a, b in near:
        one, other = ends[a], ends[b]
        between = other.place - one.place
        gap = float(np.hypot(*between))
        if one.piece == other.piece or gap > 2.5 * max(one.length, other.length):
            continue
        between = between / max(gap, 1e-6)
        least = _ALIGNED if gap > 6 else 0.5  # ends that nearly touch need not
        if np.dot(one.way, between) > least and np.dot(other.way, -between) > least:
            rows.append((gap, int(a), int(b)))
    return [(a, b) for _, a, b in sorted(rows)]


def _between(eighths: NDArray[np.int8], start: Point, end: Point) -> tuple[NDArray[np.float64], float]:
    """The likeliest way between two places ``(n, 2)``, and how much more there is on it than beside it, in logits."""
    length = float(np.hypot(*(end - start)))
    steps, room = max(2, math.ceil(length)), max(3, math.ceil(_WANDER * length))
    along = (end - start) / max(length, 1e-6)
    aside = np.array([-along[1], along[0]])
    t = np.linspace(0, 1, steps)[:, None]
    s = np.arange(-room, room + 1)[None]
    xs = start[0] + t * (end - start)[0] + s * aside[0]
    ys = start[1] + t * (end - start)[1] + s * aside[1]
    plane = cv2.remap(
        _window(eighths, xs, ys),
        (xs - max(0, math.floor(xs.min()) - 1)).astype(np.float32),
        (ys - max(0, math.floor(ys.min()) - 1)).astype(np.float32),
        cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_REPLICATE,
    )
    told = np.clip(plane / 8, -4, 4)
    best = np.full((steps, 2 * room + 1), -1e9)
    came = np.zeros((steps, 2 * room + 1), np.int64)
    best[0, room] = told[0, room]
    for k in range(1, steps):
        before = np.pad(best[k - 1], 1, constant_values=-1e9)
        options = np.stack([before[:-2] - 0.3, before[1:-1], before[2:] - 0.3])
        choice = options.argmax(axis=0)
        best[k] = options.max(axis=0) + told[k]
        came[k] = choice - 1
    at = room if abs(best[-1, room]) < 1e8 else int(best[-1].argmax())
    line = np.empty(steps, np.int64)
    for k in range(steps - 1, -1, -1):
        line[k] = at
        at = min(max(at + int(came[k, at]), 0), 2 * room)
    rows = np.arange(steps)
    way = np.stack([xs[rows, line], ys[rows, line]], -1)
    return way, float(told[rows, line].mean() - np.sort(told, axis=1)[:, : 2 * room].mean())


def _window(eighths: NDArray[np.int8], xs: NDArray[np.float64], ys: NDArray[np.float64]) -> NDArray[np.float32]:
    """The part of the plane that places lie in."""
    x0, y0 = max(0, math.floor(xs.min()) - 1), max(0, math.floor(ys.min()) - 1)
    x1, y1 = math.ceil(xs.max()) + 2, math.ceil(ys.max()) + 2
    part = eighths[y0:y1, x0:x1]
    return part.astype(np.float32) if part.size else np.full((1, 1), -32, np.float32)


def _beyond(eighths: NDArray[np.int8], added: Mask, end: _End, longer: int) -> None:
    """A long line followed beyond its end, as long as there is something, or up to the rim if that is near."""
    height, width = eighths.shape
    place, way = end.place, end.way
    near = _RIM  # to go on where nothing is seen: from a line's own end only, or it would go on over a print's margin
    for _ in range(int(1 / _STEP)):
        rim = _to_rim(place, way, width, height)
        if rim < 2:
            return
        length = min(_STEP * longer, rim)
        line, more = _between(eighths, place, place + way * length)
        if more < _MORE and rim > near * longer:
            return
        near = _SURELY
        _drawn(added, line, end.width)
        place = line[-1]


def _to_rim(place: Point, way: Point, width: int, height: int) -> float:
    """How far it is to the picture's rim."""
    far = 1e9
    for at, by, size in zip(place, way, (width, height), strict=True):
        if abs(by) > 1e-6:
            far = min(far, ((size - 1 - at) if by > 0 else -at) / by)
    return max(0.0, far)


def _drawn(mask: Mask, way: NDArray[np.float64], width: float) -> None:
    points = np.rint(way).astype(np.int32).reshape(-1, 1, 2)
    cv2.polylines(mask, [points], False, 1, max(2, round(width)))
