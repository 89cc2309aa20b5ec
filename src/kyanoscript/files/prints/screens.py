"""Plates as dots: 1-bit TIFF (CCITT T.6, a strip at a time) or PNG at the device's resolution, in flat memory.

Ink is 1. The coverage comes from a plate rendered at a part of the device's resolution and is joined between its
pixels; marks are drawn at the device's own.
"""

from __future__ import annotations

import io
import itertools
import struct
import zlib
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any, BinaryIO

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.colour import Space
from kyanoscript.core.paper.over import Printable
from kyanoscript.core.paper.screens import Screen, Tile, covered, held_back, screened, tile_of
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.files.base.errors import Cancelled

ROWS = 256  # of a strip
_PART = 1_000_000  # pixels that are rendered in one go
FINE = 400.0  # pixels per inch: finer a plate is not rendered, dots are coarser anyway

Bits = NDArray[np.uint8]  # (rows, bytes), the first pixel in the highest bit
_PAGE_NAME = 285  # TIFF 6.0


def times_finer(ppi: float) -> int:
    """How many pixels of the device are one of the plate."""
    return max(1, -(-int(ppi) // int(FINE)))


class Finer:
    """A plate with so many more pixels each way, joined between them."""

    looks_around = True

    def __init__(self, of: Printable, times: int) -> None:
        self._of, self._times = of, times
        self.planes = of.planes

    @property
    def space(self) -> Space:
        return self._of.space

    def size(self, scale: float) -> tuple[int, int]:
        width, height = self._of.size(1.0)
        return max(1, round(width * self._times * scale)), max(1, round(height * self._times * scale))

    def region(self, rect: Rect, scale: float = 1.0) -> Planes:
        """At its whole size only."""
        times = self._times
        if times == 1:
            return self._of.region(rect)
        width, height = self._of.size(1.0)
        x0, y0 = max(0, rect.x // times - 1), max(0, rect.y // times - 1)
        x1, y1 = min(width, -(-rect.right // times) + 1), min(height, -(-rect.bottom // times) + 1)
        plate = self._of.region(Rect(x0, y0, x1 - x0, y1 - y0))
        out = []
        for plane in plate:
            large = cv2.resize(plane, None, fx=times, fy=times, interpolation=cv2.INTER_LINEAR)
            y, x = rect.y - y0 * times, rect.x - x0 * times
            out.append(large[y : y + rect.height, x : x + rect.width])
        return np.ascontiguousarray(np.stack(out))


def strips(
    plate: Printable,
    screen: Screen,
    gain: str = "",
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Iterator[Bits]:
    """A plate, 1 where there is no ink, as strips of dots. ``gain``: a tone value increase that is held back.

    Raises ValueError, Cancelled.
    """
    tile = tile_of(screen)
    width, height = plate.size(1.0)
    wide = max(256, min(width, _PART // ROWS))

    def strip(y: int) -> Bits:
        rows = min(ROWS, height - y)
        dots = np.empty((rows, width), np.bool_)
        for x in range(0, width, wide):
            if cancelled():
                raise Cancelled
            part = Rect(x, y, min(wide, width - x), rows)
            dots[:, x : part.right] = _dots(plate.region(part)[0], tile, gain, x, y)
        return np.packbits(dots, axis=1)

    threads = machine.processors()
    with ThreadPoolExecutor(threads) as pool:
        coming = iter(range(0, height, ROWS))
        ahead = deque(pool.submit(strip, y) for y in itertools.islice(coming, 2 * threads))
        try:
            for y in range(0, height, ROWS):
                made = ahead.popleft().result()
                if (after := next(coming, None)) is not None:
                    ahead.append(pool.submit(strip, after))
                yield made
                progress(min(1.0, (y + ROWS) / height))
        finally:
            for future in ahead:
                future.cancel()


def dotted(coverage: NDArray[np.floating[Any]], screen: Screen, gain: str = "") -> NDArray[np.bool_]:
    """Where ink lies, of coverage ``(h, w)``, a pixel of the device each. Raises ValueError."""
    return _dots(1 - coverage, tile_of(screen), gain, 0, 0)


def _dots(plate: NDArray[np.floating[Any]], tile: Tile, gain: str, x: int, y: int) -> NDArray[np.bool_]:
    coverage: NDArray[np.floating[Any]] = 1 - plate
    if gain:
        solid = coverage >= 1
        coverage = held_back(coverage.astype(np.float64), gain)
        coverage[solid] = 1
    return screened(covered(coverage), tile, x, y)


def packed_t6(bits: Bits, width: int) -> bytes:
    """A strip in CCITT T.6 (ITU-T), on its own."""
    import tifffile
    from PIL import Image

    out = io.BytesIO()
    Image.frombytes("1", (width, len(bits)), bits.tobytes()).save(
        out, "TIFF", compression="group4", tiffinfo={278: len(bits)}
    )
    out.seek(0)
    with tifffile.TiffFile(out) as tiff:
        page = tiff.pages[0]
        offset, count = page.dataoffsets[0], page.databytecounts[0]
    return out.getvalue()[offset : offset + count]


class Tiff:
    """A TIFF of pages of dots (TIFF 6.0): strips as they come, behind each page's its directory.

    The library that writes the other TIFFs packs no dots.
    """

    def __init__(self, file: BinaryIO) -> None:
        self._file = file
        self._link = 4  # where the offset of the next directory goes
        file.write(struct.pack("<2sHI", b"II", 42, 0))

    def page(self, made: Iterator[Bits], size: tuple[int, int], ppi: float, name: str, about: str) -> None:
        """The next page."""
        file, (width, height) = self._file, size
        offsets, counts = [], []
        for bits in made:
            strip = packed_t6(bits, width)
            offsets.append(file.tell())
            counts.append(file.write(strip))
        words = [text.encode("ascii", "replace") + b"\0" for text in (about, name, "Kyanoscript")]
        resolution = struct.pack("<II", round(ppi * 100), 100)
        fields: list[tuple[int, int, int, bytes]] = [  # tag, type, count, values
            (256, 4, 1, struct.pack("<I", width)), (257, 4, 1, struct.pack("<I", height)),
            (258, 3, 1, struct.pack("<H", 1)), (259, 3, 1, struct.pack("<H", 4)),  # T.6
            (262, 3, 1, struct.pack("<H", 0)), (270, 2, len(words[0]), words[0]),  # 0 is white
            (273, 4, len(offsets), struct.pack(f"<{len(offsets)}I", *offsets)),
            (277, 3, 1, struct.pack("<H", 1)), (278, 4, 1, struct.pack("<I", ROWS)),
            (279, 4, len(counts), struct.pack(f"<{len(counts)}I", *counts)),
            (282, 5, 1, resolution), (283, 5, 1, resolution), (_PAGE_NAME, 2, len(words[1]), words[1]),
            (296, 3, 1, struct.pack("<H", 2)), (305, 2, len(words[2]), words[2]),
        ]  # fmt: skip
        entries = b""
        for tag, kind, count, values in fields:
            if len(values) > 4:
                file.write(bytes(file.tell() % 2))
                at = file.tell()
                file.write(values)
                values = struct.pack("<I", at)
            entries += struct.pack("<HHI", tag, kind, count) + values.ljust(4, b"\0")
        file.write(bytes(file.tell() % 2))
        at = file.tell()
        file.write(struct.pack("<H", len(fields)) + entries + bytes(4))
        file.seek(self._link)
        file.write(struct.pack("<I", at))
        self._link = file.seek(0, io.SEEK_END) - 4  # where the offset of the next directory goes


def write_png(file: BinaryIO, made: Iterator[Bits], size: tuple[int, int], ppi: float) -> None:
    """1-bit gray (PNG, W3C 2025): there 0 is black, so ink is turned round."""

    def chunk(name: bytes, data: bytes) -> None:
        file.write(struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data)))

    per_metre = round(ppi / 0.0254)
    file.write(b"\x89PNG\r\n\x1a\n")
    chunk(b"IHDR", struct.pack(">IIBBBBB", *size, 1, 0, 0, 0, 0))
    chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    packer = zlib.compressobj(6)
    for bits in made:
        rows = np.zeros((len(bits), bits.shape[1] + 1), np.uint8)
        np.invert(bits, out=rows[:, 1:])
        if packed := packer.compress(rows.tobytes()):
            chunk(b"IDAT", packed)
    chunk(b"IDAT", packer.flush())
    chunk(b"IEND", b"")
