"""People, and what of each is skin, lips, eyes, brows, hair and clothes: closed lines on the picture.

The points of a face give its own parts. The person's outline gives the rest: neck is what is as light as the face below
it, hair what lies above and round it, clothes all that is left. An animal has no such face, and is no person.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.people import points as on_face
from kyanoscript.core.people.faces import Face, Levels, faces
from kyanoscript.core.people.networks import run

Mask = NDArray[np.bool_]  # (h, w)
Line = tuple[tuple[float, float], ...]  # corners, 0…1 across and down

PARTS = ("skin", "lips", "eyes", "brows", "hair", "clothes")
_SURE_POINTS = 0.5  # that there is a face at all, by the network of its points
_OUTLINE = 256  # side of what the network of outlines sees
_ROOM, _ABOVE = 4.6, 0.34  # of the face: side of the square round a person, and the share of it above the face's middle
_LIKE = 20.0  # of L*: what is so near the face is as light as it
_SPECK = 0.02  # of the face's area: smaller pieces are left out
_FINE = 0.006  # of the face's size: how closely a line follows


@dataclass(frozen=True)
class Part:
    """One thing of a person."""

    name: str  # of `PARTS`
    outlines: tuple[Line, ...]
    sure: float  # per cent


@dataclass(frozen=True)
class Person:
    """Somebody in the picture."""

    x: float  # middle of the face, 0…1 across
    y: float
    size: float  # of the face, as a share of the picture's longer side
    sure: float  # per cent
    parts: tuple[Part, ...] = field(default=())

    def part(self, name: str) -> Part | None:
        """A part of that name, if it was found."""
        return next((part for part in self.parts if part.name == name), None)


def people(lightness: NDArray[np.float32]) -> list[Person]:
    """Everybody in a picture, those with the largest faces first.

    ``lightness`` is L* of the whole picture, 0…100 ``(h, w)``, best some thousand pixels long.
    """
    levels = _opened(lightness)
    found: list[tuple[Face, on_face.Line, float]] = []
    for face in faces(levels):
        places, sure = on_face.points(levels, face)
        if sure > _SURE_POINTS:
            found.append((face, places, min(sure, face.sure)))
    found.sort(key=lambda item: -item[0].size)
    whole = _outline(levels, None)
    persons = [_person(levels, lightness, *item, whole, [other[0] for other in found]) for item in found]
    return [person for person in persons if person is not None]


def masks(person: Person, size: tuple[int, int]) -> dict[str, Mask]:
    """The parts of somebody as masks ``(h, w)`` of a picture of a width and height."""
    width, height = size
    made = {}
    for part in person.parts:
        mask = np.zeros((height, width), np.uint8)
        for line in part.outlines:
            corners = np.rint(np.array(line) * [width, height] - 0.5).astype(np.int32)
            cv2.fillPoly(mask, [corners], 1)
        made[part.name] = mask.astype(bool)
    for name in ("lips", "eyes", "brows"):  # they lie on the skin, whose outline goes round them
        if name in made and "skin" in made:
            made["skin"] &= ~made[name]
    return made


def middle_of(line: Line) -> tuple[float, float]:
    """A place well within a closed line: the one that is farthest from it."""
    corners = np.array(line)
    low, extent = corners.min(axis=0), np.ptp(corners, axis=0).max() or 1e-6
    grid = np.zeros((66, 66), np.uint8)
    cv2.fillPoly(grid, [np.rint((corners - low) / extent * 63 + 1).astype(np.int32)], 1)
    y, x = np.unravel_index(int(cv2.distanceTransform(grid, cv2.DIST_L2, 3).argmax()), grid.shape)
    return float(low[0] + (x - 1) / 63 * extent), float(low[1] + (y - 1) / 63 * extent)


def _opened(lightness: NDArray[np.float32]) -> Levels:
    """A faded picture as if it had all its tones, encoded 0…1 as the networks are used to."""
    dark, light = np.percentile(lightness, (1, 99))
    spread = max(float(light - dark), 20.0)
    return np.clip((lightness - dark) / spread, 0, 1).astype(np.float32)


def _outline(levels: Levels, face: Face | None) -> NDArray[np.float32]:
    """Whoever stands in front, 0…1 ``(h, w)``: in the whole picture, or in a square round somebody."""
    height, width = levels.shape
    if face is None:
        small = cv2.resize(levels, (_OUTLINE, _OUTLINE), interpolation=cv2.INTER_AREA)
        (found,) = run("outline", np.asarray(small, np.float32))
        return np.asarray(cv2.resize(found.reshape(_OUTLINE, _OUTLINE), (width, height)), np.float32)
    side = _ROOM * face.size
    scale = side / _OUTLINE
    shift = np.array(
        [[scale, 0, face.x - side / 2 + scale / 2 - 0.5], [0, scale, face.y - _ABOVE * side + scale / 2 - 0.5]]
    )
    soft = cv2.GaussianBlur(levels, (0, 0), 0.4 * scale) if scale > 1.5 else levels
    way = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    square = cv2.warpAffine(soft, shift, (_OUTLINE, _OUTLINE), flags=way, borderMode=cv2.BORDER_REPLICATE)
    (found,) = run("outline", np.asarray(square, np.float32))
    back = cv2.warpAffine(found.reshape(_OUTLINE, _OUTLINE), shift, (width, height), flags=cv2.INTER_LINEAR)
    return np.asarray(back, np.float32)


def _person(
    levels: Levels,
    lightness: NDArray[np.float32],
    face: Face,
    places: on_face.Line,
    sure: float,
    whole: NDArray[np.float32],
    others: list[Face],
) -> Person | None:
    height, width = levels.shape
    oval = _filled(places[list(on_face.OVAL)], levels.shape)
    if oval.sum() < 30:
        return None
    body = _body(levels, face, whole, others, oval)
    lips = _filled(places[list(on_face.LIPS)], levels.shape)
    eyes = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.EYES], axis=0)
    brows = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.BROWS], axis=0)
    neck = _neck(lightness, oval & ~lips & ~eyes & ~brows, places, body)
    skin = (oval | neck) & ~lips & ~eyes & ~brows
    hair = _hair(places, body, oval | neck)
    clothes = _below(places, levels.shape) & body & ~oval & ~neck & ~hair
    area, size = float(oval.sum()), face.size
    percent = 100 * sure
    made = []
    for name, mask, certain, least in (
        ("skin", skin, 1.0, _SPECK),
        ("lips", lips, 0.9, 0.0),
        ("eyes", eyes, 0.9, 0.0),
        ("brows", brows, 0.8, 0.0),
        ("hair", hair, 0.7, _SPECK),
        ("clothes", clothes, 0.7, 5 * _SPECK),
    ):
        lines = _lines(mask, least * area, _FINE * size)
        if lines:
            made.append(Part(name, lines, round(percent * certain, 1)))
    place = places[list(on_face.OVAL)].mean(axis=0)
    return Person(
        float(place[0] / width), float(place[1] / height), size / max(width, height), round(percent, 1), tuple(made)
    )


def _filled(corners: on_face.Line, shape: tuple[int, ...]) -> Mask:
    mask = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.rint(corners).astype(np.int32)], 1)
    return mask.astype(bool)


def _body(levels: Levels, face: Face, whole: NDArray[np.float32], others: list[Face], oval: Mask) -> Mask:
    """The outline of one person: what hangs together with the face, and is nearer to it than to another's."""
    near = _outline(levels, face)
    mask = (np.maximum(near, whole) > 0.5) | oval
    ys, xs = np.mgrid[: levels.shape[0], : levels.shape[1]].astype(np.float32)

    def away(of: Face) -> NDArray[np.float32]:
        # Bodies hang below their faces: distances across count more than those down.
        return np.asarray(
            np.hypot(2.0 * (xs - of.x), np.where(ys < of.y, 2.0, 0.6) * (ys - of.y)) / of.size, np.float32
        )

    own = away(face)
    for other in others:
        if other is not face:
            mask &= own <= away(other)
    _, marks = cv2.connectedComponents((mask | oval).astype(np.uint8))
    label = np.bincount(marks[oval]).argmax()
    return np.asarray(marks == label, bool)


