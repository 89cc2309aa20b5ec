"""Reading TIFF: 8-bit, 16-bit and float; gray or RGB, with or without alpha; stripped or tiled; compressed or not.

Float values are display-encoded 0…1 unless the file embeds a profile that says otherwise: common practice differs (some
programs write linear light), and a picture written by an array library should look as its integer twin does.
"""

from __future__ import annotations

import os
import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
import tifffile
from numpy.typing import NDArray

from kyanoscript.core.picture import ArraySource, Rect, Source
from kyanoscript.files.errors import FileError
from kyanoscript.files.pixels import Lay, to_srgb, upright

_PIECE = 32 << 20  # bytes: a strip or tile larger than this is not worth decoding again and again
_HELD = 24 << 20  # bytes of decoded strips or tiles kept while reading in pieces

Check = Callable[[Path, int, int, int, int, float], None]


def open_tiff(
    path: Path, hold: bool, check_size: Check, lay: Lay
) -> tuple[Source, str, float | None, tuple[str, ...], int]:
    """Source, kind for people, pixels per inch, notes, orientation. Raises FileError and the decoders' own errors."""
    with tifffile.TiffFile(path) as file:
        if not file.pages:
            raise FileError(path, "there is no picture in it", "Look for another copy of it")
        page: Any = file.pages.first  # its attributes are enumerations that the stubs give as int
        values = int(page.samplesperpixel)
        packed = page.compression.name != "NONE"
        bits = max(1, int(page.bitspersample))
        most_per_byte = 2000.0 if packed else 8 / bits
        check_size(path, int(page.imagewidth), int(page.imagelength), values, os.path.getsize(path), most_per_byte)
        _refuse_unknown(path, page)
        profile = page.tags.valueof(34675)
        profile = bytes(profile) if isinstance(profile, bytes) else None
        orientation = int(page.tags.valueof(274) or 1)
        dtype = page.dtype
        alpha = values in (2, 4)
        name = f"{dtype.itemsize * 8}-bit {'float ' if dtype.kind == 'f' else ''}"
        kind = f"{name}{'gray' if values < 3 and page.photometric.name != 'PALETTE' else 'RGB'} TIFF"
        ppi = _ppi(page)
        finish = _Finish(page, profile, lay)
        if not hold and orientation == 1 and not alpha and page.photometric.name != "PALETTE":
            pieces = _pieces(path, page, finish)
            if pieces is not None:
                return pieces, kind, ppi, finish.notes, orientation
        pixels = upright(finish(_as_rows(page)), orientation)
        return ArraySource(pixels), kind, ppi, finish.notes, orientation


def _refuse_unknown(path: Path, page: Any) -> None:
    photometric = page.photometric.name
    if photometric not in ("MINISBLACK", "MINISWHITE", "RGB", "PALETTE", "YCBCR"):
        raise FileError(
            path,
            f"this is a {photometric} TIFF",
            "Save it as RGB or gray in the program it came from, and open that",
        )
    if page.dtype is None or page.dtype.str[1:] not in ("u1", "u2", "f2", "f4", "f8", "b1"):
        raise FileError(
            path,
            f"its values are of the kind {page.dtype}, not 8-bit, 16-bit or float",
            "Save it as 16-bit in the program it came from",
        )
    if int(page.samplesperpixel) not in (1, 2, 3, 4) or page.imagedepth != 1:
        raise FileError(
            path, f"it has {page.samplesperpixel} channels", "Save it as RGB or gray, with or without alpha"
        )


class _Finish:
    """What has to be done to raw rows ``(h, w, values)`` of one page."""

    def __init__(self, page: Any, profile: bytes | None, lay: Lay) -> None:
        self.page = page
        self.lay = lay
        self.profile = profile
        self.notes: tuple[str, ...] = ()
        photometric = page.photometric.name
        self.inverted = photometric == "MINISWHITE"
        self.palette: NDArray[Any] | None = None
        if photometric == "PALETTE":
            self.palette = np.asarray(page.colormap, np.uint16).T
        extra = page.extrasamples
        self.associated = bool(extra) and getattr(extra[0], "name", "") == "ASSOCALPHA"

    def __call__(self, raw: NDArray[Any]) -> NDArray[Any]:
        if self.palette is not None:
            raw = self.palette[raw[..., 0]]
        if raw.dtype.kind == "f":
            raw = np.clip(np.nan_to_num(raw.astype(np.float32), nan=0.0, posinf=1.0, neginf=0.0), 0, 1)
        elif raw.dtype.kind == "b":
            raw = raw.astype(np.uint8) * 255
        else:
            raw = raw.astype(raw.dtype.newbyteorder("="), copy=False)
        if self.inverted:
            raw = 1 - raw if raw.dtype.kind == "f" else np.iinfo(raw.dtype).max - raw
        pixels, notes = self.lay(raw, self.associated)
        pixels, more = to_srgb(pixels, self.profile)
        self.notes = notes + more
        return pixels


