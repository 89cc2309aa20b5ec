"""The script: everything done to a photograph, as frozen data, and its JSON form.

Reading is forgiving in one way only: a parameter that is not given has its default. Everything else that is wrong is
one clear line: which pass, which parameter, which value, what would be legal, and the nearest name where a name is
unknown.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

from pydantic import ValidationError

from kyanoscript.core import passes
from kyanoscript.core.frame import Frame
from kyanoscript.core.params import Declared, Param
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.quoting import cut, quoted
from kyanoscript.core.stencil.shapes import Stencil

VERSION = 1
MOST_PASSES = 1000  # that act, plates' own passes counted; an easel with more of them would not answer

# Names that older scripts use: (pass, old parameter) -> new parameter; (old pass, "") -> new pass. Only ever added to.
RENAMES: dict[tuple[str, str], str] = {}


class ScriptError(ValueError):
    """A script that cannot be read; the message is one line for people."""


@dataclass(frozen=True)
class Script:
    """The frame, then the passes in the order in which the print travels through them.

    A pass's stencil may be the name of one of ``stencils``, which several passes then share.
    """

    passes: tuple[Pass, ...] = field(default=())
    frame: Frame = field(default=Frame())
    stencils: tuple[tuple[str, Stencil], ...] = field(default=())

    def settled(self) -> Script:
        """The script with every named stencil put in its place."""
        return replace(self, passes=_named(self.passes, dict(self.stencils))) if self.stencils else self

    def run(self, path: tuple[int, ...] = ()) -> tuple[Pass, ...]:
        """The passes of a plate's own run; ``path`` are the places of the plates on the way there, outermost first."""
        run = self.passes
        for k in path:
            run = getattr(run[k], "run", ())
        return run

    def with_run(self, path: tuple[int, ...], passes_: Iterable[Pass]) -> Script:
        """The script with other passes in a plate's own run."""
        made = tuple(passes_)
        for depth in range(len(path) - 1, -1, -1):
            outer, k = self.run(path[:depth]), path[depth]
            made = (*outer[:k], outer[k].model_copy(update={"run": made}), *outer[k + 1 :])
        return replace(self, passes=made)

    def unrolled(self, path: tuple[int, ...]) -> tuple[Script, int]:
        """A script whose last passes are those of a plate's own run, on what the plate starts from; where they begin.

        What enters a pass of the plate's run is what enters that pass here.
        """
        before: tuple[Pass, ...] = ()
        run = self.passes
        for k in path:
            plate = run[k]
            source = getattr(plate, "source", "print")
            if source == "photo":
                before = ()
            elif source == "print":
                before = (*before, *run[:k])
            else:
                bare = {"run": (), "strength": 100.0, "blend": "normal", "stencil": None, "on": True}
                before = (*before, *run[:k], plate.model_copy(update=bare))
            run = getattr(plate, "run", ())
        return replace(self, passes=(*before, *run)), len(before)

    @property
    def ending(self) -> Pass | None:
        """The pass whose findings are shown instead of a print, if there is one."""
        return next((one for one in self.passes if one.acts and one.ends), None)

    def with_pass(self, index: int, changed: Pass) -> Script:
        """The script with the pass at ``index`` replaced."""
        return replace(self, passes=(*self.passes[:index], changed, *self.passes[index + 1 :]))

    def inserted(self, index: int, added: Iterable[Pass]) -> Script:
        """The script with passes put in before ``index``."""
        return replace(self, passes=(*self.passes[:index], *added, *self.passes[index:]))

    def without(self, index: int) -> Script:
        """The script with the pass at ``index`` taken out."""
        return replace(self, passes=(*self.passes[:index], *self.passes[index + 1 :]))


def _named(run: tuple[Pass, ...], stencils: dict[str, Stencil]) -> tuple[Pass, ...]:
    found = []
    for one in run:
        changed: dict[str, Any] = {}
        if isinstance(one.stencil, str):
            changed["stencil"] = stencils.get(one.stencil)
        inner = getattr(one, "run", ())
        if inner:
            changed["run"] = _named(inner, stencils)
        found.append(one.model_copy(update=changed) if changed else one)
    return tuple(found)


