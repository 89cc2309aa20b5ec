"""Large photographs in the window, and what the window holds at 24 MP with the recipes beside it.

Every file is opened by a process of its own, twice: the first makes the copy in the cache folder, the second finds it.
The other side is the plain reading of the same file by the library that it is written with.
"""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import tifffile

import measure
import twelve_passes
from kyanoscript import demo

_IN_THE_WINDOW = """
import sys, time, json, resource
sys.path.insert(0, {here!r})
from pathlib import Path
import interface
from PySide6.QtWidgets import QApplication
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
application = QApplication([])
window = Window()
window.show()
seen = []
window.easel.painted.connect(lambda frame: seen.append(time.perf_counter()))
began = time.perf_counter()
window.opening.open(Path(sys.argv[1]), Path(sys.argv[2]))
while not seen:
    interface.wait(0.005)
first = seen[0] - began
settle(window)
whole = time.perf_counter() - began
import window as drags
window.desk.select(0)
settle(window)
row = drags._drag(window, (0, "exposure", -0.5, 0.5))
peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(json.dumps({{"first": first, "whole": whole, "peak": peak, "a_second": row["frames_a_second"]}}), flush=True)
interface.closed(window)
"""
_HELD = """
import sys, json, resource
sys.path.insert(0, {here!r})
from pathlib import Path
import interface, recipes, twelve_passes
from kyanoscript.ui.app.picture import settle
window = interface.opened(Path(sys.argv[1]), twelve_passes.script())
row = {{"opened": recipes._resident()}}
window.registry.go(window.recipes)
settle(window)
row["recipes"] = recipes._resident()
window.recipes.trials.grid.forget()
window.recipes.trials._ask()
settle(window)
row["again"] = recipes._resident()
row["peak"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
print(json.dumps(row), flush=True)
interface.closed(window)
"""


def _process(code: str, folder: Path, *words: object) -> dict[str, Any]:
    here = {**os.environ, "KYANOSCRIPT_CACHE": str(folder / "cache"), "KYANOSCRIPT_STATE": str(folder / "state")}
    line = [sys.executable, "-W", "ignore", "-c", code.format(here=str(measure.HERE)), *map(str, words)]
    done = subprocess.run(line, capture_output=True, text=True, env=here)
    if done.returncode:
        raise SystemExit(done.stderr)
    row: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
    return row


def opened(folder: Path) -> list[dict[str, Any]]:
    """A TIFF of 400 MP in tiles and a JPEG of 100 MP, with the twelve passes, in a window of 1280 × 800."""
    script, rows = twelve_passes._file(folder), []
    for what, file, plain in (
        ("TIFF, 400 MP", measure.picture(folder, 400, tiled=True), _all_tiles),
        ("JPEG, 100 MP", _jpeg(folder), lambda file: cv2.imread(str(file))),
    ):
        began = time.perf_counter()
        plain(file)
        read = time.perf_counter() - began
        rows.append({"what": what, "read": read})
        for turn in ("new", "again"):
            rows[-1][turn] = _process(_IN_THE_WINDOW, folder, file, script)
    return rows


def held(folder: Path) -> dict[str, Any]:
    """Megabytes of the window's process with the twelve passes at 24 MP, then with the recipes shown."""
    return _process(_HELD, folder, folder)


def _all_tiles(file: Path) -> None:
    with tifffile.TiffFile(file) as tiff:
        for piece in tiff.pages[0].segments():
            np.asarray(piece[0])


def _jpeg(folder: Path) -> Path:
    file = folder / "landing-100mp.jpg"
    if not file.exists():
        small = cv2.imread(str(demo.photo("ferry-landing")))
        cv2.imwrite(str(file), cv2.resize(small, (12247, 8165), interpolation=cv2.INTER_CUBIC))
    return file