def _separate(page: Any) -> bool:
    """Whether the channels lie in planes of their own; the tag is missing where there is one channel."""
    return int(page.samplesperpixel) > 1 and getattr(page.planarconfig, "name", "CONTIG") == "SEPARATE"


def _as_rows(page: Any) -> NDArray[Any]:
    """The whole page as ``(h, w, values)``."""
    pixels = page.asarray()
    height, width, values = int(page.imagelength), int(page.imagewidth), int(page.samplesperpixel)
    if _separate(page):
        pixels = np.moveaxis(pixels.reshape(values, height, width), 0, 2)
    return np.asarray(pixels).reshape(height, width, values)


def _ppi(page: Any) -> float | None:
    try:
        value = float(page.get_resolution("INCH")[0])
    except (ValueError, TypeError, ZeroDivisionError, AttributeError):
        return None
    return value if 1 < value < 100_000 else None


def _pieces(path: Path, page: Any, finish: _Finish) -> Source | None:
    """A source that reads the file as it goes, or None where that would not help."""
    if _separate(page):
        return None
    piece = page.chunks
    if not page.is_memmappable and int(np.prod(piece)) * page.dtype.itemsize > _PIECE:
        return None
    return _Pieces(path, page, finish)


class _Pieces:
    """Rows of a TIFF page read and decoded when asked for; a few decoded strips or tiles are kept."""

    def __init__(self, path: Path, page: Any, finish: _Finish) -> None:
        self.path = path
        self.page = page
        self.finish = finish
        self.width, self.height = int(page.imagewidth), int(page.imagelength)
        self.values = self.channels = int(page.samplesperpixel)
        self._file = os.open(path, os.O_RDONLY)
        weakref.finalize(self, os.close, self._file)
        self._kept: OrderedDict[int, NDArray[Any]] = OrderedDict()
        self._lock = threading.Lock()
        self.window(Rect(0, 0, 1, 1))  # so that a damaged beginning or a profile that does not fit is found at once

    def window(self, rect: Rect) -> NDArray[Any]:
        with self._lock:
            raw = self._plain(rect) if self.page.is_memmappable else self._decoded(rect)
        return np.ascontiguousarray(self.finish(raw))

    def _plain(self, rect: Rect) -> NDArray[Any]:
        """Uncompressed rows that lie one after another in the file."""
        dtype = self.page.dtype.newbyteorder(self.page.parent.byteorder)
        pixel = self.values * dtype.itemsize
        start = self.page.dataoffsets[0] + (rect.y * self.width + rect.x) * pixel
        if rect.width * 2 > self.width:  # nearly whole rows come quicker in one go
            start -= rect.x * pixel
            data = self._read(start, rect.height * self.width * pixel)
            rows = np.frombuffer(data, dtype).reshape(rect.height, self.width, self.values)
            return rows[:, rect.x : rect.right]
        row = self.width * pixel
        parts = [self._read(start + y * row, rect.width * pixel) for y in range(rect.height)]
        return np.frombuffer(b"".join(parts), dtype).reshape(rect.height, rect.width, self.values)

    def _read(self, offset: int, count: int) -> bytes:
        data = os.pread(self._file, count, offset)
        if len(data) != count:
            raise FileError(self.path, "the file is cut short", "Look for another copy of it")
        return data

    def _decoded(self, rect: Rect) -> NDArray[Any]:
        """A part put together from strips or tiles."""
        page = self.page
        high, wide = page.chunks[0], (page.chunks[1] if page.is_tiled else self.width)
        across = -(-self.width // wide)
        out = np.empty((rect.height, rect.width, self.values), page.dtype)
        for line in range(rect.y // high, (rect.bottom - 1) // high + 1):
            for column in range(rect.x // wide, (rect.right - 1) // wide + 1):
                piece = self._piece(line * across + column)
                y0, x0 = max(line * high, rect.y), max(column * wide, rect.x)
                y1, x1 = min(line * high + piece.shape[0], rect.bottom), min(column * wide + piece.shape[1], rect.right)
                part = piece[y0 - line * high : y1 - line * high, x0 - column * wide : x1 - column * wide]
                out[y0 - rect.y : y1 - rect.y, x0 - rect.x : x1 - rect.x] = part
        return out

    def _piece(self, index: int) -> NDArray[Any]:
        if index in self._kept:
            self._kept.move_to_end(index)
            return self._kept[index]
        page = self.page
        data = self._read(page.dataoffsets[index], page.databytecounts[index])
        decoded = page.decode(data, index, jpegtables=page.jpegtables)[0]
        if decoded is None:
            raise FileError(self.path, "a part of the picture is missing", "Look for another copy of it")
        piece: NDArray[Any] = np.asarray(decoded)[0]
        self._kept[index] = piece
        while sum(p.nbytes for p in self._kept.values()) > _HELD and len(self._kept) > 1:
            self._kept.popitem(last=False)
        return piece