def first_change(old: Script, new: Script) -> int:
    """Index of the first pass that differs (-1: the frame); the shorter length if one only goes on."""
    if old.frame != new.frame:
        return -1
    before, after = old.settled(), new.settled()
    for k, (a, b) in enumerate(zip(before.passes, after.passes, strict=False)):
        if a != b:
            return k
    return min(len(old.passes), len(new.passes))


def to_json(script: Script) -> dict[str, Any]:
    """The script as plain data; every value is written, so that a later change of a default changes no print."""
    data: dict[str, Any] = {"kyanoscript": VERSION}
    if script.frame != Frame():
        data["frame"] = script.frame.model_dump(mode="json")
    if script.stencils:
        data["stencils"] = {name: stencil.model_dump(mode="json") for name, stencil in script.stencils}
    return {**data, "passes": [pass_to_json(p) for p in script.passes]}


def pass_to_json(one: Pass) -> dict[str, Any]:
    """One pass as plain data: its name, its own parameters, then what every pass has."""
    values = one.model_dump(mode="json")
    for name, spec in one.params().items():
        if spec.kind == "run":
            values[name] = [pass_to_json(inner) for inner in getattr(one, name)]
    common = {name: values.pop(name) for name in passes.base.COMMON}
    for name, nothing in (("stencil", None), ("name", ""), ("note", "")):
        if common[name] == nothing:
            del common[name]
    return {"pass": one.kind, **values, **common}


def dumps(script: Script) -> str:
    """The script as JSON text."""
    return json.dumps(to_json(script), indent=2, ensure_ascii=False) + "\n"


def loads(text: str | bytes) -> Script:
    """The script in JSON text. Raises ScriptError with one clear line."""
    try:
        data = json.loads(text)
    except json.JSONDecodeError as wrong:
        place = f"line {wrong.lineno}, column {wrong.colno}"
        raise ScriptError(f"this is not a script: the JSON cannot be read from {place} on") from wrong
    except (ValueError, RecursionError) as wrong:  # no text, a number of thousands of digits, too deep
        raise ScriptError("this is not a script: the JSON cannot be read") from wrong
    return from_json(data)


def from_json(data: Any) -> Script:
    """The script in plain data. Raises ScriptError with one clear line."""
    if not isinstance(data, dict) or "kyanoscript" not in data:
        raise ScriptError('this is not a script: it needs {"kyanoscript": 1, "passes": [...]}')
    version = data["kyanoscript"]
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ScriptError(f"kyanoscript is {_show(version)}; it must be the version of the script, 1…{VERSION}")
    if version > VERSION:
        raise ScriptError(
            f"the script was written by a newer Kyanoscript (version {version}); this one reads up to {VERSION}"
        )
    if "recipe" in data:
        raise ScriptError("this is a recipe, not a script: import it in the Recipes view")
    for key in data:
        if key not in _ENTRIES:
            raise ScriptError(f"the script has an unknown entry {quoted(key)}{nearest(key, _ENTRIES)}")
    listed = data.get("passes", [])
    if not isinstance(listed, list):
        raise ScriptError(f"passes is {_show(listed)}; it must be a list of passes")
    _check_length(listed)
    frame = data.get("frame", {})
    if not isinstance(frame, dict):
        raise ScriptError(f'frame is {_show(frame)}; it must be like {{"ratio": "3:2"}}')
    named = data.get("stencils", {})
    if not isinstance(named, dict):
        raise ScriptError(f"stencils is {_show(named)}; it must be names with their stencils")
    stencils = tuple((str(name), _read(Stencil, one, f"stencil {quoted(name)}")) for name, one in named.items())
    run = tuple(pass_from_json(entry, f"pass {k + 1}") for k, entry in enumerate(listed))
    for k, one in enumerate(run):
        _check_names(one, f"pass {k + 1}", list(named))
    return Script(run, _read(Frame, frame, "frame"), stencils)


