"""JSON Schema (2020-12) of a script, generated from the declarations."""

from __future__ import annotations

import json
from typing import Any

from kyanoscript.core import passes
from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.params import Declared, Param
from kyanoscript.core.process.process import Process
from kyanoscript.core.script.json import VERSION
from kyanoscript.core.script.shared import lists_of
from kyanoscript.core.stencil.shapes import Stencil

Schema = dict[str, Any]
_RUN: Schema = {"type": "array", "items": {"$ref": "#/$defs/pass"}}
_NAMED: Schema = {"type": "object", "additionalProperties": {"$ref": "#/$defs/stencil"}}


def schema() -> Schema:
    """The whole of it."""
    what = {"frame": _object(Frame), "develop": _object(Develop), "stencils": _NAMED, "passes": _RUN}
    number = {"type": "integer", "minimum": 0, "maximum": 3999}
    text = {"type": "string"}
    same = {"type": "array", "items": {"enum": ["frame", "develop", "stencils"]}}
    shared = {"type": "string", "description": "The identity of a pass that is as it was in the state before"}
    state = {
        "type": "object",
        "properties": {
            **dict.fromkeys(("name", "note", "kept"), text),
            **dict.fromkeys(("number", "origin"), number),
            "steps": {"type": "integer", "minimum": 0},
            "as_before": same,
            **what,
            "passes": {"type": "array", "items": {"oneOf": [{"$ref": "#/$defs/pass"}, shared]}},
        },
        "additionalProperties": False,
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Kyanoscript script",
        "type": "object",
        "required": ["kyanoscript"],
        "additionalProperties": False,
        "properties": {
            "kyanoscript": {"type": "integer", "minimum": 1, "maximum": VERSION},
            **what,
            "sheets": {"type": "object", "additionalProperties": _object(Sheet)},
            "states": {"type": "array", "items": state},
            "origin": number,
            "shared": {"type": "array", "items": {"type": "object"}, "description": "Entries that several lists have"},
        },
        "$defs": {
            "shared": {
                "type": "object",
                "required": ["shared"],
                "additionalProperties": False,
                "description": "Entries of the script's shelf: the first, and how many",
                "properties": {"shared": {"type": "array", "items": {"type": "integer"}, "minItems": 2, "maxItems": 2}},
            },
            "pass": {"oneOf": [_pass(*known) for known in passes.load_all().items()]},
            "stencil": _object(Stencil),
        },
    }


def process_schema() -> Schema:
    """Of a process's file."""
    numbers = {"type": "array", "items": {"type": "number"}}
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Kyanoscript process",
        "type": "object",
        "required": ["kyanoscript process", "process"],
        "properties": {
            "kyanoscript process": {"const": 1},
            "process": _object(Process),
            "curve": {"type": "array", "items": numbers, "description": "Tone wanted and value of the film, per cent"},
            "white": {**numbers, "description": "L*a*b* of the paper"},
            "deepest": {**numbers, "description": "L*a*b* of the deepest tone"},
            "scale": {"type": "number", "description": "Exposure scale, log₁₀"},
        },
    }


def _pass(kind: str, model: type[passes.Pass]) -> Schema:
    identity = {"type": "string", "description": "Tells it from every other pass, for life"}
    return {
        "type": "object",
        "title": model.label,
        "required": ["pass"],
        "properties": {"pass": {"const": kind}, "id": identity, **_properties(model)},
        "additionalProperties": False,
    }


def _object(model: type[Declared]) -> Schema:
    tags = {tag: {"const": model.model_fields[tag].default} for tag in model.tags}
    needed = [*tags, *(name for name, f in model.model_fields.items() if f.is_required() and name not in tags)]
    return {
        "type": "object",
        **({"required": needed} if needed else {}),
        "properties": {**tags, **_properties(model)},
        "additionalProperties": False,
    }


def _properties(model: type[Declared]) -> Schema:
    return {name: {"description": spec.help, **_value(model, name, spec)} for name, spec in model.params().items()}


def _value(model: type[Declared], name: str, spec: Param) -> Schema:
    found = spec.schema(_refer)
    if issubclass(model, passes.Pass | Stencil) and name in lists_of(model):
        found["items"]["oneOf"].append({"$ref": "#/$defs/shared"})
    if model.model_fields[name].is_required() or model.model_fields[name].factory is not None:
        return found
    default = model.model_fields[name].default if name != "of" else 1  # scripts that do not tell their form
    return {**found, "default": json.loads(json.dumps(default))}


def _refer(what: Any) -> Schema:
    return {"$ref": f"#/$defs/{what}"} if isinstance(what, str) else _object(what)
