"""Plate: something prepared on its own and printed over the print.

Its source is the photograph, the print so far, another picture or a flat tone; a run of its own prepares it. What it
prints is worked out by the renderer, which knows where all of these come from.
"""

from __future__ import annotations

from typing import Any, ClassVar, Literal, Self

from kyanoscript.core.params import Colour, choice, declared, ink, number, text, toggle
from kyanoscript.core.params.kinds import Run
from kyanoscript.core.passes.base import Pass

_PICTURE = ("source", "picture")


def _run() -> Any:
    return declared(Run(label="Its run", help="The passes that prepare it"), (), longest=64)


class Plate(Pass):
    """A run within the run."""

    kind: ClassVar[str] = "plate"
    label: ClassVar[str] = "Plate"
    stage: ClassVar[str] = "plate"
    about: ClassVar[str] = "Something else printed over the print"
    use: ClassVar[str] = "To print something else over the print: a colour, a picture, a run of its own"
    beware: ClassVar[str] = "Several strong plates hide which one does what: name them"
    # Our own values (common practice, no source)
    starts: ClassVar[dict[str, dict[str, Any]]] = {
        "the print once more, darker": {"source": "print", "blend": "multiply", "strength": 45.0},
        "a breath of the photograph's colours": {"source": "photo", "blend": "color", "strength": 30.0},
        "a bright ground": {"source": "flat", "tone": "#e7b24c", "blend": "multiply", "strength": 100.0},
        "the photograph's light again": {"source": "photo", "blend": "soft-light", "strength": 50.0},
    }
    samples: ClassVar[dict[str, Any]] = {"blend": "multiply"}
    pointwise: ClassVar[bool] = False

    source: Literal["print", "photo", "picture", "flat"] = choice(
        "print",
        (
            ("print", "the print so far"),
            ("photo", "the photograph"),
            ("picture", "another picture"),
            ("flat", "a tone"),
        ),
        "Made from",
        "What the plate is prepared from",
    )
    run: tuple[Pass, ...] = _run()
    tone: Colour = ink("#ffffff", "Tone", "Of a flat plate", when=("source", "flat"))
    picture: str = text(
        "", "Picture", "File of a picture; what is transparent prints nothing", names="file", when=_PICTURE
    )
    x: float = number(50, -1000, 1000, "%", "Across", "Where the picture's middle lies", decimals=2, when=_PICTURE)
    y: float = number(50, -1000, 1000, "%", "Down", "Where the picture's middle lies", decimals=2, when=_PICTURE)
    size: float = number(
        50, 0.1, 1000, "%", "Size", "Its longer side, of the photograph's", decimals=1, ratio=True, when=_PICTURE
    )
    turn: float = number(0, -180, 180, "°", "Turn", "Clockwise", decimals=1, when=_PICTURE)
    mirrored: bool = toggle(False, "Mirrored", "Left for right", when=_PICTURE)

    def suited(self, shape: float) -> Self:
        """Its run's passes."""
        return self.with_(run=tuple(step.suited(shape) for step in self.run))

    def placed(self) -> str:
        return "picture" if self.source == "picture" else ""

    def placing(self) -> tuple[float, float, float, float, bool]:
        """Everything that decides where another picture lies."""
        return self.x, self.y, self.size, self.turn, self.mirrored

    def colours(self) -> bool:
        return self.source != "print" or any(step.colours() for step in self.run if step.acts)

    def pictures(self) -> list[str]:
        """Files of other pictures that it and the plates in its run need."""
        own = [self.picture] if self.source == "picture" and self.acts else []
        return own + [name for step in self.run for name in step.pictures()]
