"""The page of the manual and the completions of shells, from the command line's own declarations (``make docs``)."""

from __future__ import annotations

import os
import re
from pathlib import Path

import shtab
from argparse_manpage.manpage import Manpage

from kyanoscript import __version__
from kyanoscript.cli import words

DESKTOP = Path(__file__).parents[1] / "src" / "kyanoscript" / "desktop"
_ABOUT = "monochrome, toned and hand\\-tinted prints from photographs"


def files() -> dict[Path, str]:
    """What is written, and where."""
    parser = words.parser(list(words.VERBS))
    found = {
        DESKTOP / f"kyanoscript.{shell}": _trimmed(shtab.complete(parser, shell)) for shell in ("bash", "zsh", "fish")
    }
    return {DESKTOP / "kyanoscript.1": _page(parser), **found}


def _page(parser: object) -> str:
    os.environ["COLUMNS"] = "80"  # usage is folded to it
    text = str(Manpage(parser, format="single-commands-section"))
    text = re.sub(
        r"^\.TH .*$", f'.TH KYANOSCRIPT 1 "" "kyanoscript {__version__}" "User Commands"', text, count=1, flags=re.M
    )
    text = text.replace(".SH NAME\nkyanoscript\n", f".SH NAME\nkyanoscript \\- {_ABOUT}\n")
    text = text.replace(".SH\nPOSITIONAL ARGUMENTS\n", ".SH COMMANDS\n").replace(".SH COMMENTS\n", ".SH NOTES\n")
    text = re.sub(r"^\.(?!(TH|SH|SS|TP|RS|RE|B)\b)", r"\\&.", text, flags=re.M)  # words, and no request
    return _trimmed(re.sub(r"^(usage: .*?|kyanoscript \[PHOTO.*?)(?=\n\n)", ".nf\n\\1\n.fi", text, flags=re.M | re.S))


def _trimmed(text: str) -> str:
    return "\n".join(line.rstrip() for line in text.rstrip().splitlines()) + "\n"


if __name__ == "__main__":
    for path, text in files().items():
        path.write_text(text)
        print(path)
