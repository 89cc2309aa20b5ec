"""Six likely tints for each region of a gray scene: what colour things had that looked and lay like it.

``offers.npz`` holds some thousand regions of photographs (docs/learned-from.md): the numbers of `told`, and the colour
that was there, as Oklab chroma to lightness. A region asks those most like it; the six are chosen one after another so
that the colour of those is as near to one of the six as can be (the medians of Kaufman and Rousseeuw 1987), and told in
the order of how many are nearest to each.
"""

from __future__ import annotations

import functools
import io
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import resources
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import from_oklab, hex_of
from kyanoscript.core.colour.space import SRGB
from kyanoscript.core.late import cv2
from kyanoscript.core.tint import reading
from kyanoscript.core.tint.field import chroma_of
from kyanoscript.core.tint.regions import Labels, Outline, divided, outlines
from kyanoscript.core.tint.spline import Field
from kyanoscript.core.watching import breathe

TINTS = 6
_ASKED = 30  # regions that are most like one: how near the last of them is tells how widely is asked
_ANY = 0.05  # of the weight that all have, however little like it they are: nobody can know
_OF_THIS = 2.0  # a choice in the same picture counts so much as all that was learned
_FAR = 0.08  # Oklab chroma: further away than that is as wrong as can be
_APART, _LIGHT = 0.04, 0.5  # between two tints where it is so light; the darker it is, the nearer they may be
_NEAREST, _SOME = 600, 12  # so many of those most like it are asked, and one in so many of the others
_TRIED = 150  # colours of those most like it that are thought of as tints, and every so many of all
_EVERY = 9
SURE = 45.0  # per cent: above that the first colouring lays what was read
_LAID = 1.15  # of the chroma that dabs of it would have: a region is of one colour, which is less than its places have
_DARKEST, _LIGHTEST = 0.3, 0.85  # lightness that a tint is shown at, at least and at most
_EDGE = 0.2  # of the picture's rim: what takes more of it reaches there
Numbers = NDArray[np.float64]
Mask = NDArray[np.bool_]


class Scene(NamedTuple):
    """A gray scene that was read once: what its parts are and are offered can be asked again and again."""

    lightness: Field  # (h, w), 0…100
    ready: Field  # the same, as it is read
    chroma: Field  # (2, h, w)
    sure: Field  # (h, w), 0…1
    places: Field  # (h, w, k): the numbers of every place


class Chosen(NamedTuple):
    """A part of the scene that has its tint."""

    numbers: Numbers  # (k,) as `told`
    tint: Numbers  # (2,): chroma to lightness


@dataclass(frozen=True)
class Region:
    """A part of a scene that waits for a tint."""

    name: str  # what it seems to be; "this" where nobody can tell
    x: float  # 0…1 across: a place well within it
    y: float  # 0…1 down
    share: float  # of the picture, 0…1
    outlines: tuple[Outline, ...]
    tints: tuple[str, ...]  # #rrggbb, the likeliest first
    likely: tuple[float, ...]  # how likely each is, per cent
    sure: float  # how surely the scene itself was read there, per cent


class _Known(NamedTuple):
    told: Numbers  # (n, k), of the numbers' own spread
    middle: Numbers  # (k,)
    spread: Numbers  # (k,)
    tints: Numbers  # (n, 2): chroma to lightness
    weight: Numbers  # (n,)


@functools.cache
def _known() -> _Known:
    data = (resources.files("kyanoscript") / "core" / "tint" / "offers.npz").read_bytes()
    with np.load(io.BytesIO(data), allow_pickle=False) as held:
        told = held["told"].astype(np.float64)
        middle, spread = told.mean(axis=0), told.std(axis=0) + 1e-6
        weight = np.sqrt(held["share"].astype(np.float64))
        return _Known((told - middle) / spread, middle, spread, held["tints"].astype(np.float64), weight)


def looked_over(lightness: Field) -> Scene:
    """A scene from its lightness ``(h, w)``, 0…100, best some 400 pixels long."""
    ready = reading.prepared(lightness)
    chroma, sure = reading.read_ready(ready)
    breathe()
    return Scene(lightness, ready, chroma, sure, reading.told(ready))


