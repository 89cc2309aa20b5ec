"""Every number of a script, wherever it stands, to be tried in steps: the test strip."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import Any

from kyanoscript.core.params.declared import Declared
from kyanoscript.core.params.kinds import Number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.address import Address, addressed
from kyanoscript.core.script.complaint import ScriptError, nearest
from kyanoscript.core.script.data import Script
from kyanoscript.core.script.walk import walk
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import tr

LEAST, MOST = 3, 15  # bands
FIELD = 7  # at most, each way, of two values at once
_CHANCE = "seed"  # a number that has no size


class Dial(Address):
    """The address of a number."""

    def spec(self, script: Script) -> Number | None:
        """What is known of it; None if there is no such number."""
        found = self.param(script)
        return found if isinstance(found, Number) else None

    def value(self, script: Script) -> float:
        """As it is now."""
        return float(self.get(script))

    def put(self, script: Script, value: float) -> Script:
        """The script with another value; a pass that takes it from the picture has values of its own then."""
        thing, spec = self.thing(script), self.spec(script)
        if thing is None or spec is None:
            return script
        values: dict[str, Any] = {self.name: spec.held(value)}
        if isinstance(thing, Pass) and thing.auto and self.name in thing.suggested():
            values["auto"] = False
        return self.with_thing(script, type(thing)(**{**dict(thing), **values}))


def dials(script: Script, raw: bool = False) -> list[Dial]:
    """Every number that can be tried, in the order of the run; ``raw``: those of a raw's development, too."""
    return list(_dials(script, raw))


def _dials(script: Script, raw: bool) -> Iterator[Dial]:
    for step in walk(script.passes):
        names = _numbers(step)
        yield from (Dial("pass", name, step.id) for name in sorted(names, key=lambda name: name == "strength"))
        if step.stencil is not None and Dial("stencil", "feather", step.id).thing(script) is not None:
            yield from (Dial("stencil", name, step.id) for name in _numbers(Stencil()))
    yield from (Dial("frame", name) for name in _numbers(script.frame) if name != "turns")
    if raw:
        yield from (Dial("develop", name) for name in _numbers(script.develop))


def _numbers(thing: Declared) -> list[str]:
    return [name for name, spec in thing.params().items() if isinstance(spec, Number) and name != _CHANCE]


def dial_named(script: Script, words: str) -> Dial:
    """The number that is told so (see `address`). Raises ScriptError."""
    found = addressed(script, words)
    dial = Dial(found.of, found.name, found.step)
    if dial.spec(script) is None:
        thing = found.thing(script)
        known = _numbers(thing) if thing is not None else []
        raise ScriptError(
            tr(
                "{words}: there is no number {name}{name2}",
                words=quoted(words),
                name=quoted(found.name),
                name2=nearest(found.name, known),
            )
        )
    return dial


def bands(spec: Number, value: float, low: float, high: float, count: int, eye: bool) -> tuple[float, ...]:
    """``count`` values from low to high, in equal steps or even to the eye, in order; the present one is among them.

    What cannot be told apart in the number's own decimals is one band.
    """
    low, high = min(low, high, value), max(low, high, value)
    low, high = spec.held(low), spec.held(high)
    count = min(max(count, LEAST), MOST)

    def at(k: int) -> float:
        share = k / (count - 1)
        if not eye:
            return low + share * (high - low)
        a, b = spec.share(low), spec.share(high)
        return spec.at(a + share * (b - a))

    digits = 0 if spec.whole else max(spec.decimals, _fine(low, high, count))
    found = [float(round(at(k), digits)) for k in range(count)]
    found[0], found[-1] = low, high
    near = min(range(count), key=lambda k: abs(spec.share(found[k]) - spec.share(value)))
    found[near] = value
    return tuple(dict.fromkeys(sorted(spec.held(v) for v in found)))


def _fine(low: float, high: float, count: int) -> int:
    """Decimals in which neighbouring bands differ."""
    step = (high - low) / (count - 1)
    return 0 if step <= 0 else max(0, math.ceil(1 - math.log10(step)))


def told(spec: Number, value: float, among: Sequence[float]) -> str:
    """A value in words, with as many decimals as tell it from its neighbours."""
    fine = spec
    while fine.decimals < 6 and len({fine.text(v) for v in among}) < len(set(among)):
        fine = replace(fine, decimals=fine.decimals + 1)
    return fine.text(value)


def around(spec: Number, value: float, count: int) -> tuple[float, float]:
    """Where a first strip of a value begins and ends."""
    steps = spec.steps(value, count)
    if len(steps) < 2:
        return spec.low, spec.high
    return float(steps[0]), float(steps[-1])


def narrowed(values: tuple[float, ...], at: int) -> tuple[float, float, int]:
    """From where to where, and in how many bands, one goes on: between the neighbours of a band, in half the steps."""
    low, high = values[max(0, at - 1)], values[min(len(values) - 1, at + 1)]
    return low, high, 5 if 0 < at < len(values) - 1 else 3


def span(words: str) -> tuple[float, float, int]:
    """``0.7..1.4/7``: from, to, and in how many bands. Raises ScriptError."""
    ends, slash, count = words.partition("/")
    low, dots, high = ends.partition("..")
    try:
        found = float(low), float(high), int(count) if slash else 7
    except ValueError:
        found = (math.nan, math.nan, 0)
    if not dots or not all(map(math.isfinite, found)) or not LEAST <= found[2] <= MOST:
        raise ScriptError(
            tr(
                "{words} is no row of values; write it as 0.7..1.4/7, with {least} to {most} bands",
                words=quoted(words),
                least=LEAST,
                most=MOST,
            )
        )
    return found
