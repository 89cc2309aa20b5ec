"""What to send when something goes wrong: one file with versions, log and script; nothing that was not asked for."""

from __future__ import annotations

import contextlib
import io
import zipfile
from collections.abc import Sequence
from pathlib import Path

from kyanoscript.core.script import Script, dumps
from kyanoscript.files.base import log
from kyanoscript.files.base.replace import replacing

_MOST = 512 << 10  # bytes of a log, its end


def contents(facts: Sequence[tuple[str, str]], script: Script | None, picture: bytes = b"") -> dict[str, bytes]:
    """The files of a report by name. ``facts``: what the program is, by name; ``picture``: a PNG, or nothing.

    The home folder is written as ``~``, as its name is often that of a person.
    """
    about = "".join(f"{name}: {value}\n" for name, value in facts)
    found = {"about.txt": _without_home(about.encode())}
    for file in (log.path(), log.path().with_suffix(".old.txt")):
        with contextlib.suppress(OSError):
            found[file.name] = _without_home(file.read_bytes()[-_MOST:])
    if script is not None:
        found["script.json"] = _without_home(dumps(script).encode())
    if picture:
        found["print.png"] = picture
    return found


def write(target: Path, found: dict[str, bytes]) -> None:
    """Write a report as a ZIP. Raises FileError."""
    held = io.BytesIO()
    with zipfile.ZipFile(held, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in found.items():
            made.writestr(name, data)
    with replacing(target, own=True) as file:
        file.write(held.getvalue())


def _without_home(data: bytes) -> bytes:
    home = str(Path.home()).encode()
    return data.replace(home, b"~") if len(home) > 1 else data
