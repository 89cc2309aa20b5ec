"""People, and what of each is skin, lips, eyes, brows, hair and clothes: closed lines on the picture.

The points of a face give its own parts; of the rest of the person's outline `shares` tells what is skin, hair and
clothes, and `hands` what stands out as hands do. An animal has no such face, and is no person.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.people import points as on_face
from kyanoscript.core.people.bodies import Body, of_face, without_faces
from kyanoscript.core.people.faces import LIKE_A_FACE, Face, faces, likest
from kyanoscript.core.people.hands import hands
from kyanoscript.core.people.networks import run
from kyanoscript.core.people.shares import crowned, shares
from kyanoscript.core.people.sides import from_the_side, middle_and_size
from kyanoscript.core.people.squares import Levels, cut, laid, put_back
from kyanoscript.core.watching import Watch, breathe, unwatched

Mask = NDArray[np.bool_]  # (h, w)
Line = tuple[tuple[float, float], ...]  # corners, 0…1 across and down

PARTS = ("skin", "lips", "eyes", "brows", "hair", "hands", "clothes", "blush")
_SHOUTING = 0.7  # to the detector: so sure a face may have its points beside where it was found
_PLAIN = 0.84  # to the detector: so sure a face needs no second look
_OUTLINE = 256  # side of what the network of outlines sees
_ROOM, _ABOVE = 4.6, 0.34  # of the face: side of the square round a person, and the share of it above the face's middle
_WELL_WITHIN = 0.85  # of a body's own outline: what no other has seen
_CHIN = 0.55  # of the face's size, below its middle
_PLAY, _HAIR = 0.12, 0.22  # of the face's size: how far one outline may reach beyond the other, and about a head
_NECK = 0.25  # of the face's size: half of a neck
_BODIES = 8  # the largest persons, whose hands are looked for
_SPECK = 0.02  # of the face's area: smaller pieces are left out
_USUAL_TONE = 0.85
_FINE = 0.006  # of the face's size: how closely a line follows
_CERTAIN = {  # how sure each part is of what the person is, and the least piece of it, of the face's area
    "skin": (1.0, _SPECK),
    "lips": (0.9, 0.0),
    "eyes": (0.9, 0.0),
    "brows": (0.8, 0.0),
    "hair": (0.7, _SPECK),
    "hands": (0.5, 2 * _SPECK),
    "clothes": (0.7, 5 * _SPECK),
    "blush": (0.5, 0.0),
}


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
    tone: float = _USUAL_TONE  # how light the face is beside the whites of its eyes and teeth, 0…1

    def part(self, name: str) -> Part | None:
        """A part of that name, if it was found."""
        return next((part for part in self.parts if part.name == name), None)


def people(lightness: NDArray[np.float32], watch: Watch = unwatched) -> list[Person]:
    """Everybody in a picture, those with the largest faces first.

    ``lightness`` is L* of the whole picture, 0…100 ``(h, w)``, best some thousand pixels long. ``watch`` is told how
    far looking is, and may raise.
    """
    levels = _opened(lightness)
    found: list[tuple[Face, on_face.Line, float]] = []
    for face in faces(levels, watch):
        places, sure = on_face.points(levels, face)
        if sure <= on_face.SURE and face.sure > _SHOUTING and of_face(levels, face) is not None:
            places, surer = on_face.beside(levels, face)
            sure = surer if surer > on_face.SURER else sure
        if sure > on_face.SURE and _is_face(levels, face):
            found.append((face, places, min(sure, face.sure)))
    found.sort(key=lambda item: -item[0].size)
    whole = _outline(levels, None)
    nearest = _nearest(levels.shape, [face for face, _, _ in found])
    persons = []
    covered = np.zeros(levels.shape, bool)
    for k, item in enumerate(found):
        breathe()
        body = of_face(levels, item[0]) if k < _BODIES else None
        person, own = _person(levels, lightness, *item, whole, None if nearest is None else nearest == k, body)
        persons += [person] if person is not None else []
        covered |= own
    aside = [_aside(lightness, body) for body in without_faces(levels, whole, covered)]
    return persons + [person for person in aside if person is not None]


def _is_face(levels: Levels, face: Face) -> bool:
    """Whether the detector is plainly sure, or is so at a second look: an animal's face is a little like one."""
    return face.sure > _PLAIN or likest(levels, face.x, face.y, face.size, LIKE_A_FACE) > LIKE_A_FACE


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
    if "hair" in made and "skin" in made:  # which may hang all round the face
        made["hair"] &= ~made["skin"]
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
    way = laid(face.x, face.y + (0.5 - _ABOVE) * side, side, 0.0, _OUTLINE)
    (found,) = run("outline", cut(levels, way, _OUTLINE))
    return put_back(found.reshape(_OUTLINE, _OUTLINE), way, levels.shape)


def _person(
    levels: Levels,
    lightness: NDArray[np.float32],
    face: Face,
    places: on_face.Line,
    sure: float,
    whole: NDArray[np.float32],
    own: Mask | None,
    points: Body | None,
) -> tuple[Person | None, Mask]:
    """Somebody whose face was found, and where they are at all."""
    height, width = levels.shape
    oval = _filled(places[list(on_face.OVAL)], levels.shape)
    if oval.sum() < 30:
        return None, oval
    body = crowned(_outlined(levels, face, whole, own, oval, points), places)
    lips = _filled(places[list(on_face.LIPS)], levels.shape)
    eyes = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.EYES], axis=0)
    brows = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.BROWS], axis=0)
    inner = oval & ~lips & ~eyes & ~brows
    skin, hair, clothes = shares(lightness, places, body, inner, points)
    rest = body & ~oval & ~skin & ~hair
    skin |= hands(lightness, rest, clothes, inner, points)  # what stands out as a hand does
    skin, bare = _face_and_limbs(skin, oval)
    clothes &= ~bare
    made = {"skin": skin, "lips": lips, "eyes": eyes, "brows": brows, "hair": hair, "hands": bare, "clothes": clothes}
    made["blush"] = _blush(places, levels.shape) & inner
    place = places[list(on_face.OVAL)].mean(axis=0)
    person = Person(
        float(place[0] / width), float(place[1] / height), face.size / max(width, height), round(100 * sure, 1),
        _parts(made, 100 * sure, float(oval.sum()), face.size), _tone(lightness, inner, eyes | lips),
    )  # fmt: skip
    return person, body


