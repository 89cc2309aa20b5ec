"""A print in inks taken apart: each ink's colour, and what share of the paper it covers at every tone.

*Inks* say both themselves. Of *Quad-tone* and *Split tone* they are found: four inks as the print is at four of its
tones, with more colour, so that they mix to all that lies between; then the coverages of all tones that come nearest to
the print by the ink model (see `covers`), and once more the inks, in turn. Coverages bend as little from tone to tone
as that allows and turn twice at most, so that plates are calm; there is no more ink on one place than three full ones,
and none where it does nothing.
"""

from __future__ import annotations

import functools
import itertools
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.params import Curve
from kyanoscript.core.passes import covers as find
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.covers import Array, Model, Wish
from kyanoscript.core.passes.toning.inks import Inks, coverage
from kyanoscript.core.passes.toning.quad_tone import QuadTone, tints

SIZE = 4097  # tones of a table
_TONES = 129  # at which coverages are looked for
_DARKEST, _TONES_OF_TWO = 0.05, (0.05, 0.25, 0.55, 0.85)
_COLOURED = (2.0, 2.5, 3.0)  # how much more colour the inks have than the print
# What a jump and a bend of a coverage cost, and a whole ink (see `covers.Wish`): the calmest first
_CALM = ((4.0, 60.0), (2.0, 20.0), (1.0, 5.0))
_SPARING, _MOST = 0.05, 3.0
_GOOD, _ROUNDS = 0.9, 4  # 255ths that are good enough, and how often both are looked for in turn
_EVENED = 2  # times that tones which are further off count more


@dataclass(frozen=True, eq=False)
class Apart:
    """What is printed in."""

    paper: str
    inks: tuple[str, ...]  # colours at full coverage on white paper
    coverage: Array  # (inks, SIZE), 0…1, of grays evenly from 0 to 1, encoded
    left: float  # how far off the print they are at most, in 255ths of encoded value


def taken_apart(step: Pass) -> Apart | None:
    """The inks of a pass; None for one that prints in none."""
    if isinstance(step, Inks):
        return _said(step.paper, step.inks())
    if isinstance(step, QuadTone):
        return _found(step.stops, step.lightness)
    return None


@functools.lru_cache(maxsize=8)
def _said(paper: str, inks: tuple[tuple[str, Curve], ...]) -> Apart:
    gray = np.linspace(0, 1, SIZE)
    return Apart(paper, tuple(tint for tint, _ in inks),
                 np.stack([coverage(points, gray) for _, points in inks]), 0.0)  # fmt: skip


