"""Writing so that a file is either wholly new or wholly as it was."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from kyanoscript.files.errors import FileError, plain


@contextlib.contextmanager
def replacing(target: Path, never: Path | None = None) -> Iterator[BinaryIO]:
    """Open a temporary file beside ``target``; leaving without an exception flushes it and renames it over the target.

    An exception removes the temporary file and leaves the target as it was. ``never`` is a file that must not be
    written: the opened photograph, by whatever name or link it is reached. Raises FileError.
    """
    try:
        real = target.resolve()
        if never is not None and real.exists() and never.exists() and os.path.samefile(real, never):
            raise FileError(target, "this is the opened photograph, which is never written to", "Choose another name")
        if real.is_dir():
            raise FileError(target, "this is a folder, not a file", "Choose a file name")
        if not real.parent.is_dir():
            raise FileError(target, f"its folder {real.parent} does not exist", "Choose another folder")
        handle, name = tempfile.mkstemp(prefix=f".{real.stem[:40]}-", suffix=".part", dir=real.parent)
    except OSError as error:
        raise plain(target, error, "writing") from error
    temporary = Path(name)
    try:
        os.close(handle)
        with temporary.open("w+b") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
        mask = os.umask(0)
        os.umask(mask)
        temporary.chmod(0o666 & ~mask)
        os.replace(temporary, real)
        _flush_folder(real.parent)
    except OSError as error:
        raise plain(target, error, "writing") from error
    finally:
        temporary.unlink(missing_ok=True)


def _flush_folder(folder: Path) -> None:
    """Make the renaming itself survive a power cut, where the file system can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