def with_value(script: Script, words: str) -> Script:
    """The script with one value changed, told as ``pass.name=value``.

    ``levels.gamma=1.2`` means the first levels, ``levels.2.gamma=1.2`` the second, ``frame.tilt=3`` the frame; the
    value is JSON, or a plain word. Raises ScriptError.
    """
    place, equals, written = words.partition("=")
    parts = place.strip().split(".")
    if not equals or len(parts) not in (2, 3) or (len(parts) == 3 and not parts[1].isdigit()):
        raise ScriptError(f"{quoted(words)} cannot be set; write it as levels.gamma=1.2 or levels.2.gamma=1.2")
    try:
        value = json.loads(written)
    except (ValueError, RecursionError):
        value = written.strip()
    kind, name = parts[0], parts[-1]
    if kind == "frame":
        return replace(script, frame=_read(Frame, {**script.frame.model_dump(mode="json"), name: value}, "frame"))
    known = passes.load_all()
    kind = RENAMES.get((kind, ""), kind)
    if kind not in known:
        raise ScriptError(f"{quoted(words)}: there is no pass {quoted(kind)}{nearest(kind, [*known, 'frame'])}")
    which = int(parts[1]) if len(parts) == 3 else 1
    found = [k for k, one in enumerate(script.passes) if one.kind == kind]
    if not 1 <= which <= len(found):
        raise ScriptError(f"{quoted(words)}: the script has {len(found) or 'no'} {kind}")
    k = found[which - 1]
    changed = pass_from_json({**pass_to_json(script.passes[k]), name: value}, f"pass {k + 1}")
    return script.with_pass(k, changed)


def acting(script: Script) -> int:
    """How many of its passes act, those of plates counted."""

    def count(run: Iterable[Pass]) -> int:
        return sum(1 + count(getattr(one, "run", ())) for one in run if one.acts)

    return count(script.passes)


def pictures_of(script: Script) -> list[str]:
    """The names of all pictures in it, whether their passes act or not."""
    found: dict[str, None] = {}

    def look(run: Iterable[Pass]) -> None:
        for one in run:
            for name, spec in one.params().items():
                if spec.unit in ("file", "model") and getattr(one, name):
                    found[getattr(one, name)] = None
            look(getattr(one, "run", ()))

    look(script.passes)
    return list(found)


def _check_length(listed: list[Any]) -> None:
    """Before anything is read closely: a script that is too long is refused at once, however it is nested."""
    total, found, rest = 0, 0, [(listed, 0)]
    while rest:
        run, depth = rest.pop()
        total += len(run)
        for one in run if total <= _MOST_IN_ALL else ():
            if isinstance(one, dict):
                found += one.get("on") is not False and one.get("strength") != 0
                inner = one.get("run")
                if isinstance(inner, list) and depth < _DEEP:
                    rest.append((inner, depth + 1))
    if found > MOST_PASSES or total > _MOST_IN_ALL:
        over = f"{found} passes that act" if total <= _MOST_IN_ALL else f"more than {_MOST_IN_ALL} passes"
        raise ScriptError(f"the script has {over}; it may have {MOST_PASSES} that act, those of plates counted")


_MOST_IN_ALL = 4 * MOST_PASSES
_ENTRIES = ("kyanoscript", "frame", "stencils", "passes")
_DEEP = 8  # plates within plates


def pass_from_json(data: Any, where: str = "pass 1", depth: int = 0) -> Pass:
    """One pass from plain data; ``where`` says which one in a message. Raises ScriptError."""
    known = passes.load_all()
    if not isinstance(data, dict) or not isinstance(data.get("pass"), str):
        raise ScriptError(f'{where} is {_show(data)}; it must be like {{"pass": "levels", ...}}')
    named: str = data["pass"]
    kind: str = RENAMES.get((named, ""), named)
    if kind not in known:
        raise ScriptError(f"{where} is {quoted(kind)}, which is unknown{nearest(kind, known)}")
    model = known[kind]
    values: dict[str, Any] = {
        RENAMES.get((kind, str(name)), str(name)): value for name, value in data.items() if name != "pass"
    }
    inner: dict[str, tuple[Pass, ...]] = {}
    for name, spec in model.params().items():
        if spec.kind == "run" and name in values:
            listed = values.pop(name)
            if not isinstance(listed, list) or depth >= _DEEP:
                raise ScriptError(
                    f"{where}: {kind}.{name} is {_show(listed)}; it must be {spec.range_text()}"
                    f"{', at most ' + str(_DEEP) + ' deep' if depth >= _DEEP else ''}"
                )
            inner[name] = tuple(
                pass_from_json(entry, f"{where}, pass {k + 1} of its {name}", depth + 1)
                for k, entry in enumerate(listed)
            )
    one = _read(model, values, where, kind)
    return one.model_copy(update=inner) if inner else one


