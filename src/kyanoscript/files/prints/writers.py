"""Prints into files: TIFF, PNG, JPEG, WebP, JPEG XL, AVIF and PDF, with profile, resolution and notes.

A writer is handed blocks of pixels from top to bottom. TIFF and PNG are written band by band, so that a print of any
size takes little memory; the others are put together whole. Sources: TIFF 6.0, PNG third edition (W3C 2025), Exif
2.32, XMP part 3; JPEG, WebP and AVIF by Pillow, JPEG XL by libjxl. Nothing but a PDF tells of the time: the same
print is the same file.
"""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.picture import Rect
from kyanoscript.files.base import log
from kyanoscript.files.photos import jxl
from kyanoscript.files.photos.notes import IN_UTF_16, Notes, blocks_of, exif_of, iptc_of, xmp_of
from kyanoscript.files.prints.formats import FORMATS, Format
from kyanoscript.files.prints.settings import Settings
from kyanoscript.files.prints.target import Target
from kyanoscript.translation import tr

Blocks = Iterator[tuple[Rect, NDArray[Any]]]
TILE = 256  # pixels: side of a tile in the file
_EXIF, _GPS, _XMP, _IPTC, _BLOCKS = 34665, 34853, 700, 33723, 34377
_STAND_IN = 65_000  # a tag that nobody has, for a link that is put in later
_LARGE = 4_000_000_000  # bytes: a TIFF beyond that has longer links


@dataclass(frozen=True)
class PictureHead:
    """What a writer has to know of a print."""

    width: int
    height: int
    high: int  # rows of a band
    target: Target
    settings: Settings
    ppi: float
    notes: Notes
    thumbnail: NDArray[np.uint8] | None  # (h, w, 1 or 3), for notes that have a place for one
    trim: Rect | None = None  # what is left when it is cut, in pixels
    title: str = ""  # what a document is called

    @property
    def channels(self) -> int:
        return self.target.channels

    @property
    def shape(self) -> tuple[int, ...]:
        return (self.height, self.width) if self.channels == 1 else (self.height, self.width, self.channels)


def _in_bands(blocks: Blocks, width: int) -> Iterator[NDArray[Any]]:
    """Blocks put together to whole rows."""
    band: NDArray[Any] | None = None
    for place, block in blocks:
        if place.width == width:
            yield block
            continue
        if band is None:
            band = np.empty((place.height, width, block.shape[2]), block.dtype)
        band[:, place.x : place.right] = block
        if place.right == width:
            yield band
            band = None


def _in_tiles(blocks: Blocks, channels: int) -> Iterator[NDArray[Any]]:
    """Blocks cut into the tiles of a TIFF, from left to right; those at the rim are filled up."""
    for _, block in blocks:
        height, width = block.shape[:2]
        for x in range(0, width, TILE):
            tile = block[:, x : x + TILE]
            if tile.shape[:2] != (TILE, TILE):
                tile = np.pad(tile, ((0, TILE - height), (0, TILE - tile.shape[1]), (0, 0)), mode="edge")
            yield tile if channels > 1 else tile[..., 0]


def _whole(blocks: Blocks, sheet: PictureHead) -> NDArray[Any]:
    """All of it, ``(h, w, 3)`` or ``(h, w)``."""
    whole = np.empty((sheet.height, sheet.width, sheet.channels), sheet.target.dtype)
    y = 0
    for band in _in_bands(blocks, sheet.width):
        whole[y : y + len(band)] = band
        y += len(band)
    return whole.reshape(sheet.shape)


def write_tiff(file: BinaryIO, blocks: Blocks, sheet: PictureHead) -> None:
    """In strips or tiles, as they come."""
    import tifffile

    settings, notes = sheet.settings, sheet.notes
    large = sheet.height * sheet.width * sheet.channels * np.dtype(sheet.target.dtype).itemsize > _LARGE
    extra: list[tuple[Any, ...]] = []
    for tag, value in notes.about.items():  # text as the bytes that it was: see `notes.writable`
        if isinstance(value, bytes | str):
            extra.append((tag, "B" if tag in IN_UTF_16 else "s", len(value), value, True))
    xmp, iptc = notes.xmp, iptc_of(notes)
    if xmp:
        extra.append((_XMP, "B", len(xmp), xmp, True))
    if iptc:
        extra.append((_IPTC, "B", len(iptc), iptc, True))
    if xmp and (digest := blocks_of(notes, datasets=False)):
        extra.append((_BLOCKS, "B", len(digest), digest, True))
    linked = {} if large else {tag: values for tag, values in ((_EXIF, notes.camera), (_GPS, notes.place)) if values}
    extra += [(_STAND_IN + k, "I", 1, 0, True) for k in range(len(linked))]
    with tifffile.TiffWriter(file, bigtiff=large, byteorder="<") as tiff:
        tiff.write(
            _in_tiles(blocks, sheet.channels)
            if settings.in_tiles
            else (b if sheet.channels > 1 else b[..., 0] for b in _in_bands(blocks, sheet.width)),
            shape=sheet.shape,
            dtype=sheet.target.dtype,
            photometric={1: "minisblack", 3: "rgb", 4: "separated"}[sheet.channels],
            **({"tile": (TILE, TILE)} if settings.in_tiles else {"rowsperstrip": sheet.high}),
            **_packing(settings, sheet.target.dtype),
            resolution=(sheet.ppi, sheet.ppi),
            resolutionunit="INCH",
            iccprofile=sheet.target.icc or None,
            software="Kyanoscript",
            metadata=None,
            extratags=extra,
        )
    if linked:
        _link(file, linked)


