"""What of somebody is skin, what hair and what clothes: each place goes to whichever it is likest, where that may be.

How light and how rough each of the three is, is taken from where it surely lies: the middle of the face, the crown,
the trunk; arms and the chest lie in a light of their own. Where each may be is told by the face's own measures and by
the points of the body, in slopes without an edge. The two together are smoothed along the steps of the picture (the
guided filter of He, Sun and Tang, ECCV 2010), so that a border follows hair or cloth and is nowhere straight of itself.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.people import points as on_face
from kyanoscript.core.people.bodies import ELBOWS, FINGERS, SHOULDERS, Body
from kyanoscript.core.smooth import steered

Mask = NDArray[np.bool_]  # (h, w)
Field = NDArray[np.float32]

_HIGH = 80.0  # pixels that a face is made high to be looked at
_SEEN = 0.5  # how surely a point of the body is seen
_ALIKE = (8.0, 0.25)  # of L* and of roughness: what is no farther from the skin than that is a bald head
_DARKER, _LIGHTER, _ROUGHER = 30.0, 32.0, 0.9  # than the face: what is more so is no bare limb
_APART = 0.9  # eighths of L*, and of roughness: what is no farther from the clothes is a sleeve
_SMOOTH = 0.45  # what is rougher than the face by more is no bare chest but a shirt
_ROUNDS, _GROWS = 4, 0.1  # how often what was found tells of what lies beside it, and how far: heights of the face
_ELSEWHERE = 0.35  # what an arm is like counts so much away from its own line
_CLOTH_LIKE_HAIR = 14.0  # of L*: what hangs down beside a face may be either
_EVEN = 9.0  # of the square of L*: what varies less is even
_HIPS, _KNEES, _ANKLES = (23, 24), (25, 26), (27, 28)
SKIN, HAIR, CLOTHES = 0, 1, 2


class Look(NamedTuple):
    """How light and how rough something is: middle and spread of each, and how much of it is otherwise."""

    light: tuple[float, float]
    rough: tuple[float, float]
    otherwise: float
    shade: float = 1.0  # how much farther it is spread towards the dark


def shares(
    lightness: Field, places: on_face.Line, person: Mask, face: Mask, body: Body | None
) -> tuple[Mask, Mask, Mask]:
    """Skin, hair and clothes ``(h, w)`` of somebody.

    Parameters
    ----------
    lightness : L*, ``(h, w)``.
    places : the points of the face, in pixels.
    person : where somebody is at all.
    face : skin of the face that is surely so, within the oval and without lips, eyes and brows.
    body : points of the body, if they are known.
    """
    none = np.zeros(person.shape, bool)
    rows, columns = np.nonzero(person)
    if not len(rows) or not face.any():
        return none, none, none
    top, bottom, left, right = rows.min(), rows.max() + 1, columns.min(), columns.max() + 1
    high = float(np.hypot(*(places[on_face.CHIN] - places[10])))
    scale = min(1.0, _HIGH / max(high, 1.0))
    size = max(8, round((right - left) * scale)), max(8, round((bottom - top) * scale))

    def near(plane: NDArray[np.generic]) -> Field:
        return np.asarray(
            cv2.resize(plane[top:bottom, left:right].astype(np.float32), size, interpolation=cv2.INTER_AREA), np.float32
        )

    light, inside, surely = near(lightness), near(person) > 0.5, near(face) > 0.7
    if not surely.any():
        return none, none, none
    unit = high * size[0] / (right - left)
    moved = (places - [left, top]) * [size[0] / (right - left), size[1] / (bottom - top)]
    along, aside, nose = _measured(moved, light.shape)
    tubes = _of_body(body, moved, (left, top), size[0] / (right - left), light.shape, unit)

    soft = _blurred(light, 0.012 * unit)
    rough = np.log(np.sqrt(_blurred(np.square(light - _blurred(light, 0.02 * unit)), 0.03 * unit)) + np.float32(0.5))
    skin = _look(soft, rough, surely, 9.0, 0.02)
    skin = skin._replace(light=(skin.light[0], min(skin.light[1], 16.0)), shade=1.25)
    shown = np.square((along + 0.12) / 0.72) + np.square((aside + 1.2 * nose) / 0.52)
    oval = _oval(moved, light.shape, unit)
    crown = inside & (shown < 1.05) & (along < -0.5) & (oval < 0.3)
    hair = _look(soft, rough, crown if crown.sum() > 20 else inside & (along < -0.3), 12.0, 0.3)
    bald = abs(hair.light[0] - skin.light[0]) < _ALIKE[0] and abs(hair.rough[0] - skin.rough[0]) < _ALIKE[1]
    trunk = inside & (along > 1.1) & (along < 2.6) & (np.abs(aside) < 0.8)
    for tube in tubes:
        trunk &= tube.where < 0.4
    cloth = _look(soft, rough, trunk, 10.0, 0.6) if trunk.sum() > 20 else Look((50.0, 40.0), (0.5, 1.5), 0.7)
    limbs = np.zeros(light.shape, np.float32)
    like = _likeness(soft, rough, skin)
    last: dict[str, Look | None] = {}
    for tube in tubes:  # an arm lies in another light than the face
        core = inside & tube.core & (oval < 0.2)
        own = _look(soft, rough, core, 8.0, 0.02) if core.sum() > 8 else None
        beyond = last.get(tube.after, own)
        if own is not None and beyond is not None and _bare(own, skin, cloth, tube.kind, beyond):
            limbs = np.maximum(limbs, tube.where)
            like = np.maximum(like, np.maximum(tube.where, np.float32(_ELSEWHERE)) * _likeness(soft, rough, own))
            last[tube.kind] = own
        elif own is not None:
            last[tube.kind] = None

    alike = abs(hair.light[0] - cloth.light[0]) < _CLOTH_LIKE_HAIR
    may = _may(along, aside, nose, shown, oval, limbs, 0.15 if bald else 1.0, 0.15 if alike else 1.0)
    looks = [like, _likeness(soft, rough, hair), _likeness(soft, rough, cloth)]
    total = _shared(looks, may)
    on_head = 1 - _rising(along, 0.6, 0.06)
    room = (1 - on_head, np.zeros_like(on_head), 1 - on_head)  # skin and cloth grow below the head, hair nowhere
    for _ in range(_ROUNDS):  # each grows over what is like it and lies next to it
        grown = [m + r * _blurred(plane, _GROWS * unit) for m, r, plane in zip(may, room, total, strict=True)]
        total = _shared(looks, grown)
    radius = max(2, round(0.05 * unit))
    smooth = np.stack([steered(plane, light, radius, _EVEN) for plane in total])
    which = np.where(inside, smooth.argmax(axis=0), -1)

    def back(kind: int) -> Mask:
        made = np.zeros(person.shape, np.float32)
        plane = (which == kind).astype(np.float32)
        made[top:bottom, left:right] = cv2.resize(plane, (right - left, bottom - top), interpolation=cv2.INTER_LINEAR)
        return (made > 0.5) & person

    return back(SKIN), back(HAIR), back(CLOTHES)


def _shared(looks: Sequence[Field], may: Sequence[Field]) -> Field:
    """How likely each is ``(k, h, w)``, 0…1."""
    total = np.stack([a * b for a, b in zip(looks, may, strict=True)]) + np.float32(1e-9)
    return np.asarray(total / total.sum(axis=0), np.float32)


def crowned(person: Mask, places: on_face.Line) -> Mask:
    """Somebody whose outline may stop short of the crown, as on a head of wood: a head is as round as heads are."""
    along, aside, nose = _measured(places, person.shape)
    upper = (np.square((along + 0.12) / 0.7) + np.square((aside + 1.2 * nose) / 0.48) < 1) & (along < -0.3)
    short = upper.any() and (person & upper).sum() < 0.85 * upper.sum()
    return person | upper if short else person


def _blurred(plane: Field, width: float) -> Field:
    return np.asarray(cv2.GaussianBlur(plane, (0, 0), max(0.6, width), borderType=cv2.BORDER_REPLICATE), np.float32)


def _measured(places: on_face.Line, shape: tuple[int, ...]) -> tuple[Field, Field, float]:
    """How far down and aside of the face's middle every place lies, in heights of the face; where the nose points."""
    down = places[on_face.CHIN] - places[10]
    across = np.array([-down[1], down[0]])
    middle, square = (places[10] + places[on_face.CHIN]) / 2, float(down @ down)
    ys, xs = np.ogrid[: shape[0], : shape[1]]
    along = (((xs - middle[0]) * down[0] + (ys - middle[1]) * down[1]) / square).astype(np.float32)
    aside = (((xs - middle[0]) * across[0] + (ys - middle[1]) * across[1]) / square).astype(np.float32)
    nose = float((places[on_face.NOSE] - places[list(on_face.OVAL)].mean(axis=0)) @ across) / square
    return along, aside, nose


