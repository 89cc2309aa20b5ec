"""The engine without a window: ``render``, ``trace``, ``passes``, ``recipes``, ``check``; else the window opens."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kyanoscript import __version__

if TYPE_CHECKING:
    from kyanoscript.files.recipes import Recipe

STOPPED = 130  # as shells count an interrupt
WRONG = 2  # exit status for anything the caller can put right: a bad file, name or value


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    words = list(sys.argv[1:] if argv is None else argv)
    commands = {"render": _render, "trace": _trace, "passes": _passes, "recipes": _recipes, "check": _check}
    if not words or words[0] not in (*commands, "-h", "--help", "--version"):
        from kyanoscript.ui.app import run

        return run(words)
    options = _parser().parse_args(words)
    from kyanoscript.core.script import ScriptError
    from kyanoscript.files.errors import FileError

    try:
        return commands[options.command](options)
    except (FileError, ScriptError) as error:
        return _complain(str(error))
    except BrokenPipeError:  # the reader of a long list had seen enough
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="kyanoscript",
        description="Open a window on a photograph or script file, or work without one.",
        epilog="kyanoscript [PHOTO or SCRIPT] opens the window.",
    )
    parser.add_argument("--version", action="version", version=f"kyanoscript {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    render = commands.add_parser("render", help="render a photograph with a script into a file")
    _script_options(render)
    render.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=".tif, .png or .jpg")
    render.add_argument("--longer-side", type=int, metavar="PX", help="reduce to this longer side (never enlarges)")
    render.add_argument("--bits", type=int, choices=(8, 16), default=16, help="of a TIFF or PNG (default 16)")
    render.add_argument("--profile", choices=("auto", "srgb", "gray"), default="auto", help="default: as the print is")
    render.add_argument("--ppi", type=float, default=300.0, help="resolution written into the file (default 300)")
    render.add_argument("--quality", type=int, default=95, help="of a JPEG, 1…100 (default 95)")
    render.add_argument("--tiled", action="store_true", help="write a TIFF in tiles, for very large prints")
    render.add_argument("--stencil", type=int, metavar="NUMBER", help="write where this pass acts, as a gray picture")
    render.add_argument("--threads", type=int, default=os.cpu_count() or 2, help="default: one per core")

    trace = commands.add_parser("trace", help="print the value of a spot after each pass")
    _script_options(trace)
    trace.add_argument("--at", required=True, metavar="X,Y", help="place in pixels of the print, from its upper left")
    trace.add_argument("--json", action="store_true")

    passes = commands.add_parser("passes", help="list every pass with its parameters")
    passes.add_argument("name", nargs="?", metavar="NAME")
    passes.add_argument("--json", action="store_true")

    recipes = commands.add_parser("recipes", help="list the recipes, one's own too, or say what one does")
    recipes.add_argument("name", nargs="?", metavar="NAME")
    recipes.add_argument("--json", action="store_true")

    check = commands.add_parser("check", help="say whether a script file is valid")
    check.add_argument("script", type=Path, metavar="SCRIPT")
    return parser


def _script_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("photo", type=Path)
    command.add_argument("--script", type=Path, metavar="FILE", help=".kyano or .json; without one the photo as it is")
    command.add_argument("--recipe", metavar="NAME", help="a recipe; the script follows it")
    command.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="PASS.NAME=VALUE",
        help="another value, as levels.gamma=1.2; levels.2.gamma for the second of them, frame.tilt for the frame",
    )


def _script(options: argparse.Namespace) -> Any:
    """The script that was asked for, with the values set. Raises FileError, ScriptError."""
    from kyanoscript.core.script import Script, with_value
    from kyanoscript.files.recipes import find
    from kyanoscript.files.scriptfile import read_script

    script = read_script(options.script).script if options.script else Script()
    if options.recipe:
        script = find(options.recipe, _cookbook()).on(script)
    for words in options.set:
        script = with_value(script, words)
    return script


def _cookbook() -> Sequence[Recipe]:
    """Every recipe; files in one's own folder that are none are named on stderr."""
    from kyanoscript.files.cookbook import Cookbook

    found = Cookbook().read()
    for line in found.broken:
        print(f"kyanoscript: left out: {line}", file=sys.stderr)
    return found.recipes


def _complain(message: str) -> int:
    print(f"kyanoscript: {message}", file=sys.stderr)
    return WRONG


def _render(options: argparse.Namespace) -> int:
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.files.export import Settings, StencilRenderer, export, kind_of
    from kyanoscript.files.photo import open_photo
    from kyanoscript.files.pictures import Pictures

    kind_of(options.output)
    script = _script(options)
    if options.stencil is not None and not 1 <= options.stencil <= len(script.passes):
        return _complain(f"stencil is {options.stencil}; it must be the number of a pass, 1…{len(script.passes)}")
    settings = Settings(options.bits, options.profile, options.ppi, options.quality, options.longer_side, options.tiled)
    try:
        settings.check()
    except ValueError as error:
        return _complain(str(error))
    photo = open_photo(options.photo, hold=False)
    for note in photo.notes:
        print(f"kyanoscript: {photo.path.name}: {note}", file=sys.stderr)
    shown = sys.stderr.isatty()

    def progress(done: float) -> None:
        if shown:
            print(f"\r{done:4.0%}", end="\n" if done >= 1 else "", file=sys.stderr, flush=True)

    pictures = Pictures(photo.path, options.script)
    pictures.check(script)
    renderer = Renderer(photo.source, script, library=pictures)
    if options.stencil is not None:
        renderer = StencilRenderer(renderer, options.stencil - 1)
    try:
        width, height = export(
            renderer, options.output, settings, photo.path, progress, threads=max(1, min(options.threads, 64))
        )
    except KeyboardInterrupt:
        _complain("stopped; nothing was written")
        return STOPPED
    if script.ending is not None:
        print(f"kyanoscript: it shows what {script.ending.kind} found, not a print", file=sys.stderr)
    print(f"{options.output}: {width} × {height} px")
    return 0


