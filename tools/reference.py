"""Writes docs/passes.md and the schemas of scripts and processes from their declarations. Run by ``make docs``."""

from __future__ import annotations

import json
from pathlib import Path

from kyanoscript.core.params import Param
from kyanoscript.core.passes import load_all
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.core.script.schema import process_schema, schema

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
    return "\n".join(lines)


def _table(model: type[Pass], params: dict[str, Param]) -> list[str]:
    lines = ["| parameter | range | default | |", "|---|---|---|---|"]
    for name, spec in params.items():
        default = json.dumps(model.model_fields[name].default, ensure_ascii=False).strip('"')
        group = f"{spec.group}: " if spec.group else ""
        lines.append(f"| `{name}` | {spec.range_text()} | {default} | {group}{spec.help} |")
    return lines


def files() -> dict[Path, str]:
    """What is written, and where."""
    return {
        DOCS / "passes.md": reference(),
        DOCS / "script.schema.json": json.dumps(schema(), indent=2, ensure_ascii=False) + "\n",
        DOCS / "process.schema.json": json.dumps(process_schema(), indent=2, ensure_ascii=False) + "\n",
    }


if __name__ == "__main__":
    for path, text in files().items():
        path.write_text(text)
        print(path)
