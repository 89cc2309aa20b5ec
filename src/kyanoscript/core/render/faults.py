"""What goes wrong in a print, found on the print: a short line for each, where it is, and a value that mends it.

Only what one sees is told, and only where the photograph did not have it already. The measures are our own; how much
of each is seen was set by eye on the demo photographs and on photographs of packages (see docs/decisions/0031).

- *oval*: a vignette that falls off steeply where the print behind it is smooth
- *bands*: a smooth passage of the photograph that has become flat strips with steps of two levels and more between
- *grit*: a smooth part whose finest contrast a pass has more than doubled
- *clipped*: tones that the photograph held apart, all black or all white
- *together*: tones far apart that have become one
- *tint*: a print that is to be gray, and nearly is
- *fine*: grain finer than the pixels, or than the eye sees on the paper
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import in_colour
from kyanoscript.core.late import cv2
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.edge.vignette import VISIBLE, Vignette
from kyanoscript.core.passes.surface.grain import Grain
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.site import Place
from kyanoscript.core.watching import breathe
from kyanoscript.translation import tr

Gray = NDArray[np.float32]
Mask = NDArray[np.bool_]
SIDE = 384  # pixels of the longer side of the print that is looked at as a whole
_WINDOW = (40, 96)  # pixels of the print itself that are looked at in one place: of a small one, of a large one
_WINDOWS = 8
_LEAST = 40  # pixels of the shorter side: on less nothing is judged
_MOST = 3  # that are told at once, the worst first
_SMOOTH = 2.6  # levels: finest contrast of what is smooth
_GRITTY, _SEEN = 2.0, 2.4  # times as much, and so many levels, are seen
_FLAT, _STEP = 0.35, 2.0  # levels from pixel to pixel: within a strip at most, between two strips at least
_QUIET, _QUIET_SHARE = 4.0, 0.2  # levels of contrast, and so much of an oval's rim: there it is seen
_LOST = 0.06  # of the print
_SMALL = 1170  # pixels: on smaller photographs all grain that is meant for a print is finer than they are
_NEARLY = (0.0025, 0.012)  # Oklab chroma of what is nearly gray
_EYE = 0.06  # millimetres: grain that is finer is not seen at arm's length (common practice, no source)
_DRAWN = ("threshold", "edge-lines", "negative")  # passes that are for black and white alone


@dataclass(frozen=True, eq=False)
class Fault:
    """Something that goes wrong in a print."""

    what: str
    words: str  # a line
    worse: float  # than another one: 0…1 and more
    step: str = ""  # the identity of the pass that does it, if one does
    mend: dict[str, Any] = field(default_factory=dict)  # the value of it that mends it
    mends: str = ""  # that in words
    where: Mask | None = None  # on the whole print, small; None: all over


def faults(renderer: Renderer, script: Script) -> list[Fault]:
    """What goes wrong in a print, the worst first; at most three."""
    if min(renderer.size(1.0)) < _LEAST or script.ending is not None or not any(step.acts for step in script.passes):
        return []
    seen = _Seen(renderer, script)
    found: list[Fault] = []
    for look in (_ovals, _fine_grain, _tint, _tones, _grit, _bands):
        breathe()
        found += look(seen)
    return sorted(found, key=lambda fault: -fault.worse)[:_MOST]


class _Seen:
    """The print and what it was made from, small and in places at its own size."""

    def __init__(self, renderer: Renderer, script: Script) -> None:
        self.renderer, self.script = renderer, script
        self.scale = min(1.0, SIDE / max(renderer.size(1.0)))
        self.whole = Rect(0, 0, *renderer.size(self.scale))
        self.print_ = renderer.region(self.whole, self.scale)
        self.gray = self._gray(self.print_)
        self.photo = self.stage(0)
        self.acting = [(k, step) for k, step in enumerate(script.passes) if step.acts]
        self._windows: list[Rect] | None = None

    def _gray(self, planes: NDArray[np.float32]) -> Gray:
        return np.ascontiguousarray(np.clip(colour.gray_of(planes, self.renderer.space)[0], 0, 1))

    def stage(self, upto: int) -> Gray:
        """The whole as it is after some passes, in grays."""
        return self._gray(self.renderer.region(self.whole, self.scale, upto))

    def part(self, rect: Rect, upto: int | None = None) -> Gray:
        """A part of the print at its own size."""
        return self._gray(self.renderer.region(rect, 1.0, upto))

    def windows(self) -> list[Rect]:
        """Places that are smooth in the photograph, smoothest first."""
        if self._windows is None:
            width, height = self.renderer.size(1.0)
            side = min(max(_WINDOW[0], min(max(width, height) // 20, _WINDOW[1])), width, height)
            rough = cv2.blur(_finest(self.photo, 1.2), (9, 9))
            rough[(self.photo < 0.06) | (self.photo > 0.98)] = 1
            taken: list[Rect] = []
            tones: list[int] = []  # eighths of the scale: no more than two of one, or a plain sky is all there is
            for at in np.argsort(rough, axis=None)[:: max(1, rough.size // 4000)]:
                y, x = divmod(int(at), rough.shape[1])
                if rough[y, x] * 255 > _SMOOTH or len(taken) == _WINDOWS:
                    break
                left = min(max(round((x + 0.5) / self.scale - side / 2), 0), width - side)
                top = min(max(round((y + 0.5) / self.scale - side / 2), 0), height - side)
                tone = int(self.photo[y, x] * 8)
                apart = all(abs(left - r.x) > 1.2 * side or abs(top - r.y) > 1.2 * side for r in taken)
                if apart and tones.count(tone) < 2:
                    taken.append(Rect(left, top, side, side))
                    tones.append(tone)
            self._windows = taken
        return self._windows

    def mask(self, parts: list[Rect]) -> Mask:
        """Where some places lie."""
        found = np.zeros(self.gray.shape, np.bool_)
        for rect in parts:
            x0, y0 = int(rect.x * self.scale), int(rect.y * self.scale)
            x1, y1 = int(rect.right * self.scale) + 1, int(rect.bottom * self.scale) + 1
            found[y0:y1, x0:x1] = True
        return found


def _finest(gray: Gray, sigma: float) -> Gray:
    """The spread of the finest contrast around each pixel."""
    fine = gray - cv2.GaussianBlur(gray, (0, 0), sigma)
    return np.asarray(np.sqrt(cv2.GaussianBlur(fine * fine, (0, 0), 3)), np.float32)


def _told(step: Pass, name: str, value: Any) -> str:
    spec = step.params()[name]
    return f"{spec.label}: {spec.says(value)}"


# One pass


def _ovals(seen: _Seen) -> Iterator[Fault]:
    for k, step in seen.acting:
        if not isinstance(step, Vignette) or step.where is not None:
            continue
        share = step.strength / 100
        over = step.steepness() * share / VISIBLE
        if over <= 1:
            continue
        ring = _ring(seen, step)
        behind = _finest(seen.stage(k), 2.0) * 255
        if not ring.any() or float(np.mean(behind[ring] < _QUIET)) < _QUIET_SHARE:
            continue  # among leaves nobody sees it
        soft = min(step.soft * over * 1.05, 100.0)
        mend = {"soft": float(np.ceil(soft))}
        if step.with_(**mend).steepness() * share > VISIBLE:
            mend = {"amount": round(step.amount / over * 0.95, 2)}
        name, value = next(iter(mend.items()))
        yield Fault("oval", "The vignette's oval is seen", over - 1, step.id, mend, _told(step, name, value), ring)


def _ring(seen: _Seen, step: Vignette) -> Mask:
    """Where the light falls off."""
    bare = step.model_copy(update={"strength": 100.0, "amount": -1.0, "blend": "normal"})
    ground = seen.renderer.ground(seen.scale)
    place = Place(seen.whole, seen.scale, max(seen.renderer.framing.photo) * seen.scale, ground=ground)
    light = colour.to_light(bare.apply(np.full((1, *seen.gray.shape), 0.5, np.float32), place)[0])
    share = -np.log2(np.maximum(light / light.max(), 1e-6))
    return np.asarray((share > 0.15) & (share < 0.85), bool)


def _fine_grain(seen: _Seen) -> Iterator[Fault]:
    longer = max(seen.renderer.framing.photo)
    if longer < _SMALL:
        return
    for _, step in seen.acting:
        if not isinstance(step, Grain) or step.amount * step.strength < 100:
            continue
        pixels = step.size / 1000 * longer
        if pixels < 0.7:
            size = round(min(1000 / longer, 10.0) + 0.005, 2)
            words = "The grain is finer than the print's pixels"
            yield Fault("fine", words, 1 - pixels, step.id, {"size": size}, _told(step, "size", size))
            continue
        sizes = [_millimetres(step, seen, sheet.placing.across) for _, sheet in seen.script.sheets]
        if sizes and max(sizes) < _EYE:
            size = round(step.size * _EYE * 1.2 / max(sizes), 2)
            words = "The grain is finer than is seen on the paper"
            yield Fault("fine", words, 1 - max(sizes) / _EYE, step.id, {"size": size}, _told(step, "size", size))


def _millimetres(step: Grain, seen: _Seen, across: float) -> float:
    """From grain to grain on a sheet that the print is so wide on."""
    width, _ = seen.renderer.size(1.0)
    return step.size / 1000 * max(seen.renderer.framing.photo) * across / width


def _tint(seen: _Seen) -> Iterator[Fault]:
    weighed = [step for _, step in seen.acting if step.grays() and step.blend == "normal" and step.where is None]
    coloured = [step for _, step in seen.acting if step.colours() or step.run]
    if not weighed or coloured or len(seen.print_) == 1:
        return
    lab = colour.to_oklab(in_colour(seen.print_), seen.renderer.space)
    chroma = np.hypot(lab[1], lab[2])
    high = float(np.percentile(chroma, 95))
    if not _NEARLY[0] < high < _NEARLY[1]:
        return
    partly = next((step for step in weighed if step.strength < 100), None)
    mend: dict[str, Any] = {"strength": 100.0} if partly is not None else {}
    yield Fault(
        "tint", "The print is nearly gray, and not quite", high / _NEARLY[1], partly.id if partly else "", mend,
        _told(partly, "strength", 100.0) if partly else "", chroma > _NEARLY[0],
    )  # fmt: skip


# Tones


def _tones(seen: _Seen) -> Iterator[Fault]:
    if any(step.kind in _DRAWN for _, step in seen.acting):
        return
    held = (seen.photo > 0.08) & (seen.photo < 0.92)
    for words, pure, name in (
        ("Tones of the photograph are all black", seen.gray <= 0.6 / 255, "in_black"),
        ("Tones of the photograph are all white", seen.gray >= 254.4 / 255, "in_white"),
    ):
        lost = pure & held
        if lost.mean() > _LOST:
            yield _lost(seen, lost, words, name)
            return
    yield from _one_tone(seen, held)


def _lost(seen: _Seen, lost: Mask, words: str, name: str) -> Fault:
    """Which pass does it, and how far back its end has to go."""
    white = name == "in_white"
    entering = seen.photo
    for k, step in seen.acting:
        leaving = seen.stage(k + 1)
        gone = (leaving >= 254.4 / 255 if white else leaving <= 0.6 / 255) & lost
        if gone.mean() > 0.7 * lost.mean():
            mend: dict[str, Any] = {}
            if step.kind == "levels" and not getattr(step, "auto", False):
                most = float(np.percentile(entering[gone], 97 if white else 3)) * 255
                mend = {name: float(np.ceil(most) if white else np.floor(most))}
            told = _told(step, name, mend[name]) if mend else ""
            return Fault("clipped", words, float(lost.mean()) * 4, step.id, mend, told, lost)
        entering = leaving
    return Fault("clipped", words, float(lost.mean()) * 4, where=lost)


def _one_tone(seen: _Seen, held: Mask) -> Iterator[Fault]:
    """Tones far apart in the photograph that are one in the print."""
    values = seen.gray[held] * 255
    if values.size < 400:
        return
    counts = np.bincount(np.rint(values).astype(np.intp), minlength=256)
    near = np.convolve(counts, np.ones(3, np.intp), "same")
    top = int(np.argmax(near[4:252])) + 4
    one = held & (np.abs(seen.gray * 255 - top) <= 1.5)
    apart = np.ptp(np.percentile(seen.photo[one], [5, 95])) * 255 if one.any() else 0.0
    if one.mean() > 0.3 and apart > 45:
        words = "Tones that were far apart have become one"
        yield Fault("together", words, float(one.mean()), where=one)
        return
    photo = np.ptp(np.percentile(seen.photo, [5, 95])) * 255
    print_ = np.ptp(np.percentile(seen.gray, [5, 95])) * 255
    if photo > 90 and print_ < 28:
        yield Fault("together", "All tones lie close together", float(1 - print_ / 28))


# Smooth parts, at the print's own size

_FINE = {"local-contrast": "fine", "sharpen": "amount", "local-exposure": "open"}


def _grit(seen: _Seen) -> Iterator[Fault]:
    for k, step in seen.acting:
        name = _FINE.get(step.kind)
        if name is None or step.where is not None or len(seen.windows()) < 2:
            continue
        gritty, much = [], []
        for rect in seen.windows():
            before, after = (float(np.median(_finest(seen.part(rect, upto), 1.5))) * 255 for upto in (k, k + 1))
            if after > _SEEN and after > _GRITTY * max(before, 0.3) and before < _SMOOTH:
                gritty.append(rect)
                much.append(after / max(before, 0.3))
        if len(gritty) * 2 > len(seen.windows()):
            value = getattr(step, name)
            mend = {name: float(round(value * min(0.7, 0.5 / (max(much) - 1))))}
            words = tr("{label} makes smooth parts gritty", label=step.label)
            yield Fault(
                "grit", words, float(np.mean(much)) / 4, step.id, mend, _told(step, name, mend[name]), seen.mask(gritty)
            )


def _bands(seen: _Seen) -> Iterator[Fault]:
    banded = [rect for rect in seen.windows() if _banded(seen.part(rect) * 255, seen.part(rect, 0) * 255)]
    if banded and len(banded) * 5 >= len(seen.windows()):
        share = len(banded) / len(seen.windows())
        yield Fault("bands", "Smooth passages break up into bands", share, where=seen.mask(banded))


def _banded(print_: Gray, photo: Gray) -> bool:
    """Whether flat strips lie side by side where the photograph passes over evenly, in levels."""
    for axis in (0, 1):
        steps, was = np.abs(np.diff(print_, axis=axis)), np.abs(np.diff(photo, axis=axis))
        jumps = steps > _STEP
        even = was[jumps] <= 1.5
        flat = float(np.mean(steps < _FLAT))
        if flat > 0.6 and 0.004 < float(np.mean(jumps)) < 0.35 and even.size and float(np.mean(even)) > 0.8:
            return True
    return False
