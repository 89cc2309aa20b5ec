"""How two scripts differ, in words, and each difference taken over by itself.

Runs are aligned by the identities of their passes, not by their places; others pair off if they are equal. Only two
runs that share none, as two recipes, are aligned by what their passes are. Law: the differences of A against B, taken
over by B in the order in which they are told, make it A.
"""

from __future__ import annotations

import difflib
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script.address import FIXED, TITLES, Address
from kyanoscript.core.script.data import Script
from kyanoscript.core.script.walk import mapped, walk
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import spoken, tr, trn

Run = tuple[Pass, ...]
Named = tuple[tuple[str, Stencil], ...]

_TOLD = 3  # values of a new pass that are told
_COUNTS = ("one", "two", "three", "four", "five", "six")


@dataclass(frozen=True)
class Difference:
    """One thing that a script has otherwise than another."""

    title: str  # of the pass, with those of the plates it lies in; or Frame, Development, Stencil
    words: str  # "strength 63 → 55 %", "is new: …", "comes before Levels"

    def onto(self, script: Script) -> Script:
        """The script with just this taken over; the same script where there is nothing that could take it."""
        raise NotImplementedError


@dataclass(frozen=True)
class _Fixed(Difference):
    """A value of the frame, or of how a raw is developed."""

    at: Address
    value: Any

    def onto(self, script: Script) -> Script:
        return self.at.put(script, self.value)


@dataclass(frozen=True)
class _NamedStencil(Difference):
    """A stencil that passes share by its name; None: it is gone."""

    name: str
    stencil: Stencil | None

    def onto(self, script: Script) -> Script:
        used = any(step.stencil == self.name for step in walk(script.passes))
        if self.stencil is None and used:  # whoever still uses it keeps it
            return script
        return replace(script, stencils=_with_named(script.stencils, ((self.name, self.stencil),)))


@dataclass(frozen=True)
class _Order(Difference):
    """The named stencils lie in another order: of no effect, but a script's files tell it."""

    names: tuple[str, ...]

    def onto(self, script: Script) -> Script:
        place = {name: k for k, name in enumerate(self.names)}
        return replace(
            script, stencils=tuple(sorted(script.stencils, key=lambda named: place.get(named[0], len(place))))
        )


@dataclass(frozen=True)
class _Value(Difference):
    """A value of a pass that both have."""

    ids: tuple[str, ...]  # of the pass, in the one script and the other
    name: str
    value: Any
    named: Named  # the stencils that it names

    def onto(self, script: Script) -> Script:
        at = (Address("pass", self.name, word) for word in self.ids)
        script = next((found.put(script, self.value) for found in at if found.thing(script) is not None), script)
        return replace(script, stencils=_with_named(script.stencils, self.named, missing=True))


@dataclass(frozen=True)
class _Gone(Difference):
    """A pass that only the other has."""

    id: str
    within: tuple[str, ...]  # of the plate that it lies in; () in the script's own run

    def onto(self, script: Script) -> Script:
        def take(run: Run) -> Run:
            return tuple(step for step in run if step.id != self.id)

        run = _in_run(script.passes, self.within, take)
        return script if run is None else replace(script, passes=run)


@dataclass(frozen=True)
class _There(Difference):
    """A pass that the other has not, or has elsewhere."""

    step: Pass
    ids: tuple[str, ...]  # of the pass
    within: tuple[str, ...]  # of the plate that it lies in, in the one script and the other; () in the script's own run
    before: tuple[tuple[str, ...], ...]  # of the passes before it there, the nearest first
    moved: bool
    named: Named

    def onto(self, script: Script) -> Script:
        found = next((step for word in self.ids if (step := _find(script.passes, word)) is not None), None)
        if self.moved and found is None:
            return script
        step = found if self.moved and found is not None else self.step
        left = script.passes
        for word in (*self.ids, *(inner.id for inner in walk((step,)))):  # what lies elsewhere now goes there
            left = _without(left, word)

        def put(run: Run) -> Run:
            places = {other.id: k for k, other in enumerate(run)}
            at = next((places[word] + 1 for words in self.before for word in words if word in places), 0)
            return (*run[:at], step, *run[at:])

        run = _in_run(left, self.within, put)
        if run is None:
            return script
        return replace(script, passes=run, stencils=_with_named(script.stencils, self.named, missing=True))