def _oval(places: on_face.Line, shape: tuple[int, ...], unit: float) -> Field:
    """1 within the oval of the points, falling off softly round it."""
    mask = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.rint(places[list(on_face.OVAL)]).astype(np.int32)], 1)
    return _blurred(mask.astype(np.float32), 0.05 * unit)


class Tube(NamedTuple):
    """Where a piece of a limb is, or the chest below the neck, 0…1 ``(h, w)``."""

    kind: str
    after: str  # which piece lies beyond it: a sleeve that covers that covers this, too
    where: Field
    core: Mask  # what it is judged by


def _of_body(
    body: Body | None, face: on_face.Line, corner: tuple[int, int], scale: float, shape: tuple[int, ...], unit: float
) -> list[Tube]:
    """What may be bare, the ends of limbs first."""
    if body is None:  # shoulders are as far apart as two faces are high, and the neck a third of one long
        down = face[on_face.CHIN] - face[10]
        neck, across = face[on_face.CHIN] + 0.4 * down, np.array([-down[1], down[0]])
        return [_chest(neck + across, neck - across, neck + down, shape, unit)]
    tubes: list[Tube] = []
    places = (body.places - corner) * scale

    def tube(kind: str, after: str, joints: tuple[int, ...], wide: float) -> None:
        if body.seen[list(joints)].min() > _SEEN:
            drawn = np.zeros(shape[:2], np.uint8)
            line = np.rint(places[list(joints)]).astype(np.int32).reshape(-1, 1, 2)
            cv2.polylines(drawn, [line], False, 1, max(2, round(wide * unit)))
            if drawn.any():
                where = _blurred(drawn.astype(np.float32), 0.07 * unit)
                tubes.append(Tube(kind, after, where, where > 0.9))

    for which, side in enumerate(("left", "right")):
        wrist, small, first, thumb = FINGERS[which]
        tube(f"{side} hand", "", (small, wrist, first, wrist, thumb), 0.36)
        tube(f"{side} forearm", f"{side} hand", (ELBOWS[which], wrist), 0.42)
        tube(f"{side} arm", f"{side} forearm", (SHOULDERS[which], ELBOWS[which]), 0.5)
        tube(f"{side} shin", "", (_KNEES[which], _ANKLES[which]), 0.55)
        tube(f"{side} thigh", "", (_HIPS[which], _KNEES[which]), 0.65)
    return [*tubes, _chest(places[SHOULDERS[0]], places[SHOULDERS[1]], places[list(_HIPS)].mean(axis=0), shape, unit)]


