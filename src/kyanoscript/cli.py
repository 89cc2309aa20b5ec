"""The same engine without a window: ``kyanoscript render``, ``passes`` and ``check``; otherwise the window opens."""

from __future__ import annotations

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from kyanoscript import __version__

STOPPED = 130  # as shells count an interrupt
WRONG = 2  # exit status for anything the caller can put right: a bad file, name or value


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status."""
    words = list(sys.argv[1:] if argv is None else argv)
    commands = {"render": _render, "passes": _passes, "check": _check}
    if not words or words[0] not in (*commands, "-h", "--help", "--version"):
        from kyanoscript.ui.app import run

        return run(words)
    options = _parser().parse_args(words)
    from kyanoscript.files.errors import FileError

    try:
        return commands[options.command](options)
    except FileError as error:
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
    render.add_argument("photo", type=Path)
    render.add_argument("--script", type=Path, metavar="FILE", help=".kyano or .json; without one the photo as it is")
    render.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=".tif, .png or .jpg")
    render.add_argument("--longer-side", type=int, metavar="PX", help="reduce to this longer side (never enlarges)")
    render.add_argument("--bits", type=int, choices=(8, 16), default=16, help="of a TIFF or PNG (default 16)")
    render.add_argument("--profile", choices=("auto", "srgb", "gray"), default="auto", help="default: as the print is")
    render.add_argument("--ppi", type=float, default=300.0, help="resolution written into the file (default 300)")
    render.add_argument("--quality", type=int, default=95, help="of a JPEG, 1…100 (default 95)")
    render.add_argument("--threads", type=int, default=os.cpu_count() or 2, help="default: one per core")

    passes = commands.add_parser("passes", help="list every pass with its parameters")
    passes.add_argument("name", nargs="?", metavar="NAME")
    passes.add_argument("--json", action="store_true")

    check = commands.add_parser("check", help="say whether a script file is valid")
    check.add_argument("script", type=Path, metavar="SCRIPT")
    return parser


def _complain(message: str) -> int:
    print(f"kyanoscript: {message}", file=sys.stderr)
    return WRONG


def _render(options: argparse.Namespace) -> int:
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import Script
    from kyanoscript.files.export import Settings, export, kind_of
    from kyanoscript.files.photo import open_photo
    from kyanoscript.files.scriptfile import read_script

    kind_of(options.output)
    script = read_script(options.script).script if options.script else Script()
    settings = Settings(options.bits, options.profile, options.ppi, options.quality, options.longer_side)
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

    renderer = Renderer(photo.source, script)
    try:
        width, height = export(
            renderer, options.output, settings, photo.path, progress, threads=max(1, min(options.threads, 64))
        )
    except KeyboardInterrupt:
        _complain("stopped; nothing was written")
        return STOPPED
    print(f"{options.output}: {width} × {height} px")
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
