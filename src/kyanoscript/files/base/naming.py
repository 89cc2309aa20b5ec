"""Things kept by their names, a file each: a name may be anything, and two names are never one file.

The name stands within the file. What the file is called is made from it, for people who look into the folder.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

from kyanoscript.files.base.errors import FileError

_LONGEST = 80  # bytes of a file's name, besides its ending and a number


def place(folder: Path, name: str, suffix: str, name_in: Callable[[Path], str]) -> Path:
    """Where a thing of that name lies; and if there is none yet, where it may be put: nothing else is there.

    ``name_in`` reads the name that stands within a file, and raises FileError where there is none.
    """
    taken = set()
    for path in sorted(folder.glob(f"*{suffix}")):
        taken.add(path.name.casefold())
        try:
            if name_in(path) == name:
                return path
        except FileError:
            continue
    stem = _readable(name) or suffix.split(".")[1]
    found, number = f"{stem}{suffix}", 1
    while found.casefold() in taken:
        number += 1
        found = f"{stem}-{number}{suffix}"
    return folder / found


def _readable(name: str) -> str:
    """The letters and digits of a name, as many as a file system takes."""
    plain = re.sub(r"[^\w\- ]+", "", name).strip()
    return plain.encode("utf-8", "ignore")[:_LONGEST].decode("utf-8", "ignore").strip()
