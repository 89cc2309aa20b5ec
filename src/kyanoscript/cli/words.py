"""What can be said on the command line."""

from __future__ import annotations

import argparse
import difflib
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import NoReturn

from kyanoscript import __version__
from kyanoscript.cli.declared import add_values, number, whole
from kyanoscript.core import machine
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.quoting import cut
from kyanoscript.files.prints.formats import PICTURES
from kyanoscript.translation import spoken, tr

Options = Callable[[argparse.ArgumentParser], None]
_MEANT = {"help": "--help", "version": "--version", "list": "passes", "validate": "check", "export": "render"}

_EPILOG = """\
kyanoscript [PHOTO or SCRIPT]     open the window
kyanoscript --demo                open the window on a demo print
kyanoscript --apart [FILE]        in a window of its own, though one is open
kyanoscript --picture PNG [FILE]  draw the window into a file and leave; works without a display

A photograph, a script or the output may be - for standard input or output. Exit status: 0 done, 2 something is wrong
that can be put right, 130 or 143 stopped.
"""


@dataclass(frozen=True)
class Verb:
    """A command: what it is for, where it is done, and what can be said with it."""

    help: str
    by: str  # the module of this package and its function: nothing else is imported for it
    options: Callable[[argparse.ArgumentParser], None]


VERBS: dict[str, Verb] = {}  # in the order in which they are listed


def _verb(name: str, help: str, by: str) -> Callable[[Options], Options]:
    """A command is added by this alone: its options below it, and the function that does it."""

    def known(options: Options) -> Options:
        VERBS[name] = Verb(help, by, options)
        return options

    return known


def by_qt(options: argparse.Namespace) -> bool:
    """Whether a command asks Qt: for the system's printers."""
    return options.command == "printers" or getattr(options, "printer", None) not in (None, "bench")


def nearest_command(words: list[str]) -> str:
    """What is wrong with a first word that is neither a command nor a file; empty if nothing is."""
    if not words or words[0].startswith("-"):
        return ""
    word = words[0]
    path = Path(word)
    try:
        if path.exists() or "/" in word or path.suffix:
            return ""
    except (OSError, ValueError):
        return "no file can have this name"
    shown = word if len(word) <= 60 else word[:59] + "…"
    near = _MEANT.get(word.lower()) or next(iter(difflib.get_close_matches(word[:60].lower(), list(VERBS), 1, 0.5)), "")
    known = ", ".join(VERBS)
    hint = tr("; did you mean {near!r}?", near=near) if near else tr("; commands are {known}, and --help", known=known)
    return tr("there is no file or command {shown!r}{hint}", shown=shown, hint=hint)


def parsed(words: list[str]) -> argparse.Namespace:
    """The options; leaves with status 2 and one line of usage if they make no sense."""
    words = list(words)
    for k, word in enumerate(words[:-1]):  # a place may begin with a minus sign and is no option for that
        if word == "--at" and words[k + 1][:1] == "-":
            words[k : k + 2] = [f"--at={words[k + 1]}"]
            break
    return parser(words[:1]).parse_args(words)


class _Parser(argparse.ArgumentParser):
    """What is wrong is told with as much of a word as can be read."""

    def error(self, message: str) -> NoReturn:
        super().error(re.sub(r"\S{100,}", lambda word: cut(word[0]), message))


