"""The demo's prints as the command line makes them, small; and what they are known by. Usage: prints.py FOLDER"""

from __future__ import annotations

import contextlib
import hashlib
import io
import json
import sys
from pathlib import Path
from typing import Any

import numpy as np
import tifffile

from kyanoscript import demo
from kyanoscript.cli import main
from kyanoscript.core.kernel.library import level

LONGER = 300


def made(print_: demo.Print, folder: Path) -> np.ndarray[Any, np.dtype[np.uint16]]:
    """One of them, 16 bits a value."""
    out = folder / f"{print_.word}.tif"
    words = ["render", str(print_.photo), "--script", str(print_.script), "-o", str(out), "--longer-side", str(LONGER)]
    with contextlib.redirect_stdout(io.StringIO()):
        status = main([*words, "--compression", "none", "-q"])
    if status:
        raise RuntimeError(f"{print_.word}: render ended with status {status}")
    return np.asarray(tifffile.imread(out), np.uint16)


def digest(pixels: np.ndarray[Any, Any]) -> str:
    """What a print is known by: another one as soon as one value is."""
    return hashlib.sha256(np.ascontiguousarray(pixels).tobytes() + str(pixels.shape).encode()).hexdigest()[:16]


if __name__ == "__main__":
    place = Path(sys.argv[1])
    print(json.dumps({"level": level(), **{each.word: digest(made(each, place)) for each in demo.PRINTS}}))
