"""A print in inks taken apart: each ink's colour, and what share of the paper it covers at every tone.

*Inks* say both themselves. Of *Quad-tone* and *Split tone* they are found: four inks as the print is at four of its
tones, with more colour, so that they mix to all that lies between; then the coverages of all tones that come nearest to
the print by the ink model (see `toning.inks`), and once more the inks, in turn. Coverages change as little from tone to
tone as that allows, so that plates have few steps.
"""

from __future__ import annotations

import functools
import itertools
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.inks import Inks, coverage
from kyanoscript.core.passes.toning.quad_tone import QuadTone, tints

SIZE = 4097  # tones of a table
_TONES = 129  # at which coverages are looked for
_DARKEST, _TONES_OF_TWO = 0.05, (0.05, 0.25, 0.55, 0.85)
_COLOURED = (2.0, 2.5, 3.0)  # how much more colour the inks have than the print
_CALM = (8.0, 4.0, 2.0, 1.0)  # see `_covers`: the calmest first
_STEPS, _ENOUGH = 80, 1e-4  # of a search, and by what part it has to gain to go on
_GOOD, _ROUNDS = 0.9, 4  # 255ths that are good enough, and how often both are looked for in turn

Array = NDArray[np.float64]


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
        gray = np.linspace(0, 1, SIZE)
        every = step.inks()
        return Apart(step.paper, tuple(tint for tint, _ in every),
                     np.stack([coverage(points, gray) for _, points in every]), 0.0)  # fmt: skip
    if isinstance(step, QuadTone):
        return _found(step.stops, step.lightness)
    return None


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

    def good(inks: Array, covers: Array) -> bool:
        """Whether all tones, and those between, come near enough; the nearest yet is kept."""
        nonlocal best
        off = _off(whole, _told(inks), light, np.stack([np.interp(every, tones, one) for one in covers.T]))
        if best is None or off < best[0]:
            best = off, inks, covers
        return off <= _GOOD

    for calm, coloured in itertools.product(_CALM, _COLOURED):  # as few steps from tone to tone as go with it
        inks = np.stack([_ink(print_, tones, tone, coloured if k else 1.0) for k, tone in enumerate(at)])
        covers = np.repeat(1 - tones[:, None], len(at), axis=1)
        for _ in range(_ROUNDS):
            covers = _covers(print_, inks, light, covers, calm)
            if good(inks, covers):
                break
            inks = _better(print_, inks, covers, light)
        if best is not None and best[0] <= _GOOD:
            break
    assert best is not None
    off, inks, covers = best
    return Apart(paper, tuple(colour.hex_of(colour.to_encoded(ink)) for ink in inks),
                 np.stack([np.interp(every, tones, one) for one in covers.T]), off)  # fmt: skip


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


def _covers(print_: Array, inks: Array, paper: Array, start: Array, calm: float) -> Array:
    """Coverages ``(tones, inks)`` of all tones at once, from others.

    ``calm``: what a coverage that jumps from none to all costs, in 255ths of a print's value. Levenberg and Marquardt's
    method within bounds (projected); what hangs together is a band of neighbouring tones.
    """
    from scipy.linalg import solveh_banded

    inks = _told(inks)
    tones, count = start.shape

    def cost(covers: Array) -> float:
        off = 255 * (_made(covers, inks, paper) - print_.T)
        return float((off**2).sum() + (calm * np.diff(covers, axis=0) ** 2 * calm).sum())

    covers, damping = np.clip(start, 0, 1), 1.0
    present = cost(covers)
    for _ in range(_STEPS):
        slopes = 255 * _slopes(covers, inks, paper)
        off = 255 * (_made(covers, inks, paper) - print_.T)
        around = np.zeros_like(covers)
        around[:-1] += covers[:-1] - covers[1:]
        around[1:] += covers[1:] - covers[:-1]
        down = np.einsum("kci,kc->ki", slopes, off) + calm**2 * around
        held = ((covers <= 0) & (down > 0)) | ((covers >= 1) & (down < 0))
        free = (~held).astype(float)
        blocks = np.einsum("kci,kcj->kij", slopes, slopes) * free[:, :, None] * free[:, None]
        ties = np.full((tones, 1), 2.0)
        ties[[0, -1]] = 1
        while True:
            band = np.zeros((count + 1, tones * count))  # upper form: the diagonal last
            for i in range(count):
                for j in range(i, count):
                    band[count - (j - i), j::count] = blocks[:, i, j]
            band[count] += (calm**2 * ties * free + damping + (1 - free)).ravel()
            band[0, count:] -= calm**2 * (free[1:] * free[:-1]).ravel()
            step = solveh_banded(band, -(down * free).ravel()).reshape(tones, count)
            tried = np.clip(covers + step, 0, 1)
            found = cost(tried)
            if found < present or damping > 1e9:
                break
            damping *= 4
        if damping > 1e9:
            break
        gained, covers, present, damping = present - found, tried, found, max(damping / 6, 1e-6)
        if gained < _ENOUGH * present:
            break
    return covers


def _made(covers: Array, inks: Array, paper: Array) -> Array:
    """Encoded colours ``(tones, 3)`` of coverages ``(tones, inks)``."""
    return np.asarray(colour.to_encoded(paper * np.prod(1 - covers[:, :, None] * (1 - inks[None]), axis=1)))


def _slopes(covers: Array, inks: Array, paper: Array) -> Array:
    """How `_made` changes with every coverage: ``(tones, 3, inks)``."""
    passed = np.maximum(1 - covers[:, :, None] * (1 - inks[None]), 1e-9)
    light = paper * np.prod(passed, axis=1)
    steep = (colour.to_encoded(light + 1e-7) - colour.to_encoded(light)) / 1e-7
    return np.asarray((-(1 - inks[None]) * (light * steep)[:, None] / passed).transpose(0, 2, 1))


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
