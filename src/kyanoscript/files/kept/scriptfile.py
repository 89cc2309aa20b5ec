"""Script files: ``.kyano`` (ZIP: ``mimetype`` first, ``script.json``, ``photo.json``, ``preview.png``) and bare JSON.

``photo.json`` names the photograph by its path relative to the script file, its SHA-256 and its size; the picture
itself is not in the file. Nothing is ever unpacked to disk: the few entries are read in memory, each up to a limit.
"""

from __future__ import annotations

import hashlib
import io
import json
import lzma
import os
import zipfile
import zlib
from collections.abc import Collection
from dataclasses import dataclass, replace
from pathlib import Path

from kyanoscript.core import script as scripts
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import ChangedOnDisk, FileError, plain
from kyanoscript.files.base.opening import open_plain, sha256
from kyanoscript.files.base.replace import replacing
from kyanoscript.translation import tr

MIMETYPE = "application/x-kyanoscript+zip"
SUFFIX = ".kyano"
_LIMIT = scripts.LONGEST  # bytes of one entry


@dataclass(frozen=True)
class PhotoRef:
    """Which photograph a script was made on."""

    path: Path  # absolute, as worked out from where the script file lies
    sha256: str
    width: int
    height: int
    page: int = 1  # of a file with several


@dataclass(frozen=True)
class ScriptFile:
    """What a script file holds."""

    script: Script
    photo: PhotoRef | None = None
    digest: str = ""  # SHA-256 of the file as it was read: to tell, when saving, whether it still is that


def state_named(path: Path) -> tuple[Path, int]:
    """The file and the state that a name such as ``landing.kyano#III`` means, 0: none; a file of that very name goes
    first."""
    stem, hash_, numeral = path.name.rpartition("#")
    number = scripts.number_of(numeral) if hash_ and stem else 0
    if not number or os.path.lexists(path):
        return path, 0
    return path.with_name(stem), number


def read_script(path: Path | str) -> ScriptFile:
    """Read a ``.kyano`` or JSON file, told apart by what is in it. Raises FileError with one clear line.

    ``landing.kyano#III`` is its third state, by itself.
    """
    path, number = state_named(Path(path))
    if number:
        whole = read_script(path)
        state = next((state for state in whole.script.states if state.number == number), None)
        if state is None:
            there = ", ".join(scripts.numeral(state.number) for state in whole.script.states)
            has = tr("it has {there}", there=there) if there else "it has no states"
            raise FileError(
                path,
                tr("there is no state {number} in it; {has}", number=scripts.numeral(number), has=has),
                "Choose another state",
            )
        return replace(whole, script=replace(state.script, origin=0))
    with open_plain(path) as file:
        try:
            zipped = file.read(4) == b"PK\x03\x04"
            file.seek(0)
            data = file.read(_LIMIT + 1)
        except OSError as error:
            raise plain(path, error, "reading") from error
    digest = hashlib.sha256(data).hexdigest()
    if not data.strip():
        raise FileError(path, "the file is empty", "Look for another copy of it")
    if len(data) > _LIMIT:
        raise FileError(
            path,
            tr("this is too long for a script ({count} MB and more)", count=len(data) >> 20),
            "Choose another file",
        )
    if zipped:
        return _from_zip(path, data, digest)
    try:
        return ScriptFile(scripts.loads(data), digest=digest)
    except ScriptError as error:
        log.note(f"{path.name} cannot be read", error)
        raise FileError(path, str(error)) from None


def write_script(
    path: Path,
    script: Script,
    photo: PhotoRef | None,
    preview: bytes | None = None,
    never: Collection[Path] = (),
    over: str | None = None,
) -> str:
    """Write a script file: ``.json`` bare, anything else as ``.kyano``; returns the SHA-256 of what was written.

    Parameters
    ----------
    preview : PNG data.
    never : pictures that the script uses, which are not to be written over; the photograph is one of them anyway.
    over : the digest of the file that is to be replaced, as it was last read or written; None: whatever is there.

    Raises FileError, and ChangedOnDisk if ``over`` is not what lies there.
    """
    try:
        data = _plain(script) if path.suffix.lower() == ".json" else _zipped(path, script, photo, preview)
    except ScriptError as error:
        raise FileError(
            path, tr("the script is too long to be kept: {error}", error=error), "Nothing was written"
        ) from None
    with replacing(path, (*never, photo.path) if photo else never) as file:
        file.write(data)
        if over is not None and path.exists() and sha256(path) != over:
            raise ChangedOnDisk(path, "another program or window has changed it since it was opened here")
    return hashlib.sha256(data).hexdigest()