def _packing(settings: Settings, dtype: type[Any]) -> dict[str, Any]:
    if settings.compression == "none":
        return {}
    packing = {"lzw": "lzw", "deflate": "adobe_deflate"}[settings.compression]
    return {"compression": packing, "predictor": True if dtype is not np.float32 else 3}


def _link(file: BinaryIO, linked: dict[int, dict[int, Any]]) -> None:
    """Directories of the camera's notes, behind everything else, and the links to them (TIFF 6.0, Exif 2.32).

    The library does not write these links: tags that stand in for them are changed, and put in order.
    """
    from PIL.TiffImagePlugin import ImageFileDirectory_v2

    file.seek(4)
    (first,) = struct.unpack("<I", file.read(4))
    file.seek(first)
    (count,) = struct.unpack("<H", file.read(2))
    entries = [bytes(file.read(12)) for _ in range(count)]
    for k, (tag, values) in enumerate(linked.items()):
        at = file.seek(0, io.SEEK_END)
        at += file.write(bytes(at % 2))
        directory = ImageFileDirectory_v2(group=tag)
        for number, value in values.items():
            directory[number] = value
        try:
            data = directory.tobytes(at)
        except Exception as error:  # a value that is none of its tag's kind
            log.note("the camera's notes could not be written", error)
            data = struct.pack("<HI", 0, 0)
        file.write(data)
        stands = next(n for n, entry in enumerate(entries) if entry[:2] == struct.pack("<H", _STAND_IN + k))
        entries[stands] = struct.pack("<HHII", tag, 4, 1, at)
    file.seek(first + 2)
    file.write(b"".join(sorted(entries, key=lambda entry: struct.unpack_from("<H", entry))))


def write_png(file: BinaryIO, blocks: Blocks, sheet: PictureHead) -> None:
    """Signature, header, profile, resolution, notes, rows filtered against their left neighbour and deflated, end."""
    bits = np.dtype(sheet.target.dtype).itemsize * 8

    def chunk(name: bytes, data: bytes) -> None:
        file.write(struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data)))

    per_metre = round(sheet.ppi / 0.0254)
    file.write(b"\x89PNG\r\n\x1a\n")
    colour_type = 2 if sheet.channels == 3 else 0
    chunk(b"IHDR", struct.pack(">IIBBBBB", sheet.width, sheet.height, bits, colour_type, 0, 0, 0))
    if sheet.target.icc:
        chunk(b"iCCP", b"print\0\0" + zlib.compress(sheet.target.icc))
    chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    if exif := _exif(sheet):
        chunk(b"eXIf", exif)
    if xmp := xmp_of(sheet.notes):
        chunk(b"iTXt", b"XML:com.adobe.xmp\0\0\0\0\0" + xmp)
    packer = zlib.compressobj(4, zlib.DEFLATED, 15, 9)
    step = sheet.channels * bits // 8
    for band in _in_bands(blocks, sheet.width):
        raw = band.astype(band.dtype.newbyteorder(">")).reshape(len(band), -1).view(np.uint8)
        rows = np.empty((len(raw), raw.shape[1] + 1), np.uint8)
        rows[:, 0] = 1  # filter type Sub
        rows[:, 1 : step + 1] = raw[:, :step]
        np.subtract(raw[:, step:], raw[:, :-step], out=rows[:, step + 1 :])
        if packed := packer.compress(rows.tobytes()):
            chunk(b"IDAT", packed)
    chunk(b"IDAT", packer.flush())
    chunk(b"IEND", b"")


