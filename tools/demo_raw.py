"""A camera's raw made from a picture: a DNG as a camera of our own, the Quay Optics Q1, would have written it.

    python -m tools.demo_raw            makes the demo's raw from a demo photograph

Written with tifffile after the DNG specification (1.4): a preview first, the mosaic beside it. The camera is invented:
its matrix, its black and white levels, its noise.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
import tifffile
from PIL import Image

from kyanoscript.core import colour
from kyanoscript.core.colour import SRGB
from kyanoscript.core.develop import Camera, White, gains_for

HOME = Path(__file__).resolve().parent.parent
FROM_XYZ = (0.712, -0.148, -0.076, -0.442, 1.248, 0.214, -0.081, 0.236, 0.604)  # invented
BLACK, WHITE = 512, 15871


def camera_for(light: White) -> Camera:
    """The camera, its gains set for a light."""
    return Camera(FROM_XYZ, gains_for(Camera(FROM_XYZ, (1.0, 1.0, 1.0)), light))


def channels_of(light: np.ndarray, camera: Camera, white: float) -> np.ndarray:
    """What the camera's channels hold of linear sRGB ``(3, …)``, full at 1; neutral white is ``white`` in green."""
    there = camera.matrix @ SRGB.to_xyz
    seen = np.tensordot(there / there.sum(axis=1, keepdims=True), light, 1)
    shot = np.array(camera.shot).reshape(3, *[1] * (light.ndim - 1))
    return np.clip(seen / shot * white, 0, 1)


def mosaic_of(channels: np.ndarray, noise: float = 0.0, seed: int = 5) -> np.ndarray:
    """Red, green, green, blue in turn, of channels ``(3, h, w)``; stored levels."""
    height, width = channels.shape[1:]
    found = np.empty((height, width))
    for y, x, c in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        found[y::2, x::2] = channels[c, y::2, x::2]
    if noise:
        rng = np.random.default_rng(seed)
        found = found + rng.normal(size=found.shape) * noise * np.sqrt(found + 0.002) * (found < 1)
    return np.rint(np.clip(found, 0, 1) * (WHITE - BLACK) + BLACK).astype(np.uint16)


def write_dng(path: Path, mosaic: np.ndarray, camera: Camera, preview: np.ndarray, orientation: int = 1) -> None:
    """The file: a JPEG preview, and the mosaic as its sub-file."""

    def fractions(values: object, signed: bool) -> tuple[int, ...]:
        return tuple(n for v in np.ravel(values) for n in (round(float(v) * 10_000), 10_000))  # type: ignore[call-overload]

    neutral = 1 / np.array(camera.shot)
    shared = [
        (274, "H", 1, orientation, True),
        (50706, "B", 4, (1, 4, 0, 0), True),
        (50707, "B", 4, (1, 1, 0, 0), True),
        (50708, "s", 0, "Quay Optics Q1", True),
        (50721, "2i", 9, fractions(camera.from_xyz, True), True),
        (50728, "2I", 3, fractions(neutral / neutral.max(), False), True),
        (50778, "H", 1, 21, True),  # D65
        (271, "s", 0, "Quay Optics", True),
        (272, "s", 0, "Q1", True),
        (306, "s", 0, "2026:05:14 18:20:05", True),
    ]
    raw = [
        (33421, "H", 2, (2, 2), True),
        (33422, "B", 4, (0, 1, 1, 2), True),
        (50711, "H", 1, 1, True),
        (50714, "H", 1, BLACK, True),
        (50717, "H", 1, WHITE, True),
    ]
    with tifffile.TiffWriter(path, byteorder="<") as tiff:
        tiff.write(
            preview, photometric="ycbcr", compression="jpeg", compressionargs={"level": 90}, subfiletype=1,
            rowsperstrip=preview.shape[0], subifds=1, extratags=shared, metadata=None, software=None,
        )  # fmt: skip
        tiff.write(mosaic, photometric=32803, subfiletype=0, extratags=raw, metadata=None, software=None)


def scene(photo: Path, light: White, size: tuple[int, int]) -> tuple[np.ndarray, Camera, np.ndarray]:
    """A demo photograph as the camera saw it, its lights brighter than white: mosaic, camera, preview."""
    with Image.open(photo) as image:
        pixels = np.asarray(image.convert("RGB").resize(size, Image.Resampling.LANCZOS))
    linear = colour.to_light(np.moveaxis(pixels, 2, 0) / 255)
    lit = linear * (1 + 2.5 * np.clip((linear.mean(axis=0) - 0.55) / 0.45, 0, 1) ** 2)
    camera = camera_for(light)
    return mosaic_of(channels_of(lit, camera, 0.55), noise=0.004), camera, pixels


def main() -> None:
    demo = HOME / "src" / "kyanoscript" / "demo"
    mosaic, camera, preview = scene(demo / "photos" / "ferry-landing.jpg", White(4300, 8), (960, 640))
    write_dng(demo / "photos" / "ferry-landing-raw.dng", mosaic, camera, preview)


if __name__ == "__main__":
    main()
