"""The way of one search: which dials, what was shown and chosen, and what is shown next."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from kyanoscript.core.params.kinds import Number
from kyanoscript.core.script import Script, to_json, walk
from kyanoscript.core.script.complaint import ScriptError
from kyanoscript.core.script.dials import Dial, around
from kyanoscript.core.script.differ import same_print
from kyanoscript.core.seek.appearance import Appearance, Array, apart, trials
from kyanoscript.core.seek.belief import Choice, learned, unknown
from kyanoscript.core.seek.plane import next_plane
from kyanoscript.translation import tr

LEAST, MOST = 2, 12  # dials
SIDES = (3, 5)  # prints each way
_STEPS = 7  # of the strip whose range a dial has at first


@dataclass(frozen=True)
class Sought:
    """One dial of a search, from where to where."""

    dial: Dial
    spec: Number
    start: float
    low: float
    high: float

    @classmethod
    def of(cls, script: Script, dial: Dial) -> Sought:
        """With the range that a strip of it has at first."""
        spec = dial.spec(script)
        if spec is None:
            raise ScriptError(tr("{dial} is no number of this script", dial=dial.name))
        value = dial.value(script)
        low, high = around(spec, value, _STEPS)
        return cls(dial, spec, value, min(low, value), max(high, value))

    def narrowed(self, low: float, high: float) -> Sought:
        """With other ends; the start stays within them."""
        low, high = self.spec.held(min(low, high)), self.spec.held(max(low, high))
        return replace(self, low=min(low, self.start), high=max(high, self.start))

    def share(self, value: float) -> float:
        """Where a value lies between the ends, 0…1, in steps that are even to the eye."""
        low, high = self.spec.share(self.low), self.spec.share(self.high)
        return min(max((self.spec.share(value) - low) / (high - low), 0.0), 1.0) if high > low else 0.5

    def at(self, share: float) -> float:
        """The value that lies there, with as many decimals as the dial has."""
        if abs(share - self.share(self.start)) < 1e-6:
            return self.start
        low, high = self.spec.share(self.low), self.spec.share(self.high)
        value = self.spec.at(low + share * (high - low))
        return self.spec.held(float(round(value, 0 if self.spec.whole else self.spec.decimals)))

    def moved(self, value: float) -> str:
        """How far a value has gone from the start: ``1.08 → 1.25``; empty if it has not."""
        return self.spec.moved(self.start, value)


@dataclass(frozen=True, eq=False)
class Look:
    """One grid of prints, and what was taken of it."""

    points: Array  # (side * side, n) shares, row by row; the best so far is in the middle
    guesses: Array  # what may be meant, before it was chosen from
    taken: int | None = None

    @property
    def middle(self) -> int:
        """The place of the best so far."""
        return len(self.points) // 2

    @property
    def best(self) -> Array:
        """The shares of what was taken, or of what was the best before."""
        return self.points[self.middle if self.taken is None else self.taken]


@dataclass(frozen=True, eq=False)
class Seek:
    """A search as it stands; every step gives another one. The same choices give the same prints."""

    base: Script
    dials: tuple[Sought, ...]
    appearance: Appearance
    side: int
    looks: tuple[Look, ...] = ()  # those chosen from; the last may be open
    locked: frozenset[int] = frozenset()  # dials that stay where the best so far has them
    judged: tuple[Choice, ...] = field(default=())  # what was chosen elsewhere, as in pairs judged blind

    @classmethod
    def begun(
        cls,
        base: Script,
        dials: Sequence[Sought],
        appearance: Appearance | None = None,
        side: int = 3,
        judged: Iterable[Choice] = (),
    ) -> Seek:
        """With its first look. Raises ScriptError if there are too few dials, or too many."""
        if not LEAST <= len(dials) <= MOST:
            raise ScriptError(
                tr("seeking takes {least} to {most} values, not {count}", least=LEAST, most=MOST, count=len(dials))
            )
        if side not in SIDES:
            raise ValueError(tr("a grid is {a} or {b} prints wide, not {side}", a=SIDES[0], b=SIDES[1], side=side))
        bare = cls(base, tuple(dials), appearance or Appearance.plain(len(dials)), side, judged=tuple(judged))
        guesses = unknown(len(dials), bare._dice())
        if bare.judged:
            guesses = learned(guesses, bare.judged, bare.appearance, bare._dice(1), len(bare.judged))
        return bare._shown(start_of(dials), guesses)

    # What there is

    @property
    def now(self) -> Look:
        """What is to be chosen from."""
        return self.looks[-1]

    @property
    def best(self) -> Array:
        """The shares of the best so far."""
        return self.now.best

    @property
    def left(self) -> float:
        """How far the best so far is from what may be meant, in CIEDE2000 and as far as the choices tell."""
        return float(apart(self.appearance(self.best[None]), self.appearance(self.now.guesses)).mean())

    @property
    def count(self) -> int:
        """How many looks were chosen from."""
        return len(self.looks) - 1

    def values(self, shares: Array) -> tuple[float, ...]:
        """The dials' values there."""
        return tuple(sought.at(float(share)) for sought, share in zip(self.dials, shares, strict=True))

    def script(self, shares: Array) -> Script:
        """The print there."""
        return script_at(self.base, self.dials, shares)

    def scripts(self) -> list[Script]:
        """The prints to choose from, row by row."""
        return [self.script(point) for point in self.now.points]

    def moved(self) -> tuple[str, ...]:
        """How far each dial of the best so far has gone from the start; empty where it has not."""
        values = self.values(self.best)
        return tuple(sought.moved(value) for sought, value in zip(self.dials, values, strict=True))

    # What is done

    def choose(self, which: int) -> Seek:
        """One of the prints was taken; the middle one: nothing is better."""
        if not 0 <= which < len(self.now.points):
            raise IndexError(which)
        taken = replace(self.now, taken=which)
        told = replace(self, looks=(*self.looks[:-1], taken))
        choices = (*self.judged, *(Choice(look.points, look.taken) for look in told.looks if look.taken is not None))
        guesses = learned(taken.guesses, choices, self.appearance, told._dice(1))
        return told._shown(taken.best, guesses)

    def back(self, to: int | None = None) -> Seek:
        """As it was before look ``to`` (0: the first) was chosen from; None: one look back."""
        at = self.count - 1 if to is None else to
        if not 0 <= at <= self.count:
            return self
        return replace(self, looks=(*self.looks[:at], replace(self.looks[at], taken=None)))

    def lock(self, dials: Iterable[int]) -> Seek:
        """These dials stay as the best so far has them; the prints to choose from are others then."""
        told = replace(self, locked=frozenset(dials), looks=self.looks[:-1])
        return told._shown(self.best, self.now.guesses)

    def wide(self, side: int) -> Seek:
        """With another number of prints each way."""
        told = replace(self, side=side, looks=self.looks[:-1])
        return told._shown(self.best, self.now.guesses)

    def _shown(self, best: Array, guesses: Array) -> Seek:
        free = np.array([k not in self.locked for k in range(len(self.dials))])
        points = next_plane(best, guesses, self.appearance, self.side, self._dice(2), free)
        return replace(self, looks=(*self.looks, Look(points, guesses)))

    def _dice(self, salt: int = 0) -> np.random.Generator:
        """From the script and what was chosen, and nothing else."""
        way = [look.taken for look in self.looks if look.taken is not None]
        return np.random.default_rng([seed_of(self.base, self.dials), salt, *way])