def _chest(left: on_face.Line, right: on_face.Line, hips: on_face.Line, shape: tuple[int, ...], unit: float) -> Tube:
    """What lies below the neck, between two shoulders."""
    middle, wide = (left + right) / 2, max(float(np.hypot(*(left - right))), 0.8 * unit)
    down = (hips - middle) / max(float(np.hypot(*(hips - middle))), 1e-6)

    def oval(below: float, across: float, deep: float) -> Field:
        drawn = np.zeros(shape[:2], np.uint8)
        x, y = (round(float(v)) for v in middle + below * wide * down)
        axes = max(1, round(across * wide)), max(1, round(deep * wide))
        cv2.ellipse(drawn, (x, y), axes, 0.0, 0.0, 360.0, 1, -1)
        return drawn.astype(np.float32)

    return Tube("chest", "", _blurred(oval(0.1, 0.42, 0.28), 0.1 * unit), oval(0.02, 0.16, 0.09) > 0)


def _bare(limb: Look, skin: Look, cloth: Look, kind: str, beyond: Look) -> bool:
    """Whether a piece of a limb is skin rather than a sleeve, a glove, a stocking."""
    off = limb.light[0] - skin.light[0]
    if not -_DARKER < off < _LIGHTER or limb.rough[0] > skin.rough[0] + _ROUGHER:
        return False
    other = abs(limb.light[0] - cloth.light[0]) / 8 + abs(limb.rough[0] - cloth.rough[0])
    near = abs(off) / 14
    if other < (_APART / 2 if kind.endswith("hand") else _APART):
        return False
    if kind.endswith("hand"):
        return True
    if kind.endswith("arm"):
        return min(near, abs(limb.light[0] - beyond.light[0]) / 14 if beyond is not limb else near) < 1
    if kind == "chest":
        return near < max(1.2, other / 2) and limb.rough[0] < skin.rough[0] + _SMOOTH
    return near < max(1.0, other / 2)


