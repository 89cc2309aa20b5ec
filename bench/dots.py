"""(s) A plate as dots against copying its bits; A3 at 2400 pixels per inch in a process of its own."""

from __future__ import annotations

import resource
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

import numpy as np

from kyanoscript import demo

ROUNDS = 5
_WRITE = """
import sys, time
from pathlib import Path
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.render.prepare import prepare
from kyanoscript.core.script import loads
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.core.print.plates import making_of
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.plates import InPlates
prepare()
photo = open_photo(Path(sys.argv[1]), hold=False)
script = loads(Path(sys.argv[2]).read_text())
dots = {"screen": "round", "ruling": 133, "device": 2400}
sheet = Sheet.of(width=420, height=297, across=380, middle=True, registers=True, **dots)
began = time.perf_counter()
write(Out(photo, script, Pictures(photo.path, None), Path(sys.argv[3]), InPlates(making_of(sheet))))
print(time.perf_counter() - began)
"""


def screened(_: Path) -> dict[str, float]:
    """A band of coverage of 39685 × 256 pixels into packed dots, and a copy of those bits; milliseconds each."""
    from kyanoscript.core.paper import screens

    coverage = screens.covered(np.random.default_rng(0).random((256, 39_685)))
    tile = screens.tile_of(screens.Screen("round", 133, 15))
    row = {"dots": [], "copy": []}
    for _ in range(ROUNDS):
        began = time.perf_counter()
        bits = np.packbits(screens.screened(coverage, tile), axis=1)
        row["dots"].append(time.perf_counter() - began)
        began = time.perf_counter()
        bits.copy()
        row["copy"].append(time.perf_counter() - began)
    return {name: 1e3 * min(times) for name, times in row.items()}


def a3(folder: Path) -> dict[str, Any]:
    """Two plates of A3: seconds, peak memory, and how long copying the file takes that came of it."""
    target = folder / "dots.tif"
    print_ = demo.finished("duotone")
    words = [sys.executable, "-c", _WRITE, str(print_.photo), str(print_.script), str(target)]
    seconds = float(subprocess.run(words, check=True, capture_output=True, text=True).stdout)
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    began = time.perf_counter()
    (folder / "copy.bin").write_bytes(np.zeros(2 * 28_063 * 4961, np.uint8).tobytes())  # their bits, unpacked
    copying = time.perf_counter() - began
    return {"seconds": seconds, "megabytes": peak, "file": target.stat().st_size / 1e6, "ratio": seconds / copying}
