"""The frame: which part of the photograph is printed, and which way up.

It is the fixed first step of every script. The rectangle is told by its middle and size, in per cent of the photograph
after its quarter turns, and is always kept covered: see `kyanoscript.core.geometry.framing`.
"""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from kyanoscript.core.params import Declared, choice, number, toggle

RATIOS: dict[str, float | None] = {
    "free": None,
    "as photographed": 0.0,
    "1:1": 1.0,
    "5:4": 5 / 4,
    "4:3": 4 / 3,
    "7:5": 7 / 5,
    "√2:1": math.sqrt(2),
    "3:2": 3 / 2,
    "16:9": 16 / 9,
}
Ratio = Literal["free", "as photographed", "1:1", "5:4", "4:3", "7:5", "√2:1", "3:2", "16:9"]


class Frame(Declared):
    """Ratio, rectangle, quarter turns, mirror, tilt."""

    wrong: ClassVar[dict[str, str]] = {
        "ratio": "Another ratio later cuts what stencils were drawn for",
        "stand": "Turned, the frame keeps its shape and loses the sides",
        "x": "Things close to the rim pull the eye out",
        "y": "Things close to the rim pull the eye out",
        "width": "What is cut away leaves fewer pixels for the paper",
        "height": "What is cut away leaves fewer pixels for the paper",
        "tilt": "Each degree costs the corners; verticals that lean need another cure",
        "turns": "It is no tilt: for a horizon that leans take that",
        "flip": "Letters and clocks tell on it",
    }

    kind: ClassVar[str] = "frame"
    label: ClassVar[str] = "Frame"
    stage: ClassVar[str] = "frame"
    about: ClassVar[str] = "What is printed of the photograph, and which way up"

    ratio: Ratio = choice(
        "as photographed",
        tuple((name, name) for name in RATIOS),
        "Ratio",
        "Longer side to shorter side; free takes the rectangle as it is",
    )
    stand: Literal["as photographed", "upright", "across"] = choice(
        "as photographed",
        (("as photographed", "as photographed"), ("upright", "upright"), ("across", "across")),
        "Stands",
        "Which way the longer side lies",
    )
    x: float = number(50, 0, 100, "%", "Middle, across", "Where the middle of the frame lies", decimals=2, step=0.5)
    y: float = number(50, 0, 100, "%", "Middle, down", "Where the middle of the frame lies", decimals=2, step=0.5)
    width: float = number(100, 1, 100, "%", "Width", "Share of the photograph's width", decimals=2, step=0.5)
    height: float = number(100, 1, 100, "%", "Height", "Share of the photograph's height", decimals=2, step=0.5)
    tilt: float = number(0, -45, 45, "°", "Tilt", "The frame turns clockwise over the picture", decimals=2, step=0.1)
    turns: int = number(0, 0, 3, "quarter turns", "Quarter turns", "Of the picture, clockwise")
    flip: bool = toggle(False, "Mirrored", "Left for right, before any turning")

    def shape(self, width: float, height: float) -> float | None:
        """Width over height to be kept, for a photograph of that size; None if the rectangle is free."""
        ratio = RATIOS[self.ratio]
        if ratio is None:
            return None
        own = width / height
        long = ratio or max(own, 1 / own)
        across = own >= 1 if self.stand == "as photographed" else self.stand == "across"
        return long if across else 1 / long
