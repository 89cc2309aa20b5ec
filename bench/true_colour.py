"""(m) True colour: wide photographs in the twelve-pass script, the screen's table, a large raw in the window."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

import measure
import twelve_passes
from kyanoscript import demo
from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB
from kyanoscript.core.picture import Rect, read
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos.photo import open_photo

sys.path.insert(0, str(measure.HERE.parent))


def spaces(folder: Path) -> dict[str, Any]:
    """The twelve-pass line by the photograph's space, sRGB first; every picture holds the same numbers."""
    file = twelve_passes._file(folder)
    pixels = tifffile.imread(measure.picture(folder))
    row: dict[str, Any] = {}
    words = {}
    for name, icc in (
        ("sRGB", profiles.of_space(SRGB)),
        ("Display P3", profiles.of_space(DISPLAY_P3)),
        ("BT.2020", profiles.of_space(BT2020)),
        ("opRGB", profiles.oprgb()),
    ):
        photo = folder / f"{name.replace(' ', '-')}.tif"
        tifffile.imwrite(photo, pixels, photometric="rgb", rowsperstrip=64, iccprofile=icc)
        words[name] = measure.render_words(photo, file, folder / "wide.tif")
        measure.run(words[name])
    times: dict[str, list[float]] = {name: [] for name in words}
    for _ in range(3):  # in turn, so that the machine's mood counts for all
        for name, line in words.items():
            times[name].append(measure.run(line)[0])
    for name, found in times.items():
        row[name] = min(found)
        row[f"{name} ratio"] = min(found) / row["sRGB"]
    return row


def table() -> dict[str, float]:
    """1280 × 800 through the monitor's table, on two threads, and without a table; milliseconds, best of 40."""
    from kyanoscript.ui.service import display

    photo = open_photo(demo.photo("ferry-landing")).source
    share = max(1280 / photo.width, 800 / photo.height)
    planes = np.ascontiguousarray(read(photo, Rect(0, 0, 1280, 800), share))
    whole, parts = Rect(0, 0, 1280, 800), [Rect(0, 0, 1280, 400), Rect(0, 400, 1280, 400)]
    out = np.empty((800, 1280, 4), np.uint8)
    halves = [np.ascontiguousarray(planes[:, p.y : p.bottom]) for p in parts]
    row = {}
    with ThreadPoolExecutor(2) as pool:
        for name, space in (("plain", SRGB), ("table", BT2020)):
            best = 1e9
            for _ in range(40):
                began = time.perf_counter()
                list(pool.map(lambda k, s=space: display.screen().place(halves[k], parts[k], whole, out, s), (0, 1)))
                best = min(best, time.perf_counter() - began)
            row[name] = best * 1e3
    return row


_WINDOW = """
import json, resource, sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.service.views import Shown
from kyanoscript.ui.widgets import theme
app = QApplication([])
theme.apply(app)
window = Window()
window.show()
settle(window)
seen = {}
def shown(_):
    photo = window.desk.photo
    seen.setdefault("first" if photo.stand_in else "developed", time.perf_counter() - began)
window.service.answers(Shown).connect(shown)
began = time.perf_counter()
window.opening.open(Path(sys.argv[1]))
settle(window)
seen["megabytes"] = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
seen["size"] = window.desk.photo.size
print(json.dumps(seen))
window.desk.saved_as(None, window.desk.script)
window.close()
"""


def raw(folder: Path) -> dict[str, Any]:
    """A raw of 45 megapixels in the window: seconds to its preview and to the half-size development, memory."""
    import cv2
    from tools.demo_raw import camera_for, channels_of, mosaic_of, write_dng

    from kyanoscript.core import colour
    from kyanoscript.core.develop import White

    file = folder / "large.dng"
    small = cv2.imread(str(demo.photo("ferry-landing")))[..., ::-1]
    large = cv2.resize(small, (8256, 5504), interpolation=cv2.INTER_CUBIC)
    camera = camera_for(White(4300, 8))
    mosaic = np.empty((5504, 8256), np.uint16)
    for y in range(0, 5504, 344):
        light = colour.to_light(np.moveaxis(large[y : y + 344], 2, 0) / 255)
        mosaic[y : y + 344] = mosaic_of(channels_of(light, camera, 0.55), noise=0.004, seed=y)
    write_dng(file, mosaic, camera, large)
    best: dict[str, Any] = {}
    for _ in range(3):
        done = subprocess.run(
            [sys.executable, "-c", _WINDOW, str(file)], capture_output=True, text=True, check=True,
            env={**os.environ, "KYANOSCRIPT_STATE": str(folder / "state"), "QT_QPA_PLATFORM": "offscreen"},
        )  # fmt: skip
        found = json.loads(done.stdout.splitlines()[-1])
        best = found if not best or found["developed"] < best["developed"] else best
    return best
