"""What the program remembers between starts: window and habits, recent files, kept inks.

It lies in the user's state folder (XDG), or in ``$KYANOSCRIPT_STATE``. Nothing here is ever needed to work: a folder
that cannot be written only means that nothing is remembered. This module is read before the window comes up, so it
asks for nothing that takes long to load.
"""

from __future__ import annotations

import contextlib
import json
import re
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import folder
from kyanoscript.files.base.replace import replacing

_RECENT = 12
_INKS = 14
_LIMIT = 16 << 20  # bytes


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
    folder: str = ""  # where files were opened and saved last
    monitor: str = "found"  # its profile: as found, "srgb", or a file
    memory: int = 0  # megabytes of what has been worked out that are kept; 0: as the machine has room

    def with_recent(self, path: Path) -> Remembered:
        """The same with a file at the head of the recent ones."""
        name = str(path.resolve())
        recent = (name, *(other for other in self.recent if other != name))[:_RECENT]
        return replace(self, recent=recent)


def recall() -> Remembered:
    """What was remembered; whatever cannot be read has its default."""
    try:
        data = json.loads((folder() / "remembered.json").read_bytes()[:_LIMIT])
    except (OSError, ValueError, RecursionError):
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
        str(data.get("folder") or "")[:4096].replace("\0", ""),
        str(data.get("monitor") or plain.monitor)[:4096].replace("\0", ""),
        data["memory"] if type(data.get("memory")) is int else 0,
    )


def _inks(value: Any) -> tuple[str, ...]:
    """Colours among what was read; anything else is left out."""
    found = []
    for entry in value if isinstance(value, list) else ():
        if re.fullmatch("#[0-9a-f]{6}", str(entry)):
            found.append(str(entry))
    return tuple(found[:_INKS])


def _is_size(value: Any) -> bool:
    return isinstance(value, list) and len(value) == 2 and all(isinstance(v, int) for v in value)


def remember(state: Remembered) -> None:
    """Keep it for the next start; a folder that cannot be written is no reason to complain."""
    with contextlib.suppress(OSError, FileError):
        folder().mkdir(parents=True, exist_ok=True)
        with replacing(folder() / "remembered.json", own=True) as file:
            file.write(json.dumps(state.__dict__, indent=1).encode())
