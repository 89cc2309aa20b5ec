"""Mend: dust, hairs and scratches of a scan found and filled, fading evened out, the tonal range opened.

A torn-off part is shown and left as it is: what lay there nobody knows. What is damaged is decided on one picture of
the scan, at its own pixels up to a few megapixels, and holds at every size: `kyanoscript.core.mend`. What is found
wrongly, or not at all, is put right with strokes.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.geometry import Affine
from kyanoscript.core.mend import detect, even, fill
from kyanoscript.core.params import Declared, choice, length, listed, number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up
from kyanoscript.core.stencil import brush
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.shapes import Dot, dots

_MOST = 6_000_000  # pixels of the picture that damage is looked for on
_SMALL = 250_000  # pixels of the picture that fading is judged on
_RED = (0.86, 0.2, 0.12)
f = np.float32


class Marking(Declared):
    """One stroke over a place that is to be mended, or left alone."""

    label: ClassVar[str] = "Brush"
    turns: ClassVar[dict[str, str]] = {"mend": "leave", "leave": "mend"}  # what Ctrl makes of a stroke

    points: tuple[Dot, ...] = dots("Way", "Places of the brush")
    does: Literal["mend", "leave"] = choice(
        "mend", (("mend", "mends here"), ("leave", "leaves alone")), "Brush", "What the stroke says of the place"
    )
    size: float = length(6, 0.1, 500, "Size", "Diameter of the brush", step=0.5)
    hardness: float = number(100, 0, 100, "%", "Hardness", "How much of the brush counts", shown=False)
    flow: float = number(100, 1, 100, "%", "Flow", "How much is laid down on the way of one radius", shown=False)


@dataclass(frozen=True)
class _Change:
    """What is added at the damaged pixels alone: so little that it can be kept for scans of any size."""

    where: NDArray[np.int64]  # places in the whole picture, row after row
    added: Planes  # (planes, n)
    shape: tuple[int, ...]

    def at(self, place: Place, key: tuple[Any, ...]) -> Planes:
        """On the region of a pass, at its size; ``key`` stands for this change among what is kept."""
        assert place.ground is not None
        width, height = place.ground.framing.size(place.scale)
        rect, own = place.rect, (self.shape[1], self.shape[0])
        if own == (width, height):
            return self._dense(rect)
        if own[0] > width:  # reduced by areas, once for the whole: it is small
            whole = Rect(0, 0, *own)
            small = place.ground.memo(
                ("mend reduced", place.scale, *key),
                lambda: np.stack([_reduced(p, (width, height)) for p in self._dense(whole)]),
            )
            return np.asarray(small[:, rect.y : rect.bottom, rect.x : rect.right])
        across, down = own[0] / width, own[1] / height
        x0, y0 = max(0, int(rect.x * across) - 2), max(0, int(rect.y * down) - 2)
        x1, y1 = min(own[0], int(rect.right * across) + 3), min(own[1], int(rect.bottom * down) + 3)
        part = self._dense(Rect(x0, y0, x1 - x0, y1 - y0))
        shift = Affine(across, 0, (rect.x + 0.5) * across - 0.5 - x0, 0, down, (rect.y + 0.5) * down - 0.5 - y0)
        return looked_up(part, shift, rect.width, rect.height)

    def _dense(self, rect: Rect) -> Planes:
        """A region at its own size, 0 where nothing is added."""
        width = self.shape[1]
        first, last = np.searchsorted(self.where, (rect.y * width, rect.bottom * width))
        rows, columns = np.divmod(self.where[first:last], width)
        inside = (columns >= rect.x) & (columns < rect.right)
        out = np.zeros((len(self.added), rect.height, rect.width), np.float32)
        out[:, rows[inside] - rect.y, columns[inside] - rect.x] = self.added[:, first:last][:, inside]
        return out


class Mend(Pass):
    """Dust, hairs, scratches, fading."""

    kind: ClassVar[str] = "mend"
    label: ClassVar[str] = "Mend"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Dust, hairs and scratches of a scan; fading"
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "marks"
    waits: ClassVar[str] = "Looking the scan over for damage: the first time this takes a few seconds"
    samples: ClassVar[dict[str, Any]] = {"sensitivity": 0.0, "even": 100.0, "range": 100.0}  # finding takes a while

    sensitivity: float = number(50, 0, 100, "%", "Sensitivity", "How faint damage is still found; 0: none")
    widest: float = length(8, 0.5, 60, "Widest", "What is wider than that belongs to the picture", step=0.5)
    infrared: bool = toggle(True, "By infrared", "What the infrared of a scan shows to lie on it, if it has any")
    even: float = number(0, 0, 100, "%", "Even out", "Faded and unevenly lit parts become like the middle")
    range: float = number(0, 0, 100, "%", "Open the tones", "From faded darks and lights to full ones")
    shown: Literal["print", "found"] = choice(
        "print",
        (("print", "the mended print"), ("found", "what was found")),
        "Show",
        "What was found, in red; meanwhile the passes after this one rest",
    )
    marks: tuple[Marking, ...] = listed(
        "strokes", (Marking,), "Strokes", "What to mend as well, and what to leave alone"
    )

    def colours(self) -> bool:
        return self.shown == "found"

    @property
    def ends(self) -> bool:
        return self.shown == "found"

    def apply(self, planes: Planes, place: Place) -> Planes:
        ground = place.ground
        if ground is None:
            return planes
        out = planes
        if self.sensitivity or self.marks:
            key = (place.chain, self.sensitivity, self.widest, self.infrared, self.marks)
            found = ground.memo(("mend found", *key), lambda: self._found(place))
            if self.shown == "found":
                torn = ground.memo(("mend missing", place.chain), lambda: detect.missing(_gray(ground, _MOST)[0]))
                mask = _at(np.maximum(found, torn)[None].astype(np.float32), place)
                out = in_colour(planes)
                return np.ascontiguousarray(out + mask * (np.array(_RED, np.float32).reshape(3, 1, 1) - out))
            if found.any():
                change: _Change = ground.memo(("mend change", *key), lambda: self._change(place, found))
                out = np.clip(planes + change.at(place, key), 0, 1)
        if self.even or self.range:
            ends = ground.memo(("mend ends", place.chain), lambda: even.ends(_gray(ground, _SMALL)[0]))
            out = self._evened(out, place, *ends)
        return np.ascontiguousarray(out, np.float32)

    def _found(self, place: Place) -> NDArray[np.uint8]:
        """The damaged pixels of the whole picture."""
        ground = place.ground
        assert ground is not None
        here = replace(ground, scale=_scale(ground, _MOST))
        width, height = here.framing.size(here.scale)
        mask = np.zeros((height, width), np.uint8)
        if self.sensitivity:
            eighths = ground.memo(("mend likely", place.chain), lambda: _looked_over(ground, place.chain))
            widest = self.widest / 1000 * here.longer
            mask = detect.chosen(eighths, self.sensitivity, widest)
            if self.infrared and here.infrared is not None:
                seen = here.infrared(Rect(0, 0, width, height), here.scale)[0]
                mask = np.maximum(mask, detect.shadowed(seen, self.sensitivity, widest))
        for mark in self.marks:
            covered = brush.cover(mark.points, mark.size, 100, 100, Rect(0, 0, width, height), here)
            if covered is not None:
                y, x, values = covered
                part = mask[y : y + values.shape[0], x : x + values.shape[1]]
                part[values > 0.5] = mark.does == "mend"
        return mask

    def _change(self, place: Place, found: NDArray[np.uint8]) -> _Change:
        """What mending adds to every plane of the whole picture."""
        ground = place.ground
        assert ground is not None
        scale = _scale(ground, _MOST)
        whole = ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale)
        where = np.flatnonzero(found)
        added = [(fill.filled(plane, found) - plane).ravel()[where] for plane in whole]
        return _Change(where, np.stack(added), found.shape)

    def _evened(self, planes: Planes, place: Place, parts: Planes, dark: float, light: float) -> Planes:
        """Every part's darks and lights brought to those of the middle, and the whole range opened."""
        low, high = _at(parts, place)
        share = f(self.even / 100)
        gain = 1 + share * (f(light - dark) / np.maximum(high - low, f(0.15)) - 1)
        gain = np.clip(gain, 0.6, 2.0)
        out = (planes - low) * gain + low + share * (f(dark) - low)
        opened = (out - f(dark)) / f(max(light - dark, 0.05)) * f(0.96) + f(0.02)
        return np.clip(out + f(self.range / 100) * (opened - out), 0, 1)