@functools.lru_cache(maxsize=8)
def _found(stops: tuple[tuple[float, str], ...], lightness: float) -> Apart:
    table = tints(stops, lightness, SRGB).astype(np.float64)
    every, tones = np.linspace(0, 1, SIZE), np.linspace(0, 1, _TONES)
    whole = np.stack([np.interp(every, np.linspace(0, 1, table.shape[1]), plane) for plane in table])
    print_ = whole[:, :: (SIZE - 1) // (_TONES - 1)]
    paper = colour.hex_of(print_[:, -1])
    light = colour.to_light(np.array(colour.parse_hex(paper)))
    at = sorted(tone / 100 for tone, _ in stops) if len(stops) == 4 else list(_TONES_OF_TWO)
    at = [max(at[0], _DARKEST), *at[1:]]
    best: tuple[float, Array, Array] | None = None

    def off(inks: Array, covers: Array) -> float:
        return _off(whole, _told(inks), light, np.stack([np.interp(every, tones, one) for one in covers.T]))

    for (calm, even), coloured in itertools.product(_CALM, _COLOURED):  # as calm as goes with it
        inks = np.stack([_ink(print_, tones, tone, coloured if k else 1.0) for k, tone in enumerate(at)])
        covers = np.repeat(1 - tones[:, None], len(at), axis=1)
        wish = Wish(calm=calm, even=even, sparing=_SPARING, most=_MOST, weight=np.ones(_TONES))
        for _ in range(_ROUNDS):
            covers, wish = _covers(print_, Model.plain(light, _told(inks)), covers, wish)
            left = off(inks, covers)
            if best is None or left < best[0]:
                best = left, inks, covers
            if left <= _GOOD:
                break
            inks = _better(print_, inks, covers, light)
        if best is not None and best[0] <= _GOOD:
            break
    assert best is not None
    left, inks, covers = best
    return Apart(paper, tuple(colour.hex_of(colour.to_encoded(ink)) for ink in inks),
                 np.stack([np.interp(every, tones, one) for one in covers.T]), left)  # fmt: skip


def _covers(print_: Array, model: Model, start: Array, wish: Wish) -> tuple[Array, Wish]:
    """Coverages ``(tones, inks)`` that turn twice at most; and the wish with tones weighted so that all are about as
    far off."""
    shapes = [find.turned(one) for one in find.found(print_, model, start, wish).T]
    ways = np.stack([ways for _, ways in shapes], axis=1)

    def shaped(near: Array, wish: Wish) -> tuple[Array, Array]:
        made = find.found(print_, model, near, wish)
        made = np.stack([find.straightened(one, ways[:, k]) for k, one in enumerate(made.T)], axis=1)
        return made, np.abs(255 * (model.printed(made) - print_.T)).max(axis=1)

    covers, off = shaped(np.stack([one for one, _ in shapes], axis=1), wish)
    assert wish.weight is not None
    for _ in range(_EVENED):  # what is furthest off counts more
        weight = wish.weight * (1 + 3 * (off / max(off.max(), 1e-9)) ** 2)
        tried = replace(wish, weight=weight / weight.mean())
        other, its = shaped(covers, tried)
        if its.max() >= off.max():
            break
        covers, off, wish = other, its, tried
    return find.bounded(covers, wish.most), wish


def _off(print_: Array, inks: Array, paper: Array, covers: Array) -> float:
    """How far coverages ``(inks, n)`` are off the print ``(3, n)`` at most, in 255ths."""
    made = paper[:, None] * np.prod(1 - covers[:, None] * (1 - inks[:, :, None]), axis=0)
    return float(np.abs(255 * (colour.to_encoded(made) - print_)).max())


def _ink(print_: Array, tones: Array, tone: float, coloured: float) -> Array:
    """Light that an ink of the print's colour at a tone lets through, with so much more colour; darker if it must."""
    lab = colour.to_oklab(np.array([np.interp(tone, tones, plane) for plane in print_])[:, None], SRGB)[:, 0]
    lightness = lab[0]
    while True:
        rgb = colour.from_oklab(np.array([lightness, *(lab[1:] * coloured)])[:, None], SRGB)[:, 0]
        if (rgb.min() >= -1e-4 and rgb.max() <= 1) or lightness < 0.05:
            return np.asarray(colour.to_light(np.clip(rgb, 0, 1)))
        lightness -= 0.01


def _told(inks: Array) -> Array:
    """Light that inks let through, as their colours are told: in whole numbers."""
    return colour.to_light(np.rint(255 * colour.to_encoded(inks)) / 255)


def _better(print_: Array, inks: Array, covers: Array, paper: Array) -> Array:
    """Inks that come nearer to the print with the same coverages."""
    from scipy.optimize import least_squares

    def off(flat: Array) -> Any:
        passed = flat.reshape(inks.shape)
        made = paper[None] * np.prod(1 - covers[:, :, None] * (1 - passed[None]), axis=1)
        return np.concatenate([255 * (colour.to_encoded(made).T - print_).ravel(), 20 * (flat - inks.ravel())])

    found = least_squares(off, np.clip(inks.ravel(), 1e-4, 1 - 1e-4), bounds=(0, 1))
    return np.asarray(found.x.reshape(inks.shape))
