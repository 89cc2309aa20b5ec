"""What goes wrong with files, in words for people. What an exception itself says goes to the log: see `log`."""

from __future__ import annotations

import errno
from pathlib import Path

from kyanoscript.core.quoting import cut
from kyanoscript.files.base import log
from kyanoscript.translation import spoken

DOUBT = "The file is damaged: parts of the picture are not what they were"
_NAME = 80  # characters of a file's name that are shown


class FileError(Exception):
    """A file cannot be read or written. The message is one line: which file, what is wrong, what to do."""

    def __init__(self, path: Path | str, problem: str, advice: str = "") -> None:
        self.path = Path(path)
        said = f"{spoken(problem)}. {spoken(advice)}" if advice else spoken(problem)
        super().__init__(f"{cut(self.path.name or path, _NAME)}: {said}")


class ChangedOnDisk(FileError):
    """A file is no longer what it was when it was read: another program, or another window, has written to it."""


class Cancelled(Exception):
    """The person stopped the work; nothing was written."""


_KNOWN = {
    0: ("{doing} was cut short: the disk is full, or takes no files as large as this", "Choose another disk"),
    errno.ENOENT: ("there is no such file", "Check the name and the folder"),
    errno.EACCES: ("{doing} is not allowed", "Check the permissions, or choose another folder"),
    errno.EPERM: ("{doing} is not allowed", "Check the permissions, or choose another folder"),
    errno.EROFS: ("the disk is read-only", "Choose another folder"),
    errno.ENOSPC: ("the disk is full", "Free some space, or choose another disk"),
    errno.EDQUOT: ("your share of the disk is full", "Free some space, or choose another disk"),
    errno.EFBIG: (
        "it would be larger than this disk or this session allows",
        "Choose another disk, or write it smaller",
    ),
    errno.EISDIR: ("this is a folder, not a file", "Choose a file"),
    errno.ENOTDIR: ("its folder does not exist", "Choose another folder"),
    errno.ENAMETOOLONG: ("the name is too long", "Choose a shorter one"),
    errno.ELOOP: ("it is a link that leads back to itself", "Choose the file itself"),
    errno.EIO: ("the disk could not be read or written", "Check the disk, and look for another copy"),
    errno.EMFILE: ("too many files are open", "Close other programs"),
    errno.ENFILE: ("too many files are open", "Close other programs"),
    errno.ENOMEM: ("there is not enough memory", "Close other programs"),
    errno.ENXIO: ("this is a device, not a file", "Choose a file"),
    errno.ENODEV: ("this is a device, not a file", "Choose a file"),
    errno.ETXTBSY: ("it is being used by another program", "Close that program"),
    errno.ESTALE: ("the network disk that it lies on has changed", "Open it again"),
}


def plain(path: Path | str, error: OSError, doing: str) -> FileError:
    """A FileError for what the system said."""
    problem, advice = _KNOWN.get(error.errno or 0, ("{doing} failed (the system's error {number})", ""))
    return FileError(path, problem.format(doing=doing, number=error.errno), advice)


def lacks_memory(error: BaseException | None) -> bool:
    """Whether an error, or what it came from, says that there was not enough memory."""
    while error is not None:
        if isinstance(error, MemoryError) or any(word in str(error).lower() for word in _NO_ROOM):
            return True
        error = error.__cause__ or error.__context__
    return False


_NO_ROOM = (
    "bad_alloc",
    "out of memory",
    "out_of_memory",
    "not enough memory",
    "cannot allocate",
    "failed to allocate",
    "failed to map segment",
    "insufficient memory",
)


def damaged(path: Path, error: Exception) -> FileError:
    """In words; what the decoder says goes to the log."""
    log.note(f"{path.name} cannot be decoded", error)
    return FileError(path, "the file is damaged or cut short", "Look for another copy of it")
