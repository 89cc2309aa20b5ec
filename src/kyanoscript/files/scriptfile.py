"""Script files: ``.kyano`` (ZIP: ``mimetype`` first, ``script.json``, ``photo.json``, ``preview.png``) and bare JSON.

``photo.json`` names the photograph by its path relative to the script file, its SHA-256 and its size; the picture
itself is not in the file. Nothing is ever unpacked to disk: the few entries are read in memory, each up to a limit.
"""

from __future__ import annotations

import io
import json
import os
import zipfile
import zlib
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from kyanoscript.core import script as scripts
from kyanoscript.core.script import Script, ScriptError
from kyanoscript.files.errors import FileError, plain
from kyanoscript.files.replace import replacing

MIMETYPE = "application/x-kyanoscript+zip"
SUFFIX = ".kyano"
_LIMIT = 16 << 20  # bytes of one entry


@dataclass(frozen=True)
class PhotoRef:
    """Which photograph a script was made on."""

    path: Path  # absolute, as worked out from where the script file lies
    sha256: str
    width: int
    height: int


@dataclass(frozen=True)
class ScriptFile:
    """What a script file holds."""

    script: Script
    photo: PhotoRef | None = None


def read_script(path: Path | str) -> ScriptFile:
    """Read a ``.kyano`` or JSON file, told apart by what is in it. Raises FileError with one clear line."""
    path = Path(path)
    try:
        with path.open("rb") as file:
            if file.read(4) == b"PK\x03\x04":
                file.seek(0)
                return _from_zip(path, file)
            file.seek(0)
            data = file.read(_LIMIT + 1)
    except OSError as error:
        raise plain(path, error, "reading") from error
    if not data.strip():
        raise FileError(path, "the file is empty", "Look for another copy of it")
    if len(data) > _LIMIT:
        raise FileError(path, f"this is too long for a script ({len(data) >> 20} MB and more)", "Choose another file")
    try:
        return ScriptFile(scripts.loads(data))
    except ScriptError as error:
        raise FileError(path, str(error)) from None


def write_script(path: Path, script: Script, photo: PhotoRef | None, preview: bytes | None = None) -> None:
    """Write a script file: ``.json`` bare, anything else as ``.kyano``. ``preview`` is PNG data. Raises FileError."""
    never = photo.path if photo else None
    if path.suffix.lower() == ".json":
        with replacing(path, never) as file:
            file.write(scripts.dumps(script).encode())
        return
    with replacing(path, never) as file, zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE, zipfile.ZIP_STORED)
        archive.writestr("script.json", scripts.dumps(script))
        if photo is not None:
            archive.writestr("photo.json", _photo_json(photo, path))
        if preview is not None:
            archive.writestr("preview.png", preview, zipfile.ZIP_STORED)


def _photo_json(photo: PhotoRef, script_path: Path) -> str:
    relative = os.path.relpath(photo.path, script_path.resolve().parent)
    entry = {"path": Path(relative).as_posix(), "sha256": photo.sha256, "width": photo.width, "height": photo.height}
    return json.dumps(entry, indent=2, ensure_ascii=False)


def _from_zip(path: Path, file: Any) -> ScriptFile:
    try:
        with zipfile.ZipFile(file) as archive:
            if _entry(archive, "mimetype").decode("ascii", "replace").strip() != MIMETYPE:
                raise FileError(path, "this is not a Kyanoscript script file", "Choose a .kyano or .json file")
            script = scripts.loads(_entry(archive, "script.json"))
            photo = None
            if "photo.json" in archive.namelist():
                photo = _photo_ref(json.loads(_entry(archive, "photo.json")), path)
            return ScriptFile(script, photo)
    except ScriptError as error:
        raise FileError(path, str(error)) from None
    except KeyError as error:
        raise FileError(path, f"it is not a whole script file ({error.args[0]})", "Look for another copy") from None
    except (zipfile.BadZipFile, zlib.error, ValueError, EOFError, NotImplementedError, RuntimeError) as error:
        raise FileError(path, f"the file is damaged or cut short ({error})", "Look for another copy of it") from None


def _entry(archive: zipfile.ZipFile, name: str) -> bytes:
    """One entry, read up to the limit whatever the archive claims about its size."""
    with archive.open(name) as file:
        data = io.BytesIO(file.read(_LIMIT + 1)).getvalue()
    if len(data) > _LIMIT:
        raise ValueError(f"{name} is too long")
    return data


def _photo_ref(data: Any, script_path: Path) -> PhotoRef | None:
    """The reference in ``photo.json``, or None if it makes no sense: a script is usable without its photograph."""
    try:
        path = (script_path.resolve().parent / str(data["path"])).resolve()
        return PhotoRef(path, str(data["sha256"]), int(data["width"]), int(data["height"]))
    except (KeyError, TypeError, ValueError, OSError):
        return None
