"""Reading TIFF: 1 to 32 bits and float; gray, RGB, palette, CMYK or CIELAB; stripped or tiled; compressed or not.

Integers of another number of bits than 8 or 16 are widened to the next of these, so that their highest value is white.

Float values are display-encoded 0…1 unless the file embeds a profile that says otherwise: common practice differs (some
programs write linear light), and a picture written by an array library should look as its integer twin does. Signed
integers run from their lowest value, black, to their highest, white (TIFF 6.0, SampleFormat, says no more than that
they are signed; common practice, no source). Of a file with several pages the first is opened
unless another is asked for.
"""

from __future__ import annotations

import logging
import os
import threading
import weakref
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import tifffile
from numpy.typing import NDArray

from kyanoscript.core.colour import BT2020, SRGB
from kyanoscript.core.picture import ArraySource, Rect, Source, leveled
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import DOUBT, FileError, damaged
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos import lab
from kyanoscript.files.photos.facts import Facts, facts_of
from kyanoscript.files.photos.pixels import MOST_HELD, Lay, by_bands, held, spread, upright
from kyanoscript.translation import tr

_PIECE = 32 << 20  # bytes: a strip or tile larger than this is not worth decoding again and again
_HELD = 24 << 20  # bytes of decoded strips or tiles kept while reading in pieces

# Bytes that one byte of the file may stand for, by the way it is packed: more is a lie in the header. Deflate at most
# 1032 (RFC 1951), LZW 4094 bytes in 12 bits (TIFF 6.0), PackBits 128 in 2; others were tried with empty pictures.
_MOST = {"NONE": 1.0, "PACKBITS": 64.0, "ADOBE_DEFLATE": 1032.0, "DEFLATE": 1032.0, "LZW": 2731.0}
_MOST_OTHERWISE = 50_000.0
_KINDS = ("u1", "u2", "u4", "i1", "i2", "i4", "f2", "f4", "f8", "b1")
_PHOTOMETRIC = ("MINISBLACK", "MINISWHITE", "RGB", "PALETTE", "YCBCR", "CIELAB", "ICCLAB", "SEPARATED")
_COUNTED = 64
_DNG_VERSION = 50706
_PHOTOMETRIC_TAG = 262
_INK_SET = 332
_MOSAICS = ("CFA", "LINEAR_RAW")

_PIECES = 64 << 20  # bytes of a strip or tile, at least, that may be larger than the picture
Check = Callable[..., None]  # `photo.check_size`


@dataclass(frozen=True)
class Opened:
    """A page of a TIFF as read."""

    source: Source
    kind: str  # for people
    ppi: float | None
    notes: tuple[str, ...]
    orientation: int
    facts: Facts


def open_tiff(path: Path, data: BinaryIO, room: int, check_size: Check, lay: Lay, number: int = 1) -> Opened:
    """Page ``number``, from 1; all in memory if its pixels take no more than ``room`` bytes, else in pieces.

    Raises FileError and errors of decoders.
    """
    doubt = _hearing()
    with tifffile.TiffFile(data, name=path.name) as file:
        if not file.pages:
            raise FileError(path, "there is no picture in it", "Look for another copy of it")
        page = _page(path, file, number)
        values = int(page.samplesperpixel)
        size = os.fstat(data.fileno()).st_size
        width, height = int(page.imagewidth), int(page.imagelength)
        check_size(path, width, height, values, size, _most_per_byte(page, width))
        signed, guessed = _signed(page), _guessed(page)
        _refuse_unknown(path, page)
        profile = page.tags.valueof(34675)
        profile = bytes(profile) if isinstance(profile, bytes) else None
        orientation = int(page.tags.valueof(274) or 1)
        alpha = values in (2, 4) and page.photometric.name != "SEPARATED"
        finish = _Finish(page, profile, lay, signed)
        ppi = _ppi(page)
        facts, said = _facts(file, page, profile, number)
        pages = (*said, *guessed, *doubt())
        holds = width * height * values * page.dtype.itemsize <= room and width * height <= MOST_HELD
        if not holds and orientation == 1 and not alpha and page.photometric.name != "PALETTE":
            pieces = _pieces(path, data.fileno(), page, finish)
            if pieces is not None:
                return Opened(pieces, _kind(page), ppi, (*pages, *finish.notes), orientation, facts)
        _check_room(path, page, check_size, size)
        pixels = upright(finish(_as_rows(page)), orientation)
        infrared = None if finish.infrared is None else ArraySource(upright(finish.infrared, orientation))
        source = ArraySource(pixels, finish.reading.space, finish.reading.levels, infrared)
        notes = dict.fromkeys((*pages, *doubt(), *finish.notes))
        return Opened(source, _kind(page), ppi, tuple(notes), orientation, facts)


