"""The program used as people have it, from an environment made of the wheel alone: what is not as it should be is said.

Usage: used.py kernels                  whether every kernel has its library, for both levels
       used.py README.md PRINTS.json    all of it; PRINTS.json: what `prints.py` says in a checkout
Ends with status 1 and a line for each thing that is wrong.
"""

from __future__ import annotations

import importlib.util
import json
import re
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import tifffile
from PIL import Image

from kyanoscript import demo
from kyanoscript.core.kernel import build, library, mark
from kyanoscript.core.script import State
from kyanoscript.files.base import log
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept.scriptfile import PhotoRef, read_script, write_script

PLACE = "/site-packages/"

# Every line of README's part "Without a window", and what is run for it. A line that is not here is said.
COMMANDS = {
    "render PHOTO [--script FILE.json|FILE.kyano] -o OUT.tif [--longer-side PX] [--set levels.gamma=1.2]":
        "render PHOTO --script SCRIPT -o out.tif --longer-side 300 --set levels.gamma=1.2",
    "render PHOTO --script FILE --stencil 3 -o WHERE.tif": "render PHOTO --script SCRIPT --stencil 3 -o where.tif",
    "trace PHOTO --script FILE --at 1200,800": "trace PHOTO --script SCRIPT --at 1200,800",
    "render PHOTO --recipe sepia-bath -o OUT.tif": "render PHOTO --recipe sepia-bath -o sepia.tif --longer-side 300",
    "after PRINT PHOTO [-o SCRIPT.json] [--json]": "after sepia.tif OTHER -o after.json --json",
    "recipes [NAME] [--json]": "recipes sepia-bath --json",
    "desktop [--remove]": "desktop",
    "render *.jpg --script FILE --out-dir PRINTS --format png [--no-clobber] [-q | -v] [--json]":
        "render PHOTO OTHER --script SCRIPT --out-dir prints --format png --no-clobber --json --longer-side 300",
    "info PHOTO [--json]": "info PHOTO --json",
    "render scan.tif[2] -o OUT.jxl --profile display-p3 --notes rights":
        "render pages.tif[2] -o out.jxl --profile display-p3 --notes rights",
    "render RAW.dng -o OUT.tif --set develop.exposure=0.7":
        "render RAW -o raw.tif --set develop.exposure=0.7 --longer-side 300",
    "sheet PHOTO --script FILE --sheet NAME -o OUT.pdf": "sheet PHOTO --script INKS --sheet SHEET -o sheet.pdf",
    "sheet PHOTO --set sheet.across=200 -o OUT.tif": "sheet PHOTO --set sheet.across=200 -o sheet.tif",
    "printers [--json]": "printers --json",
    "plates PHOTO --script FILE [--sheet NAME] -o OUT.tif": "plates PHOTO --script INKS -o plates.tif",
    "plates PHOTO --script FILE --screen round --ruling 33/cm --ppi 300 -o OUT.tif":
        "plates PHOTO --script INKS --screen round --ruling 33/cm --ppi 300 -o dots.tif",
    "plates PHOTO --script FILE --press cotton [--gain 18,22] -o OUT.tif":
        "plates PHOTO --script INKS --press cotton --gain 18,22 -o pressed.tif",
    "edition FOLDER --script FILE -o PRINTS [--name '{name}-{n:03}'] [--resume] [--json]":
        "edition PHOTO OTHER --script SCRIPT -o edition --name {name}-{n:03} --longer-side 300",
    "edition PHOTO --script FILE --sheet NAME --copies 25 --caption 'Landing, {n}/{count}' --own-grain -o PRINTS":
        "edition PHOTO --script INKS --sheet SHEET --copies 2 --caption {n}/{count} --own-grain -o numbered",
    "edition -o PRINTS --check": "edition -o edition --check",
    "wedge [--chart close|times|inks|21] [--process P.json] -o W.tif": "wedge --chart 21 -o wedge.tif",
    "read SCAN [--process P.json] -o P.json": "read scan.jpg -o process.json",
    "negative PHOTO --script FILE --process P.json --sheet NAME -o N.tif":
        "negative PHOTO --script CYAN --process process.json --sheet FILM -o negative.tif",
    "darkroom W.tif --bath cyanotype -o SCAN.jpg": "darkroom wedge.tif --bath cyanotype -o scan.jpg",
    "processes [NAME] [--json]": "processes --json",
    "look PHOTO [--json]": "look SCAN --json",
    "look SCAN --offers [--json]": "look SCAN --offers --json",
    "tint SCAN [--take best] [-o OUT]": "tint SCAN --take best -o tinted.jpg",
    "states FILE [--json]": "states kept.kyano --json",
    "differ FILE#I FILE#III": "differ kept.kyano#I kept.kyano#II",
    "render FILE.kyano#III -o OUT.tif": "render kept.kyano#II -o state.tif --longer-side 300",
    "strip PHOTO --script FILE --set levels.gamma=0.7..1.4/7 -o OUT.tif":
        "strip PHOTO --script SCRIPT --set levels.gamma=0.7..1.4/7 -o strip.tif --longer-side 600",
    "passes [NAME] [--json]": "passes --json",
    "passes --find lith": "passes --find lith",
    "check SCRIPT... [--json]": "check SCRIPT INKS --json",
}  # fmt: skip
# What another line needs comes before it, whatever README's order.
FIRST = ("wedge", "darkroom", "read")


