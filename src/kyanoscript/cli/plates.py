"""``plates``: every ink of a print as a gray picture of its own."""

from __future__ import annotations

import argparse
import json

from kyanoscript.cli.sheets import asked_on_paper, sheet_with
from kyanoscript.core.paper.layout import remarks
from kyanoscript.core.paper.screens import Screen
from kyanoscript.files.photo import open_photo
from kyanoscript.files.plates import Plates, left_out, plates_of, write_plates
from kyanoscript.files.sheets import shape_of
from kyanoscript.terminal import DASH, OK, complain, spooled


def plates(options: argparse.Namespace) -> int:
    """Write them. Raises FileError, ScriptError."""
    if options.output == DASH:
        return complain("plates go into a file or a folder; name one with -o")
    asked, mine = asked_on_paper(options)
    paper = sheet_with(options.sheet, asked.script, mine) if options.sheet or mine else None
    photo = open_photo(spooled(options.photos[0], "photo"), hold=False)
    dots = options.screen and Screen(options.screen, options.ruling, 0.0, options.grain, options.device)
    job = Plates(
        photo, asked.script, asked.pictures(photo.path), paper, options.bits, trap=options.trap,
        knock_out=options.knock_out, screen=dots or None, angles=options.angles, gain=options.gain,
        ppi=options.device if dots else 300.0,
    )  # fmt: skip
    try:
        inks, said = plates_of(asked.script, options.angles), left_out(asked.script, job)
        written = write_plates(job, options.output, separated=options.separated)
    except ValueError as error:
        return complain(str(error))
    if paper is not None:
        across, shape = shape_of(photo, asked.script)
        said += remarks(paper, shape, across)
    if options.json:
        rows = [{"name": ink.name, "colour": ink.colour, "most": ink.most, "angle": ink.angle} for ink in inks]
        print(json.dumps({"files": [str(path) for path in written], "plates": rows, "remarks": said}, indent=2,
                         ensure_ascii=False))  # fmt: skip
        return OK
    for path in written:
        print(path.name)
    for line in (*(f"{ink.name}, {ink.most:g} % at most" for ink in inks), *said):
        print(line)
    return OK