def parser(said: list[str]) -> argparse.ArgumentParser:
    """With the options of the command that was ``said``; of the others only what they are for."""
    made = _Parser(
        prog="kyanoscript",
        description="Open a window on a photograph or script file, or work without one.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    made.add_argument("--version", action="version", version=f"kyanoscript {__version__}")
    commands = made.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, verb in VERBS.items():
        command = commands.add_parser(name, help=verb.help, allow_abbrev=False)
        if name in said:
            verb.options(command)
            _speak(command)
    _speak(made)
    return made


def _speak(made: argparse.ArgumentParser) -> None:
    """What a command and its options are for, in the person's language."""
    made.description, made.epilog = spoken(made.description or ""), spoken(made.epilog or "")
    for action in made._actions:
        action.help = spoken(action.help or "") or None
        for choice in getattr(action, "_choices_actions", ()):
            choice.help = spoken(choice.help or "")


@_verb("render", "render photographs with a script into files", "rendering.render")
def _render(render: argparse.ArgumentParser) -> None:
    render.add_argument("photos", type=Path, nargs="+", metavar="PHOTO", help="or a .kyano file, or FILE.kyano#III, "
                        "for its own photograph")  # fmt: skip
    _script_options(render)
    where = render.add_mutually_exclusive_group(required=True)
    where.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help=".tif, .png, .jpg, .webp, .jxl or .avif; - for standard output"
    )
    where.add_argument("--out-dir", type=Path, metavar="FOLDER", help="a print of each photograph, by its name; it is "
                       "made if it is not there. PHOTO may be a folder then, or @LIST")  # fmt: skip
    render.add_argument("--jobs", type=whole, default=1, metavar="N", help="photographs that are printed at once, each "
                        "in a process of its own (default 1)")  # fmt: skip
    render.add_argument("--format", choices=PICTURES, help="of prints without a name (default tif)")
    render.add_argument("-n", "--no-clobber", action="store_true", help="leave a file that is there as it is")
    from kyanoscript.files.prints.settings import Settings

    add_values(render, Settings, "longer_side", "bits", "profile", "intent", "black_point", "dither", "compression",
               "notes", "ppi", "quality", "tiled")  # fmt: skip
    render.add_argument("--stencil", type=whole, metavar="NUMBER", help="write where this pass acts, as a gray picture")
    _threads(render)
    render.add_argument("--json", action="store_true", help="say what was written as JSON")
    loud = render.add_mutually_exclusive_group()
    loud.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")
    loud.add_argument("-v", "--verbose", action="store_true", help="say what is done and how long it takes")


@_verb("edition", "print many photographs through one script into a folder, and go on after any end", "edition.edition")
def _edition(edition: argparse.ArgumentParser) -> None:
    edition.add_argument("photos", type=Path, nargs="*", metavar="PHOTO", help="photographs, folders of them, or "
                         "@LIST, a file with a name on each line")  # fmt: skip
    _script_options(edition)
    edition.add_argument(
        "-o", "--output", type=Path, required=True, metavar="FOLDER", help="it is made if it is not there"
    )
    edition.add_argument("--sheet", metavar="NAME", help="each on this sheet, of the script or of a file")
    edition.add_argument("--crop", action="store_true", help="cut off what reaches beyond the paper")
    edition.add_argument("--name", default="{name}", metavar="PATTERN", help="of the prints, as {name}-{n:03}; fields "
                         "are {name} {folder} {n} {count} {script} {state} {recipe} (default {name})")  # fmt: skip
    edition.add_argument("--exception", action="append", default=[], metavar="PHOTO=SCRIPT", help="this one is printed "
                         "through a script of its own")  # fmt: skip
    edition.add_argument("--match", type=Path, metavar="PHOTO", help="every print is brought to the tones of this "
                         "one's, by Levels at the head of its run")  # fmt: skip
    edition.add_argument("--copies", type=whole, default=1, metavar="N", help="numbered prints of one photograph")
    edition.add_argument(
        "--caption", default="", metavar="TEXT", help="of each on its sheet, as 'Landing, {n}/{count}'"
    )
    edition.add_argument("--own-grain", action="store_true", help="each numbered print has grain of its own")
    edition.add_argument("--format", choices=(*PICTURES, "pdf"), help="of the prints (default tif); pdf of sheets")
    edition.add_argument("-n", "--no-clobber", action="store_true", help="leave a file that is there as it is")
    from kyanoscript.files.prints.settings import Settings

    add_values(edition, Settings, "longer_side", "bits", "profile", "intent", "black_point", "dither", "compression",
               "notes", "ppi", "quality", "tiled")  # fmt: skip
    edition.add_argument("--jobs", type=whole, metavar="N", help="processes that work at once (default: as many as "
                         "processors and memory have room for)")  # fmt: skip
    edition.add_argument("--memory", type=whole, metavar="MB", help="that all of them may take (default: six tenths of "
                         "what is free)")  # fmt: skip
    edition.add_argument("--cluster", metavar="ADDRESS", help="a Dask scheduler whose workers do it, as "
                         "tcp://10.0.0.5:8786; files are sent to them")  # fmt: skip
    edition.add_argument("--resume", action="store_true", help="go on where an edition in this folder ended")
    edition.add_argument("--check", action="store_true", help="compare what is there with what was written, and print "
                         "nothing")  # fmt: skip
    edition.add_argument("--json", action="store_true", help="say what happens as lines of JSON")
    edition.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")


