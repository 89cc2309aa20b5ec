"""Opening a photograph: what kind it is tells what is in the file and not its name.

Orientation and embedded colour profile are applied; transparent parts are laid on white paper. The values keep their
type: 8-bit and 16-bit integers stay what they are, floats become float32. Sizes are checked before anything is decoded.
Any doubt about the pixels is said: a decoder that only warned has guessed.
"""

from __future__ import annotations

import io
import struct
import warnings
import zlib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.picture import ArraySource, Source
from kyanoscript.files import log, others
from kyanoscript.files.errors import DOUBT, FileError, damaged, plain
from kyanoscript.files.facts import Facts, facts_of_image
from kyanoscript.files.opening import Original, open_plain
from kyanoscript.files.pixels import Lay, flatten, to_srgb, upright

# A picture with damaged camera notes opens all the same; the terminal need not hear of it.
warnings.filterwarnings("ignore", category=UserWarning, module="PIL")

MAX_PIXELS = 1_000_000_000
_MOST_PER_BYTE = 2000  # no JPEG or PNG packs more values than this into a byte of its file
_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")

# What a file that cannot be opened is, by its first bytes: published by the formats' own specifications, or for makers'
# raw formats common practice
_OTHERS = (
    (0, b"\xff\x0a", "a JPEG XL picture"),
    (0, b"\0\0\0\x0cJXL ", "a JPEG XL picture"),
    (0, b"v/1\x01", "an OpenEXR picture"),
    (0, b"8BPS", "a layered document"),
    (0, b"%PDF", "a PDF document"),
    (4, b"ftypcrx", "a camera raw (CR3)"),
    (4, b"ftypheic", "a HEIF picture"),
    (4, b"ftypmif1", "a HEIF picture"),
    (8, b"CR\x02", "a camera raw (CR2)"),
    (0, b"FUJIFILMCCD-RAW", "a camera raw (RAF)"),
    (0, b"IIRO", "a camera raw (ORF)"),
    (0, b"IIRS", "a camera raw (ORF)"),
    (0, b"IIU\0", "a camera raw (RW2)"),
)


@dataclass(frozen=True)
class Photo:
    """An opened photograph."""

    path: Path
    source: Source
    kind: str  # for people: "16-bit RGB TIFF"
    ppi: float | None = None
    notes: tuple[str, ...] = ()  # what was done to it while opening, worth saying once
    orientation: int = 1  # as the camera wrote it; applied to the pixels already
    facts: Facts = field(default=Facts(), compare=False)  # what the file says of itself
    original: Original | None = field(default=None, repr=False, compare=False)  # the file it was read from

    @property
    def width(self) -> int:
        return self.source.width

    @property
    def height(self) -> int:
        return self.source.height


def open_photo(path: Path | str, hold: bool = True, lay: Lay = flatten) -> Photo:
    """Open a photograph. Raises FileError.

    Parameters
    ----------
    path : the file; a plain one, never a pipe or a device.
    hold : keep all pixels in memory (for work on screen). Otherwise a TIFF that allows it is read in pieces as they are
        needed, so that a picture of any size can be rendered in little memory.
    lay : what becomes of transparent parts; by default they are laid on white.
    """
    path = Path(path)
    with open_plain(path) as file:
        try:
            return _open(path, file, hold, lay)
        except FileError:
            raise
        except MemoryError:
            raise FileError(path, "there is not enough memory to open it", "Close other programs") from None
        except OSError as error:
            if error.errno:
                raise plain(path, error, "reading") from error
            raise damaged(path, error) from error
        except Exception as error:  # decoders raise errors of their own kinds for damaged files
            raise damaged(path, error) from error


def _open(path: Path, file: BinaryIO, hold: bool, lay: Lay) -> Photo:
    original = Original(path, file.fileno())
    head = file.read(16)
    if not head:
        raise FileError(path, "the file is empty", "Look for another copy of it")
    file.seek(0)
    for at, first, what in _OTHERS:
        if head[at:].startswith(first):
            raise FileError(path, f"this is {what}, which cannot be opened yet", "Save it as a TIFF and open that")
    if head[:3] == b"\xff\xd8\xff":
        return _open_jpeg(path, file.read(), original, lay)
    if head[:8] == b"\x89PNG\r\n\x1a\n":
        return _open_png(path, file.read(), original, lay)
    if head[:4] in _TIFF:
        from kyanoscript.files.tiff import open_tiff  # loads for a while, and most photographs are no TIFF

        source, kind, ppi, notes, turned, facts = open_tiff(path, file, hold, check_size, lay)
        return Photo(path, source, kind, ppi, notes, turned, facts, original)
    other = others.kind_of(head)
    if other is not None:
        found = others.open_other(path, file.read(), other, check_size)
        turned, ppi = _orientation(found.image), _ppi(found.image.info.get("dpi"))
        return _photo(
            path, found.pixels, found.profile, turned, ppi, found.name, original, lay, found.facts, found.notes
        )
    raise FileError(
        path,
        "this is not a picture that can be opened (its first bytes are not those of a kind that is known)",
        "Open a JPEG, PNG, TIFF, WebP, AVIF, JPEG 2000, GIF or BMP",
    )


