"""Judging pairs: Bradley and Terry's model against a reckoning of its own with SciPy."""

import itertools
import random
from collections import Counter

import numpy as np
import pytest
from scipy import optimize, stats

from kyanoscript.core.judging import Round, enough, next_pair, ranking, strengths

# Four borders; a worked example of our own: 0 mostly wins, 3 mostly loses, two rounds had neither better.
ROUNDS = [
    Round(0, 1, 0), Round(1, 0, 1), Round(0, 2, 0), Round(2, 0, 0), Round(0, 3, 0), Round(3, 0, 1),
    Round(1, 2, 0), Round(2, 1, None), Round(1, 3, 0), Round(3, 1, 1), Round(2, 3, 0), Round(3, 2, None),
]  # fmt: skip


def loss(beta):
    """Negative log-likelihood as the paper writes it, with half a win and half a loss against strength 1."""
    total = 0.0
    for r in ROUNDS:
        ahead = beta[r.first] - beta[r.second]
        share = 0.5 if r.better is None else 1 - r.better
        total += share * np.logaddexp(0, -ahead) + (1 - share) * np.logaddexp(0, ahead)
    return total + 0.5 * (np.logaddexp(0, -beta) + np.logaddexp(0, beta)).sum()


def test_strengths_are_those_of_the_greatest_likelihood():
    """Against scipy.optimize.minimize."""
    best = optimize.minimize(loss, np.zeros(4), method="BFGS", options={"gtol": 1e-10})
    assert strengths(ROUNDS, 4) == pytest.approx(best.x, abs=1e-5)


def test_certainty_is_that_of_the_curvature():
    """Against second differences of the likelihood and scipy.stats.norm."""
    beta, step = strengths(ROUNDS, 4), 1e-4
    eye = np.eye(4) * step
    curve = np.array(
        [
            [(loss(beta + a + b) - loss(beta + a - b) - loss(beta - a + b) + loss(beta - a - b)) for b in eye]
            for a in eye
        ]
    ) / (4 * step**2)
    spread = np.linalg.inv(curve)
    found = ranking(ROUNDS, 4)
    assert [rank.which for rank in found] == list(np.argsort(-beta))
    for one, other in itertools.pairwise(found):
        a, b = one.which, other.which
        error = np.sqrt(spread[a, a] + spread[b, b] - 2 * spread[a, b])
        assert one.certainty == pytest.approx(stats.norm.cdf((beta[a] - beta[b]) / error), abs=1e-4)
    assert (found[0].wins, found[0].rounds, found[-1].certainty) == (5, 6, 1.0)


def test_who_never_lost_is_not_infinitely_strong_and_nothing_known_is_no_ranking():
    (best, other) = ranking([Round(0, 1, 0)] * 4, 2)
    assert (best.which, other.which) == (0, 1)
    assert best.strength < 3
    assert 0.85 < best.certainty < 0.999
    nothing = ranking([], 3)
    assert [rank.strength for rank in nothing] == [0, 0, 0]
    assert nothing[0].certainty == pytest.approx(0.5)


@pytest.mark.parametrize("count", [2, 3, 4, 6])
def test_every_pair_comes_equally_often_and_on_both_sides(count):
    dice, rounds = random.Random(2), []
    pairs = count * (count - 1) // 2
    for _ in range(20 * pairs):
        first, second = next_pair(rounds, count, dice)
        assert first != second
        if pairs > 1 and rounds:
            assert {first, second} != {rounds[-1].first, rounds[-1].second}
        rounds.append(Round(first, second, None))
    seen = Counter(frozenset((r.first, r.second)) for r in rounds)
    assert max(seen.values()) - min(seen.values()) <= 2
    left = sum(r.first < r.second for r in rounds) / len(rounds)
    assert 0.3 < left < 0.7
    assert enough(count) >= pairs


def test_the_eye_is_found_out_in_spite_of_chance():
    """Judges who prefer the stronger with the model's own probability: the order comes out."""
    dice, truth, rounds = random.Random(5), [1.5, 0.5, -0.5, -1.5], []
    for _ in range(200):
        a, b = next_pair(rounds, 4, dice)
        first_wins = dice.random() < 1 / (1 + np.exp(truth[b] - truth[a]))
        rounds.append(Round(a, b, 0 if first_wins else 1))
    found = ranking(rounds, 4)
    assert [rank.which for rank in found] == [0, 1, 2, 3]
    assert all(rank.certainty > 0.9 for rank in found)
