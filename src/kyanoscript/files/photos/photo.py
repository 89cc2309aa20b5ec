"""Opening a photograph: what kind it is tells what is in the file and not its name.

Orientation is applied; transparent parts are laid on white paper. Colours stay on the photograph's own primaries (see
`profiles`), and values keep their type: 8-bit and 16-bit integers stay what they are, floats become float32. Sizes are
checked before anything is decoded. Any doubt about the pixels is said: a decoder that only warned has guessed.
"""

from __future__ import annotations

import io
import os
import re
import struct
import warnings
import zlib
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

from numpy.typing import NDArray

from kyanoscript.core import machine
from kyanoscript.core.develop import CameraSource
from kyanoscript.core.picture import ArraySource, Source
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import DOUBT, FileError, damaged, lacks_memory, plain
from kyanoscript.files.base.opening import Original, open_plain, whole
from kyanoscript.files.colour import profiles
from kyanoscript.files.photos import others
from kyanoscript.files.photos.facts import Facts, facts_of_image
from kyanoscript.files.photos.pillow import unguarded
from kyanoscript.files.photos.pixels import MOST_HELD, Lay, flatten, upright
from kyanoscript.translation import tr

# A picture with damaged camera notes opens all the same; the terminal need not hear of it.
warnings.filterwarnings("ignore", category=UserWarning, module="PIL")

_IN_PIECES = 4_000_000_000  # and of what is read as it is needed
_MOST_PER_BYTE = 2000  # no JPEG or PNG packs more values than this into a byte of its file
_PROGRESSIVE = 3.0  # times its pixels: what a JPEG that comes in passes takes
_ALWAYS = 64 << 20  # bytes: for so little nobody is asked
_TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")

