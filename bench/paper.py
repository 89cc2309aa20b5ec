"""(r) What a proof costs each picture, and a sheet of A2 at 360 pixels per inch against reading its photograph."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import numpy as np

from kyanoscript import demo

ROUNDS = 15
_WRITE = """
import sys, time
from pathlib import Path
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.render.prepare import prepare
from kyanoscript.core.script import loads
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
prepare()
photo = open_photo(Path(sys.argv[1]), hold=False)
script = loads(Path(sys.argv[2]).read_text())
sheet = Sheet.of(width=594, height=420, across=540, middle=True, profile="bench")
began = time.perf_counter()
size = write(Out(photo, script, Pictures(photo.path, None), Path(sys.argv[3]), OnSheet(sheet), Settings(bits=8)))[:2]
print(time.perf_counter() - began, *size)
"""


def proof(_: Path) -> dict[str, float]:
    """A view of 1280 × 800 through a proof, through a plain table, and without; milliseconds, two threads."""
    from kyanoscript.core.colour import BT2020, SRGB
    from kyanoscript.core.paper.sheet import Sheet
    from kyanoscript.files.colour.proofs import proof_of
    from kyanoscript.ui.service import display

    planes = np.random.default_rng(0).uniform(0, 1, (3, 800, 1280)).astype(np.float32)
    halves = [np.ascontiguousarray(planes[:, :400]), np.ascontiguousarray(planes[:, 400:])]
    paper = proof_of(Sheet.of(profile="bench"))
    ways = {
        "none": lambda part: display.screen().shown(part, SRGB),
        "space": lambda part: display.screen().shown(part, BT2020),
        "proof": lambda part: display.Viewing(proof=paper).shown(part, SRGB),
    }
    row = {}
    for name, work in ways.items():
        times = []
        with ThreadPoolExecutor(2) as pool:
            for _ in range(ROUNDS):
                began = time.perf_counter()
                list(pool.map(work, halves))
                times.append(time.perf_counter() - began)
        row[name] = 1e3 * min(times)
    return row


def sheet(folder: Path) -> dict[str, Any]:
    """24 MP onto A2: seconds and peak memory of a process of its own, as TIFF."""
    import cv2

    pixels = cv2.imread(str(demo.photo("ferry-landing")))
    large = folder / "large.tif"
    cv2.imwrite(str(large), cv2.resize(pixels, (6000, 4000), interpolation=cv2.INTER_CUBIC))
    began = time.perf_counter()
    cv2.imread(str(large))
    reading = time.perf_counter() - began
    words = [sys.executable, "-c", _WRITE, str(large), str(demo.finished("duotone").script), str(folder / "a2.tif")]
    said = subprocess.run(words, check=True, capture_output=True, text=True).stdout.split()
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    seconds = float(said[0])
    return {"seconds": seconds, "ratio": seconds / reading, "pixels": [int(v) for v in said[1:]], "megabytes": peak}
