"""Inks: one to four transparent inks on paper, each with a curve.

Each ink covers a share of the paper that its curve gives for the tone: a tone printed as v covers what a black ink
would need for it, 1 − light(v), so that with a straight curve black ink on white paper prints every tone as it is.
Where an ink lies, light keeps the ink's transmittance T; of paper covered by a share a, ``1 − a + a·T`` of it comes
back (Murray and Davies 1936). Inks lie on one another by chance, so these multiply (Demichel's shares with the
overprints of ideal inks). In linear light

    out = paper · Π (1 − aᵢ (1 − Tᵢ))

An ink's colour is that of its full coverage on white paper.

Dots spread when they are printed: half a tone prints as half and its gain (ISO 12647-2 has curves A to E, 16 to 28 %).
Light spreads in the paper between dots: with Yule and Nielsen's factor n the formula holds for n-th roots of light (see
`kyanoscript.core.passes.covers`). And no ink is darker than what its surface and the paper's give back by themselves:
of the light, ``10^−D`` comes back whatever lies on it, where D is the largest density (the first form knows none: four
full inks would reach D 4).

A photograph in colours can choose its inks: each pixel goes to the inks whose tints are nearest to it in Oklab
(Ottosson 2020), at the lightness that it has, and each of them prints its tone.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space, encoded_of, in_spaces, oklab_of
from kyanoscript.core.kernel import helper
from kyanoscript.core.kernel.fastmath import exp2, power
from kyanoscript.core.params import Colour, Curve, choice, curve, ink, number
from kyanoscript.core.passes.base import Pass, form
from kyanoscript.core.passes.covers import spread
from kyanoscript.core.passes.toning.gradient_map import SIZE, map_tones
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.tones import curve_at, table

f = np.float32

_NOTHING: Curve = ((0.0, 255.0), (255.0, 255.0))
_DARKS: Curve = ((0.0, 0.0), (100.0, 140.0), (170.0, 240.0), (255.0, 255.0))
_LIGHTS: Curve = ((0.0, 130.0), (128.0, 182.0), (255.0, 255.0))
_MIDDLE: Curve = ((0.0, 120.0), (128.0, 205.0), (208.0, 246.0), (255.0, 255.0))


def _inks(*inks: tuple[str, Curve]) -> dict[str, Any]:
    found: dict[str, Any] = {"count": len(inks)}
    for k in range(4):
        found[f"ink_{k + 1}"], found[f"curve_{k + 1}"] = inks[k] if k < len(inks) else ("#1a1a1a", ())
    return found


def _gain(ink: int) -> Any:
    return number(
        0,
        0,
        40,
        "%",
        "Dot gain",
        "How much more than half a half tone prints; 22 on coated paper",
        group=f"Ink {ink}",
        when=("of", 2),
    )


class Inks(Pass):
    """Transparent inks on paper."""

    kind: ClassVar[str] = "inks"
    label: ClassVar[str] = "Inks"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Printed in one to four inks"
    use: ClassVar[str] = "To print in one to four inks, with plates to be made of each"
    beware: ClassVar[str] = "Colours at full coverage overprint darker than one expects"
    samples: ClassVar[dict[str, Any]] = _inks(("#25301f", _DARKS), ("#b5683a", _LIGHTS))
    # Our own inks; the green pair is a check value (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "one ink": _inks(("#1a1a1a", ())),
        "two inks: black and warm gray": _inks(("#1c1b1a", _DARKS), ("#8a7a68", _LIGHTS)),
        "two inks: greens": _inks(("#25bf21", ()), ("#a8d9a7", ())),
        "three inks: black, blue, ochre": _inks(("#15171c", _DARKS), ("#4f6f96", _MIDDLE), ("#c99a52", _LIGHTS)),
        "four inks: black to pale gray": _inks(
            ("#121212", _DARKS), ("#5a534d", _MIDDLE), ("#9d9388", _MIDDLE), ("#cfc4b2", _LIGHTS)
        ),
        # Curve C of ISO 12647-2 (22 % at a half), and n and density of such paper (common practice, no source)
        "printed on uncoated paper as it is": {
            **dict.fromkeys(("gain_1", "gain_2", "gain_3", "gain_4"), 22.0),
            "deepest": 1.8,
            "spreading": 1.7,
        },
        "poster: black, red, blue by colour": {
            "count": 3,
            "ink_1": "#161616",
            "curve_1": ((0.0, 0.0), (120.0, 170.0), (255.0, 255.0)),
            "ink_2": "#c0442e",
            "curve_2": ((0.0, 60.0), (128.0, 150.0), (255.0, 255.0)),
            "ink_3": "#2f57a8",
            "curve_3": ((0.0, 60.0), (128.0, 150.0), (255.0, 255.0)),
            "by": "colour",
        },
    }

    of: Literal[1, 2] = form("inks of any density", "no darker than the paper's and the inks' surface lets it be")
    count: int = number(2, 1, 4, "", "Inks", "How many are printed")
    paper: Colour = ink("#fbf7ee", "Paper", "Colour of the bare paper")
    shown: Literal["print", "1", "2", "3", "4"] = choice(
        "print",
        (("print", "the print"), ("1", "plate of ink 1"), ("2", "of ink 2"), ("3", "of ink 3"), ("4", "of ink 4")),
        "Shown",
        "All inks together, or one plate alone, in grays: black where its ink is full",
    )
    by: Literal["tone", "colour"] = choice(
        "tone",
        (("tone", "tone: all inks print all of it"), ("colour", "colour: each where its own is")),
        "Inks by",
        "What a photograph in colours is parted by: its tones, or the inks that are nearest to its colours",
        when=("of", 2),
    )
    deepest: float = number(
        2.0, 1, 3, "", "Largest density", "Of ink on this paper: 2.2 glossy, 1.8 uncoated", step=0.05, decimals=2,
        when=("of", 2),
    )  # fmt: skip
    spreading: float = number(
        1, 1, 3, "", "Light in the paper", "Yule and Nielsen's n: 1 none, 2 as on soft paper", step=0.1, decimals=1,
        when=("of", 2),
    )  # fmt: skip
    ink_1: Colour = ink("#1c1b1a", "Colour", "At full coverage on white paper", group="Ink 1")
    curve_1: Curve = curve(
        "Curve", "Tone in, and how light this ink prints it; a straight line: as it is", group="Ink 1"
    )
    gain_1: float = _gain(1)
    ink_2: Colour = ink("#8a7a68", "Colour", "At full coverage on white paper", group="Ink 2")
    curve_2: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 2")
    gain_2: float = _gain(2)
    ink_3: Colour = ink("#4f6f96", "Colour", "At full coverage on white paper", group="Ink 3")
    curve_3: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 3")
    gain_3: float = _gain(3)
    ink_4: Colour = ink("#c99a52", "Colour", "At full coverage on white paper", group="Ink 4")
    curve_4: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 4")
    gain_4: float = _gain(4)

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = colour.gray_of(planes, place.space)
        if self.of > 1 and self.by == "colour" and len(planes) == 3:
            return self._by_colour(planes, gray, place.space)
        on = self._on_paper() if self.of > 1 else None
        colours = _printed(self.inks(), self.paper, self.shown, place.space, on)
        out = np.empty((3, *gray.shape[1:]), np.float32)
        map_tones(gray, out, gray.size, colours, SIZE)
        return out

    def _on_paper(self) -> OnPaper:
        gains = (self.gain_1, self.gain_2, self.gain_3, self.gain_4)[: self.count]
        return OnPaper(tuple(gain / 100 for gain in gains), self.spreading, 10**-self.deepest)

    def _by_colour(self, planes: Planes, gray: Planes, space: Space) -> Planes:
        inks, on = self.inks(), self._on_paper()
        tints = np.array([colour.ink_of(text, space) for text, _ in inks]).T
        lab = np.ascontiguousarray(colour.to_oklab(tints, space).T, np.float32)
        tones = np.linspace(0, 1, SIZE)
        covers = table(
            np.stack([spread(coverage(points, tones), gain) for (_, points), gain in zip(inks, on.gains, strict=True)])
        )
        passed = table(colour.to_light(tints.T) ** (1 / on.n))
        paper = [float(v) for v in colour.to_light(np.array(colour.ink_of(self.paper, space)))]
        out = np.empty_like(planes)
        shown = 0 if self.shown == "print" else int(self.shown)
        print_nearest(
            planes, gray, out, gray.size, len(inks), lab, covers, SIZE, passed, *paper, on.n, on.least, shown, space
        )
        return out

    def inks(self) -> tuple[tuple[str, Curve], ...]:
        """Colour and curve of each ink that is printed."""
        every = ((self.ink_1, self.curve_1), (self.ink_2, self.curve_2),
                 (self.ink_3, self.curve_3), (self.ink_4, self.curve_4))  # fmt: skip
        return every[: self.count]

    def colours(self) -> bool:
        return True


def coverage(points: Curve, gray: NDArray[np.float64]) -> NDArray[np.float64]:
    """Share of the paper, 0…1, that an ink covers for grays 0…1."""
    return 1 - colour.to_light(np.clip(curve_at(points, gray) if points else gray, 0, 1))


@dataclass(frozen=True)
class OnPaper:
    """What becomes of inks on a paper."""

    gains: tuple[float, ...]  # of each ink: how much more than half a half tone prints, 0…1
    n: float  # Yule and Nielsen's factor
    least: float  # light that comes back whatever lies on it


@functools.lru_cache(maxsize=64)
def _printed(
    inks: tuple[tuple[str, Curve], ...], paper: str, shown: str, space: Space, on: OnPaper | None = None
) -> NDArray[np.float32]:
    """Encoded colours ``(3, SIZE)`` for grays evenly from 0 to 1."""
    gray = np.linspace(0, 1, SIZE)
    if shown != "print":
        k = int(shown) - 1
        plate = colour.to_encoded(1 - coverage(inks[k][1], gray)) if k < len(inks) else np.ones(SIZE)
        return table(colour.in_colour(plate[None]))
    light = np.repeat(colour.to_light(np.array(colour.ink_of(paper, space)))[:, None], SIZE, axis=1)
    if on is not None:
        left = np.ones_like(light)
        for (text, points), gain in zip(inks, on.gains, strict=True):
            passed = colour.to_light(np.array(colour.ink_of(text, space)))[:, None] ** (1 / on.n)
            left = left * (1 - spread(coverage(points, gray), gain) * (1 - passed))
        return table(np.clip(colour.to_encoded(light * (on.least + (1 - on.least) * left**on.n)), 0, 1))
    for text, points in inks:
        passed = colour.to_light(np.array(colour.ink_of(text, space)))[:, None]
        light = light * (1 - coverage(points, gray) * (1 - passed))
    return table(np.clip(colour.to_encoded(light), 0, 1))


@helper
def apart_from(light, a, b, ink_light, ink_a, ink_b):
    """How far a colour is, squared, from as much of an ink as makes a tint of its lightness."""
    much = min(max((f(1.0) - light) / max(f(1.0) - ink_light, f(0.02)), f(0.0)), f(1.2))
    u, v = a - much * ink_a, b - much * ink_b
    return u * u + v * v


_APART = 0.035  # of Oklab: inks whose tints are so much farther than the nearest hardly print


@in_spaces(
    "f4* rgb, f4* gray, f4* out, i8 n, i8 inks, f4* lab, f4* covers, i8 size, f4* passed, f4 pr, f4 pg, f4 pb, "
    "f4 yule, f4 least, i8 shown, f4* space"
)
def print_nearest(numbers):
    def print_nearest(rgb, gray, out, n, inks, lab, covers, size, passed, pr, pg, pb, yule, least, shown, space):
        m = numbers(space)
        per = f(1.442695) / f(2 * _APART * _APART)
        for k in range(n):
            light, a, b = oklab_of(rgb[k], rgb[n + k], rgb[n + n + k], m)
            at = min(max(gray[k], f(0.0)), f(1.0)) * f(size - 1)
            low = min(np.int64(at), size - 2)
            t = at - f(low)
            nearest, total = f(1e9), f(0.0)
            for i in range(inks):
                nearest = min(nearest, apart_from(light, a, b, lab[3 * i], lab[3 * i + 1], lab[3 * i + 2]))
            for i in range(inks):
                away = apart_from(light, a, b, lab[3 * i], lab[3 * i + 1], lab[3 * i + 2])
                total += exp2(per * (nearest - away))
            red, green, blue, alone = f(1.0), f(1.0), f(1.0), f(0.0)
            for i in range(inks):
                away = apart_from(light, a, b, lab[3 * i], lab[3 * i + 1], lab[3 * i + 2])
                share = exp2(per * (nearest - away)) / total
                cover = covers[i * size + low]
                cover = (cover + t * (covers[i * size + low + 1] - cover)) * share
                red *= f(1.0) - cover * (f(1.0) - passed[3 * i])
                green *= f(1.0) - cover * (f(1.0) - passed[3 * i + 1])
                blue *= f(1.0) - cover * (f(1.0) - passed[3 * i + 2])
                if i + 1 == shown:
                    alone = cover
            if shown > 0:
                out[k] = encoded_of(f(1.0) - alone)
                out[n + k] = out[k]
                out[n + n + k] = out[k]
            else:
                if yule != f(1.0):
                    red, green, blue = power(red, yule), power(green, yule), power(blue, yule)
                out[k] = encoded_of(pr * (least + (f(1.0) - least) * red))
                out[n + k] = encoded_of(pg * (least + (f(1.0) - least) * green))
                out[n + n + k] = encoded_of(pb * (least + (f(1.0) - least) * blue))

    return print_nearest
