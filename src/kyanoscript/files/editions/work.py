"""One photograph of an edition: read, printed, written whole or not at all, and what came of it.

What is worked on goes to other processes, perhaps on other machines, and comes back: everything here can be sent.
"""

from __future__ import annotations

import hashlib
import json
import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from kyanoscript.core.paper.layout import beyond
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.render.alike import Tones, matched
from kyanoscript.core.script.json import to_json
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import Cancelled, FileError, plain
from kyanoscript.files.base.opening import Stamp, sha256, stamp_of
from kyanoscript.files.base.progress import Progress
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.photos.photo import Photo, open_photo
from kyanoscript.files.photos.pictures import shipped
from kyanoscript.files.prints.out import Out, What, shape_of, write
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.sheets import OnSheet
from kyanoscript.files.prints.whole import WholePrint
from kyanoscript.translation import tr

DONE, FAILED, LEFT, BEGUN = "done", "failed", "left", "begun"
UNFORESEEN = "something went wrong that should not; what it was stands in the log"


@dataclass(frozen=True)
class Task:
    """One photograph, and what is to become of it."""

    number: int  # from 1
    photo: Path  # as it was named, perhaps with a page
    target: Path
    asked: Asked
    settings: Settings
    sheet: Sheet | None = None  # what it is laid on; None: the print alone
    stencil: int | None = None  # where this pass acts is written instead of the print
    crop: bool = False  # what reaches beyond the paper is cut off
    threads: int = 1
    match: Tones | None = None  # that the print is brought to

    @property
    def how(self) -> str:
        """What stands for everything but the photograph: SHA-256 of script, settings and sheet."""
        asked = self.asked
        told = {
            "script": to_json(asked.script, identities=False), "base": to_json(asked.base, identities=False),
            "recipe": asked.recipe.word if asked.recipe is not None else "", "values": asked.values,
            "settings": self.settings.plain(), "stencil": self.stencil, "crop": self.crop,
            "sheet": self.sheet.plain() if self.sheet is not None else None,
            "match": [self.match.mean, self.match.spread] if self.match is not None else None,
        }  # fmt: skip
        return hashlib.sha256(json.dumps(told, sort_keys=True).encode()).hexdigest()


@dataclass(frozen=True)
class Result:
    """What came of it."""

    number: int
    photo: str
    file: str  # its name
    how: str
    result: str  # `DONE`, `FAILED` or `LEFT`; in a manifest `BEGUN`, too
    reason: str = ""  # why not
    photo_sha256: str = ""
    photo_size: int = 0
    photo_changed: int = 0  # when it was, nanoseconds
    file_sha256: str = ""
    file_size: int = 0
    width: int = 0
    height: int = 0
    seconds: float = 0.0
    when: str = ""  # it was over, in universal time
    kind: str = ""  # of the photograph, in words
    notes: tuple[str, ...] = ()

    def told(self) -> dict[str, Any]:
        """As plain data."""
        return asdict(self)


def stamp(path: Path) -> Stamp:
    """What tells that a photograph's file is still the one that was read. Raises FileError."""
    found = stamp_of(file_of(path))
    if found is None:
        raise FileError(path, "there is no such file", "Check the name and the folder")
    return found


def file_of(path: Path) -> Path:
    """The file of a photograph that may be named with a page, as ``scan.tif[2]``."""
    if path.exists() or not path.name.endswith("]"):
        return path
    return path.with_name(path.name[: path.name.rindex("[")]) if "[" in path.name else path


wait: Callable[[], bool] = bool  # asked between bands of a print: it may hold the work up, and stops it if it is true


