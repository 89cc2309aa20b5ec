"""The flattened picture of a layered document: what it looks like with all layers on one another, at its end.

Head, colour table, resources and layers are passed over; the pixels follow, a plane after another, plain or with runs
packed by PackBits (the format's own description, from memory). Its profile and its resolution are among the resources.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.files.base.errors import FileError
from kyanoscript.files.photos.iptc import blocks_in
from kyanoscript.translation import tr

_MODELS = {1: "gray", 3: "RGB", 4: "CMYK"}
_REFUSED = {0: "a bitmap", 2: "of a colour table", 7: "of several channels", 8: "a duotone", 9: "CIELAB"}
_RESOLUTION, _PROFILE = 1005, 1039
_SAVE = "Save a flattened copy as a TIFF in RGB or gray, and open that"


@dataclass(frozen=True)
class Head:
    """What it says before its pixels."""

    width: int
    height: int
    planes: int  # that are stored: of colours, alpha, masks
    bits: int
    model: str
    large: bool  # lengths of eight bytes
    profile: bytes | None
    ppi: float | None
    start: int  # of the pixels

    @property
    def values(self) -> int:
        """Planes of its colours."""
        return {"gray": 1, "RGB": 3, "CMYK": 4}[self.model]


def head(path: Path, data: bytes) -> Head:
    """Raises FileError for kinds that are not read, struct.error where it is cut short."""
    version, planes, height, width, bits, mode = struct.unpack_from(">4xH6xHIIHH", data)
    if version not in (1, 2):
        raise FileError(path, tr("this is a layered document of the unknown version {version}", version=version), _SAVE)
    if mode not in _MODELS or bits not in (8, 16):
        what = _REFUSED.get(mode, f"of {bits} bits" if mode in _MODELS else "of unknown colours")
        raise FileError(path, tr("this is a layered document whose colours are {what}", what=what), _SAVE)
    at = 26
    (table,) = struct.unpack_from(">I", data, at)
    at += 4 + table
    (length,) = struct.unpack_from(">I", data, at)
    found = blocks_in(data[at + 4 : at + 4 + length])
    at += 4 + length
    (layers,) = struct.unpack_from(">Q" if version == 2 else ">I", data, at)
    at += (8 if version == 2 else 4) + layers
    resolution = found.get(_RESOLUTION, b"")
    ppi = struct.unpack_from(">I", resolution)[0] / 65536 if len(resolution) >= 4 else None
    return Head(width, height, planes, bits, _MODELS[mode], version == 2, found.get(_PROFILE), ppi, at)


def pixels(data: bytes, said: Head) -> NDArray[Any]:
    """``(h, w, values)``, uint8 or uint16; inks as a TIFF has them, 0 where there is none. Raises ValueError."""
    import imagecodecs

    if said.planes < said.values:
        raise ValueError(tr("planes are missing"))
    (packed,) = struct.unpack_from(">H", data, said.start)
    row, rows = said.width * said.bits // 8, said.height * said.values
    at = said.start + 2
    if packed == 0:
        stored = np.frombuffer(data, np.uint8, rows * row, at)
    elif packed == 1:
        size, letter = (4, ">u4") if said.large else (2, ">u2")
        lengths = np.frombuffer(data, letter, said.height * said.planes, at)[:rows]
        at += said.height * said.planes * size
        stored = np.empty((rows, row), np.uint8)
        for k, length in enumerate(lengths.tolist()):
            line = imagecodecs.packbits_decode(data[at : at + length])
            stored[k] = np.frombuffer(line, np.uint8, row)
            at += length
    else:
        raise ValueError(tr("its pixels are packed in an unknown way, {packed}", packed=packed))
    wide = stored.reshape(said.values, said.height, row).view(">u2" if said.bits == 16 else np.uint8)
    planes = np.ascontiguousarray(np.moveaxis(wide, 0, 2).astype(np.uint16 if said.bits == 16 else np.uint8))
    return ~planes if said.model == "CMYK" else planes
