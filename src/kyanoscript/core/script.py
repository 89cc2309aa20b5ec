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
from typing import Any

from pydantic import ValidationError

from kyanoscript.core import passes
from kyanoscript.core.passes.base import Pass

VERSION = 1

# Names that older scripts use: (pass, old parameter) -> new parameter; (old pass, "") -> new pass. Only ever added to.
RENAMES: dict[tuple[str, str], str] = {}


class ScriptError(ValueError):
    """A script that cannot be read; the message is one line for people."""


@dataclass(frozen=True)
class Script:
    """The passes in the order in which the print travels through them."""

    passes: tuple[Pass, ...] = field(default=())

    def with_pass(self, index: int, changed: Pass) -> Script:
        """The script with the pass at ``index`` replaced."""
        return replace(self, passes=(*self.passes[:index], changed, *self.passes[index + 1 :]))

    def inserted(self, index: int, added: Iterable[Pass]) -> Script:
        """The script with passes put in before ``index``."""
        return replace(self, passes=(*self.passes[:index], *added, *self.passes[index:]))

    def without(self, index: int) -> Script:
        """The script with the pass at ``index`` taken out."""
        return replace(self, passes=(*self.passes[:index], *self.passes[index + 1 :]))

    def moved(self, index: int, to: int) -> Script:
        """The script with the pass at ``index`` standing at ``to``."""
        rest = [p for k, p in enumerate(self.passes) if k != index]
        rest.insert(to, self.passes[index])
        return replace(self, passes=tuple(rest))


def first_change(old: Script, new: Script) -> int:
    """Index of the first pass that differs; the shorter length if one only goes on."""
    for k, (a, b) in enumerate(zip(old.passes, new.passes, strict=False)):
        if a != b:
            return k
    return min(len(old.passes), len(new.passes))


def to_json(script: Script) -> dict[str, Any]:
    """The script as plain data; every value is written, so that a later change of a default changes no print."""
    return {"kyanoscript": VERSION, "passes": [pass_to_json(p) for p in script.passes]}


def pass_to_json(one: Pass) -> dict[str, Any]:
    """One pass as plain data: its name, its own parameters, then what every pass has."""
    values = one.model_dump(mode="json")
    common = {name: values.pop(name) for name in passes.base.COMMON}
    return {"pass": one.kind, **values, **common}


def dumps(script: Script) -> str:
    """The script as JSON text."""
    return json.dumps(to_json(script), indent=2, ensure_ascii=False) + "\n"


def loads(text: str | bytes) -> Script:
    """The script in JSON text. Raises ScriptError with one clear line."""
    try:
        return from_json(json.loads(text))
    except (UnicodeDecodeError, json.JSONDecodeError, RecursionError) as wrong:
        detail = f"line {wrong.lineno}: {wrong.msg}" if isinstance(wrong, json.JSONDecodeError) else "not text"
        raise ScriptError(f"this is not a script: the JSON cannot be read ({detail})") from None


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
    for key in data:
        if key not in ("kyanoscript", "passes"):
            raise ScriptError(f"the script has an unknown entry {key!r}{nearest(key, ['kyanoscript', 'passes'])}")
    listed = data.get("passes", [])
    if not isinstance(listed, list):
        raise ScriptError(f"passes is {_show(listed)}; it must be a list of passes")
    return Script(tuple(pass_from_json(entry, k + 1) for k, entry in enumerate(listed)))