def _look(soft: Field, rough: Field, where: Mask, least: float, otherwise: float) -> Look:
    """By the middle of what is there, and how far that is spread."""
    light, coarse = soft[where], rough[where]
    spreads = [1.4826 * float(np.median(np.abs(v - np.median(v)))) for v in (light, coarse)]
    return Look(
        (float(np.median(light)), max(spreads[0], least)), (float(np.median(coarse)), max(spreads[1], 0.28)), otherwise
    )


def _likeness(soft: Field, rough: Field, look: Look) -> Field:
    """How like that each place is: the density of both numbers."""
    (light, spread), (coarse, varies), otherwise, shade = look
    width = np.where(soft < light, shade * spread, spread)
    away = np.square((soft - light) / width) + np.square((rough - coarse) / varies)
    dense = np.exp(-away / 2) / (np.pi * (1 + shade) * spread * varies)
    return ((1 - otherwise) * dense + otherwise / (100 * 5)).astype(np.float32)


def _rising(value: Field, at: float, width: float) -> Field:
    """From 0 to 1 round a value."""
    return (1 / (1 + np.exp(np.clip(-(value - at) / width, -30, 30)))).astype(np.float32)


def _may(
    along: Field, aside: Field, nose: float, shown: Field, oval: Field, limbs: Field, hairy: float, long: float
) -> tuple[Field, Field, Field]:
    """How likely skin, hair and clothes are at each place, before it is looked at.

    ``hairy`` and ``long``: how likely it is that there is hair at all, and that it hangs down.
    """
    beside = np.abs(aside)
    behind = np.abs(aside + 0.8 * nose)  # of a turned face more is seen on the side that it turns from
    head = 1 - _rising(shown, 1.5, 0.15)
    below = _rising(along, 0.62, 0.08)
    neck = 1 - _rising(behind, 0.36 + 0.3 * abs(nose), 0.05)
    neck *= _rising(along, 0.3, 0.08) * (1 - _rising(along, 0.95, 0.1))
    round_face = np.square((along + 0.05) / 0.62) + np.square(behind / (0.5 + 0.5 * abs(nose)))
    round_face = 1 - _rising(round_face, 1.1, 0.12)
    skin = 0.01 + 0.9 * oval + 0.22 * round_face + 0.6 * neck + 1.4 * limbs
    upper = 1 - _rising(along, -0.28, 0.05)
    fringe = 0.12 * oval * upper
    hangs = (1 - _rising(beside, 0.95, 0.1)) * (1 - _rising(along, 1.3, 0.2)) * _rising(beside, 0.3, 0.06)
    throat = _rising(along, 0.28, 0.05) * (1 - _rising(behind, 0.38 + 0.3 * abs(nose), 0.04))
    hair = 0.01 + 0.75 * head * (1 - oval) * (1 - 0.8 * below) + fringe + 0.3 * long * hangs * (1 - oval)
    hair = hairy * hair * (1 - 0.97 * throat) * (1 - 0.9 * np.minimum(limbs, 1) * below)
    clothes = 0.02 + 0.75 * below * (1 - 0.6 * neck) + 0.25 * _rising(along, 0.35, 0.06) * _rising(beside, 0.45, 0.06)
    return skin.astype(np.float32), hair.astype(np.float32), (clothes * (1 - oval)).astype(np.float32)
