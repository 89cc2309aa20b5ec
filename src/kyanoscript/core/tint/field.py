"""The chroma of every place, solved small and taken up to any size along the picture's own edges.

On the small picture the chroma is written as ``A·L + B`` in small windows (the guided filter of He, Sun and Tang, ECCV
2010); A and B are enlarged, and L is that of the large picture. So colour turns where the lightness turns.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import SRGB, parse_hex, to_oklab
from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.kernel.fastmath import power
from kyanoscript.core.late import cv2
from kyanoscript.core.tint import spline
from kyanoscript.core.tint.spline import Field

_WINDOW = 5  # pixels of the small picture within which chroma follows lightness
_MOST = 24  # anchors of one stroke
f = np.float32
LOOSELY = 1.0  # what was guessed or lent: what the hand lays beside it counts for more
_HELD_ACROSS, _HELD_DOWN = 9, 6  # places at which a base is held to


@dataclass(frozen=True)
class Small:
    """The small picture and its features."""

    lightness: Field  # (h, w), 0…100
    space: Field  # (5, h, w)


@dataclass(frozen=True)
class Mark:
    """A dab on the small picture: places and radius in its pixels, Oklab chroma."""

    places: tuple[tuple[float, float], ...]
    radius: float
    chroma: tuple[float, float]
    loose: float = spline.SMOOTH  # how far the colour may stay away from it


def small_picture(lightness: Field) -> Small:
    """Get a small picture ready."""
    return Small(lightness, spline.features(lightness))


@functools.lru_cache(maxsize=4096)
def chroma_of(colour: str) -> tuple[float, float]:
    """Oklab a and b of ``#rrggbb``."""
    _, a, b = to_oklab(np.array(parse_hex(colour)).reshape(3, 1), SRGB)[:, 0]
    return float(a), float(b)


@functools.lru_cache(maxsize=4096)
def tone_of(colour: str) -> float:
    """Oklab lightness, 0…1, of ``#rrggbb``; of black as of what is nearly so."""
    return max(0.02, float(to_oklab(np.array(parse_hex(colour)).reshape(3, 1), SRGB)[0, 0]))


def lightness_of(gray: Field) -> Field:
    """Oklab lightness, 0…100, of encoded grays, any shape."""
    out = np.empty_like(gray)
    lightnesses(gray, out, gray.size)
    return out


@kernel("f4* gray, f4* out, i8 n")
def lightnesses(gray, out, n):
    for k in range(n):
        out[k] = f(100.0) * lightness_at(max(gray[k], f(0.0)))


@helper
def lightness_at(v):
    """Oklab lightness, 0…1, of an encoded gray: the cube root of its light, in one power."""
    return (
        power(v * f(0.0773993808), f(0.3333333333))
        if v <= f(0.04045)
        else power((v + f(0.055)) * f(0.9478672986), f(0.8))
    )


def spread(small: Small, marks: Sequence[Mark], base: Field | None = None) -> Field:
    """Chroma ``(2, h, w)``: the base (none: gray) pulled to every mark, and with it all that looks alike."""
    height, width = small.lightness.shape
    start = np.zeros((2, height, width), np.float32) if base is None else base
    if not marks:
        return start
    anchors, values, loose = [], [], []
    for mark in marks:
        for x, y in thinned(mark.places):
            disc = _disc(x, y, mark.radius, width, height)
            loose.append(mark.loose)
            anchors.append(small.space[:, disc[0], disc[1]].mean(axis=1))
            values.append(np.array(mark.chroma) - start[:, disc[0], disc[1]].mean(axis=1))
    if base is not None:  # held to loosely all over: a dab changes what looks like its own place, not the whole
        for y, x in ((k, m) for k in range(_HELD_DOWN) for m in range(_HELD_ACROSS)):
            place = int((y + 0.5) * height / _HELD_DOWN), int((x + 0.5) * width / _HELD_ACROSS)
            anchors.append(small.space[:, place[0], place[1]])
            values.append(np.zeros(2))
            loose.append(LOOSELY)
    made = spline.spread(small.space, np.array(anchors, np.float64), np.array(values, np.float64), np.array(loose))
    return start + made


def thinned(places: Sequence[tuple[float, float]]) -> Sequence[tuple[float, float]]:
    """At most as many places of a stroke as tell where it went."""
    if len(places) <= _MOST:
        return places
    return [places[round(k)] for k in np.linspace(0, len(places) - 1, _MOST)]


def _disc(x: float, y: float, radius: float, width: int, height: int) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Rows and columns of the pixels of a disc; the nearest pixel, if it holds none."""
    r = max(radius, 0.0)
    ys = np.arange(max(0, int(y - r)), min(height, int(y + r) + 2))
    xs = np.arange(max(0, int(x - r)), min(width, int(x + r) + 2))
    rows, columns = np.nonzero((ys[:, None] + 0.5 - y) ** 2 + (xs + 0.5 - x) ** 2 <= r * r)
    if not len(rows):
        return np.array([min(max(int(y), 0), height - 1)]), np.array([min(max(int(x), 0), width - 1)])
    return ys[rows], xs[columns]


def along_edges(lightness: Field, chroma: Field, softness: float) -> Field:
    """A and B ``(4, h, w)``: gain and offset of a, then of b. ``softness``: contrast of L below which nothing turns."""

    def mean(plane: Field) -> Field:
        return np.asarray(cv2.blur(plane, (_WINDOW, _WINDOW), borderType=cv2.BORDER_REPLICATE), np.float32)

    middle = mean(lightness)
    varies = mean(lightness * lightness) - middle * middle + f(softness * softness)
    made = []
    for plane in chroma:
        average = mean(plane)
        gain = (mean(plane * lightness) - average * middle) / varies
        made += [mean(gain.astype(np.float32)), mean(average - gain.astype(np.float32) * middle)]
    return np.stack(made)
