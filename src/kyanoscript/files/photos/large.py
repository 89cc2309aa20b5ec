"""Photographs too large to be held in memory: read in pieces, with smaller copies to look at.

The copies lie in the cache folder, so that the next opening is quick: named by the file's path and by what stands for
it just as it is. Those of a file that has been written to since go, and the oldest where all take too much room.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.picture.pyramid import QUARTER, Pyramid, copies
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import Cancelled, FileError
from kyanoscript.files.base.places import cache
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.photos.photo import Photo, open_photo

ROOM = 640 << 20  # bytes of pixels that are held in memory
_MOST = 3 << 30  # bytes of copies in the cache folder

_REDUCED = "Lanczos"  # how they are made: those that were made otherwise are made anew

Copies = list[NDArray[np.generic]]


def open_for_screen(
    path: Path,
    tell: Callable[[float], None] = lambda share: None,
    stopping: Callable[[], bool] = lambda: False,
    page: int | None = None,
) -> Photo:
    """Open a photograph to work with on screen: of a raw half of its pixels, of a large TIFF with copies to look at.

    ``tell`` hears how far the copies are, 0…1. Raises FileError; Cancelled once ``stopping`` says so.
    """
    photo = open_photo(path, half=True, page=page, room=ROOM)
    if not hasattr(photo.source, "rows"):
        return photo
    made = _kept(photo)
    if made is None:
        made = _made(photo, tell, stopping)
    return replace(photo, source=Pyramid(photo.source, made))


def _made(photo: Photo, tell: Callable[[float], None], stopping: Callable[[], bool]) -> Copies:
    failed: list[Exception] = []

    def share_out(parts: Iterable[Any], work: Callable[[Any], None]) -> bool:
        every = list(parts)
        done, lock = 0, threading.Lock()

        def go(part: Any) -> None:
            nonlocal done
            if failed or stopping():
                return
            try:
                work(part)
            except Exception as error:
                failed.append(error)
            with lock:
                done += 1
                tell(done / len(every))

        with ThreadPoolExecutor(machine.processors()) as pool:
            list(pool.map(go, every))
        return not failed and not stopping()

    made = copies(photo.source, share_out)
    if failed:
        raise failed[0]
    if made is None:
        raise Cancelled
    return made


def _names(photo: Photo) -> tuple[str, str]:
    """What stands for the file, whatever is in it, and for just this picture."""
    real = photo.path.resolve()
    seen = real.stat()
    whose = hashlib.sha256(os.fsencode(real)).hexdigest()[:16]
    told = f"{seen.st_mtime_ns} {seen.st_size} {photo.page} {photo.width} {photo.height} {_REDUCED}"
    return whose, f"{whose}-{hashlib.sha256(told.encode()).hexdigest()[:16]}"


def _kept(photo: Photo) -> Copies | None:
    """The copies that an earlier opening has left, read as they are needed; None if they are not all there."""
    found: Copies = []
    width, height = photo.width, photo.height
    try:
        _, name = _names(photo)
        for path in sorted((cache() / "copies").glob(f"{name}-*.npy")):
            pixels = np.load(path, mmap_mode="r", allow_pickle=False)
            width, height = -(-width // QUARTER), -(-height // QUARTER)
            if pixels.shape != (height, width, photo.source.channels) or pixels.dtype not in (np.uint16, np.float32):
                return None
            os.utime(path)
            found.append(pixels)
    except (OSError, ValueError, EOFError) as error:
        log.note("smaller copies of a large photograph could not be read", error)
        return None
    return found or None


def keep(photo: Photo) -> None:
    """Leave the copies of a photograph for its next opening, if it has any; without a word where that cannot be."""
    if not isinstance(photo.source, Pyramid):
        return
    folder = cache() / "copies"
    with contextlib.suppress(OSError, FileError):
        whose, name = _names(photo)
        if (folder / f"{name}-{len(photo.source.copies) - 1}.npy").exists():  # the last one to be written
            return
        folder.mkdir(parents=True, exist_ok=True)
        for stale in folder.glob(f"{whose}-*.npy"):
            if not stale.name.startswith(name):
                stale.unlink(missing_ok=True)
        if sum(copy.pixels.nbytes for copy in photo.source.copies) > _MOST:
            return
        for k, copy in enumerate(photo.source.copies):
            with replacing(folder / f"{name}-{k}.npy") as file:
                np.save(file, copy.pixels, allow_pickle=False)
        _let_go(folder)


def _let_go(folder: Path) -> None:
    """Of what takes too much room together the oldest goes; those of one photograph go together."""
    kept = sorted(((path.stat(), path) for path in folder.glob("*.npy")), key=lambda found: -found[0].st_mtime_ns)
    room, gone = _MOST, set[str]()
    for seen, path in kept:
        room -= seen.st_size
        if room < 0:
            gone.add(path.name.rpartition("-")[0])
    for _, path in kept:
        if path.name.rpartition("-")[0] in gone:
            path.unlink(missing_ok=True)
