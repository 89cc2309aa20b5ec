"""Opening WebP, AVIF, JPEG 2000, GIF and BMP. Bits beyond eight are kept, spread over sixteen.

Sizes, profile and orientation are Pillow's readings of the header; AVIF and JPEG 2000 are decoded by libavif and
OpenJPEG, as Pillow brings them down to eight bits. Of pictures that move the first is opened.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.files.errors import FileError
from kyanoscript.files.facts import Facts, facts_of_image

# What files of these kinds begin with: RFC 9649, AV1 Image File Format 1.1, ITU-T T.800, GIF89a; of BMP common practice
KINDS = (
    (8, b"WEBP", "WEBP", "WebP"),
    (4, b"ftypavif", "AVIF", "AVIF"),
    (0, b"\0\0\0\x0cjP  ", "JPEG2000", "JPEG 2000"),
    (0, b"\xff\x4f\xff\x51", "JPEG2000", "JPEG 2000"),
    (0, b"GIF8", "GIF", "GIF"),
    (0, b"BM", "BMP", "BMP"),
)
_MOST_PER_BYTE = 500_000  # an empty WebP or AVIF of any size takes a few dozen bytes
Check = Callable[[Path, int, int, int, int, float], None]


@dataclass(frozen=True)
class Found:
    """A picture as it lies in its file."""

    pixels: NDArray[Any]  # (h, w) or (h, w, values), uint8 or uint16
    profile: bytes | None
    image: Any  # Pillow's, for orientation and resolution
    name: str
    notes: tuple[str, ...]
    facts: Facts


def kind_of(head: bytes) -> tuple[str, str] | None:
    """Pillow's name and people's name of the kind that a file begins as; None if it is none of these."""
    return next(((codec, name) for at, first, codec, name in KINDS if head[at:].startswith(first)), None)


def open_other(path: Path, data: bytes, kind: tuple[str, str], check_size: Check) -> Found:
    """Read it. Raises FileError and the decoders' own errors."""
    import imagecodecs
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None  # sizes are checked here, with a message that says what to do
    codec, name = kind
    with Image.open(io.BytesIO(data), formats=[codec]) as image:
        check_size(path, *image.size, len(image.getbands()), len(data), _MOST_PER_BYTE)
        count = getattr(image, "n_frames", 1)
        notes = (f"It moves: this is the first of {count} pictures",) if count > 1 else ()
        profile = profile_said = image.info.get("icc_profile")
        if codec == "AVIF":
            pixels = _spread(np.asarray(imagecodecs.avif_decode(data, index=0)), _avif_bits(data))
        elif codec == "JPEG2000":
            pixels, profile = _jpeg2000(path, data)
            profile_said = _jpeg2000_profile(data)
        else:
            pixels = by_pillow(image)
        if pixels.shape[:2] != image.size[::-1]:
            raise ValueError(f"the header says {image.size}, the pixels are {pixels.shape}")
        facts = facts_of_image(image, profile_said)
    return Found(pixels, profile, image, name, notes, facts)


def by_pillow(image: Any) -> NDArray[Any]:
    """Pixels of eight bits: gray or RGB, with alpha where there is any."""
    image.load()
    transparent = "transparency" in image.info or image.mode in ("LA", "PA", "RGBA")
    colourless = image.mode in ("1", "L", "LA")
    mode = ("LA" if transparent else "L") if colourless else ("RGBA" if transparent else "RGB")
    return np.asarray(image.convert(mode))


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
    return _spread(np.asarray(imagecodecs.jpeg2k_decode(bare)), max(said) + 1), None if bare is data else profile


def _jpeg2000_profile(data: bytes) -> bytes | None:
    """The profile in the colour specification box (ITU-T T.800, I.5.3.3: method 2)."""
    at = data.find(b"colr\x02")
    if at < 4:
        return None
    return data[at + 7 : at - 4 + int.from_bytes(data[at - 4 : at], "big")] or None


def _spread(pixels: NDArray[Any], bits: int) -> NDArray[Any]:
    """Values of so many bits over the whole of eight or sixteen."""
    if bits in (8, 16):
        return pixels
    whole = 255 if bits < 8 else 65535
    spread = np.rint(pixels.astype(np.float64) * (whole / ((1 << bits) - 1)))
    return spread.astype(np.uint8 if bits < 8 else np.uint16)
