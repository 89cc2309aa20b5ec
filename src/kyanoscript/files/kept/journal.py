"""The journal that brings work back after a crash. It lies in the state folder; see `remembered`."""

from __future__ import annotations

import contextlib
import fcntl
import json
import os
import time
import uuid
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

from kyanoscript.core import script as scripts
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import folder
from kyanoscript.files.base.replace import replacing
from kyanoscript.translation import tr

_LIMIT = scripts.LONGEST + (1 << 20)  # bytes of a journal: a script, and what else is known of it


@dataclass(frozen=True)
class Lost:
    """Work that a program which did not end properly has left behind."""

    journal: Path
    photo: Path
    script: Script
    file: Path | None  # where the script had been saved
    when: float  # seconds since 1970
    digest: str = ""  # of that file, as it was last read or written
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

    def write(self, photo: Path, script: Script, file: Path | None, digest: str = "") -> None:
        """Write the present work. Errors are left to the caller: work that cannot be kept is worth a word."""
        try:
            data = scripts.packed(script)
        except ScriptError as error:
            raise FileError(
                "the journal", tr("the work is too long to be kept safe: {error}", error=error), "Save less of it"
            ) from None
        self.path.parent.mkdir(parents=True, exist_ok=True)
        if self._lock is None:
            self._lock = self.path.with_suffix(".lock").open("wb")
            fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        head = {
            "photo": str(photo.resolve()),
            "file": str(file.resolve()) if file else None,
            "digest": digest,
            "when": time.time(),
        }
        with replacing(self.path, own=True) as out:
            out.write(json.dumps(head).encode()[:-1] + b', "script": ' + data + b"}")

    def clear(self) -> None:
        """Nothing would be lost now."""
        with contextlib.suppress(OSError):
            self.path.unlink(missing_ok=True)

    def let_go(self) -> None:
        """Nobody works on it any more: whoever looks for lost work finds it."""
        if self._lock is not None:
            self._lock.close()

    def close(self) -> None:
        """The program ends properly."""
        self.clear()
        if self._lock is not None:
            self.let_go()
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
        script, when = scripts.from_json(data["script"]), float(data["when"])
        return Lost(path, Path(data["photo"]), script, file, when, str(data.get("digest") or ""), lock)
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError, ScriptError):
        lock.close()
        return None
