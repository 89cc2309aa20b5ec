"""Hands and bare arms: where the points of a body say so, and what is as light as the face and stands out."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.people.bodies import ELBOWS, FINGERS, SHOULDERS, WRISTS, Body

Mask = NDArray[np.bool_]  # (h, w)

_LIKE = 20.0  # of L*: pieces stand out by so much, and are as near to the face's darks and lights as a quarter of it
_LEAST, _MOST = 0.06, 2.0  # of the face's area: a piece
_SEEN = 0.5  # how surely a point is seen
_SAME, _ARM = 13.0, 9.0  # of L*: within a hand, and of an arm beside its hand
_DARKER, _LIGHTER = 16.0, 45.0  # of L*: what is so much darker than the face is no hand; the face may be in shade
_PALM, _WIDE = 1.4, 0.34  # a hand about its points, and an arm about its line, as shares of their lengths
_SLEEVE = 0.5  # of the upper arm: what lies above that is no bare arm but a collar
_WITHIN = 0.6  # of a piece, where skin may be
_CHEST = 0.2  # of the shoulders' width: so far off the middle below the neck skin may be bare
_NEAR = 0.75  # of the face: so far from its points a hand may lie


def hands(lightness: NDArray[np.float32], room: Mask, below: Mask, face: Mask, body: Body | None) -> Mask:
    """All hands of somebody.

    Parameters
    ----------
    lightness : L*, ``(h, w)``.
    room : what of the person is not head or neck; ``below`` : of that, what lies below the chin.
    face : skin of the face.
    body : its points, if they are known.
    """
    if not face.any():
        return np.zeros_like(room)
    side = math.sqrt(float(face.sum()))
    soft = np.asarray(cv2.GaussianBlur(lightness, (0, 0), max(1.0, 0.04 * side)), np.float32)
    dark, tone, light = (float(v) for v in np.percentile(soft[face], (15, 50, 90)))
    standing = _standing_out(soft, below & (soft > dark - _LIKE / 4) & (soft < light + _LIKE / 4), below, side)
    if body is None:
        return np.any([np.zeros_like(room), *standing], axis=0)
    found = np.zeros_like(room)
    for which in (0, 1):
        found |= _hand(soft, room, body, which, tone)
    places = _arms(body, room.shape, side) | _chest(body, room.shape)
    for piece in standing:
        if (piece & places).sum() > _WITHIN * piece.sum():
            found |= piece
    # A hand may be lighter than a face in shade, and its points may lie beside it.
    near = _near_hands(body, room.shape, side) & ~found
    lighter = room & near & (soft > tone) & (soft < tone + _LIGHTER)
    for piece in _standing_out(soft, lighter, room, side, _LIKE / 2):
        found |= piece
    return found


def _standing_out(soft: NDArray[np.float32], like: Mask, among: Mask, side: float, by: float = _LIKE) -> list[Mask]:
    """Pieces that are as light as is wanted and lighter than what is round them."""
    size = 2 * max(1, round(0.04 * side)) + 1
    opened = np.asarray(cv2.morphologyEx(like.astype(np.uint8), cv2.MORPH_OPEN, np.ones((size, size), np.uint8)))
    count, marks, stats, _ = cv2.connectedComponentsWithStats(opened)
    found = []
    for k in range(1, count):
        if not _LEAST * side * side < stats[k, 4] < _MOST * side * side:
            continue
        piece = marks == k
        ring = cv2.dilate(piece.astype(np.uint8), np.ones((2 * size + 1,) * 2, np.uint8)) > 0
        ring &= ~piece & among
        if ring.sum() > 0.2 * stats[k, 4] and float(np.median(soft[piece]) - np.median(soft[ring])) > by:
            found.append(piece)
    return found


def _hand(soft: NDArray[np.float32], room: Mask, body: Body, which: int, tone: float) -> Mask:
    """One hand by its points, and its arm as far as that is as light; ``tone`` is the face's."""
    points = body.places[list(FINGERS[which])]
    height, width = room.shape
    middle = points.mean(axis=0)
    none = np.zeros_like(room)
    if body.seen[list(FINGERS[which])].min() < _SEEN or not (0 <= middle[0] < width and 0 <= middle[1] < height):
        return none
    elbow = body.places[ELBOWS[which]]
    arm = float(np.hypot(*(points[0] - elbow)))
    reach = max(_PALM * float(np.hypot(*(points - middle).T).max()), 0.22 * arm, 3.0)
    disc = _disc(room.shape, middle, reach) & room
    core = np.any([_disc(room.shape, point, 0.3 * reach) for point in (*points, middle)], axis=0) & room
    if core.sum() < math.pi * (0.3 * reach) ** 2:  # an outline may end short of a finger or two
        return none
    usual = float(np.median(soft[core]))
    if not tone - _DARKER < usual < tone + _LIGHTER:  # a glove, or a sleeve
        return none
    wanted = disc & (np.abs(soft - usual) < _SAME)
    strip = np.zeros(room.shape, np.uint8)
    _line(strip, points[0], (points[0] + 9 * elbow) / 10, max(2, round(_WIDE * arm)))
    line = np.linspace(0.25, 0.75, 15)[:, None] * (elbow - points[0]) + points[0]
    at = np.clip(np.rint(line).astype(int), 0, [width - 1, height - 1])
    if body.seen[ELBOWS[which]] > _SEEN and abs(float(np.median(soft[at[:, 1], at[:, 0]])) - usual) < _ARM:
        wanted |= (strip > 0) & room & (np.abs(soft - usual) < _SAME)
    _, marks = cv2.connectedComponents(wanted.astype(np.uint8))
    kept = np.unique(marks[core & wanted])
    return np.isin(marks, kept[kept > 0]) & wanted