# What a file that cannot be opened is, by its first bytes: published by the formats' own specifications, or for makers'
# raw formats common practice
_OTHERS = ((0, b"%PDF", "a PDF document"),)
# Makers' raw formats that are no TIFF, or not quite one (common practice, no source)
_RAWS = (
    (4, b"ftypcrx"),
    (8, b"CR\x02"),
    (0, b"FUJIFILMCCD-RAW"),
    (0, b"IIRO"),
    (0, b"IIRS"),
    (0, b"MMOR"),
    (0, b"IIU\0"),
    (0, b"FOVb"),
    (0, b"\0MRM"),
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
    whole: tuple[int, int] = (0, 0)  # width and height of all its pixels, where it was opened with half of them
    stand_in: bool = False  # a raw's preview, until the raw is there
    page: int = 1  # of a file with several

    @property
    def width(self) -> int:
        return self.source.width

    @property
    def height(self) -> int:
        return self.source.height

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of all its pixels, as prints are made from them."""
        return self.whole if any(self.whole) else (self.width, self.height)

    @property
    def named(self) -> Path:
        """How it is named so that it is opened again: a later page of a file as ``scan.tif[2]``."""
        return self.path if self.page == 1 else self.path.with_name(f"{self.path.name}[{self.page}]")

    @property
    def colours(self) -> str:
        """What its colours are, and what they are worked with as."""
        space, profile = self.source.space.name, self.facts.profile
        if self.raw:
            return tr("The camera's own colours, in {space}", space=space)
        if not profile:
            return "No profile; taken as sRGB" if space == "sRGB" else tr("No profile; in {space}", space=space)
        own = space in profile or space == "its own"
        return (
            tr("Profile {profile}", profile=profile)
            if own
            else tr("Profile {profile}, in {space}", profile=profile, space=space)
        )

    @property
    def raw(self) -> bool:
        """Whether it is developed from a camera's raw."""
        return isinstance(self.source, CameraSource)


def paged(path: Path | str) -> tuple[Path, int]:
    """The file and the page that a name such as ``scan.tif[2]`` means; a file of that very name goes first."""
    path = Path(path)
    found = _PAGE.fullmatch(path.name)
    if found is None or path.exists():
        return path, 1
    return path.with_name(found[1]), int(found[2])


_PAGE = re.compile(r"(.+)\[([1-9][0-9]{0,5})\]", re.DOTALL)


def open_photo(
    path: Path | str,
    hold: bool = True,
    lay: Lay = flatten,
    half: bool = False,
    page: int | None = None,
    room: int = 1 << 62,
) -> Photo:
    """Open a photograph. Raises FileError.

    Parameters
    ----------
    path : the file; a plain one, never a pipe or a device. ``scan.tif[2]`` means its second page.
    hold : keep all pixels in memory (for work on screen). Otherwise a TIFF that allows it is read in pieces as they are
        needed, so that a picture of any size can be rendered in little memory.
    lay : what becomes of transparent parts; by default they are laid on white.
    half : of a camera's raw, half of its pixels each way: quicker, and enough to work with on screen.
    page : of a file with several, from 1; None: as the name says.
    room : bytes; a TIFF whose pixels take more is read in pieces all the same.
    """
    path, named = paged(path)
    page = page or named
    with open_plain(path) as file:
        try:
            return _open(path, file, room if hold else 0, lay, half, page)
        except FileError:
            raise
        except OSError as error:
            if error.errno:
                raise plain(path, error, "reading") from error
            raise damaged(path, error) from error
        except Exception as error:  # decoders raise errors of their own kinds for damaged files
            if lacks_memory(error):
                raise FileError(path, "there is not enough memory to open it", "Close other programs") from None
            raise damaged(path, error) from error


def open_preview(path: Path | str) -> Photo | None:
    """The preview in a camera's raw, to stand in until that has been read; None for photographs of other kinds.

    Raises FileError for what is no file.
    """
    path = Path(path)
    with open_plain(path) as file:
        if not _is_raw(file):
            return None
        from kyanoscript.files.photos.raw import preview_of

        found = preview_of(file)
        if found is None:
            return None
        source = ArraySource(upright(found.pixels, found.orientation))
        return Photo(path, source, "preview of a camera raw", original=Original(path, file.fileno()), stand_in=True)


def _is_raw(file: BinaryIO) -> bool:
    """Whether a file begins as a raw does; it stands at its beginning again afterwards."""
    head = file.read(16)
    file.seek(0)
    if any(head[at:].startswith(first) for at, first in _RAWS):
        return True
    if head[:4] not in _TIFF:
        return False
    from kyanoscript.files.photos.tiff import holds_raw

    try:
        return holds_raw(file)
    except Exception:  # whatever the damage makes of it; reading the file will tell
        return False
    finally:
        file.seek(0)


def _open(path: Path, file: BinaryIO, room: int, lay: Lay, half: bool, page: int) -> Photo:
    original = Original(path, file.fileno())
    head = file.read(16)
    if not head:
        raise FileError(path, "the file is empty", "Look for another copy of it")
    file.seek(0)
    for at, first, what in _OTHERS:
        if head[at:].startswith(first):
            raise FileError(
                path, tr("this is {what}, which cannot be opened yet", what=what), "Save it as a TIFF and open that"
            )
    if page > 1 and head[:4] not in _TIFF:
        raise FileError(path, tr("it has no page {page}; only a TIFF has several", page=page), "Leave the number out")
    if head[:3] == b"\xff\xd8\xff":
        return _open_jpeg(path, whole(file), original, lay)
    if head[:8] == b"\x89PNG\r\n\x1a\n":
        return _open_png(path, whole(file), original, lay)
    if _is_raw(file):
        from kyanoscript.files.photos.raw import open_raw

        raw = open_raw(path, file, half)
        return Photo(path, raw.source, raw.kind, None, raw.notes, raw.orientation, raw.facts, original, raw.size)
    if head[:4] in _TIFF:
        from kyanoscript.files.photos.tiff import open_tiff  # loads for a while, and most photographs are no TIFF

        read = open_tiff(path, file, room, check_size, lay, page)
        return Photo(
            path, read.source, read.kind, read.ppi, read.notes, read.orientation, read.facts, original,
            page=page,
        )  # fmt: skip
    other = others.kind_of(head) or others.targa(path.name, head, _end(file))
    if other is not None:
        found = others.open_other(path, whole(file), other, check_size)
        turned, ppi = 1, found.ppi
        if found.image is not None:
            turned, ppi = _orientation(found.image), _ppi(found.image.info.get("dpi")) or _exif_ppi(found.image)
        return _photo(
            path,
            found.pixels,
            found.profile,
            turned,
            ppi,
            found.name,
            original,
            lay,
            found.facts,
            found.notes,
            found.inks,
            found.how,
        )
    raise FileError(
        path,
        "this is not a picture that can be opened (its first bytes are not those of a kind that is known)",
        "Open a camera raw, JPEG, PNG, TIFF, WebP, AVIF, JPEG XL, HEIF, JPEG 2000, OpenEXR, PFM, PGM, PPM, PAM, TGA, "
        "GIF, BMP or a layered document",
    )


def _end(file: BinaryIO) -> bytes:
    """The last bytes of a file, where some kinds have their sign."""
    size = os.fstat(file.fileno()).st_size
    return os.pread(file.fileno(), others.END, max(0, size - others.END))


def check_size(
    path: Path,
    width: int,
    height: int,
    values: int,
    size: int,
    most_per_byte: float,
    each: int = 0,
    times: float = 2.0,
) -> None:
    """Refuse a picture by its header alone: too large to handle, or larger than the file or memory can hold.

    Parameters
    ----------
    width, height, values : its pixels, and how many values each has.
    size : bytes of the file.
    most_per_byte : values that a byte of it may stand for.
    each : bytes of a value as it is held; 0: it is not held as a whole.
    times : how many times the memory of its pixels opening it takes.
    """
    if width < 1 or height < 1:
        raise FileError(
            path,
            tr("the file says it is {width} × {height} pixels", width=width, height=height),
            "It is damaged; look for another copy",
        )
    most = MOST_HELD if each else _IN_PIECES
    if width * height > most:
        raise FileError(
            path,
            tr(
                "the file says it is {width} × {height} pixels, more than the {most} megapixels that can be opened",
                width=width,
                height=height,
                most=most // 10**6,
            ),
            "If that is not its true size it is damaged; otherwise reduce it first",
        )
    if width * height * values > (size + 1024) * most_per_byte:
        raise FileError(
            path,
            tr(
                "the file says it is {width} × {height} pixels but is only {size} bytes long",
                width=width,
                height=height,
                size=size,
            ),
            "It is damaged or cut short; look for another copy",
        )
    needed, free = width * height * values * each * times, machine.free()
    if needed > max(free, 1) and needed > _ALWAYS:
        raise FileError(
            path,
            tr(
                "it is {width} × {height} pixels, and opening it takes about {needed} of memory; {free} are free",
                width=width,
                height=height,
                needed=_gigabytes(needed),
                free=_gigabytes(free),
            ),
            "Close other programs, or make a smaller copy of it where there is more",
        )


def _gigabytes(count: float) -> str:
    return tr("{max:.1f} GB", max=max(0.1, count / (1 << 30)))


def _open_jpeg(path: Path, data: bytes, original: Original, lay: Lay) -> Photo:
    from PIL import Image

    with unguarded(), Image.open(io.BytesIO(data), formats=["JPEG"]) as image:
        check_size(path, *image.size, len(image.getbands()), len(data), _MOST_PER_BYTE, 1, _PROGRESSIVE)
        if image.mode not in ("L", "RGB", "CMYK"):
            raise FileError(path, tr("this is a {mode} JPEG", mode=image.mode), "Save it as RGB or gray, and open that")
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        pixels, notes = _jpeg_pixels(data, image)
        orientation, facts = _orientation(image), facts_of_image(image, profile)
    del image  # and what it has decoded
    inks = pixels.ndim == 3 and pixels.shape[2] == 4
    return _photo(path, pixels, profile, orientation, ppi, "JPEG", original, lay, facts, notes, inks)


def _jpeg_pixels(data: bytes, image: Any) -> tuple[NDArray[Any], tuple[str, ...]]:
    """The pixels, and what is to be said of them: a decoder goes on where data is damaged, and only warns."""
    import simplejpeg

    if image.mode == "CMYK":
        return others.by_pillow(image), ()
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
    return others.by_pillow(image), doubt


def _open_png(path: Path, data: bytes, original: Original, lay: Lay) -> Photo:
    import imagecodecs
    from PIL import Image

    width, height, bits, colour_type = struct.unpack(">IIBB", data[16:26])
    if data[12:16] != b"IHDR":
        raise ValueError(tr("the header is missing"))
    values = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}.get(colour_type, 1)
    check_size(path, width, height, values, len(data), _MOST_PER_BYTE * 8 / max(1, bits), max(1, bits // 8), 2.5)
    notes = _check_chunks(data)
    with unguarded(), Image.open(io.BytesIO(data), formats=["PNG"]) as image:
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        # The pixels first: the camera's notes are looked for behind them, and an error there must not hide one here.
        plain = image.mode in ("L", "RGB", "LA", "RGBA") and "transparency" not in image.info
        pixels = imagecodecs.png_decode(data) if bits == 16 or plain else others.by_pillow(image)
        if notes is not None:
            image.info["exif"] = notes  # else everything would be decoded once more, to look behind it
        orientation, facts = _orientation(image), facts_of_image(image, profile)
    del image
    return _photo(path, pixels, profile, orientation, ppi, "PNG", original, lay, facts)


def _check_chunks(data: bytes) -> bytes | None:
    """Raise ValueError if a chunk that pixels come from is not whole (W3C PNG, 5.3 and 5.4): decoders are forgiving.

    Gives the camera's notes; None where there may be others, in words that lie behind the pixels.
    """
    at, notes, words, begun = 8, b"", False, False
    while at + 12 <= len(data):
        length, name = int.from_bytes(data[at : at + 4], "big"), data[at + 4 : at + 8]
        if name[0] & 0x20 and name != b"tRNS":  # says something beside the pixels
            notes = data[at + 8 : at + 8 + length] if name == b"eXIf" else notes
            words |= begun and name in (b"tEXt", b"zTXt", b"iTXt")
            at += 12 + length
            continue
        end = at + 8 + length
        if end + 4 > len(data) or zlib.crc32(data[at + 4 : end]) != int.from_bytes(data[end : end + 4], "big"):
            raise ValueError(tr("the chunk {name!r} at byte {at} is not whole", name=name, at=at))
        begun |= name == b"IDAT"
        if name == b"IEND":
            return None if words else notes
        at = end + 4
    raise ValueError(tr("the end is missing"))


def _orientation(image: Any) -> int:
    """EXIF orientation; 1 where the camera's notes are missing or damaged: the pixels may be sound all the same."""
    try:
        return int(image.getexif().get(0x0112, 1))
    except Exception:  # whatever the damage makes of them
        return 1


def _exif_ppi(image: Any) -> float | None:
    """What the camera's notes say, where the format itself says nothing."""
    try:
        notes = image.getexif()
        value = float(notes[0x011A]) * (2.54 if notes.get(0x0128) == 3 else 1)
    except Exception:  # missing, or whatever the damage makes of them
        return None
    return _ppi((value, value))


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
    inks: bool = False,
    how: profiles.Meaning | None = None,
) -> Photo:
    """Lay on white, bring into a working space, turn upright."""
    pixels = pixels if pixels.ndim == 3 else pixels[..., None]
    laid: tuple[str, ...] = ()
    if not inks:
        pixels, laid = lay(pixels, False)
    model = "CMYK" if inks else "gray" if pixels.shape[2] == 1 else "RGB"
    kind = tr(
        "{itemsize}-bit {kind}{model} {name}",
        itemsize=pixels.dtype.itemsize * 8,
        kind="float " if pixels.dtype.kind == "f" else "",
        model=model,
        name=name,
    )
    found = how or profiles.reading(profile, pixels.shape[2], pixels.dtype)
    source = ArraySource(upright(found.converted(pixels), orientation), found.space, found.levels)
    said = (*notes, *laid, *([found.note] if found.note else []))
    return Photo(path, source, kind, ppi, said, orientation, facts, original)
