"""Camera raw, read by LibRaw (rawpy): its channels, demosaiced and linear, with what is known of the camera.

What becomes of them - white, exposure, highlights - is the script's (`kyanoscript.core.develop`). On screen half of the
pixels each way are worked with, of which four make one, so that nothing has to be guessed between them; prints are made
from all of them.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import SRGB
from kyanoscript.core.develop import Camera, CameraSource
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import FileError, damaged
from kyanoscript.files.photos.facts import Facts, facts_of
from kyanoscript.files.photos.notes import read_notes
from kyanoscript.files.photos.pixels import upright
from kyanoscript.translation import tr

_TURNED = {0: 1, 3: 3, 5: 8, 6: 6}  # LibRaw's flip as EXIF's orientation
_MOST = 600_000_000  # pixels of a mosaic
_SMALL = 6_000_000  # pixels that are worked with whole
_PREVIEW = 1600  # pixels that its preview needs on the longer side


@dataclass(frozen=True)
class Raw:
    """A raw as read."""

    source: CameraSource
    kind: str
    notes: tuple[str, ...]
    facts: Facts
    orientation: int
    size: tuple[int, int]  # of all its pixels, upright


def open_raw(path: Path, file: BinaryIO, half: bool) -> Raw:
    """Read it; ``half``: with half of its pixels each way, if it has many. Raises FileError."""
    import rawpy

    try:
        with rawpy.imread(file) as raw:
            sizes = raw.sizes
            width, height = int(sizes.iwidth), int(sizes.iheight)
            if not (width > 0 and height > 0 and width * height <= _MOST):
                raise FileError(
                    path,
                    tr("the file says it is {width} × {height} pixels", width=width, height=height),
                    "Look for another copy of it",
                )
            half = half and width * height > _SMALL
            camera, notes = _camera(path, raw)
            pixels = raw.postprocess(
                use_camera_wb=True,
                output_color=rawpy.ColorSpace.raw,
                gamma=(1, 1),
                no_auto_bright=True,
                adjust_maximum_thr=0.0,
                output_bps=16,
                highlight_mode=rawpy.HighlightMode.Ignore,
                half_size=half,
                user_flip=0,
            )
            orientation = _TURNED.get(int(sizes.flip), 1)
            bits = max(1, int(raw.white_level).bit_length())
    except (rawpy.LibRawFileUnsupportedError, rawpy.LibRawNotImplementedError) as error:
        log.note("a raw was refused", error)
        raise FileError(
            path, "this is a camera raw of a kind that is not known", "Convert it to a DNG, and open that"
        ) from error
    except rawpy.LibRawError as error:
        raise damaged(path, error) from error
    if pixels.ndim != 3 or pixels.shape[2] != 3:
        raise FileError(path, "this is a raw with other than three colours", "Develop it to a TIFF, and open that")
    turned = orientation in (5, 6, 7, 8)
    size = (height, width) if turned else (width, height)
    source = CameraSource(upright(pixels, orientation), camera)
    file.seek(0)
    return Raw(source, tr("{bits}-bit camera raw", bits=bits), notes, _facts(file), orientation, size)


def _camera(path: Path, raw: Any) -> tuple[Camera, tuple[str, ...]]:
    """What is known of its channels; a camera that nothing is known of is taken to see as sRGB does."""
    notes: tuple[str, ...] = ()
    to_srgb = np.array(raw.color_matrix, np.float64)[:, :3]
    daylight = np.array(raw.daylight_whitebalance[:3], np.float64)
    if to_srgb.shape != (3, 3) or abs(np.linalg.det(to_srgb)) < 1e-6 or np.allclose(to_srgb, np.eye(3)):
        notes = ("Nothing is known of this camera's colours; they are taken as sRGB",)
        to_srgb, daylight = np.eye(3), np.ones(3)
    if not (daylight > 0).all():
        daylight = np.ones(3)
    from_xyz = np.diag(1 / daylight) @ np.linalg.inv(to_srgb) @ np.linalg.inv(SRGB.to_xyz)
    shot = np.array(raw.camera_whitebalance[:3], np.float64)
    if not (shot > 0).all():
        shot, notes = daylight, (*notes, "The camera tells no white; daylight is taken")
    r, g, b = (float(v) for v in shot / shot[1])
    return Camera(tuple(float(v) for v in from_xyz.ravel()), (r, g, b)), notes


def _facts(file: BinaryIO) -> Facts:
    notes = read_notes(file)
    return facts_of(notes.about, notes.camera, None, 1)


@dataclass(frozen=True)
class Preview:
    """The small developed picture that a camera puts into its raw."""

    pixels: NDArray[np.uint8]  # (h, w, 3)
    orientation: int


def preview_of(file: BinaryIO) -> Preview | None:
    """The embedded preview, if there is one worth showing; None otherwise, and for what is no raw."""
    import rawpy
    import simplejpeg

    try:
        with rawpy.imread(file) as raw:
            found = raw.extract_thumb()
            orientation = _TURNED.get(int(raw.sizes.flip), 1)
        if found.format == rawpy.ThumbFormat.JPEG:
            height, width, *_ = simplejpeg.decode_jpeg_header(found.data)
            share = min(1.0, _PREVIEW / max(height, width))
            pixels = simplejpeg.decode_jpeg(
                found.data, "RGB", min_height=round(height * share), min_width=round(width * share)
            )
            orientation = _orientation(bytes(found.data)) or orientation
        else:
            pixels = np.asarray(found.data)
    except Exception as error:  # it is only a preview
        log.note("a raw has no preview", error)
        return None
    return Preview(np.ascontiguousarray(pixels[..., :3]), orientation) if pixels.ndim == 3 else None


def _orientation(jpeg: bytes) -> int | None:
    """What the preview's own notes say, if it has any."""
    from PIL import Image

    with Image.open(io.BytesIO(jpeg), formats=["JPEG"]) as image:
        return image.getexif().get(0x0112)
