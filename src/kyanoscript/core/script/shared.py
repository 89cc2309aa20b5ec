"""What several states of a script have in common within their passes: told once in its file, and one object in memory.

Shapes of stencils, strokes, dabs and marks are what makes a script long. An entry that stands in more than one list is
put on a shelf (``shared`` in the file, since version 4); lists name it as ``{"shared": [first, how many]}``.
"""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterable, Iterator
from typing import Any

from kyanoscript.core.params.declared import Declared
from kyanoscript.core.params.kinds import Listed
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script.complaint import ScriptError, read, show
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import tr

Data = dict[str, Any]
_MOST = 100_000  # entries of a list that names no bound of its own


def lists_of(model: type[Declared]) -> list[str]:
    """The parameters that are lists of entries."""
    return [name for name, spec in model.params().items() if isinstance(spec, Listed) and spec.entries]


class Shelf:
    """For writing: the entries that stand in several lists of some passes and stencils."""

    def __init__(self, scripts: Iterable[tuple[Iterable[Pass], Iterable[Stencil]]]) -> None:
        by_identity: Counter[int] = Counter()
        self._known: dict[int, tuple[Declared, str, Data]] = {}  # each held, so that its identity stays its own
        for passes, stencils in scripts:
            for entries in _lists(passes, stencils):
                by_identity.update(map(id, entries))
                if len(by_identity) > len(self._known):
                    for entry in entries:
                        self._told(entry)
        times: Counter[str] = Counter()
        for identity, count in by_identity.items():
            times[self._known[identity][1]] += count
        places = {text: k for k, text in enumerate(text for text, count in times.items() if count > 1)}
        self._texts = list(places)
        self._places = {identity: places.get(text, -1) for identity, (_, text, _) in self._known.items()}

    @property
    def entries(self) -> list[Data]:
        """What lies on it, in order."""
        return [json.loads(text) for text in self._texts]

    def told(self, entries: Iterable[Declared]) -> list[Data]:
        """A list as it is written."""
        made: list[Data] = []
        run: list[int] = []  # of the shelf: the first, and how many
        follows = -1
        for entry in entries:
            place = self._places.get(id(entry), -1)
            if place < 0:
                made.append(self._told(entry)[1])
                follows = -1
            elif place == follows:
                run[1] += 1
                follows += 1
            else:
                run, follows = [place, 1], place + 1
                made.append({"shared": run})
        return made

    def stencil(self, stencil: Stencil) -> Data:
        """A stencil as it is written."""
        return {"shapes": self.told(stencil.shapes), **stencil.plain(exclude={"shapes"})}

    def _told(self, entry: Declared) -> tuple[str, Data]:
        found = self._known.get(id(entry))
        if found is None:
            data = entry.plain()
            found = self._known[id(entry)] = (entry, json.dumps(data), data)
        return found[1:]


def _lists(passes: Iterable[Pass], stencils: Iterable[Stencil]) -> Iterator[tuple[Declared, ...]]:
    for stencil in stencils:
        yield stencil.shapes
    for step in passes:
        if isinstance(step.stencil, Stencil):
            yield step.stencil.shapes
        for name in lists_of(type(step)):
            yield getattr(step, name)
        yield from _lists(step.run, ())


class Told:
    """For reading: a file's shelf. Every entry is read once, and a list that is named twice is one object."""

    def __init__(self, entries: Any) -> None:
        if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
            raise ScriptError(
                tr("shared is {entries}; it must be a list of shapes, strokes, dabs and marks", entries=show(entries))
            )
        self._entries: list[Data] = entries
        self._read: dict[tuple[str, str], tuple[list[Any], bytearray]] = {}  # of the whole shelf, and which are there
        self._lists: dict[tuple[str, str], tuple[Any, ...]] = {}
        self._stencils: dict[str, Stencil] = {}

    def declared(self, model: type[Any], values: Any, where: str, kind: str = "") -> Any:
        """Declared data from plain data, as `complaint.read`, with what is shared put in its places."""
        if not self._entries or not isinstance(values, dict):
            return read(model, values, where, kind)
        given: Data = {}
        for name in lists_of(model):
            if _names_shared(values.get(name)):
                given[name] = self._list(model, name, values[name], where, kind)
        stencil = values.get("stencil")
        if model is not Stencil and isinstance(stencil, dict) and _names_shared(stencil.get("shapes")):
            given["stencil"] = self.stencil(stencil, where, kind)
        if not given:
            return read(model, values, where, kind)
        plain = {name: value for name, value in values.items() if name not in given}
        return read(model, plain, where, kind).model_copy(update=given)

    def stencil(self, values: Any, where: str, kind: str = "") -> Stencil:
        """A stencil; one that is told in the same words again is the same object."""
        words = json.dumps(values) if isinstance(values, dict) and _names_shared(values.get("shapes")) else ""
        if not words:
            made: Stencil = self.declared(Stencil, values, where, kind)
            return made
        if words not in self._stencils:
            self._stencils[words] = self.declared(Stencil, values, where, kind)
        return self._stencils[words]

    def _list(self, model: type[Declared], name: str, listed: list[Any], where: str, kind: str) -> tuple[Any, ...]:
        key = model.__name__, name + json.dumps(listed)
        if key not in self._lists:
            own = [entry for entry in listed if not _is_shared(entry)]
            inline = iter(getattr(read(model, {name: own}, where, kind), name))
            most, made = model.model_fields[name].limits.longest or _MOST, list[Any]()
            for entry in listed:
                made += self._run(model, name, entry, where, kind) if _is_shared(entry) else [next(inline)]
                if len(made) > most:
                    raise ScriptError(
                        tr("{where}: {name} has more than {most} entries", where=where, name=name, most=most)
                    )
            self._lists[key] = tuple(made)
        return self._lists[key]

    def _run(self, model: type[Declared], name: str, told: Any, where: str, kind: str) -> list[Any]:
        named = told["shared"]
        if not (
            isinstance(named, list)
            and len(named) == 2
            and all(type(number) is int for number in named)
            and 0 <= named[0] <= named[0] + named[1] <= len(self._entries)
        ):
            raise ScriptError(
                tr(
                    "{where}: {name} names shared entries that are not there: {named}",
                    where=where,
                    name=name,
                    named=show(named),
                )
            )
        first, last = named[0], named[0] + named[1]
        key = model.__name__, name
        if key not in self._read:
            self._read[key] = [None] * len(self._entries), bytearray(len(self._entries))
        made, there = self._read[key]
        missing = [k for k in range(first, last) if not there[k]] if 0 in there[first:last] else []
        if missing:
            found = getattr(read(model, {name: [self._entries[k] for k in missing]}, where, kind), name)
            for k, entry in zip(missing, found, strict=True):
                made[k], there[k] = entry, 1
        return made[first:last]


def _is_shared(entry: Any) -> bool:
    return isinstance(entry, dict) and "shared" in entry


def _names_shared(listed: Any) -> bool:
    return isinstance(listed, list) and any(map(_is_shared, listed))