def kernels() -> Iterator[str]:
    """Kernels that the package has no library for; and anything that a compiler could make up for it with."""
    if PLACE in str(library.READY) and importlib.util.find_spec("numba") is not None:
        yield "the environment has a compiler: this shows nothing"
    modules = build.everything()
    for level in library.LEVELS:
        for module in modules:
            file = library.place(library.READY, level, mark.library_name(module, level))
            if not file.is_file():
                yield f"{module} has no library for {level}"


def documented(readme: Path) -> list[str]:
    """The commands that README tells of, as they stand there."""
    part = readme.read_text().partition("## Without a window")[2].partition("\n## ")[0]
    return [line.split("  #")[0].strip() for line in re.findall(r"^    kyanoscript (.*)$", part, re.MULTILINE)]


def commands(readme: Path) -> Iterator[str]:
    """Every command of README, run; what does not end as it should."""
    told = documented(readme)
    yield from (f"README tells of '{line}', which is not tried" for line in told if line not in COMMANDS)
    yield from (f"'{line}' is tried, but README does not tell of it" for line in COMMANDS if line not in told)
    names = {
        "PHOTO": demo.PRINTS[0].photo, "OTHER": demo.photo("marsh-at-dusk"), "SCRIPT": demo.PRINTS[0].script,
        "RAW": demo.photo(demo.RAW), "SCAN": demo.photo("two-dyers-scan"), "INKS": demo.finished("two-inks").script,
        "CYAN": demo.finished("cyanotype").script, "SHEET": _first_sheet(demo.finished("two-inks").script),
        "FILM": _first_sheet(demo.finished("cyanotype").script),
    }  # fmt: skip
    _prepare()
    for line in sorted(COMMANDS.values(), key=lambda line: (*FIRST, line.split()[0]).index(line.split()[0])):
        words = [str(names.get(word, word)) for word in line.split()]
        done = subprocess.run(["kyanoscript", *words], capture_output=True, text=True)
        if done.returncode:
            yield f"kyanoscript {line}: status {done.returncode}: {done.stderr.strip()}"
        elif "-o" in words and not Path(words[words.index("-o") + 1]).exists():
            yield f"kyanoscript {line}: wrote nothing"
        elif "--json" in words:
            json.loads(done.stdout)
    yield from _written()


def _first_sheet(script: Path) -> str:
    return str(next(iter(json.loads(script.read_text())["sheets"])))


def _prepare() -> None:
    """A picture of two pages, a folder for prints, and a file with two states."""
    with tifffile.TiffWriter("pages.tif") as out:
        for value in (40, 200):
            out.write(np.full((60, 90, 3), value, np.uint8), photometric="rgb")
    Path("prints").mkdir()
    photo = Path(shutil.copy(demo.PRINTS[0].photo, "kept.jpg"))
    script = read_script(demo.PRINTS[0].script).script
    paler = script.with_pass(0, script.passes[0].model_copy(update={"strength": 60.0}))
    states = (
        State(script, "as it is", "", 1, "2026-11-26T10:04", 1),
        State(paler, "paler", "", 2, "2026-11-26T10:11", 1),
    )
    with Image.open(photo) as image:
        write_script(
            Path("kept.kyano"), replace(script, states=states, origin=2), PhotoRef(photo, sha256(photo), *image.size)
        )