def differ(one: Script, other: Script) -> list[Difference]:
    """What ``one`` has otherwise than ``other``. Sheets and states are left out of account."""
    found: list[Difference] = []
    for of in FIXED:
        mine, yours = getattr(one, of), getattr(other, of)
        for name, spec in mine.params().items():
            before, after = getattr(yours, name), getattr(mine, name)
            if before != after:
                found.append(_Fixed(TITLES[of], spec.difference(before, after), Address(of, name), after))
    mine_named, yours_named = dict(one.stencils), dict(other.stencils)
    for name, stencil in one.stencils:
        if name not in yours_named:
            found.append(_NamedStencil(tr("Stencil “{name}”", name=name), "is new", name, stencil))
        elif stencil != yours_named[name]:
            words = stencils_differ(yours_named[name], stencil)
            found.append(_NamedStencil(tr("Stencil “{name}”", name=name), words, name, stencil))
    known = {step.id for step in walk(other.passes)}
    by_kind = not any(step.id in known for step in walk(one.passes))
    _runs(one.passes, other.passes, (), (), by_kind, mine_named, found)
    found += [
        _NamedStencil(tr("Stencil “{name}”", name=name), "is gone", name, None)
        for name in yours_named
        if name not in mine_named
    ]
    kept = [name for name in yours_named if name in mine_named]
    if [name for name in mine_named if name in yours_named] != kept or _mixed(list(mine_named), kept):
        found.append(_Order("Stencils", "lie in another order", tuple(mine_named)))
    return found


def same_print(one: Script, other: Script) -> bool:
    """Whether two scripts must give equal pixels: what acts in them is the same, whatever it is called."""
    return _acting(one) == _acting(other)


def _acting(script: Script) -> tuple[Any, ...]:
    bare = {"name": "", "note": ""}

    def acts(run: Run) -> Run:
        return tuple(
            step.model_copy(update={**bare, "run": acts(step.run), "stencil": _limiting(step.stencil)})
            for step in run
            if step.acts
        )

    return script.frame, script.develop, acts(script.settled().passes)


def _limiting(stencil: Stencil | str | None) -> Stencil | str | None:
    return stencil if isinstance(stencil, Stencil) and stencil.limits else None


def _mixed(mine: list[str], kept: list[str]) -> bool:
    """Whether new names stand between or before those that both have: they are taken over to the end."""
    return [name for name in mine if name in kept] + [name for name in mine if name not in kept] != mine


# Runs


def _runs(
    one: Run,
    other: Run,
    titles: tuple[str, ...],
    within: tuple[str, ...],
    by_kind: bool,
    named: dict[str, Stencil],
    found: list[Difference],
) -> None:
    """Gone, then new or elsewhere in the order of ``one``, then values; each plate's own run after the plate."""
    pairs = aligned(one, other, by_kind)
    partner = dict(pairs)
    for k, step in enumerate(other):
        if k not in partner.values():
            found.append(_Gone(_titled(titles, step), "is gone", step.id, within))
    stay = _rising([partner[k] for k in sorted(partner)])

    def words_of(k: int) -> tuple[str, ...]:
        both = (other[partner[k]].id, one[k].id) if k in partner else (one[k].id,)
        return tuple(dict.fromkeys(both))

    for k, step in enumerate(one):
        if k in partner and partner[k] in stay:
            continue
        before = tuple(words_of(j) for j in range(k - 1, -1, -1))
        if k in partner:
            words = (
                tr("comes after {title}", title=one[k - 1].title)
                if k
                else tr("comes before {title}", title=one[1].title)
            )
        else:
            words = _new(step)
        found.append(
            _There(_titled(titles, step), words, step, words_of(k), within, before, k in partner, _names(step, named))
        )
    for k, step in enumerate(one):
        if k in partner:
            _values(step, other[partner[k]], titles, words_of(k), named, found)
            inside = (*titles, step.title)
            _runs(step.run, other[partner[k]].run, inside, words_of(k), by_kind, named, found)


def _values(
    one: Pass,
    other: Pass,
    titles: tuple[str, ...],
    ids: tuple[str, ...],
    named: dict[str, Stencil],
    found: list[Difference],
) -> None:
    for name in type(one).model_fields:
        before, after = getattr(other, name), getattr(one, name)
        if name in ("id", "run") or before == after:
            continue
        names = _names(one, named) if name == "stencil" else ()
        found.append(_Value(_titled(titles, one), _said(one, name, before, after), ids, name, after, names))


def _said(step: Pass, name: str, before: Any, after: Any) -> str:
    """What has become of a value of a pass."""
    if name == "on":
        return "is switched on" if after else "is switched off"
    if name == "stencil" and isinstance(before, Stencil) and isinstance(after, Stencil):
        return stencils_differ(before, after)
    spec = step.params().get(name)
    if spec is None:  # "auto"
        return "takes values from the picture" if after else "has values of its own"
    namesakes = [other.group for other in step.params().values() if other.label == spec.label]
    group = f"{spec.group.lower()}: " if spec.group != namesakes[0] else ""
    return group + spec.difference(before, after)


