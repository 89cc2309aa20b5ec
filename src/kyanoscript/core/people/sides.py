"""Somebody whose face is not seen from the front: skin, hair or hat, hands and clothes by the points of the body."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.people.bodies import HEAD, SHOULDERS, Body
from kyanoscript.core.people.hands import hands

Mask = NDArray[np.bool_]  # (h, w)

_NOSE, _EYES, _EARS, _MOUTH = 0, (2, 5), (7, 8), (9, 10)
_LIKE = 18.0  # of L*: what is so near what lies between ear, eye and mouth is as light as that
# How high a head is, by how far mouth and eyes, ear and nose, head and shoulders are apart; the largest counts, for the
# points of a head that is turned away lie close together (the first is common practice in drawing).
_TALL = (3.1, 1.7, 1.35)


def from_the_side(lightness: NDArray[np.float32], body: Body) -> tuple[dict[str, Mask], float]:
    """Masks ``(h, w)`` of skin, hair, hands and clothes, and how high the head is, in pixels."""
    outline = body.outline > 0.5
    ear, eye, mouth = (body.places[list(pair)].mean(axis=0) for pair in (_EARS, _EYES, _MOUTH))
    nose = body.places[_NOSE]
    down = mouth - eye
    neck = body.places[list(SHOULDERS)].mean(axis=0) - body.places[list(HEAD)].mean(axis=0)
    lengths = (np.hypot(*down), np.hypot(*(nose - ear)), np.hypot(*neck))
    tall = max(4.0, *(share * float(length) for share, length in zip(_TALL, lengths, strict=True)))
    # A head that looks aside leans little: halfway between its own upright and the body's.
    down = down / max(float(np.hypot(*down)), 1e-6) + neck / max(float(np.hypot(*neck)), 1e-6)
    down = down / max(float(np.hypot(*down)), 1e-6)
    ahead = np.array([-down[1], down[0]])
    if float(ahead @ (nose - ear)) < 0:
        ahead = -ahead
    ys, xs = np.ogrid[: lightness.shape[0], : lightness.shape[1]]
    # In heights of the head, from the ear.
    below = (((xs - ear[0]) * down[0] + (ys - ear[1]) * down[1]) / tall).astype(np.float32)
    front = (((xs - ear[0]) * ahead[0] + (ys - ear[1]) * ahead[1]) / tall).astype(np.float32)
    eyes, chin = float((eye - ear) @ down) / tall, float((mouth - ear) @ down) / tall + 0.17
    soft = np.asarray(cv2.GaussianBlur(lightness, (0, 0), max(0.8, 0.015 * tall)), np.float32)

    core = outline & (front > 0.06) & (front < 0.34) & (below > eyes + 0.03) & (below < chin - 0.08)
    if not core.any():
        return {}, tall
    usual = float(np.median(soft[core]))
    like = np.abs(soft - usual) < _LIKE
    slope = below - (chin - 0.16) - 0.45 * np.minimum(front, 0.3)  # the jaw falls from the ear to the chin
    face = outline & (front > -0.06) & (front < 0.46) & (below > eyes - 0.07) & (below < chin) & (slope < 0)
    face &= like | (front > 0.12)
    brow = outline & like & (front > 0.02) & (below > eyes - 0.28) & (below <= eyes - 0.07)
    throat = outline & like & (front > -0.12) & (front < 0.34) & (slope >= 0) & (below < chin + 0.22)
    skin = _joined(face | brow | throat, core)

    head = np.square((below - eyes + 0.12) / 0.7) + np.square((front - 0.02) / 0.6) < 1
    hair = outline & head & ~skin & (below < chin - 0.04) & ((front < 0.16) | (below < eyes - 0.04))
    rest = outline & ~skin & ~hair
    lower = rest & (below > chin - 0.1)
    found = hands(lightness, rest & ~head, lower, core, body)
    return {"skin": skin, "hair": hair, "hands": found, "clothes": lower & ~found}, tall


def middle_and_size(body: Body, tall: float) -> tuple[float, float, float]:
    """Where the face is, and how large, in pixels."""
    middle = (body.places[list(_EARS)].mean(axis=0) + body.places[_NOSE]) / 2
    return float(middle[0]), float(middle[1]), 0.75 * tall


def _joined(mask: Mask, core: Mask) -> Mask:
    """What of a mask hangs together with its core, without its smallest holes."""
    size = 2 * max(1, round(0.02 * math.sqrt(float(mask.sum())))) + 1
    closed = cv2.morphologyEx(mask.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((size, size), np.uint8))
    _, marks = cv2.connectedComponents(closed)
    own = np.bincount(marks[core & (closed > 0)], minlength=1)
    own[0] = 0
    return np.asarray(marks == int(own.argmax()), bool) if own.any() else mask