def _written() -> Iterator[str]:
    """What is in the files that were written: pixels, pages, boxes."""
    for name, side in (("out.tif", 300), ("raw.tif", 300), ("sepia.tif", 300), ("state.tif", 300)):
        pixels = tifffile.imread(name)
        if max(pixels.shape[:2]) != side:
            yield f"{name} is {pixels.shape[1]} × {pixels.shape[0]}"
        if pixels.std() < 0.02 * np.iinfo(pixels.dtype).max:
            yield f"{name} shows nothing: its values hardly differ"
    followed = [each.kind for each in read_script(Path("after.json")).script.passes]
    if "toner-bath" not in followed:
        yield f"after.json does not follow a print that was toned in a sepia bath: {followed}"
    with Image.open("dots.tif") as dots:
        if dots.mode != "1":
            yield f"dots.tif is not 1-bit but {dots.mode}"
    with pikepdf.open("sheet.pdf") as pdf:
        box = [float(v) for v in pdf.pages[0].mediabox]
        drawn = [each for each in pdf.objects if isinstance(each, pikepdf.Stream) and each.get("/Subtype") == "/Image"]
        if not drawn or min(box[2], box[3]) < 200:
            yield f"sheet.pdf has no print on its page, which is {box}"


def prints(kept: Path) -> Iterator[str]:
    """The demo's prints against those that a checkout makes on this machine."""
    wanted = json.loads(kept.read_text())
    Path("demo").mkdir()
    done = subprocess.run(
        [sys.executable, Path(__file__).with_name("prints.py"), "demo"], capture_output=True, text=True
    )
    if done.returncode:
        yield f"the demo's prints could not be rendered: {done.stderr.strip()}"
        return
    found = json.loads(done.stdout)
    yield from (f"the demo's print {word} is another one" for word in wanted if found.get(word) != wanted[word])


def window() -> Iterator[str]:
    """Every view and every page of the Sheet view entered; what the foot warns of is said."""
    from PySide6.QtWidgets import QApplication

    from kyanoscript.ui.app.picture import settle
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.sheet.furnished import PAGES
    from kyanoscript.ui.widgets import theme

    application = QApplication.instance() or QApplication([])
    theme.apply(application)  # type: ignore[arg-type]  # it is one with widgets
    made = Window()
    warned: list[str] = []
    made.foot.warned.connect(warned.append)
    made.resize(1280, 800)
    made.show()
    print_ = demo.finished("two-inks")
    made.opening.open(print_.photo, print_.script)
    if not settle(made):
        yield "the window does not come to rest"
    if not made.easel.complete:
        yield "the window does not show the print"
    for view in made.views():
        made.registry.go(view)
        settle(made)
        if made.registry.view is not view:
            yield f"the view {type(view).__name__} cannot be entered"
    for page in [page for row in PAGES for page in row]:
        made.registry.go(made.sheet)
        made.sheet.laying.turn(page)
        settle(made)
    yield from (f"the window warns: {text}" for text in warned)
    made.desk.saved_as(Path(), made.desk.whole)
    made.close()


def picture() -> Iterator[str]:
    """The demo's window, drawn by the command line."""
    done = subprocess.run(["kyanoscript", "--demo", "--picture", "window.png"], capture_output=True, text=True)
    if done.returncode or done.stderr:
        yield f"kyanoscript --demo --picture: status {done.returncode}: {done.stderr.strip()}"


def left_behind() -> Iterator[str]:
    """Anything compiled or written down: nothing was to be."""
    compiled = [str(file) for file in Path.home().rglob("*.so")]
    if compiled:
        yield f"something was compiled: {', '.join(compiled)}"
    if log.path().exists():
        yield f"something went wrong: {log.path().read_text()}"


def main(words: list[str]) -> int:
    """Try what is asked for; returns the status."""
    if words == ["kernels"]:
        parts: list[Callable[[], Iterator[str]]] = [kernels]
    else:
        readme, kept = map(Path, words)
        parts = [kernels, lambda: commands(readme), lambda: prints(kept), window, picture, left_behind]
    wrong = 0
    for part in parts:
        for line in part():
            print(line, file=sys.stderr, flush=True)
            wrong += 1
    return min(wrong, 1)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
