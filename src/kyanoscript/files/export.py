"""Prints out: TIFF 16-bit or 8-bit, PNG 16-bit or 8-bit, JPEG; at full resolution or reduced.

The print is rendered in blocks and written in bands as they come, so that its size is not bounded by memory (a JPEG is
put together whole, in 8 bits). Sources: TIFF 6.0, PNG third edition (W3C 2025), JPEG by Pillow.
"""

from __future__ import annotations

import io
import struct
import zlib
from collections import deque
from collections.abc import Callable, Collection, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import Any, BinaryIO, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.picture import Planes, Rect, to_integers
from kyanoscript.files import profiles
from kyanoscript.files.errors import Cancelled, FileError
from kyanoscript.files.replace import replacing

Bands = Iterator[NDArray[Any]]
Blocks = Iterator[tuple[Rect, NDArray[Any]]]
Shape = tuple[int, int, int]
SUFFIXES = {".tif": "tiff", ".tiff": "tiff", ".png": "png", ".jpg": "jpeg", ".jpeg": "jpeg"}
_JPEG_SIDE = 65_500  # pixels; the format's own limit is 65 535, the library's 65 500
_BAND = 80_000  # pixels of a strip where every pass looks at single pixels: about what a core's own cache holds
_TILE = 256  # pixels: side of a tile in the file, and rows of a band where passes look around
_BLOCK = 400_000  # pixels rendered in one go where passes look around: their margins count less the larger it is


@dataclass(frozen=True)
class Settings:
    """How a print is written."""

    bits: Literal[8, 16] = 16  # a JPEG always has 8
    profile: Literal["auto", "srgb", "gray"] = "auto"  # auto: gray for a print without colour, sRGB for one with
    ppi: float = 300.0
    quality: int = 95  # JPEG, 1…100
    longer_side: int | None = None  # pixels; None for full resolution. Never enlarges
    tiled: bool = False  # a TIFF in tiles instead of strips: quicker to look at in parts

    def check(self) -> None:
        """Raise ValueError, naming the value and its range."""
        if self.bits not in (8, 16):
            raise ValueError(f"bits is {self.bits}; it must be 8 or 16")
        if not 1 <= self.ppi <= 10_000:
            raise ValueError(f"ppi is {self.ppi:g}; it must be 1…10000")
        if not 1 <= self.quality <= 100:
            raise ValueError(f"quality is {self.quality}; it must be 1…100")
        if self.longer_side is not None and self.longer_side < 1:
            raise ValueError(f"longer side is {self.longer_side}; it must be at least 1 px")


class Printable(Protocol):
    """What the writers need of a renderer."""

    @property
    def planes(self) -> int: ...
    @property
    def looks_around(self) -> bool: ...
    def size(self, scale: float) -> tuple[int, int]: ...
    def region(self, rect: Rect, scale: float = 1.0) -> Planes: ...


def kind_of(path: Path) -> str:
    """``tiff``, ``png`` or ``jpeg`` by the name's ending. Raises FileError for any other."""
    kind = SUFFIXES.get(path.suffix.lower())
    if kind is None:
        raise FileError(path, f"prints are not written as {path.suffix or 'files without an ending'}",
                        "End the name in .tif, .png or .jpg")  # fmt: skip
    return kind


def export(
    renderer: Printable,
    path: Path,
    settings: Settings,
    never: Collection[Path] = (),
    progress: Callable[[float], None] = lambda _: None,
    cancelled: Callable[[], bool] = lambda: False,
    threads: int = 2,
) -> tuple[int, int]:
    """Render the whole print into a file; returns its width and height in pixels.

    Parameters
    ----------
    renderer : without a cache, so that nothing but the present band is held.
    path : target; its ending chooses the format. Written beside it first, then renamed.
    never : files that must not be written to: the photograph, and pictures that the print is made from.
    progress : called with 0…1 from the calling thread.
    cancelled : asked between bands; when true nothing is written.

    Raises FileError, Cancelled, ValueError (settings).
    """
    settings.check()
    kind = kind_of(path)
    scale = scale_of(renderer, settings)
    width, height = renderer.size(scale)
    if kind == "jpeg" and max(width, height) > _JPEG_SIDE:
        raise FileError(path, f"a JPEG cannot be {width} × {height} pixels", "Write a TIFF or PNG")
    coloured = renderer.planes == 3
    gray = settings.profile == "gray" or (settings.profile == "auto" and not coloured)
    dtype = np.uint8 if kind == "jpeg" or settings.bits == 8 else np.uint16
    high = _TILE if settings.tiled and kind == "tiff" else _band_rows(renderer, width)
    blocks = _blocks(renderer, scale, high, dtype, gray, progress, cancelled, threads)
    shape = (height, width, 1 if gray else 3)
    icc = profiles.gray() if gray else profiles.srgb()
    with replacing(path, never) as file:
        _WRITERS[kind](file, blocks, shape, high, dtype, icc, settings)
        if cancelled():
            raise Cancelled
    progress(1.0)
    return width, height


def scale_of(renderer: Printable, settings: Settings) -> float:
    """The scale at which a print is written."""
    if settings.longer_side is None:
        return 1.0
    return min(1.0, settings.longer_side / max(renderer.size(1.0)))


