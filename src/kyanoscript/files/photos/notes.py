"""The notes that a photograph's file carries, for the file of its print: EXIF, XMP and IPTC.

Read by Pillow from whatever kind it opens. What told of the photograph's own pixels is left out: their size, turning,
colours, thumbnail, and the maker's notes, which mean nothing away from their place. Tags by their numbers as in TIFF
6.0 and Exif 2.32 (CIPA DC-008); XMP as in ISO 16684-1; datasets as in IPTC IIM 4.2.
"""

from __future__ import annotations

import io
import re
import struct
import xml.etree.ElementTree as ElementTree
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.files.base import log
from kyanoscript.files.photos import iptc, jxl
from kyanoscript.files.photos.iptc import RDF, Dataset
from kyanoscript.files.photos.pillow import unguarded

_MOST = 4 << 20  # bytes of notes of one kind
_EXIF, _GPS = 0x8769, 0x8825
DESCRIPTION, _ARTIST, _COPYRIGHT = 0x010E, 0x013B, 0x8298
_ACROSS, _DOWN, _UNIT = 0x011A, 0x011B, 0x0128  # resolution; its unit 2 is the inch
IN_UTF_16 = range(0x9C9B, 0x9CA0)  # title, comment, author, keywords, subject
# Description, maker, model, date, artist, copyright; rating; title, comment, author, keywords, subject
_ABOUT = (DESCRIPTION, 0x010F, 0x0110, 0x0132, _ARTIST, _COPYRIGHT, 0x4746, *IN_UTF_16)
# Of the camera's own: components, compressed bits, maker's notes, colour space, size, links to other tags
_NOT_KEPT = (0x9101, 0x9102, 0x927C, 0xA001, 0xA002, 0xA003, 0xA005)


# Properties of XMP by their own names, whatever vocabulary they are of
_OF_PIXELS = {
    "Orientation", "ImageWidth", "ImageLength", "BitsPerSample", "Compression", "PhotometricInterpretation",
    "SamplesPerPixel", "PlanarConfiguration", "XResolution", "YResolution", "ResolutionUnit", "PixelXDimension",
    "PixelYDimension", "ColorSpace", "Thumbnails", "ICCProfile", "ColorMode",
}  # fmt: skip
_OF_PLACE = {"City", "State", "Country", "Location", "CountryCode", "LocationCreated", "LocationShown"}
_OF_RIGHTS = {"creator", "rights", "Credit", "Marked", "Owner", "UsageTerms", "WebStatement", "Certificate"}

# IIM datasets of record 2: of place, of rights
_IIM_PLACE = (90, 92, 95, 100, 101)
_IIM_RIGHTS = (80, 110, 116)
_RESOURCES = 34377  # a TIFF's tag of such blocks as a JPEG has, too
_DATASETS, _DIGEST = 0x0404, 0x0425  # blocks: the datasets, and what stands for them as they were

# What array libraries write where a description belongs: for machines, and no caption
_FOR_MACHINES = re.compile(r'\s*(\{\s*"|ImageJ=|<\?xml|<OME\b|SCI_IMAGEJ|shape=\()')


@dataclass(frozen=True)
class Notes:
    """Notes, empty where there are none."""

    about: dict[int, Any]  # EXIF: of the picture
    camera: dict[int, Any]  # of the camera, and how it stood
    place: dict[int, Any]  # of where it was
    xmp: bytes = b""  # a packet
    iptc: tuple[Dataset, ...] = ()
    lost: tuple[str, ...] = ()  # fields that no file could carry, by their names

    def kept(self, carried: str) -> Notes:
        """What of them goes along: ``all``, ``no-place``, ``rights`` or ``none``."""
        if carried == "none":
            return NOTHING
        if carried == "rights":
            about = {tag: value for tag, value in self.about.items() if tag in (_ARTIST, _COPYRIGHT)}
            rights = tuple(d for d in self.iptc if d[0] == 2 and d[1] in _IIM_RIGHTS)
            return Notes(about, {}, {}, _packet_without(self.xmp, _but_rights), rights, self.lost)
        if carried == "no-place":
            there = tuple(d for d in self.iptc if not (d[0] == 2 and d[1] in _IIM_PLACE))
            return replace(self, place={}, xmp=_packet_without(self.xmp, _tells_place), iptc=there)
        return self

    def __bool__(self) -> bool:
        return bool(self.about or self.camera or self.place or self.xmp or self.iptc)


NOTHING = Notes({}, {}, {})
_TIFF = (b"II*\x00", b"MM\x00*", b"II+\x00", b"MM\x00+")


def read_notes(file: BinaryIO) -> Notes:
    """The notes in a photograph's file; nothing of what is damaged, as the pixels may be sound all the same."""
    from PIL import Image

    try:
        head = file.read(12)
        file.seek(0)
        if head[:2] == b"\xff\x0a" or head[4:8] == b"JXL ":  # which Pillow does not open
            block, packet = jxl.notes(file.read())
            return writable(Notes(*_exif(_Bare(block)), _packet_without(packet, _OF_PIXELS.__contains__)))
        if head[:4] in _TIFF:  # known beforehand, or Pillow would load all that it can open: a tenth of a start
            from PIL import TiffImagePlugin  # noqa: F401
        with unguarded(), Image.open(file) as image:  # nothing is decoded
            return writable(Notes(*_exif(image), *_both(image)))
    except Exception as error:  # whatever the damage makes of them
        log.note("the notes of a photograph could not be read", error)
        return NOTHING


