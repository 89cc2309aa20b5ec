"""What a print looks like for any values of its dials, learned from a few small prints.

Dials are told in shares 0…1 of their ranges. Distances between two looks come near the mean CIEDE2000 of the prints:
a step is as long as it is seen to be, dials that hardly show are short, and two that do the same lie along one way.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

SIDE = 48  # pixels of the longer side of the small prints
_FEATURES = 16  # directions in which looks differ
_RIDGE = 0.3
_GRID = np.linspace(0, 100, 1001)
# The lightness whose steps are even to CIEDE2000: the integral of 1 / S_L (CIE 142-2001).
_LIGHT = np.concatenate(
    [[0.0], np.cumsum(0.1 / (1 + 0.015 * (_GRID[1:] - 50.05) ** 2 / np.sqrt(20 + (_GRID[1:] - 50.05) ** 2)))]
)


def trials(start: Array, seed: int) -> Array:
    """The shares ``(m, n)`` whose small prints are to be learned from; the first is the start."""
    n = len(start)
    alone = np.repeat(start[None], 3 * n, axis=0)
    for k in range(n):
        alone[3 * k : 3 * k + 3, k] = 0.0, 0.5, 1.0
    return np.concatenate([start[None], alone, np.random.default_rng(seed).random((20 + 15 * n, n))])


def even(lab: NDArray[np.floating]) -> Array:
    """L*, a*, b* ``(p, 3)`` bent so that plain distances come near CIEDE2000: its S_L and S_C, without its turn in
    hue."""
    light, a, b = np.asarray(lab, float).T
    chroma = np.hypot(a, b) + 1e-9
    less = np.log1p(0.045 * chroma) / (0.045 * chroma)
    return np.stack([np.interp(light, _GRID, _LIGHT), a * less, b * less], axis=1)


@dataclass(frozen=True)
class Appearance:
    """Looks of shares, as features ``(m, k)`` whose distances are those of the prints."""

    weights: Array  # (terms, k)

    @classmethod
    def learned(cls, shares: Array, labs: NDArray[np.floating]) -> Appearance:
        """From small prints: ``shares`` (m, n) and their L*, a*, b* ``(m, p, 3)``.

        Principal directions of the prints, each a polynomial of the shares: squares, products of two, and cubes.
        """
        prints = np.stack([even(lab).ravel() for lab in labs])
        prints -= prints.mean(0)
        values, vectors = np.linalg.eigh(prints @ prints.T)
        kept = slice(-min(_FEATURES, len(values) - 1), None)
        features = vectors[:, kept] * np.sqrt(np.maximum(values[kept], 0.0)) / np.sqrt(prints.shape[1] / 3)
        terms = _terms(shares)
        ridge = _RIDGE * np.eye(terms.shape[1])
        ridge[0, 0] = 1e-6
        return cls(np.linalg.solve(terms.T @ terms + ridge, terms.T @ features))

    @classmethod
    def plain(cls, count: int) -> Appearance:
        """Of so many dials of which nothing is known: each alike, apart from the others."""
        weights = np.zeros((_terms(np.zeros((1, count))).shape[1], count))
        weights[1 : count + 1] = 10 * np.eye(count)
        return cls(weights)

    def __call__(self, shares: Array) -> Array:
        """Features ``(m, k)`` of shares ``(m, n)``."""
        return np.concatenate([part @ self.weights for part in _parts(_terms(shares))])


_PART = 96  # rows multiplied at once: larger products are shared out to threads that wait for one another


def _parts(of: Array) -> list[Array]:
    return [of[k : k + _PART] for k in range(0, len(of), _PART)]


@functools.lru_cache(maxsize=16)
def _pairs(count: int) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    return np.triu_indices(count)


def _terms(shares: Array) -> Array:
    t = np.asarray(shares, float) - 0.5
    i, j = _pairs(t.shape[1])
    return np.concatenate([np.ones((len(t), 1)), t, t[:, i] * t[:, j], t**3], axis=1)


def apart(one: Array, other: Array) -> Array:
    """Distances ``(m, q)`` between features ``(m, k)`` and ``(q, k)``."""
    both = np.block([[part @ their.T for their in _parts(other)] for part in _parts(one)])
    square = (one * one).sum(1)[:, None] + (other * other).sum(1)[None] - 2 * both
    return np.asarray(np.sqrt(np.maximum(square, 0.0)))
