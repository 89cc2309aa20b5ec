"""The parts of a scene as dabs that wait for a tint: laid, given one, divided, joined, and told what may suit now.

All pieces of one part have one name. They are drawn on a small grid of the photograph, later ones over earlier ones, as
they are laid on the print.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.geometry import Framing
from kyanoscript.core.late import cv2
from kyanoscript.core.people import PARTS
from kyanoscript.core.tint import field, offers
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.offers import Chosen, Mask, Numbers, Region, Scene
from kyanoscript.core.tint.regions import Labels, outlines

Dabs = tuple[Dab, ...]
At = Callable[[float, float], tuple[float, float]]
Place = tuple[float, float]

_GRID = 800  # of the longer side of the photograph, on which parts are divided and joined
_ALIKE = 0.9  # of the spread that what was learned has: as far as one coat may be from itself on another scan
_LEAST = 0.02  # of a part: what a stroke cuts off is no less
TURNS = 4  # so many sixes of tints there are


def of_somebody(dab: Dab) -> bool:
    """Whether it is a thing of a person's."""
    return base_of(dab.name) in PARTS


def base_of(name: str) -> str:
    """A name without its number: leaves, of "leaves 2"."""
    return re.sub(r" \d+$", "", name)


def names(dabs: Iterable[Dab]) -> list[str]:
    """The parts that have tints to choose from, in the order in which they are laid."""
    return list(dict.fromkeys(dab.name for dab in dabs if dab.region))


def waiting(dabs: Iterable[Dab]) -> list[str]:
    """The parts that wait for one of their tints; a blush is a choice that nobody needs to make."""
    found = dict.fromkeys(dab.name for dab in dabs if dab.offered and dab.tints)
    return [name for name in found if base_of(name) != "blush"]


def laid(regions: Sequence[Region], at: At) -> Dabs:
    """Dabs for regions, the largest outlines first; where the scene was read surely it has its likeliest tint.

    ``at`` tells for a place of the print, 0…1, where it is on the photograph, in per cent.
    """
    count: dict[str, int] = {}
    made = []
    for one in regions:
        count[one.name] = nth = count.get(one.name, 0) + 1
        sure = one.sure if one.sure >= offers.SURE else 0.0
        for line in one.outlines:
            dab = Dab(
                points=(at(one.x, one.y),), colour=one.tints[0], acts="within", name=_numbered(one.name, nth),
                outline=tuple(at(*corner) for corner in line.corners), sure=sure, guess=True, shaded=True,
                tints=" ".join(one.tints),
            )  # fmt: skip
            made.append((_extent(dab.outline), dab))
    return tuple(dab for _, dab in sorted(made, key=lambda pair: -pair[0]))


def _numbered(name: str, nth: int) -> str:
    return name if nth == 1 else f"{name} {nth}"


def _extent(line: Sequence[Sequence[float]]) -> float:
    return abs(float(cv2.contourArea(np.array([p[:2] for p in line], np.float32))))


def given(dabs: Dabs, name: str, colour: str) -> Dabs:
    """A part with a tint that the hand chose."""
    own = {"colour": colour, "guess": False, "sure": 100.0}
    return tuple(dab.model_copy(update=own) if dab.name == name else dab for dab in dabs)


class _Drawn(NamedTuple):
    labels: Labels  # (h, w): which of `names` lies there, -1 none
    names: list[str]


def _drawn(dabs: Dabs, size: tuple[int, int], to: Callable[[float, float], Place]) -> _Drawn:
    """What lies where on a grid of a width and height; ``to`` takes per cents of the photograph there."""
    known = names(dabs)
    labels = np.full(size[::-1], -1, np.int32)
    for dab in dabs:
        if dab.region and len(dab.outline) > 2:
            corners = np.array([to(*p[:2]) for p in dab.outline])
            cv2.fillPoly(labels, [np.rint(corners * 16 - 8).astype(np.int32)], known.index(dab.name), cv2.LINE_8, 4)
    return _Drawn(labels, known)


class Followed(NamedTuple):
    """What every part is offered by now, and what it looks like, by its name."""

    tints: dict[str, list[str]]
    numbers: dict[str, tuple[float, ...]]


class Before(NamedTuple):
    """A choice of another scan of the same album."""

    part: str
    tint: str
    numbers: tuple[float, ...]


