"""Which pictures a script may use outside its own folder.

A script from somebody else can name any file of this machine, and a print would show it. Pictures in the script's own
folder come with it; for others one is asked, once for each script: what was allowed is remembered in the state folder.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
from collections.abc import Iterable
from pathlib import Path

from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.base.places import folder
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.photos.pictures import Pictures, shipped

_MOST = 4000  # remembered pairs, the latest first
_LIMIT = 1 << 20  # bytes


def outside(file: Path, script: Script, photo: Path | None = None) -> list[Path]:
    """Pictures, and the photograph if the script names it, that lie outside the script's folder and are not allowed."""
    home, pictures = _real(file).parent, Pictures(photo or file, file)
    named = [] if photo is None else [_real(photo)]
    for name in script.pictures():
        with contextlib.suppress(FileError):  # a name that no file can have leads nowhere
            named.append(pictures.place(name))
    known = set(_read())
    found = (p for p in named if home not in p.parents and not shipped(p) and _pair(file, p) not in known)
    return list(dict.fromkeys(found))


def allow(file: Path, pictures: Iterable[Path]) -> None:
    """Remember that a script may use these; a state folder that cannot be written is no reason to complain."""
    pairs = [_pair(file, picture) for picture in pictures]
    if pairs:
        with contextlib.suppress(OSError, FileError):
            folder().mkdir(parents=True, exist_ok=True)
            kept = list(dict.fromkeys((*pairs, *_read())))[:_MOST]
            with replacing(folder() / "trusted.json", own=True) as out:
                out.write(json.dumps(kept).encode())


def _read() -> list[str]:
    try:
        data = json.loads(read_plain(folder() / "trusted.json", _LIMIT))
    except (FileError, ValueError, RecursionError):
        return []
    return [str(entry) for entry in data] if isinstance(data, list) else []


def _pair(file: Path, picture: Path) -> str:
    """Stands for a script's file and a picture, without telling their names."""
    return hashlib.sha256(f"{_real(file)}\0{_real(picture)}".encode("utf-8", "surrogateescape")).hexdigest()[:32]


def _real(path: Path) -> Path:
    try:
        return path.resolve()
    except (OSError, RuntimeError, ValueError):
        return path.absolute()