def _check_room(path: Path, page: Any, check_size: Check, size: int) -> None:
    """Refuse what would not fit into memory: as a whole, or as a strip or tile of its own size. Raises FileError."""
    width, height, values = int(page.imagewidth), int(page.imagelength), int(page.samplesperpixel)
    each = int(page.dtype.itemsize)
    check_size(path, width, height, values, size, _most_per_byte(page, width), each, 2.5)
    whole, piece = width * height * values * each, int(np.prod(page.chunks, dtype=np.int64)) * each
    if piece > max(_PIECES, 2 * whole):
        raise FileError(
            path,
            tr(
                "a piece of it is larger than the whole picture of {width} × {height} pixels",
                width=width,
                height=height,
            ),
            "It is damaged; look for another copy",
        )


def _page(path: Path, file: tifffile.TiffFile, number: int) -> Any:
    """A page; its attributes are enumerations that the library's stubs give as int. Raises FileError."""
    if number == 1:
        return file.pages.first
    pages = _pages(file)
    if number > len(pages):
        count = "one page" if len(pages) == 1 else tr("{count} pages", count=len(pages))
        raise FileError(
            path, tr("it has no page {number}; it has {count}", number=number, count=count), "Choose one of those"
        )
    return pages[number - 1]


def _pages(file: tifffile.TiffFile) -> list[Any]:
    """All but smaller copies of the first, for quick looks."""
    file.pages.useframes = False
    return [page for k, page in enumerate(file.pages) if k == 0 or not getattr(page, "is_reduced", False)]


class _Heard(logging.Handler):
    """What the library only warns of: for the log, and, where pieces of the picture are missing, for people."""

    def __init__(self) -> None:
        super().__init__(logging.WARNING)
        self.here = threading.local()

    def emit(self, record: logging.LogRecord) -> None:
        text = record.getMessage()
        log.note(f"while a TIFF was read: {text}")
        if any(word in text for word in ("segments", "ByteCounts", "Offsets")):
            self.here.doubt = True


_heard = _Heard()
logging.getLogger("tifffile").addHandler(_heard)
logging.getLogger("tifffile").propagate = False


def _hearing() -> Callable[[], tuple[str, ...]]:
    """Listen from now on, in this thread; called, it gives the word of doubt if there was reason for it."""
    _heard.here.doubt = False
    return lambda: (DOUBT,) if _heard.here.doubt else ()


def _most_per_byte(page: Any, width: int) -> float:
    """Values that one byte of the file may stand for."""
    packing, bits = page.compression.name, _bits(page)
    if packing.startswith("CCITT"):  # a row that is as the one before it takes one bit (ITU-T T.6)
        return max(2000.0, 8.0 * width)
    return _MOST.get(packing, _MOST_OTHERWISE) * 8 / bits


def _bits(page: Any) -> int:
    """Of a value. Where channels differ in it, the library widens them all to a value's whole bytes."""
    bits = page.bitspersample
    return 8 * int(page.dtype.itemsize) if isinstance(bits, tuple) else max(1, int(bits))


