"""Opening files that anybody may have made: plain files only, never a pipe or a device that would be waited for."""

from __future__ import annotations

import contextlib
import hashlib
import os
import stat
import threading
import weakref
from dataclasses import dataclass
from io import SEEK_CUR, SEEK_END, BufferedReader, RawIOBase
from pathlib import Path
from typing import Any, BinaryIO

from kyanoscript.files.base.errors import FileError, plain
from kyanoscript.translation import tr

# Endings of pictures that can be opened, as file dialogs want them; what a file is, its first bytes tell
_RAW = "*.dng *.cr2 *.cr3 *.nef *.arw *.raf *.orf *.rw2 *.pef *.srw *.x3f *.mrw *.3fr *.iiq"
PICTURES = (
    "*.jpg *.jpeg *.png *.tif *.tiff *.webp *.avif *.avifs *.jxl *.jp2 *.j2k *.heic *.heif *.exr "
    f"*.pfm *.gif *.bmp *.pbm *.pgm *.ppm *.pnm *.pam *.tga *.psd {_RAW}"
)
ENDINGS = frozenset(word[1:] for word in PICTURES.split())
_PIECE = 1 << 20  # bytes hashed in one go


def open_plain(path: Path) -> BufferedReader:
    """The file opened for reading. Raises FileError, at once, for a folder, pipe, socket or device."""
    try:
        # Not to wait for whoever may write into a pipe; for plain files the flag means nothing.
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK | os.O_CLOEXEC)
    except OSError as error:
        raise plain(path, error, "reading") from error
    except ValueError as error:  # a name that no file can have
        raise FileError(path, "no file can have this name", "Choose another") from error
    kind = os.fstat(handle).st_mode
    if not stat.S_ISREG(kind):
        os.close(handle)
        raise FileError(path, tr("this is {kind}, not a file", kind=_kind_words(kind)), "Choose a file")
    return open(handle, "rb")


def whole(file: BinaryIO) -> bytes:
    """All of a file, in one piece: reading it through a buffer would take twice as much memory."""
    count, parts, at = os.fstat(file.fileno()).st_size, [], 0
    while at < count:
        part = os.pread(file.fileno(), count - at, at)
        if not part:
            break
        parts.append(part)
        at += len(part)
    return parts[0] if len(parts) == 1 else b"".join(parts)


def read_plain(path: Path, limit: int) -> bytes:
    """At most ``limit + 1`` bytes of a plain file: one more than allowed tells that it is too long.

    Raises FileError.
    """
    with open_plain(path) as file:
        try:
            return file.read(limit + 1)
        except OSError as error:
            raise plain(path, error, "reading") from error


def _kind_words(mode: int) -> str:
    if stat.S_ISDIR(mode):
        return "a folder"
    if stat.S_ISFIFO(mode):
        return "a pipe"
    return "a socket" if stat.S_ISSOCK(mode) else "a device"


def sha256(path: Path) -> str:
    """SHA-256 of a file's bytes, in hex. Raises FileError."""
    with open_plain(path) as file:
        try:
            return hashlib.file_digest(file, "sha256").hexdigest()
        except OSError as error:
            raise plain(path, error, "reading") from error


@dataclass(frozen=True)
class Stamp:
    """What tells, without reading it, that a file is still the one that was read."""

    device: int
    inode: int
    size: int
    changed: int  # nanoseconds


def stamp_of(file: int | Path) -> Stamp | None:
    """The stamp of a file, by its descriptor or its name; None if there is none."""
    try:
        found = os.stat(file)
    except (OSError, ValueError):
        return None
    return Stamp(found.st_dev, found.st_ino, found.st_size, found.st_mtime_ns)


class Original:
    """The very file that a photograph was read from, kept open: moved or replaced, it is still known."""

    def __init__(self, path: Path, handle: int) -> None:
        self.path = path.absolute()
        self._handle = os.dup(handle)
        weakref.finalize(self, os.close, self._handle)
        self.stamp = stamp_of(self._handle)
        self._digest: str | None = None
        self._lock = threading.Lock()

    def reader(self) -> BufferedReader:
        """The file from its beginning, by places of its own: others may read it at the same time."""
        return BufferedReader(_ByPlace(self))

    def read_at(self, place: int, count: int) -> bytes:
        """Bytes of it, as many as there are."""
        return os.pread(self._handle, count, place)

    def digest(self) -> str:
        """SHA-256 of what was read, in hex; empty if it was written to before it could be worked out."""
        with self._lock:
            if self._digest is None:
                self._digest = self._work_out()
            return self._digest

    def _work_out(self) -> str:
        sum_, at = hashlib.sha256(), 0
        with contextlib.suppress(OSError):
            while piece := os.pread(self._handle, _PIECE, at):
                sum_.update(piece)
                at += len(piece)
            if stamp_of(self._handle) == self.stamp:
                return sum_.hexdigest()
        return ""

    def state(self) -> str:
        """What has become of it since: ``same``, ``changed`` (written to, or another in its place) or ``gone``."""
        now = stamp_of(self.path)
        if now is None:
            return "gone"
        return "same" if now == self.stamp else "changed"


class _ByPlace(RawIOBase):
    """Reads an original without moving the place that its descriptor stands at."""

    def __init__(self, original: Original) -> None:
        self._original = original
        self._at = 0

    def readable(self) -> bool:
        return True

    def seekable(self) -> bool:
        return True

    def seek(self, offset: int, whence: int = 0) -> int:
        size = self._original.stamp.size if self._original.stamp else 0
        self._at = max(0, offset + {SEEK_CUR: self._at, SEEK_END: size}.get(whence, 0))
        return self._at

    def readinto(self, buffer: Any) -> int:
        data = self._original.read_at(self._at, len(buffer))
        buffer[: len(data)] = data
        self._at += len(data)
        return len(data)
