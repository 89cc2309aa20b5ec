"""``strip``: a value in steps across the print, as a picture with labels."""

from __future__ import annotations

import argparse
import json

from kyanoscript.cli.declared import given
from kyanoscript.cli.rendering import asked_of
from kyanoscript.cli.sheets import cut_off, sheet_with
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.script.complaint import read
from kyanoscript.core.script.dials import FIELD, Dial, bands, dial_named, span, told
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.prints.out import Out, What, shape_of, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.strips import InBands
from kyanoscript.terminal import DASH, OK, complain, spooled
from kyanoscript.translation import tr


def strip(options: argparse.Namespace) -> int:
    """Write it. Raises FileError, ScriptError."""
    rows = [words for words in options.set if ".." in words.partition("=")[2]]
    if not 1 <= len(rows) <= 2:
        return complain(tr("a strip needs one row of values, or two for a field, as --set levels.gamma=0.7..1.4/7"))
    if options.output == DASH:
        return complain(tr("a strip goes into a file; name one with -o"))
    if not 1 <= options.threads <= 64:
        return complain(tr("threads is {threads}; it must be 1…64", threads=options.threads))
    mine = [words for words in options.set if words.startswith("sheet.")]
    options.set = [words for words in options.set if words not in (*rows, *mine)]
    asked = asked_of(options)
    photo: Photo = open_photo(spooled(options.photo, "photo"), hold=False)
    asked = asked.of(photo)
    axes: list[tuple[Dial, tuple[float, ...], list[str]]] = []
    for words in rows:
        name, _, row = words.partition("=")
        dial, (low, high, count) = dial_named(asked.script, name), span(row)
        if len(rows) == 2 and count > FIELD:
            return complain(tr("a field has {field} values each way at most", field=FIELD))
        spec = dial.spec(asked.script)
        assert spec is not None
        for end in (low, high):
            if not spec.low <= end <= spec.high:
                return complain(tr("{name} is {end:g}; it must be {spec}", name=name, end=end, spec=spec.range_text()))
        values = bands(spec, dial.value(asked.script), low, high, count, eye=spec.ratio and not options.equal)
        axes.append((dial, values, [told(spec, value, values) for value in values]))
    first, *second = axes
    scripts, labels = [], []
    for b in range(len(second[0][1]) if second else 1):
        base = second[0][0].put(asked.script, second[0][1][b]) if second else asked.script
        for a, value in enumerate(first[1]):
            scripts.append(first[0].put(base, value))
            labels.append(first[2][a] + (f", {second[0][2][b]}" if second else ""))
    many = len(first[1])
    grid = (many, len(second[0][1])) if second else ((1, many) if options.down else (many, 1))
    settings = read(Settings, given(options, Settings), "strip")
    bands_ = Bands(tuple(scripts), tuple(labels), grid, options.same)
    what: What = InBands(bands_)
    lies = ""
    if options.sheet is not None or mine:
        if settings.longer_side is not None:
            return complain(tr("on a sheet the strip is as large as the print; leave --longer-side out"))
        shape = shape_of(photo, asked.script)[1]
        paper = sheet_with(options.sheet, asked.script, mine, shape)
        if (words := cut_off(paper, shape, options.crop)) is not None:
            return complain(words)
        what, settings = OnSheet(paper, bands_), Settings(bits=8)
        lies = tr(" on {width:g} × {height:g} mm", width=paper.paper.width, height=paper.paper.height)
    pictures = asked.pictures(photo.path)
    try:
        made = write(Out(photo, asked.script, pictures, options.output, what, settings, threads=options.threads))
    except ValueError as error:
        return complain(str(error))
    said = tr(
        "{name}: {count} bands{lies}, {width} × {height} px",
        name=options.output.name,
        count=len(scripts),
        lies=lies,
        width=made.width,
        height=made.height,
    )
    if options.json:
        print(
            json.dumps({"strip": str(options.output), "bands": labels, "columns": grid[0], "rows": grid[1]}, indent=2)
        )
    else:
        print("\n".join((said, *made.remarks)))
    return OK