def start_of(dials: Sequence[Sought]) -> Array:
    """The shares that a search begins at."""
    return np.array([sought.share(sought.start) for sought in dials])


def script_at(base: Script, dials: Sequence[Sought], shares: Array) -> Script:
    """A script with the values that lie at shares ``(n,)``; a dial that is where it was stays untouched."""
    for sought, share in zip(dials, shares, strict=True):
        value = sought.at(float(share))
        if value != sought.start:
            base = sought.dial.put(base, value)
    return base


def shares_of(base: Script, dials: Sequence[Sought], script: Script) -> Array | None:
    """Where a print lies; None if it is another one in something else than the dials, or beyond their ends."""
    values = []
    for sought in dials:
        if sought.dial.spec(script) is None:
            return None
        values.append(sought.dial.value(script))
        if not sought.low <= values[-1] <= sought.high:
            return None
        base = sought.dial.put(base, values[-1])
    if not same_print(base, script):
        return None
    return np.array([sought.share(value) for sought, value in zip(dials, values, strict=True)])


def choices(base: Script, dials: Sequence[Sought], pairs: Iterable[tuple[Script, Script]]) -> tuple[Choice, ...]:
    """Pairs of prints that were judged, the better first, as far as they differ in nothing but the dials."""
    found = []
    for better, worse in pairs:
        places = shares_of(base, dials, better), shares_of(base, dials, worse)
        if places[0] is not None and places[1] is not None:
            found.append(Choice(np.stack([places[0], places[1]]), 0))
    return tuple(found)


def seed_of(base: Script, dials: Sequence[Sought]) -> int:
    """A number for the dice, from what the script does and the dials; not from the identities of its passes."""
    places = {step.id: k for k, step in enumerate(walk(base.passes))}
    told = [
        (sought.dial.of, places.get(sought.dial.step), sought.dial.name, sought.low, sought.high) for sought in dials
    ]
    text = f"{to_json(replace(base, sheets=(), states=(), origin=0), identities=False)}{told}"
    return int.from_bytes(hashlib.blake2b(text.encode(), digest_size=8).digest(), "big")


def to_learn(base: Script, dials: Sequence[Sought]) -> Array:
    """The shares ``(m, n)`` whose small prints an `Appearance` is learned from."""
    return trials(start_of(dials), seed_of(base, dials) % 2**32)