def told(scene: Scene, labels: Labels) -> Numbers:
    """The numbers ``(n, k)`` of every region ``(h, w)``, from 0; places below that belong to none.

    Means of those of its places, of what was read there and of how sure that is; how much its lightness varies, its
    size, how much of the upper and lower rim it takes.
    """
    count = max(0, int(labels.max())) + 1
    flat = labels.ravel() + 1
    sizes = np.maximum(np.bincount(flat, minlength=count + 1)[1:], 1).astype(np.float64)

    def mean(plane: Field) -> Numbers:
        return np.asarray(np.bincount(flat, plane.ravel(), count + 1)[1:] / sizes)

    places = [mean(plane) for plane in np.moveaxis(scene.places, -1, 0)]
    read = [10 * mean(scene.chroma[0]), 10 * mean(scene.chroma[1]), mean(scene.sure)]
    varies = np.sqrt(np.maximum(mean(scene.ready * scene.ready) - mean(scene.ready) ** 2, 0)) / 20
    rims = [np.bincount(labels[row] + 1, minlength=count + 1)[1:] / labels.shape[1] for row in (0, -1)]
    return np.stack([*places, *read, varies, np.log(sizes / labels.size), *rims], axis=1)


def regions(scene: Scene, apart: Mask | None = None) -> list[Region]:
    """What a scene is made of but for what is ``apart`` ``(h, w)``, as people are; the largest first."""
    labels = divided(scene.ready, scene.chroma, apart)
    numbers = told(scene, labels)
    sizes = np.bincount(labels.ravel() + 1)[1:]
    made = []
    for k in np.argsort(-sizes):
        breathe()
        lines = outlines(labels, int(k))
        if not lines:
            continue
        mask = labels == k
        tints, likely, sure = offered(scene, mask, numbers[k])
        x, y = _within(mask)
        light = float(scene.lightness[mask].mean()) / 100
        name = named(labels, int(k), tints[0], numbers[k])
        made.append(Region(name, x, y, float(sizes[k] / labels.size), lines, hexes(tints, light), likely, sure))
    return made


def offered(
    scene: Scene, mask: Mask, numbers: Numbers, chosen: Sequence[Chosen] = (), turn: int = 0
) -> tuple[Numbers, tuple[float, ...], float]:
    """Six tints for a part ``(h, w)`` of a scene as `six` has them, and how surely it was read, per cent.

    What was read there is one of the first six, in place of the nearest; and the first of all, where that is sure.
    """
    light = float(scene.lightness[mask].mean()) / 100
    tints, likely = six(numbers, light, chosen, turn)
    sure = round(100 * float(scene.sure[mask].mean()), 1)
    if turn:
        return tints, likely, sure
    read = scene.chroma[:, mask].mean(axis=1) * (_LAID * reading.held(scene.chroma) / max(light, 0.05))
    nearest = int(np.linalg.norm(tints - read, axis=1).argmin())
    tints[nearest] = read
    if sure >= SURE and not chosen:
        order = [nearest, *(k for k in range(len(tints)) if k != nearest)]
        return tints[order], tuple(likely[k] for k in order), sure
    return tints, likely, sure


def hexes(tints: Numbers, lightness: float) -> tuple[str, ...]:
    """Tints ``(n, 2)``, chroma to lightness, as they are at a lightness, 0…1: that of the part that they are for."""
    light = min(max(lightness, _DARKEST), _LIGHTEST)  # nearer to black or white a swatch tells no hues apart
    return tuple(hex_of(_shown(light, tint * light)) for tint in tints)


def at_lightness(colour: str, lightness: float) -> str:
    """Hue and chroma of ``#rrggbb`` at another lightness, 0…1."""
    light = min(max(lightness, _DARKEST), _LIGHTEST)
    return hex_of(_shown(light, np.array(chroma_of(colour))))


