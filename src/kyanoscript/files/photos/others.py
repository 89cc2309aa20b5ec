"""Opening WebP, AVIF, HEIF, JPEG XL, JPEG 2000, OpenEXR, PFM, Netpbm's, TGA, GIF, BMP and flattened pictures.

Bits beyond eight are kept, over sixteen. Sizes, profile and orientation are Pillow's readings of the header; AVIF and
JPEG 2000 are decoded by libavif and OpenJPEG, as Pillow brings them down to eight bits. Of pictures that move the first
is opened, with eight bits.
"""

from __future__ import annotations

import contextlib
import io
import re
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import BT2020, DISPLAY_P3, SRGB, Space, space_near, space_of, to_encoded
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.colour.profiles import Meaning
from kyanoscript.files.photos import flattened, jxl, netpbm
from kyanoscript.files.photos.facts import Facts, facts_of_exif, facts_of_image
from kyanoscript.files.photos.pillow import unguarded
from kyanoscript.files.photos.pixels import by_bands, held, spread
from kyanoscript.translation import tr

# What files of these kinds begin with: RFC 9649, AV1 Image File Format 1.1, ITU-T T.800, GIF89a; of BMP common practice
KINDS = (
    (8, b"WEBP", "WEBP", "WebP"),
    (4, b"ftypavif", "AVIF", "AVIF"),
    (4, b"ftypavis", "AVIF", "AVIF"),
    (0, b"\0\0\0\x0cjP  ", "JPEG2000", "JPEG 2000"),
    (0, b"\xff\x4f\xff\x51", "JPEG2000", "JPEG 2000"),
    (4, b"ftyphei", "HEIF", "HEIF"),
    (4, b"ftyphev", "HEIF", "HEIF"),
    (4, b"ftypmif1", "HEIF", "HEIF"),
    (4, b"ftypmsf1", "HEIF", "HEIF"),
    (0, b"\xff\x0a", "JXL", "JPEG XL"),
    (0, b"\0\0\0\x0cJXL ", "JXL", "JPEG XL"),
    (0, b"v/1\x01", "EXR", "OpenEXR"),
    (0, b"PF\n", "PFM", "PFM"),
    (0, b"Pf\n", "PFM", "PFM"),
    (0, b"GIF8", "GIF", "GIF"),
    (0, b"BM", "BMP", "BMP"),
    (0, b"8BPS", "FLAT", "a layered document"),
    *((0, first, "NETPBM", "PNM") for first in netpbm.HEADS),
)
_TARGA = (b"TRUEVISION-XFILE.\0", (b".tga", b".icb", b".vda", b".vst"))  # at its end, of newer ones; and in names
_MOST_PER_BYTE = 500_000  # an empty WebP or AVIF of any size takes a few dozen bytes
_AT_ONCE = 1 << 20  # pixels of a band
# How many times its pixels decoding takes, where a library works with more than comes out (measured)
_TIMES = {"AVIF": 2.5, "JPEG2000": 5.2, "JXL": 6.2, "HEIF": 2.5, "BMP": 3.5, "moving": 4.8}
Check = Callable[..., None]  # `photo.check_size`


@dataclass(frozen=True)
class Found:
    """A picture as it lies in its file."""

    pixels: NDArray[Any]  # (h, w) or (h, w, values), uint8, uint16 or float32
    profile: bytes | None
    image: Any  # Pillow's, for orientation and resolution; None: upright, and nothing is said of resolution
    name: str
    notes: tuple[str, ...]
    facts: Facts
    how: Meaning | None = None  # what its values mean, where that is not told by the profile
    inks: bool = False  # its four channels are those of inks
    ppi: float | None = None  # where it is not told by the image


def kind_of(head: bytes) -> tuple[str, str] | None:
    """Pillow's name and people's name of the kind that a file begins as; None if it is none of these."""
    return next(((codec, name) for at, first, codec, name in KINDS if head[at:].startswith(first)), None)


END = 18  # bytes at the end of a file that may hold its sign