def _plain(script: Script) -> bytes:
    """For people to read, if it is not so long that nobody will."""
    text = scripts.dumps(script).encode()
    return text if len(text) <= _FOR_PEOPLE else scripts.packed(script)


_FOR_PEOPLE = 8 << 20  # bytes


def _zipped(path: Path, script: Script, photo: PhotoRef | None, preview: bytes | None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        archive.writestr(_entry_named("script.json"), scripts.packed(script))
        if photo is not None:
            archive.writestr(_entry_named("photo.json"), _photo_json(photo, path))
        if preview is not None:
            archive.writestr(_entry_named("preview.png"), preview, zipfile.ZIP_STORED)
    return out.getvalue()


def _entry_named(name: str) -> zipfile.ZipInfo:
    """Without the time of day: the same work gives the same file."""
    entry = zipfile.ZipInfo(name)
    entry.compress_type = zipfile.ZIP_DEFLATED
    return entry


def _photo_json(photo: PhotoRef, script_path: Path) -> str:
    relative = os.path.relpath(photo.path, script_path.resolve().parent)
    entry = {"path": Path(relative).as_posix(), "sha256": photo.sha256, "width": photo.width, "height": photo.height}
    if photo.page > 1:
        entry["page"] = photo.page
    return json.dumps(entry, indent=2, ensure_ascii=False)


def _from_zip(path: Path, data: bytes, digest: str) -> ScriptFile:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if _entry(path, archive, "mimetype").decode("ascii", "replace").strip() != MIMETYPE:
                raise FileError(path, "this is not a Kyanoscript script file", "Choose a .kyano or .json file")
            script = scripts.loads(_entry(path, archive, "script.json"))
            photo = None
            if "photo.json" in archive.namelist():
                photo = _photo_ref(_entry(path, archive, "photo.json"), path)
            return ScriptFile(script, photo, digest)
    except ScriptError as error:
        log.note(f"{path.name} cannot be read", error)
        raise FileError(path, str(error)) from None
    except KeyError as error:
        log.note(f"{path.name} is not whole", error)
        raise FileError(path, "it is not a whole script file", "Look for another copy") from None
    except _DAMAGE as error:
        log.note(f"{path.name} cannot be unpacked", error)
        raise FileError(path, "the file is damaged or cut short", "Look for another copy of it") from None


# What unpacking raises: NotImplementedError for a packing that it does not know, RuntimeError for an encrypted entry
_DAMAGE = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, OSError, ValueError, EOFError, NotImplementedError, RuntimeError,
    IndexError, OverflowError,
)  # fmt: skip


def _entry(path: Path, archive: zipfile.ZipFile, name: str) -> bytes:
    """One entry, read up to the limit whatever the archive claims about its size."""
    with archive.open(name) as file:
        data = io.BytesIO(file.read(_LIMIT + 1)).getvalue()
    if len(data) > _LIMIT:
        raise FileError(
            path,
            tr("what it holds is too long for a script ({limit} MB and more)", limit=_LIMIT >> 20),
            "Choose another file",
        )
    return data


def _photo_ref(text: bytes, script_path: Path) -> PhotoRef | None:
    """The reference in ``photo.json``, or None if it makes no sense: a script is usable without its photograph."""
    try:
        data = json.loads(text)
        path = (script_path.resolve().parent / str(data["path"])).resolve()
        return PhotoRef(path, str(data["sha256"]), int(data["width"]), int(data["height"]), int(data.get("page", 1)))
    except (KeyError, TypeError, ValueError, OverflowError, OSError, RecursionError):
        return None
