"""How much of the paper each ink is to cover, at every tone, for a print of given colours.

Inks lie on one another by chance (see `toning.inks`); dots spread by a gain when they are printed, and light spreads in
the paper between them: with Yule and Nielsen's factor n (J. A. C. Yule and W. J. Nielsen, TAGA Proceedings, 1951)

    light = (paper^(1/n) · Π (1 − dᵢ (1 − Tᵢ^(1/n))))^n,    dᵢ = aᵢ + 4 gᵢ aᵢ (1 − aᵢ)

which is the formula of Yule, Nielsen and Neugebauer with the overprints of ideal inks; without gain and with n = 1 it
is that of the pass *Inks*.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour

TURNS = 2  # how often a coverage may turn from more to less or back, from black to white
_MOST_EXTREMES = 24  # at which a curve is looked at for its turns
_STEPS, _ENOUGH = 80, 1e-4  # of a search, and by what part it has to gain to go on
_OVER = 2000.0  # what a whole ink too much costs, in 255ths
_PALE = 10.0  # how much more clear varnish would cost than black: pale inks are to be left out first
_NARROW = 1e9  # damping at which nothing more is to be found

Array = NDArray[np.float64]


def spread(coverage: Array, gain: float | Array) -> Array:
    """Coverage 0…1 as it prints where 0.5 prints as 0.5 + ``gain``.

    A parabola through that, and through nothing at both ends: the shape is our own.
    """
    return np.minimum(coverage + 4 * gain * coverage * (1 - coverage), 1.0)


def held_back(coverage: Array, gain: float) -> Array:
    """The coverage that prints as what is wanted: the inverse of `spread`; what is full stays full."""
    g = 4 * gain
    if g <= 0:
        return coverage
    # g·a² − (1 + g)·a + wanted = 0
    found = ((1 + g) - np.sqrt((1 + g) ** 2 - 4 * g * coverage)) / (2 * g)
    return np.where(coverage >= 1, 1.0, found)


@dataclass(frozen=True, eq=False)
class Model:
    """What inks on a paper print."""

    paper: Array  # (3,), light
    inks: Array  # (inks, 3), light that each lets through at full coverage
    gains: Array  # (inks,), how much more than half a half tone prints
    n: float = 1.0  # Yule and Nielsen's factor

    @classmethod
    def plain(cls, paper: Array, inks: Array) -> Model:
        """Without gain."""
        return cls(paper, inks, np.zeros(len(inks)))

    def _layers(self, covers: Array) -> tuple[Array, Array]:
        """What each ink takes where it lies ``(inks, 3)``, and what it leaves at every tone ``(tones, inks, 3)``."""
        takes = 1 - self.inks ** (1 / self.n)
        return takes, np.maximum(1 - spread(covers, self.gains)[:, :, None] * takes, 1e-9)

    def printed(self, covers: Array) -> Array:
        """Encoded colours ``(tones, 3)`` of coverages ``(tones, inks)``."""
        light = self.paper * np.prod(self._layers(covers)[1], axis=1) ** self.n
        return np.asarray(colour.to_encoded(light))

    def slopes(self, covers: Array) -> Array:
        """How `printed` changes with every coverage: ``(tones, 3, inks)``."""
        takes, left = self._layers(covers)
        light = self.paper * np.prod(left, axis=1) ** self.n
        steep = (colour.to_encoded(light + 1e-7) - colour.to_encoded(light)) / 1e-7
        wider = np.where(spread(covers, self.gains) < 1, 1 + 4 * self.gains * (1 - 2 * covers), 0.0)
        each = -self.n * takes * (light * steep)[:, None] / left * wider[:, :, None]
        return np.asarray(each.transpose(0, 2, 1))


@dataclass(frozen=True, eq=False)
class Wish:
    """What coverages should be like, beside printing the colours. Costs are in 255ths of a print's value."""

    calm: float = 0.0  # what a jump from none to all costs
    even: float = 0.0  # what a bend costs: there and back from one tone to the next
    sparing: float = 0.0  # what a whole black ink costs, squared; the paler it is, the more (`_PALE`)
    most: float = 4.0  # inks on one another, at most
    near: Array | None = None  # coverages ``(tones, inks)`` that `calm` and `kept` are reckoned from
    kept: float = 0.0  # what being a whole ink off `near` costs
    weight: Array | None = None  # (tones,): how much each tone counts


