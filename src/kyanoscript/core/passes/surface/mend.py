"""Mend: dust, hairs, scratches, cracks and creases of a scan found and filled, stains, silvering and fading evened out.

A torn-off part is shown and left as it is, for what lay there nobody knows; on request it is filled with patches of the
picture. What is damaged is decided on one picture of the scan, at its own pixels up to a few megapixels, and holds at
every size: `kyanoscript.core.mend`. What is found wrongly, or not at all, is put right with strokes.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.late import cv2
from kyanoscript.core.mend import detect, even, fill, lines, patches
from kyanoscript.core.mend.laid import Change, at
from kyanoscript.core.params import Declared, choice, length, listed, number, toggle
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.stencil import brush
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.shapes import Dot, dots
from kyanoscript.core.watching import breathe

_MOST = 6_000_000  # pixels of the picture that damage is looked for on
_SMALL = 250_000  # pixels of the picture that fading is judged on
_SMOOTH = 1_000_000  # pixels of the picture that stains are looked at on: what takes them away is smooth
_BESIDE = 0.024  # of the longer side: how wide a crease is shaded
_AROUND = 4  # pixels round what is changed that are kept as well: a smaller picture needs them
_WIDE = 7  # pixels: what is deeper is filled with patches, so that it does not become a smear
_RED = (0.86, 0.2, 0.12)
f = np.float32


class Marking(Declared):
    """One stroke over a place that is to be mended, or left alone, or along the rim of a stain."""

    label: ClassVar[str] = "Brush"
    turns: ClassVar[dict[str, str]] = {
        "mend": "leave",
        "leave": "mend",
        "stain": "leave",
    }  # what Ctrl makes of a stroke

    points: tuple[Dot, ...] = dots("Way", "Places of the brush")
    does: Literal["mend", "leave", "stain"] = choice(
        "mend",
        (("mend", "mends here"), ("leave", "leaves alone"), ("stain", "takes a stain away")),
        "Brush",
        "What a stroke says of the place; a stain is drawn round, along its rim, which is looked for under the brush",
    )
    size: float = length(6, 0.1, 500, "Size", "Diameter of the brush", step=0.5)
    hardness: float = number(100, 0, 100, "%", "Hardness", "How much of the brush counts", shown=False)
    flow: float = number(100, 1, 100, "%", "Flow", "How much is laid down on the way of one radius", shown=False)


class Mend(Pass):
    """Dust, scratches, creases, stains, fading."""

    kind: ClassVar[str] = "mend"
    label: ClassVar[str] = "Mend"
    stage: ClassVar[str] = "surface"
    about: ClassVar[str] = "Dust, scratches, creases, stains and fading of a scan"
    use: ClassVar[str] = "First on a scan: dust, scratches, creases, stains, fading"
    beware: ClassVar[str] = "Beads, lashes and lace may look like dust: mark what to leave alone"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "dust and scratches": {"sensitivity": 50.0, "widest": 8.0, "lines": True, "holes": False},
        "only the worst": {"sensitivity": 25.0, "widest": 14.0, "lines": True, "holes": False},
        "creased and torn": {"sensitivity": 60.0, "widest": 20.0, "lines": True, "holes": True},
        "faded and silvered": {"even": 60.0, "silver": 60.0, "range": 70.0},
    }
    pointwise: ClassVar[bool] = False
    draws: ClassVar[str] = "marks"
    waits: ClassVar[str] = "Looking the scan over for damage: the first time this takes a few seconds"
    samples: ClassVar[dict[str, Any]] = {
        "sensitivity": 0.0,
        "even": 100.0,
        "silver": 100.0,
        "range": 100.0,
    }  # finding takes a while

    sensitivity: float = number(50, 0, 100, "%", "Sensitivity", "How faint damage is still found; 0: none")
    widest: float = length(8, 0.5, 60, "Widest", "What is wider than that belongs to the picture", step=0.5)
    lines: bool = toggle(True, "Follow lines", "Cracks, creases and scratches are followed where they are hardly seen")
    holes: bool = toggle(False, "Fill what is missing", "Torn corners and holes, with patches of the picture: made up")
    infrared: bool = toggle(True, "By infrared", "What the infrared of a scan shows to lie on it, if it has any")
    even: float = number(0, 0, 100, "%", "Even out", "Faded and unevenly lit parts become like the middle")
    silver: float = number(0, 0, 100, "%", "Silvering", "A sheen of silver over the darks, taken off")
    range: float = number(0, 0, 100, "%", "Open the tones", "From faded darks and lights to full ones")
    if_faded: bool = toggle(
        False,
        "Only if it has faded",
        "Evens out and opens only as far as the darks of the scan have faded: a sound one keeps its contrast",
    )
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
        marks = tuple(mark for mark in self.marks if mark.does != "stain")
        if self.sensitivity or marks or self.holes:
            key = (place.chain, self.sensitivity, self.widest, self.lines, self.holes, self.infrared, marks)
            found = ground.memo(("mend found", *key), lambda: self._found(place))
            if self.shown == "found":
                mask = at(np.maximum(found, _missing(place))[None].astype(np.float32), place)
                out = in_colour(planes)
                return np.ascontiguousarray(out + mask * (np.array(_RED, np.float32).reshape(3, 1, 1) - out))
            if found.any():
                change: Change = ground.memo(("mend change", *key), lambda: self._change(place, found, key))
                out = change.laid_on(planes, place, key)
        for mark in self.marks:
            if mark.does == "stain":
                stain: Planes = ground.memo(
                    ("mend stain", place.chain, mark), functools.partial(_unstained, place, mark)
                )
                out = np.clip(out + at(stain, place), 0, 1)
        if self.silver:
            veil: Planes = ground.memo(("mend veil", place.chain), lambda: even.veil(_whole(place, _SMALL)))
            out = even.unveiled(out, at(veil, place), self.silver / 100)
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
            breathe()
            if self.lines:
                inner = lines.off_the_rim(_missing(place))  # a sheet's own edge is no crease
                apart = np.where(inner, mask, 0).astype(np.uint8)
                breathe()
                told = np.where(inner, eighths, -64).astype(np.int8)
                followed = lines.widened(np.maximum(apart, lines.followed(told, apart, self.sensitivity)))
                mask = np.maximum(mask, followed)
            if self.infrared and here.infrared is not None:
                seen = here.infrared(Rect(0, 0, width, height), here.scale)[0]
                mask = np.maximum(mask, detect.shadowed(seen, self.sensitivity, widest))
        missing = _missing(place)
        mask[missing > 0] = 0
        if self.holes:
            mask = np.maximum(mask, detect.torn(missing))
        for mark in self.marks:
            covered = None
            if mark.does != "stain":
                covered = brush.cover(mark.points, mark.size, 100, 100, Rect(0, 0, width, height), here)
            if covered is not None:
                y, x, values = covered
                part = mask[y : y + values.shape[0], x : x + values.shape[1]]
                part[values > 0.5] = mark.does == "mend"
        return mask

    def _change(self, place: Place, found: NDArray[np.uint8], key: tuple[Any, ...]) -> Change:
        """What mending adds to every plane of the whole picture; ``key`` names what is found of the way there."""
        ground = place.ground
        assert ground is not None
        whole = _whole(place, _MOST)
        missing = _missing(place)
        wide = detect.wide(found, _WIDE)
        thin = np.maximum(found, missing) if missing.any() else found  # nothing is carried in from the scanner's bed
        mended, damaged = whole.copy(), found > 0
        for k, plane in enumerate(whole):
            fill_it = functools.partial(_thinly, plane, thin, damaged)
            mended[k, damaged] = ground.memo(("mend thin", k, *key), fill_it)
        if wide.any():
            kept = functools.partial(_kept, ground, key)
            mended = patches.filled(mended, wide, missing, ground.watch, kept)
        touched = damaged.copy()
        if self.lines:
            from kyanoscript.core.mend import stains  # brings SciPy, which a first look does without

            band = _BESIDE * max(found.shape)
            inner = lines.off_the_rim(missing)
            for crease in lines.creases(np.where(inner, found, 0).astype(np.uint8)):
                breathe()
                added, (y, x) = stains.correction(mended, crease, band, snaps=False)
                part = np.s_[y : y + added.shape[1], x : x + added.shape[2]]
                sound = (missing[part] == 0) & (np.abs(added).max(axis=0) > 1e-4)
                mended[:, *part] += added * sound
                touched[part] |= sound
        breathe()
        around = cv2.dilate(touched.astype(np.uint8), np.ones((2 * _AROUND + 1,) * 2, np.uint8))
        where = np.flatnonzero(around)
        was, now = (planes.reshape(len(whole), -1)[:, where] for planes in (whole, np.clip(mended, 0, 1)))
        return Change(where, now - was, now, found.shape)

    def _evened(self, planes: Planes, place: Place, parts: Planes, dark: float, light: float) -> Planes:
        """Every part's darks and lights brought to those of the middle, and the whole range opened."""
        low, high = at(parts, place)
        faded = even.faded(dark) if self.if_faded else 1.0
        share = f(faded * self.even / 100)
        gain = 1 + share * (f(light - dark) / np.maximum(high - low, f(0.15)) - 1)
        gain = np.clip(gain, 0.6, 2.0)
        out = (planes - low) * gain + low + share * (f(dark) - low)
        opened = (out - f(dark)) / f(max(light - dark, 0.05)) * f(0.96) + f(0.02)
        return np.clip(out + f(faded * self.range / 100) * (opened - out), 0, 1)