@_verb("strip", "write a test strip: a value, or two, in steps, with labels", "strips.strip")
def _strip(strip: argparse.ArgumentParser) -> None:
    strip.add_argument("photo", type=Path, metavar="PHOTO")
    _script_options(strip, "or a row of values, as levels.gamma=0.7..1.4/7; two rows make a field")
    strip.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="as of render")
    strip.add_argument("--equal", action="store_true", help="equal steps, where they would be even to the eye")
    strip.add_argument("--down", action="store_true", help="bands lie down the print instead of across")
    strip.add_argument("--same", action="store_true", help="every band shows the same part, from the middle")
    strip.add_argument(
        "--sheet", metavar="NAME|FILE", help="on a sheet of the script, or of a file; sheet.across=… sets"
    )
    strip.add_argument("--crop", action="store_true", help="cut off what reaches beyond the paper")
    from kyanoscript.files.prints.settings import Settings

    add_values(strip, Settings, "longer_side")
    _threads(strip)
    strip.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("sheet", "lay the print on its paper, and write the sheet or print it", "sheets.sheet")
def _sheet(sheet: argparse.ArgumentParser) -> None:
    sheet.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(sheet, "every value of the sheet is sheet.NAME, as sheet.across=300")
    sheet.add_argument("--sheet", metavar="NAME", help="a sheet of the script, or the file of one; without it the "
                       "script's first, or A4")  # fmt: skip
    sheet.add_argument("-o", "--output", type=Path, metavar="OUT", help=".pdf, .tif, .png or .jpg")
    sheet.add_argument("--printer", metavar="NAME", help="print instead: see printers; bench is a stand-in that ships")
    for what, help in (("media", "the paper that it is told"), ("tray", "that it takes it from"), ("quality", "of its"),
                       ("colour", "or gray, as it calls it")):  # fmt: skip
        sheet.add_argument(f"--{what}", metavar="NAME", help=f"{help}, of a printer of the system: see printers")
    sheet.add_argument("--copies", type=whole, default=1, metavar="N", help="of a printer of the system (default 1)")
    sheet.add_argument("--gray", action="store_true", help="a print with colour may go to a printer of grays")
    sheet.add_argument("--spool", type=Path, metavar="FOLDER", help="where the bench printer puts its jobs")
    sheet.add_argument("--margin", type=number, metavar="MM", help="the print as large as leaves this margin")
    sheet.add_argument("--crop", action="store_true", help="cut off what reaches beyond the paper")
    sheet.add_argument("--trimmed", action="store_true", help="the prints alone, without the paper round them")
    sheet.add_argument("--bits", type=whole, choices=(8, 16), default=8, help="default 8")
    _threads(sheet)
    sheet.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("printers", "list the printers that a sheet can be sent to", "printers.printers")
def _printers(printers: argparse.ArgumentParser) -> None:
    printers.add_argument("--json", action="store_true", help="as JSON")