def stencils_differ(before: Stencil, after: Stencil) -> str:
    """What has become of a stencil: parts more or fewer, or what is otherwise."""
    old, new = len(before.shapes), len(after.shapes)
    words = []
    shared = min(old, new)
    if before.shapes[:shared] == after.shapes[:shared] and old != new:
        which = after.shapes[old:] if new > old else before.shapes[new:]
        what = which[0].label.lower() if len({shape.label for shape in which}) == 1 else "part"
        many = abs(new - old)
        count = _COUNTS[many - 1] if many <= len(_COUNTS) else str(many)
        words.append(
            trn(
                "{count} {what} {new} on its stencil",
                "{count} {what}s {new} on its stencil",
                many,
                count=count,
                what=what,
                new="more" if new > old else "fewer",
            )
        )
    elif before.shapes != after.shapes:
        words.append("its stencil is drawn otherwise")
    for name, spec in Stencil.params().items():
        if name != "shapes" and getattr(before, name) != getattr(after, name):
            words.append(tr("its stencil's {spec}", spec=spec.difference(getattr(before, name), getattr(after, name))))
    return ", ".join(words)


def _new(step: Pass) -> str:
    """A pass that was not there before: its values that are not its own defaults."""
    told = []
    fields = type(step).model_fields
    for name, spec in step.params().items():
        value = getattr(step, name)
        if name in ("strength", "on", "name", "note", "run") or value == fields[name].default:
            continue
        told.append(f"{spoken(spec.label[:1].lower() + spec.label[1:])} {spec.says(value)}")
    more = [tr("{count} more", count=len(told) - _TOLD)] if len(told) > _TOLD else []
    at = "" if step.strength == 100 else tr("at {strength}", strength=step.number("strength").text(step.strength))
    words = ", ".join([*told[:_TOLD], *more]) if told else ""
    off = "switched off" if not step.on else ""
    rest = ", ".join(part for part in (words, at, off) if part)
    return tr("is new: {rest}", rest=rest) if rest else "is new"


def _titled(titles: Sequence[str], step: Pass) -> str:
    return " › ".join((*titles, step.title))


def aligned(one: Run, other: Run, by_kind: bool = False) -> list[tuple[int, int]]:
    """Places of the passes that two runs have in common: by identity; ``by_kind``: by what they are, in order."""
    if by_kind:
        matcher = difflib.SequenceMatcher(None, [s.kind for s in one], [s.kind for s in other], autojunk=False)
        return [(m.a + k, m.b + k) for m in matcher.get_matching_blocks() for k in range(m.size)]
    places = {step.id: k for k, step in enumerate(other)}
    found = [
        (k, places[step.id])
        for k, step in enumerate(one)
        if step.id in places and other[places[step.id]].kind == step.kind
    ]
    free = [k for k in range(len(other)) if k not in {b for _, b in found}]
    for k in sorted(set(range(len(one))) - {a for a, _ in found}):  # the same once more, made by hand
        same = next((j for j in free if other[j] == one[k]), None)
        if same is not None:
            free.remove(same)
            found.append((k, same))
    return sorted(found)


def _rising(places: list[int]) -> set[int]:
    """The longest part of a row of numbers that rises: what need not be moved."""
    best: list[list[int]] = [[]]
    for place in places:
        fits = [row for row in best if not row or row[-1] < place]
        best.append([*_longest(fits), place])
    return set(_longest(best))


def _longest(rows: list[list[int]]) -> list[int]:
    return max(rows, key=lambda row: len(row))


# Putting together


def _find(run: Iterable[Pass], word: str) -> Pass | None:
    return next((step for step in walk(run) if step.id == word), None)


def _in_run(run: Run, within: tuple[str, ...], change: Callable[[Run], Run]) -> Run | None:
    """A run with the own run of a plate changed, or itself for (); None if the plate is not there."""
    if not within:
        return change(run)
    plate = next((step for word in within if (step := _find(run, word)) is not None), None)
    if plate is None:
        return None
    word = plate.id
    return mapped(run, lambda s: s.model_copy(update={"run": change(s.run)}) if s.id == word else s)


def _without(run: Run, word: str) -> Run:
    left = tuple(step for step in run if step.id != word)
    return tuple(step.model_copy(update={"run": _without(step.run, word)}) if step.run else step for step in left)


def _names(step: Pass, named: dict[str, Stencil]) -> Named:
    """The named stencils that a pass, or one within it, uses."""
    used = dict.fromkeys(inner.stencil for inner in walk((step,)) if isinstance(inner.stencil, str))
    return tuple((name, named[name]) for name in used if name in named)


def _with_named(stencils: Named, changed: Iterable[tuple[str, Stencil | None]], missing: bool = False) -> Named:
    """Named stencils with others put in or, for None, taken out; ``missing``: only those that are not there."""
    found: dict[str, Stencil | None] = dict(stencils)
    for name, stencil in changed:
        if not (missing and name in found):
            found[name] = stencil
    return tuple((name, stencil) for name, stencil in found.items() if stencil is not None)
