"""What can be said on the command line."""

from __future__ import annotations

import argparse
import difflib
from pathlib import Path

from kyanoscript import __version__
from kyanoscript.core import machine
from kyanoscript.files.settings import CARRIED, COMPRESSIONS, INTENTS, SPACES

COMMANDS = (
    "render", "sheet", "plates", "strip", "trace", "info", "look", "states", "differ", "passes", "recipes", "check",
)  # fmt: skip
_MEANT = {"help": "--help", "version": "--version", "list": "passes", "validate": "check", "export": "render"}

_EPILOG = """\
kyanoscript [PHOTO or SCRIPT]     open the window
kyanoscript --demo                open the window on a demo print
kyanoscript --picture PNG [FILE]  draw the window into a file and leave; works without a display

A photograph, a script or the output may be - for standard input or output. Exit status: 0 done, 2 something is wrong
that can be put right, 130 or 143 stopped.
"""


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
    near = _MEANT.get(word.lower()) or next(iter(difflib.get_close_matches(word[:60].lower(), COMMANDS, 1, 0.5)), "")
    hint = f"; did you mean {near!r}?" if near else f"; commands are {', '.join(COMMANDS)}, and --help"
    return f"there is no file or command {shown!r}{hint}"


def parsed(words: list[str]) -> argparse.Namespace:
    """The options; leaves with status 2 and one line of usage if they make no sense."""
    words = list(words)
    for k, word in enumerate(words[:-1]):  # a place may begin with a minus sign and is no option for that
        if word == "--at" and words[k + 1][:1] == "-":
            words[k : k + 2] = [f"--at={words[k + 1]}"]
            break
    return _parser().parse_args(words)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="kyanoscript",
        description="Open a window on a photograph or script file, or work without one.",
        epilog=_EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
        allow_abbrev=False,
    )
    parser.add_argument("--version", action="version", version=f"kyanoscript {__version__}")
    commands = parser.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, help: str) -> argparse.ArgumentParser:
        return commands.add_parser(name, help=help, allow_abbrev=False)

    render = command("render", "render photographs with a script into files")
    render.add_argument("photos", type=Path, nargs="+", metavar="PHOTO", help="or a .kyano file, or FILE.kyano#III, "
                        "for its own photograph")  # fmt: skip
    _script_options(render)
    where = render.add_mutually_exclusive_group(required=True)
    where.add_argument(
        "-o", "--output", type=Path, metavar="OUT", help=".tif, .png, .jpg, .webp, .jxl or .avif; - for standard output"
    )
    where.add_argument("--out-dir", type=Path, metavar="FOLDER", help="a print of each photograph, by its name")
    render.add_argument(
        "--format", choices=("tif", "png", "jpg", "webp", "jxl", "avif"), help="of prints without a name (default tif)"
    )
    render.add_argument("-n", "--no-clobber", action="store_true", help="leave a file that is there as it is")
    render.add_argument("--longer-side", type=int, metavar="PX", help="reduce to this longer side (never enlarges)")
    render.add_argument("--bits", type=int, choices=(8, 16, 32), help="default: 16 where the format has them, else 8; "
                        "32: floats, in a TIFF")  # fmt: skip
    render.add_argument("--profile", default="auto", metavar="SPACE", help=f"{', '.join(SPACES)}, or the file of a "
                        "profile (default auto: gray for a print without colour, else the photograph's)")  # fmt: skip
    render.add_argument("--intent", choices=tuple(INTENTS), default="relative", help="towards the file of a profile")
    render.add_argument("--no-black-point", action="store_true", help="without black point compensation")
    render.add_argument("--no-dither", action="store_true", help="round 8 bits without noise")
    render.add_argument("--compression", choices=COMPRESSIONS, default="none", help="of a TIFF (default none)")
    render.add_argument("--notes", choices=CARRIED, default="all", dest="carried", help="which of the photograph's "
                        "notes go along: all, all but the place, only the rights, or none (default all)")  # fmt: skip
    render.add_argument("--ppi", type=float, help="resolution told in the file (default: the photograph's, or 300)")
    render.add_argument("--quality", type=int, default=95, help="of a JPEG, WebP or AVIF, 1…100 (default 95)")
    render.add_argument("--tiled", action="store_true", help="write a TIFF in tiles, for very large prints")
    render.add_argument("--stencil", type=int, metavar="NUMBER", help="write where this pass acts, as a gray picture")
    render.add_argument("--threads", type=int, default=machine.processors(), help="1…64; default: one per core")
    render.add_argument("--json", action="store_true", help="say what was written as JSON")
    loud = render.add_mutually_exclusive_group()
    loud.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")
    loud.add_argument("-v", "--verbose", action="store_true", help="say what is done and how long it takes")

    strip = command("strip", "write a test strip: a value, or two, in steps, with labels")
    strip.add_argument("photo", type=Path, metavar="PHOTO")
    _script_options(strip, "or a row of values, as levels.gamma=0.7..1.4/7; two rows make a field")
    strip.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="as of render")
    strip.add_argument("--equal", action="store_true", help="equal steps, where they would be even to the eye")
    strip.add_argument("--down", action="store_true", help="bands lie down the print instead of across")
    strip.add_argument("--same", action="store_true", help="every band shows the same part, from the middle")
    strip.add_argument("--longer-side", type=int, metavar="PX", help="reduce to this longer side (never enlarges)")
    strip.add_argument("--threads", type=int, default=machine.processors(), help="1…64; default: one per core")
    strip.add_argument("--json", action="store_true", help="say what was written as JSON")

    sheet = command("sheet", "lay the print on its paper, and write the sheet or print it")
    sheet.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(sheet, "every value of the sheet is sheet.NAME, as sheet.across=300")
    sheet.add_argument("--sheet", metavar="NAME", help="a sheet of the script, or the file of one; without it the "
                       "script's first, or A4")  # fmt: skip
    sheet.add_argument("-o", "--output", type=Path, metavar="OUT", help=".pdf, .tif, .png or .jpg")
    sheet.add_argument("--printer", choices=("bench",), help="print instead: bench is a stand-in that ships")
    sheet.add_argument("--spool", type=Path, metavar="FOLDER", help="where the bench printer puts its jobs")
    sheet.add_argument("--margin", type=float, metavar="MM", help="the print as large as leaves this margin")
    sheet.add_argument("--trimmed", action="store_true", help="the prints alone, without the paper round them")
    sheet.add_argument("--bits", type=int, choices=(8, 16), default=8, help="default 8")
    sheet.add_argument("--threads", type=int, default=machine.processors(), help="1…64; default: one per core")
    sheet.add_argument("--json", action="store_true", help="say what was written as JSON")

    plates = command("plates", "write every ink of a print as a gray picture of its own, black where it is full")
    plates.add_argument("photo", type=Path, metavar="PHOTO", help="or a .kyano file, for its own photograph")
    _script_options(plates, "sheet.NAME lays the plates on a sheet")
    plates.add_argument("--sheet", metavar="NAME", help="they lie on this sheet, marks and all")
    plates.add_argument("-o", "--output", type=Path, required=True, metavar="OUT", help="a .tif, of a page for each "
                        "ink, or a folder, for a file each")  # fmt: skip
    plates.add_argument("--separated", action="store_true", help="four inks as the channels of one separated TIFF")
    plates.add_argument("--bits", type=int, choices=(8, 16), default=16, help="default 16")
    plates.add_argument("--json", action="store_true", help="say what was written as JSON")

    trace = command("trace", "print the value of a spot after each pass")
    trace.add_argument("photo", type=Path, metavar="PHOTO")
    _script_options(trace)
    trace.add_argument("--at", required=True, metavar="X,Y", help="place in pixels of the print, from its upper left")
    trace.add_argument("--json", action="store_true")

    look = command("look", "say what the first colouring of a gray photograph would find of people")
    look.add_argument("photo", type=Path, metavar="PHOTO")
    look.add_argument("--json", action="store_true", help="with the outlines, in per cent of the photograph")

    states = command("states", "list the states that a script file holds")
    states.add_argument("script", type=Path, metavar="FILE")
    states.add_argument("--json", action="store_true")

    differ = command("differ", "say how one script differs from another, in words")
    for name in ("one", "other"):
        differ.add_argument(name, metavar=name.upper(), help="a script file, FILE#III for a state, or a recipe's name")
    differ.add_argument("--json", action="store_true")

    info = command("info", "say what a photograph is, and what is done to it on opening")
    info.add_argument("photo", type=Path, metavar="PHOTO")
    info.add_argument("--json", action="store_true")

    for name, help in (
        ("passes", "list every pass with its parameters"),
        ("recipes", "list the recipes, one's own too, or say what one does"),
    ):
        listed = command(name, help)
        listed.add_argument("name", nargs="?", metavar="NAME")
        listed.add_argument("--json", action="store_true")

    check = command("check", "say whether script files are valid")
    check.add_argument("scripts", type=Path, nargs="+", metavar="SCRIPT")
    check.add_argument("--json", action="store_true")
    check.add_argument("-q", "--quiet", action="store_true", help="say only what is wrong")
    return parser


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
