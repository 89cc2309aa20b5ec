"""Every number of a script, wherever it stands, to be tried in steps: the test strip."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from kyanoscript.core.params.declared import Declared
from kyanoscript.core.params.kinds import Number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import ScriptError, nearest
from kyanoscript.core.script.data import Script
from kyanoscript.core.script.walk import mapped, walk
from kyanoscript.core.stencil.shapes import Stencil

Of = Literal["pass", "stencil", "frame", "develop"]
LEAST, MOST = 3, 15  # bands
FIELD = 7  # at most, each way, of two values at once
_CHANCE = "seed"  # a number that has no size


@dataclass(frozen=True)
class Dial:
    """One number: of a pass or its stencil, told by the pass's identity; of the frame; of a raw's development."""

    of: Of
    name: str
    step: str = ""  # the pass's identity

    def thing(self, script: Script) -> Declared | None:
        """What has it; None if that is not there (any more)."""
        if self.of in ("frame", "develop"):
            found: Declared = getattr(script, self.of)
            return found
        step = next((step for step in walk(script.passes) if step.id == self.step), None)
        if self.of == "pass" or step is None:
            return step
        return dict(script.stencils).get(step.stencil) if isinstance(step.stencil, str) else step.stencil

    def spec(self, script: Script) -> Number | None:
        """What is known of it."""
        thing = self.thing(script)
        spec = thing.params().get(self.name) if thing is not None else None
        return spec if isinstance(spec, Number) else None

    def value(self, script: Script) -> float:
        """As it is now."""
        return float(getattr(self.thing(script), self.name))

    def put(self, script: Script, value: float) -> Script:
        """The script with another value; a pass that takes it from the picture has values of its own then."""
        thing, spec = self.thing(script), self.spec(script)
        if thing is None or spec is None:
            return script
        values: dict[str, Any] = {self.name: spec.held(value)}
        if isinstance(thing, Pass) and thing.auto and self.name in thing.suggested():
            values["auto"] = False
        changed = type(thing)(**{**dict(thing), **values})
        if self.of in ("frame", "develop"):
            fixed: Any = {self.of: changed}
            return replace(script, **fixed)
        if isinstance(changed, Stencil):
            step = next(step for step in walk(script.passes) if step.id == self.step)
            if isinstance(step.stencil, str):
                named = tuple((n, changed if n == step.stencil else s) for n, s in script.stencils)
                return replace(script, stencils=named)
            changed = step.model_copy(update={"stencil": changed})
        run = mapped(script.passes, lambda step: changed if step.id == self.step else step)  # type: ignore[arg-type,return-value]
        return replace(script, passes=run)

    def words(self, script: Script) -> str:
        """What it is called: ``Levels · Middle``."""
        thing, spec = self.thing(script), self.spec(script)
        label = spec.label if spec is not None else self.name
        if self.of == "pass" and isinstance(thing, Pass):
            group = f"{spec.group}: " if spec is not None and spec.group != _first_group(thing, spec) else ""
            return f"{thing.title} · {group}{label}"
        if self.of == "stencil":
            step = next((step for step in walk(script.passes) if step.id == self.step), None)
            return f"{step.title if step is not None else ''} · Stencil: {label.lower()}"
        return f"{'Frame' if self.of == 'frame' else 'Development'} · {label}"


def _first_group(thing: Declared, spec: Number) -> str:
    """Of those numbers that have the same label, the group of the first."""
    return next(other.group for other in thing.params().values() if other.label == spec.label)


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
    """The number that is told as ``levels.gamma``, ``levels.2.gamma``, ``plate.soften.radius``, ``frame.tilt`` or
    ``levels.stencil.feather``. Raises ScriptError."""
    *places, name = words.strip().split(".")
    if places in (["frame"], ["develop"]):
        dial = Dial("frame" if places == ["frame"] else "develop", name)
    elif places:
        stencil = places[-1] == "stencil"
        step = _step(script, places[:-1] if stencil else places, words)
        dial = Dial("stencil" if stencil else "pass", name, step.id)
        if dial.thing(script) is None:
            raise ScriptError(f"{quoted(words)}: {step.title} has no stencil")
    else:
        raise ScriptError(f"{quoted(words)} is no number of a script; write it as levels.gamma or levels.2.gamma")
    thing = dial.thing(script)
    assert thing is not None
    if dial.spec(script) is None:
        known = _numbers(thing)
        raise ScriptError(f"{quoted(words)}: there is no number {quoted(name)}{nearest(name, known)}")
    return dial


def _step(script: Script, places: list[str], words: str) -> Pass:
    """The pass at the end of kinds, each with the number of its like or none: the first."""
    run, step, k = script.passes, None, 0
    while k < len(places):
        kind, which = places[k], 1
        if k + 1 < len(places) and places[k + 1].isdigit():
            which, k = int(places[k + 1]), k + 1
        found = [other for other in run if other.kind == kind]
        if not 1 <= which <= len(found):
            there = [other.kind for other in run]
            has = f"the run has {len(found) or 'no'} {kind}"
            raise ScriptError(f"{quoted(words)}: {has}{nearest(kind, there)}")
        step, k = found[which - 1], k + 1
        run = step.run
    assert step is not None
    return step


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
        raise ScriptError(f"{quoted(words)} is no row of values; write it as 0.7..1.4/7, with {LEAST} to {MOST} bands")
    return found
