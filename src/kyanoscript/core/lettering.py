"""Letters as pixels: on prints, sheets, film and strips, in the fonts that ship. The one place that draws any."""

from __future__ import annotations

import functools
import io
import math
from importlib import resources

import numpy as np
from numpy.typing import NDArray

LEAST = 9  # pixels: letters of a label are never smaller


@functools.lru_cache(maxsize=16)
def lettering(text: str, letters: int, room: int) -> NDArray[np.float32]:
    """Black letters on white ``(h, w)``, encoded; smaller where there is not so much room."""
    from PIL import Image, ImageDraw, ImageFont  # whoever builds the kernels has no such library

    with resources.as_file(resources.files("kyanoscript") / "fonts" / "EBGaramond-Italic.ttf") as file:
        while True:
            face = ImageFont.truetype(str(file), letters, layout_engine=ImageFont.Layout.BASIC)
            wide = round(face.getlength(text)) + 2
            if wide <= room or letters <= 6:
                break
            letters = max(6, min(letters - 1, letters * room // wide))
    picture = Image.new("L", (max(1, min(wide, room)), round(letters * 1.5)), 255)
    ImageDraw.Draw(picture).text((picture.width - 1, letters * 1.1), text, fill=0, font=face, anchor="rs")
    return np.asarray(picture, np.float32) / np.float32(255)


@functools.lru_cache(maxsize=256)
def label(text: str, letters: int, room: int) -> NDArray[np.float32]:
    """Dark letters on white ``(h, w)``, encoded 0…1; smaller where there is not so much room."""
    from PIL import Image, ImageDraw, ImageFont  # whoever builds the kernels has no such library

    with resources.as_file(resources.files("kyanoscript") / "fonts" / "Figtree-Medium.ttf") as file:
        while True:
            face = ImageFont.truetype(str(file), letters, layout_engine=ImageFont.Layout.BASIC)
            wide = round(face.getlength(text)) + letters
            if wide <= room or letters <= LEAST:
                break
            letters = max(LEAST, letters * room // wide)
    picture = Image.new("L", (wide, round(letters * 1.6)), 255)
    ImageDraw.Draw(picture).text((wide / 2, letters * 0.8), text, fill=28, font=face, anchor="mm")
    return np.asarray(picture, np.float32) / np.float32(255)


def drawn(text: str, font: str, em: int, rim: int) -> NDArray[np.float32]:
    """Where letters are ``(h, w)``, 0…1, of an em in pixels, with a rim round them; with nothing to write no light."""
    from PIL import Image, ImageDraw, ImageFont  # whoever builds the kernels has no such library

    face = ImageFont.truetype(_file(font), em, layout_engine=ImageFont.Layout.BASIC)
    left, top, right, bottom = face.getbbox(text or " ", anchor="mm")
    width, height = math.ceil(right - left) + 2 * rim, math.ceil(bottom - top) + 2 * rim
    image = Image.new("L", (max(width, 4), max(height, 4)))
    ImageDraw.Draw(image).text((rim - left, rim - top), text, fill=255, font=face, anchor="mm")
    return np.asarray(image, np.float32) / np.float32(255)


def _file(font: str) -> io.BytesIO:
    return io.BytesIO((resources.files("kyanoscript") / "fonts" / font).read_bytes())