def six(
    numbers: Numbers, lightness: float, chosen: Sequence[Chosen] = (), turn: int = 0
) -> tuple[Numbers, tuple[float, ...]]:
    """The likeliest tints ``(6, 2)`` of a region, as chroma to lightness, and how likely each is, per cent.

    ``numbers`` ``(k,)`` as `told`; ``lightness``: its mean, 0…1. What was ``chosen`` in the same scene counts as what
    was learned does, and more: leaves are green where other leaves are. ``turn`` 1: the next six, and so on.
    """
    known = _known()
    away = np.sqrt(np.square(known.told - (numbers - known.middle) / known.spread).mean(axis=1))
    width = np.partition(away, _ASKED)[_ASKED]
    near = known.weight * np.exp(-2 * np.square(away / width))
    order = np.argsort(-near)
    asked, others = order[:_NEAREST], order[_NEAREST::_SOME]
    those = np.concatenate([asked, others])
    whose = np.concatenate([near[asked], np.zeros(len(others))])
    weight = (1 - _ANY) * whose / whose.sum() + _ANY * known.weight[those] / known.weight[those].sum()
    light = max(lightness, 0.05)
    there = known.tints[those] * light
    tried = np.concatenate([there[:_TRIED], there[::_EVERY], np.zeros((1, 2))])
    if chosen:
        own = np.array([one.tint for one in chosen]) * light
        off_ = [np.square((one.numbers - numbers) / known.spread).mean() for one in chosen]
        weight = np.concatenate([weight, _OF_THIS * np.exp(-2 * np.array(off_) / width**2)])
        weight /= weight.sum()
        there, tried = np.concatenate([there, own]), np.concatenate([tried, own])
    off = np.minimum(np.linalg.norm(tried[:, None] - there[None], axis=2), _FAR)
    best = np.full(len(there), _FAR)
    free, apart = np.ones(len(tried), bool), _APART * min(1.0, light / _LIGHT)
    taken: list[int] = []
    while len(taken) < TINTS * (turn + 1):
        if not free.any():  # of many, the last lie nearer to the others
            apart /= 2
            free = np.linalg.norm(tried[:, None] - tried[taken][None], axis=2).min(axis=1) >= apart
            continue
        gain = np.where(free, (weight * (best - np.minimum(best, off))).sum(axis=1), -1.0)
        taken.append(int(gain.argmax()))
        best = np.minimum(best, off[taken[-1]])
        free &= np.linalg.norm(tried - tried[taken[-1]], axis=1) >= apart
    likely = np.bincount(off[taken].argmin(axis=0), weight, len(taken))[-TINTS:]
    first = np.argsort(-likely)
    percent = tuple(round(100 * float(share), 1) for share in likely[first])
    return tried[taken[-TINTS:]][first] / light, percent


def apart(one: Numbers, other: Numbers) -> float:
    """How unlike two parts are by their numbers ``(k,)``: 1 is as far as most things are from their mean."""
    return float(np.sqrt(np.square((one - other) / _known().spread).mean()))


def _shown(light: float, chroma: Numbers) -> Numbers:
    """An Oklab colour, encoded; what lies outside sRGB has less chroma."""
    lab = np.array([light, *chroma])
    for _ in range(40):
        made: Numbers = from_oklab(lab.reshape(3, 1, 1), SRGB)[:, 0, 0]
        if made.min() >= -1e-3 and made.max() <= 1.001:
            break
        lab[1:] *= 0.95
    return np.clip(made, 0, 1)


def _within(mask: NDArray[np.bool_]) -> tuple[float, float]:
    """The place that is farthest from a region's rim."""
    way = cv2.distanceTransform(np.pad(mask.astype(np.uint8), 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    y, x = np.unravel_index(int(way.argmax()), way.shape)
    return (float(x) + 0.5) / mask.shape[1], (float(y) + 0.5) / mask.shape[0]


_LEAVES, _BLUE = (95.0, 160.0), (200.0, 290.0)  # hues of Oklab, degrees
_SKY = 0.02  # chroma to lightness of the palest sky
_PLAIN, _SMOOTH = 0.05, -0.2  # chroma to lightness below which it is hardly a colour; roughness of what is even


def named(labels: Labels, region: int, tint: Numbers, numbers: Numbers) -> str:
    """What it seems to be, by its likeliest tint, its place and how rough it is."""
    hue = float(np.degrees(np.arctan2(tint[1], tint[0])) % 360)
    plain = float(np.hypot(*tint)) < _PLAIN
    above, below = (float((labels[row] == region).mean()) for row in (0, -1))
    rough = float(numbers[_ROUGHNESS])
    if above > _EDGE and rough < _SMOOTH and _BLUE[0] < hue < _BLUE[1] and float(np.hypot(*tint)) > _SKY:
        return "sky"
    if not plain and _LEAVES[0] < hue < _LEAVES[1]:
        return "leaves" if rough > _SMOOTH else "grass"
    if not plain and _BLUE[0] < hue < _BLUE[1] and above < _EDGE:
        return "water"
    return "ground" if below > _EDGE and above == 0 else "this"


_ROUGHNESS = 8  # which of the numbers tells how rough it is
