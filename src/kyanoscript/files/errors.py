"""What goes wrong with files, in words for people."""

from __future__ import annotations

import errno
from pathlib import Path


class FileError(Exception):
    """A file cannot be read or written. The message is one line: which file, what is wrong, what to do."""

    def __init__(self, path: Path | str, problem: str, advice: str = "") -> None:
        self.path = Path(path)
        super().__init__(f"{self.path.name or path}: {problem}" + (f". {advice}" if advice else ""))


class Cancelled(Exception):
    """The person stopped the work; nothing was written."""


def plain(path: Path | str, error: OSError, doing: str) -> FileError:
    """A FileError for what the system said."""
    known = {
        errno.ENOENT: ("there is no such file", "Check the name and the folder"),
        errno.EACCES: (f"{doing} is not allowed", "Check the permissions, or choose another folder"),
        errno.EPERM: (f"{doing} is not allowed", "Check the permissions, or choose another folder"),
        errno.EROFS: ("the disk is read-only", "Choose another folder"),
        errno.ENOSPC: ("the disk is full", "Free some space, or choose another disk"),
        errno.EDQUOT: ("your share of the disk is full", "Free some space, or choose another disk"),
        errno.EISDIR: ("this is a folder, not a file", "Choose a file"),
        errno.ENOTDIR: ("its folder does not exist", "Choose another folder"),
        errno.ENAMETOOLONG: ("the name is too long", "Choose a shorter one"),
    }
    problem, advice = known.get(error.errno or 0, (f"{doing} failed ({error.strerror or error})", ""))
    return FileError(path, problem, advice)
