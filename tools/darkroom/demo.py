"""Makes what the demo has of processes: two of Marrow Quay, measured in the bench darkroom as anybody would, with the
scan of a wedge; a finished negative and a set of plates. Run as ``python tools/darkroom/demo.py``.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from kyanoscript import demo
from kyanoscript.core.print.plates import making_of
from kyanoscript.core.process import chart as charts
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.process import Process
from kyanoscript.core.process.taken import strip_of, taken
from kyanoscript.core.script import loads
from kyanoscript.files.kept.processfile import SUFFIX, read_process, write_process
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.negatives import AsNegative
from kyanoscript.files.prints.out import Out, write
from kyanoscript.files.prints.plates import InPlates
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.standins.darkroom import practised

HERE = Path(demo.__file__).parent
PROCESSES = (
    ("cyanotype", Process(name="Cyanotype", paper="cotton", chemistry="cyanotype, brushed twice",
                          light="tubes, 60 mm away", humidity=55, date="2026-11-02", aim="lightness",
                          notes="Rinsed until the lights are clear, dried flat")),
    ("platinum", Process(name="Platinum", paper="vellum", chemistry="platinum–palladium, 1 : 1",
                         light="tubes, 60 mm away", humidity=60, date="2026-10-09", aim="lightness",
                         notes="Warm developer")),
)  # fmt: skip


def main() -> None:
    """Everything."""
    for key, process in PROCESSES:
        made, scan = measured(key, process)
        write_process(HERE / "processes" / f"{made.name}{SUFFIX}", made)
        if scan is not None and key == "cyanotype":
            Image.fromarray(scan).save(HERE / "processes" / f"{made.name}.scan.jpg", quality=86, dpi=(200, 200))
        print(made.name, made.ink, made.minutes, made.scale())
    films()


def measured(key: str, process: Process) -> tuple[Process, NDArray[np.uint8] | None]:
    """As anybody would: time, filter ink, wedge, proof."""
    bath = BATHS[key]
    strip = strip_of(f"{bath.minutes / 100:g}..{bath.minutes * 5:g}")
    for step, chart in enumerate((charts.times(), charts.inks(), charts.wedge(21))):
        scan, found = practised(process, bath, chart, False, strip if step == 0 else (), 11 + step)
        process, said = taken(process, found, strip=strip if step == 0 else ())
        if step == 0:
            process = process.with_(minutes=round(process.minutes * 2) / 2)
        print(*found.said(), *said, sep="; ")
    _, proof = practised(process, bath, charts.wedge(21), True, (), 21)
    process, _ = taken(process, proof, proving=True)
    return process, scan


def films() -> None:
    """A finished negative for the cyanotype, and the plates of a print in two inks."""
    process = read_process(HERE / "processes" / f"Cyanotype{SUFFIX}")
    print_ = demo.finished("cyanotype")
    photo, script = open_photo(print_.photo), loads(print_.script.read_text())
    sheet = script.sheets[0][1].model_copy(update={"resolution": 100.0})
    what, target = AsNegative(sheet, (process,)), HERE / "films" / "ferry-landing-negative.png"
    print(write(Out(photo, script, Pictures(print_.photo, None), target, what, Settings(bits=8))))
    print_ = demo.finished("two-inks")
    photo, script = open_photo(print_.photo), loads(print_.script.read_text())
    sheet = script.sheets[0][1].model_copy(update={"device": 600.0})
    target = HERE / "films" / "marsh-two-plates.tif"
    print(write(Out(photo, script, Pictures(print_.photo, None), target, InPlates(making_of(sheet)))))


if __name__ == "__main__":
    main()
