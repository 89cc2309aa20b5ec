"""Small pictures of prints as they last stood on the screen, so that the next start shows one at once.

They lie in the cache folder, each under what stands for its file just as it is: written to since, it has no glimpse.
This module is read before the window comes up, so it asks for nothing that takes long to load.
"""

from __future__ import annotations

import contextlib
import hashlib
from pathlib import Path

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import cache
from kyanoscript.files.base.replace import replacing

LONGEST = 1600  # pixels
_MOST = 40  # that are kept


def place(file: Path) -> Path | None:
    """Where the glimpse of a file lies, if there is one; None for a file that cannot be found."""
    try:
        real = file.resolve()
        seen = real.stat()
    except (OSError, RuntimeError, ValueError):
        return None
    told = f"{real}\n{seen.st_mtime_ns}\n{seen.st_size}".encode("utf-8", "surrogateescape")
    return cache() / "glimpses" / f"{hashlib.sha256(told).hexdigest()[:32]}.jpg"


def keep(target: Path, picture: bytes) -> None:
    """Write one, and let the oldest go. A folder that cannot be written only means that there are none."""
    with contextlib.suppress(OSError, FileError):
        target.parent.mkdir(parents=True, exist_ok=True)
        with replacing(target, own=True) as file:
            file.write(picture)
        kept = sorted(target.parent.glob("*.jpg"), key=lambda path: path.stat().st_mtime_ns)
        for old in kept[:-_MOST]:
            old.unlink(missing_ok=True)
