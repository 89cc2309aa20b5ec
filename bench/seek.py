"""How many looks a made-up eye needs: seeking against strips, fields, random planes, and the published way.

An eye prefers the print that is nearer, in the mean CIEDE2000 of all its pixels, to a hidden one. Looks are counted
until what it has taken is five times nearer than the start was. Dials are drawn from those of a run of eight passes,
hidden prints from the ranges that strips propose; an eye that errs takes any other print in so many of its choices.

Run as ``python bench/seek.py [HIDDEN] [DIALS] [ERRING] [WAYS]``: ``python bench/seek.py 30 3,6,12 0`` makes the table
of docs/decisions.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Callable
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize
from scipy.special import ndtr

from kyanoscript import demo
from kyanoscript.core.colour import in_colour, to_lab
from kyanoscript.core.colour.difference import ciede2000
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render import analysis
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import dial_named
from kyanoscript.core.seek.appearance import SIDE, Appearance
from kyanoscript.core.seek.plane import grid
from kyanoscript.core.seek.seek import Seek, Sought, script_at, start_of, to_learn
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.out import whole_source

Array = NDArray[np.float64]
Step = Callable[[Array], tuple[int, float]]  # shows prints; which was taken, and how far that is from the hidden one

MOST = 60  # looks, after which an eye gives up
NEAR = 5  # times nearer than the start
LEAST = 4.0  # CIEDE2000 that a hidden print lies from the start
RUN = ("exposure", "gray-weights", "levels", "local-contrast", "toner-bath", "soften", "grain", "vignette")
POOL = (
    "exposure.exposure", "exposure.contrast", "exposure.highlights", "exposure.shadows", "gray-weights.red",
    "gray-weights.green", "gray-weights.blue", "levels.gamma", "levels.in_black", "levels.in_white",
    "levels.out_black", "levels.out_white", "local-contrast.fine", "local-contrast.broad", "toner-bath.time",
    "toner-bath.depth", "toner-bath.strength", "soften.radius", "soften.strength", "grain.amount", "vignette.amount",
    "vignette.soft",
)  # fmt: skip


class World:
    """A photograph, dials, a hidden print and an eye."""

    def __init__(self, photo: str, dials: int, seed: int, erring: float = 0.0) -> None:
        source = whole_source(open_photo(demo.photo(photo)))
        self.small = ArraySource(np.moveaxis(analysis.opened(source, SIDE), 0, -1).copy())
        self.space = source.space
        known: dict[str, Any] = dict(load_all())
        self.base = Script(tuple(known[kind](**({"amount": -1} if kind == "vignette" else {})) for kind in RUN))
        self.dice = np.random.default_rng([dials, seed])
        self.erring = erring
        self._labs: dict[bytes, Array] = {}
        while not self._hide(dials):  # dials that hardly change the print together have nothing to be sought
            pass
        self.goal = self.far(self.start, self.hidden) / NEAR

    def _hide(self, dials: int) -> bool:
        """Other dials, and a hidden print that is far enough from the start, if there is one."""
        words = self.dice.permutation(POOL)[:dials]
        self.dials = [Sought.of(self.base, dial_named(self.base, word)) for word in words]
        self.start = start_of(self.dials)
        self._labs.clear()
        for _ in range(40):
            self.hidden = self.lab(self.dice.random(dials))
            if self.far(self.start, self.hidden) >= LEAST:
                return True
        return False

    def lab(self, shares: Array) -> Array:
        """The small print there."""
        key = np.round(shares, 6).tobytes()
        if key not in self._labs:
            renderer = Renderer(self.small, script_at(self.base, self.dials, shares))
            planes = renderer.region(Rect(0, 0, *renderer.size(1.0)))
            self._labs[key] = to_lab(in_colour(planes), self.space).reshape(3, -1).T
        return self._labs[key]

    def far(self, shares: Array, lab: Array) -> float:
        """The mean difference of a print."""
        return float(ciede2000(self.lab(shares), lab).mean())

    def take(self, points: Array) -> tuple[int, float]:
        """What the eye takes, and how far that is from the hidden print."""
        far = [self.far(point, self.hidden) for point in points]
        which = int(np.argmin(far))
        if self.dice.random() < self.erring:
            which = int(self.dice.choice([k for k in range(len(points)) if k != which]))
        return which, far[which]

    @cached_property
    def effect(self) -> Array:
        """How far the two ends of each dial are apart."""
        found = []
        for k in range(len(self.dials)):
            low, high = self.start.copy(), self.start.copy()
            low[k], high[k] = 0.0, 1.0
            found.append(self.far(low, self.lab(high)))
        return np.array(found)

    @cached_property
    def appearance(self) -> Appearance:
        """As the program learns it."""
        shares = to_learn(self.base, self.dials)
        return Appearance.learned(shares, np.stack([self.lab(share) for share in shares]))


def seek(world: World, side: int) -> int:
    """As the program seeks."""
    found = Seek.begun(world.base, world.dials, world.appearance, side)
    for looks in range(1, MOST):
        which, far = world.take(found.now.points)
        if far <= world.goal:
            return looks
        found = found.choose(which)
    return MOST


def blind(world: World, side: int) -> int:
    """The same, without having learned what the dials do."""
    world.appearance = Appearance.plain(len(world.dials))
    return seek(world, side)


class Ranges:
    """Where strips and fields look: halved round what was taken; moved on, as wide, where that lies at an end."""

    def __init__(self, count: int) -> None:
        self.low, self.high = np.zeros(count), np.ones(count)

    def steps(self, k: int, count: int, here: float) -> Array:
        """Values from end to end; the present one is among them."""
        found = np.linspace(self.low[k], self.high[k], count)
        found[np.argmin(abs(found - here))] = here
        return found

    def closer(self, k: int, here: float) -> None:
        """After a value was taken."""
        wide = self.high[k] - self.low[k]
        ends = abs(here - self.low[k]) < 1e-9 or abs(here - self.high[k]) < 1e-9
        wide *= 1.0 if ends and 0 < here < 1 else 0.5
        self.low[k] = min(max(0.0, here - wide / 2), 1 - wide)
        self.high[k] = self.low[k] + wide


def strips(world: World, best_order: bool) -> int:
    """One dial after another, in seven bands, those first that change the print most; or, as nobody could know, always
    the dial whose strip comes nearest."""
    here, ranges, order = world.start.copy(), Ranges(len(world.dials)), np.argsort(-world.effect)

    def bands(k: int) -> Array:
        points = np.repeat(here[None], 7, axis=0)
        points[:, k] = ranges.steps(k, 7, here[k])
        return points

    for looks in range(1, MOST):
        k = int(order[(looks - 1) % len(order)])
        if best_order:
            k = min(range(len(order)), key=lambda k: min(world.far(point, world.hidden) for point in bands(k)))
        points = bands(k)
        which, far = world.take(points)
        here = points[which]
        if far <= world.goal:
            return looks
        ranges.closer(k, here[k])
    return MOST


def fields(world: World, side: int) -> int:
    """Two dials at a time, those first that change the print most."""
    here, ranges, order = world.start.copy(), Ranges(len(world.dials)), np.argsort(-world.effect)
    pairs = [(int(order[k]), int(order[(k + 1) % len(order)])) for k in range(0, len(order), 2)]
    for looks in range(1, MOST):
        a, b = pairs[(looks - 1) % len(pairs)]
        points = np.repeat(here[None], side * side, axis=0)
        points[:, a] = np.tile(ranges.steps(a, side, here[a]), side)
        points[:, b] = np.repeat(ranges.steps(b, side, here[b]), side)
        which, far = world.take(points)
        here = points[which]
        if far <= world.goal:
            return looks
        ranges.closer(a, here[a])
        ranges.closer(b, here[b])
    return MOST


def random_planes(world: World, side: int) -> int:
    """Through what was taken last, any two ways, of any size."""
    here, dice = world.start, np.random.default_rng(len(world.dials))
    for looks in range(1, MOST):
        one, other = dice.normal(size=(2, len(here)))
        other -= one * (one @ other) / (one @ one)
        size = dice.random() / 2
        points = grid(here, one / abs(one).max() * size, other / abs(other).max() * size, side)
        which, far = world.take(points)
        here = points[which]
        if far <= world.goal:
            return looks
    return MOST


class Process:
    """The published way: a Gaussian process of preferences over the dials.

    Bradley-Terry-Luce as likelihood, squared exponential with a length per dial, log-normal priors on lengths and
    amplitude, values and lengths fitted together by L-BFGS (Koyama, Sato, Goto 2020; Brochu, Brochu, de Freitas 2010).
    """

    def __init__(self, count: int) -> None:
        self.points = np.empty((0, count))
        self.told: list[tuple[list[int], int]] = []
        self.scales = np.zeros(count + 1)  # logarithms, from the middle of their priors
        self.values = np.empty(0)

    def add(self, points: Array, taken: int) -> None:
        """One look."""
        places = []
        for point in points:
            same = np.flatnonzero(np.abs(self.points - point).max(axis=1) < 1e-9) if len(self.points) else []
            places.append(int(same[0]) if len(same) else len(self.points))
            if not len(same):
                self.points = np.concatenate([self.points, point[None]])
        self.told.append((places, taken))
        self.values = np.concatenate([self.values, np.zeros(len(self.points) - len(self.values))])

    def kernel(self, a: Array, b: Array, scales: Array) -> Array:
        """Squared exponential."""
        length = 0.5 * np.exp(scales[1:])
        d = ((a[:, None] / length - b[None] / length) ** 2).sum(2)
        return np.asarray(0.2 * np.exp(scales[0]) * np.exp(-d / 2))

    def fit(self) -> None:
        """Values by their gradient; the few scales by differences, between times."""

        def loss(values: Array, inverse: Array) -> tuple[float, Array]:
            lost, slope = 0.5 * values @ inverse @ values, inverse @ values
            for places, taken in self.told:
                here = values[places] / 0.1
                share = np.exp(here - here.max())
                share /= share.sum()
                lost -= np.log(share[taken])
                slope[places] += share / 0.1
                slope[places[taken]] -= 1 / 0.1
            return float(lost), np.asarray(slope, np.float64)

        def inverse(scales: Array) -> tuple[Array, float]:
            k = self.kernel(self.points, self.points, scales) + 1e-5 * np.eye(len(self.points))
            return np.asarray(np.linalg.inv(k), np.float64), float(np.linalg.slogdet(k)[1])

        def of_scales(scales: Array) -> float:
            own, size = inverse(scales)
            return float(0.5 * self.values @ own @ self.values + 0.5 * size + (scales**2).sum() / (2 * 0.5**2))

        for _ in range(2):
            own, _size = inverse(self.scales)
            self.values = minimize(loss, self.values, args=(own,), jac=True, method="L-BFGS-B").x
            self.scales = minimize(of_scales, self.scales, method="L-BFGS-B", options={"maxiter": 5}).x
        self.own = inverse(self.scales)[0]

    def gain(self, at: Array, best: float) -> Array:
        """Expected improvement."""
        cross = self.kernel(at, self.points, self.scales)
        mean = cross @ self.own @ self.values
        var = np.maximum(0.2 * np.exp(self.scales[0]) - (cross @ self.own * cross).sum(1), 1e-9)
        z = (mean - best) / np.sqrt(var)
        return np.asarray((mean - best) * ndtr(z) + np.sqrt(var) * np.exp(-z * z / 2) / np.sqrt(2 * np.pi))


def published(world: World, side: int) -> int:
    """A plane through the best, the point of largest expected improvement, and the best second way."""
    count = len(world.dials)
    process, here, dice = Process(count), world.start, np.random.default_rng(count)
    one, other = dice.normal(size=(2, count)) * 0.3
    for looks in range(1, MOST):
        points = grid(here, one, other, side)
        which, far = world.take(points)
        here = points[which]
        if far <= world.goal:
            return looks
        process.add(points, which)
        process.fit()
        best = float(process.values.max())
        at = np.concatenate([dice.random((1000, count)), np.clip(here + dice.normal(0, 0.15, (1000, count)), 0, 1)])
        one = at[int(np.argmax(process.gain(at, best)))] - here
        ways = dice.normal(size=(60, count))
        ways -= (ways @ one)[:, None] * one / max(one @ one, 1e-12)
        ways *= max(np.linalg.norm(one), 0.05) / np.linalg.norm(ways, axis=1, keepdims=True)
        other = max(ways, key=lambda way: float(process.gain(grid(here, one, way, side), best).sum()))
    return MOST


WAYS: dict[str, Callable[[World], int]] = {
    "seek, nine": lambda world: seek(world, 3),
    "seek, 25": lambda world: seek(world, 5),
    "seek, nine, nothing learned": lambda world: blind(world, 3),
    "strips": lambda world: strips(world, False),
    "strips, best dial known": lambda world: strips(world, True),
    "fields of nine": lambda world: fields(world, 3),
    "fields of 25": lambda world: fields(world, 5),
    "random planes, nine": lambda world: random_planes(world, 3),
    "published, nine": lambda world: published(world, 3),
}


def table(hidden: int, dials: int, erring: float, ways: list[str]) -> dict[str, list[int]]:
    """Looks of each way, on four photographs."""
    found: dict[str, list[int]] = {way: [] for way in ways}
    for photo in demo.NAMES:
        for seed in range(hidden):
            for way in ways:
                found[way].append(WAYS[way](World(photo, dials, seed, erring)))
    return found


def main(words: list[str]) -> None:
    """Print the table."""
    hidden, dials, erring = (*words[:3], *("5", "3,6,12", "0")[len(words[:3]) :])
    ways = words[3].split("/") if len(words) > 3 else list(WAYS)
    for count in map(int, dials.split(",")):
        began = time.process_time()
        for way, looks in table(int(hidden), count, float(erring), ways).items():
            mean, late = statistics.mean(looks), np.quantile(looks, 0.9)
            print(
                f"{count:3} dials, erring {erring}: {way:28} median {statistics.median(looks):5.1f}  mean {mean:5.2f}"
                f"  nine in ten {late:5.1f}  gave up {sum(look >= MOST for look in looks)}",
                flush=True,
            )
        print(f"    {time.process_time() - began:.0f} s of processor time", flush=True)


if __name__ == "__main__":
    main(sys.argv[1:])