def pass_from_json(data: Any, number: int = 1) -> Pass:
    """One pass from plain data; ``number`` says which one in a message. Raises ScriptError."""
    known = passes.load_all()
    if not isinstance(data, dict) or not isinstance(data.get("pass"), str):
        raise ScriptError(f'pass {number} is {_show(data)}; it must be like {{"pass": "levels", ...}}')
    named: str = data["pass"]
    kind: str = RENAMES.get((named, ""), named)
    if kind not in known:
        raise ScriptError(f"pass {number} is {kind!r}, which is unknown{nearest(kind, known)}")
    model = known[kind]
    values: dict[str, Any] = {
        RENAMES.get((kind, str(name)), str(name)): value for name, value in data.items() if name != "pass"
    }
    for name in values:
        if name not in model.model_fields:
            raise ScriptError(f"pass {number}: {kind}.{name} is unknown{nearest(name, model.model_fields)}")
    try:
        # Through JSON, so that lists become the tuples of a frozen pass while numbers in quotes stay wrong.
        return model.model_validate_json(json.dumps(values), strict=True)
    except ValidationError as wrong:
        name = str(wrong.errors()[0]["loc"][0])
        detail = _detail(wrong)
        spec = model.params()[name]
        near = _near([value for value, _ in spec.choices], values[name])
        raise ScriptError(
            f"pass {number}: {kind}.{name} is {_show(values[name])}; it must be {spec.range_text()}{detail}{near}"
        ) from None
    except (ValueError, RecursionError) as wrong:
        raise ScriptError(f"pass {number}: {kind} cannot be read ({wrong})") from None


def _detail(wrong: ValidationError) -> str:
    """Where inside a list of handles or stops the trouble lies."""
    loc = [str(part) for part in wrong.errors()[0]["loc"][1:]]
    return f" (entry {int(loc[0]) + 1})" if loc and loc[0].isdigit() else ""


def _show(value: Any) -> str:
    text = json.dumps(value, ensure_ascii=False, default=str)
    return text if len(text) <= 60 else text[:57] + "..."


def nearest(name: str, names: Iterable[str]) -> str:
    """``; did you mean 'x'?`` or the names there are."""
    return _near(names, name) or f"; there are {', '.join(names)}"


def _near(names: Iterable[str], name: Any) -> str:
    close = difflib.get_close_matches(str(name), list(names), 1, 0.5)
    return f"; did you mean {close[0]!r}?" if close else ""


def schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a script, generated from the declarations."""
    kinds = []
    for kind, model in passes.load_all().items():
        properties: dict[str, Any] = {"pass": {"const": kind}}
        for name, spec in model.params().items():
            properties[name] = {"description": spec.help, **_value_schema(model, name)}
        kinds.append(
            {
                "type": "object",
                "title": model.label,
                "required": ["pass"],
                "properties": properties,
                "additionalProperties": False,
            }
        )
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Kyanoscript script",
        "type": "object",
        "required": ["kyanoscript"],
        "additionalProperties": False,
        "properties": {
            "kyanoscript": {"type": "integer", "minimum": 1, "maximum": VERSION},
            "passes": {"type": "array", "items": {"oneOf": kinds}},
        },
    }


def _value_schema(model: type[Pass], name: str) -> dict[str, Any]:
    spec = model.params()[name]
    default = json.loads(json.dumps(model.model_fields[name].default))
    number_: dict[str, Any] = {"type": "number"}
    shapes: dict[str, dict[str, Any]] = {
        "number": {"type": "number", "minimum": spec.low, "maximum": spec.high},
        "choice": {"enum": [value for value, _ in spec.choices]},
        "toggle": {"type": "boolean"},
        "ring": _pairs({**number_, "minimum": 0, "maximum": 360}, {**number_, "minimum": -100, "maximum": 100}, 0),
        "stops": _pairs(
            {**number_, "minimum": 0, "maximum": 100},
            {"type": "string", "pattern": "^#([0-9a-fA-F]{3}|[0-9a-fA-F]{6})$"},
            1,
        ),
    }
    return {**shapes[spec.kind], "default": default}


def _pairs(first: dict[str, Any], second: dict[str, Any], least: int) -> dict[str, Any]:
    pair = {"type": "array", "prefixItems": [first, second], "minItems": 2, "maxItems": 2}
    return {"type": "array", "items": pair, "minItems": least, "maxItems": 64}
