"""Terminals, pipes and files that text goes to or data comes from, and how a command is stopped."""

from __future__ import annotations

import atexit
import contextlib
import errno
import os
import shutil
import signal
import stat
import sys
import tempfile
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from kyanoscript.core.quoting import visible
from kyanoscript.translation import spoken, tr

OK = 0
FAULT = 1  # something is not as it should be, and nobody who called can put it right
WRONG = 2  # exit status for anything the caller can put right: a bad file, name or value
STOPPED = 130  # as shells count an interrupt
DASH = Path("-")

_stopped: list[int] = []


@dataclass
class Status:
    """The exit status, once it is known."""

    value: int = OK


def complain(message: str) -> int:
    """One line on stderr, and the status for it."""
    with contextlib.suppress(OSError, ValueError):
        print(f"kyanoscript: {' '.join(spoken(message).split())}", file=sys.stderr, flush=True)
    return WRONG


class Told:
    """How far something long has come, on stderr: at a terminal in one line that goes on, else that it has begun."""

    def __init__(self, what: str) -> None:
        self._what = what
        self._begun = False

    def __call__(self, share: float) -> None:
        terminal = sys.stderr.isatty()
        if not terminal and self._begun:
            return
        self._begun = True
        end = "\n" if not terminal or share >= 1 else "\r"
        with contextlib.suppress(OSError, ValueError):
            print(
                f"kyanoscript: {spoken(self._what)} {share:4.0%}",
                end=end,
                file=sys.stderr,
                flush=True,
            )


class _Visible:
    """A stream of text that no word of a file can make a terminal act by: the one door to it."""

    def __init__(self, stream: Any) -> None:
        self._stream = stream

    def write(self, text: str) -> int:
        """Write it, with letters that act spelt out."""
        if self._stream is None:  # it was closed before the program began
            raise OSError(errno.EBADF, os.strerror(errno.EBADF))
        written: int = self._stream.write(visible(text))
        return written

    def __getattr__(self, name: str) -> Any:
        return getattr(self._stream, name)


@contextlib.contextmanager
def honest_streams() -> Iterator[Status]:
    """Text goes to terminals that know few letters, full disks and readers that had enough, without a traceback."""
    for stream in (sys.stdout, sys.stderr):
        with contextlib.suppress(AttributeError, ValueError, OSError):
            stream.reconfigure(errors="replace")  # type: ignore[union-attr]  # they are text streams
    status = Status()
    before = sys.stdout, sys.stderr
    sys.stdout, sys.stderr = _Visible(sys.stdout), _Visible(sys.stderr)
    try:
        yield status
        if before[0] is not None:
            sys.stdout.flush()
    except BrokenPipeError:  # the reader of a long list had seen enough
        _let_go(sys.stdout)
    except OSError as error:
        _let_go(sys.stdout)
        status.value = complain(tr("the output could not be written ({os})", os=os.strerror(error.errno or 0)))
    finally:
        sys.stdout, sys.stderr = before


def _let_go(stream: Any) -> None:
    """What is still held back for a stream goes nowhere, so that the interpreter does not try again as it ends."""
    with contextlib.suppress(OSError, ValueError, AttributeError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), stream.fileno())


@contextlib.contextmanager
def interrupts_said() -> Iterator[None]:
    """An interrupt, or a request to end, is noted for `stop_signal`; whatever imports at that time is not disturbed."""
    if threading.current_thread() is not threading.main_thread():
        yield
        return
    _stopped.clear()
    before = {}
    for number in (signal.SIGINT, signal.SIGTERM):
        before[number] = signal.signal(number, lambda n, _: _stopped.append(n))
    try:
        yield
    finally:
        for number, handler in before.items():
            signal.signal(number, handler)


def stop_signal() -> int:
    """The signal that asked to stop; 0 if none did."""
    return _stopped[0] if _stopped else 0


_spooled: list[Path] = []


@atexit.register
def leave_nothing() -> None:
    """What came through pipes goes."""
    while _spooled:
        shutil.rmtree(_spooled.pop(), ignore_errors=True)


_last_words: list[Callable[[], str]] = []


@contextlib.contextmanager
def leaving(say: Callable[[], str]) -> Iterator[None]:
    """While this goes on, whoever stops the command is told what ``say`` says, which first puts things right."""
    _last_words.append(say)
    try:
        yield
    finally:
        _last_words.remove(say)


def last_words() -> str:
    """What is said when the command is stopped."""
    return "; ".join([say() for say in _last_words]) or "stopped; nothing was written"


@contextlib.contextmanager
def folder_of_its_own() -> Iterator[Path]:
    """A temporary folder that goes however the command ends."""
    folder = Path(tempfile.mkdtemp(prefix="kyanoscript-"))
    _spooled.append(folder)
    try:
        yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def is_stream(path: Path) -> bool:
    """Whether a name means a stream that the caller opened: ``-``, ``/dev/stdin``, ``/dev/fd/3``."""
    text = str(path)
    if path == DASH:
        return True
    if not (text == "/dev/stdin" or text.startswith(("/dev/fd/", "/proc/self/fd/"))):
        return False
    with contextlib.suppress(OSError):
        return not stat.S_ISREG(os.stat(path).st_mode)
    return False


def spooled(path: Path, name: str) -> Path:
    """A stream that the caller opened, in a temporary file of that name; anything else as it is. Raises FileError."""
    from kyanoscript.files.base.errors import FileError, plain

    if not is_stream(path):
        return path
    number = 0 if str(path) in ("-", "/dev/stdin") else int(path.name) if path.name.isdigit() else -1
    if number < 0 or os.isatty(number):
        raise FileError(name, "it comes from a terminal", "Pipe it in, or name a file")
    folder = Path(tempfile.mkdtemp(prefix="kyanoscript-"))
    _spooled.append(folder)
    target = folder / name
    try:
        with os.fdopen(number, "rb", closefd=False) as stream, target.open("wb") as out:
            shutil.copyfileobj(stream, out)
    except OSError as error:
        raise plain(name, error, "reading") from error
    return target
