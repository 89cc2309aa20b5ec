"""Writing so that a file is either wholly new or wholly as it was."""

from __future__ import annotations

import contextlib
import fcntl
import os
import stat
import tempfile
import threading
from collections.abc import Collection, Iterator
from pathlib import Path
from typing import BinaryIO

from kyanoscript.files.base.errors import Cancelled, FileError, plain
from kyanoscript.translation import tr

_alive: set[Path] = set()  # temporary files being written by this program
ended = threading.Event()
_lock = threading.Lock()
_BEGIN = 2  # SYNC_FILE_RANGE_WRITE: without waiting
_END = ".kyano.part"  # of the temporary files: nobody else's are ever touched


def _umask() -> int:
    """What new files are not to allow. Asked once: asking sets it for a moment, and for every thread."""
    try:
        for line in Path("/proc/self/status").read_text().splitlines():
            if line.startswith("Umask:"):
                return int(line.split()[1], 8)
    except (OSError, ValueError):
        pass
    mask = os.umask(0o077)
    os.umask(mask)
    return mask


_MASK = _umask()
_OWN = 0o600  # what nobody else of this machine may read


@contextlib.contextmanager
def replacing(target: Path, never: Collection[Path] = (), own: bool = False) -> Iterator[BinaryIO]:
    """Open a temporary file beside ``target``; leaving without an exception flushes it and renames it over the target.

    An exception removes the temporary file and leaves the target as it was. What a killed program has left beside
    the target goes. The new file has the permissions of the one it replaces; one that may not be written to is not
    replaced, nor is anything but a plain file. ``never`` are files that must not be written: the opened photograph and
    whatever else the print is made from, by whatever name or link they are reached. ``own``: nobody but the person who
    writes it may read it. Raises FileError.
    """
    try:
        real = target.resolve()
        mode = _mode_of(target, real, never)
        mode = _OWN if own else mode
        clean(real.parent)
        lock, temporary = _beside(real)
    except (OSError, RuntimeError) as error:
        raise _meant(target, error) from error
    except ValueError as error:
        raise FileError(target, "no file can have this name", "Choose another") from error
    try:
        with temporary.open("r+b") as file:
            yield file
            file.flush()
            os.fsync(file.fileno())
            os.fchmod(file.fileno(), mode)  # its owner is whoever writes it
            with _lock:
                if ended.is_set():
                    raise Cancelled
                os.replace(temporary, real)
        _flush_folder(real.parent)
    except OSError as error:
        raise plain(target, error, "writing") from error
    finally:
        temporary.unlink(missing_ok=True)
        _alive.discard(temporary)
        os.close(lock)


def hasten(file: BinaryIO) -> None:
    """Have the system begin to bring onto the disk what has been written: at the end there is less to wait for."""
    import ctypes

    with contextlib.suppress(OSError, AttributeError, ValueError):
        ctypes.CDLL(None).sync_file_range(file.fileno(), ctypes.c_int64(0), ctypes.c_int64(0), _BEGIN)


def _meant(target: Path, error: OSError | RuntimeError) -> FileError:
    """In words; a loop of links is a RuntimeError to `Path.resolve`."""
    if isinstance(error, OSError):
        return plain(target, error, "writing")
    return FileError(target, "it is a link that leads back to itself", "Choose another name")


def _mode_of(target: Path, real: Path, never: Collection[Path]) -> int:
    """The permissions that the new file gets. Raises FileError if the target is not to be written."""
    if not real.parent.is_dir():
        raise FileError(target, tr("its folder {parent} does not exist", parent=real.parent), "Choose another folder")
    try:
        found = real.stat()
    except FileNotFoundError:
        return 0o666 & ~_MASK
    for other in never:
        if _same(found, other):
            raise FileError(
                target, "the print is made from this picture, and it is never written to", "Choose another name"
            )
    if stat.S_ISDIR(found.st_mode):
        raise FileError(target, "this is a folder, not a file", "Choose a file name")
    if not stat.S_ISREG(found.st_mode):
        raise FileError(target, "this is a device or a pipe, not a file", "Choose another name")
    if not found.st_mode & 0o222 or not os.access(real, os.W_OK):
        raise FileError(
            target, "the file is protected against writing", "Change its permissions, or choose another name"
        )
    return stat.S_IMODE(found.st_mode) & 0o777


def _same(found: os.stat_result, other: Path) -> bool:
    try:
        return os.path.samestat(found, other.stat())
    except (OSError, ValueError):
        return False


def _beside(real: Path) -> tuple[int, Path]:
    """A new temporary file, locked by a descriptor as long as this program lives and works on it."""
    while True:
        handle, name = tempfile.mkstemp(prefix=f".{real.stem[:40]}-", suffix=_END, dir=real.parent)
        with contextlib.suppress(OSError):  # not every disk knows locks
            fcntl.flock(handle, fcntl.LOCK_EX)
        with _lock:
            _alive.add(Path(name))
            if ended.is_set():
                os.unlink(name)
                raise Cancelled
        if os.fstat(handle).st_nlink:  # else another program took it for a left-over before it was locked
            return handle, Path(name)
        os.close(handle)


def abandon() -> None:
    """The program ends at once: half-written files go, and nothing is written any more."""
    with _lock:
        ended.set()
        for temporary in list(_alive):
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)


def clean(folder: Path) -> None:
    """Remove the temporary files that programs which were killed have left in a folder."""
    with contextlib.suppress(OSError):
        for left in folder.glob(f".*{_END}"):
            with contextlib.suppress(OSError):
                handle = os.open(left, os.O_RDWR | os.O_NONBLOCK | os.O_NOFOLLOW | os.O_CLOEXEC)
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    left.unlink()
                finally:
                    os.close(handle)


def _flush_folder(folder: Path) -> None:
    """Make the renaming itself survive a power cut, where the file system can."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
