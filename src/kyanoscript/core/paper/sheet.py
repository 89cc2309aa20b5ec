"""A sheet of paper with the print on it, in millimetres: data, kept in the script by name.

Its values stand in six parts, by what they are about. No two of them have the same name, so that a value is told by its
name alone: ``sheet.across``.
"""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from kyanoscript.core.paper.dots import KINDS, TVI
from kyanoscript.core.paper.papers import PAPERS
from kyanoscript.core.paper.presses import GAINS
from kyanoscript.core.params import Declared, Param, choice, names, number, part, text, toggle

_MOST = 3000.0  # mm: the widest rolls are half of it
Intent = Literal["perceptual", "relative", "saturation", "absolute"]


class Paper(Declared):
    """What it is printed on."""

    wrong: ClassVar[dict[str, str]] = {
        "width": "Printers hold less than they promise: look at the rim",
        "height": "Printers hold less than they promise: look at the rim",
        "stock": "Judged by a brighter paper, the print comes out dull",
        "white_l": "Measured on one sheet alone, it is the sheet on top",
        "white_a": "Brighteners make it bluer by daylight than by lamps",
        "white_b": "Brighteners make it bluer by daylight than by lamps",
        "density": "Measured wet, it is deeper than it will be",
        "mat": "A mat that is whiter than the paper makes it look yellow",
    }

    width: float = number(297, 10, _MOST, "mm", "Paper's width", "As it lies", decimals=2)
    height: float = number(210, 10, _MOST, "mm", "Paper's height", "As it lies", decimals=2)
    stock: Literal["glossy", "baryta", "cotton", "washi", "vellum", "office", "own"] = choice(
        "baryta",
        (*((key, paper.label) for key, paper in PAPERS.items()), ("own", "A paper of one's own")),
        "Paper",
        "How white it is and how black ink becomes on it; a profile knows better",
    )
    white_l: float = number(96, 50, 100, "", "White, L*", "Of a paper of one's own, as measured", decimals=1)
    white_a: float = number(0, -20, 20, "", "White, a*", "Of a paper of one's own, as measured", decimals=1)
    white_b: float = number(2, -30, 30, "", "White, b*", "Of a paper of one's own, as measured", decimals=1)
    density: float = number(2, 0.5, 4, "D", "Largest density", "Of a paper of one's own, as measured", decimals=2)
    mat: float = number(
        0, 0, 500, "mm", "Window mat", "Drawn round the print to judge it; it is not printed", decimals=1
    )


class Placing(Declared):
    """Where the print lies."""

    wrong: ClassVar[dict[str, str]] = {
        "left": "Less than the printer's own margin is cut off",
        "top": "Less than the printer's own margin is cut off",
        "across": "Under about 200 pixels to the inch softness is seen from near",
        "middle": "Several copies have no optical middle",
        "columns": "More copies than fit make each of them small",
        "rows": "More copies than fit make each of them small",
        "gutter": "Less than 3 mm leaves no room for the knife",
        "mirrored": "On paper, letters then read backwards",
    }

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


class Marks(Declared):
    """What lies beside the print."""

    wrong: ClassVar[dict[str, str]] = {
        "caption": "It stands in the margin: leave room for it",
        "registers": "They have to lie on the paper, not in the part that is cut off",
        "cuts": "They stay visible if the mat is narrower",
        "wedge": "It takes some of the lower margin",
        "steps": "More than the scanner can tell apart say nothing",
    }

    caption: str = text("", "Caption", "Written beneath the print", live=True, example="Landing, 3/25")
    registers: bool = toggle(False, "Register marks", "Beside the print, in the middle of its sides")
    cuts: bool = toggle(False, "Cut marks", "At the corners of every print")
    wedge: bool = toggle(False, "Wedge", "A wedge of grays beneath the print")
    steps: int = number(21, 2, 101, "", "Steps", "Of the wedge", whole=True)


def _gain(ink: int) -> Any:
    return number(0, 0, 30, "%", f"Gain, ink {ink}", "How much more than half a half tone prints", decimals=1)


class Plates(Declared):
    """How the inks of the print are taken apart and screened."""

    wrong: ClassVar[dict[str, str]] = {
        "trap": "Too much shows as a dark line round everything",
        "knock_out": "Without a trap, paper shines through where plates lie apart",
        "screen": "Dots made here and again by the driver beat against each other",
        "ruling": "Finer than the paper holds, it fills up in the darks",
        "angle": "Near 0 or 90 the rows of dots are seen",
        "grain": "Finer than the etching bites, tones are lost",
        "device": "Another number than the device's own makes stripes",
        "gain_1": "Guessed, it shifts every middle tone: print a wedge",
        "gain_2": "Guessed, it shifts every middle tone: print a wedge",
        "gain_3": "Guessed, it shifts every middle tone: print a wedge",
        "gain_4": "Guessed, it shifts every middle tone: print a wedge",
        "yule_nielsen": "It is for dots: on plates in grays leave it at 1",
        "most_ink": "More than the paper takes up stays wet and smears",
    }

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
    gain_1: float = _gain(1)
    gain_2: float = _gain(2)
    gain_3: float = _gain(3)
    gain_4: float = _gain(4)
    yule_nielsen: float = number(
        1, 1, 4, "", "Yule\N{EN DASH}Nielsen n", "How far light spreads in the paper between dots; 1: not at all",
        decimals=2,
    )  # fmt: skip
    most_ink: float = number(300, 240, 400, "%", "Most ink", "On one place, all inks together", whole=True)