@_verb("plates", "write every ink of a print as a gray picture of its own, black where it is full", "plates.plates")
def _plates(plates: argparse.ArgumentParser) -> None:
    plates.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(plates, "sheet.NAME lays the plates on a sheet")
    plates.add_argument("--sheet", metavar="NAME", help="they lie on this sheet, marks and all")
    plates.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="a .tif or .pdf, of a page for "
                        "each ink; a .png or a folder, for a file each")  # fmt: skip
    plates.add_argument("--crop", action="store_true", help="cut off what reaches beyond the paper")
    plates.add_argument("--separated", action="store_true", help="four inks as the channels of one separated TIFF")
    plates.add_argument("--bits", type=whole, choices=(8, 16), default=16, help="default 16")
    plates.add_argument("--ppi", type=number, metavar="PPI", help="pixels of the print to the inch, where there is no "
                        "sheet: how large plates are (default: as the photograph says, or 300)")  # fmt: skip
    from kyanoscript.core.paper.presses import PRESSES
    from kyanoscript.core.paper.sheet import Plates

    add_values(plates, Plates, "trap", "knock_out", "screen", "ruling", "grain", "device", "yule_nielsen", "most_ink",
               types={"ruling": _ruling})  # fmt: skip
    plates.add_argument("--press", choices=PRESSES, help="what becomes of ink on it: on a paper as is usual, or a dot "
                        "gain of ISO 12647-2 (default: as the sheet has it, or none)")  # fmt: skip
    plates.add_argument("--gain", type=_gains, default=(), metavar="PER CENT", help="how much more than half a half "
                        "tone prints: of all inks, or A,B,… of each; or A to E of ISO 12647-2")  # fmt: skip
    plates.add_argument("--angles", type=_numbers, default=(), metavar="A,B,…", help="degrees, one for each ink "
                        "(default: the darkest at 45, three 30 apart)")  # fmt: skip
    plates.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("wedge", "write a chart that a process is measured with, at its exact size", "processes.wedge")
def _wedge(wedge: argparse.ArgumentParser) -> None:
    wedge.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=".tif, .png or .pdf")
    wedge.add_argument("--chart", metavar="WHICH", help="a wedge of 11, 21, 31, 51 or 101 steps, close (a second "
                       "one where its tones move), times (a strip of exposures) or inks (filter inks); default: the "
                       "process's, or 21")  # fmt: skip
    _process_options(wedge)
    wedge.add_argument("--prove", action="store_true", help="through the curve of the process")
    wedge.add_argument("--ppi", type=number, default=360.0, help="pixels to the inch (default 360)")
    wedge.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("read", "read a chart from a scan of its dried print, or a list of readings, into a process", "processes.read")
def _read(read: argparse.ArgumentParser) -> None:
    read.add_argument("source", type=Path, metavar="SCAN", help="a picture; or a CGATS.17 or text file")
    read.add_argument("-o", "--output", type=Path, metavar="OUT", help="the process's file")
    _process_options(read)
    from kyanoscript.core.process.process import Process

    add_values(read, Process, "white")
    read.add_argument("--add", action="store_true", help="to the readings that there are; else instead of them")
    read.add_argument("--prove", action="store_true", help="it is the wedge through the curve: say what is left")
    read.add_argument("--times", metavar="T,T,…", help="minutes of a strip of exposures; 1..45: twelve between")
    read.add_argument("--list", choices=("lightness", "density", "reflectance"), help="it is a list of these")
    add_values(read, Process, "aim", "smoothing", "name", "paper", "chemistry", "light", "minutes")
    read.add_argument("--cgats", type=Path, metavar="OUT", help="write the readings as CGATS.17 as well")
    read.add_argument("--json", action="store_true", help="say what was read as JSON")


@_verb(
    "negative", "write the contact negative of a print for a process; or one for each of its inks", "processes.negative"
)
def _negative(negative: argparse.ArgumentParser) -> None:
    negative.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(negative, "sheet.NAME is a value of the film's sheet")
    negative.add_argument("--process", action="append", required=True, metavar="NAME", help="its name, or its file; "
                          "once for each ink of a print in several, for a negative each")  # fmt: skip
    negative.add_argument("--sheet", metavar="NAME", help="the film: a sheet of the script, or the file of one")
    negative.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=".tif, .png or .pdf")
    negative.add_argument("--no-rim", action="store_true", help="without marks, words and wedge but those of the sheet")
    negative.add_argument("--bits", type=whole, choices=(8, 16), default=16, help="default 16")
    _threads(negative)
    negative.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("darkroom", "expose film in the bench darkroom, a stand-in, and scan the dried print", "processes.expose")
