"""Writes docs/passes.md, docs/library.md and the schemas of scripts and processes. Run by ``make docs``."""

from __future__ import annotations

import inspect
import json
from pathlib import Path

import kyanoscript
import kyanoscript.library
from kyanoscript.core.after.following import Followed
from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import HOME, Sheet, declaration
from kyanoscript.core.params import Declared, Param
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.core.process.process import Process
from kyanoscript.core.script.schema import process_schema, schema
from kyanoscript.core.seek.seek import Seek

DOCS = Path(__file__).parents[1] / "docs"


def reference() -> str:
    """The reference page: every pass, every parameter."""
    lines = ["# Passes", "", "Made from the declarations by `make docs`; do not edit by hand.", ""]
    lines += ["## What every pass has", "", *_table(Pass, {n: Pass.params()[n] for n in COMMON}), ""]
    for kind, model in load_all().items():
        lines += [f"## {model.label} (`{kind}`)", "", f"Stage: {model.stage}. {model.about}.", ""]
        own = {name: spec for name, spec in model.params().items() if name not in COMMON}
        if own:
            lines += _table(model, own)
        if model.starts:
            lines += ["", "Starts: " + "; ".join(model.starts) + "."]
        lines += ["", f"*When to use it:* {model.use}.", "", f"*What goes wrong:* {model.beware}."]
        lines.append("")
    for name, about, values in _others():
        lines += [f"## {name}", "", f"{about}.", "", "| value | range | default | |", "|---|---|---|---|"]
        lines += [_row(key, spec, default) for key, spec, default in values]
        lines.append("")
    return "\n".join(lines)


def _others() -> list[tuple[str, str, list[tuple[str, Param, object]]]]:
    """What is declared besides passes."""
    sheet = Sheet()
    laid = [(key, declaration(key), sheet.value(key)) for key in HOME]
    return [
        ("Frame (`frame`)", "What of the photograph is printed", _values(Frame)),
        ("Develop (`develop`)", "How a camera's raw becomes a photograph", _values(Develop)),
        ("Sheet (`sheet`)", "The paper, what lies on it, and what is made of it", laid),
        ("Process (`process`)", "How a paper answers to light", _values(Process)),
    ]


def _values(model: type[Declared]) -> list[tuple[str, Param, object]]:
    return [(name, spec, model.model_fields[name].default) for name, spec in model.params().items()]


def _table(model: type[Pass], params: dict[str, Param]) -> list[str]:
    lines = ["| parameter | range | default | |", "|---|---|---|---|"]
    return lines + [_row(name, spec, model.model_fields[name].default) for name, spec in params.items()]


def _row(name: str, spec: Param, default: object) -> str:
    shown = json.dumps(default, ensure_ascii=False, default=str).strip('"')
    group = f"{spec.group}: " if spec.group else ""
    wrong = f". *Beware:* {spec.wrong[:1].lower()}{spec.wrong[1:]}" if spec.wrong else ""
    return f"| `{name}` | {spec.range_text()} | {shown} | {group}{spec.help}{wrong} |"


def library_page() -> str:
    """What other programs can use: every name of the package, with its docstring."""
    lines = ["# For other programs", "", "Made from the docstrings by `make docs`; do not edit by hand.", ""]
    lines += [_told(kyanoscript.library), ""]
    for name in kyanoscript.__all__:
        thing = getattr(kyanoscript, name)
        lines += [f"## `{name}{_signature(thing)}`", "", _told(thing), ""]
        if inspect.isclass(thing) and thing.__module__ not in _PLAIN:
            lines += [*_listed(thing), ""]
    for title, thing in (("What `seek` gives", Seek), ("What `after` gives", Followed)):
        lines += [f"## {title}", "", _told(thing), ""]
        lines += [
            f"- `{own}{_signature(member)}`: {' '.join(_told(member).split())}" for own, member in _members(thing)
        ]
        lines.append("")
    return "\n".join(lines)


_PLAIN = ("kyanoscript.files.base.errors", "kyanoscript.core.script.complaint")  # errors: their words are enough


def _listed(thing: type) -> list[str]:
    return [f"- `{own}{_signature(member)}`: {' '.join(_told(member).split())}" for own, member in _members(thing)]


def _members(thing: type) -> list[tuple[str, object]]:
    """Its own public methods and properties, as they are written."""
    return [
        (name, member)
        for name, member in vars(thing).items()
        if not name.startswith("_")
        and _told(member)
        and (callable(member) or isinstance(member, property | classmethod))
    ]


def _signature(thing: object) -> str:
    """Of a function, what it takes and gives: defaults and types as they are written."""
    function = thing.__func__ if isinstance(thing, classmethod) else thing
    if not inspect.isfunction(function):
        return ""
    given, words = inspect.signature(function), []
    for name, one in given.parameters.items():
        if one.kind is one.KEYWORD_ONLY and "*" not in words:
            words.append("*")
        kind = "" if one.annotation is one.empty else f": {one.annotation}"
        words.append(name + kind + ("" if one.default is one.empty else f" = {one.default!r}"))
    return f"({', '.join(word for word in words if word not in ('self', 'cls'))}) → {given.return_annotation}"


def _told(thing: object) -> str:
    return inspect.getdoc(thing.__func__ if isinstance(thing, classmethod) else thing) or ""


def files() -> dict[Path, str]:
    """What is written, and where."""
    return {
        DOCS / "passes.md": reference(),
        DOCS / "library.md": library_page(),
        DOCS / "script.schema.json": json.dumps(schema(), indent=2, ensure_ascii=False) + "\n",
        DOCS / "process.schema.json": json.dumps(process_schema(), indent=2, ensure_ascii=False) + "\n",
    }


if __name__ == "__main__":
    for path, text in files().items():
        path.write_text(text)
        print(path)
