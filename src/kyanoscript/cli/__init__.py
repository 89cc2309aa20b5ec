"""The program from a terminal: the engine without a window, or the window on what is named."""

from __future__ import annotations

import argparse
import importlib
import os
import signal
import sys
import threading
from collections.abc import Callable, Sequence
from pathlib import Path

from kyanoscript import translation
from kyanoscript.terminal import (
    OK,
    STOPPED,
    WRONG,
    Told,
    complain,
    honest_streams,
    interrupts_said,
    last_words,
    leave_nothing,
    stop_signal,
)
from kyanoscript.translation import tr

__all__ = ["OK", "STOPPED", "WRONG", "main"]


def main(argv: Sequence[str] | None = None) -> int:
    """Run a command; returns the exit status: 0 done, 2 for what the caller can put right, 130 or 143 stopped."""
    # NumPy's own threads wait awake for a tenth of a second before they sleep: of a short command's time a fifth.
    os.environ.setdefault("OPENBLAS_THREAD_TIMEOUT", "4")
    if argv is None:  # a program of its own: while it loads an interrupt just ends it
        signal.signal(signal.SIGINT, signal.SIG_DFL)
    words = list(sys.argv[1:] if argv is None else argv)
    with honest_streams() as status:
        status.value = _run(words)
    return status.value


def _run(words: list[str]) -> int:
    from kyanoscript.cli.words import VERBS, by_qt, nearest_command, parsed

    if not words or not (words[0] in VERBS or words[0] in ("-h", "--help", "--version")):
        wrong = nearest_command(words)
        if wrong:
            return complain(wrong)
        from kyanoscript.ui.app.start import run

        return run(words)
    if "--json" in words:
        translation.speak_english()
    options = parsed(words)
    room = _too_little_room()
    if room:
        return complain(room)
    with interrupts_said():
        return _watched(lambda: _done(options), by_qt(options))


_LEAST = 640  # MB of address space: with less, libraries that it is built on crash while they are loaded


def _too_little_room() -> str:
    """What is wrong with the memory that this session may use; empty if it is enough to start."""
    import resource

    limit, _ = resource.getrlimit(resource.RLIMIT_AS)
    if limit == resource.RLIM_INFINITY or limit >= _LEAST << 20:
        return ""
    return tr(
        "this session may use {limit} MB of address space (ulimit -v); at least {least} MB are needed",
        limit=limit >> 20,
        least=_LEAST,
    )


def _done(options: argparse.Namespace) -> int:
    from kyanoscript.cli.words import VERBS

    module, function = VERBS[options.command].by.split(".")
    command: Callable[..., int] = getattr(importlib.import_module(f"{__name__}.{module}"), function)
    if not getattr(options, "quiet", False):
        from kyanoscript.core import kernel

        kernel.watch(Told("compiling the inner loops for this processor, once"))
    return command(options)


def _watched(work: Callable[[], int], here: bool) -> int:
    """Work in a thread, so that an interrupt is answered at once however long one step of it takes.

    ``here``: in this one, as Qt wants to be where it began and takes the program down otherwise; the other watches.
    """
    outcome: list[int | BaseException] = []

    def go() -> None:
        try:
            outcome.append(work())
        except BaseException as error:
            outcome.append(error)

    over = threading.Event()

    def watch() -> None:
        while not over.wait(0.2):
            if stop_signal():
                _abandon()

    thread = threading.Thread(target=watch if here else go, name="command", daemon=True)
    thread.start()
    if here:
        go()
        over.set()
    while thread.is_alive():
        thread.join(0.2)
        if stop_signal() and not here:
            _abandon()
    found = outcome[0]
    return found if isinstance(found, int) else _said(found)


_STARVED = "there is not enough memory for this. Close other programs, or use --longer-side or --threads 1"


def _said(error: BaseException) -> int:
    """What went wrong, in one line."""
    from kyanoscript.core.script import ScriptError
    from kyanoscript.files.base import log
    from kyanoscript.files.base.errors import FileError, lacks_memory, plain

    if isinstance(error, FileError | ScriptError):
        return complain(str(error))
    if isinstance(error, BrokenPipeError | SystemExit):
        raise error
    log.note("a command failed", error)
    if lacks_memory(error) or "can't start new thread" in str(error):
        return complain(_STARVED)
    if isinstance(error, OSError) and error.errno:
        if not error.filename:  # of what was printed
            raise error
        return complain(str(plain(Path(os.fsdecode(error.filename)), error, "reading")))
    return complain(
        tr("something went wrong that should not; nothing was written. What it was stands in {log}", log=log.path())
    )


def _abandon() -> None:
    """Stopped by a signal: the half-written file goes, and the thread is not waited for."""
    from kyanoscript.files.base import replace

    replace.abandon()
    words = last_words()
    leave_nothing()
    complain(words)
    sys.stdout.flush()
    sys.stderr.flush()
    os._exit(128 + (stop_signal() or 2))