def targa(name: str, head: bytes, end: bytes) -> tuple[str, str] | None:
    """The kind of a file that has no sign at its beginning: its end tells, or its name."""
    told = end == _TARGA[0] or name.lower().encode().endswith(_TARGA[1])
    # Of colours looked up, true or gray; its pixels plain or in runs (TGA 2.0, from memory)
    return ("TGA", "TGA") if told and head[2:3] in (b"\1", b"\2", b"\3", b"\x09", b"\x0a", b"\x0b") else None


def open_other(path: Path, data: bytes, kind: tuple[str, str], check_size: Check) -> Found:
    """Read it. Raises FileError and the decoders' own errors."""
    import imagecodecs
    from PIL import Image

    codec, name = kind
    if codec in _OF_OWN:
        return _OF_OWN[codec](path, data, check_size)
    if codec == "WEBP" and (still := _webp(path, data, check_size)) is not None:
        return still
    with unguarded(), Image.open(io.BytesIO(data), formats=[codec]) as image:
        each = 2 if codec in ("AVIF", "JPEG2000") and _many_bits(data, codec) else 1
        values = max(3 if image.mode == "P" else 1, len(image.getbands()))
        check_size(path, *image.size, values, len(data), _MOST_PER_BYTE, each, _TIMES.get(codec, 2.4))
        count = getattr(image, "n_frames", 1)
        notes = (tr("It moves: this is the first of {count} pictures", count=count),) if count > 1 else ()
        profile = profile_said = image.info.get("icc_profile")
        if codec == "AVIF" and count == 1 and b"avis" not in data[:64]:  # of moving ones the decoder falls
            pixels = spread(np.asarray(imagecodecs.avif_decode(data, index=0)), (1 << _avif_bits(data)) - 1)
        elif codec == "JPEG2000":
            pixels, profile = _jpeg2000(path, data)
            profile_said = _jpeg2000_profile(data)
        elif codec == "BMP" and image.mode == "RGB" and data[28:34] == b"\x18\0\0\0\0\0":
            pixels = _bmp24(data, *image.size)
        else:
            pixels = by_pillow(image)
        if pixels.shape[:2] != image.size[::-1]:
            raise ValueError(tr("the header says {size}, the pixels are {shape}", size=image.size, shape=pixels.shape))
        facts = facts_of_image(image, profile_said)
        how, more = _by_numbers(data) if codec == "AVIF" and profile is None else (None, ())
        if how is not None:
            facts = replace(facts, profile=how.space.name)
    return Found(pixels, profile, image, name, (*notes, *more), facts, how)


def _webp(path: Path, data: bytes, check_size: Check) -> Found | None:
    """A WebP that does not move (RFC 9649), without the pictures beside one another that one which moves is made in."""
    import imagecodecs
    from PIL import Image

    parts: dict[bytes, bytes] = {}
    at = 12
    while at + 8 <= len(data):
        count = int.from_bytes(data[at + 4 : at + 8], "little")
        parts.setdefault(data[at : at + 4], data[at + 8 : at + 8 + count])
        at += 8 + count + count % 2
    width, height = _webp_size(parts)
    moves = b"ANIM" in parts
    check_size(path, width, height, 4, len(data), _MOST_PER_BYTE, 1, _TIMES["moving"] if moves else 2.0)
    if moves:
        return None
    pixels = np.asarray(imagecodecs.webp_decode(data))
    if pixels.shape[:2] != (height, width):
        raise ValueError(
            tr(
                "the header says {width} × {height}, the pixels are {shape}",
                width=width,
                height=height,
                shape=pixels.shape,
            )
        )
    profile = parts.get(b"ICCP")
    image = Image.new("L", (1, 1))  # what else is said of it is read as of any other
    image.info.update({name: parts[part] for name, part in _SAID.items() if part in parts})
    return Found(pixels, profile, image, "WebP", (), facts_of_image(image, profile))


_SAID = {"exif": b"EXIF", "xmp": b"XMP ", "icc_profile": b"ICCP"}


