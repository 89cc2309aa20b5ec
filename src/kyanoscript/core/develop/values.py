"""The values by which a camera's raw is developed, before every pass."""

from __future__ import annotations

from typing import ClassVar, Literal

from kyanoscript.core.params import Declared, choice, number

AS_SHOT = "as-shot"
COOLEST, WARMEST = 25_000.0, 2_000.0  # kelvin


class Develop(Declared):
    """White, exposure, highlights of a raw. Photographs of other kinds are what they are."""

    wrong: ClassVar[dict[str, str]] = {
        "white": "A white taken from something that is not gray casts the whole print",
        "kelvin": "Mixed light has no one temperature: choose the light that faces stand in",
        "tint": "Green and pink are the first that skin shows",
        "exposure": "Pushed up, noise in the darks comes with it",
        "highlights": "Rebuilt where all channels are full, there is nothing to rebuild from",
    }

    kind: ClassVar[str] = "develop"
    label: ClassVar[str] = "Development"
    stage: ClassVar[str] = "photo"
    about: ClassVar[str] = "How the camera's raw becomes a photograph"

    white: Literal["as-shot", "own"] = choice(
        AS_SHOT,
        (("as-shot", "as shot"), ("own", "one's own")),
        "White",
        "The light that is to look white: as the camera took it, or by the two values below",
    )
    kelvin: float = number(
        5500, WARMEST, COOLEST, "K", "Temperature", "Of the light: low for lamps, high for shade", step=50, ratio=True,
        when=("white", "own"),
    )  # fmt: skip
    tint: float = number(
        0, -150, 150, "", "Tint", "Of the light: below 0 greenish, above 0 pinkish", when=("white", "own")
    )
    exposure: float = number(0, -4, 4, "stops", "Exposure", "Before anything is clipped", decimals=2, step=0.05)
    highlights: Literal["clip", "blend", "rebuild"] = choice(
        "blend",
        (("clip", "cut off"), ("blend", "blend"), ("rebuild", "rebuild")),
        "Highlights",
        "Where a channel is full: cut off, faded to white, or filled from the channels that are not",
    )
