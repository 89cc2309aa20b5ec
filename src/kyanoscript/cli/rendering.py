"""``render`` and ``trace``: photographs through a script."""

from __future__ import annotations

import argparse
import json
import shutil
import sys
import time
from contextlib import closing
from pathlib import Path
from typing import TYPE_CHECKING, Any

from kyanoscript.cli.declared import given
from kyanoscript.core.colour import zone
from kyanoscript.core.script import Script
from kyanoscript.core.script.complaint import read
from kyanoscript.files.base.errors import FileError, plain
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.editions.asked import Asked, with_values
from kyanoscript.files.editions.names import PLAIN, Pattern
from kyanoscript.files.editions.plan import photographs
from kyanoscript.files.editions.run import Here, run, workers
from kyanoscript.files.editions.work import FAILED, Result, Task
from kyanoscript.files.kept.recipes import find
from kyanoscript.files.kept.scriptfile import SUFFIX, read_script, state_named
from kyanoscript.files.kept.trust import outside
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.prints.formats import format_of
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.whole import WholePrint
from kyanoscript.terminal import DASH, OK, complain, folder_of_its_own, is_stream, spooled
from kyanoscript.translation import tr

if TYPE_CHECKING:
    from kyanoscript.core.render.analysis import Spot


def asked_of(options: argparse.Namespace) -> Asked:
    """The script with the values set. Raises FileError, ScriptError."""
    file = options.script
    script = Script()
    if file is not None:
        lies = Path.cwd() / "script" if is_stream(file) else file
        script, file = read_script(spooled(file, "script")).script, lies
        _trusted(options, file, script)
    recipe, base, values = None, script, tuple(options.set)
    if options.recipe:
        from kyanoscript.cli.listing import cookbook

        recipe = find(options.recipe, cookbook())
        script = recipe.on(script)
    return Asked(with_values(script, values), file, recipe, base, values)


def _trusted(options: argparse.Namespace, file: Path, script: Script, photo: Path | None = None) -> None:
    """Raises FileError if a script names what lies outside its own folder, which was not allowed: see `trust`."""
    if not options.trust:
        for other in outside(file, script, photo):
            what = "is of a photograph" if photo is not None and other == photo.resolve() else "uses a picture"
            raise FileError(
                file, tr('it {what} outside its own folder: {other}', what=what, other=other),
                "Look at who the script is from; --trust uses it all the same",
            )  # fmt: skip


def render(options: argparse.Namespace) -> int:
    """Every photograph into a file; one that cannot be rendered does not hold up the others."""
    own_photograph(options)
    wrong = _senseless(options)
    if wrong:
        return complain(wrong)
    settings = read(Settings, given(options, Settings), "print")
    asked = asked_of(options)
    count = len(asked.script.passes)
    if options.stencil is not None and not 1 <= options.stencil <= count:
        return complain(
            tr("stencil is {stencil}; it must be the number of a pass, 1…{count}", stencil=options.stencil, count=count)
        )
    if options.out_dir is not None:
        return _each(options, asked, settings)
    (photo,) = options.photos
    try:
        if options.no_clobber and options.output != DASH and options.output.exists():
            _note(options, tr("{output}: it is there already and stays as it is", output=options.output))
            row: dict[str, Any] = {"photo": str(photo), "file": str(options.output), "left": True}
        else:
            row = _render_one(photo, options.output, asked, settings, options)
    except FileError as error:
        if not options.json:
            raise
        row, status = {"photo": str(photo), "error": str(error)}, complain(str(error))
    else:
        status = OK
    if options.json:
        _say(json.dumps(row, indent=2), options.output == DASH)
    return status