def _webp_size(parts: dict[bytes, bytes]) -> tuple[int, int]:
    """Width and height, as the first of its headers says (RFC 9649, 2.7; RFC 6386, 9.1; WebP lossless, 3)."""
    if (head := parts.get(b"VP8X")) is not None:
        return int.from_bytes(head[4:7], "little") + 1, int.from_bytes(head[7:10], "little") + 1
    if (head := parts.get(b"VP8L")) is not None:
        said = int.from_bytes(head[1:5], "little")
        return (said & 0x3FFF) + 1, (said >> 14 & 0x3FFF) + 1
    head = parts.get(b"VP8 ", b"")
    return int.from_bytes(head[6:8], "little") & 0x3FFF, int.from_bytes(head[8:10], "little") & 0x3FFF


def by_pillow(image: Any) -> NDArray[Any]:
    """Pixels of eight bits: gray, RGB, with alpha where there is any, or inks."""
    image.load()
    transparent = "transparency" in image.info or image.mode in ("LA", "PA", "RGBA")
    colourless = image.mode in ("1", "L", "LA")
    mode = ("LA" if transparent else "L") if colourless else ("RGBA" if transparent else "RGB")
    if image.mode == "CMYK":
        mode = "CMYK"
    width, height = image.size
    out = np.empty((height, width, len(mode)), np.uint8)
    rows = max(1, _AT_ONCE // width)
    for y in range(0, height, rows):
        band = image.crop((0, y, width, min(y + rows, height)))
        out[y : y + rows] = np.asarray(band if band.mode == mode else band.convert(mode)).reshape(-1, width, len(mode))
    return out[..., 0] if mode == "L" else out


def _bmp24(data: bytes, width: int, height: int) -> NDArray[np.uint8]:
    """Three bytes a pixel, blue first, in rows of whole words from the lowest up, or down if the height is negative.
    (Common practice, no source. Of a height that is not there, the library beside Pillow's goes past the end.)"""
    row = (3 * width + 3) // 4 * 4
    rows = np.frombuffer(data, np.uint8, height * row, int.from_bytes(data[10:14], "little")).reshape(height, row)
    upright = rows if data[25] == 0xFF else rows[::-1]
    return np.ascontiguousarray(upright[:, : 3 * width].reshape(height, width, 3)[..., ::-1])


def _many_bits(data: bytes, codec: str) -> bool:
    """Whether its values have more than eight bits, as far as its header says."""
    if codec == "AVIF":
        return _avif_bits(data) > 8
    at = data.find(b"\xff\x4f\xff\x51") + 42
    return any(part & 0x7F > 7 for part in data[at : at + 1])


def _avif_bits(data: bytes) -> int:
    """Bits of a value: flags in the AV1 codec configuration box (AV1 in ISOBMFF 1.2, 2.3.3)."""
    at = data.find(b"av1C")
    flags = data[at + 6] if 0 <= at < len(data) - 6 else 0
    return (12 if flags & 0x20 else 10) if flags & 0x40 else 8


def _jpeg2000(path: Path, data: bytes) -> tuple[NDArray[Any], bytes | None]:
    """ITU-T T.800: the bits of a value are said in the marker SIZ (A.5.1).

    The pixels, and the profile that is still to be applied to them.
    """
    import imagecodecs

    at = data.find(b"\xff\x4f\xff\x51") + 2
    profile = _jpeg2000_profile(data)
    parts = int.from_bytes(data[at + 38 : at + 40], "big")
    said = {data[at + 40 + 3 * k] for k in range(parts)}
    if parts not in (1, 2, 3, 4) or len(said) != 1 or max(said) & 0x80 or max(said) > 15:
        raise FileError(path, "this is a JPEG 2000 with an unusual kind of values", "Save it as a TIFF, and open that")
    # Where the profile lies beside it, the decoder converts by itself. A palette is the decoder's to look up.
    bare = data[at - 2 :] if profile is not None and b"pclr" not in data[: at - 2] else data
    return spread(np.asarray(imagecodecs.jpeg2k_decode(bare)), (2 << max(said)) - 1), None if bare is data else profile


def _jpeg2000_profile(data: bytes) -> bytes | None:
    """The profile in the colour specification box (ITU-T T.800, I.5.3.3: method 2)."""
    at = data.find(b"colr\x02")
    if at < 4:
        return None
    return data[at + 7 : at - 4 + int.from_bytes(data[at - 4 : at], "big")] or None


def _jpeg_xl(path: Path, data: bytes, check_size: Check) -> Found:
    """Decoded by libjxl, upright; what its values mean is told by its header (`jxl`)."""
    import imagecodecs

    said = jxl.header(data)
    check_size(path, said.width, said.height, 3, len(data), _MOST_PER_BYTE, 1, _TIMES["JXL"])
    pixels = np.asarray(imagecodecs.jpegxl_decode(data))
    notes: tuple[str, ...] = ()
    if pixels.ndim == 4 or (pixels.ndim == 3 and pixels.shape[2] > 4):
        pixels, notes = pixels[0], (tr("It moves: this is the first of {count} pictures", count=len(pixels)),)
    if pixels.dtype.kind == "f":
        pixels = pixels.astype(np.float32)
    own = space_near(said.space.to_d50, said.space.white)
    curve: Curve | None = None
    if said.colours == "linear":
        curve = to_encoded
    elif said.colours == "gamma":
        curve = _after_power(1 / said.gamma)
    elif said.colours in ("unknown", "profile"):
        notes = (*notes, "Its colours are told in a way that cannot be read; they are taken as sRGB")
    exif, _ = jxl.notes(data)
    return Found(pixels, None, None, "JPEG XL", notes, facts_of_exif(exif, own.name), _through(pixels, own, curve))


Curve = Callable[[NDArray[np.float64]], NDArray[np.float64]]


def _after_power(gamma: float) -> Curve:
    return lambda v: to_encoded(np.sign(v) * np.abs(v) ** gamma)


def _through(pixels: NDArray[Any], own: Space, curve: Curve | None) -> Meaning:
    """How to read pixels of a space whose values are brought to the sRGB curve by a function."""
    if curve is None:
        return Meaning(own)
    if pixels.dtype.kind == "f":
        return Meaning(own, curve=curve)
    channels = 1 if pixels.ndim == 2 or pixels.shape[2] < 3 else 3
    levels = curve(np.linspace(0, 1, 1 << (8 * pixels.dtype.itemsize)))
    return Meaning(own, np.ascontiguousarray(np.tile(levels, (channels, 1)), np.float32))


def _heif(path: Path, data: bytes, check_size: Check) -> Found:
    """By libheif, where it has been installed: its codecs are not everybody's to give away."""
    try:
        import pillow_heif
    except ImportError:
        raise FileError(
            path, "this is a HEIF picture, and what reads them is not there", "Install it: pip install pillow-heif"
        ) from None
    opening: Any = pillow_heif.open_heif  # its stubs leave a choice out
    image = opening(io.BytesIO(data), convert_hdr_to_8bit=False, hdr_to_16bit=False)
    width, height = image.size
    each = 2 if int(image.info.get("bit_depth") or 8) > 8 else 1
    check_size(path, width, height, len(image.mode), len(data), _MOST_PER_BYTE, each, _TIMES["HEIF"])
    pixels = spread(np.asarray(image), (1 << int(image.info.get("bit_depth") or 8)) - 1)
    # Turned by the library already.
    profile = image.info.get("icc_profile")
    how, notes = (None, ()) if profile else _by_numbers(data)
    facts = facts_of_exif(image.info.get("exif") or b"", how.space.name if how else "", profile)
    return Found(pixels, profile, None, "HEIF", notes, facts, how)


def _by_numbers(data: bytes) -> tuple[Meaning | None, tuple[str, ...]]:
    """What a HEIF or AVIF without a profile says of its colours in three numbers (ITU-T H.273; ISO/IEC 14496-12).

    Curves of television up to BT.2020 are taken as that of sRGB, as programs do (common practice, no source).
    """
    at = data.find(b"colrnclx")
    if at < 0:
        return None, ()
    primaries, curve = int.from_bytes(data[at + 8 : at + 10], "big"), int.from_bytes(data[at + 10 : at + 12], "big")
    space = {1: SRGB, 2: SRGB, 9: BT2020, 12: DISPLAY_P3}.get(primaries)
    if space is None or curve not in (1, 2, 6, 13, 14, 15):
        return None, ("Its colours are told in a way that is not known here; they are taken as sRGB",)
    return (Meaning(space) if space != SRGB else None), ()


def _netpbm(path: Path, data: bytes, check_size: Check) -> Found:
    """See `netpbm`."""
    name, width, height, values, most, _ = netpbm.head(data)
    per_byte = 8 if name == "PBM" else 1  # in letters every value takes two bytes or more
    check_size(path, width, height, values, len(data), per_byte, 1 if most < 256 else 2, 3.0)
    return Found(netpbm.pixels(path, data), None, None, name, (), Facts())


def _flattened(path: Path, data: bytes, check_size: Check) -> Found:
    """See `flattened`."""
    said = flattened.head(path, data)
    # PackBits makes at most 128 bytes of two
    check_size(path, said.width, said.height, said.values, len(data), 64 * 8 / said.bits, said.bits // 8, 3.0)
    pixels = flattened.pixels(data, said)
    found = Found(pixels, said.profile, None, "layered document", ("Its layers are opened as one picture",), Facts())
    return replace(found, inks=said.model == "CMYK", ppi=said.ppi)


def _openexr(path: Path, data: bytes, check_size: Check) -> Found:
    """Floats in light; primaries as the file tells them, or those of BT.709 (OpenEXR, "chromaticities")."""
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr") as copy:  # the library opens files by name only
        copy.write(data)
        copy.flush()
        # Of a damaged file it says so on standard output, which belongs to whoever asked for the print.
        with contextlib.redirect_stdout(io.StringIO()), OpenEXR.File(copy.name, header_only=True) as file:
            (left, top), (right, bottom) = (np.asarray(corner, int) for corner in file.header()["dataWindow"])
            check_size(path, int(right - left + 1), int(bottom - top + 1), 3, len(data), _MOST_PER_BYTE, 4)
        with contextlib.redirect_stdout(io.StringIO()), OpenEXR.File(copy.name) as file:
            told, channels = file.header().get("chromaticities"), file.channels()
            known = (("RGB",), ("RGBA",), ("R", "G", "B"), ("Y",))
            names = next((names for names in known if set(names) <= set(channels)), None)
            if names is None:
                raise FileError(path, "this OpenEXR has no red, green and blue", "Save it as RGB, and open that")
            parts = [channels[name].pixels for name in names]
            pixels = np.empty((*parts[0].shape[:2], 3), np.float32) if len(parts) > 1 else parts[0].astype(np.float32)
            for k, part in enumerate(parts if len(parts) > 1 else ()):
                pixels[..., k] = part
            del channels, parts
    if pixels.ndim == 3 and pixels.shape[2] == 4:  # alpha lies on its colours already
        pixels = by_bands(pixels, lambda band: band[..., :3] + (1 - band[..., 3:]))
    own = SRGB
    if told is not None:
        places = np.asarray(told, np.float64).reshape(4, 2)
        own = space_of("its own", places[:3], (float(places[3, 0]), float(places[3, 1])))
        own = space_near(own.to_d50, own.white)
    return Found(held(pixels, _FAR), None, None, "OpenEXR", (), Facts(profile=own.name), Meaning(own, curve=to_encoded))


def _pfm(path: Path, data: bytes, check_size: Check) -> Found:
    """Floats in light, from the lowest row up (P. Debevec, "PFM Portable FloatMap Image Format")."""
    head = re.match(rb"(PF|Pf)\s+(\d{1,9})\s+(\d{1,9})\s+([-+.\deE]{1,20})\s", data)
    if head is None:
        raise ValueError(tr("the header cannot be read"))
    width, height, values = int(head[2]), int(head[3]), 3 if head[1] == b"PF" else 1
    check_size(path, width, height, values, len(data), 1, 4)
    order = "<" if float(head[4]) < 0 else ">"
    stored = np.frombuffer(data, f"{order}f4", width * height * values, head.end())
    pixels = held(stored.reshape(height, width, values)[::-1].astype(np.float32), _FAR)
    return Found(pixels, None, None, "PFM", (), Facts(), Meaning(SRGB, curve=to_encoded))


_FAR = 1e6  # no picture holds more light
_OF_OWN: dict[str, Callable[[Path, bytes, Check], Found]] = {
    "JXL": _jpeg_xl,
    "HEIF": _heif,
    "EXR": _openexr,
    "PFM": _pfm,
    "NETPBM": _netpbm,
    "FLAT": _flattened,
}