def _check_names(one: Pass, where: str, names: list[str]) -> None:
    """Every stencil that is used by its name is there."""
    if isinstance(one.stencil, str) and one.stencil not in names:
        near = nearest(one.stencil, names) if names else "; the script has none"
        raise ScriptError(f"{where}: {one.kind}.stencil is {quoted(one.stencil)}, which the script does not have{near}")
    for inner in getattr(one, "run", ()):
        _check_names(inner, where, names)


D = TypeVar("D", bound=Declared)


def _read(model: type[D], values: Any, where: str, kind: str = "") -> D:
    """Declared data from plain data. Raises ScriptError: name, value, legal range, nearest name."""
    start = f"{where}: {kind}" if kind else where
    if not isinstance(values, dict):
        raise ScriptError(f"{start} is {_show(values)}; it must be names with their values")
    try:
        # Through JSON, so that lists become the tuples of a frozen pass while numbers in quotes stay wrong.
        return model.model_validate_json(json.dumps(values), strict=True)
    except ValidationError as wrong:
        raise ScriptError(_complaint(model, values, wrong, start)) from None
    except (ValueError, RecursionError) as wrong:
        raise ScriptError(f"{start} cannot be read") from wrong


def _complaint(model: type[Declared], values: Any, wrong: ValidationError, start: str) -> str:
    """One clear line about the first thing that is wrong, however deep it lies."""
    errors = sorted(wrong.errors(), key=lambda e: len(e["loc"]), reverse=True)
    error = next((e for e in errors if e["type"] == "extra_forbidden"), errors[0])
    path, spec, value = start, None, values
    inner: type[Declared] | None = model
    rest = list(error["loc"])
    while rest:
        part = rest.pop(0)
        if isinstance(part, int):
            value = value[part] if isinstance(value, list) and part < len(value) else value
            path += f" (entry {part + 1})"
            entries: tuple[type[Declared], ...] = spec.entries if spec else ()
            kinds: dict[Any, type[Declared]] = {k.model_fields["shape"].default: k for k in entries if k.tags}
            inner = kinds.get(rest[0]) if rest else None
            if inner is not None:
                path += f" {rest.pop(0)}"
            elif len(entries) == 1:
                inner = entries[0]
            continue
        if part in ("Stencil", "str", "none"):  # the branch of a choice between types
            continue
        if inner is None or part not in inner.model_fields:
            if inner is not None and error["type"] == "extra_forbidden":
                return f"{path}{_dot(path, start)}{cut(part)} is unknown{nearest(str(part), inner.model_fields)}"
            continue
        path += f"{_dot(path, start)}{part}"
        spec = inner.params().get(str(part))
        value = value.get(part) if isinstance(value, dict) else value
        inner = Stencil if spec is not None and spec.kind == "stencil" and isinstance(value, dict) else None
    legal = spec.range_text() if spec else "something else"
    near = _near([v for v, _ in spec.choices], value) if spec else ""
    if error["type"] == "missing":
        return f"{path} is missing; it must be {legal}"
    if error["type"].startswith("union_tag"):
        shapes = [e.model_fields["shape"].default for e in spec.entries] if spec else []
        tag = value.get("shape") if isinstance(value, dict) else value
        return f"{path} has the shape {_show(tag)}, which is unknown{nearest(str(tag), shapes)}"
    return f"{path} is {_show(value)}; it must be {legal}{near}"


def _dot(path: str, start: str) -> str:
    """A dot between names, a space after an entry, a colon's place after the beginning."""
    if path == start:
        return "." if ":" in start or start == "frame" else ": "
    return " " if path.endswith(")") else "."