def done(task: Task) -> Result:
    """Do it; what is wrong with the photograph, or with writing, is in the result. Raises Cancelled."""
    began = time.perf_counter()
    result = Result(task.number, str(task.photo), task.target.name, task.how, DONE)
    try:
        before = stamp(task.photo)
        read = sha256(file_of(task.photo))
        result = replace(result, photo_sha256=read, photo_size=before.size, photo_changed=before.changed)
        photo = open_photo(task.photo, hold=False)
        asked = task.asked.of(photo)
        notes = list(photo.notes)
        if task.match is not None:
            asked, short = _brought(photo, asked, task.match)
            notes += short
        never = (asked.file,) if asked.file else ()
        what = _what(task, shape_of(photo, asked.script)[1] if task.sheet is not None else 1.0)
        out = Out(
            photo, asked.script, asked.pictures(photo.path), task.target, what, task.settings, never, task.threads
        )
        made = write(out, Progress(stopping=wait))
        if stamp(task.photo) != before:
            task.target.unlink(missing_ok=True)
            raise FileError(task.photo, "it changed while it was printed", "It is done when this is run again")
        kind = tr("{kind}, {width} × {height} px", kind=photo.kind, width=photo.width, height=photo.height)
        return replace(
            result, kind=kind, width=made.width, height=made.height, notes=(*notes, *made.remarks),
            file_sha256=sha256(task.target), file_size=task.target.stat().st_size,
            seconds=round(time.perf_counter() - began, 3), when=_now(),
        )  # fmt: skip
    except Cancelled:
        raise
    except Exception as error:  # one photograph never stops the others
        said = str(error) if isinstance(error, FileError | ValueError) else _foreseen(task, error)
        return replace(result, result=FAILED, reason=said, seconds=round(time.perf_counter() - began, 3), when=_now())


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="seconds")


def _brought(photo: Photo, asked: Asked, wanted: Tones) -> tuple[Asked, list[str]]:
    """The script that brings a print to some tones; and how far it comes, if that is not all the way."""
    script, tones = matched(photo.source, asked.script, wanted, asked.pictures(photo.path))
    reached, told = (f"L* {one.mean:.1f} ± {one.spread:.1f}" for one in (tones, wanted))
    said = (
        []
        if tones.alike(wanted)
        else [tr("its tones come to {reached}, and not to {told}", reached=reached, told=told)]
    )
    return replace(asked, script=script), said


def _what(task: Task, shape: float) -> What:
    if task.sheet is None:
        return WholePrint(task.stencil)
    if not task.crop and beyond(task.sheet, shape) > 0:
        raise ValueError(
            tr(
                "{name}: the print reaches beyond its paper; make it smaller, or have it cut off (--crop)",
                name=task.photo.name,
            )
        )
    return OnSheet(task.sheet)


def _foreseen(task: Task, error: Exception) -> str:
    """In words; what nobody thought of goes to the log."""
    if isinstance(error, OSError):
        return str(plain(task.photo, error, "printing"))
    if isinstance(error, MemoryError):
        return tr("{name}: there is not enough memory for it", name=task.photo.name)
    log.note(f"{task.photo.name} could not be printed", error)
    return f"{task.photo.name}: {UNFORESEEN}"


# Where no folder is shared


_PHOTO, _SCRIPT, _OUT = "photo", "script", "out"  # folders where a parcel is unpacked


@dataclass(frozen=True)
class Parcel:
    """A task with the files that it needs, each by its place below the photograph's folder, or the script's."""

    task: Task
    files: tuple[tuple[str, bytes], ...]


def parcel(task: Task) -> Parcel:
    """A task to be sent where none of its files are. Raises FileError."""
    photo = file_of(task.photo)
    held = [(f"{_PHOTO}/{photo.name}", photo)]
    for file in task.asked.pictures(photo).files(task.asked.script):
        if not shipped(file):
            held.append((_place(file, photo, task.asked.file), file))
    try:
        return Parcel(task, tuple((name, file.read_bytes()) for name, file in held))
    except OSError as error:
        raise plain(Path(error.filename or photo), error, "reading") from error


def _place(file: Path, photo: Path, script: Path | None) -> str:
    """Where a picture lies, so that it is found by the same name there. Raises FileError."""
    for name, beside in ((_SCRIPT, script), (_PHOTO, photo)):
        if beside is not None and file.is_relative_to(folder := beside.resolve().parent):
            return f"{name}/{file.relative_to(folder)}"
    raise FileError(file, "it lies neither beside the script nor beside the photograph, and cannot be sent",
                    "Move it there, or print without a cluster")  # fmt: skip


def unpacked(sent: Parcel) -> tuple[Result, bytes]:
    """The task done in a folder of its own; what came of it, and the file."""
    with tempfile.TemporaryDirectory(prefix="kyanoscript-") as place:
        folder, task = Path(place), sent.task
        for name, data in sent.files:
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes(data)
        for name in (_SCRIPT, _OUT):
            (folder / name).mkdir(exist_ok=True)
        asked = replace(task.asked, file=folder / _SCRIPT / task.asked.file.name if task.asked.file else None)
        local = replace(
            task, photo=folder / _PHOTO / task.photo.name, target=folder / _OUT / task.target.name, asked=asked
        )
        result = replace(done(local), photo=str(task.photo))
        data = local.target.read_bytes() if result.result == DONE else b""
    return result, data