class _Bare:
    """An EXIF block by itself."""

    def __init__(self, block: bytes) -> None:
        self._block = block

    def getexif(self) -> Any:
        from PIL import Image

        found = Image.Exif()
        found.load(self._block)
        return found


def _exif(image: Any) -> tuple[dict[int, Any], dict[int, Any], dict[int, Any]]:
    try:
        found = image.getexif()
        camera, place = dict(found.get_ifd(_EXIF)), dict(found.get_ifd(_GPS))
        about = {tag: found[tag] for tag in _ABOUT if tag in found}
        if _FOR_MACHINES.match(str(about.get(DESCRIPTION, ""))):
            del about[DESCRIPTION]
    except Exception as error:
        log.note("the EXIF of a photograph could not be read", error)
        return {}, {}, {}
    return about, {tag: value for tag, value in camera.items() if tag not in _NOT_KEPT}, place


class _AsItWas(str):
    """Text of an EXIF field, read byte by byte as Latin-1: libraries that ask for its bytes get those that it was."""

    def encode(self, encoding: str = "", errors: str = "") -> bytes:
        try:
            return super().encode("latin-1")
        except UnicodeEncodeError:  # of a library that read it otherwise
            return super().encode("utf-8", "replace")


def writable(notes: Notes) -> Notes:
    """The same with values that can be written; fields of which that is not so are left out, and named as lost.

    Text of EXIF is ASCII by the standard, and bytes of any coding by practice: they are carried as they were, and
    nobody guesses which it is.
    """
    from PIL import ExifTags
    from PIL.TiffImagePlugin import ImageFileDirectory_v2

    lost: list[str] = []

    def fitting(values: dict[int, Any], group: int | None, names: dict[int, str]) -> dict[int, Any]:
        kept = {}
        for tag, value in values.items():
            value = _AsItWas(value) if isinstance(value, str) else value
            directory = ImageFileDirectory_v2(group=group)
            try:
                if isinstance(value, str) and tag in IN_UTF_16:
                    raise TypeError  # text where bytes belong
                directory[tag] = value
                directory.tobytes(8)
                if isinstance(value, tuple) and len(value) > 1 and not isinstance(directory[tag], tuple | bytes):
                    raise TypeError  # more values than the field has room for
            except Exception as error:  # a value that is none of its tag's kind
                log.note(f"the field {tag} of a photograph's EXIF cannot be carried: {type(error).__name__}")
                lost.append(names.get(tag, f"field {tag}"))
            else:
                kept[tag] = value
        return kept

    about = fitting(notes.about, None, ExifTags.TAGS)
    camera = fitting(notes.camera, _EXIF, ExifTags.TAGS)
    place = fitting(notes.place, _GPS, ExifTags.GPSTAGS)
    return replace(notes, about=about, camera=camera, place=place, lost=(*notes.lost, *lost))


def exif_of(notes: Notes, thumbnail: NDArray[np.uint8] | None, ppi: float) -> bytes:
    """An EXIF block (a TIFF of its own, without the word Exif before it), with a small picture of the print."""
    from PIL import Image

    made = Image.Exif()
    for tag, value in {**notes.about, _ACROSS: ppi, _DOWN: ppi, _UNIT: 2}.items():
        made[tag] = value
    if notes.camera:
        made.get_ifd(_EXIF).update(notes.camera)
    if notes.place:
        made.get_ifd(_GPS).update(notes.place)
    try:
        block = made.tobytes()
    except Exception as error:  # a value that is none of its tag's kind
        log.note("the EXIF of a print could not be written whole", error)
        return b"" if not notes.camera and not notes.place else exif_of(Notes(notes.about, {}, {}), thumbnail, ppi)
    block = block.removeprefix(b"Exif\0\0")
    return block if thumbnail is None else _with_thumbnail(block, thumbnail)


def _with_thumbnail(block: bytes, pixels: NDArray[np.uint8]) -> bytes:
    """A second directory with a small JPEG (Exif 2.32, 4.5.5), which Pillow does not write."""
    from PIL import Image

    order = "<" if block[:2] == b"II" else ">"
    (first,) = struct.unpack_from(f"{order}I", block, 4)
    (count,) = struct.unpack_from(f"{order}H", block, first)
    link = first + 2 + 12 * count
    data = io.BytesIO()
    Image.fromarray(pixels if pixels.shape[2] == 3 else pixels[..., 0]).save(data, "JPEG", quality=85)
    block += bytes(len(block) % 2)
    at = len(block)
    tags = ((0x0103, 3, 6), (0x0201, 4, at + 2 + 12 * 3 + 4), (0x0202, 4, data.tell()))
    second = struct.pack(f"{order}H", len(tags))
    for tag, kind, value in tags:  # a short stands at the beginning of its four bytes
        second += struct.pack(f"{order}HHI", tag, kind, 1) + struct.pack(f"{order}{'HH' if kind == 3 else 'I'}", *(
            (value, 0) if kind == 3 else (value,)))  # fmt: skip
    second += struct.pack(f"{order}I", 0)
    return block[:link] + struct.pack(f"{order}I", at) + block[link + 4 :] + second + data.getvalue()