def found(print_: Array, model: Model, start: Array, wish: Wish) -> Array:
    """Coverages ``(tones, inks)`` of all tones at once, for encoded colours ``(3, tones)``.

    Levenberg and Marquardt's method within bounds (projected); what hangs together is a band of neighbouring tones.
    """
    from scipy.linalg import solveh_banded

    tones, count = start.shape
    near = np.zeros_like(start) if wish.near is None else wish.near
    weight = np.ones(tones) if wish.weight is None else wish.weight
    bends = np.diff(np.eye(tones), 2, axis=0)
    even = wish.even**2 * bends.T @ bends
    ties = wish.calm**2 * np.where((np.arange(tones) % (tones - 1)) == 0, 1, 2)[:, None]  # to how many neighbours
    sparing = wish.sparing * (1 + _PALE * model.inks.mean(axis=1))
    rows = 2 * count  # of the band's upper form, above the diagonal

    def cost(covers: Array) -> float:
        off = 255 * (model.printed(covers) - print_.T)
        total = (weight[:, None] * off**2).sum() + ((covers - near) * (even @ (covers - near))).sum()
        total += wish.calm**2 * (np.diff(covers - near, axis=0) ** 2).sum()
        total += 2 * (sparing * covers).sum() + wish.kept**2 * ((covers - near) ** 2).sum()
        return float(total + ((_OVER * np.maximum(0, covers.sum(1) - wish.most)) ** 2).sum())

    covers, damping = np.clip(start, 0, 1), 1.0
    present = cost(covers)
    for _ in range(_STEPS):
        slopes, off = 255 * model.slopes(covers), 255 * (model.printed(covers) - print_.T)
        over = np.maximum(0, covers.sum(1) - wish.most)
        down = np.einsum("kci,kc->ki", slopes, weight[:, None] * off) + even @ (covers - near)
        down += sparing + wish.kept**2 * (covers - near) + (_OVER**2 * over)[:, None]
        pull = wish.calm**2 * np.diff(covers - near, axis=0)
        down[:-1] -= pull
        down[1:] += pull
        held = ((covers <= 0) & (down > 0)) | ((covers >= 1) & (down < 0))
        free = (~held).astype(float)
        blocks = np.einsum("kci,kcj->kij", slopes, slopes) * weight[:, None, None]
        blocks += (_OVER**2 * (over > 0))[:, None, None]
        blocks *= free[:, :, None] * free[:, None]
        while True:
            band = np.zeros((rows + 1, tones * count))  # upper form: the diagonal last
            for i, j in itertools.combinations_with_replacement(range(count), 2):
                band[rows - (j - i), j::count] = blocks[:, i, j]
            own = (np.diag(even)[:, None] + wish.kept**2 + ties) * free
            band[rows] += (own + damping + (1 - free)).ravel()
            band[rows - count, count:] += ((np.diag(even, 1)[:, None] - wish.calm**2) * free[1:] * free[:-1]).ravel()
            band[0, rows:] += (np.diag(even, 2)[:, None] * free[2:] * free[:-2]).ravel()
            step = solveh_banded(band, -(down * free).ravel()).reshape(tones, count)
            tried = np.clip(covers + step, 0, 1)
            new = cost(tried)
            if new < present or damping > _NARROW:
                break
            damping *= 4
        if damping > _NARROW:
            break
        gained, covers, present, damping = present - new, tried, new, max(damping / 6, 1e-6)
        if gained < _ENOUGH * present:
            break
    return covers


def bounded(covers: Array, most: float) -> Array:
    """Coverages ``(tones, inks)``, all of a tone less by the same part where they would be more than ``most``."""
    return covers * np.minimum(1, most / np.maximum(covers.sum(axis=1, keepdims=True), 1e-9))


def turned(cover: Array) -> tuple[Array, Array]:
    """The nearest coverage of one ink ``(tones,)`` that turns `TURNS` times at most, where it turns itself; and the way
    that each step may go, 1 up or −1 down."""
    way = np.sign(np.diff(cover))
    moving = np.flatnonzero(way)
    extremes = [int(k) + 1 for k, after in itertools.pairwise(moving) if way[k] != way[after]]
    if len(extremes) > _MOST_EXTREMES:
        extremes = extremes[:: -(-len(extremes) // _MOST_EXTREMES)]
    best: tuple[float, Array, Array] | None = None
    for many in range(TURNS + 1):
        for cuts in itertools.combinations(extremes, many):
            for first in (1, -1):
                ways = np.empty(len(cover) - 1)
                for k, (low, high) in enumerate(itertools.pairwise((0, *cuts, len(ways)))):
                    ways[low:high] = first * (-1) ** k
                made = straightened(cover, ways)
                off = float(((made - cover) ** 2).sum())
                if best is None or off < best[0] - 1e-12:
                    best = off, made, ways
    assert best is not None
    return best[1], best[2]


def straightened(cover: Array, ways: Array) -> Array:
    """A coverage ``(tones,)`` that goes the ways it may, near the one that is there."""
    from scipy.optimize import isotonic_regression

    made = cover.copy()
    for low, high in itertools.pairwise((0, *(np.flatnonzero(np.diff(ways)) + 1), len(cover))):
        made[low:high] = isotonic_regression(cover[low:high], increasing=bool(ways[low] > 0)).x
    return made


def turns(cover: Array, least: float = 0.005) -> int:
    """How often a coverage ``(tones,)`` turns, from more to less or back, by ``least`` or more."""
    count, way, furthest = 0, 0, cover[0]
    for value in cover:
        if way == 0:
            if abs(value - cover[0]) >= least:
                way, furthest = (1 if value > cover[0] else -1), value
        elif (value - furthest) * way > 0:
            furthest = value
        elif (furthest - value) * way >= least:
            count, way, furthest = count + 1, -way, value
    return count