def _axes(places: on_face.Line) -> tuple[on_face.Line, on_face.Line]:
    """Which way is down on a face, and which is to its left; as long as the face is high."""
    down = places[on_face.CHIN] - places[10]
    return down, np.array([-down[1], down[0]])


def _below(places: on_face.Line, shape: tuple[int, ...]) -> Mask:
    """What lies below the chin, as the face is turned."""
    down, _ = _axes(places)
    ys, xs = np.mgrid[: shape[0], : shape[1]].astype(np.float32)
    chin = places[on_face.CHIN] - 0.04 * down
    return np.asarray((xs - chin[0]) * down[0] + (ys - chin[1]) * down[1] > 0)


def _neck(lightness: NDArray[np.float32], face: Mask, places: on_face.Line, body: Mask) -> Mask:
    """Below the jaw, as light as the face, and hanging together with it."""
    down, _ = _axes(places)
    jaw = places[list(on_face.JAW)]
    lower = jaw + 0.62 * down
    room = _filled(np.concatenate([jaw, lower[::-1]]), lightness.shape) & body & ~face
    soft = cv2.GaussianBlur(lightness, (0, 0), max(1.0, 0.015 * float(np.hypot(*down))))
    dark, light = np.percentile(soft[face], (10, 80)) if face.any() else (0.0, 0.0)
    like = room & (soft > dark - _LIKE) & (soft < light + _LIKE / 2)
    near = cv2.dilate(_filled(jaw, lightness.shape).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    _, marks = cv2.connectedComponents(like.astype(np.uint8))
    touched = np.unique(marks[near & like])
    neck = np.isin(marks, touched[touched > 0])
    size = max(1, round(0.03 * float(np.hypot(*down))))
    closed = cv2.morphologyEx(neck.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((2 * size + 1,) * 2, np.uint8))
    return np.asarray(closed > 0) & room


def _hair(places: on_face.Line, body: Mask, taken: Mask) -> Mask:
    """The person above and round the face, down to the chin; further down only what hangs there is not known."""
    down, across = _axes(places)
    high = float(np.hypot(*down))
    middle = (places[10] + places[on_face.CHIN]) / 2
    ys, xs = np.mgrid[: body.shape[0], : body.shape[1]].astype(np.float32)
    along = ((xs - middle[0]) * down[0] + (ys - middle[1]) * down[1]) / high**2
    aside = ((xs - middle[0]) * across[0] + (ys - middle[1]) * across[1]) / high**2
    room = (along > -1.25) & (along < 0.42) & (np.abs(aside) < 0.95)
    return body & room & ~taken


def _lines(mask: Mask, least: float, fine: float) -> tuple[Line, ...]:
    """The outlines of the pieces of a mask that are larger than ``least`` pixels, with ``fine`` pixels of play."""
    height, width = mask.shape
    found, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    lines = []
    for contour in sorted(found, key=cv2.contourArea, reverse=True):
        if cv2.contourArea(contour) < max(least, 1.0):
            continue
        corners = cv2.approxPolyDP(contour, max(fine, 0.5), True).reshape(-1, 2).astype(np.float64) + 0.5
        if len(corners) >= 3:
            lines.append(tuple((float(x / width), float(y / height)) for x, y in corners))
    return tuple(lines)
