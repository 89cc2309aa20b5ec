"""The log: what exceptions themselves say, for whoever looks into a fault. People are told what it means.

It lies in the state folder as ``log.txt``, with one older one beside it. A log that cannot be written stops nothing.
"""

from __future__ import annotations

import contextlib
import os
import sys
import threading
import time
import traceback
from pathlib import Path

from kyanoscript import __version__
from kyanoscript.core.quoting import visible
from kyanoscript.files.base.places import folder

_MOST = 256 << 10  # bytes, after which a new log is begun
_lock = threading.Lock()
_faults = [0]


def path() -> Path:
    """Where the log lies."""
    return folder() / "log.txt"


def faults() -> int:
    """How many exceptions this program has written down."""
    return _faults[0]


def note(what: str, error: BaseException | None = None) -> None:
    """Write down what happened, with the trace of an exception if there is one; by any thread."""
    lines = [f"{time.strftime('%Y-%m-%d %H:%M:%S')}  {__version__}  {os.getpid()}  {what}"]
    if error is not None:
        _faults[0] += 1
        lines += ["  " + line for line in "".join(traceback.format_exception(error)).splitlines()]
    text = visible("\n".join(lines)) + "\n"
    if os.environ.get("KYANOSCRIPT_LOG") == "stderr":
        with contextlib.suppress(OSError, ValueError):
            sys.stderr.write(text)
    with _lock, contextlib.suppress(OSError):
        file = path()
        file.parent.mkdir(parents=True, exist_ok=True)
        if file.exists() and file.stat().st_size > _MOST:
            os.replace(file, file.with_suffix(".old.txt"))
        with open(file, "a", encoding="utf-8", errors="replace", opener=_for_oneself) as out:
            out.write(text)


def _for_oneself(name: str, flags: int) -> int:
    """Opened so that nobody else of this machine may read it: it names files."""
    handle = os.open(name, flags, 0o600)
    os.fchmod(handle, 0o600)
    return handle