def _xmp(image: Any) -> bytes:
    """The XMP packet without what told of the photograph's own pixels."""
    packet = image.info.get("xmp") or b""
    if not packet and hasattr(image, "tag_v2"):
        packet = image.tag_v2.get(700) or b""
    if isinstance(packet, str):
        packet = packet.encode()
    return _packet_without(bytes(packet), _OF_PIXELS.__contains__)


def _tells_place(name: str) -> bool:
    return name in _OF_PLACE or name.startswith("GPS")


def _but_rights(name: str) -> bool:
    return name not in _OF_RIGHTS


def _packet_without(packet: bytes, unwanted: Callable[[str], bool]) -> bytes:
    """An XMP packet without the properties of unwanted names; empty if nothing is left or it cannot be read."""
    root = _root(packet)
    if root is None:
        return b""
    left = False
    for description in root.iter(f"{{{RDF}}}Description"):
        for child in [child for child in description if unwanted(_own(child.tag))]:
            description.remove(child)
        for name in [name for name in description.attrib if name != f"{{{RDF}}}about" and unwanted(_own(name))]:
            del description.attrib[name]
        left = left or len(description) > 0 or any(name != f"{{{RDF}}}about" for name in description.attrib)
    return _packet(root) if left else b""


def _root(packet: bytes) -> ElementTree.Element | None:
    """An XMP packet read; None of what cannot be."""
    if not packet or len(packet) > _MOST or b"<!" in packet.replace(b"<!--", b""):  # no documents with entities
        return None
    try:
        packet = packet.strip(b"\0 \r\n\t")
        for _, (prefix, uri) in ElementTree.iterparse(io.BytesIO(packet), events=("start-ns",)):
            if prefix and not prefix.startswith(("ns", "xml")):  # what others call it is what it is called again
                ElementTree.register_namespace(prefix, uri)
        return ElementTree.fromstring(packet)
    except (ElementTree.ParseError, ValueError) as error:
        log.note("the XMP of a photograph could not be read", error)
        return None


def _own(name: str) -> str:
    return name.rpartition("}")[2]


def _packet(root: ElementTree.Element) -> bytes:
    head = "<?xpacket begin='\ufeff' id='W5M0MpCehiHzreSzNTczkc9d'?>".encode()
    return head + ElementTree.tostring(root, encoding="utf-8") + b"<?xpacket end='r'?>"


def xmp_of(notes: Notes) -> bytes:
    """The XMP packet; made from IPTC where there is none."""
    if notes.xmp or not notes.iptc:
        return notes.xmp
    root = iptc.in_xmp(notes.iptc)
    return b"" if root is None else _packet(root)


def _both(image: Any) -> tuple[bytes, tuple[Dataset, ...]]:
    """XMP and IPTC that say the same, whichever of them said it."""
    packet, datasets = _xmp(image), _iptc(image)
    root = _root(packet)
    if root is None or not datasets:
        return packet, datasets
    datasets = iptc.agreed(datasets, root, _resources(image).get(_DIGEST, b""))
    return _packet(root), datasets


def _iptc(image: Any) -> tuple[Dataset, ...]:
    """The datasets of record 2 (and of 1 what tells how letters are coded)."""
    from PIL import IptcImagePlugin

    try:
        found = IptcImagePlugin.getiptcinfo(image) or {}
    except Exception as error:
        log.note("the IPTC of a photograph could not be read", error)
        return ()
    made: list[Dataset] = []
    for (record, number), value in sorted(found.items()):
        if (record == 2 and number != 0) or (record, number) == (1, 90):
            for one in value if isinstance(value, list) else [value]:
                if isinstance(one, bytes) and len(one) < 0x8000:
                    made.append((record, number, one))
    return tuple(made)


def _resources(image: Any) -> dict[int, bytes]:
    """Blocks beside the datasets, by their numbers: one holds the digest of them as they were."""
    blocks = image.info.get("photoshop")
    if isinstance(blocks, dict):
        return blocks
    data = image.tag_v2.get(_RESOURCES) if hasattr(image, "tag_v2") else None
    return iptc.blocks_in(data) if isinstance(data, bytes) else {}


def iptc_of(notes: Notes) -> bytes:
    """Datasets as a file holds them."""
    return iptc.written(notes.iptc)


def blocks_of(notes: Notes, datasets: bool) -> bytes:
    """Blocks with the digest of the datasets, which says that XMP is equal to them; ``datasets``: and these too."""
    block = iptc_of(notes)
    parts = [(_DATASETS, block)] * datasets + [(_DIGEST, iptc.digest_of(block))] * bool(xmp_of(notes))
    made = b""
    for number, data in parts if block else ():
        made += b"8BIM" + struct.pack(">HHI", number, 0, len(data)) + data + bytes(len(data) % 2)
    return made
