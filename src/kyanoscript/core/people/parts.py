"""People, and what of each is skin, lips, eyes, brows, hair and clothes: closed lines on the picture.

The points of a face give its own parts. The person's outline gives the rest: neck is what is as light as the face below
it, hair what lies above and round it, clothes all that is left. An animal has no such face, and is no person.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.people import points as on_face
from kyanoscript.core.people.bodies import Body, of_face, without_faces
from kyanoscript.core.people.faces import LIKE_A_FACE, Face, faces, likest
from kyanoscript.core.people.hands import hands
from kyanoscript.core.people.networks import run
from kyanoscript.core.people.sides import from_the_side, middle_and_size
from kyanoscript.core.people.squares import Levels, cut, laid, put_back
from kyanoscript.core.watching import Watch, breathe, unwatched

Mask = NDArray[np.bool_]  # (h, w)
Line = tuple[tuple[float, float], ...]  # corners, 0…1 across and down

PARTS = ("skin", "lips", "eyes", "brows", "hair", "hands", "clothes")
_PLAIN = 0.84  # to the detector: so sure a face needs no second look
_OUTLINE = 256  # side of what the network of outlines sees
_ROOM, _ABOVE = 4.6, 0.34  # of the face: side of the square round a person, and the share of it above the face's middle
_LIKE = 20.0  # of L*: what is so near the face is as light as it
_WELL_WITHIN = 0.85  # of a body's own outline: what no other has seen
_CHIN = 0.55  # of the face's size, below its middle
_PLAY, _HAIR = 0.12, 0.22  # of the face's size: how far one outline may reach beyond the other, and about a head
_NECK = 0.25  # of the face's size: half of a neck
_BODIES = 8  # the largest persons, whose hands are looked for
_BESIDE = 0.28  # of the face's height: how far skin goes on beyond the oval of its points
_SPECK = 0.02  # of the face's area: smaller pieces are left out
_FINE = 0.006  # of the face's size: how closely a line follows
_CERTAIN = {  # how sure each part is of what the person is, and the least piece of it, of the face's area
    "skin": (1.0, _SPECK),
    "lips": (0.9, 0.0),
    "eyes": (0.9, 0.0),
    "brows": (0.8, 0.0),
    "hair": (0.7, _SPECK),
    "hands": (0.5, 2 * _SPECK),
    "clothes": (0.7, 5 * _SPECK),
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
    body, both = _outlined(levels, face, whole, own, oval, points)
    lips = _filled(places[list(on_face.LIPS)], levels.shape)
    eyes = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.EYES], axis=0)
    brows = np.any([_filled(places[list(loop)], levels.shape) for loop in on_face.BROWS], axis=0)
    neck = _neck(lightness, oval & ~lips & ~eyes & ~brows, places, body)
    # Where only one of them sees somebody, as of wood, the outline is not sure enough for skin to grow in it.
    near = _near(lightness, oval & ~lips & ~eyes & ~brows, places, body) if both else np.zeros_like(body)
    skin = (oval | neck | near) & ~lips & ~eyes & ~brows
    hair = _hair(lightness, places, body, oval | neck | near)
    rest = body & ~oval & ~neck & ~near & ~hair
    along, aside = _on_face(places, levels.shape)
    # Shoulders may reach up beside the jaw.
    below = rest & ((along > 0.46) | ((along > 0.1) & (np.square((along + 0.05) / 0.6) + np.square(aside / 0.55) > 1)))
    bare = hands(lightness, rest, below, oval & ~lips & ~eyes & ~brows, points)
    clothes = below & ~bare
    made = {"skin": skin, "lips": lips, "eyes": eyes, "brows": brows, "hair": hair, "hands": bare, "clothes": clothes}
    place = places[list(on_face.OVAL)].mean(axis=0)
    person = Person(
        float(place[0] / width), float(place[1] / height), face.size / max(width, height), round(100 * sure, 1),
        _parts(made, 100 * sure, float(oval.sum()), face.size),
    )  # fmt: skip
    return person, body


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
) -> tuple[Mask, bool]:
    """The outline of one person: what hangs together with the face, and is nearer to it than to another's.

    And whether it was seen both in the whole picture and in the square round the face.
    """
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
    return np.asarray(marks == label, bool), both


def _square(radius: float) -> NDArray[np.uint8]:
    side = 2 * max(1, round(radius)) + 1
    return np.ones((side, side), np.uint8)


def _axes(places: on_face.Line) -> tuple[on_face.Line, on_face.Line]:
    """Which way is down on a face, and which is to its left; as long as the face is high."""
    down = places[on_face.CHIN] - places[10]
    return down, np.array([-down[1], down[0]])


def _on_face(places: on_face.Line, shape: tuple[int, ...]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """How far down and how far aside of the face's middle every place lies, in heights of the face."""
    down, across = _axes(places)
    middle, square = (places[10] + places[on_face.CHIN]) / 2, float(down @ down)
    ys, xs = np.ogrid[: shape[0], : shape[1]]
    along, aside = (
        ((xs - middle[0]) * way[0] / square).astype(np.float32)
        + ((ys - middle[1]) * way[1] / square).astype(np.float32)
        for way in (down, across)
    )
    return along, aside


