"""What tints were chosen for the parts of the scans in a folder: another scan of the same album is offered them first.

It lies in the state folder (`places.folder`) as ``album.json`` and is never needed to work.
"""

from __future__ import annotations

import contextlib
import json
import re
from pathlib import Path
from typing import Any, NamedTuple

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import folder
from kyanoscript.files.base.replace import replacing

_FILE = "album.json"
_ALBUMS, _EACH = 24, 120  # folders, and choices in each, that are kept: the latest
_LIMIT = 16 << 20  # bytes


class Choice(NamedTuple):
    """A tint that a hand chose for a part of a scan."""

    photo: str  # name of the scan's file
    part: str  # what it was called
    tint: str  # #rrggbb
    numbers: tuple[float, ...]  # what the part looks like (`tint.offers.told`)


def chosen_in(album: Path) -> list[Choice]:
    """What was chosen for the scans of a folder; whatever cannot be read is left out."""
    return _of(_read().get(str(album)))


def keep(album: Path, photo: str, choices: list[Choice]) -> None:
    """What was chosen for a scan, in place of what was kept of it; a folder that cannot be written keeps nothing."""
    every = _read()
    others = [one for one in _of(every.pop(str(album), None)) if one.photo != photo]
    made = (*others, *choices)[-_EACH:]
    if made:
        every[str(album)] = [one._asdict() for one in made]
    left = dict(list(every.items())[-_ALBUMS:])
    with contextlib.suppress(OSError, FileError):
        folder().mkdir(parents=True, exist_ok=True)
        with replacing(folder() / _FILE, own=True) as file:
            file.write(json.dumps(left).encode())


def _read() -> dict[str, Any]:
    try:
        data = json.loads((folder() / _FILE).read_bytes()[:_LIMIT])
    except (OSError, ValueError, RecursionError):
        return {}
    return data if isinstance(data, dict) else {}


def _of(rows: Any) -> list[Choice]:
    found = []
    for row in rows if isinstance(rows, list) else ():
        if not isinstance(row, dict) or not re.fullmatch("#[0-9a-f]{6}", str(row.get("tint"))):
            continue
        numbers = row.get("numbers")
        if isinstance(numbers, list) and all(type(v) in (int, float) and abs(v) < 1e6 for v in numbers):
            name = str(row.get("part", ""))[:200]
            found.append(Choice(str(row.get("photo", ""))[:4096], name, row["tint"], tuple(map(float, numbers))))
    return found
