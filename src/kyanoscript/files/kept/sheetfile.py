"""Sheets kept for other photographs: a file each, in the person's data folder, or anywhere."""

from __future__ import annotations

import json
from pathlib import Path

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.script import ScriptError
from kyanoscript.core.script.json import sheet_from_json
from kyanoscript.files.base import log, naming, places
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.base.replace import replacing

SUFFIX = ".sheet.json"
_MOST = 1 << 20  # bytes


def folder() -> Path:
    """Where one's own sheets lie; it may not exist yet."""
    return places.data("sheets")


def read_sheet(path: Path) -> tuple[str, Sheet]:
    """The name and the sheet of a file. Raises FileError."""
    return _parsed(path, read_plain(path, _MOST))


def _parsed(path: Path, text: bytes) -> tuple[str, Sheet]:
    try:
        data = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise FileError(path, "this is no sheet", "Choose a file that a sheet was kept in") from error
    if not isinstance(data, dict) or "sheet" not in data:
        raise FileError(path, "this is no sheet", "Choose a file that a sheet was kept in")
    try:
        return str(data.get("name") or path.name.removesuffix(SUFFIX)), sheet_from_json(data["sheet"])
    except ScriptError as error:
        raise FileError(path, str(error), "Put it right in the file, or choose another") from error


def write_sheet_file(path: Path, name: str, sheet: Sheet) -> None:
    """Keep a sheet. Raises FileError, and writes nothing, where it could not be read again."""
    data = {"name": name, "sheet": sheet.plain()}
    try:
        text = (json.dumps(data, indent=2, ensure_ascii=False) + "\n").encode()
    except UnicodeEncodeError:
        raise FileError(path, "its words hold letters that no file can", "Write them anew") from None
    _parsed(path, text)
    if len(text) > _MOST:
        raise FileError(path, "it is too long for a sheet", "Make its words shorter")
    with replacing(path, ()) as file:
        file.write(text)


def keep(name: str, sheet: Sheet) -> Path:
    """Keep a sheet for other photographs, by its name. Raises FileError."""
    try:
        folder().mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(folder(), "the folder cannot be made", "Look at who may write there") from error
    path = naming.place(folder(), name, SUFFIX, lambda path: read_sheet(path)[0])
    write_sheet_file(path, name, sheet)
    return path


def kept() -> list[tuple[str, Sheet]]:
    """One's own sheets, by name; one that cannot be read is left out, and noted."""
    found = []
    for path in sorted(folder().glob(f"*{SUFFIX}")):
        try:
            found.append(read_sheet(path))
        except FileError as error:
            log.note(f"{path.name} is left out", error)
    return found