def _blocks(
    renderer: Printable,
    scale: float,
    high: int,
    dtype: type[np.uint8] | type[np.uint16],
    gray: bool,
    progress: Callable[[float], None],
    cancelled: Callable[[], bool],
    threads: int,
) -> Blocks:
    """The print as rows of blocks ``(rows, columns, channels)``; rendering runs ahead of writing."""
    width, height = renderer.size(scale)
    channels = 1 if gray else 3
    step = width
    if renderer.looks_around and width * high > _BLOCK:
        step = max(_TILE, _BLOCK // high // _TILE * _TILE)
    places = [
        Rect(x, y, min(step, width - x), min(high, height - y))
        for y in range(0, height, high)
        for x in range(0, width, step)
    ]

    def block(place: Rect) -> NDArray[Any]:
        if cancelled():
            raise Cancelled
        planes = renderer.region(place, scale)
        planes = colour.gray_of(planes) if gray else in_colour(planes)
        out = np.empty((place.height, place.width, channels), dtype)
        to_integers(planes, dtype, out, 0)
        return out

    with ThreadPoolExecutor(threads) as pool:
        ahead: deque[Future[NDArray[Any]]] = deque()
        coming = iter(places)
        try:
            for place in places:
                while len(ahead) <= 2 * threads and (start := next(coming, None)) is not None:
                    ahead.append(pool.submit(block, start))
                yield place, ahead.popleft().result()
                if cancelled():
                    raise Cancelled
                progress(min(1.0, (place.y + place.height * place.right / width) / height) * 0.99)
        finally:
            for future in ahead:
                future.cancel()


def _in_bands(blocks: Blocks, width: int) -> Bands:
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
        for x in range(0, width, _TILE):
            tile = block[:, x : x + _TILE]
            if tile.shape[:2] != (_TILE, _TILE):
                tile = np.pad(tile, ((0, _TILE - height), (0, _TILE - tile.shape[1]), (0, 0)), mode="edge")
            yield tile if channels == 3 else tile[..., 0]


def _band_rows(renderer: Printable, width: int) -> int:
    """Rows rendered and written in one go."""
    if renderer.looks_around:
        return max(_TILE, min(1024, _BLOCK // width))
    return max(8, min(_TILE, _BAND // width))


def _write_tiff(
    file: BinaryIO, blocks: Blocks, shape: Shape, high: int, dtype: Any, icc: bytes, settings: Settings
) -> None:
    import tifffile

    height, width, channels = shape
    with tifffile.TiffWriter(
        file, bigtiff=height * width * channels * np.dtype(dtype).itemsize > 4_000_000_000
    ) as tiff:
        tiff.write(
            _in_tiles(blocks, channels)
            if settings.tiled
            else (b if channels == 3 else b[..., 0] for b in _in_bands(blocks, width)),
            shape=(height, width, 3) if channels == 3 else (height, width),
            dtype=dtype,
            photometric="rgb" if channels == 3 else "minisblack",
            **({"tile": (_TILE, _TILE)} if settings.tiled else {"rowsperstrip": high}),
            resolution=(settings.ppi, settings.ppi),
            resolutionunit="INCH",
            iccprofile=icc,
            software="Kyanoscript",
            metadata=None,
        )


def _write_png(
    file: BinaryIO, blocks: Blocks, shape: Shape, high: int, dtype: Any, icc: bytes, settings: Settings
) -> None:
    """Signature, header, profile, resolution, rows filtered against their left neighbour and deflated, end."""
    height, width, channels = shape
    bits = np.dtype(dtype).itemsize * 8

    def chunk(name: bytes, data: bytes) -> None:
        file.write(struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data)))

    per_metre = round(settings.ppi / 0.0254)
    file.write(b"\x89PNG\r\n\x1a\n")
    chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, bits, 2 if channels == 3 else 0, 0, 0, 0))
    chunk(b"iCCP", b"print\0\0" + zlib.compress(icc))
    chunk(b"pHYs", struct.pack(">IIB", per_metre, per_metre, 1))
    packer = zlib.compressobj(4, zlib.DEFLATED, 15, 9)
    step = channels * bits // 8
    for band in _in_bands(blocks, shape[1]):
        raw = band.astype(band.dtype.newbyteorder(">")).reshape(len(band), -1).view(np.uint8)
        rows = np.empty((len(raw), raw.shape[1] + 1), np.uint8)
        rows[:, 0] = 1  # filter type Sub
        rows[:, 1 : step + 1] = raw[:, :step]
        np.subtract(raw[:, step:], raw[:, :-step], out=rows[:, step + 1 :])
        if packed := packer.compress(rows.tobytes()):
            chunk(b"IDAT", packed)
    chunk(b"IDAT", packer.flush())
    chunk(b"IEND", b"")


def _write_jpeg(
    file: BinaryIO, blocks: Blocks, shape: Shape, high: int, dtype: Any, icc: bytes, settings: Settings
) -> None:
    from PIL import Image

    whole = np.empty(shape, dtype)
    y = 0
    for band in _in_bands(blocks, shape[1]):
        whole[y : y + len(band)] = band
        y += len(band)
    image = Image.fromarray(whole if shape[2] == 3 else whole[..., 0])
    dpi = (round(settings.ppi), round(settings.ppi))
    # Through memory: the library writes into a file's descriptor itself, and takes half a write for a whole one.
    data = io.BytesIO()
    image.save(data, "JPEG", quality=settings.quality, subsampling=0, optimize=True, icc_profile=icc, dpi=dpi)
    file.write(data.getbuffer())


_WRITERS: dict[str, Callable[[BinaryIO, Blocks, Shape, int, Any, bytes, Settings], None]] = {
    "tiff": _write_tiff,
    "png": _write_png,
    "jpeg": _write_jpeg,
}
