"""Where a value of a script stands, in one way for all who name, read, change or compare values.

In words: ``levels.gamma``, the second levels ``levels.2.gamma``, within a plate ``plate.soften.radius``, of a stencil
``levels.stencil.feather``, ``frame.tilt``, ``develop.exposure``. In the program a pass is told by its identity, so that
an address holds while passes come, go and move.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

from kyanoscript.core import passes
from kyanoscript.core.params.declared import Declared
from kyanoscript.core.params.kinds import Param
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import ScriptError, nearest, read
from kyanoscript.core.script.data import Script
from kyanoscript.core.script.json import RENAMES, pass_from_json, pass_to_json
from kyanoscript.core.script.walk import mapped, walk
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import tr

Of = Literal["pass", "stencil", "frame", "develop"]
FIXED: tuple[Of, ...] = ("frame", "develop")
TITLES = {"frame": "Frame", "develop": "Development"}


@dataclass(frozen=True)
class Address:
    """One value: of a pass or its stencil, told by the pass's identity; of the frame; of a raw's development."""

    of: Of
    name: str
    step: str = ""  # the pass's identity

    def thing(self, script: Script) -> Declared | None:
        """What has it; None if that is not there (any more)."""
        if self.of in FIXED:
            found: Declared = getattr(script, self.of)
            return found
        step = self._step(script)
        if self.of == "pass" or step is None:
            return step
        return dict(script.stencils).get(step.stencil) if isinstance(step.stencil, str) else step.stencil

    def param(self, script: Script) -> Param | None:
        """What is known of it; None if there is no such value."""
        thing = self.thing(script)
        return thing.params().get(self.name) if thing is not None else None

    def get(self, script: Script) -> Any:
        """As it is now."""
        return getattr(self.thing(script), self.name)

    def put(self, script: Script, value: Any) -> Script:
        """The script with just this value; the same script where nothing has it."""
        thing = self.thing(script)
        if thing is None or self.name not in type(thing).model_fields:
            return script
        return self.with_thing(script, thing.model_copy(update={self.name: value}))

    def put_plain(self, script: Script, value: Any, where: str) -> Script:
        """With a value that is plain data, as JSON has it. Raises ScriptError; ``where``: what it stands in."""
        thing = self.thing(script)
        if isinstance(thing, Pass):
            return self.with_thing(script, pass_from_json({**pass_to_json(thing), self.name: value}, where))
        assert thing is not None
        return self.with_thing(script, read(type(thing), {**thing.plain(), self.name: value}, where))

    def with_thing(self, script: Script, changed: Declared) -> Script:
        """The script with another thing in the place of the one that has the value."""
        if self.of in FIXED:
            fixed: Any = {self.of: changed}
            return replace(script, **fixed)
        new: Any = changed
        if isinstance(changed, Stencil):
            step = self._step(script)
            assert step is not None
            if isinstance(step.stencil, str):
                named = tuple((name, changed if name == step.stencil else other) for name, other in script.stencils)
                return replace(script, stencils=named)
            new = step.model_copy(update={"stencil": changed})
        return replace(script, passes=mapped(script.passes, lambda step: new if step.id == self.step else step))

    def words(self, script: Script) -> str:
        """What it is called: ``Levels · Middle``."""
        thing, param = self.thing(script), self.param(script)
        label = param.label if param is not None else self.name
        if self.of == "pass" and isinstance(thing, Pass):
            group = f"{param.group}: " if param is not None and param.group != _first_group(thing, param) else ""
            return f"{thing.title} · {group}{label}"
        if self.of == "stencil":
            step = self._step(script)
            return tr("{step} · Stencil: {label}", step=step.title if step is not None else "", label=label.lower())
        return f"{TITLES[self.of]} · {label}"

    def _step(self, script: Script) -> Pass | None:
        return next((step for step in walk(script.passes) if step.id == self.step), None)


def _first_group(thing: Declared, param: Param) -> str:
    """Of those values that have the same label, the group of the first."""
    return next(other.group for other in thing.params().values() if other.label == param.label)


def addressed(script: Script, words: str) -> Address:
    """The value that is told so; whether there is one of that name is not asked yet. Raises ScriptError."""
    *places, name = words.strip().split(".")
    if places in (["frame"], ["develop"]):
        return Address("frame" if places == ["frame"] else "develop", name)
    if not places or not name or not all(places):
        raise ScriptError(
            tr("{words} is no value of a script; write it as levels.gamma or levels.2.gamma", words=quoted(words))
        )
    stencil = places[-1] == "stencil" and len(places) > 1
    step = _named(script, places[:-1] if stencil else places, words)
    address = Address("stencil" if stencil else "pass", RENAMES.get((step.kind, name), name), step.id)
    if address.thing(script) is None:
        raise ScriptError(tr("{words}: {title} has no stencil", words=quoted(words), title=step.title))
    return address


def _named(script: Script, places: list[str], words: str) -> Pass:
    """The pass at the end of kinds, each with the number of its like or none: the first."""
    run, found, has = script.passes, None, "the script"
    for kind, which in _pairs(places, words):
        kind = RENAMES.get((kind, ""), kind)
        if passes.named(kind) is None:
            there = [*dict.fromkeys(step.kind for step in run), *passes.load_all(), *FIXED]
            raise ScriptError(
                tr(
                    "{words}: there is no pass {kind}{kind2}",
                    words=quoted(words),
                    kind=quoted(kind),
                    kind2=nearest(kind, there),
                )
            )
        alike = [step for step in run if step.kind == kind]
        if not 1 <= which <= len(alike):
            raise ScriptError(
                tr(
                    "{words}: {has} has {count} {kind}",
                    words=quoted(words),
                    has=has,
                    count=len(alike) or "no",
                    kind=kind,
                )
            )
        found = alike[which - 1]
        run, has = found.run, found.title
    assert found is not None
    return found


def _pairs(places: list[str], words: str) -> Iterator[tuple[str, int]]:
    """Kinds, each with its number."""
    left = list(places)
    while left:
        kind = left.pop(0)
        if kind.isdigit():
            raise ScriptError(
                tr("{words} is no value of a script; write it as levels.gamma or levels.2.gamma", words=quoted(words))
            )
        yield kind, int(left.pop(0)[:9]) if left and left[0].isdigit() else 1


def with_value(script: Script, words: str) -> Script:
    """The script with one value changed, told as ``levels.gamma=1.2``; the value is JSON, or a plain word.

    Raises ScriptError.
    """
    place, equals, written = words.partition("=")
    if not equals:
        raise ScriptError(
            tr("{words} cannot be set; write it as levels.gamma=1.2 or levels.2.gamma=1.2", words=quoted(words))
        )
    address = addressed(script, place)
    return address.put_plain(script, plain(written), _where(script, address))


def plain(written: str) -> Any:
    """What somebody wrote for a value: JSON, or a plain word."""
    try:
        return json.loads(written)
    except (ValueError, RecursionError):
        return written.strip()


def _where(script: Script, address: Address) -> str:
    """What a complaint says of the place, as it does of scripts that are read: ``pass 3, pass 1 of its run``."""
    if address.of in FIXED:
        return address.of
    return ", ".join(_way(script.passes, address.step)) + (": stencil" if address.of == "stencil" else "")


def _way(run: Iterable[Pass], word: str, of: str = "") -> list[str]:
    for k, step in enumerate(run):
        here = tr("pass {k}{of}", k=k + 1, of=of)
        if step.id == word:
            return [here]
        if inside := _way(step.run, word, " of its run"):
            return [here, *inside]
    return []
