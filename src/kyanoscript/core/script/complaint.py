"""What is wrong with plain data, in one clear line: which pass, which parameter, which value, what would be legal, and
the nearest name where a name is unknown."""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable
from typing import Any, TypeVar

from kyanoscript.core.params import Declared, Param
from kyanoscript.core.params.checks import Invalid, Wrong
from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr


class ScriptError(ValueError):
    """A script that cannot be read; the message is one line for people."""


D = TypeVar("D", bound=Declared)


def read(model: type[D], values: Any, where: str, kind: str = "") -> D:
    """Declared data from plain data. Raises ScriptError: name, value, legal range, nearest name."""
    start = f"{where}: {kind}" if kind else where
    if not isinstance(values, dict):
        raise ScriptError(
            tr("{start} is {values}; it must be names with their values", start=start, values=show(values))
        )
    known = (*model.params(), *model.tags)
    for name in values:
        if name not in known:
            raise ScriptError(
                tr(
                    "{start}{start2}{name} is unknown{nearest}",
                    start=start,
                    start2=_dot(start, start),
                    name=cut(name),
                    nearest=nearest(str(name), known),
                )
            )
    overlong = _overlong(model, values, start)
    if overlong:
        raise ScriptError(overlong)
    try:
        return model.read_plain(values)
    except Invalid as wrong:
        raise ScriptError(_complaint(model, values, wrong, start)) from None
    except RecursionError as wrong:
        raise ScriptError(tr("{start} cannot be read", start=start)) from wrong


def _overlong(model: type[Declared], values: dict[Any, Any], path: str) -> str:
    """What is wrong where a list is longer than it may be, before its entries are looked at; else nothing."""
    for name, spec in model.params().items():
        listed = values.get(name)
        if not isinstance(listed, list):
            continue
        most = model.model_fields[name].limits.longest
        here = f"{path}{_dot(path, path) if not path.endswith(')') else ' '}{name}"
        if most is not None and len(listed) > most:
            return tr("{here} is {listed}; it must be {spec}", here=here, listed=show(listed), spec=spec.range_text())
        kinds = spec.entries_of()
        for k, entry in enumerate(listed if len(kinds) == 1 else ()):
            if isinstance(entry, dict) and (
                found := _overlong(kinds[0], entry, tr("{here} (entry {k})", here=here, k=k + 1))
            ):
                return found
    return ""


def _complaint(model: type[Declared], values: Any, wrong: Invalid, start: str) -> str:
    """One clear line about the first thing that is wrong, however deep it lies."""
    wrongs = sorted(wrong.wrongs, key=lambda w: len(w.place), reverse=True)
    error = next((w for w in wrongs if w.kind == "unknown"), wrongs[0])
    path, spec, value = start, None, values
    inner: type[Declared] | None = model
    rest = list(error.place)
    while rest:
        part = rest.pop(0)
        if isinstance(part, int):
            value = value[part] if isinstance(value, list) and part < len(value) else value
            path += tr(" (entry {part})", part=part + 1)
            entries: tuple[type[Declared], ...] = spec.entries_of() if spec else ()
            tagged = {kind.model_fields["shape"].default: kind for kind in entries if kind.tags}
            inner = tagged.get(rest[0]) if rest else None
            if inner is not None:
                path += f" {rest.pop(0)}"
            elif len(entries) == 1:
                inner = entries[0]
            continue
        if inner is None or part not in inner.model_fields:
            if inner is not None and error.kind == "unknown":
                return tr(
                    "{path}{path2}{part} is unknown{nearest}",
                    path=path,
                    path2=_dot(path, start),
                    part=cut(part),
                    nearest=nearest(str(part), inner.model_fields),
                )
            continue
        path += f"{_dot(path, start)}{part}"
        spec = inner.params().get(str(part))
        value = value.get(part) if isinstance(value, dict) else value
        inner = spec.entries_of()[0] if spec is not None and spec.entries_of() and isinstance(value, dict) else None
    return f"{path}{_wrong(error, spec, value)}"


def _wrong(error: Wrong, spec: Param | None, value: Any) -> str:
    """What is wrong with the value at a place, and what would be legal."""
    legal = spec.range_text() if spec else "something else"
    if error.kind == "missing":
        return tr(" is missing; it must be {legal}", legal=legal)
    if error.kind == "shape":
        shapes = [entry.model_fields["shape"].default for entry in spec.entries_of()] if spec else []
        tag = value.get("shape") if isinstance(value, dict) else value
        return tr(" has the shape {tag}, which is unknown{nearest}", tag=show(tag), nearest=nearest(str(tag), shapes))
    return tr(
        " is {value}; it must be {legal}{spec}",
        value=show(value),
        legal=legal,
        spec=_near(spec.meant(), value) if spec else "",
    )


def _dot(path: str, start: str) -> str:
    """A dot between names, a space after an entry, a colon's place after the beginning."""
    if path == start:
        return "." if ":" in start or start in ("frame", "develop") else ": "
    return " " if path.endswith(")") else "."


_SHOWN = 500  # characters of a value: of a longer one the rest is not even written down


def show(value: Any) -> str:
    """A value as it was written, as much of it as can be read in one line."""
    try:
        said = ""
        for part in json.JSONEncoder(ensure_ascii=False, default=str).iterencode(value):
            said += part
            if len(said) > _SHOWN:
                break
        return cut(said)
    except (ValueError, RecursionError):
        return tr("a {name} too long to show", name=type(value).__name__)


def nearest(name: str, names: Iterable[str]) -> str:
    """``; did you mean 'x'?`` or the names there are."""
    names = list(names)
    return _near(names, name) or (
        tr("; there are {cut}", cut=cut(", ".join(names), 1000)) if names else "; there is none"
    )


def _near(names: Iterable[str], name: Any) -> str:
    close = difflib.get_close_matches(cut(name), [cut(known) for known in names], 1, 0.5)
    return tr("; did you mean {close!r}?", close=close[0]) if close else ""
