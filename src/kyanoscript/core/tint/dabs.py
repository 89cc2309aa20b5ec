"""What the hand lays on a picture to colour it."""

from __future__ import annotations

from typing import ClassVar, Literal

from kyanoscript.core.params import Colour, Declared, choice, ink, length, number, text, toggle
from kyanoscript.core.stencil.shapes import Dot, dots, outline


class Dab(Declared):
    """One dab or stroke of colour. Of the colour only hue and chroma count; the picture keeps its own lightness."""

    label: ClassVar[str] = "Dab"

    points: tuple[Dot, ...] = dots("Way", "One place, or the places of a stroke")
    colour: Colour = ink("#b98a66", "Tint", "Its hue and chroma; how light the place is stays as it is")
    acts: Literal["spreads", "stays", "within"] = choice(
        "spreads",
        (("spreads", "spreads"), ("stays", "stays"), ("within", "fills its outline")),
        "It",
        "Spreads over all that looks alike, stays where it is up to the next edge, or fills the outline it was given",
    )
    size: float = length(12, 0.1, 500, "Size", "Diameter of the brush", step=1)
    sure: float = number(100, 0, 100, "%", "Sure", "How sure a guess is; what the hand laid is 100 % sure", shown=False)
    outline: tuple[Dot, ...] = outline("Outline", "Corners of the area that it fills, if it was given one")
    name: str = text("", "Name", "What lies there: skin, lips, hair", shown=False)
    guess: bool = toggle(False, "Guess", "Laid by the first colouring", shown=False)
    shaded: bool = toggle(
        False, "Shaded", "It has as much less chroma as it is darker, as things in light have", shown=False
    )
    tints: str = text(
        "", "Tints", "The likely tints of what lies there, #rrggbb each, the likeliest first", shown=False
    )

    @property
    def offered(self) -> bool:
        """Whether it waits for a tint: nobody can know that of hair or cloth from a gray picture."""
        return self.guess and self.sure == 0 and bool(self.name)

    @property
    def region(self) -> bool:
        """Whether it is a part of the scene that has tints of its own to choose from."""
        return self.shaded and bool(self.tints) and bool(self.name)

    def __hash__(self) -> int:
        return hash(
            (self.points, self.colour, self.size, self.outline[:1])
        )  # hundreds of them are looked up for every tile