class Film(Declared):
    """What its negatives are for."""

    wrong: ClassVar[dict[str, str]] = {
        "process": "The curve of another paper is worse than none",
        "layers": "A layer without its process has the tones of the screen",
    }

    process: str = text("", "Process", "That the negative is for, by its name; without one tones stay as they are")
    layers: tuple[str, ...] = names("processes", "Layers", "Processes of the inks, for a negative of each")


class Output(Declared):
    """How it goes out."""

    wrong: ClassVar[dict[str, str]] = {
        "resolution": "More than the printer has makes the file large, and nothing better",
        "sharpen": "Twice sharpened, here and in the driver, edges have light seams",
        "profile": "A profile is for one paper and one setting of the driver",
        "intent": "Absolute prints the paper's own tint on the paper once more",
        "black_point": "Off, the darks that the paper has not run together",
        "paper_white": "It looks dull until the eye has got used to it",
    }

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


class Sheet(Declared):
    """Where the print lies on its paper, what else is on it, and how it gets there."""

    paper: Paper = part(Paper, "Paper")
    placing: Placing = part(Placing, "Placing")
    marks: Marks = part(Marks, "Marks")
    plates: Plates = part(Plates, "Plates")
    film: Film = part(Film, "Film")
    output: Output = part(Output, "Output")

    @classmethod
    def of(cls, **values: Any) -> Sheet:
        """A sheet of some values, by their names; the others are as on any sheet. Raises KeyError, ValueError."""
        return cls().with_values(**values)

    def with_values(self, **values: Any) -> Sheet:
        """The sheet with other values, by their names. Raises KeyError for a name that is not there, ValueError."""
        changed: dict[str, dict[str, Any]] = {}
        for name, value in values.items():
            changed.setdefault(HOME[name], {})[name] = value
        made = {place: PARTS[place](**{**dict(getattr(self, place)), **new}) for place, new in changed.items()}
        return self.model_copy(update=made)

    def value(self, name: str) -> Any:
        """A value by its name. Raises KeyError."""
        return getattr(getattr(self, HOME[name]), name)


PARTS: dict[str, type[Declared]] = {
    "paper": Paper, "placing": Placing, "marks": Marks, "plates": Plates, "film": Film, "output": Output,
}  # fmt: skip
HOME = {name: place for place, model in PARTS.items() for name in model.model_fields}  # the part that a value is in
_EARLIER = {"paper": "stock", "marks": "registers"}  # values by the names they had before there were parts
_GAIN = "gain"  # one for all inks, by a curve's letter, held back by dots alone
_BETWEEN = "|"  # stood between layers then


def declaration(name: str) -> Param:
    """What is known of a value, by its name. Raises KeyError."""
    return PARTS[HOME[name]].params()[name]


def in_parts(values: dict[str, Any]) -> dict[str, Any]:
    """Plain values of a sheet, each in its part: as they are written now, or by their names alone, as they were before.

    What is no value of a sheet stays where it stands, for whoever reads it to complain of.
    """
    made: dict[str, Any] = {name: dict(v) for name, v in values.items() if name in PARTS and isinstance(v, dict)}
    for name, value in values.items():
        if name in PARTS and isinstance(value, dict):
            continue
        name = _EARLIER.get(name, name)
        if name == "layers" and isinstance(value, str):
            value = value.split(_BETWEEN) if value else []
        part = made.setdefault(HOME.get(name, "plates"), {}) if name in HOME or name == _GAIN else made
        if isinstance(part, dict):
            part[name] = value
    plates = made.get("plates")
    if isinstance(plates, dict) and _GAIN in plates:
        made["plates"] = _each_with_gain(plates)
    return made


def _each_with_gain(plates: dict[str, Any]) -> dict[str, Any]:
    """Values of plates, with a gain for each ink instead of one for all."""
    curve = plates[_GAIN]
    if not isinstance(curve, str) or (curve != "none" and curve not in TVI):
        return plates
    gain = 0.0 if plates.get("screen") == "none" else TVI.get(curve, 0.0)
    return {**{name: value for name, value in plates.items() if name != _GAIN}, **dict.fromkeys(GAINS, gain)}