def check_size(path: Path, width: int, height: int, values: int, size: int, most_per_byte: float) -> None:
    """Refuse a picture by its header alone: too large to handle, or larger than the file can hold."""
    if width < 1 or height < 1:
        raise FileError(path, f"the file says it is {width} × {height} pixels", "It is damaged; look for another copy")
    if width * height > MAX_PIXELS:
        raise FileError(
            path,
            f"the file says it is {width} × {height} pixels, more than the {MAX_PIXELS // 10**6} megapixels "
            "that can be opened",
            "If that is not its true size it is damaged; otherwise reduce it first",
        )
    if width * height * values > (size + 1024) * most_per_byte:
        raise FileError(
            path,
            f"the file says it is {width} × {height} pixels but is only {size} bytes long",
            "It is damaged or cut short; look for another copy",
        )


def _open_jpeg(path: Path, data: bytes, original: Original, lay: Lay) -> Photo:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # sizes are checked here, with a message that says what to do
    with Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        check_size(path, *image.size, len(image.getbands()), len(data), _MOST_PER_BYTE)
        if image.mode not in ("L", "RGB"):
            raise FileError(
                path,
                f"this is a {image.mode} JPEG, with colours already separated for a press",
                "Save it as RGB or gray in the program it came from, and open that",
            )
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        pixels, notes = _jpeg_pixels(data, image)
        orientation, facts = _orientation(image), facts_of_image(image, profile)
    return _photo(path, pixels, profile, orientation, ppi, "JPEG", original, lay, facts, notes)


def _jpeg_pixels(data: bytes, image: Any) -> tuple[NDArray[Any], tuple[str, ...]]:
    """The pixels, and what is to be said of them: a decoder goes on where data is damaged, and only warns."""
    import simplejpeg

    space = "GRAY" if image.mode == "L" else "RGB"
    try:
        pixels = simplejpeg.decode_jpeg(data, space, strict=True)
        return (pixels[..., 0] if image.mode == "L" else pixels), ()
    except ValueError as error:
        log.note("a JPEG was not decoded without a warning", error)
    doubt: tuple[str, ...] = (DOUBT,)
    try:
        simplejpeg.decode_jpeg(data, space, strict=False)
    except ValueError:  # a kind of JPEG that this decoder does not know; the other one raises if it is damaged
        doubt = ()
    image.load()
    return np.asarray(image), doubt


def _open_png(path: Path, data: bytes, original: Original, lay: Lay) -> Photo:
    import imagecodecs
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    width, height, bits, colour_type = struct.unpack(">IIBB", data[16:26])
    if data[12:16] != b"IHDR":
        raise ValueError("the header is missing")
    values = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}.get(colour_type, 1)
    check_size(path, width, height, values, len(data), _MOST_PER_BYTE)
    _check_chunks(data)
    with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        # The pixels first: the camera's notes are looked for behind them, and an error there must not hide one here.
        pixels = imagecodecs.png_decode(data) if bits == 16 else others.by_pillow(image)
        orientation, facts = _orientation(image), facts_of_image(image, profile)
    return _photo(path, pixels, profile, orientation, ppi, "PNG", original, lay, facts)


def _check_chunks(data: bytes) -> None:
    """Raise ValueError if a chunk that pixels come from is not whole (W3C PNG, 5.3 and 5.4): decoders are forgiving."""
    at = 8
    while at + 12 <= len(data):
        length, name = int.from_bytes(data[at : at + 4], "big"), data[at + 4 : at + 8]
        if name[0] & 0x20 and name != b"tRNS":  # says something beside the pixels
            at += 12 + length
            continue
        end = at + 8 + length
        if end + 4 > len(data) or zlib.crc32(data[at + 4 : end]) != int.from_bytes(data[end : end + 4], "big"):
            raise ValueError(f"the chunk {name!r} at byte {at} is not whole")
        if name == b"IEND":
            return
        at = end + 4
    raise ValueError("the end is missing")


def _orientation(image: Any) -> int:
    """EXIF orientation; 1 where the camera's notes are missing or damaged: the pixels may be sound all the same."""
    try:
        return int(image.getexif().get(0x0112, 1))
    except Exception:  # whatever the damage makes of them
        return 1


def _ppi(dpi: Any) -> float | None:
    try:
        value = float(dpi[0])
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    return value if 1 < value < 100_000 else None


def _photo(
    path: Path,
    pixels: NDArray[Any],
    profile: bytes | None,
    orientation: int,
    ppi: float | None,
    name: str,
    original: Original,
    lay: Lay,
    facts: Facts,
    notes: tuple[str, ...] = (),
) -> Photo:
    """Lay on white, convert to sRGB, turn upright."""
    pixels, laid = lay(pixels if pixels.ndim == 3 else pixels[..., None], False)
    pixels, more = to_srgb(pixels, profile)
    pixels = upright(pixels, orientation)
    kind = f"{pixels.dtype.itemsize * 8}-bit {'gray' if pixels.shape[2] == 1 else 'RGB'} {name}"
    return Photo(path, ArraySource(pixels), kind, ppi, (*notes, *laid, *more), orientation, facts, original)
