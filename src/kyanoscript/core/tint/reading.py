"""Reading a gray scene: what colour each place is likely to have, and how sure that is.

A small network (weights in ``reading.npz``, learned by tools/reading) is told some thirty numbers of every place of the
small picture: lightness and roughness at several widths, where it lies, how rough the way to the picture's upper and
lower rim is, and a few of the whole picture. It answers with a chroma and with how far off that may be. It can tell
open sky, much foliage, and warm or cold surroundings; it cannot tell what colour a cloth, a door or a boat had.
"""

from __future__ import annotations

import functools
from importlib import resources
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import from_oklch, hex_of
from kyanoscript.core.tint.spline import Field

_WIDTHS = (200, 80, 32, 12)  # the longer side over the sigma
_COLOURED, _NEUTRAL = 60, 10  # dabs that are laid at most
_HELD = 0.6  # of the chroma that was read: a wrong colour is worse than little colour
_APART = 0.07  # of the longer side, between them
_UNSURE = 0.3


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
def _weights() -> dict[str, NDArray[np.float32]]:
    with (resources.files("kyanoscript") / "core" / "tint" / "reading.npz").open("rb") as file:
        return {name: value.astype(np.float32) for name, value in np.load(file).items()}


def read(lightness: Field) -> tuple[Field, Field]:
    """Chroma ``(2, h, w)`` that each place is likely to have, and how sure that is, 0…1 ``(h, w)``."""
    w = _weights()
    numbers = (told(lightness) - w["mean"]) / w["spread"]
    x = np.clip(numbers.reshape(-1, numbers.shape[-1]), -4, 4)
    for k in (1, 2):
        x = np.maximum(x @ w[f"w{k}"] + w[f"b{k}"], 0)
    out = x @ w["w3"] + w["b3"]
    chroma = (out[:, :2] / 10).T.reshape(2, *lightness.shape)
    off = np.exp(np.clip(out[:, 2], -4, 4)).reshape(lightness.shape) / 10  # the error that is expected
    size = np.hypot(*chroma)
    sure = np.clip(size / (size + off), 0, 1)
    return np.ascontiguousarray(chroma, np.float32), sure.astype(np.float32)


def guesses(lightness: Field) -> list[tuple[float, float, str, float]]:
    """Dabs that the scene suggests: place across and down (0…1), colour, and how sure it is in per cent.

    Coloured ones where the reading is surest, far enough from each other; and neutral ones where it is not, so that
    these places stay gray.
    """
    chroma, sure = read(lightness)
    soft = np.stack([cv2.GaussianBlur(p, (0, 0), 2.0, borderType=cv2.BORDER_REPLICATE) for p in chroma])
    steady = cv2.GaussianBlur(sure, (0, 0), 2.0, borderType=cv2.BORDER_REPLICATE)
    found = []
    for x, y in _apart(steady, _COLOURED):
        a, b = (float(v) for v in soft[:, y, x])
        tone = from_oklch(0.6, _HELD * float(np.hypot(a, b)), float(np.degrees(np.arctan2(b, a)) % 360))
        found.append(((x + 0.5) / lightness.shape[1], (y + 0.5) / lightness.shape[0], hex_of(tone), steady[y, x] * 100))
    for x, y in _apart(1 - steady, _NEUTRAL):
        if steady[y, x] < _UNSURE:
            place = ((x + 0.5) / lightness.shape[1], (y + 0.5) / lightness.shape[0])
            found.append((*place, "#8f8f8f", (1 - steady[y, x]) * 100))
    return [(x, y, ink, round(float(s), 1)) for x, y, ink, s in found]


def _apart(score: NDArray[Any], count: int) -> list[tuple[int, int]]:
    """The places of the highest score, each away from those before."""
    left = score.copy()
    height, width = score.shape
    ys, xs = np.mgrid[:height, :width]
    near = (_APART * max(height, width)) ** 2
    found = []
    for _ in range(count):
        y, x = np.unravel_index(int(left.argmax()), left.shape)
        if left[y, x] <= 0:
            break
        found.append((int(x), int(y)))
        left -= np.exp(-((xs - x) ** 2 + (ys - y) ** 2) / near)
    return found
