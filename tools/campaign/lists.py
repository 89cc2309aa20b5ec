"""Mutants of what is no picture: profiles, readings, processes, sheets, recipes, what is remembered; read and used."""

from __future__ import annotations

import json
import random
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from pictures import GENERAL

from common import Report, Worker, room

NUMBERS = (
    b"NaN", b"Infinity", b"1e308", b"-1e308", b"1e999", b"-0", b"0", b"9" * 400, b"null", b"[]", b"{}", b'"x"', b"1 2",
)  # fmt: skip
WORDS = (
    b"", b"<img src='/dev/zero'>", "\u202e京都©".encode(), b"\xff\xfe", b"x" * 5000, b"\x1b[31m", b"BEGIN_DATA",
    b"END_DATA",
)  # fmt: skip


def another_number(r: random.Random, b: bytearray) -> bytearray:
    """A number in the text becomes one that is hard."""
    found = list(re.finditer(rb"-?\d+(\.\d+)?", bytes(b)))
    if not found:
        return another_word(r, b)
    one = r.choice(found)
    b[one.start() : one.end()] = r.choice(NUMBERS)
    return b


def another_word(r: random.Random, b: bytearray) -> bytearray:
    """A word becomes one that is hard."""
    found = list(re.finditer(rb"[A-Za-z_]{2,}", bytes(b)))
    if found:
        one = r.choice(found)
        b[one.start() : one.end()] = r.choice(WORDS)
    return b


def another_line(r: random.Random, b: bytearray) -> bytearray:
    """A line is gone, comes twice, or stands elsewhere."""
    lines = bytes(b).split(b"\n")
    line = lines.pop(r.randrange(len(lines)))
    for _ in range(r.randrange(3)):
        lines.insert(r.randrange(len(lines) + 1), line)
    return bytearray(b"\n".join(lines))


CHANGES = (*GENERAL, *(another_number, another_word) * 4, another_line, another_line)


def corpus(here: Path) -> dict[str, bytes]:
    """Name → bytes of sound files; the ending tells what each is read as."""
    import imagecodecs

    from kyanoscript import demo
    from kyanoscript.core.paper.sheet import Sheet
    from kyanoscript.files.kept import cgats, processfile, sheetfile
    from kyanoscript.files.kept.recipes import bundled, written
    from kyanoscript.files.kept.remembered import Remembered
    from kyanoscript.files.standins.benchprinter import profile as bench_profile

    made: dict[str, bytes] = {
        "bench.icc": bench_profile().read_bytes(),
        "wide.icc": bytes(imagecodecs.cms_profile("adobergb")),
    }
    process = processfile.demos()[0]
    processfile.write_process(here / "sound.process", process)
    sheetfile.write_sheet_file(here / "sound.sheet", "Quay", Sheet.of(across=120, caption="Dye works"))
    made["demo.process"] = (here / "sound.process").read_bytes()
    made["own.sheet"] = (here / "sound.sheet").read_bytes()
    made["readings.cgats"] = cgats.written(process).encode()
    made["plain.cgats"] = "\n".join(str(95 - 7 * k) for k in range(12)).encode()
    for recipe in bundled()[::9]:
        made[f"{recipe.word}.recipe"] = written(recipe)
    state = Remembered(recent=(str(demo.photo()),), inks=("#112233",))
    made["left.remembered"] = json.dumps(state.__dict__).encode()
    return made


def _use_profile(path: Path) -> None:
    from kyanoscript.core.colour import SRGB
    from kyanoscript.files.colour import proofs

    proofs.table(proofs.Proof(proofs.read_profile(path), (0, 0, 0), 2.0), SRGB)


def _use_process(path: Path) -> None:
    from kyanoscript.files.kept import processfile
    from kyanoscript.ui.sheet.process.worked import work_out

    work_out(processfile.read_process(path))


def _use_sheet(path: Path) -> None:
    from kyanoscript.core.paper.layout import laid, remarks
    from kyanoscript.files.kept.sheetfile import read_sheet

    _, sheet = read_sheet(path)
    laid(sheet, 1.5)
    remarks(sheet, 1.5, 3000)


def _use_recipe(path: Path) -> None:
    from kyanoscript.core.picture import ArraySource, Rect
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import Script
    from kyanoscript.files.kept.recipes import read_recipe

    found = read_recipe(path)
    if len(found.script.passes) < 40:
        from corpus import colourful

        renderer = Renderer(ArraySource(colourful(24, 36)), found.used(Script()))
        width, height = renderer.size(1.0)
        renderer.region(Rect(0, 0, min(8, width), min(8, height)))


def _use_readings(path: Path) -> None:
    from kyanoscript.files.kept.cgats import read_readings

    read_readings(path)


def _use_remembered(path: Path) -> None:
    from kyanoscript.files.base import places
    from kyanoscript.files.kept import remembered

    (places.folder()).mkdir(parents=True, exist_ok=True)
    (places.folder() / "remembered.json").write_bytes(path.read_bytes())
    remembered.remember(remembered.recall())


USES: dict[str, Callable[[Path], None]] = {
    ".icc": _use_profile, ".process": _use_process, ".sheet": _use_sheet, ".recipe": _use_recipe,
    ".cgats": _use_readings, ".remembered": _use_remembered,
}  # fmt: skip


def prepare() -> None:
    """Once in each worker."""
    import warnings

    from kyanoscript.core.render.prepare import prepare

    warnings.simplefilter("ignore")
    prepare()


def work(_: None, path: Path) -> tuple[str, Any]:
    """One file read and used."""
    from kyanoscript.files.base.errors import FileError

    try:
        USES[path.suffix](path)
    except FileError as error:
        return ("OK", str(error))
    return ("OK", "")


def run(count: int, seed: int, keep: Path | None = None) -> Report:
    """So many mutants."""
    report, r, here = Report("lists"), random.Random(seed), room()
    bodies, worker, slowest, most = corpus(here), Worker(prepare, work), 0.0, 0
    for name, body in bodies.items():
        path = here / f"sound{Path(name).suffix}"
        path.write_bytes(body)
        verdict, _, _ = worker.run(path, 60)
        if verdict != ("OK", ""):
            report.found(f"a sound {name}: {verdict}")
    for k in range(count):
        name = r.choice(list(bodies))
        change = r.choice(CHANGES)
        body = bytes(change(r, bytearray(bodies[name])))
        path = here / f"mutant{Path(name).suffix}"
        path.write_bytes(body)
        verdict, seconds, peak = worker.run(path)
        slowest, most = max(slowest, seconds), max(most, peak)
        report.tally["mutants"] += 1
        if verdict[0] == "OK":
            report.tally["refused" if verdict[1] else "read"] += 1
            report.said(verdict[1], f"{name} {change.__name__} seed {seed} number {k}")
            continue
        report.harmed(verdict[0], name, change.__name__, body, seed, k, verdict[1:], keep)
    worker.stop()
    report.figures = {"slowest s": round(slowest, 2), "most MB": most >> 20}
    return report