def _blush(places: on_face.Line, shape: tuple[int, ...]) -> Mask:
    """Cheeks and the tip of the nose."""
    high = float(np.hypot(*(places[on_face.CHIN] - places[10])))
    mask = np.zeros(shape[:2], np.uint8)
    for place, share in ((on_face.CHEEKS[0], 0.13), (on_face.CHEEKS[1], 0.13), (on_face.NOSE, 0.06)):
        x, y = np.rint(places[place]).astype(int)
        cv2.circle(mask, (int(x), int(y)), max(1, round(share * high)), 1, -1)
    return mask.astype(bool)


def _tone(lightness: NDArray[np.float32], face: Mask, white: Mask) -> float:
    """How light a face is beside the whites of its eyes and teeth, 0…1; that of most faces where none are seen."""
    usual = float(np.median(lightness[face])) if face.any() else 0.0
    lightest = float(np.percentile(lightness[white], 97)) if white.any() else 0.0
    return round(min(1.0, usual / lightest), 3) if lightest > 1.04 * usual > 0 else _USUAL_TONE


def _face_and_limbs(skin: Mask, oval: Mask) -> tuple[Mask, Mask]:
    """What hangs together with the face, and the rest of the skin."""
    _count, marks = cv2.connectedComponents((skin | oval).astype(np.uint8))
    own = marks == np.bincount(marks[oval]).argmax()
    return own, skin & ~own


def _aside(lightness: NDArray[np.float32], body: Body) -> Person | None:
    """Somebody whose face is not seen from the front."""
    made, tall = from_the_side(lightness, body)
    if not made or not made["skin"].any():
        return None
    height, width = lightness.shape
    x, y, size = middle_and_size(body, tall)
    parts = _parts(made, 80 * body.sure, size * size, size)
    return Person(x / width, y / height, size / max(width, height), round(80 * body.sure, 1), parts)


def _parts(made: dict[str, Mask], percent: float, area: float, size: float) -> tuple[Part, ...]:
    """Outlines of masks, without specks beside the face's ``area`` in pixels."""
    found = []
    for name, (certain, least) in _CERTAIN.items():
        lines = _lines(made[name], least * area, _FINE * size) if name in made else ()
        if lines:
            found.append(Part(name, lines, round(percent * certain, 1)))
    return tuple(found)


def _filled(corners: on_face.Line, shape: tuple[int, ...]) -> Mask:
    mask = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.rint(corners).astype(np.int32)], 1)
    return mask.astype(bool)


def _nearest(shape: tuple[int, ...], among: list[Face]) -> NDArray[np.intp] | None:
    """Whose face each place is nearest to, ``(h, w)``; None if there are not two."""
    if len(among) < 2:
        return None
    ys, xs = np.ogrid[: shape[0], : shape[1]]
    away = []
    for face in among:  # bodies hang below their faces: distances across count more than those down
        across = np.square((2.0 * (xs - face.x) / face.size).astype(np.float32))
        down = np.square((np.where(ys < face.y, 2.0, 0.6) * (ys - face.y) / face.size).astype(np.float32))
        away.append(across + down)
    return np.argmin(away, axis=0)


def _outlined(
    levels: Levels, face: Face, whole: NDArray[np.float32], own: Mask | None, oval: Mask, points: Body | None
) -> Mask:
    """The outline of one person: what hangs together with the face, and is nearer to it than to another's."""
    near = _outline(levels, face)
    # In a large face's picture both see the same and are right together; a small one is seen in its square only; and of
    # a head of wood one may see nothing.
    both = min(float(near[oval].mean()), float(whole[oval].mean())) > 0.5
    large = min(1.0, face.size / (0.3 * max(levels.shape))) if both else 0.0
    mask = (np.maximum(near, whole) * (1 - large) + large * (near + whole) / 2 > 0.5) | oval
    if points is not None and points.outline[oval].mean() > 0.5:
        # A body's own outline tells one from another, and from the ground; heads and hair are seen better from near.
        inside = (points.outline > 0.5).astype(np.uint8)
        round_, wide = (cv2.dilate(inside, _square(share * face.size)) > 0 for share in (_PLAY, _HAIR))
        ys, xs = np.ogrid[: levels.shape[0], : levels.shape[1]]
        below = (ys - face.y) * math.cos(face.turn) - (xs - face.x) * math.sin(face.turn)
        aside = (xs - face.x) * math.cos(face.turn) + (ys - face.y) * math.sin(face.turn)
        neck = (np.abs(aside) < _NECK * face.size) & (below > 0) & (below < 2 * _CHIN * face.size) & (inside > 0)
        lower = (mask & round_) | (points.outline > _WELL_WITHIN)
        mask = np.where(below > _CHIN * face.size, lower, mask & wide) | neck
    if own is not None:
        mask &= own
    _, marks = cv2.connectedComponents((mask | oval).astype(np.uint8))
    label = np.bincount(marks[oval]).argmax()
    return np.asarray(marks == label, bool)


def _square(radius: float) -> NDArray[np.uint8]:
    side = 2 * max(1, round(radius)) + 1
    return np.ones((side, side), np.uint8)


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
