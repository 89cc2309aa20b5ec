"""The next prints: a grid on a plane through the best so far.

Of many planes through it, spanned by ways to what may be meant, the one is taken of which the best print is expected to
come nearest to what is meant. This is the expected improvement of a whole gallery of Y. Koyama, I. Sato, M. Goto,
"Sequential Gallery for Interactive Visual Design Optimization", ACM Transactions on Graphics 39, 2020, reckoned over
guesses of what is meant instead of a Gaussian process.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.seek.appearance import Appearance, Array, apart

_GUESSES = 300  # that planes are held against
_FIRST, _BEST, _CHILDREN, _ROUNDS = 240, 12, 10, 3  # planes tried, and made better


def grid(best: Array, one: Array, other: Array, side: int) -> Array:
    """Shares ``(side * side, n)``, row by row: ``best`` is in the middle, ``one`` leads to the right, ``other`` down;
    what the dials do not allow is cut."""
    ways = np.linspace(-1, 1, side)
    made = best + ways[None, :, None] * one + ways[:, None, None] * other
    return np.clip(made.reshape(-1, len(best)), 0.0, 1.0)


def next_plane(
    best: Array, guesses: Array, appearance: Appearance, side: int, dice: np.random.Generator, free: NDArray[np.bool_]
) -> Array:
    """The grid ``(side * side, n)`` of the best plane that was found; dials that are not ``free`` stay as they are."""
    guesses = np.where(free, guesses[:_GUESSES], best)
    looks = appearance(guesses)
    spans = _ways(best, guesses, dice, _FIRST)
    worth = _worth(best, spans, looks, appearance, side)
    for _ in range(_ROUNDS):
        kept = np.argsort(worth, kind="stable")[:_BEST]
        parents = np.repeat(spans[kept], _CHILDREN, axis=0)
        size = np.abs(parents).max(axis=2, keepdims=True)
        children = parents + dice.normal(0, 0.2, parents.shape) * size * dice.random((len(parents), 2, 1)) * free
        spans = np.concatenate([spans[kept], children])
        worth = np.concatenate([worth[kept], _worth(best, children, looks, appearance, side)])
    one, other = spans[int(np.argmin(worth))]
    return np.where(free, grid(best, one, other, side), best)


def _ways(best: Array, guesses: Array, dice: np.random.Generator, count: int) -> Array:
    """Pairs of ways ``(count, 2, n)``: to guesses, between guesses, to the middle of all."""
    a, b, c, d = guesses[dice.integers(0, len(guesses), (4, count))]
    far, wide = dice.choice([0.35, 0.6, 1.0, 1.4], (2, count, 1))
    third = np.arange(count)[:, None] % 3
    middle = guesses.mean(axis=0)
    one = np.choose(third, [np.broadcast_to(middle - best, a.shape), (a - best) * far, (a - c) * 0.7 * far])
    other = np.choose(third, [(a - b) * wide, (b - best) * wide, (b - d) * 0.7 * wide])
    return np.stack([one, other], axis=1)


def _worth(best: Array, spans: Array, looks: Array, appearance: Appearance, side: int) -> Array:
    """How far the nearest print of each plane is from what is meant, in the mean over the guesses."""
    ways = np.linspace(-1, 1, side)[:, None, None]
    across, down = ways * spans[:, 0], ways * spans[:, 1]
    points = np.clip(best + down[:, None] + across[None], 0.0, 1.0)  # (side, side, spans, n)
    far = apart(looks, appearance(points.reshape(-1, len(best)))).reshape(len(looks), side * side, len(spans))
    return np.asarray(far.min(axis=1).mean(axis=0))