def _arms(body: Body, shape: tuple[int, ...], side: float) -> Mask:
    """Along the arms, from where sleeves may end."""
    mask = np.zeros(shape[:2], np.uint8)
    thick = max(3, round(0.5 * side))
    for which in (0, 1):
        shoulder, elbow, wrist = (body.places[pair[which]] for pair in (SHOULDERS, ELBOWS, WRISTS))
        _line(mask, shoulder + _SLEEVE * (elbow - shoulder), elbow, thick)
        _line(mask, elbow, wrist, thick)
        _line(mask, wrist, body.places[list(FINGERS[which])].mean(axis=0), thick)
    return mask > 0


def _near_hands(body: Body, shape: tuple[int, ...], side: float) -> Mask:
    found = np.zeros(shape[:2], bool)
    for which in (0, 1):
        points = body.places[list(FINGERS[which])]
        if body.seen[list(FINGERS[which])].mean() > _SEEN:
            found |= _disc(shape, points.mean(axis=0), _NEAR * side)
    return found


def _chest(body: Body, shape: tuple[int, ...]) -> Mask:
    """Below the neck, where skin may be bare, without the collar's ends."""
    left, right = (body.places[k] for k in SHOULDERS)
    across = right - left
    ys, xs = np.ogrid[: shape[0], : shape[1]]
    along = ((xs - left[0]) * across[0] + (ys - left[1]) * across[1]) / (float(across @ across) or 1.0)
    return np.asarray(np.abs(along - 0.5) < _CHEST, bool)


def _line(mask: NDArray[np.uint8], start: NDArray[np.float64], end: NDArray[np.float64], thick: int) -> None:
    ways = np.rint([start, end]).astype(np.int32).reshape(-1, 1, 2)
    cv2.polylines(mask, [ways], False, 1, thick)


def _disc(shape: tuple[int, ...], middle: NDArray[np.float64], radius: float) -> Mask:
    mask = np.zeros(shape[:2], np.uint8)
    x, y = (round(float(v)) for v in middle)
    cv2.circle(mask, (x, y), max(1, round(radius)), 1, -1)
    return mask > 0
