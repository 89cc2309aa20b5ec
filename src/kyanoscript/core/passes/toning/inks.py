"""Inks: one to four transparent inks on paper, each with a curve.

Each ink covers a share of the paper that its curve gives for the tone: a tone printed as v covers what a black ink
would need for it, 1 − light(v), so that with a straight curve black ink on white paper prints every tone as it is.
Where an ink lies, light keeps the ink's transmittance T; of paper covered by a share a, ``1 − a + a·T`` of it comes
back (Murray and Davies 1936). Inks lie on one another by chance, so these multiply (Demichel's shares with the
overprints of ideal inks). In linear light

    out = paper · Π (1 − aᵢ (1 − Tᵢ))

An ink's colour is that of its full coverage on white paper.
"""

from __future__ import annotations

import functools
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.colour import Space
from kyanoscript.core.params import Colour, Curve, choice, curve, ink, number
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.gradient_map import SIZE, map_tones
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place
from kyanoscript.core.tones import curve_at, table

_NOTHING: Curve = ((0.0, 255.0), (255.0, 255.0))
_DARKS: Curve = ((0.0, 0.0), (100.0, 140.0), (170.0, 240.0), (255.0, 255.0))
_LIGHTS: Curve = ((0.0, 130.0), (128.0, 182.0), (255.0, 255.0))
_MIDDLE: Curve = ((0.0, 120.0), (128.0, 205.0), (208.0, 246.0), (255.0, 255.0))


def _inks(*inks: tuple[str, Curve]) -> dict[str, Any]:
    found: dict[str, Any] = {"count": len(inks)}
    for k in range(4):
        found[f"ink_{k + 1}"], found[f"curve_{k + 1}"] = inks[k] if k < len(inks) else ("#1a1a1a", ())
    return found


class Inks(Pass):
    """Transparent inks on paper."""

    kind: ClassVar[str] = "inks"
    label: ClassVar[str] = "Inks"
    stage: ClassVar[str] = "toning"
    about: ClassVar[str] = "Printed in one to four inks"
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
    }

    count: int = number(2, 1, 4, "", "Inks", "How many are printed")
    paper: Colour = ink("#fbf7ee", "Paper", "Colour of the bare paper")
    shown: Literal["print", "1", "2", "3", "4"] = choice(
        "print",
        (("print", "the print"), ("1", "plate of ink 1"), ("2", "of ink 2"), ("3", "of ink 3"), ("4", "of ink 4")),
        "Shown",
        "All inks together, or one plate alone, in grays: black where its ink is full",
    )
    ink_1: Colour = ink("#1c1b1a", "Colour", "At full coverage on white paper", group="Ink 1")
    curve_1: Curve = curve(
        "Curve", "Tone in, and how light this ink prints it; a straight line: as it is", group="Ink 1"
    )
    ink_2: Colour = ink("#8a7a68", "Colour", "At full coverage on white paper", group="Ink 2")
    curve_2: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 2")
    ink_3: Colour = ink("#4f6f96", "Colour", "At full coverage on white paper", group="Ink 3")
    curve_3: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 3")
    ink_4: Colour = ink("#c99a52", "Colour", "At full coverage on white paper", group="Ink 4")
    curve_4: Curve = curve("Curve", "Tone in, and how light this ink prints it", group="Ink 4")

    def apply(self, planes: Planes, place: Place) -> Planes:
        gray = colour.gray_of(planes, place.space)
        colours = _printed(self.inks(), self.paper, self.shown, place.space)
        out = np.empty((3, *gray.shape[1:]), np.float32)
        map_tones(gray, out, gray.size, colours, SIZE)
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


@functools.lru_cache(maxsize=64)
def _printed(inks: tuple[tuple[str, Curve], ...], paper: str, shown: str, space: Space) -> NDArray[np.float32]:
    """Encoded colours ``(3, SIZE)`` for grays evenly from 0 to 1."""
    gray = np.linspace(0, 1, SIZE)
    if shown != "print":
        k = int(shown) - 1
        plate = colour.to_encoded(1 - coverage(inks[k][1], gray)) if k < len(inks) else np.ones(SIZE)
        return table(colour.in_colour(plate[None]))
    light = np.repeat(colour.to_light(np.array(colour.ink_of(paper, space)))[:, None], SIZE, axis=1)
    for text, points in inks:
        passed = colour.to_light(np.array(colour.ink_of(text, space)))[:, None]
        light = light * (1 - coverage(points, gray) * (1 - passed))
    return table(np.clip(colour.to_encoded(light), 0, 1))
