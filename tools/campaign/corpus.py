"""Valid pictures of every kind that claims to be opened (and some that are to be refused), as bytes."""

from __future__ import annotations

import io
import struct
import sys
import tempfile
import zlib
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, ImageCms


def colourful(height: int, width: int, dtype: Any = np.uint8, channels: int = 3) -> NDArray[Any]:
    """Gradients of hue and brightness."""
    y, x = np.mgrid[0:height, 0:width] / (max(height, width) - 1)
    planes = np.stack([0.5 + 0.5 * np.cos(6.3 * (x + k / 3)) * (1 - y * 0.5) for k in range(channels)], -1)
    if np.dtype(dtype).kind == "f":
        return planes.astype(dtype)
    return np.rint(planes * np.iinfo(dtype).max).astype(dtype)


def _pil(pixels: NDArray[Any], kind: str, mode: str = "", **options: Any) -> bytes:
    image = Image.fromarray(pixels)
    image = image.convert(mode) if mode else image
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


def _tiff(pixels: NDArray[Any], **options: Any) -> bytes:
    out = io.BytesIO()
    pages = options.pop("pages", 1)
    big, order = options.pop("bigtiff", False), options.pop("byteorder", "<")
    with tifffile.TiffWriter(out, bigtiff=big, byteorder=order) as tiff:
        for _ in range(pages):
            tiff.write(pixels, **options)
    return out.getvalue()


def chunk(name: bytes, data: bytes) -> bytes:
    """A chunk of a PNG with its check sum."""
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))