def _guessed(page: Any) -> tuple[str, ...]:
    """A word where it does not say what its values mean: taken as gray, or as RGB of three and more."""
    if _PHOTOMETRIC_TAG in page.tags:
        return ()
    colours = int(page.samplesperpixel) > 2
    page.photometric = tifffile.PHOTOMETRIC.RGB if colours else tifffile.PHOTOMETRIC.MINISBLACK
    return (
        tr("It does not say what its values mean; they are taken as {colours}", colours="RGB" if colours else "gray"),
    )


def _signed(page: Any) -> bool:
    """Whether its integers have a sign. Of numbers of bits that the library knows only without, it reads them so."""
    if getattr(page.sampleformat, "name", "") != "INT":
        return False
    if page.dtype is None and isinstance(page.bitspersample, int) and page.bitspersample < 16:
        page.dtype = page._dtype = np.dtype("u1" if page.bitspersample < 8 else "u2")
    return True


def _kind(page: Any) -> str:
    gray = int(page.samplesperpixel) < 3 and page.photometric.name != "PALETTE"
    models = {"CIELAB": "CIELAB", "ICCLAB": "CIELAB", "SEPARATED": "CMYK"}
    model = models.get(page.photometric.name, "gray" if gray else "RGB")
    return tr(
        "{page}-bit {kind}{model} TIFF", page=_bits(page), kind="float " if page.dtype.kind == "f" else "", model=model
    )


def _facts(file: tifffile.TiffFile, page: Any, profile: bytes | None, number: int) -> tuple[Facts, tuple[str, ...]]:
    """What the file says of itself, and a word about the pages that are not opened."""
    notes = {tag: page.tags.valueof(tag) for tag in (271, 272, 306)}
    named = page.tags.valueof(34665)
    taken = {0x9003: named.get("DateTimeOriginal"), 0xA434: named.get("LensModel")} if isinstance(named, dict) else {}
    try:
        count = len(file.pages)
        if 1 < count <= _COUNTED:  # smaller copies of the first, for quick looks, are no pages
            count = len(_pages(file))
    except Exception as error:  # the first page may be sound all the same
        log.note("the pages of a TIFF could not be counted", error)
        return facts_of(notes, taken, profile, 1), ("The pages after the first are damaged",)
    said = (
        (
            tr(
                "It has {count} pages; this is {number}",
                count=count,
                number="the first" if number == 1 else tr("page {number}", number=number),
            ),
        )
        if count > 1
        else ()
    )
    return facts_of(notes, taken, profile, count), said


def holds_raw(data: BinaryIO) -> bool:
    """Whether a TIFF is a camera's raw: what lies in its first page is a preview the size of a stamp.

    Raises errors of decoders.
    """
    with tifffile.TiffFile(data, name="photo") as file:
        if not file.pages:
            return False
        page: Any = file.pages.first
        if _DNG_VERSION in page.tags or getattr(page.photometric, "name", "") in _MOSAICS:
            return True
        return any(getattr(inner.photometric, "name", "") in _MOSAICS for inner in page.pages or ())


def _refuse_unknown(path: Path, page: Any) -> None:
    photometric = getattr(page.photometric, "name", "")
    values = int(page.samplesperpixel)
    if photometric not in _PHOTOMETRIC:
        raise FileError(
            path,
            tr("this is a {photometric} TIFF", photometric=photometric)
            if photometric
            else tr(
                "its colours are of a kind that is not known, number {photometric} of the format",
                photometric=page.photometric,
            ),
            "Save it as RGB or gray in the program it came from, and open that",
        )
    if page.dtype is None or page.dtype.str[1:] not in _KINDS:
        values_ = page.dtype or tr(
            "{sampleformat} of {bitspersample} bits",
            sampleformat=getattr(page.sampleformat, "name", page.sampleformat),
            bitspersample=page.bitspersample,
        )
        raise FileError(
            path,
            tr("its values are of the kind {values}, not integers or floats of up to 32 bits", values=values_),
            "Save it as 16-bit in the program it came from",
        )
    lab_ = photometric in ("CIELAB", "ICCLAB")
    if photometric == "SEPARATED" and (values != 4 or page.tags.valueof(_INK_SET, 1) != 1):
        raise FileError(
            path, "its inks are others than cyan, magenta, yellow and black", "Save it as RGB, and open that"
        )
    if values not in (1, 2, 3, 4) or page.imagedepth != 1 or (lab_ and values != 3):
        raise FileError(
            path, tr("it has {values} channels", values=values), "Save it as RGB or gray, with or without alpha"
        )
    if lab_ and _bits(page) not in (8, 16):
        raise FileError(
            path, tr("its CIELAB values have {page} bits", page=_bits(page)), "Save it as 16-bit RGB, and open that"
        )


