"""A sheet of paper with the print on it, in millimetres: data, kept in the script by name."""

from __future__ import annotations

from typing import Literal

from kyanoscript.core.paper.dots import KINDS, TVI
from kyanoscript.core.paper.papers import PAPERS
from kyanoscript.core.params import Declared, choice, number, text, toggle

_MOST = 3000.0  # mm: the widest rolls are half of it
Intent = Literal["perceptual", "relative", "saturation", "absolute"]


class Sheet(Declared):
    """Where the print lies on its paper, what else is on it, and how it gets there."""

    width: float = number(297, 10, _MOST, "mm", "Paper's width", "As it lies", decimals=2)
    height: float = number(210, 10, _MOST, "mm", "Paper's height", "As it lies", decimals=2)
    paper: Literal["glossy", "baryta", "cotton", "washi", "vellum", "office", "own"] = choice(
        "baryta",
        (*((key, paper.label) for key, paper in PAPERS.items()), ("own", "A paper of one's own")),
        "Paper",
        "How white it is and how black ink becomes on it; a profile knows better",
    )
    white_l: float = number(96, 50, 100, "", "White, L*", "Of a paper of one's own, as measured", decimals=1)
    white_a: float = number(0, -20, 20, "", "White, a*", "Of a paper of one's own, as measured", decimals=1)
    white_b: float = number(2, -30, 30, "", "White, b*", "Of a paper of one's own, as measured", decimals=1)
    density: float = number(2, 0.5, 4, "D", "Largest density", "Of a paper of one's own, as measured", decimals=2)

    left: float = number(20, -_MOST, _MOST, "mm", "From the left", "From the paper's rim to the print", decimals=2)
    top: float = number(20, -_MOST, _MOST, "mm", "From the top", "From the paper's rim to the print", decimals=2)
    across: float = number(
        257, 1, _MOST, "mm", "Print's width", "Its height follows from its shape", decimals=2, ratio=True
    )
    middle: bool = toggle(False, "Optical middle", "The lower margin is larger than the upper one by a tenth")
    columns: int = number(1, 1, 20, "", "Copies across", "Prints beside each other", whole=True)
    rows: int = number(1, 1, 20, "", "Copies down", "Prints below each other", whole=True)
    gutter: float = number(5, 0, 200, "mm", "Gutter", "Between copies", decimals=2)
    mirrored: bool = toggle(False, "Mirrored", "As a film is that lies on its emulsion")
    caption: str = text("", "Caption", "Written beneath the print")
    marks: bool = toggle(False, "Register marks", "Beside the print, in the middle of its sides")
    cuts: bool = toggle(False, "Cut marks", "At the corners of every print")
    wedge: bool = toggle(False, "Wedge", "A wedge of grays beneath the print")
    steps: int = number(21, 2, 101, "", "Steps", "Of the wedge", whole=True)
    mat: float = number(
        0, 0, 500, "mm", "Window mat", "Drawn round the print to judge it; it is not printed", decimals=1
    )

    trap: float = number(
        0, 0, 0.5, "mm", "Trap", "Of plates: lighter inks spread so far beneath darker ones", decimals=2
    )
    knock_out: bool = toggle(False, "Knock out", "Of plates: lighter inks are left out where darker ones lie")
    screen: str = choice(
        "none", (("none", "none: grays"), *KINDS.items()), "Screen", "Of plates that print ink or none: their dots"
    )
    ruling: float = number(85, 10, 300, "l/in", "Ruling", "Rows of dots, or lines, to the inch", whole=True)
    angle: float = number(45, 0, 90, "°", "Angle", "Of the darkest ink's dots; the others lie 30° apart", whole=True)
    grain: float = number(0.12, 0.02, 2, "mm", "Grain", "Of an aquatint", decimals=2, ratio=True)
    device: float = number(2400, 300, 2880, "ppi", "Dots at", "Pixels to the inch of the device", whole=True)
    gain: str = choice(
        "none", (("none", "none"), *((key, f"{key}, {value:g} % at the middle") for key, value in TVI.items())),
        "Dot gain", "That the dots hold back: tone value increase of ISO 12647-2",
    )  # fmt: skip
    process: str = text("", "Process", "That the negative is for, by its name; without one tones stay as they are")

    layers: str = text("", "Layers", "Processes of the inks, by name, with | between, for a negative of each")

    resolution: float = number(360, 72, 2880, "ppi", "Written at", "Pixels to the inch of what goes out", whole=True)
    sharpen: float = number(60, 0, 200, "%", "Sharpened", "For paper, after the print has its size")
    profile: str = text("", "Profile", "The printer's ICC file; without one the paper's own white and black count")
    intent: Intent = choice(
        "relative",
        (
            ("perceptual", "perceptual"),
            ("relative", "relative"),
            ("saturation", "saturation"),
            ("absolute", "absolute"),
        ),
        "Intent",
        "What becomes of colours that the printer has not",
    )
    black_point: bool = toggle(True, "Black point", "Black becomes the deepest black of the paper (ISO 18619)")
    paper_white: bool = toggle(True, "Paper white", "The proof is as white as the paper is")
