"""What is known of an edition's prints: a line of JSON for each, kept beside them, so that it can go on after any end.

A line is written once its print is whole on the disk; a line that was cut short by the end of everything is taken off.
"""

from __future__ import annotations

import csv
import fcntl
import io
import json
import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, fields, replace
from pathlib import Path
from typing import Any, BinaryIO

from kyanoscript.files.base.errors import Cancelled, FileError, plain
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.base.progress import UNTOLD, Progress
from kyanoscript.files.base.replace import clean, replacing
from kyanoscript.files.editions.work import BEGUN, DONE, Result, Task, file_of, stamp
from kyanoscript.translation import tr

NAME = "edition.jsonl"
_KNOWN = {one.name for one in fields(Result)}
_COLUMNS = (
    "number", "photo", "file", "result", "reason", "when", "width", "height", "seconds", "photo_sha256", "file_sha256",
)  # fmt: skip


@dataclass(frozen=True)
class Differs:
    """A print, or its photograph, that is not what the manifest says."""

    file: str
    reason: str


class Manifest:
    """That of a folder; open as long as its edition is at work."""

    def __init__(self, folder: Path, file: BinaryIO, known: dict[str, Result]) -> None:
        self.folder, self._file = folder, file
        self.known = known  # the last of each file, by its name

    def holds(self, task: Task) -> bool:
        """Whether a print is there just as it would be made now."""
        return _holds(self.known.get(task.target.name), task)

    def begin(self, task: Task) -> None:
        """A line that its print is worked on: one that is found without another line is no stranger's file. Raises
        FileError."""
        self.add(Result(task.number, str(task.photo), task.target.name, task.how, BEGUN), sure=False)

    def add(self, result: Result, sure: bool = True) -> None:
        """A line more; ``sure``: whole on the disk. Raises FileError."""
        self.known[result.file] = result
        try:
            self._file.write(json.dumps(result.told(), ensure_ascii=False).encode("utf-8", "surrogatepass") + b"\n")
            self._file.flush()
            if sure:
                os.fsync(self._file.fileno())
        except OSError as error:
            raise plain(self.folder / NAME, error, "writing") from error


@contextmanager
def opened(folder: Path, resume: bool) -> Iterator[Manifest]:
    """The manifest of a folder, which is made if it is not there; nobody else works there meanwhile.

    Raises FileError: where another edition is at work; where there is one already and it is not to be gone on with.
    """
    path = folder / NAME
    try:
        folder.mkdir(parents=True, exist_ok=True)
        file = path.open("a+b")
    except OSError as error:
        raise plain(path, error, "writing") from error
    with file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError as error:
            raise FileError(
                folder, "another edition is at work in this folder", "Wait for it, or choose another"
            ) from error
        file.seek(0)
        text = file.read()
        if text.strip() and not resume:
            raise FileError(folder, "there is an edition in this folder already",
                            "Go on with it by --resume, or choose another folder")  # fmt: skip
        whole = text.rfind(b"\n") + 1
        if whole != len(text):  # the end came in the middle of a line
            file.truncate(whole)
        known = {one.file: one for one in read(text[:whole], path)}
        clean(folder)
        yield Manifest(folder, file, known)
        clean(folder)


def read(text: bytes, path: Path) -> Iterator[Result]:
    """Results of lines. Raises FileError for what is no manifest."""
    for k, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        try:
            yield _result(json.loads(line))
        except (ValueError, TypeError, KeyError, RecursionError) as error:
            raise FileError(
                path, tr("line {k} is none of an edition's", k=k), "Put it right, or move the file away"
            ) from error


def _result(data: Any) -> Result:
    if not isinstance(data, dict):
        raise ValueError
    made = Result(**{name: value for name, value in data.items() if name in _KNOWN})
    if not (isinstance(made.number, int) and isinstance(made.file, str) and isinstance(made.photo, str)
            and "/" not in made.file):  # fmt: skip
        raise ValueError
    return replace(made, notes=tuple(made.notes))


def _holds(known: Result | None, task: Task) -> bool:
    """Whether a print that is known is there just as it would be made now."""
    if known is None or known.result != DONE or known.how != task.how or known.photo != str(task.photo):
        return False
    try:
        if task.target.stat().st_size != known.file_size:
            return False
        now = stamp(task.photo)
        if (now.size, now.changed) == (known.photo_size, known.photo_changed):
            return True
        return now.size == known.photo_size and sha256(file_of(task.photo)) == known.photo_sha256
    except (OSError, FileError):
        return False


# Looked at while nobody works there, or somebody does


@dataclass(frozen=True)
class Standing:
    """How it stands with a print that is wanted."""

    known: Result | None  # what came of it last
    holds: bool  # it is there just as it would be made now
    strange: bool  # a file of its name is there that no edition made


def standing(folder: Path, tasks: Iterable[Task], stopping: Callable[[], bool] = lambda: False) -> list[Standing]:
    """How it stands with each print. Raises FileError for what is no manifest; Cancelled."""
    known = {one.file: one for one in record(folder)}
    found = []
    for task in tasks:
        if stopping():
            raise Cancelled
        its = known.get(task.target.name)
        found.append(Standing(its, _holds(its, task), its is None and task.target.exists()))
    return found


def record(folder: Path) -> list[Result]:
    """What was done in a folder, each file's last. Empty where no edition was. Raises FileError."""
    path = folder / NAME
    try:
        text = path.read_bytes()
    except FileNotFoundError:
        return []
    except OSError as error:
        raise plain(path, error, "reading") from error
    return list({one.file: one for one in read(text[: text.rfind(b"\n") + 1], path)}.values())


def written(results: Iterable[Result], target: Path) -> None:
    """A record as a table of values between commas (RFC 4180), for people and spreadsheets. Raises FileError."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(_COLUMNS)
    for result in results:
        told = result.told()
        rows.writerow([told[name] for name in _COLUMNS])
    with replacing(target) as file:
        file.write(text.getvalue().encode("utf-8", "surrogateescape"))


def checked(folder: Path, progress: Progress = UNTOLD) -> tuple[list[Result], list[Differs]]:
    """The prints of a folder's manifest, and what is not as it says. Raises FileError, Cancelled."""
    if not (folder / NAME).exists():
        raise FileError(folder / NAME, "there is no such file", "Name the folder of an edition")
    known, differ = record(folder), []
    for k, result in enumerate(known):
        if (found := _differs(folder, result)) is not None:
            differ.append(found)
        progress.tell((k + 1) / len(known))
    return known, differ


def _differs(folder: Path, result: Result) -> Differs | None:
    if result.result != DONE:
        unfinished = "it was begun, and did not come to its end"
        return Differs(result.file, result.reason or (unfinished if result.result == BEGUN else "it was not done"))
    target, photo = folder / result.file, file_of(Path(result.photo))
    if not target.is_file():
        return Differs(result.file, tr("the print is gone"))
    if sha256(target) != result.file_sha256:
        return Differs(result.file, tr("the print is not what was written"))
    if not photo.is_file():
        return Differs(result.file, tr("its photograph {name} is gone", name=photo.name))
    if sha256(photo) != result.photo_sha256:
        return Differs(result.file, tr("its photograph {name} has changed since", name=photo.name))
    return None