class _Finish:
    """What has to be done to raw rows ``(h, w, values)`` of one page."""

    def __init__(self, page: Any, profile: bytes | None, lay: Lay, signed: bool) -> None:
        self.page = page
        self.lay = lay
        self.profile = profile
        self.notes: tuple[str, ...] = ()
        self.reading = profiles.Meaning()
        photometric = page.photometric.name
        self.inverted = photometric == "MINISWHITE"
        self.bits, self.signed = _bits(page), signed
        self.lab = photometric if photometric in ("CIELAB", "ICCLAB") else ""
        self.palette: NDArray[Any] | None = None
        if photometric == "PALETTE":
            self.palette = np.asarray(page.colormap, np.uint16).T
        extra = page.extrasamples
        self.associated = bool(extra) and getattr(extra[0], "name", "") == "ASSOCALPHA"
        self.inks = photometric == "SEPARATED"
        # A fourth channel that the file calls no alpha: scanners put infrared there (TIFF 6.0, ExtraSamples)
        said = getattr(extra[0], "name", "UNSPECIFIED") if extra else "UNSPECIFIED"
        self.holds_infrared = photometric == "RGB" and int(page.samplesperpixel) == 4 and said == "UNSPECIFIED"
        self.infrared: NDArray[Any] | None = None

    def __call__(self, raw: NDArray[Any]) -> NDArray[Any]:
        raw = raw.astype(raw.dtype.newbyteorder("="), copy=False)
        if self.lab:
            self.reading = profiles.Meaning(BT2020)
            return lab.to_space(raw, self.lab == "ICCLAB", BT2020)
        if self.palette is not None:
            colours = self.palette
            raw = by_bands(raw, lambda band: colours[np.minimum(band[..., 0].astype(np.int64), len(colours) - 1)])
            raw = _plain_values(raw, 16, False)
        else:
            raw = _plain_values(raw, self.bits, self.signed)
        if self.inverted:
            raw = np.subtract(1 if raw.dtype.kind == "f" else np.iinfo(raw.dtype).max, raw, dtype=raw.dtype)
        notes: tuple[str, ...] = ()
        if self.holds_infrared:
            self.infrared, raw = np.ascontiguousarray(raw[..., 3:]), np.ascontiguousarray(raw[..., :3])
            notes = ("Its fourth channel is kept as infrared, for Mend",)
        pixels, laid = (raw, ()) if self.inks else self.lay(raw, self.associated)
        notes += laid
        self.reading = profiles.reading(self.profile, pixels.shape[2], pixels.dtype)
        self.notes = (*notes, *([self.reading.note] if self.reading.note else []))
        pixels = self.reading.converted(pixels)
        return held(pixels, _FAR) if pixels.dtype.kind == "f" else pixels