def _looked_over(ground: Ground, chain: int) -> NDArray[np.int8]:
    """How likely each pixel of the whole picture is damaged."""

    def kept(tile: tuple[int, int], work: Callable[[], Any]) -> Any:
        return ground.memo(("mend tile", chain, tile), work)

    return detect.likely(_gray(ground, _MOST)[0], kept, ground.watch)


def _scale(ground: Ground, most: int) -> float:
    return min(1.0, math.sqrt(most / (ground.framing.width * ground.framing.height)))


def _gray(ground: Ground, most: int) -> Planes:
    """The whole of what comes into the pass, in gray, of at most so many pixels."""
    scale = _scale(ground, most)
    return colour.gray_of(ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale), ground.space)


def _at(whole: Planes, place: Place) -> Planes:
    """Planes of the whole picture at some size, on the region at its own."""
    ground = place.ground
    assert ground is not None
    width, height = ground.framing.size(place.scale)
    rect = place.rect
    if whole.shape[1:] == (height, width):
        return whole[:, rect.y : rect.bottom, rect.x : rect.right]
    if whole.shape[1] > height:
        whole = np.stack([_reduced(p, (width, height)) for p in whole])
        return whole[:, rect.y : rect.bottom, rect.x : rect.right]
    across, down = whole.shape[2] / width, whole.shape[1] / height
    shift = Affine(across, 0, (rect.x + 0.5) * across - 0.5, 0, down, (rect.y + 0.5) * down - 0.5)
    return looked_up(whole, shift, rect.width, rect.height)


def _reduced(plane: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)
