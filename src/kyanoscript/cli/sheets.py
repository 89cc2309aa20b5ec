"""``sheet``: the print on its paper, into a file, or to the bench printer."""

from __future__ import annotations

import argparse
import json
from pathlib import Path

from kyanoscript.cli import printers
from kyanoscript.cli.rendering import asked_of, own_photograph
from kyanoscript.core.paper.layout import (
    beyond,
    filled,
    first_sheet,
    fitting,
    laid,
    needed,
    pixels_per_inch,
    remarks,
)
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sheet import HOME, Sheet, in_parts
from kyanoscript.core.paper.sizes import name_of
from kyanoscript.core.quoting import quoted
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.core.script.address import plain
from kyanoscript.core.script.complaint import nearest
from kyanoscript.core.script.json import sheet_from_json
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.kept.sheetfile import read_sheet
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.out import Out, shape_of, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.standins import benchprinter
from kyanoscript.terminal import DASH, OK, complain, spooled
from kyanoscript.translation import tr


def sheet(options: argparse.Namespace) -> int:
    """Write or print it. Raises FileError, ScriptError."""
    if options.output == DASH:
        return complain(tr("a sheet goes into a file; name one with -o"))
    if not 1 <= options.copies <= 999:
        return complain(tr("copies is {copies}; it must be 1…999", copies=options.copies))
    if not options.printer and options.output is None:
        return complain(tr("name a file with -o, or print with --printer"))
    asked, mine = asked_on_paper(options)
    photo = open_photo(spooled(options.photos[0], "photo"), hold=False)
    asked = asked.of(photo)
    across, shape = shape_of(photo, asked.script)
    lying = sheet_with(options.sheet, asked.script, mine, shape)
    paper = lying.paper
    if options.margin is not None:
        if "across" in names_of(mine):
            return complain(tr("sheet.across and --margin both tell how large the print is; leave one of them out"))
        if not 0 <= options.margin < min(paper.width, paper.height) / 2:
            return complain(
                tr(
                    "margin is {margin:g} mm; of a sheet of {width:g} × {height:g} mm it leaves no print",
                    margin=options.margin,
                    width=paper.width,
                    height=paper.height,
                )
            )
        lying = lying.with_values(across=fitting(lying, shape, options.margin), middle=True)
    wanted = Out(
        photo, asked.script, asked.pictures(photo.path), options.output or Path("sheet.png"),
        OnSheet(lying, trimmed=options.trimmed), Settings(bits=options.bits), threads=options.threads,
    )  # fmt: skip
    said = remarks(lying, shape, across)
    if (words := cut_off(lying, shape, options.crop)) is not None:
        return complain(words)
    try:
        if options.printer not in (None, printers.BENCH):
            words = printers.send(wanted, options.printer, options.gray, options.copies, _chosen(options))
            out: dict[str, object] = {"printer": options.printer}
        elif options.printer:
            place = benchprinter.print_sheet(wanted, into=options.spool)
            out = {"job": str(place)}
            words = f"{place.name}: {place / 'paper.png'}"
        else:
            made = write(wanted)
            out = {"sheet": str(options.output), "pixels": [made.width, made.height]}
            said += made.remarks
            words = tr("{name}: {width} × {height} px", name=options.output.name, width=made.width, height=made.height)
    except ValueError as error:
        return complain(str(error))
    if options.json:
        place_ = laid(lying, shape).prints[0]
        facts = {
            "paper": [paper.width, paper.height], "size": name_of(paper.width, paper.height),
            "print": [round(v, 3) for v in (place_.x, place_.y, place_.width, place_.height)],
            "ppi": round(pixels_per_inch(across, lying.placing.across), 1),
            "ppi needed": round(needed(lying.placing.across, shape), 1),
            "remarks": said,
        }  # fmt: skip
        print(json.dumps(out | facts, indent=2, ensure_ascii=False))
        return OK
    print(f"{words}, {told(paper.width)} × {told(paper.height)}")
    for line in said:
        print(line)
    return OK


def _chosen(options: argparse.Namespace) -> dict[str, str]:
    """What a printer is to take, by what it is about."""
    said = {what: getattr(options, what) for what in ("media", "tray", "quality", "colour")}
    return {what: choice for what, choice in said.items() if choice is not None}


def asked_on_paper(options: argparse.Namespace) -> tuple[Asked, list[str]]:
    """The script with the values set, and those that are of its sheet. Raises FileError, ScriptError."""
    options.photos = [options.photo]
    own_photograph(options)
    mine = [words for words in options.set if words.startswith("sheet.")]
    options.set = [words for words in options.set if words not in mine]
    return asked_of(options), mine


def sheet_with(name: str | None, script: Script, values: list[str], shape: float) -> Sheet:
    """A sheet with values set, for a print of a shape. Raises FileError, ScriptError."""
    sheet = _named(name, script)
    if sheet is not None:
        return _set(sheet, values)
    made = _set(first_sheet(shape), values)
    return made if "across" in names_of(values) else filled(made, shape)


def sheet_in(name: str, script: Script) -> Sheet:
    """A sheet of a script, or of a file, by its name. Raises FileError, ScriptError."""
    found = _named(name, script)
    assert found is not None
    return found


def names_of(values: list[str]) -> set[str]:
    """Which of a sheet's values are set."""
    return {words.partition("=")[0].rpartition(".")[2].strip() for words in values}


def cut_off(sheet: Sheet, shape: float, allowed: bool) -> str | None:
    """Why a print is not put on a sheet that has not room for it, in words; None if it has, or that is allowed."""
    most = 0.0 if allowed else beyond(sheet, shape)
    if most <= 0:
        return None
    return tr(
        "the print reaches {most} beyond the paper of {width} × {height}; make it smaller with --set "
        "sheet.across=MM, or cut off what reaches beyond with --crop",
        most=told(most),
        width=told(sheet.paper.width),
        height=told(sheet.paper.height),
    )


def _named(name: str | None, script: Script) -> Sheet | None:
    """A sheet of the script by its name, or of a file; without a name the script's first, if it has any."""
    if name is None:
        return script.sheets[0][1] if script.sheets else None
    known = dict(script.sheets)
    if name in known:
        return known[name]
    if Path(name).exists():
        return read_sheet(Path(name))[1]
    raise ScriptError(
        tr(
            "there is no sheet {name}, and no file of that name{name2}",
            name=quoted(name),
            name2=nearest(name, list(known)),
        )
    )


def _set(sheet: Sheet, words: list[str]) -> Sheet:
    """With values set, one after another."""
    made = sheet.plain()
    for each in words:
        name, equals, written = each.removeprefix("sheet.").partition("=")
        if not equals:
            raise ScriptError(tr("{each} cannot be set; write it as sheet.across=300", each=quoted(each)))
        *places, last = name.strip().split(".")
        if places not in ([], [HOME.get(last)]):
            raise ScriptError(
                tr(
                    "{each}: a sheet has no {quoted}; write it as sheet.across=300",
                    each=quoted(each),
                    quoted=quoted(name.strip()),
                )
            )
        said = {last: plain(written)}
        if last in ("left", "top") and not any("middle" in other for other in words):
            said["middle"] = False  # put somewhere, it is not in the middle any more
        for place, new in in_parts(said).items():
            made[place] = {**made.get(place, {}), **new} if isinstance(new, dict) else new
    return sheet_from_json(made)
