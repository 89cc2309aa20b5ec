"""Where libraries of kernels lie, for which processors, and building the missing ones in another process.

On x86-64 there are two kinds, for the levels v3 and v2 of the *x86-64 psABI* (microarchitecture levels): they are the
same on every machine, so that a print is, and come with the program. Other processors have libraries of their own.
"""

from __future__ import annotations

import contextlib
import ctypes
import functools
import os
import platform
import subprocess
import sys
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

import platformdirs

_FORMAT = 6  # raised when the way of building changes, so that old libraries are not loaded
READY = Path(__file__).with_name("ready")  # those that come with the program, in a folder a kind of processor
_SOURCE = Path(__file__).resolve().parents[3]

# Flags of /proc/cpuinfo that a level asks for besides those of the levels below it (x86-64 psABI, table 3.1).
LEVELS = {
    "x86-64-v3": {"avx", "avx2", "bmi1", "bmi2", "f16c", "fma", "abm", "movbe", "xsave"},
    "x86-64-v2": {"cx16", "lahf_lm", "popcnt", "sse4_1", "sse4_2", "ssse3"},
}
OWN = "own"  # this processor as it is


@functools.cache
def level() -> str:
    """The kind of processor that libraries are taken for here: one of `LEVELS`, or `OWN`.

    The environment's KYANOSCRIPT_PROCESSOR chooses another.
    """
    asked = os.environ.get("KYANOSCRIPT_PROCESSOR", "")
    if asked in (*LEVELS, OWN):
        return asked
    if platform.machine() not in ("x86_64", "AMD64"):
        return OWN
    flags = set(_processor().split())
    return next((name for name in LEVELS if _needs(name) <= flags), OWN)


def _needs(name: str) -> set[str]:
    order = list(LEVELS)
    return set().union(*(LEVELS[level] for level in order[order.index(name) :]))


@functools.cache
def _processor() -> str:
    """What tells processors with different instructions apart."""
    try:
        text = Path("/proc/cpuinfo").read_text()
    except OSError:
        return platform.processor()
    wanted = ("model name", "flags", "Features", "CPU part")
    return "".join(line for line in text.splitlines()[:40] if line.startswith(wanted))


def identity(processor: str) -> str:
    """What a library for a kind of processor depends on besides its source."""
    own = f" {platform.machine()} {_processor()}" if processor == OWN else ""
    return f"{_FORMAT} {processor}{own}"


def cache() -> Path:
    """Where libraries are kept that were built on this machine, in a folder a kind of processor."""
    return Path(os.environ.get("KYANOSCRIPT_KERNELS") or platformdirs.user_cache_dir("kyanoscript"))


def place(folder: Path, processor: str, name: str) -> Path:
    """The file of a library."""
    return folder / processor / f"{name}.so"


def find(name: str) -> Path | None:
    """The library of that name for this processor, if it is there."""
    for folder in (READY, cache()):
        path = place(folder, level(), name)
        if path.is_file():
            return path
    return None


def build_apart(
    modules: list[str],
    progress: Callable[[float], None],
    *,
    folder: Path | None = None,
    processors: Sequence[str] = (),
) -> None:
    """Build the libraries of some modules in other processes, which write how far they are.

    They go into the cache or another folder, for this kind of processor or others. Raises OSError, CalledProcessError
    with what the compiler said; and what ``progress`` raises, which ends the building.
    """
    progress(0.0)
    into, kinds = str(folder or cache()), list(processors or [level()])
    with contextlib.ExitStack() as ending:
        said = ending.enter_context(tempfile.TemporaryFile())
        streams: dict[str, Any] = {"stdin": subprocess.DEVNULL, "stdout": subprocess.PIPE, "stderr": said}
        children = [
            ending.enter_context(subprocess.Popen(_isolated(part, into, kinds), cwd=_SOURCE, text=True, **streams))
            for part in _parts(modules)
        ]
        try:
            _follow(children, len(modules), progress)
        except BaseException:
            for child in children:
                child.kill()
            raise
        if any(child.wait() for child in children):
            said.seek(0)
            raise subprocess.CalledProcessError(1, "building the kernels", stderr=said.read().decode(errors="replace"))
    progress(1.0)


def _parts(modules: list[str]) -> list[list[str]]:
    """The modules shared out among as many processes as are worth starting."""
    count = max(1, min(os.cpu_count() or 1, 4, len(modules) // 4))
    return [modules[k::count] for k in range(count)]


def _follow(children: list[subprocess.Popen[str]], count: int, progress: Callable[[float], None]) -> None:
    """Every line that a child writes is one more library."""
    import selectors

    done = 0
    with selectors.DefaultSelector() as lines:
        for child in children:
            assert child.stdout is not None
            lines.register(child.stdout, selectors.EVENT_READ)
        while lines.get_map():
            for key, _ in lines.select():
                if key.fileobj.readline():  # type: ignore[union-attr]  # a file, and no number, was registered
                    done += 1
                    progress(done / count)
                else:
                    lines.unregister(key.fileobj)


def _isolated(modules: list[str], folder: str, processors: list[str]) -> list[str]:
    """The command that builds, with the modules of this process and none of the present folder.

    Isolated: no file of the folder that one happens to stand in is taken for one of its modules.
    """
    here = os.path.realpath(os.curdir)
    found = [str(_SOURCE), *(p for p in sys.path if p and os.path.realpath(p) != here)]
    paths = list(dict.fromkeys(found))
    start = (
        f"import sys; sys.path[:] = {paths!r}; from kyanoscript.core.kernel import build; "
        f"build.main({modules!r}, {folder!r}, {processors!r})"
    )
    return [sys.executable, "-I", "-c", start]


def give_back() -> None:
    """Give freed memory back to the system: after a photograph is let go, most of what it took lies in small pieces."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)
