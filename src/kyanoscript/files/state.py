"""What the program remembers between starts, and the journal that brings work back after a crash.

Both lie in the user's state folder (XDG), or in ``$KYANOSCRIPT_STATE``. Nothing here is ever needed to work: a folder
that cannot be written only means that nothing is remembered.
"""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import time
import uuid
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any, BinaryIO

import platformdirs

from kyanoscript.core import script as scripts
from kyanoscript.core.colour import hex_of, parse_hex
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.files.errors import FileError
from kyanoscript.files.replace import replacing

_RECENT = 12
_INKS = 14
_LIMIT = 16 << 20  # bytes of a journal


def folder() -> Path:
    """The state folder; it may not exist yet."""
    return Path(os.environ.get("KYANOSCRIPT_STATE") or platformdirs.user_state_path("kyanoscript"))


@dataclass(frozen=True)
class Remembered:
    """Window and habits, as they were left."""

    recent: tuple[str, ...] = ()  # files, the latest first
    size: tuple[int, int] = (1280, 800)
    maximised: bool = False
    look: str = "daylight"
    mat: str = "mid gray"
    inset: bool = True
    inks: tuple[str, ...] = ()  # colours that were kept

    def with_recent(self, path: Path) -> Remembered:
        """The same with a file at the head of the recent ones."""
        name = str(path.resolve())
        recent = (name, *(other for other in self.recent if other != name))[:_RECENT]
        return replace(self, recent=recent)


def recall() -> Remembered:
    """What was remembered; whatever cannot be read has its default."""
    try:
        data = json.loads((folder() / "remembered.json").read_bytes()[:_LIMIT])
    except (OSError, ValueError):
        return Remembered()
    if not isinstance(data, dict):
        return Remembered()
    plain = Remembered()
    width, height = (data.get("size") if _is_size(data.get("size")) else None) or plain.size
    recent = data.get("recent")
    return Remembered(
        tuple(str(name) for name in recent[:_RECENT]) if isinstance(recent, list) else (),
        (min(max(int(width), 960), 20_000), min(max(int(height), 600), 20_000)),
        data.get("maximised") is True,
        data["look"] if data.get("look") in ("daylight", "safelight") else plain.look,
        str(data.get("mat", plain.mat)),
        data.get("inset") is not False,
        _inks(data.get("inks")),
    )


def _inks(value: Any) -> tuple[str, ...]:
    """Colours among what was read; anything else is left out."""
    found = []
    for one in value if isinstance(value, list) else ():
        with contextlib.suppress(ValueError):
            found.append(hex_of(parse_hex(str(one))))
    return tuple(found[:_INKS])


def _is_size(value: Any) -> bool:
    return isinstance(value, list) and len(value) == 2 and all(isinstance(v, int) for v in value)


def remember(state: Remembered) -> None:
    """Keep it for the next start; a folder that cannot be written is no reason to complain."""
    with contextlib.suppress(OSError, FileError):
        folder().mkdir(parents=True, exist_ok=True)
        with replacing(folder() / "remembered.json") as file:
            file.write(json.dumps(state.__dict__, indent=1).encode())


@dataclass(frozen=True)
class Lost:
    """Work that a program which did not end properly has left behind."""

    journal: Path
    photo: Path
    script: Script
    file: Path | None  # where the script had been saved
    when: float  # seconds since 1970
    _lock: Any = field(repr=False, compare=False, default=None)

    def drop(self) -> None:
        """Forget it."""
        for path in (self.journal, self.journal.with_suffix(".lock")):
            with contextlib.suppress(OSError):
                path.unlink(missing_ok=True)
        if self._lock is not None:
            self._lock.close()


class Journal:
    """Keeps the work on one desk, written anew whenever it has changed. Its lock tells that the program is alive."""

    def __init__(self) -> None:
        self.path = folder() / "journal" / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.json"
        self._lock: BinaryIO | None = None

    def write(self, photo: Path, script: Script, file: Path | None) -> None:
        """Write the present work. Errors are left to the caller: work that cannot be kept is worth a word."""
        self.path.parent.mkdir(parents=True, exist_ok=True)
        if self._lock is None:
            self._lock = self.path.with_suffix(".lock").open("wb")
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        entry = {
            "photo": str(photo.resolve()),
            "file": str(file.resolve()) if file else None,
            "when": time.time(),
            "script": scripts.to_json(script),
        }
        with replacing(self.path) as out:
            out.write(json.dumps(entry).encode())

    def clear(self) -> None:
        """Nothing would be lost now."""
        with contextlib.suppress(OSError):
            self.path.unlink(missing_ok=True)

    def close(self) -> None:
        """The program ends properly."""
        self.clear()
        if self._lock is not None:
            self._lock.close()
            with contextlib.suppress(OSError):
                self.path.with_suffix(".lock").unlink(missing_ok=True)


def find_lost() -> Lost | None:
    """The latest work whose program is gone; what cannot be read is left where it is."""
    found = []
    for path in sorted((folder() / "journal").glob("*.json")):
        lost = _lost(path)
        if lost is not None:
            found.append(lost)
    found.sort(key=lambda lost: lost.when)
    for other in found[:-1]:
        other._lock.close()
    return found[-1] if found else None


def _lost(path: Path) -> Lost | None:
    """A journal whose program is gone; None if it lives, or if the journal cannot be read."""
    try:
        lock = path.with_suffix(".lock").open("ab")
    except OSError:
        return None
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        data = json.loads(path.read_bytes()[:_LIMIT])
        file = Path(data["file"]) if data.get("file") else None
        return Lost(path, Path(data["photo"]), scripts.from_json(data["script"]), file, float(data["when"]), lock)
    except (OSError, ValueError, KeyError, TypeError, AttributeError, ScriptError):
        lock.close()
        return None