def _thinly(plane: NDArray[np.float32], mask: NDArray[np.uint8], damaged: NDArray[np.bool_]) -> NDArray[np.float32]:
    """What comes into the damaged places of a plane from around them."""
    return fill.filled(plane, mask)[damaged]


def _kept(ground: Ground, key: tuple[Any, ...], hole: int, work: Callable[[], Planes]) -> Planes:
    """What comes into a hole, if it was found before."""
    made: Planes = ground.memo(("mend hole", hole, *key), work)
    return made


def _unstained(place: Place, mark: Marking) -> Planes:
    """What takes one stain away, on the whole picture."""
    from kyanoscript.core.mend import stains

    ground = place.ground
    assert ground is not None
    whole = _whole(place, _SMOOTH)
    here = replace(ground, scale=_scale(ground, _SMOOTH))
    across, down = ground.framing.photo
    back = here.to_photo.inverse()
    points = np.array([back(dot[0] / 100 * across, dot[1] / 100 * down) for dot in mark.points]) - 0.5
    out = np.zeros_like(whole)
    added, (y, x) = stains.correction(whole, points, mark.size / 1000 * here.longer)
    out[:, y : y + added.shape[1], x : x + added.shape[2]] = added
    return out


def _missing(place: Place) -> NDArray[np.uint8]:
    """Where there is no picture, on the picture that damage is looked for on."""
    ground = place.ground
    assert ground is not None
    found: NDArray[np.uint8] = ground.memo(
        ("mend missing", place.chain), lambda: detect.missing(_gray(ground, _MOST)[0])
    )
    return found


def _looked_over(ground: Ground, chain: int) -> NDArray[np.int8]:
    """How likely each pixel of the whole picture is damaged."""

    def kept(tile: tuple[int, int], work: Callable[[], Any]) -> Any:
        return ground.memo(("mend tile", chain, tile), work)

    return detect.likely(_gray(ground, _MOST)[0], kept, ground.watch)


def _scale(ground: Ground, most: int) -> float:
    return min(1.0, math.sqrt(most / (ground.framing.width * ground.framing.height)))


def _whole(place: Place, most: int) -> Planes:
    """The whole of what comes into the pass, of at most so many pixels."""
    ground = place.ground
    assert ground is not None
    scale = _scale(ground, most)
    return ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale)


def _gray(ground: Ground, most: int) -> Planes:
    """The whole of what comes into the pass, in gray, of at most so many pixels."""
    scale = _scale(ground, most)
    return colour.gray_of(ground.inputs("print", Rect(0, 0, *ground.framing.size(scale)), scale), ground.space)