def _plain_values(raw: NDArray[Any], bits: int, signed: bool) -> NDArray[Any]:
    """As uint8, uint16 or float32, of values of so many bits: the highest is white."""
    kind, room = raw.dtype.kind, raw.dtype.itemsize * 8
    if kind == "f":
        return held(raw, _FAR)
    if kind == "b":
        return raw.view(np.uint8) * np.uint8(255)
    if signed:
        raw = raw.view(f"u{room // 8}")
        raw = raw ^ np.asarray(1 << (bits - 1), raw.dtype)
    if bits > 16:
        return by_bands(raw, lambda band: (band >> (bits - 16)).astype(np.uint16))
    return spread(raw, (1 << bits) - 1)


_FAR = 1e4  # no light in a picture lies beyond; infinities are held here


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


def _pieces(path: Path, handle: int, page: Any, finish: _Finish) -> Source | None:
    """A source that reads the file as it goes, or None where that would not help."""
    if _separate(page):
        return None
    piece = page.chunks
    if not page.is_memmappable and int(np.prod(piece)) * page.dtype.itemsize > _PIECE:
        return None
    return _Pieces(path, handle, page, finish)


class _Pieces:
    """Rows of a TIFF page read and decoded when asked for; a few decoded strips or tiles are kept."""

    def __init__(self, path: Path, handle: int, page: Any, finish: _Finish) -> None:
        self.path = path
        self.page = page
        self.finish = finish
        self.width, self.height = int(page.imagewidth), int(page.imagelength)
        self.values = int(page.samplesperpixel)
        self._file = os.dup(handle)
        weakref.finalize(self, os.close, self._file)
        self.rows = 1 if page.is_memmappable else int(page.chunks[0])  # that are best read together
        self._kept: OrderedDict[int, NDArray[Any]] = OrderedDict()
        self._lock = threading.Lock()
        self.space = SRGB
        self.window(Rect(0, 0, 1, 1))  # so that a damaged beginning or a profile that does not fit is found at once
        self.space = self.finish.reading.space
        self.channels = self.window(Rect(0, 0, 1, 1)).shape[2]

    def window(self, rect: Rect) -> NDArray[Any]:
        """The part ``rect``. Raises FileError where the file is damaged."""
        try:
            raw = self._plain(rect) if self.page.is_memmappable else self._decoded(rect)
            pixels = np.ascontiguousarray(self.finish(raw))
            levels = self.finish.reading.levels
            return pixels if levels is None else leveled(pixels, levels)
        except (FileError, MemoryError):
            raise
        except Exception as error:  # decoders raise errors of their own kinds for damaged files
            raise damaged(self.path, error) from error

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
        out = np.zeros((rect.height, rect.width, self.values), page.dtype)
        for line in range(rect.y // high, (rect.bottom - 1) // high + 1):
            for column in range(rect.x // wide, (rect.right - 1) // wide + 1):
                piece = self._piece(line * across + column)
                y0, x0 = max(line * high, rect.y), max(column * wide, rect.x)
                y1, x1 = min(line * high + piece.shape[0], rect.bottom), min(column * wide + piece.shape[1], rect.right)
                part = piece[y0 - line * high : y1 - line * high, x0 - column * wide : x1 - column * wide]
                out[y0 - rect.y : y1 - rect.y, x0 - rect.x : x1 - rect.x] = part
        return out

    def _piece(self, index: int) -> NDArray[Any]:
        with self._lock:
            kept = self._kept.get(index)
            if kept is not None:
                self._kept.move_to_end(index)
                return kept
        page = self.page
        data = self._read(page.dataoffsets[index], page.databytecounts[index])
        decoded = page.decode(data, index, jpegtables=page.jpegtables)[0]
        if decoded is None:
            raise FileError(self.path, "a part of the picture is missing", "Look for another copy of it")
        piece: NDArray[Any] = np.asarray(decoded)[0]
        if piece.ndim != 3 or piece.shape[2] != self.values:
            raise ValueError(tr("a piece has the shape {shape}", shape=piece.shape))
        with self._lock:
            self._kept[index] = piece
            while sum(p.nbytes for p in self._kept.values()) > _HELD and len(self._kept) > 1:
                self._kept.popitem(last=False)
        return piece
