"""A sheet of paper with the print on it, in millimetres."""

from __future__ import annotations

from kyanoscript.core.params import Declared, number, text

_MOST = 3000.0  # mm: the widest rolls are half of it


class Sheet(Declared):
    """Where the print lies on its paper."""

    width: float = number(297, 10, _MOST, "mm", "Paper's width", "As it lies", decimals=2)
    height: float = number(210, 10, _MOST, "mm", "Paper's height", "As it lies", decimals=2)
    left: float = number(20, -_MOST, _MOST, "mm", "Left", "From the paper's rim to the print", decimals=2)
    top: float = number(20, -_MOST, _MOST, "mm", "Top", "From the paper's rim to the print", decimals=2)
    across: float = number(
        257, 1, _MOST, "mm", "Print's width", "Its height follows from its shape", decimals=2, ratio=True
    )
    caption: str = text("", "Caption", "Written beneath the print")
