"""PBM, PGM, PPM and PAM: a head of plain words, then every value, in letters or bytes (Netpbm's own descriptions of the
formats, from memory). Values are taken as sRGB's: by the description they are those of BT.709, by practice whatever the
screen showed (common practice, no source)."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.photos.pixels import spread
from kyanoscript.translation import tr

HEADS = (b"P1", b"P2", b"P3", b"P4", b"P5", b"P6", b"P7")
_TOKEN = re.compile(rb"(?:\s|#[^\n\r]*)*([^\s#]+)")
_NAMES = {b"P1": "PBM", b"P2": "PGM", b"P3": "PPM", b"P4": "PBM", b"P5": "PGM", b"P6": "PPM", b"P7": "PAM"}
Head = tuple[str, int, int, int, int, int]  # name, width, height, values of a pixel, the highest, where they begin


def head(data: bytes) -> Head:
    """What the head says. Raises ValueError."""
    kind = data[:2]
    if kind == b"P7":
        return _pam(data)
    at, said = 2, []
    for _ in range(2 if kind in (b"P1", b"P4") else 3):
        found = _TOKEN.match(data, at)
        if found is None or not found[1].isdigit() or len(found[1]) > 9:
            raise ValueError(tr("the head cannot be read"))
        said.append(int(found[1]))
        at = found.end()
    width, height, most = (*said, 1)[:3]
    return _NAMES[kind], width, height, 3 if kind in (b"P3", b"P6") else 1, most, at + 1


def _pam(data: bytes) -> Head:
    end = data.find(b"\nENDHDR\n")
    rows = dict(row.split(None, 1) for row in data[3:end].split(b"\n") if len(row.split(None, 1)) == 2)
    if end < 0:
        raise ValueError(tr("the head has no end"))
    width, height, depth, most = (int(rows[name][:9]) for name in (b"WIDTH", b"HEIGHT", b"DEPTH", b"MAXVAL"))
    return "PAM", width, height, depth, most, end + 8


def pixels(path: Path, data: bytes) -> NDArray[Any]:
    """``(h, w, values)``, uint8 or uint16, the highest value white. Raises FileError, ValueError."""
    _, width, height, values, most, start = head(data)
    if not 0 < most < 65536:
        raise ValueError(tr("its highest value is {most}", most=most))
    if values > 4:
        raise FileError(
            path, tr("it has {values} channels", values=values), "Save it as RGB or gray, with or without alpha"
        )
    count = width * height * values
    kind = data[:2]
    if kind == b"P4":  # black is 1; rows begin with a byte of their own
        row = (width + 7) // 8
        bits = np.unpackbits(np.frombuffer(data, np.uint8, height * row, start).reshape(height, row), axis=1)
        return np.where(bits[:, :width], 0, 255).astype(np.uint8)[..., None]
    if kind == b"P1":
        letters = np.frombuffer(re.sub(rb"#[^\n\r]*|\s", b"", data[start:]), np.uint8)[:count]
        stored: NDArray[Any] = ord("1") - letters
    elif kind in (b"P2", b"P3"):
        words = re.sub(rb"#[^\n\r]*", b"", data[start:]).split(None, count)[:count]
        stored = np.array(words, np.int64)
    else:
        stored = np.frombuffer(data, ">u2" if most > 255 else np.uint8, count, start)
    if stored.size != count:
        raise ValueError(tr("values are missing"))
    return np.ascontiguousarray(spread(np.minimum(stored, most).reshape(height, width, values), most))