def _trace(options: argparse.Namespace) -> int:
    import numpy as np

    from kyanoscript.core import colour
    from kyanoscript.core.blend import in_colour
    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.files.photo import open_photo
    from kyanoscript.files.pictures import Pictures

    script = _script(options)
    photo = open_photo(options.photo, hold=False)
    pictures = Pictures(photo.path, options.script)
    pictures.check(script)
    renderer = Renderer(photo.source, script, library=pictures)
    width, height = renderer.size(1.0)
    try:
        x, y = (int(part) for part in options.at.split(","))
    except ValueError:
        return _complain(f"at is {options.at!r}; it must be two whole numbers, as 120,80")
    if not (0 <= x < width and 0 <= y < height):
        return _complain(f"at is {x},{y}; it must lie within the print, 0,0…{width - 1},{height - 1}")
    rows = []
    for k in range(len(script.passes) + 1):
        planes = np.clip(in_colour(renderer.region(Rect(x, y, 1, 1), 1.0, k)), 0, 1)
        gray = float(colour.gray_of(np.ascontiguousarray(planes))[0, 0, 0])
        rows.append(
            {
                "pass": script.passes[k - 1].kind if k else "photo",
                "rgb": [round(float(v) * 255, 2) for v in planes[:, 0, 0]],
                "zone": colour.zone(gray),
                "L*": round(float(colour.lightness(planes)[0, 0]), 2),
                **({"on": script.passes[k - 1].on} if k else {}),
            }
        )
    if options.json:
        print(json.dumps(rows, indent=2, ensure_ascii=False))
        return 0
    for k, row in enumerate(rows):
        r, g, b = row["rgb"]
        value = f"{r:.1f}" if r == g == b else f"{r:.1f} {g:.1f} {b:.1f}"
        off = "" if row.get("on", True) else "  (off)"
        name = f"{k:>2} {row['pass']}" if k else "photo"
        print(f"{name:<24}{value:<22} zone {row['zone']:<5} L* {row['L*']:.1f}{off}")
    return 0


def _passes(options: argparse.Namespace) -> int:
    from kyanoscript.core import passes
    from kyanoscript.core.script import nearest

    known = passes.load_all()
    if options.name is not None and options.name not in known:
        return _complain(f"there is no pass {options.name!r}{nearest(options.name, known)}")
    chosen = {k: m for k, m in known.items() if options.name in (None, k)}
    if options.json:
        print(json.dumps([_described(model) for model in chosen.values()], indent=2, ensure_ascii=False))
        return 0
    for model in chosen.values():
        print(f"{model.kind}  ({model.stage}) {model.about}")
        for name, spec in model.params().items():
            group = f"{spec.group}: " if spec.group else ""
            print(f"  {name:<18}{spec.range_text():<34} default {_plain(model.model_fields[name].default):<12}", end="")
            print(f" {group}{spec.help}".rstrip())
        if model.starts:
            print(f"  start points: {', '.join(model.starts)}")
    return 0


def _recipes(options: argparse.Namespace) -> int:
    from kyanoscript.core.script import to_json
    from kyanoscript.files.recipes import find

    every = _cookbook()
    chosen = [find(options.name, every)] if options.name else every
    if options.json:
        rows = [
            {
                "name": one.word,
                "title": one.name,
                "group": one.group,
                "description": one.about,
                "try": one.tries,
                "passes": to_json(one.script)["passes"] if options.name else [p.kind for p in one.script.passes],
            }
            for one in chosen
        ]
        print(json.dumps(rows[0] if options.name else rows, indent=2, ensure_ascii=False))
        return 0
    for one in chosen:
        if options.name:
            print(f"{one.word}  ({one.group}) {one.name}: {one.about}")
            print(f"  passes: {', '.join(p.kind for p in one.script.passes)}")
            print(f"  strengths worth trying: {', '.join(one.tries)}")
        else:
            print(f"{one.word:<16}{one.group:<9}{one.name}: {one.about}")
    return 0


def _plain(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False).strip('"')


def _described(model: Any) -> dict[str, Any]:
    """Everything the declarations say of a pass."""
    parameters = []
    for name, spec in model.params().items():
        entry: dict[str, Any] = {"name": name, "kind": spec.kind, "label": spec.label, "help": spec.help}
        if spec.kind == "number":
            entry |= {"unit": spec.unit, "min": spec.low, "max": spec.high}
        if spec.choices:
            entry["choices"] = [value for value, _ in spec.choices]
        if spec.group:
            entry["group"] = spec.group
        parameters.append({**entry, "range": spec.range_text(), "default": model.model_fields[name].default})
    return {
        "name": model.kind,
        "label": model.label,
        "stage": model.stage,
        "about": model.about,
        "parameters": parameters,
        "starts": model.starts,
    }


def _check(options: argparse.Namespace) -> int:
    from kyanoscript.files.scriptfile import read_script

    found = read_script(options.script)
    count = len(found.script.passes)
    print(f"{options.script}: valid, {count} {'pass' if count == 1 else 'passes'}")
    return 0