def _darkroom(dark: argparse.ArgumentParser) -> None:
    dark.add_argument("film", type=Path, nargs="?", metavar="FILM", help="a wedge or negative as it was written")
    dark.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="the scan: .jpg, .png or .tif")
    from kyanoscript.core.process.baths import BATHS

    dark.add_argument("--bath", default="cyanotype", metavar="NAME", help=f"{', '.join(BATHS)} (default cyanotype)")
    dark.add_argument("--minutes", type=number, help="of light (default: as the process needs)")
    dark.add_argument("--times", metavar="T,T,…", help="the film is a strip of exposures: minutes of each; or 1..45")
    dark.add_argument("--right-reading", action="store_true", help="the film lies with its back on the paper")
    dark.add_argument("--tape", action="store_true", help="opaque tape lies on the chart's place for it")
    dark.add_argument("--ppi", type=number, default=200.0, help="of the scan (default 200)")
    dark.add_argument("--seed", type=whole, default=1, help="another number scans with other faults")
    dark.add_argument("--still", action="store_true", help="scan without faults")
    dark.add_argument("--densitometer", action="store_true", help="measure a chart patch after patch into a CGATS file")
    dark.add_argument("--chart", default="21", metavar="WHICH", help="that is measured (default 21)")


@_verb("trace", "print the value of a spot after each pass", "rendering.trace")
def _trace(trace: argparse.ArgumentParser) -> None:
    trace.add_argument("photo", type=Path, metavar="PHOTO")
    _script_options(trace)
    trace.add_argument("--at", required=True, metavar="X,Y", help="place in pixels of the print, from its upper left")
    trace.add_argument("--json", action="store_true")


@_verb("look", "say who is in a gray photograph, or what tints its regions are offered", "listing.look")
def _look(look: argparse.ArgumentParser) -> None:
    look.add_argument("photo", type=Path, metavar="PHOTO")
    look.add_argument("--offers", action="store_true", help="the regions of the scene, and six likely tints for each")
    look.add_argument("--json", action="store_true", help="with the outlines, in per cent of the photograph")


@_verb("tint", "colour a gray scan by what its parts are likely to have been", "tinting.tint")
def _tint(tint: argparse.ArgumentParser) -> None:
    tint.add_argument("photo", type=Path, metavar="SCAN")
    tint.add_argument("--take", choices=("best", "surest"), default="surest", help="surest: only what is read surely, "
                      "the rest stays gray (default); best: the likeliest tint for everything")  # fmt: skip
    tint.add_argument("-o", "--output", type=Path, metavar="OUT", help="a picture, or a .kyano or .json script to go "
                      "on with (default: SCAN-tinted.tif, here)")  # fmt: skip
    tint.add_argument("--json", action="store_true", help="say what was taken and what was offered as JSON")


@_verb("after", "make a photograph look like an earlier print, by ordinary passes", "following.after")
def _after(after: argparse.ArgumentParser) -> None:
    after.add_argument("print", type=Path, metavar="PRINT", help="a picture of the print that is followed")
    after.add_argument("photo", type=Path, metavar="PHOTO")
    things = ("recipe", "weights", "tones", "details", "softness", "grain", "tint", "fall-off")
    after.add_argument("--take", action="append", default=[], choices=things, metavar="WHAT",
                       help="take what is only offered: " + ", ".join(things))  # fmt: skip
    after.add_argument("--leave", action="append", default=[], choices=things, metavar="WHAT",
                       help="leave out what is proposed")  # fmt: skip
    after.add_argument("-o", "--output", type=Path, metavar="SCRIPT", help="a .json or .kyano script of the run")
    after.add_argument("--json", action="store_true", help="say what was found, and the script, as JSON")