def _neck(lightness: NDArray[np.float32], face: Mask, places: on_face.Line, body: Mask) -> Mask:
    """Below the jaw, as light as the face, and hanging together with it."""
    down, _ = _axes(places)
    jaw = places[list(on_face.JAW)]
    lower = jaw + 0.62 * down
    room = _filled(np.concatenate([jaw, lower[::-1]]), lightness.shape) & body & ~face
    soft = cv2.GaussianBlur(lightness, (0, 0), max(1.0, 0.015 * float(np.hypot(*down))))
    dark, light = np.percentile(soft[face], (10, 80)) if face.any() else (0.0, 0.0)
    short = _filled(np.concatenate([jaw, (jaw + 0.3 * down)[::-1]]), lightness.shape)
    farther = room & ~short
    if farther.any():
        off = soft[farther] - np.median(soft[face])
        # Clothes that are as light as the face, or darker all over: the neck is taken to be short.
        if (np.abs(off) < _LIKE * 0.7).mean() > 0.6 or float(np.median(off)) < -_LIKE / 2:
            room &= short
    like = room & (soft > dark - _LIKE) & (soft < light + _LIKE / 2)
    near = cv2.dilate(_filled(jaw, lightness.shape).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    _, marks = cv2.connectedComponents(like.astype(np.uint8))
    touched = np.unique(marks[near & like])
    neck = np.isin(marks, touched[touched > 0])
    size = max(1, round(0.03 * float(np.hypot(*down))))
    closed = cv2.morphologyEx(neck.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((2 * size + 1,) * 2, np.uint8))
    return np.asarray(closed > 0) & room


def _near(lightness: NDArray[np.float32], face: Mask, places: on_face.Line, body: Mask) -> Mask:
    """Forehead, temples, ears, and the far side of a turned face: as light as the face, next to it, unlike the hair."""
    down, _ = _axes(places)
    high = float(np.hypot(*down))
    soft = cv2.GaussianBlur(lightness, (0, 0), max(0.8, 0.015 * high))
    oval = _filled(places[list(on_face.OVAL)], lightness.shape)
    tall = 2 * max(1, round(_BESIDE * high)) + 1
    nose = float((places[on_face.NOSE] - places[list(on_face.OVAL)].mean(axis=0)) @ _axes(places)[1]) / high**2
    wide = 2 * max(1, round(min(_BESIDE, 0.12 + abs(nose)) * high)) + 1  # of a turned face more lies beside the oval
    around = cv2.dilate(oval.astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, tall))) > 0
    along, _ = _on_face(places, body.shape)
    crown = body & (along > -1.0) & (along < -0.62)
    if not face.any() or not crown.any():
        return np.zeros_like(body)
    dark, usual, light = np.percentile(soft[face], (12, 50, 88))
    hair = float(np.median(soft[crown]))
    if abs(hair - usual) < _LIKE:  # nothing tells them apart
        return np.zeros_like(body)
    between = (hair + usual) / 2
    like = (soft > max(dark - _LIKE / 2, between)) if hair < usual else (soft < min(light + _LIKE / 2, between))
    like &= (soft > dark - _LIKE) & (soft < light + _LIKE)
    room = body & around & (along < 0.5) & (along > -0.85)
    joined = ((room & like) | oval).astype(np.uint8)
    size = 2 * max(1, round(0.015 * high)) + 1
    opened = np.maximum(
        cv2.morphologyEx(joined, cv2.MORPH_OPEN, np.ones((size, size), np.uint8)), oval.astype(np.uint8)
    )
    _, marks = cv2.connectedComponents(opened)
    return np.asarray((marks == np.bincount(marks[oval]).argmax()) & room)


def _hair(lightness: NDArray[np.float32], places: on_face.Line, body: Mask, taken: Mask) -> Mask:
    """Whatever of the person is like what lies on the crown, and hangs together with it; a hat counts as hair.

    It may hang down past the chin, where the clothes below are not as light as it is.
    """
    down, across = _axes(places)
    high = float(np.hypot(*down))
    along, aside = _on_face(places, body.shape)
    # Seen from the side a head reaches far behind its face: the tip of the nose tells.
    nose = float((places[on_face.NOSE] - places[list(on_face.OVAL)].mean(axis=0)) @ across) / high**2
    # Where the outline stops short of the crown, as on a head of wood, a head is as round as heads are.
    head = np.square((along + 0.12) / 0.70) + np.square((aside + 1.2 * nose) / 0.48) < 1
    upper = head & (along < -0.3) & ~taken
    if upper.any() and (body & upper).sum() < 0.7 * upper.sum():
        body = body | head
    free = body & ~taken
    crown = free & (along > -1.0) & (along < -0.3) & (np.abs(aside) < 0.6)
    box = free & (along > -1.25) & (along < 0.42) & (np.abs(aside) < 0.95)
    if crown.sum() < 0.02 * high * high:
        return box & head
    soft = cv2.GaussianBlur(lightness, (0, 0), max(1.0, 0.03 * high))
    low, usual, top = np.percentile(soft[crown], (8, 50, 92))
    like = (soft > min(low, usual - _LIKE / 2) - _LIKE / 4) & (soft < max(top, usual + _LIKE / 2) + _LIKE / 4)
    cloth = free & (along > 1.0) & (along < 1.6) & (np.abs(aside) < 1.0)
    few = cloth.sum() <= 0.05 * high * high  # as where the picture ends below the chin
    hangs = 1.1 if few or abs(float(np.median(soft[cloth])) - usual) > _LIKE else 0.42
    room = free & (along > -1.25) & (along < hangs) & (np.abs(aside) < 0.95 + min(0.5, 2.5 * abs(nose)))
    size = 2 * max(1, round(0.02 * high)) + 1
    mask = cv2.morphologyEx((room & like).astype(np.uint8), cv2.MORPH_OPEN, np.ones((size, size), np.uint8))
    _, marks = cv2.connectedComponents(np.maximum(mask, crown.astype(np.uint8)))
    own = np.unique(marks[crown])
    hair = np.isin(marks, own[own > 0])
    closed = cv2.morphologyEx(hair.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((2 * size + 1,) * 2, np.uint8))
    return np.asarray((closed > 0) & room)


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