def corpus() -> dict[str, bytes]:
    """Name → bytes; pictures are 72 × 48."""
    rgb, srgb = colourful(48, 72), ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    wide = bytes(imagecodecs.cms_profile("adobergb")) if hasattr(imagecodecs, "cms_profile") else srgb
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "maker"
    made: dict[str, bytes] = {}
    kinds: dict[str, dict[str, Any]] = {
        "rgb": {}, "rgb444": {"subsampling": 0}, "prog": {"progressive": True}, "q10": {"quality": 10},
        "icc": {"icc_profile": wide}, "exif": {"exif": exif}, "dpi": {"dpi": (300, 300)},
        "restart": {"restart_marker_blocks": 4},
    }  # fmt: skip
    for name, options in kinds.items():
        made[f"{name}.jpg"] = _pil(rgb, "JPEG", **options)
    made["gray.jpg"] = _pil(rgb, "JPEG", "L")
    made["cmyk.jpg"] = _pil(rgb, "JPEG", "CMYK")
    for mode in ("1", "L", "LA", "P", "RGB", "RGBA"):
        made[f"{mode}.png"] = _pil(rgb, "PNG", mode)
    made["P-tRNS.png"] = _pil(rgb, "PNG", "P", transparency=3)
    made["RGB-tRNS.png"] = _pil(rgb, "PNG", transparency=(3, 4, 5))
    made["icc.png"] = _pil(rgb, "PNG", icc_profile=wide)
    made["exif.png"] = _pil(rgb, "PNG", exif=exif, dpi=(72, 72))
    for n in (1, 2, 3, 4):
        made[f"16bit-{n}.png"] = bytes(imagecodecs.png_encode(colourful(48, 72, np.uint16, n).squeeze()))
    plain = made["16bit-3.png"]
    made["16bit-icc.png"] = plain[:33] + chunk(b"iCCP", b"x\0\0" + zlib.compress(wide)) + plain[33:]
    for kind in (np.uint8, np.uint16, np.float16, np.float32, np.float64):
        word = np.dtype(kind).name
        for n, light in ((1, "minisblack"), (3, "rgb"), (4, "rgb")):
            pixels = colourful(48, 72, kind, n).squeeze()
            extra = {"extrasamples": ["unassalpha"]} if n == 4 else {}
            made[f"{word}-{n}.tif"] = _tiff(pixels, photometric=light, **extra)
            made[f"{word}-{n}-lzw.tif"] = _tiff(pixels, photometric=light, compression="lzw", rowsperstrip=7, **extra)
            made[f"{word}-{n}-deflate-tiled.tif"] = _tiff(
                pixels, photometric=light, compression="zlib", predictor=True, tile=(16, 32), **extra)  # fmt: skip
            if n > 1:
                planes = np.ascontiguousarray(np.moveaxis(pixels, 2, 0))
                made[f"{word}-{n}-planar.tif"] = _tiff(
                    planes, photometric=light, planarconfig="separate", rowsperstrip=9, **extra)  # fmt: skip
    u8, u16, gray = rgb, colourful(48, 72, np.uint16), colourful(48, 72, np.uint8, 1).squeeze()
    made["big.tif"] = _tiff(u16, photometric="rgb", bigtiff=True)
    made["big-lzw-tiled.tif"] = _tiff(u16, photometric="rgb", bigtiff=True, compression="lzw", tile=(32, 32))
    made["be.tif"] = _tiff(u16, photometric="rgb", byteorder=">")
    made["be-lzw.tif"] = _tiff(u16, photometric="rgb", byteorder=">", compression="lzw", predictor=True)
    made["be-big.tif"] = _tiff(u8, photometric="rgb", byteorder=">", bigtiff=True, rowsperstrip=5)
    made["jpeg.tif"] = _tiff(u8, photometric="ycbcr", compression="jpeg", tile=(16, 16))
    made["jpeg-strips.tif"] = _tiff(u8, photometric="rgb", compression="jpeg", rowsperstrip=16)
    made["jpeg-pil.tif"] = _pil(rgb, "TIFF", compression="jpeg")
    made["packbits.tif"] = _tiff(u8, photometric="rgb", compression="packbits", rowsperstrip=11)
    for word in ("zstd", "lzma", "png", "webp"):
        made[f"{word}.tif"] = _tiff(u8, photometric="rgb", compression=word, rowsperstrip=16)
    made["pages.tif"] = _tiff(u8, photometric="rgb", pages=4)
    made["icc.tif"] = _tiff(u16, photometric="rgb", iccprofile=wide)
    made["icc-float.tif"] = _tiff(colourful(48, 72, np.float32), photometric="rgb", iccprofile=wide)
    made["oriented.tif"] = _tiff(u8, photometric="rgb", extratags=[(274, "H", 1, 6, True)])
    made["resolution.tif"] = _tiff(u8, photometric="rgb", resolution=(300, 300))
    made["white0.tif"] = _tiff(gray, photometric="miniswhite")
    made["palette.tif"] = _tiff(
        gray, photometric="palette", colormap=np.arange(768, dtype=np.uint16).reshape(3, 256) * 85
    )
    made["cmyk.tif"] = _tiff(colourful(48, 72, np.uint8, 4), photometric="separated")
    made["bilevel.tif"] = _pil(rgb, "TIFF", "1")
    made["bilevel-g4.tif"] = _pil(rgb, "TIFF", "1", compression="group4")
    made["i16.tif"] = _tiff(gray.astype(np.int16) - 100, photometric="minisblack")
    made["lab.tif"] = _tiff(u8, photometric="cielab")
    made["u32.tif"] = _tiff(gray.astype(np.uint32))
    deep = colourful(48, 72, np.uint16)
    made["lossless.webp"] = _pil(rgb, "WEBP", lossless=True, icc_profile=wide)
    made["alpha.webp"] = _pil(rgb, "WEBP", "RGBA", exif=exif)
    made["plain.gif"], made["plain.bmp"], made["gray.bmp"] = _pil(rgb, "GIF"), _pil(rgb, "BMP"), _pil(rgb, "BMP", "L")
    made["8.avif"] = _pil(rgb, "AVIF")
    made["10.avif"] = bytes(imagecodecs.avif_encode(deep >> 6, bitspersample=10))
    made["8.jp2"], made["16.j2k"] = _pil(rgb, "JPEG2000"), bytes(imagecodecs.jpeg2k_encode(deep, codecformat="j2k"))
    made["exif.tif"] = _pil(rgb, "TIFF", exif=exif)
    made["infrared.tif"] = _tiff(colourful(48, 72, np.uint16, 4), photometric="rgb", extrasamples=["unspecified"])
    made["8.jxl"] = bytes(imagecodecs.jpegxl_encode(rgb, lossless=True))
    made["16.jxl"] = bytes(imagecodecs.jpegxl_encode(deep, lossless=True))
    made["lossy.jxl"] = bytes(imagecodecs.jpegxl_encode(rgb, level=80))
    made["light.pfm"] = b"PF\n72 48\n-1.0\n" + colourful(48, 72, np.float32).tobytes()
    made["light.exr"], made["raw.dng"] = _openexr(colourful(48, 72, np.float32)), _dng()
    return made


def _openexr(pixels: Any) -> bytes:
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(head, {"RGB": pixels}).write(file.name)
        return Path(file.name).read_bytes()


def _dng() -> bytes:
    sys.path.append(str(Path(__file__).parents[1]))
    from demo_raw import White, camera_for, channels_of, mosaic_of, write_dng

    light = np.moveaxis(colourful(48, 72, np.float32), 2, 0)
    camera = camera_for(White(5000, 0))
    with tempfile.NamedTemporaryFile(suffix=".dng") as file:
        preview = (np.moveaxis(light, 0, 2) * 255).astype(np.uint8)
        write_dng(Path(file.name), mosaic_of(channels_of(light, camera, 0.6)), camera, preview)
        return Path(file.name).read_bytes()
