"""What can be said on the command line."""

from __future__ import annotations

import argparse
import difflib
import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import NoReturn

from kyanoscript import __version__
from kyanoscript.core import machine
from kyanoscript.core.paper.dots import KINDS, TVI
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.wanted import AIMS
from kyanoscript.core.quoting import cut
from kyanoscript.files.colour.profiles import INTENTS
from kyanoscript.files.prints.formats import PICTURES
from kyanoscript.files.prints.settings import CARRIED, COMPRESSIONS, SPACES

Options = Callable[[argparse.ArgumentParser], None]
_MEANT = {"help": "--help", "version": "--version", "list": "passes", "validate": "check", "export": "render"}

_EPILOG = """\
kyanoscript [PHOTO or SCRIPT]     open the window
kyanoscript --demo                open the window on a demo print
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
    hint = f"; did you mean {near!r}?" if near else f"; commands are {', '.join(VERBS)}, and --help"
    return f"there is no file or command {shown!r}{hint}"


def parsed(words: list[str]) -> argparse.Namespace:
    """The options; leaves with status 2 and one line of usage if they make no sense."""
    words = list(words)
    for k, word in enumerate(words[:-1]):  # a place may begin with a minus sign and is no option for that
        if word == "--at" and words[k + 1][:1] == "-":
            words[k : k + 2] = [f"--at={words[k + 1]}"]
            break
    return _parser().parse_args(words)


class _Parser(argparse.ArgumentParser):
    """What is wrong is told with as much of a word as can be read."""

    def error(self, message: str) -> NoReturn:
        super().error(re.sub(r"\S{100,}", lambda word: cut(word[0]), message))


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="kyanoscript",
        description="Open a window on a photograph or script file, or work without one.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    parser.add_argument("--version", action="version", version=f"kyanoscript {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")
    for name, verb in VERBS.items():
        verb.options(commands.add_parser(name, help=verb.help, allow_abbrev=False))
    return parser


@_verb("render", "render photographs with a script into files", "rendering.render")
def _render(render: argparse.ArgumentParser) -> None:
    render.add_argument("photos", type=Path, nargs="+", metavar="PHOTO", help="or a .kyano file, or FILE.kyano#III, "
                        "for its own photograph")  # fmt: skip
    _script_options(render)
    where = render.add_mutually_exclusive_group(required=True)
    where.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help=".tif, .png, .jpg, .webp, .jxl or .avif; - for standard output"
    )
    where.add_argument("--out-dir", type=Path, metavar="FOLDER", help="a print of each photograph, by its name")
    render.add_argument("--format", choices=PICTURES, help="of prints without a name (default tif)")
    render.add_argument("-n", "--no-clobber", action="store_true", help="leave a file that is there as it is")
    render.add_argument("--longer-side", type=_whole, metavar="PX", help="reduce to this longer side (never enlarges)")
    render.add_argument("--bits", type=_whole, choices=(8, 16, 32),
                        help="default: 16 where the format has them, else 8; "
                        "32: floats, in a TIFF")  # fmt: skip
    render.add_argument("--profile", default="auto", metavar="SPACE", help=f"{', '.join(SPACES)}, or the file of a "
                        "profile (default auto: gray for a print without colour, else the photograph's)")  # fmt: skip
    render.add_argument("--intent", choices=tuple(INTENTS), default="relative", help="towards the file of a profile")
    render.add_argument("--no-black-point", action="store_true", help="without black point compensation")
    render.add_argument("--no-dither", action="store_true", help="round 8 bits without noise")
    render.add_argument("--compression", choices=COMPRESSIONS, default="none", help="of a TIFF (default none)")
    render.add_argument("--notes", choices=CARRIED, default="all", dest="carried", help="which of the photograph's "
                        "notes go along: all, all but the place, only the rights, or none (default all)")  # fmt: skip
    render.add_argument("--ppi", type=_number, help="resolution told in the file (default: the photograph's, or 300)")
    render.add_argument("--quality", type=_whole, default=95, help="of a JPEG, WebP or AVIF, 1…100 (default 95)")
    render.add_argument("--tiled", action="store_true", help="write a TIFF in tiles, for very large prints")
    render.add_argument(
        "--stencil", type=_whole, metavar="NUMBER", help="write where this pass acts, as a gray picture"
    )
    render.add_argument("--threads", type=_whole, default=machine.processors(), help="1…64; default: one per core")
    render.add_argument("--json", action="store_true", help="say what was written as JSON")
    loud = render.add_mutually_exclusive_group()
    loud.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")
    loud.add_argument("-v", "--verbose", action="store_true", help="say what is done and how long it takes")


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
    strip.add_argument("--longer-side", type=_whole, metavar="PX", help="reduce to this longer side (never enlarges)")
    strip.add_argument("--threads", type=_whole, default=machine.processors(), help="1…64; default: one per core")
    strip.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("sheet", "lay the print on its paper, and write the sheet or print it", "sheets.sheet")
def _sheet(sheet: argparse.ArgumentParser) -> None:
    sheet.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(sheet, "every value of the sheet is sheet.NAME, as sheet.across=300")
    sheet.add_argument("--sheet", metavar="NAME", help="a sheet of the script, or the file of one; without it the "
                       "script's first, or A4")  # fmt: skip
    sheet.add_argument("-o", "--output", type=Path, metavar="OUT", help=".pdf, .tif, .png or .jpg")
    sheet.add_argument("--printer", choices=("bench",), help="print instead: bench is a stand-in that ships")
    sheet.add_argument("--spool", type=Path, metavar="FOLDER", help="where the bench printer puts its jobs")
    sheet.add_argument("--margin", type=_number, metavar="MM", help="the print as large as leaves this margin")
    sheet.add_argument("--trimmed", action="store_true", help="the prints alone, without the paper round them")
    sheet.add_argument("--bits", type=_whole, choices=(8, 16), default=8, help="default 8")
    sheet.add_argument("--threads", type=_whole, default=machine.processors(), help="1…64; default: one per core")
    sheet.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("plates", "write every ink of a print as a gray picture of its own, black where it is full", "plates.plates")
def _plates(plates: argparse.ArgumentParser) -> None:
    plates.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(plates, "sheet.NAME lays the plates on a sheet")
    plates.add_argument("--sheet", metavar="NAME", help="they lie on this sheet, marks and all")
    plates.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="a .tif or .pdf, of a page for "
                        "each ink; a .png or a folder, for a file each")  # fmt: skip
    plates.add_argument("--separated", action="store_true", help="four inks as the channels of one separated TIFF")
    plates.add_argument("--bits", type=_whole, choices=(8, 16), default=16, help="default 16")
    plates.add_argument("--trap", type=_number, metavar="MM", help="lighter inks spread so far beneath "
                        "darker ones, 0…0.5")  # fmt: skip
    plates.add_argument("--knock-out", action="store_true", help="lighter inks are left out where darker ones lie")
    plates.add_argument("--screen", choices=tuple(KINDS), help="as dots, 1-bit, for plates that print ink or none")
    plates.add_argument("--ruling", type=_ruling, metavar="LINES", help="of dots and lines, to the inch, "
                        "or 33/cm (default 85)")  # fmt: skip
    plates.add_argument("--angles", type=_numbers, default=(), metavar="A,B,…", help="degrees, one for each ink "
                        "(default: the darkest at 45, three 30 apart)")  # fmt: skip
    plates.add_argument("--grain", type=_number, metavar="MM", help="of an aquatint (default 0.12)")
    plates.add_argument("--device", type=_number, metavar="PPI", help="pixels to the inch of the device "
                        "that dots are for (default 2400)")  # fmt: skip
    plates.add_argument("--gain", choices=tuple(TVI), help="the tone value increase that dots hold back "
                        "(ISO 12647-2)")  # fmt: skip
    plates.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("wedge", "write a chart that a process is measured with, at its exact size", "processes.wedge")
def _wedge(wedge: argparse.ArgumentParser) -> None:
    wedge.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help=".tif, .png or .pdf")
    wedge.add_argument("--chart", metavar="WHICH", help="a wedge of 11, 21, 31, 51 or 101 steps, times (a strip of "
                       "exposures) or inks (filter inks); default: the process's, or 21")  # fmt: skip
    _process_options(wedge)
    wedge.add_argument("--prove", action="store_true", help="through the curve of the process")
    wedge.add_argument("--ppi", type=_number, default=360.0, help="pixels to the inch (default 360)")
    wedge.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("read", "read a chart from a scan of its dried print, or a list of readings, into a process", "processes.read")
def _read(read: argparse.ArgumentParser) -> None:
    read.add_argument("source", type=Path, metavar="SCAN", help="a picture; or a CGATS.17 or text file")
    read.add_argument("-o", "--output", type=Path, metavar="OUT", help="the process's file")
    _process_options(read)
    read.add_argument("--white", type=_number, metavar="L", help="L* of the paper, as measured")
    read.add_argument("--add", action="store_true", help="to the readings that there are; else instead of them")
    read.add_argument("--prove", action="store_true", help="it is the wedge through the curve: say what is left")
    read.add_argument("--times", metavar="T,T,…", help="minutes of a strip of exposures; 1..45: twelve between")
    read.add_argument("--list", choices=("lightness", "density", "reflectance"), help="it is a list of these")
    read.add_argument("--aim", choices=tuple(AIMS), help="what the print is to be even in (default lightness)")
    read.add_argument("--smoothing", type=_number, help="how much smoother than the noise asks for (default 1)")
    for name, help in (("name", "what the process is called"), ("paper", "its paper"), ("chemistry", "its coating"),
                       ("light", "its lamp")):  # fmt: skip
        read.add_argument(f"--{name}", help=help)
    read.add_argument("--minutes", type=_number, help="its exposure")
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
    negative.add_argument("--bits", type=_whole, choices=(8, 16), default=16, help="default 16")
    negative.add_argument("--threads", type=_whole, default=machine.processors(), help="1…64; default: one per core")
    negative.add_argument("--json", action="store_true", help="say what was written as JSON")


@_verb("darkroom", "expose film in the bench darkroom, a stand-in, and scan the dried print", "processes.expose")
def _darkroom(dark: argparse.ArgumentParser) -> None:
    dark.add_argument("film", type=Path, nargs="?", metavar="FILM", help="a wedge or negative as it was written")
    dark.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="the scan: .jpg, .png or .tif")
    dark.add_argument("--bath", default="cyanotype", metavar="NAME", help=f"{', '.join(BATHS)} (default cyanotype)")
    dark.add_argument("--minutes", type=_number, help="of light (default: as the process needs)")
    dark.add_argument("--times", metavar="T,T,…", help="the film is a strip of exposures: minutes of each; or 1..45")
    dark.add_argument("--right-reading", action="store_true", help="the film lies with its back on the paper")
    dark.add_argument("--ppi", type=_number, default=200.0, help="of the scan (default 200)")
    dark.add_argument("--seed", type=_whole, default=1, help="another number scans with other faults")
    dark.add_argument("--still", action="store_true", help="scan without faults")
    dark.add_argument("--densitometer", action="store_true", help="measure a chart patch after patch into a CGATS file")
    dark.add_argument("--chart", default="21", metavar="WHICH", help="that is measured (default 21)")


@_verb("trace", "print the value of a spot after each pass", "rendering.trace")
def _trace(trace: argparse.ArgumentParser) -> None:
    trace.add_argument("photo", type=Path, metavar="PHOTO")
    _script_options(trace)
    trace.add_argument("--at", required=True, metavar="X,Y", help="place in pixels of the print, from its upper left")
    trace.add_argument("--json", action="store_true")


@_verb("look", "say what the first colouring of a gray photograph would find of people", "listing.look")
def _look(look: argparse.ArgumentParser) -> None:
    look.add_argument("photo", type=Path, metavar="PHOTO")
    look.add_argument("--json", action="store_true", help="with the outlines, in per cent of the photograph")


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
@_verb("passes", "list every pass with its parameters", "listing.passes")
def _listed(listed: argparse.ArgumentParser) -> None:
    listed.add_argument("name", nargs="?", metavar="NAME")
    listed.add_argument("--json", action="store_true")


@_verb("check", "say whether script files are valid", "listing.check")
def _check(check: argparse.ArgumentParser) -> None:
    check.add_argument("scripts", type=Path, nargs="+", metavar="SCRIPT")
    check.add_argument("--json", action="store_true")
    check.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")


def _process_options(command: argparse.ArgumentParser) -> None:
    command.add_argument("--process", metavar="NAME", help="its name, or its file; without one a new one")
    command.add_argument("--ink", metavar="#RRGGBB", help="the filter ink (default black)")
    command.add_argument("--positive", action="store_true", help="for prints in ink: no negative")
    command.add_argument("--no-mirror", action="store_true", help="the film lies with its back on the paper")


def _ruling(text: str) -> float:
    number, cm, _ = text.partition("/cm")
    return _number(number) * (INCH / 10 if cm else 1)


def _number(text: str) -> float:
    """A number that is one: neither a word nor without end."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise argparse.ArgumentTypeError(f"{cut(text)!r} is no number")
    return value


def _whole(text: str) -> int:
    try:
        return int(text)
    except ValueError:  # a word, or of more digits than Python takes
        raise argparse.ArgumentTypeError(f"{cut(text)!r} is no whole number") from None


def _numbers(text: str) -> tuple[float, ...]:
    return tuple(_number(word) for word in text.split(","))


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