def followed(
    scene: Scene,
    dabs: Dabs,
    framing: Framing,
    turns: dict[str, int] | None = None,
    before: Sequence[Before] = (),
) -> Followed:
    """The six tints that each part of the scene may have by now, after what the hand has chosen for others.

    ``turns``: of a part by name, which six of its tints. ``before``: what was chosen for other scans of the album. A
    thing of a person's keeps its own tints, but for what the same thing had on another scan, if it looks like that.
    """
    height, width = scene.lightness.shape
    back = framing.to_photo.inverse()

    def to(x: float, y: float) -> Place:
        px, py = back(x / 100 * framing.photo[0], y / 100 * framing.photo[1])
        return px / framing.width * width, py / framing.height * height

    drawn = _drawn(dabs, (width, height), to)
    if not drawn.names:
        return Followed({}, {})
    numbers = offers.told(scene, drawn.labels)
    first = {dab.name: dab for dab in reversed(dabs)}
    there = {k: mask for k in range(len(drawn.names)) if (mask := drawn.labels == k).any()}
    things = {k for k in there if of_somebody(first[drawn.names[k]])}
    known = [one for one in before if len(one.numbers) == numbers.shape[1]]
    own = {
        k: Chosen(numbers[k], tint_of(first[drawn.names[k]].colour))
        for k in there
        if k not in things and not first[drawn.names[k]].guess
    }
    album = [Chosen(np.array(one.numbers), tint_of(one.tint)) for one in known if base_of(one.part) not in PARTS]
    made = {}
    for k, mask in there.items():
        name = drawn.names[k]
        if k in things:
            alike = _worn_before(numbers[k], base_of(name), known)
            if alike:
                made[name] = list(dict.fromkeys((alike, *first[name].tints.split())))[: offers.TINTS]
            continue
        others = [one for other, one in own.items() if other != k]
        turn = (turns or {}).get(name, 0) % TURNS
        tints, _, _ = offers.offered(scene, mask, numbers[k], (*others, *album), turn)
        made[name] = list(offers.hexes(tints, float(scene.lightness[mask].mean()) / 100))
    return Followed(made, {drawn.names[k]: tuple(round(float(v), 4) for v in numbers[k]) for k in there})


def _worn_before(numbers: Numbers, what: str, before: Sequence[Before]) -> str:
    """The tint that the same thing of a person's had on another scan, where it looks most alike; "": nowhere."""
    same = [one for one in before if base_of(one.part) == what]
    away = [offers.apart(numbers, np.array(one.numbers)) for one in same]
    return same[int(np.argmin(away))].tint if away and min(away) < _ALIKE else ""


def tint_of(colour: str) -> Numbers:
    """Chroma to lightness of ``#rrggbb``."""
    return np.array(field.chroma_of(colour)) / field.tone_of(colour)


def _on_grid(dabs: Dabs, photo: tuple[int, int]) -> tuple[_Drawn, tuple[int, int]]:
    scale = _GRID / max(photo)
    size = max(2, round(photo[0] * scale)), max(2, round(photo[1] * scale))
    return _drawn(dabs, size, lambda x, y: (x / 100 * size[0], y / 100 * size[1])), size


def _outlined(dabs: Dabs, old: set[str], pieces: dict[str, Mask], like: Dab) -> Dabs:
    """Parts of those ``old`` names left out, and the pieces laid in their place."""
    made = []
    for name, mask in pieces.items():
        inner = cv2.distanceTransform(np.pad(mask.astype(np.uint8), 1), cv2.DIST_L2, 3)[1:-1, 1:-1]
        y, x = np.unravel_index(int(inner.argmax()), mask.shape)
        middle = (round(100 * (x + 0.5) / mask.shape[1], 3), round(100 * (y + 0.5) / mask.shape[0], 3))
        for line in outlines(mask.astype(np.int32), 1):
            corners = tuple((round(100 * cx, 3), round(100 * cy, 3)) for cx, cy in line.corners)
            made.append(like.model_copy(update={"points": (middle,), "outline": corners, "name": name}))
    first = next(k for k, dab in enumerate(dabs) if dab.name in old)
    left = [dab for dab in dabs if dab.name not in old]
    before = sum(dab.name not in old for dab in dabs[:first])
    return (*left[:before], *made, *left[before:])


