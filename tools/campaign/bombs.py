"""Small files of large pictures, opened with little memory: never a signal, and never called damaged."""

from __future__ import annotations

import io
import random
import resource
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from common import Report, Worker, room

LEAST, MOST = 60, 900  # MB of address space that opening one may take beyond what there is


def _pil(pixels: NDArray[Any], kind: str, mode: str = "", **options: Any) -> bytes:
    made = io.BytesIO()
    image = Image.fromarray(pixels)
    (image.convert(mode) if mode else image).save(made, kind, **options)
    return made.getvalue()


def _tiff(pixels: NDArray[Any], **options: Any) -> bytes:
    made = io.BytesIO()
    tifffile.imwrite(made, pixels, compression="zlib", **options)
    return made.getvalue()


def _exr(light: NDArray[Any]) -> bytes:
    import OpenEXR

    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        head = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(head, {"RGB": light}).write(file.name)
        return Path(file.name).read_bytes()


def corpus(side: int) -> dict[str, bytes]:
    """Name → bytes: even pictures of that many pixels each way."""
    rgb = np.full((side, side, 3), 90, np.uint8)
    gray, inks = rgb[..., 0].copy(), np.full((side, side, 4), 60, np.uint8)
    light = np.full((side, side, 3), 0.3, np.float32)
    makers: dict[str, Callable[[], bytes]] = {
        "rgb.png": lambda: bytes(imagecodecs.png_encode(rgb)),
        "rgba.png": lambda: bytes(imagecodecs.png_encode(inks)),
        "palette.png": lambda: _pil(rgb, "PNG", "P"),
        "bit.png": lambda: _pil(gray, "PNG", "1"),
        "rgb.jpg": lambda: _pil(rgb, "JPEG"),
        "progressive.jpg": lambda: _pil(rgb, "JPEG", progressive=True),
        "cmyk.jpg": lambda: _pil(rgb, "JPEG", "CMYK"),
        "rgb.webp": lambda: _pil(rgb, "WEBP", lossless=True, method=0),
        "rgb.avif": lambda: _pil(rgb, "AVIF", speed=10),
        "rgb.gif": lambda: _pil(rgb, "GIF", "P"),
        "rgb.jp2": lambda: bytes(imagecodecs.jpeg2k_encode(rgb, level=30)),
        "rgb.jxl": lambda: bytes(imagecodecs.jpegxl_encode(rgb, lossless=True, effort=1)),
        "light.exr": lambda: _exr(light.astype(np.float16)),
        "tile.tif": lambda: _tiff(light, photometric="rgb", tile=(-(-side // 16) * 16,) * 2),
        "strip.tif": lambda: _tiff(light, photometric="rgb", rowsperstrip=side),
        "cmyk.tif": lambda: _tiff(inks, photometric="separated", rowsperstrip=64),
        "lab.tif": lambda: _tiff(rgb, photometric="cielab", rowsperstrip=64),
        "planar.tif": lambda: _tiff(np.moveaxis(rgb, 2, 0).copy(), photometric="rgb", planarconfig="separate"),
    }  # fmt: skip
    try:
        import pillow_heif
    except ImportError:
        pass
    else:
        pillow_heif.register_heif_opener()
        makers["rgb.heic"] = lambda: _pil(rgb, "HEIF")
    return {name: make() for name, make in makers.items()}


def prepare() -> None:
    """Once in each worker: whatever decodes is there before memory is short."""
    import cv2  # noqa: F401
    import OpenEXR  # noqa: F401
    import simplejpeg  # noqa: F401

    from kyanoscript.files.photos import lab, others, photo, tiff  # noqa: F401

    Image.init()


def work(_: None, task: tuple[Path, int]) -> tuple[str, ...]:
    """One picture opened with so much address space."""
    from kyanoscript.files.base.errors import FileError
    from kyanoscript.files.photos.photo import open_photo

    path, megabytes = task
    size = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (size + (megabytes << 20), resource.RLIM_INFINITY))
    try:
        return ("OK", open_photo(path).kind, "")
    except FileError as error:
        return ("OK", "", str(error))
    finally:
        resource.setrlimit(resource.RLIMIT_AS, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))


def run(count: int, seed: int, side: int = 4000) -> Report:
    """So many openings, of every kind in turn."""
    report, r, here = Report("bombs"), random.Random(seed), room()
    bodies, worker, slowest, most = list(corpus(side).items()), Worker(prepare, work), 0.0, 0
    for k in range(count):
        name, body = bodies[k % len(bodies)]
        path, megabytes = here / f"bomb{Path(name).suffix}", r.randrange(LEAST, MOST)
        path.write_bytes(body)
        verdict, seconds, peak = worker.run((path, megabytes), 60)
        slowest, most = max(slowest, seconds), max(most, peak)
        report.tally["tried"] += 1
        if verdict[0] != "OK" or "damaged" in verdict[2]:
            report.found(f"{verdict[0]}: {name} with {megabytes} MB, seed {seed} number {k}: {str(verdict[1:])[-300:]}")
            continue
        report.tally["opened" if verdict[1] else "told"] += 1
        report.said(verdict[2], name)
    worker.stop()
    report.figures = {"slowest s": round(slowest, 2), "most MB": most >> 20}
    return report
