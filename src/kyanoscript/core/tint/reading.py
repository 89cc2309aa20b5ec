"""Reading a gray scene: what colour each place is likely to have, and how sure that is.

The network in ``reading.onnx`` sees the whole picture, small, and is told some thirty numbers of every place besides:
lightness and roughness at several widths, where it lies, how rough the way to the picture's upper and lower rim is. Its
greater part is EfficientNet-Lite0 (Tan and Le 2019; Apache licence; it has learned to name things in ImageNet), which
is left as it is; eight small heads have learned what colours its findings have (tools/reading). They answer with a
chroma and with how far off that may be. They can tell open sky, ground, stone and much foliage; they cannot tell what
colour a cloth, a door or a boat had.
"""

from __future__ import annotations

import functools
import math
import threading
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import to_encoded
from kyanoscript.core.late import cv2
from kyanoscript.core.tint.clean import without_grain
from kyanoscript.core.tint.spline import SMALL, Field
from kyanoscript.core.watching import breathe

SIDE = 420  # pixels of the longer side that a scene is best read at
_GRAY, _PLACES = 256, 32  # sides of what the network is given: the picture, and the numbers of its places
_WIDTHS = (200, 80, 32, 12)  # the longer side over the sigma
_HELD = 0.9  # of the chroma that was read: a wrong colour is worse than little colour
_ONE_HUE, _OF_ONE_HUE = 0.9, 0.2  # above that much of one hue a reading is doubted; of one all alike so much is held
_lock = threading.Lock()  # a network is run by one thread at a time


def told(lightness: Field) -> NDArray[np.float32]:
    """The numbers ``(h, w, k)`` of every place of a lightness ``(h, w)``, 0…100."""
    height, width = lightness.shape
    side = max(height, width)

    def blurred(plane: NDArray[Any], share: float) -> Field:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), side / share, borderType=cv2.BORDER_REPLICATE), np.float32)

    light = lightness / 100
    mean, spread = float(light.mean()), float(light.std()) + 0.02
    levels = [blurred(light, share) for share in _WIDTHS]
    squares = [blurred(light * light, share) for share in _WIDTHS]
    rough = [np.log(np.sqrt(np.maximum(s - m * m, 0)) + 0.004) + 3 for s, m in zip(squares, levels, strict=True)]
    bands = [light - levels[0], levels[0] - levels[1], levels[1] - levels[2]]
    detail = [np.log(np.sqrt(blurred(b * b, 40)) + 0.002) + 4 for b in bands]
    dx, dy = (np.asarray(cv2.Sobel(levels[0], cv2.CV_32F, *o), np.float32) for o in ((1, 0), (0, 1)))
    xx, yy, xy = (blurred(p, 40) for p in (dx * dx, dy * dy, dx * dy))
    way = [(xx - yy) / (xx + yy + 1e-4), 2 * xy / (xx + yy + 1e-4)]
    down, across = np.mgrid[:height, :width].astype(np.float32)
    down, across = down / height, np.abs(across / width - 0.5) * 2
    above = np.maximum.accumulate(rough[1], axis=0)
    below = np.maximum.accumulate(rough[1][::-1], axis=0)[::-1]
    count = np.arange(1, height + 1, dtype=np.float32)[:, None]
    light_above = np.cumsum(levels[1], axis=0) / count
    light_below = (np.cumsum(levels[1][::-1], axis=0) / count)[::-1]
    row = np.repeat(levels[1].mean(axis=1, keepdims=True), width, axis=1)
    quarter = max(1, height // 4)
    whole = [
        mean, spread, float(rough[1].mean()), float(light[:quarter].mean()), float(rough[1][:quarter].mean()),
        float(light[-quarter:].mean()), float(rough[1][-quarter:].mean()), width / height - 1,
    ]  # fmt: skip
    planes = [
        light, *levels, *((level - mean) / spread for level in levels[:3]), *rough, *detail, *way,
        down, across, above, below, light_above, light_below, row, levels[1] - row,
    ]  # fmt: skip
    planes += [np.full((height, width), value, np.float32) for value in whole]
    return np.stack(planes, axis=-1).astype(np.float32)


@functools.cache
def _network() -> cv2.dnn.Net:
    data = (resources.files("kyanoscript") / "core" / "tint" / "reading.onnx").read_bytes()
    return cv2.dnn.readNetFromONNX(np.frombuffer(data, np.uint8))


def read_at(gray: Field) -> Field:
    """A gray picture ``(h, w)``, encoded, of the size that a scene is best read at."""
    scale = SIDE / max(gray.shape)
    if scale < 1:
        gray = np.asarray(cv2.resize(gray, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.float32)
    return np.ascontiguousarray(gray, np.float32)


def prepared(lightness: Field) -> Field:
    """A lightness as it is read: a faded print as if it still had its tones, grain calmed."""
    dark, light = np.percentile(lightness, (1, 99))
    low, high = min(dark, 12.0), max(light, 88.0)
    opened = np.clip(low + (lightness - dark) * ((high - low) / max(light - dark, 8.0)), 0, 100)
    return without_grain(opened)


def shown(lightness: Field) -> tuple[Field, Field]:
    """What the network is given: the gray picture ``(256, 256)``, encoded, and the numbers of its places."""
    gray = to_encoded((lightness / 100) ** 3).astype(np.float32)
    way = cv2.INTER_AREA if min(gray.shape) >= _GRAY else cv2.INTER_LINEAR
    scale = min(1.0, math.sqrt(SMALL / lightness.size))
    small = lightness
    if scale < 1:
        small = np.asarray(cv2.resize(lightness, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.float32)
    planes = [cv2.resize(p, (_PLACES, _PLACES), interpolation=cv2.INTER_AREA) for p in np.moveaxis(told(small), -1, 0)]
    given = np.asarray(cv2.resize(gray, (_GRAY, _GRAY), interpolation=way), np.float32)
    return given, np.stack(planes).astype(np.float32)


def read(lightness: Field) -> tuple[Field, Field]:
    """Chroma ``(2, h, w)`` that each place is likely to have, and how sure that is, 0…1 ``(h, w)``.

    ``lightness`` is a whole picture's, 0…100 ``(h, w)``, best some 400 pixels long. It and its mirror image
    are looked at.
    """
    return read_ready(prepared(lightness))


def read_ready(lightness: Field) -> tuple[Field, Field]:
    """The same of one that is prepared."""
    found = []
    for turned in (False, True):
        breathe()
        gray, numbers = shown(np.ascontiguousarray(lightness[:, ::-1] if turned else lightness))
        with _lock:
            net = _network()
            net.setInput(gray[None, None], "gray")
            net.setInput(numbers[None], "told")
            out = net.forward()[0]
        found.append(out[..., ::-1] if turned else out)
    height, width = lightness.shape
    a, b, off = (cv2.resize(p, (width, height)) for p in np.mean(found, axis=0))
    chroma = np.stack([a, b]) / 10
    size = np.hypot(a, b)
    sure = size / (size + np.exp(np.clip(off, -4, 4)))
    return chroma.astype(np.float32), sure.astype(np.float32)


def held(chroma: Field) -> float:
    """The share of the chroma ``(2, h, w)`` that is laid.

    A scene that is read as of one hue all over is most often one that the network does not know: it has little colour,
    or other colours.
    """
    size = float(np.hypot(*chroma).mean())
    alike = float(np.hypot(*chroma.mean(axis=(1, 2)))) / max(size, 1e-6)
    return _HELD * (1 - (1 - _OF_ONE_HUE) * min(1.0, max(0.0, alike - _ONE_HUE) / (1 - _ONE_HUE)))