def divided(dabs: Dabs, name: str, stroke: Sequence[Place], photo: tuple[int, int]) -> Dabs:
    """A part cut in two along a stroke, which runs on to its rim at both ends; the same dabs if nothing is cut off.

    ``stroke`` is told in per cent of the photograph, which is ``photo`` pixels wide and high.
    """
    drawn, size = _on_grid(dabs, photo)
    if name not in drawn.names or len(stroke) < 2:
        return dabs
    mask = drawn.labels == drawn.names.index(name)
    line = np.array([(x / 100 * size[0], y / 100 * size[1]) for x, y in (p[:2] for p in stroke)])
    cut = np.zeros(mask.shape, np.uint8)
    ways = [line] + [np.stack([end, end + 2 * _GRID * _unit(end - inner)]) for end, inner in _ends(line)]
    cv2.polylines(cut, [np.rint(way).astype(np.int32) for way in ways[:1]], False, 1, 2)
    for way in ways[1:]:
        cut |= _up_to_the_rim(way, mask)
    count, marks, found, _ = cv2.connectedComponentsWithStats((mask & (cut == 0)).astype(np.uint8), connectivity=4)
    large = sorted(range(1, count), key=lambda k: -found[k, cv2.CC_STAT_AREA])[:2]
    if len(large) < 2 or found[large[1], cv2.CC_STAT_AREA] < _LEAST * mask.sum():
        return dabs
    # What is neither, as the stroke itself, belongs to what it is nearer to.
    away = [cv2.distanceTransform((marks != k).astype(np.uint8), cv2.DIST_L2, 3) for k in large]
    side = np.argmin(away, axis=0)
    pieces = {name: mask & (side == 0), _free(base_of(name), names(dabs)): mask & (side == 1)}
    like = next(dab for dab in dabs if dab.name == name)
    return _outlined(dabs, {name}, pieces, like.model_copy(update={"guess": True, "sure": 0.0}))


def _ends(line: NDArray[np.float64]) -> list[tuple[NDArray[np.float64], NDArray[np.float64]]]:
    """Both ends of a stroke, each with a place a little within it."""
    k = min(len(line) - 1, max(1, len(line) // 6))
    return [(line[0], line[k]), (line[-1], line[-1 - k])]


def _unit(way: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.asarray(way / max(float(np.hypot(*way)), 1e-6))


def _up_to_the_rim(way: NDArray[np.float64], mask: Mask) -> NDArray[np.uint8]:
    """A straight way from a place on, as far as the mask goes on without a gap."""
    made = np.zeros(mask.shape, np.uint8)
    height, width = mask.shape
    steps = np.linspace(0, 1, 4 * _GRID)[:, None]
    for x, y in np.rint(way[0] + steps * (way[1] - way[0])).astype(int).tolist():
        if not (0 <= x < width and 0 <= y < height and mask[y, x]):
            break
        cv2.circle(made, (x, y), 1, 1, -1)
    return made


def joined(dabs: Dabs, one: str, other: str, photo: tuple[int, int]) -> Dabs:
    """Two parts as one, which has the name and the tint of the first; the same dabs if there are not two."""
    drawn, _ = _on_grid(dabs, photo)
    if one == other or not {one, other} <= set(drawn.names):
        return dabs
    both = np.isin(drawn.labels, [drawn.names.index(one), drawn.names.index(other)])
    closed = cv2.morphologyEx(both.astype(np.uint8), cv2.MORPH_CLOSE, np.ones((5, 5), np.uint8)) > 0
    others = (drawn.labels >= 0) & ~both
    like = next(dab for dab in dabs if dab.name == one)
    return _outlined(dabs, {one, other}, {one: closed & ~others}, like)


def _free(base: str, taken: Sequence[str]) -> str:
    """A name that nothing has yet."""
    return next(name for k in range(1, len(taken) + 2) if (name := _numbered(base, k)) not in taken)


def next_that_waits(dabs: Dabs, after: int, back: bool = False) -> int:
    """The place of the next dab that waits, each part once; -1 if none does."""
    places = [next(k for k, dab in enumerate(dabs) if dab.name == name) for name in waiting(dabs)]
    if not places:
        return -1
    if back:
        return next((k for k in reversed(places) if k < after), places[-1])
    return next((k for k in places if k > after), places[0])


def first_of(dabs: Dabs, dab: Dab) -> int:
    """The place of the first piece of the same part."""
    return next(k for k, one in enumerate(dabs) if one is dab or (dab.name and one.name == dab.name))


def at_place(dabs: Dabs, x: float, y: float) -> int:
    """The uppermost part that lies at a place, in per cent of the photograph; -1: none."""
    for k in range(len(dabs) - 1, -1, -1):
        dab = dabs[k]
        if dab.name and len(dab.outline) > 2 and (dab.region or dab.offered):
            around = np.array([p[:2] for p in dab.outline], np.float32)
            if cv2.pointPolygonTest(around, (x, y), False) >= 0:
                return k
    return -1