@_verb("states", "list the states that a script file holds", "listing.states")
def _states(states: argparse.ArgumentParser) -> None:
    states.add_argument("script", type=Path, metavar="FILE")
    states.add_argument("--json", action="store_true")


@_verb("differ", "say how one script differs from another, in words", "listing.differ_in_words")
def _differ(differ: argparse.ArgumentParser) -> None:
    for name in ("one", "other"):
        differ.add_argument(name, metavar=name.upper(), help="a script file, FILE#III for a state, or a recipe's name")
    differ.add_argument("--json", action="store_true")


@_verb("info", "say what a photograph is, and what is done to it on opening", "listing.info")
def _info(info: argparse.ArgumentParser) -> None:
    info.add_argument("photo", type=Path, metavar="PHOTO")
    info.add_argument("--json", action="store_true")


@_verb("processes", "list the processes, one's own and the demo's, or say what one is", "processes.processes")
@_verb("recipes", "list the recipes, one's own too, or say what one does", "listing.recipes")
def _listed(listed: argparse.ArgumentParser) -> None:
    listed.add_argument("name", nargs="?", metavar="NAME")
    listed.add_argument("--json", action="store_true")


@_verb("passes", "list every pass with its parameters and starts, or find some by a word", "listing.passes")
def _passes(listed: argparse.ArgumentParser) -> None:
    _listed(listed)
    listed.add_argument("--find", metavar="WORDS", help="passes, their starts and recipes by what people call them")


@_verb("check", "say whether script files are valid", "listing.check")
def _check(check: argparse.ArgumentParser) -> None:
    check.add_argument("scripts", type=Path, nargs="+", metavar="SCRIPT")
    check.add_argument("--json", action="store_true")
    check.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")


@_verb("desktop", "put the program into the desktop's menus, with its kind of file, manual and completions",
       "desktop.desktop")  # fmt: skip
def _desktop(desktop: argparse.ArgumentParser) -> None:
    desktop.add_argument("--remove", action="store_true", help="take out again what was put in")
    desktop.add_argument("--into", type=Path, metavar="FOLDER", help="in place of one's own: where desktops look, as "
                         "/usr/local/share")  # fmt: skip
    desktop.add_argument("--program", metavar="PATH", help="how it is started there (default: as it is now)")
    desktop.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")


def _threads(command: argparse.ArgumentParser) -> None:
    command.add_argument("--threads", type=whole, default=machine.processors(), help="1…64; default: one per core")


def _process_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--process", metavar="NAME", help="its name, or its file; without one a new one")
    from kyanoscript.core.process.process import Process

    add_values(
        command, Process, "ink", "negative", "mirrored", called={"negative": "--positive", "mirrored": "--no-mirror"}
    )


def _ruling(text: str) -> float:
    lines, cm, _ = text.partition("/cm")
    return number(lines) * (INCH / 10 if cm else 1)


def _numbers(text: str) -> tuple[float, ...]:
    return tuple(number(word) for word in text.split(","))


def _gains(text: str) -> tuple[float, ...]:
    from kyanoscript.core.paper.presses import GAINS, PRESSES

    words = text.split(",")
    if len(words) > len(GAINS):
        raise argparse.ArgumentTypeError(f"there are {len(words)} gains, and at most {len(GAINS)} inks")
    return tuple(PRESSES[word].gain if word in PRESSES else number(word) for word in words)


def _script_options(command: argparse.ArgumentParser, more: str = "") -> None:
    command.add_argument("--script", type=Path, metavar="FILE", help=".kyano, .json, or FILE#III for a state; "
                         "without one the photo as it is")  # fmt: skip
    command.add_argument("--recipe", metavar="NAME", help="a recipe; the script follows it")
    command.add_argument("--trust", action="store_true", help="use pictures that lie outside the script's own folder")
    command.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="PASS.NAME=VALUE",
        help="another value, as levels.gamma=1.2; levels.2.gamma for the second of them, frame.tilt for the frame"
        + (f"; {more}" if more else ""),
    )
