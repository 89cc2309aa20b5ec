"""Plates for a press as it is: its dots spread, light spreads in its paper, and it takes only so much ink.

The inks say what share of the paper each is to cover if ink were only there or not. From that each ink's share on the
press is reckoned by itself, so that it takes as much light; then all are moved, as little as it needs, until together
they print the colours that are wanted (see `passes.covers`).
"""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.paper.presses import GAINS, PRESSES
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes.apart import Apart
from kyanoscript.core.passes.covers import (
    TURNS,
    Array,
    Model,
    Wish,
    bounded,
    found,
    held_back,
    straightened,
    turned,
    turns,
)
from kyanoscript.translation import tr

_TONES = 129  # at which coverages are looked for
_CALM, _KEPT = 4.0, 0.5  # what changes of a curve cost: see `Wish`
_LUMA = np.array([0.2126, 0.7152, 0.0722])  # of linear light (ITU-R BT.709)


@dataclass(frozen=True)
class Press:
    """What becomes of ink on its way to the paper."""

    gains: tuple[float, ...] = (0.0,) * 4  # of each ink: how much more than half a half tone prints, per cent
    n: float = 1.0  # Yule and Nielsen's factor: 1 where light does not spread in the paper
    most: float = 400.0  # ink on one place, all together, per cent

    @property
    def plain(self) -> bool:
        """Ink is there or not, and nothing else happens to it."""
        return self.n == 1 and not any(self.gains)

    def model(self, apart: Apart) -> Model:
        """What some inks print on it."""
        light = [colour.to_light(np.array(colour.parse_hex(text))) for text in (apart.paper, *apart.inks)]
        return Model(light[0], np.stack(light[1:]), np.array(self.gains[: len(apart.inks)]) / 100, self.n)


PLAIN = Press()  # ink that does not spread, as much as one likes


def press_of(sheet: Sheet) -> Press:
    """A sheet's."""
    plates = sheet.plates
    return Press((plates.gain_1, plates.gain_2, plates.gain_3, plates.gain_4), plates.yule_nielsen, plates.most_ink)


def usual(stock: str) -> tuple[str, Press]:
    """What a press does as is usual on a kind of paper, with its name."""
    found = PRESSES.get(stock, PRESSES["cotton"])
    return found.label, Press((found.gain,) * len(GAINS), found.n, found.most)


@dataclass(frozen=True, eq=False)
class Reckoned:
    """Plates for a press."""

    apart: Apart  # what they cover
    before: tuple[float, float]  # how far off plates for ink that does not spread would be: L* on average, at most
    left: tuple[float, float]  # how far off these are

    @property
    def gained(self) -> str:
        """What is gained by reckoning, in words; empty where it is little."""
        if self.before[1] < 1:
            return ""
        return tr(
            "reckoned for this press; for ink that does not spread they would print up to "
            "{before:.1f} L* off, {before2:.1f} on average",
            before=self.before[1],
            before2=self.before[0],
        )

    @property
    def short(self) -> str:
        """What is not reached, in words; empty where it is little."""
        if self.left[1] < 1:
            return ""
        return tr(
            "on this press, with so much ink at most, the plates print up to {left:.1f} L* off", left=self.left[1]
        )


def untouched(apart: Apart, press: Press) -> bool:
    """Whether plates are what the inks say, and nothing has to be reckoned."""
    return press.plain and bool(apart.coverage.sum(axis=0).max() <= press.most / 100 + 1e-9)


def off_on(apart: Apart, press: Press) -> tuple[float, float]:
    """How far off the print plates for ink that does not spread come on a press: L* on average, at most."""
    covers = apart.coverage.T[:: (len(apart.coverage.T) - 1) // (_TONES - 1)]
    return _off(press.model(apart).printed(covers), PLAIN.model(apart).printed(covers))


@functools.lru_cache(maxsize=32)
def reckoned(apart: Apart, press: Press) -> Reckoned:
    """The plates of some inks for a press."""
    model, most, before = press.model(apart), press.most / 100, off_on(apart, press)
    if untouched(apart, press):
        return Reckoned(apart, before, before)
    wanted = PLAIN.model(apart).printed(apart.coverage.T)
    each = zip(apart.coverage, model.inks, model.gains, strict=True)
    alone = np.stack([_alone(covers, ink, gain, press.n) for covers, ink, gain in each], axis=1)
    every = np.linspace(0, 1, len(alone))
    some = slice(None, None, (len(alone) - 1) // (_TONES - 1))
    near = alone[some]
    wish = Wish(calm=_CALM, kept=_KEPT, near=near, most=most)
    made = found(wanted[some].T, model, bounded(near, most), wish)
    ways = np.stack([turned(one)[1] if turns(own) <= TURNS else _ways(own)
                     for one, own in zip(made.T, near.T, strict=True)], axis=1)  # fmt: skip
    made = bounded(np.stack([straightened(one, way) for one, way in zip(made.T, ways.T, strict=True)], axis=1), most)
    within = bool(alone.sum(axis=1).max() <= most)  # then what lies between the tones stays as fine as it is
    moved = [np.interp(every, every[some], part) for part in (made - near if within else made).T]
    covers = bounded(np.clip(np.stack(moved, axis=1) + alone * within, 0, 1), most)
    if _off(model.printed(covers), wanted)[1] > _off(model.printed(bounded(alone, most)), wanted)[1]:
        covers = bounded(alone, most)
    return Reckoned(replace(apart, coverage=covers.T), before, _off(model.printed(covers), wanted))


def _alone(covers: Array, ink: Array, gain: float, n: float) -> Array:
    """Coverage on a press where an ink alone takes as much light as it would cover otherwise."""
    passed = float(_LUMA @ ink)
    if n != 1 and passed < 1 - 1e-6:
        covers = (1 - (1 - covers * (1 - passed)) ** (1 / n)) / (1 - passed ** (1 / n))
    return held_back(np.clip(covers, 0, 1), gain)


def _ways(cover: Array) -> Array:
    """Which way a coverage goes at every step; where it stays, as before."""
    ways = np.sign(np.diff(cover))
    for k in range(1, len(ways)):
        ways[k] = ways[k] or ways[k - 1]
    return np.where(ways == 0, 1.0, ways)


def _off(made: Array, wanted: Array) -> tuple[float, float]:
    """L* between two prints ``(tones, 3)``: on average, at most."""
    off = np.abs(colour.lightness(np.clip(made, 0, 1).T, SRGB) - colour.lightness(np.clip(wanted, 0, 1).T, SRGB))
    return float(off.mean()), float(off.max())
