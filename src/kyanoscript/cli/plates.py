"""``plates``: every ink of a print as a gray picture of its own."""

from __future__ import annotations

import argparse
import json
from dataclasses import replace

from kyanoscript.cli.declared import given
from kyanoscript.cli.sheets import asked_on_paper, cut_off, sheet_with
from kyanoscript.core.paper.layout import pixels_per_inch, remarks
from kyanoscript.core.paper.presses import GAINS, PRESSES
from kyanoscript.core.paper.sheet import Plates
from kyanoscript.core.print.plates import Making, left_out, making_of, plates_of, printing
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.out import Out, shape_of, write
from kyanoscript.files.prints.plates import InPlates
from kyanoscript.files.prints.settings import Settings
from kyanoscript.terminal import DASH, OK, complain, spooled
from kyanoscript.translation import tr


def plates(options: argparse.Namespace) -> int:
    """Write them. Raises FileError, ScriptError."""
    if options.output == DASH:
        return complain(tr("plates go into a file or a folder; name one with -o"))
    asked, mine = asked_on_paper(options)
    values = {**_press(options), **given(options, Plates)}
    how = [f"sheet.{name}={json.dumps(value)}" for name, value in values.items()]
    photo = open_photo(spooled(options.photos[0], "photo"), hold=False)
    asked = asked.of(photo)
    across, shape = shape_of(photo, asked.script)
    sheet = sheet_with(options.sheet, asked.script, [*mine, *how], shape)
    paper = sheet if options.sheet or mine else None
    if paper is not None and (words := cut_off(paper, shape, options.crop)) is not None:
        return complain(words)
    if options.ppi is not None and not 1 <= options.ppi <= 100_000:
        return complain(tr("ppi is {ppi:g}; it must be 1…100000", ppi=options.ppi))
    ppi = options.ppi or photo.ppi
    if options.ppi is None and asked.script.sheets:  # as large as on the script's own sheet
        ppi = pixels_per_inch(across, sheet.placing.across)
    making = replace(making_of(sheet), sheet=paper, angles=options.angles, ppi=ppi or Making.ppi)
    if paper is None and making.screen is not None and ppi is None:
        return complain(tr("the photograph does not say how large it is, and dots have a size; say how many of its "
                        "pixels "
                        "go to the inch with --ppi 300, or lay the plates on a sheet"))  # fmt: skip
    wanted = Out(photo, asked.script, asked.pictures(photo.path), options.output, InPlates(making, options.separated),
                 Settings(bits=options.bits))  # fmt: skip
    try:
        inks, said = plates_of(asked.script, making), left_out(asked.script, making)
        words = printing(asked.script, making)
        hint = "; say what yours does with --press" if making.press.plain else ""
        said += [tr("the plates are {words}{hint}", words=words, hint=hint)] if words else []
        written = write(wanted).files
    except ValueError as error:
        return complain(str(error))
    if paper is not None:
        said += remarks(paper, shape, across)
    if options.json:
        rows = [{"name": ink.name, "colour": ink.colour, "most": ink.most, "angle": ink.angle} for ink in inks]
        print(json.dumps({"files": [str(path) for path in written], "plates": rows, "remarks": said}, indent=2,
                         ensure_ascii=False))  # fmt: skip
        return OK
    for path in written:
        print(path.name)
    for line in (*(tr("{name}, {most:g} % at most", name=ink.name, most=ink.most) for ink in inks), *said):
        print(line)
    return OK


def _press(options: argparse.Namespace) -> dict[str, float]:
    """Values of the sheet for a press that is usual, and for gains that are said."""
    made = PRESSES[options.press].values() if options.press else {}
    gains = options.gain
    return {**made, **dict(zip(GAINS, gains if len(gains) > 1 else gains * len(GAINS), strict=False))}
