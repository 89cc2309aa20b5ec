"""The desktop's trash (FreeDesktop.org Trash Specification 1.0): what is deleted can be fetched back by hand."""

from __future__ import annotations

import contextlib
import itertools
import os
import shutil
import time
from pathlib import Path
from urllib.parse import quote

from kyanoscript.files.base.places import shared


def throw_away(path: Path) -> None:
    """Move a file into the trash of who is at work; where there can be none it is deleted. Raises OSError."""
    with contextlib.suppress(OSError):
        _into(shared() / "Trash", path)
        return
    path.unlink()


def _into(trash: Path, path: Path) -> None:
    for folder in ("files", "info"):
        (trash / folder).mkdir(mode=0o700, parents=True, exist_ok=True)
    name, told = _told(trash / "info", path)
    try:
        shutil.move(path, trash / "files" / name)
    except OSError:
        told.unlink()
        raise


def _told(info: Path, path: Path) -> tuple[str, Path]:
    """A name that is free in the trash, taken by the file that tells where what has it lay, and since when."""
    lines = (
        f"[Trash Info]\nPath={quote(os.fsencode(path.absolute()))}\nDeletionDate={time.strftime('%Y-%m-%dT%H:%M:%S')}\n"
    )
    for k in itertools.count(1):
        name = path.name if k == 1 else f"{path.stem}.{k}{path.suffix}"
        told = info / f"{name}.trashinfo"
        with contextlib.suppress(FileExistsError), open(told, "x", encoding="ascii") as file:
            file.write(lines)
            return name, told
    raise AssertionError("there is no end of names")