def _show(value: Any) -> str:
    try:
        return cut(json.dumps(value, ensure_ascii=False, default=str))
    except (ValueError, RecursionError):
        return f"a {type(value).__name__} too long to show"


def nearest(name: str, names: Iterable[str]) -> str:
    """``; did you mean 'x'?`` or the names there are."""
    return _near(names, name) or f"; there are {cut(', '.join(names), 1000)}"


def _near(names: Iterable[str], name: Any) -> str:
    close = difflib.get_close_matches(cut(name), [cut(one) for one in names], 1, 0.5)
    return f"; did you mean {close[0]!r}?" if close else ""


def schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a script, generated from the declarations."""
    kinds = [
        {
            "type": "object",
            "title": model.label,
            "required": ["pass"],
            "properties": {"pass": {"const": kind}, **_properties(model)},
            "additionalProperties": False,
        }
        for kind, model in passes.load_all().items()
    ]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Kyanoscript script",
        "type": "object",
        "required": ["kyanoscript"],
        "additionalProperties": False,
        "properties": {
            "kyanoscript": {"type": "integer", "minimum": 1, "maximum": VERSION},
            "frame": _object(Frame),
            "stencils": {"type": "object", "additionalProperties": {"$ref": "#/$defs/stencil"}},
            "passes": {"type": "array", "items": {"$ref": "#/$defs/pass"}},
        },
        "$defs": {"pass": {"oneOf": kinds}, "stencil": _object(Stencil)},
    }


def _object(model: type[Declared]) -> dict[str, Any]:
    tags = {tag: {"const": model.model_fields[tag].default} for tag in model.tags}
    needed = [*tags, *(name for name, f in model.model_fields.items() if f.is_required() and name not in tags)]
    return {
        "type": "object",
        **({"required": needed} if needed else {}),
        "properties": {**tags, **_properties(model)},
        "additionalProperties": False,
    }


def _properties(model: type[Declared]) -> dict[str, Any]:
    return {
        name: {"description": spec.help, **_value_schema(model, name, spec)} for name, spec in model.params().items()
    }


def _value_schema(model: type[Declared], name: str, spec: Param) -> dict[str, Any]:
    number_: dict[str, Any] = {"type": "number"}
    tone = {**number_, "minimum": 0, "maximum": 255}
    colour = {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$"}
    whole = model.model_fields[name].annotation is int
    shapes: dict[str, dict[str, Any]] = {
        "number": {"type": "integer" if whole else "number", "minimum": spec.low, "maximum": spec.high},
        "choice": {"enum": [value for value, _ in spec.choices]},
        "toggle": {"type": "boolean"},
        "ring": _pairs({**number_, "minimum": 0, "maximum": 360}, {**number_, "minimum": -100, "maximum": 100}, 0),
        "stops": _pairs({**number_, "minimum": 0, "maximum": 100}, colour, 1),
        "curve": _pairs(tone, tone, 0, 32),
        "colour": colour,
        "text": {"type": "string", "maxLength": 1000},
        "run": {"type": "array", "items": {"$ref": "#/$defs/pass"}},
        "stencil": {"oneOf": [{"$ref": "#/$defs/stencil"}, {"type": "string"}, {"type": "null"}]},
        "list": {"type": "array", "items": {"oneOf": [_object(e) for e in spec.entries]}},
    }
    if spec.kind == "list" and not spec.entries:  # places
        shapes["list"] = {"type": "array", "items": {"type": "array", "items": number_, "minItems": 2, "maxItems": 3}}
    found = shapes[spec.kind]
    if model.model_fields[name].is_required():
        return found
    return {**found, "default": json.loads(json.dumps(model.model_fields[name].default))}


def _pairs(first: dict[str, Any], second: dict[str, Any], least: int, most: int = 64) -> dict[str, Any]:
    pair = {"type": "array", "prefixItems": [first, second], "minItems": 2, "maxItems": 2}
    return {"type": "array", "items": pair, "minItems": least, "maxItems": most}