def _each(options: argparse.Namespace, asked: Asked, settings: Settings) -> int:
    """Photographs into a folder, which is made if it is not there; one that cannot be rendered does not hold up the
    others. Raises FileError."""
    named = [spooled(path, "photo") if is_stream(path) else path for path in options.photos]
    photos = photographs(named)
    names = Pattern(PLAIN, options.format or "tif").names(
        [Path("print") if path in named and is_stream(options.photos[named.index(path)]) else path for path in photos],
        {},
    )
    try:
        options.out_dir.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise plain(options.out_dir, error, "writing") from error
    stencil = None if options.stencil is None else options.stencil - 1
    rows: dict[int, dict[str, Any]] = {}
    tasks = []
    for k, (photo, name) in enumerate(zip(photos, names, strict=True), 1):
        target = options.out_dir / name
        if options.no_clobber and target.exists():
            _note(options, tr("{target}: it is there already and stays as it is", target=target))
            rows[k] = {"photo": str(photo), "file": str(target), "left": True}
        else:
            tasks.append(Task(k, photo, target, asked, settings, stencil=stencil, threads=options.threads))
    jobs = min(options.jobs, max(1, len(tasks)))
    status = OK
    with closing(run(tasks, Here if jobs == 1 else lambda: workers(jobs), jobs)) as happens:
        for happened in happens:
            if not isinstance(happened, Result):
                continue
            if happened.result == FAILED:
                status = complain(happened.reason)
                rows[happened.number] = {"photo": happened.photo, "error": happened.reason}
            else:
                rows[happened.number] = _told(options, asked, happened)
    if options.json:
        print(json.dumps([rows[k] for k in sorted(rows)], indent=2))
    return status


def _told(options: argparse.Namespace, asked: Asked, result: Result) -> dict[str, Any]:
    """What is told of a print that was written."""
    name, target = Path(result.photo).name, options.out_dir / result.file
    if options.verbose:
        _note(options, f"{name}: {result.kind}")
    for note in result.notes:
        _note(options, f"{name}: {note}")
    if asked.script.ending is not None:
        _note(options, tr("it shows what {kind} found, not a print", kind=asked.script.ending.kind))
    if options.verbose:
        _note(
            options,
            tr(
                "{target}: written in {seconds:.2f} s on {threads} threads",
                target=target,
                seconds=result.seconds,
                threads=options.threads,
            ),
        )
    if not options.quiet and not options.json:
        print(
            tr("{target}: {width} × {height} px", target=target, width=result.width, height=result.height), flush=True
        )
    return {
        "photo": result.photo, "file": str(target), "width": result.width, "height": result.height,
        "seconds": result.seconds, "notes": list(result.notes),
    }  # fmt: skip


def own_photograph(options: argparse.Namespace) -> None:
    """A script file in the place of a photograph means its own. Raises FileError."""
    file, _ = state_named(options.photos[0])
    if options.script is not None or len(options.photos) > 1 or file.suffix.lower() != SUFFIX:
        return
    options.script = options.photos[0]
    found = read_script(options.script).photo
    if found is None:
        raise FileError(
            file, "it does not say which photograph it is of", "Name the photograph, and this with --script"
        )
    if not found.path.exists():
        raise FileError(
            file, tr("its photograph {name} is not there", name=found.path.name), "Name it, and this with --script"
        )
    _trusted(options, file, Script(), found.path)
    options.photos = [found.path.with_name(f"{found.path.name}[{found.page}]") if found.page > 1 else found.path]


def _senseless(options: argparse.Namespace) -> str:
    """What cannot be meant; empty if everything can."""
    if options.output is not None and len(options.photos) > 1:
        return "several photographs go into a folder: write --out-dir FOLDER instead of --output"
    if not 1 <= options.threads <= 64:
        return tr("threads is {threads}; it must be 1…64", threads=options.threads)
    if sum(str(p) in ("-", "/dev/stdin") for p in (*options.photos, options.script)) > 1:
        return "only one thing can come from standard input"
    asked = format_of(Path(f"x.{options.format or 'tif'}"))
    found = format_of(options.output) if options.output not in (None, DASH) else asked
    if options.format and found != asked:
        ending = options.output.suffix.lower()
        return tr(
            "the name ends in {ending}, and the format is to be {format}; leave one of them out",
            ending=ending,
            format=options.format,
        )
    bits = given(options, Settings).get("bits")
    if bits and bits not in found.bits:
        has = " or ".join(map(str, found.bits))
        return tr("bits is {bits}; a {name} has {has}. Write a TIFF for more", bits=bits, name=found.name, has=has)
    if not 1 <= options.jobs <= 256:
        return tr("jobs is {jobs}; it must be 1…256", jobs=options.jobs)
    if options.jobs > 1 and options.out_dir is None:
        return "several jobs are for several photographs; write --out-dir FOLDER instead of --output"
    return ""


