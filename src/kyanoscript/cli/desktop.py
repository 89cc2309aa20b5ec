"""``desktop``: the program among the desktop's own, with its icon, its kind of file, its manual and completions."""

from __future__ import annotations

import argparse
import shutil
import sys
from pathlib import Path

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import shared
from kyanoscript.files.kept import desktop as kept
from kyanoscript.terminal import OK, WRONG, complain
from kyanoscript.translation import tr


def desktop(options: argparse.Namespace) -> int:
    """Put in, or take out."""
    if not (options.program or "").isprintable():
        return complain(
            tr("--program: a desktop's entry can name no such program; give a path of characters that are seen")
        )
    share = (options.into or shared()).absolute()
    try:
        files = kept.remove(share) if options.remove else kept.install(share, options.program or _program())
    except FileError as error:
        complain(str(error))
        return WRONG
    if not options.quiet:
        done = "taken out of" if options.remove else "put into"
        print(tr("{count} files {done} {share}", count=len(files), done=done, share=share))
    return OK


def _program() -> str:
    """How this very program is started: by its name, if that is what the path finds; else by where it lies."""
    here = Path(sys.executable).with_name("kyanoscript")
    found = shutil.which("kyanoscript")
    if found is not None and Path(found).resolve() == here.resolve():
        return "kyanoscript" if Path(found).parent in (Path("/usr/bin"), Path("/usr/local/bin")) else str(Path(found))
    return str(here) if here.exists() else "kyanoscript"
