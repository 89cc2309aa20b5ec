"""Which of several is the best, from pairs that were judged: R. A. Bradley, M. E. Terry, "Rank analysis of incomplete
block designs" (Biometrika 39, 1952).

The one of strength p is better than the one of strength q with the probability p / (p + q). Strengths are found by the
iteration of D. R. Hunter, "MM algorithms for generalized Bradley-Terry models" (Annals of Statistics 32, 2004). A pair
with neither better counts as half of a win for each. Each also wins and loses half a round against one of strength 1:
else who never lost would be infinitely strong.
"""

from __future__ import annotations

import itertools
import math
import random
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_PRIOR = 0.5  # wins, and losses, against one of strength 1


@dataclass(frozen=True)
class Round:
    """One pair that was judged; ``better`` 0: the first, 1: the second, None: neither."""

    first: int
    second: int
    better: int | None


@dataclass(frozen=True)
class Rank:
    """One of them in its place."""

    which: int
    strength: float  # natural logarithm
    wins: float
    rounds: int
    certainty: float  # probability that it is truly better than the next, 0.5…1; 1 for the last


def strengths(rounds: Sequence[Round], count: int) -> NDArray[np.float64]:
    """Natural logarithms of the strengths ``(count,)``."""
    wins, met = _tables(rounds, count)
    total = wins.sum(1) + _PRIOR
    p = np.ones(count)
    for _ in range(10_000):
        new = total / ((met / (p[:, None] + p)).sum(1) + 2 * _PRIOR / (p + 1))
        done = np.abs(np.log(new / p)).max() < 1e-12
        p = new
        if done:
            break
    return np.log(p)


def ranking(rounds: Sequence[Round], count: int) -> list[Rank]:
    """All of them, the best first."""
    beta = strengths(rounds, count)
    wins, met = _tables(rounds, count)
    spread = np.linalg.inv(_information(beta, met))  # covariance of the strengths, from the curvature at the best fit
    order = sorted(range(count), key=lambda k: -beta[k])
    found = []
    for place, k in enumerate(order):
        certainty = 1.0
        if place + 1 < count:
            j = order[place + 1]
            error = math.sqrt(spread[k, k] + spread[j, j] - 2 * spread[k, j])
            certainty = 0.5 * (1 + math.erf((beta[k] - beta[j]) / error / math.sqrt(2)))
        found.append(Rank(k, float(beta[k]), float(wins[k].sum()), int(met[k].sum()), certainty))
    return found


def enough(count: int) -> int:
    """After how many rounds a ranking means something: each pair once and a half, and six at least."""
    return max(6, round(1.5 * count * (count - 1) / 2))


def next_pair(rounds: Sequence[Round], count: int, dice: random.Random) -> tuple[int, int]:
    """The pair that was judged least often, in places by chance; not the one just judged, if there is another."""
    seen = Counter(frozenset((r.first, r.second)) for r in rounds)
    pairs = [frozenset(pair) for pair in itertools.combinations(range(count), 2)]
    last = frozenset((rounds[-1].first, rounds[-1].second)) if rounds else None
    others = [pair for pair in pairs if pair != last] or pairs
    least = min(seen[pair] for pair in others)
    pair = sorted(dice.choice([pair for pair in others if seen[pair] == least]))
    dice.shuffle(pair)
    return pair[0], pair[1]


def _tables(rounds: Sequence[Round], count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Wins of each over each, and how often they met."""
    wins, met = np.zeros((count, count)), np.zeros((count, count))
    for r in rounds:
        a, b = r.first, r.second
        met[a, b] += 1
        met[b, a] += 1
        share = 0.5 if r.better is None else 1.0 - r.better
        wins[a, b] += share
        wins[b, a] += 1 - share
    return wins, met


def _information(beta: NDArray[np.float64], met: NDArray[np.float64]) -> NDArray[np.float64]:
    """Second derivatives of the negative logarithm of the likelihood."""
    p = 1 / (1 + np.exp(beta[None] - beta[:, None]))
    curve = met * p * (1 - p)
    own = 1 / (1 + np.exp(-beta))
    return np.diag(curve.sum(1) + 2 * _PRIOR * own * (1 - own)) - curve
