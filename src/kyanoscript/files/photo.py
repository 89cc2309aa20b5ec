"""Opening a photograph: JPEG, PNG or TIFF, told apart by what is in the file and not by its name.

Orientation and embedded colour profile are applied; transparent parts are laid on white paper. The values keep their
type: 8-bit and 16-bit integers stay what they are, floats become float32. Sizes are checked before anything is decoded.
"""

from __future__ import annotations

import hashlib
import io
import os
import struct
import warnings
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.picture import ArraySource, Source
from kyanoscript.files.errors import FileError, plain
from kyanoscript.files.pixels import Lay, flatten, to_srgb, upright

# A picture with damaged camera notes opens all the same; the terminal need not hear of it.
warnings.filterwarnings("ignore", "Corrupt EXIF data", UserWarning)

MAX_PIXELS = 1_000_000_000
_MOST_PER_BYTE = 2000  # no JPEG or PNG packs more values than this into a byte of its file


@dataclass(frozen=True)
class Photo:
    """An opened photograph."""

    path: Path
    source: Source
    kind: str  # for people: "16-bit RGB TIFF"
    ppi: float | None = None
    notes: tuple[str, ...] = ()  # what was done to it while opening, worth saying once
    orientation: int = 1  # as the camera wrote it; applied to the pixels already

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
    path : the file.
    hold : keep all pixels in memory (for work on screen). Otherwise a TIFF that allows it is read in pieces as they are
        needed, so that a picture of any size can be rendered in little memory.
    lay : what becomes of transparent parts; by default they are laid on white.
    """
    path = Path(path)
    try:
        with path.open("rb") as file:
            head = file.read(16)
            size = os.fstat(file.fileno()).st_size
    except OSError as error:
        raise plain(path, error, "reading") from error
    if not head:
        raise FileError(path, "the file is empty", "Look for another copy of it")
    try:
        if head[:3] == b"\xff\xd8\xff":
            return _open_jpeg(path, size, lay)
        if head[:8] == b"\x89PNG\r\n\x1a\n":
            return _open_png(path, size, lay)
        if head[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
            from kyanoscript.files.tiff import open_tiff  # loads for a while, and most photographs are no TIFF

            source, kind, ppi, notes, turned = open_tiff(path, hold, _check_size, lay)
            return Photo(path, source, kind, ppi, notes, turned)
    except FileError:
        raise
    except MemoryError:
        raise FileError(path, "there is not enough memory to open it", "Close other programs") from None
    except OSError as error:
        if error.errno:
            raise plain(path, error, "reading") from error
        raise _damaged(path, error) from error
    except Exception as error:  # decoders raise errors of their own kinds for damaged files
        raise _damaged(path, error) from error
    raise FileError(
        path,
        "this is not a picture that can be opened (its first bytes are not those of a JPEG, PNG or TIFF file)",
        "Open a JPEG, PNG or TIFF",
    )


def sha256(path: Path) -> str:
    """SHA-256 of a file's bytes, in hex. Raises FileError."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()
    except OSError as error:
        raise plain(path, error, "reading") from error


def _damaged(path: Path, error: Exception) -> FileError:
    reason = str(error).strip().splitlines()[0][:120] if str(error).strip() else type(error).__name__
    return FileError(path, f"the file is damaged or cut short ({reason})", "Look for another copy of it")


def _check_size(path: Path, width: int, height: int, values: int, size: int, most_per_byte: float) -> None:
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


def _open_jpeg(path: Path, size: int, lay: Lay) -> Photo:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # sizes are checked here, with a message that says what to do
    with Image.open(path, formats=["JPEG"]) as image:
        _check_size(path, *image.size, len(image.getbands()), size, _MOST_PER_BYTE)
        if image.mode not in ("L", "RGB"):
            raise FileError(
                path,
                f"this is a {image.mode} JPEG, with colours already separated for a press",
                "Save it as RGB or gray in the program it came from, and open that",
            )
        orientation = _orientation(image)
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        pixels = np.asarray(image)
    return _photo(path, pixels, profile, orientation, ppi, "JPEG", lay)


def _open_png(path: Path, size: int, lay: Lay) -> Photo:
    import imagecodecs
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    data = path.read_bytes()
    width, height, bits, colour_type = struct.unpack(">IIBB", data[16:26])
    if data[12:16] != b"IHDR":
        raise ValueError("the header is missing")
    values = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}.get(colour_type, 1)
    _check_size(path, width, height, values, size, _MOST_PER_BYTE)
    with Image.open(io.BytesIO(data), formats=["PNG"]) as image:
        profile = image.info.get("icc_profile")
        ppi = _ppi(image.info.get("dpi"))
        orientation = _orientation(image)
        if bits == 16:
            pixels = imagecodecs.png_decode(data)
        else:
            transparent = "transparency" in image.info or image.mode in ("LA", "PA", "RGBA")
            colourless = image.mode in ("1", "L", "LA")
            mode = ("LA" if transparent else "L") if colourless else ("RGBA" if transparent else "RGB")
            pixels = np.asarray(image.convert(mode))
    return _photo(path, pixels, profile, orientation, ppi, "PNG", lay)


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
    path: Path, pixels: NDArray[Any], profile: bytes | None, orientation: int, ppi: float | None, name: str, lay: Lay
) -> Photo:
    """Lay on white, convert to sRGB, turn upright."""
    pixels, notes = lay(pixels if pixels.ndim == 3 else pixels[..., None], False)
    pixels, more = to_srgb(pixels, profile)
    pixels = upright(pixels, orientation)
    kind = f"{pixels.dtype.itemsize * 8}-bit {'gray' if pixels.shape[2] == 1 else 'RGB'} {name}"
    return Photo(path, ArraySource(pixels), kind, ppi, notes + more, orientation)