def _render_one(
    path: Path, target: Path, asked: Asked, settings: Settings, options: argparse.Namespace
) -> dict[str, Any]:
    began = time.perf_counter()
    to_stdout = target == DASH
    photo = open_photo(spooled(path, "photo"), hold=False)
    asked = asked.of(photo)
    if options.verbose:
        _note(
            options,
            tr(
                "{name}: {kind}, {width} × {height} px",
                name=photo.path.name,
                kind=photo.kind,
                width=photo.width,
                height=photo.height,
            ),
        )
    for note in photo.notes:
        _note(options, f"{photo.path.name}: {note}")
    pictures = asked.pictures(photo.path)
    stencil = None if options.stencil is None else options.stencil - 1
    never = (asked.file,) if asked.file else ()
    shown = sys.stderr.isatty() and not options.quiet

    def progress(done: float) -> None:
        if shown:
            print(f"\r{done:4.0%}", end="\n" if done >= 1 else "", file=sys.stderr, flush=True)

    with folder_of_its_own() as folder:
        file = folder / f"print{'.' + (options.format or 'tif')}" if to_stdout else target
        out = Out(photo, asked.script, pictures, file, WholePrint(stencil), settings, never, options.threads)
        width, height, _, remarks = write(out, Progress(progress))
        if to_stdout:
            with file.open("rb") as made:
                shutil.copyfileobj(made, sys.stdout.buffer)
            sys.stdout.buffer.flush()
    for remark in remarks:
        _note(options, f"{photo.path.name}: {remark}")
    if asked.script.ending is not None:
        _note(options, tr("it shows what {kind} found, not a print", kind=asked.script.ending.kind))
    took = time.perf_counter() - began
    if options.verbose:
        _note(
            options,
            tr(
                "{target}: written in {took:.2f} s on {threads} threads",
                target=target,
                took=took,
                threads=options.threads,
            ),
        )
    if not options.quiet and not options.json:
        _say(
            tr(
                "{to_stdout}: {width} × {height} px",
                to_stdout="standard output" if to_stdout else target,
                width=width,
                height=height,
            ),
            to_stdout,
        )
    return {
        "photo": str(path), "file": str(target), "width": width, "height": height, "seconds": round(took, 3),
        "notes": [*photo.notes, *remarks],
    }  # fmt: skip


def _note(options: argparse.Namespace, text: str) -> None:
    if not options.quiet:
        complain(text)


def _say(text: str, beside: bool) -> None:
    """A line for people, on stderr where the print itself goes to standard output."""
    print(text, file=sys.stderr if beside else sys.stdout)


def trace(options: argparse.Namespace) -> int:
    """One spot after each pass."""
    from kyanoscript.core.render import analysis
    from kyanoscript.core.render.renderer import Renderer

    asked = asked_of(options)
    photo: Photo = open_photo(spooled(options.photo, "photo"), hold=False)
    asked = asked.of(photo)
    pictures = asked.pictures(photo.path)
    pictures.check(asked.script)
    renderer = Renderer(photo.source, asked.script, library=pictures)
    width, height = renderer.size(1.0)
    try:
        x, y = (int(part) for part in options.at.split(","))
    except ValueError:
        return complain(tr("at is {at!r}; it must be two whole numbers, as 120,80", at=options.at[:60]))
    if not (0 <= x < width and 0 <= y < height):
        return complain(
            tr(
                "at is {x},{y}; it must lie within the print, 0,0…{width},{height}",
                x=x,
                y=y,
                width=width - 1,
                height=height - 1,
            )
        )
    rows = [_row(found, asked.script, k) for k, found in enumerate(analysis.trace(renderer, x, y))]
    if options.json:
        print(json.dumps(rows, indent=2))
        return OK
    for k, row in enumerate(rows):
        r, g, b = row["rgb"]
        value = f"{r:.1f}" if r == g == b else f"{r:.1f} {g:.1f} {b:.1f}"
        off = "" if row.get("on", True) else "  (off)"
        name = f"{k:>2} {row['pass']}" if k else "photo"
        print(
            tr(
                "{name:<24}{value:<22} zone {row:<5} L* {row2:.1f}{off}",
                name=name,
                value=value,
                row=row["zone"],
                row2=row["L*"],
                off=off,
            )
        )
    return OK


def _row(found: Spot, script: Script, k: int) -> dict[str, Any]:
    """The values of a spot after ``k`` passes."""
    return {
        "pass": script.passes[k - 1].kind if k else "photo",
        "rgb": [round(v * 255, 2) for v in found.rgb],
        "zone": zone(found.gray),
        "L*": round(found.lightness, 2),
        **({"on": script.passes[k - 1].on} if k else {}),
    }
