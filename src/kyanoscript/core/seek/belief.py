"""What the person may have in mind, as far as the choices tell: many guesses, each the shares of a print.

Who chooses takes the print that looks nearest to what is meant, the surer the clearer it is (the Bradley-Terry-Luce
model: R. D. Luce, "Individual Choice Behavior", 1959, over distances to an ideal point: C. H. Coombs, "A Theory of
Data", 1964), and now and then any other. Guesses are moved by differences of others (C. ter Braak, "A Markov chain
Monte Carlo version of the genetic algorithm differential evolution", Statistics and Computing 16, 2006).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.seek.appearance import Appearance, Array, apart

GUESSES = 800
_LAPSE = 0.25  # of the choices may be of any print: the eye errs, and so does what was learned of the looks
_SURE = 0.05  # of the least distance, and
_LEAST = 0.08  # in CIEDE2000: what cannot be told apart
_MOVES = 15


@dataclass(frozen=True, eq=False)
class Choice:
    """One of several prints, ``(m, n)`` shares, was taken."""

    points: Array
    taken: int


def unknown(count: int, dice: np.random.Generator) -> Array:
    """Guesses ``(GUESSES, count)`` before anything was chosen."""
    return dice.random((GUESSES, count))


def learned(
    guesses: Array, choices: Sequence[Choice], appearance: Appearance, dice: np.random.Generator, new: int = 1
) -> Array:
    """The guesses after the last ``new`` of the choices, of which those before have been taken in already."""
    before = _likely(guesses, choices[:-new], appearance)
    now = _likely(guesses, choices, appearance)
    weight = np.exp(now - before - (now - before).max())
    at = _drawn(weight / weight.sum(), dice)
    guesses, now = guesses[at], now[at]
    count = guesses.shape[1]
    for k in range(_MOVES):
        a, b = dice.integers(0, len(guesses), (2, len(guesses)))
        far = 1.0 if k % 5 == 4 else dice.choice([0.3, 0.7, 1.0]) * 2.38 / np.sqrt(2 * count)
        moved = guesses + far * (guesses[a] - guesses[b]) + dice.normal(0, 0.02, guesses.shape)
        if k % 3 == 2:  # half of them anywhere: after a wrong choice what is meant may lie where no guess is left
            anew = dice.random(len(guesses)) < 0.5
            moved[anew] = dice.random((int(anew.sum()), count))
        moved = 1 - np.abs(1 - np.abs(moved))  # thrown back at the ends
        there = _likely(np.clip(moved, 0, 1), choices, appearance)
        inside = ((moved >= 0) & (moved <= 1)).all(axis=1)
        taken = inside & (np.log(dice.random(len(guesses))) < there - now)
        guesses, now = np.where(taken[:, None], moved, guesses), np.where(taken, there, now)
    return guesses


def _likely(guesses: Array, choices: Sequence[Choice], appearance: Appearance) -> Array:
    """Logarithm of how likely the choices are if a guess is what is meant, ``(m,)``."""
    found = np.zeros(len(guesses))
    if not choices:
        return found
    far = apart(appearance(guesses), appearance(np.concatenate([choice.points for choice in choices])))
    start = 0
    for choice in choices:
        many = len(choice.points)
        here = np.ascontiguousarray(far[:, start : start + many].T)
        start += many
        least = here.min(axis=0)
        wins = np.exp((least - here) / np.maximum(_SURE * least, _LEAST))
        found += np.log((1 - _LAPSE) * wins[choice.taken] / wins.sum(axis=0) + _LAPSE / many)
    return found


def _drawn(weight: Array, dice: np.random.Generator) -> NDArray[np.intp]:
    """Each as often as it weighs, evenly."""
    places = (np.arange(len(weight)) + dice.random()) / len(weight)
    return np.minimum(np.searchsorted(np.cumsum(weight), places), len(weight) - 1)