def _exif(sheet: PictureHead, always: bool = False) -> bytes:
    """Notes; ``always``: the format tells its resolution nowhere else."""
    return exif_of(sheet.notes, sheet.thumbnail, sheet.ppi) if sheet.notes or always else b""


def _by_pillow(kind: str, **how: Any) -> Callable[[BinaryIO, Blocks, PictureHead], None]:
    def write(file: BinaryIO, blocks: Blocks, sheet: PictureHead) -> None:
        from PIL import Image

        image = Image.fromarray(_whole(blocks, sheet))
        dpi = (round(sheet.ppi), round(sheet.ppi))
        said = {"exif": _exif(sheet, always=kind != "JPEG"), "xmp": xmp_of(sheet.notes)}
        if kind == "JPEG" and said["exif"]:
            said["exif"] = b"Exif\0\0" + said["exif"]
        most = FORMATS[kind.lower()].notes
        said = {name: data for name, data in said.items() if data and len(data) < most}
        blocks_ = blocks_of(sheet.notes, datasets=True) if kind == "JPEG" else b""
        if blocks_ and len(blocks_) < most:
            said["extra"] = _segment(blocks_)
        # Through memory: the library writes into a file's descriptor itself, and takes half a write for a whole one.
        data = io.BytesIO()
        whole = {"lossless": True} if kind == "WEBP" and sheet.settings.quality == 100 else {}
        image.save(
            data, kind, quality=sheet.settings.quality, icc_profile=sheet.target.icc, dpi=dpi,
            **{**how, **whole}, **said,
        )  # fmt: skip
        file.write(data.getbuffer())

    return write


def _segment(blocks: bytes) -> bytes:
    """Blocks of a JPEG, IPTC among them: in the thirteenth application segment, with the name that readers look for."""
    data = b"Photoshop 3.0\0" + blocks
    return b"\xff\xed" + struct.pack(">H", len(data) + 2) + data


def too_long(format: Format, notes: Notes) -> tuple[str, ...]:
    """What of the notes a file of a format has no place for, in words."""
    if not notes:
        return ()
    lengths = {"EXIF": len(exif_of(notes, None, 300.0)), "XMP": len(xmp_of(notes))}
    if format.name == "JPEG":
        lengths["IPTC"] = len(blocks_of(notes, datasets=True))
    return tuple(
        tr("{name}, too long for a {name2}", name=name, name2=format.name)
        for name, length in lengths.items()
        if length >= format.notes
    )


def write_jpeg_xl(file: BinaryIO, blocks: Blocks, sheet: PictureHead) -> None:
    """Without loss: the codec knows no profile, and of a picture with loss the colours could not be told afterwards."""
    import imagecodecs

    assert sheet.target.space is not None  # export sees to it
    whole = _whole(blocks, sheet)
    made = bytes(imagecodecs.jpegxl_encode(whole, lossless=True, effort=4))
    stream = jxl.in_space(made, sheet.target.space, gray=sheet.channels == 1)
    file.write(jxl.boxed(stream, whole.dtype == np.uint16, _exif(sheet, always=True), xmp_of(sheet.notes)))


def write_pdf(file: BinaryIO, blocks: Blocks, sheet: PictureHead) -> None:
    """One page at its exact size: the pixels without loss, their profile, what is cut away (`pdf`)."""
    import pikepdf

    from kyanoscript.files.prints import pdf

    icc = sheet.target.icc
    bands = (band.astype(band.dtype.newbyteorder(">")).tobytes() for band in _in_bands(blocks, sheet.width))
    with pikepdf.new() as made:
        colours: Any = pikepdf.Name.DeviceGray if sheet.channels == 1 else pikepdf.Name.DeviceRGB
        if icc:
            colours = pdf.colours_of(made, icc, sheet.channels)
        bits = np.dtype(sheet.target.dtype).itemsize * 8
        pdf.add_page(made, bands, (sheet.width, sheet.height), bits, sheet.ppi, colours, sheet.trim)
        standard = "X-4" if pdf.is_printers(icc) else "A-2b" if icc else ""
        pdf.save_pdf(made, file, sheet.title, standard)


WRITERS: dict[str, Callable[[BinaryIO, Blocks, PictureHead], None]] = {
    "tiff": write_tiff,
    "png": write_png,
    "jpeg": _by_pillow("JPEG", subsampling=0, optimize=True),
    "webp": _by_pillow("WEBP", method=4),
    "jpeg-xl": write_jpeg_xl,
    "avif": _by_pillow("AVIF", subsampling="4:4:4", speed=6),
    "pdf": write_pdf,
}
