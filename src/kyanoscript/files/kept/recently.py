"""The desktop's own list of recent files (Desktop Bookmark Specification): file dialogs and docks show it."""

from __future__ import annotations

import mimetypes
import time
import xml.etree.ElementTree as ET
from pathlib import Path

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.files.base.places import shared
from kyanoscript.files.base.replace import replacing

_SPACES = {
    "bookmark": "http://www.freedesktop.org/standards/desktop-bookmarks",
    "mime": "http://www.freedesktop.org/standards/shared-mime-info",
}
_NAME, _STARTED = "Kyanoscript", "'kyanoscript %u'"
_MOST = 8 << 20  # bytes of a list that is read
_OURS = "application/x-kyanoscript"


def place() -> Path:
    """Where the list lies."""
    return shared() / "recently-used.xbel"


def add(path: Path) -> None:
    """Put a file at the list's end, or anew. A list that is none is left alone. Raises FileError."""
    root = _read()
    if root is None:
        return
    now = time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime())
    uri = path.absolute().as_uri()
    mark = next((found for found in root.iter("bookmark") if found.get("href") == uri), None)
    if mark is None:
        mark = ET.SubElement(root, "bookmark", {"href": uri, "added": now})
    mark.set("modified", now)
    mark.set("visited", now)
    about = _child(_child(mark, "info"), "metadata", owner="http://freedesktop.org")
    kind = _OURS if path.suffix.lower() == ".kyano" else mimetypes.guess_type(path.name)[0]
    _child(about, f"{{{_SPACES['mime']}}}mime-type").set("type", kind or "application/octet-stream")
    within = f"{{{_SPACES['bookmark']}}}application"
    used = _child(_child(about, within + "s"), within, name=_NAME)
    used.set("exec", _STARTED)
    used.set("modified", now)
    used.set("count", str(int(used.get("count", "0")) + 1))
    for prefix, space in _SPACES.items():
        ET.register_namespace(prefix, space)
    place().parent.mkdir(parents=True, exist_ok=True)
    with replacing(place(), own=True) as file:
        ET.ElementTree(root).write(file, encoding="UTF-8", xml_declaration=True)


def _read() -> ET.Element | None:
    if not place().exists():
        return ET.Element("xbel", {"version": "1.0"})
    try:
        root = ET.fromstring(read_plain(place(), _MOST))
    except (ET.ParseError, FileError, ValueError):
        return None
    return root if root.tag == "xbel" else None


def _child(parent: ET.Element, tag: str, **known: str) -> ET.Element:
    """The child of that name with these values; a new one, if there is none."""
    for found in parent.findall(tag):
        if all(found.get(name) == value for name, value in known.items()):
            return found
    return ET.SubElement(parent, tag, known)
