"""Dots in files: 1-bit TIFF (CCITT T.6, a strip at a time) or PNG, in flat memory. Ink is 1."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Iterator
from typing import BinaryIO

import numpy as np

from kyanoscript.core.print.dots import ROWS, Bits

_PAGE_NAME = 285  # TIFF 6.0  # TIFF 6.0


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
