"""Processes kept: a file each, open JSON (docs/process.schema.json), in the person's data folder, or anywhere.

Beside the process stands what was worked out of it, for other programs: the curve, white, deepest, scale. It is not
read back, since it follows from the readings.
"""

from __future__ import annotations

import contextlib
import json
import math
from importlib import resources
from pathlib import Path
from typing import Any

import numpy as np

from kyanoscript.core.process.process import POINTS, Process
from kyanoscript.core.script import ScriptError
from kyanoscript.core.script.complaint import read
from kyanoscript.files.base import log, naming, places
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.base.trash import throw_away
from kyanoscript.translation import tr

SUFFIX = ".process.json"
_MOST = 8 << 20  # bytes
_MARK = "kyanoscript process"


def folder() -> Path:
    """Where one's own processes lie; it may not exist yet."""
    return places.data("processes")


def demo_folder() -> Path:
    """Where those of the demo lie."""
    return Path(str(resources.files("kyanoscript") / "demo" / "processes"))


def read_process(path: Path) -> Process:
    """The process of a file. Raises FileError."""
    text = read_plain(path, _MOST)
    if len(text) > _MOST:
        raise FileError(path, "it is too long for a process", "Choose a file that a process was kept in")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        cut_short = text.lstrip()[:1] == b"{"
        what = "it is damaged or cut short" if cut_short else "this is no process"
        raise FileError(path, what, "Look for another copy of it, or read the wedge again") from error
    if not isinstance(data, dict) or _MARK not in data or "process" not in data:
        raise FileError(path, "this is no process", "Choose a file that a process was kept in")
    if data[_MARK] != 1:
        raise FileError(path, "a newer version of the program wrote it", "Use that one")
    try:
        return read(Process, data["process"], "process")
    except ScriptError as error:
        raise FileError(path, str(error), "Put it right in the file, or choose another") from error


def write_process(path: Path, process: Process) -> None:
    """Keep a process in a file. Raises FileError, and writes nothing, where it could not be read again."""
    own = {"name": process.name, **process.plain(unusual=True)}
    try:
        text = json.dumps(own, allow_nan=False, ensure_ascii=False)
        text.encode()
        read(Process, json.loads(text), "process")
    except UnicodeEncodeError:
        raise FileError(path, "its words hold letters that no file can", "Write them anew") from None
    except (ScriptError, ValueError) as error:
        said = str(error) if isinstance(error, ScriptError) else "a number in it is none"
        raise FileError(
            path, tr("the process could not be read again: {said}", said=said), "Nothing was written"
        ) from error
    data: dict[str, Any] = {_MARK: 1, "process": own}
    with contextlib.suppress(ValueError):  # of what cannot be worked out nothing is told
        data |= _worked_out(process)
    whole = (json.dumps(data, indent=1, ensure_ascii=False) + "\n").encode()
    if len(whole) > _MOST:
        raise FileError(path, "the process is too long to be read again", "Leave readings out; nothing was written")
    with replacing(path, ()) as file:
        file.write(whole)


def _worked_out(process: Process) -> dict[str, Any]:
    white, deepest = process.end(False), process.end(True)
    if white is None or deepest is None:
        return {}
    tones, curve = np.linspace(0, 100, POINTS), process.curve()
    at = np.linspace(0, 100, 101)
    out: dict[str, Any] = {
        "curve": [[float(t), round(float(v), 3)] for t, v in zip(at, np.interp(at, tones, curve), strict=True)],
        "white": [round(v, 2) for v in white],
        "deepest": [round(v, 2) for v in deepest],
    }
    if not math.isnan(process.scale()):
        out["scale"] = round(process.scale(), 3)
    return out


def file_of(name: str) -> Path:
    """Where a process of that name is kept, or may be."""
    return naming.place(folder(), name, SUFFIX, lambda path: read_process(path).name)


def keep(process: Process) -> Path:
    """Keep a process, by its name. Raises FileError."""
    path = file_of(process.name)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(path.parent, "the folder cannot be made", "Look at who may write there") from error
    write_process(path, process)
    return path


def remove(process: Process) -> None:
    """Take a kept one away. Raises FileError."""
    path = file_of(process.name)
    try:
        if path.exists():
            throw_away(path)
    except OSError as error:
        raise FileError(path, "it cannot be taken away", "Look at who may write there") from error


def kept() -> tuple[list[Process], list[str]]:
    """One's own processes by name, and what is wrong with files that are none, a line each."""
    found, broken = [], []
    for path in sorted(folder().glob(f"*{SUFFIX}")):
        try:
            found.append(read_process(path))
        except FileError as error:
            log.note(f"{path.name} is left out", error)
            broken.append(tr("{error}; it is left out", error=error))
    return found, broken


def demos() -> list[Process]:
    """Those that ship."""
    return [read_process(path) for path in sorted(demo_folder().glob(f"*{SUFFIX}"))]


def named(word: str) -> Process:
    """A process by the name of its file, its own name, or a demo's. Raises FileError."""
    if word.lower().endswith(".json") or Path(word).is_file():
        return read_process(Path(word))
    every = [*kept()[0], *demos()]
    for process in every:
        if process.name.casefold() == word.casefold():
            return process
    names = ", ".join(process.name for process in every)
    raise FileError(
        Path(word), "there is no process of that name", tr("There are {names}; or name a file", names=names)
    )
