"""A print in inks taken apart: each ink's colour, and what share of the paper it covers at every tone.

*Inks* say both themselves. Of *Quad-tone* and *Split tone* they are found: four inks as the print is at four of its
tones, with more colour, so that they mix to all that lies between; then, tone by tone, the coverages that come nearest
to the print by the ink model (see `toning.inks`), and once more the inks, in turn. Coverages change as little from tone
to tone as that allows, so that plates have no steps.
"""

from __future__ import annotations

import functools
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
_TONES = 97  # at which coverages are looked for
_DARKEST, _TONES_OF_TWO = 0.05, (0.05, 0.25, 0.55, 0.85)
_COLOURED = (2.0, 2.5, 3.0)  # how much more colour the inks have than the print
_STEADY, _CALM = 1.0, 2.0  # what a coverage that jumps from none to all costs, in 255ths of a print's value
_GOOD, _ROUNDS = 0.9, 5  # 255ths that are good enough, and how often both are looked for in turn

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
    tones = np.linspace(0, 1, _TONES)
    print_ = np.stack([np.interp(tones, np.linspace(0, 1, table.shape[1]), plane) for plane in table])
    paper = colour.hex_of(print_[:, -1])
    light = colour.to_light(np.array(colour.parse_hex(paper)))
    at = sorted(tone / 100 for tone, _ in stops) if len(stops) == 4 else list(_TONES_OF_TWO)
    at = [max(at[0], _DARKEST), *at[1:]]
    best: tuple[float, Array, Array] | None = None
    for coloured in _COLOURED:
        inks = np.stack([_ink(print_, tones, tone, coloured if k else 1.0) for k, tone in enumerate(at)])
        for _ in range(_ROUNDS):
            covers, off = _covers(print_, inks, light)
            if best is None or off < best[0]:
                best = off, inks, covers
            if off <= _GOOD:
                break
            inks = _better(print_, inks, covers, light)
        if best is not None and best[0] <= _GOOD:
            break
    assert best is not None
    off, inks, covers = best
    calm, calmer = inks, covers
    for _ in range(_ROUNDS):  # all tones at once: with fewer steps from tone to tone, if that comes as near
        calmer, also = _calmed(print_, calm, light, calmer)
        if also <= max(off, _GOOD):
            inks, covers, off = calm, calmer, also
            break
        calm = _better(print_, calm, calmer, light)
    every = np.linspace(0, 1, SIZE)
    return Apart(paper, tuple(colour.hex_of(colour.to_encoded(ink)) for ink in inks),
                 np.stack([np.interp(every, tones, one) for one in covers.T]), off)  # fmt: skip


def _ink(print_: Array, tones: Array, tone: float, coloured: float) -> Array:
    """Light that an ink of the print's colour at a tone lets through, with so much more colour; darker if it must."""
    lab = colour.to_oklab(np.array([np.interp(tone, tones, plane) for plane in print_])[:, None], SRGB)[:, 0]
    lightness = lab[0]
    while True:
        rgb = colour.from_oklab(np.array([lightness, *(lab[1:] * coloured)])[:, None], SRGB)[:, 0]
        if (rgb.min() >= -1e-4 and rgb.max() <= 1) or lightness < 0.05:
            return np.asarray(colour.to_light(np.clip(rgb, 0, 1)))
        lightness -= 0.01


def _covers(print_: Array, inks: Array, paper: Array) -> tuple[Array, float]:
    """Coverages ``(tones, inks)``, tone after tone from white to black, and the largest difference in 255ths."""
    from scipy.optimize import least_squares

    inks = _told(inks)
    out = np.zeros((print_.shape[1], len(inks)))
    before, worst = np.zeros(len(inks)), 0.0
    for k in range(print_.shape[1] - 1, -1, -1):

        def off(covers: Array, k: int = k, before: Array = before) -> Array:
            made = colour.to_encoded(paper * np.prod(1 - covers[:, None] * (1 - inks), axis=0))
            return np.concatenate([255 * (made - print_[:, k]), _STEADY * (covers - before)])

        found = least_squares(off, np.clip(before, 1e-4, 1 - 1e-4), bounds=(0, 1), xtol=1e-9, ftol=1e-9)
        before = out[k] = found.x
        worst = max(worst, float(np.abs(found.fun[:3]).max()))
    return out, worst


def _calmed(print_: Array, inks: Array, paper: Array, start: Array) -> tuple[Array, float]:
    """Coverages of all tones at once, from those of one after another, and the largest difference in 255ths."""
    from scipy.optimize import least_squares
    from scipy.sparse import lil_matrix

    inks = _told(inks)
    tones, count = start.shape

    def off(flat: Array) -> Array:
        covers = flat.reshape(tones, count)
        made = colour.to_encoded(paper * np.prod(1 - covers[:, :, None] * (1 - inks[None]), axis=1))
        return np.concatenate([(255 * (made - print_.T)).ravel(), (_CALM * np.diff(covers, axis=0)).ravel()])

    depends = lil_matrix((3 * tones + count * (tones - 1), tones * count), dtype=int)
    for k in range(tones):
        depends[3 * k : 3 * k + 3, count * k : count * k + count] = 1
    for k in range(count * (tones - 1)):
        depends[3 * tones + k, k] = depends[3 * tones + k, k + count] = 1
    found = least_squares(off, np.clip(start.ravel(), 1e-4, 1 - 1e-4), bounds=(0, 1), jac_sparsity=depends,
                          xtol=1e-6, ftol=1e-6, max_nfev=60)  # fmt: skip
    return found.x.reshape(tones, count), float(np.abs(found.fun[: 3 * tones]).max())


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
