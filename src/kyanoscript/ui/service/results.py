"""What comes back from the render threads."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.render.faults import Fault
from kyanoscript.core.script import Script
from kyanoscript.ui.service.display import Pixels

_GRAY = 3  # levels between the channels of a photograph without colour


@dataclass(frozen=True)
class Within:
    """A plate's own run, unrolled (`Script.unrolled`)."""

    script: Script
    first: int  # where the run begins in it
    selected: int  # place in the script of the chosen pass; -1: it is the plate itself


@dataclass(frozen=True)
class Wanted:
    """What is chosen of a script: what a survey and a spot look at."""

    script: Script
    selected: int
    tray: tuple[int, int] = (120, 80)  # pixels of the screen that a tray's picture may take
    within: Within | None = None  # the second row, if there is one
    rested: bool = True  # no hand is moving anything

    @property
    def looked_at(self) -> tuple[Script, int]:
        """The script and the place in it of the chosen pass."""
        if self.within is not None and self.within.selected >= 0:
            return self.within.script, self.within.selected
        return self.script, self.selected


@dataclass(frozen=True)
class Told:
    """What goes wrong in a print."""

    script: Script
    faults: tuple[Fault, ...]


@dataclass(frozen=True)
class Thumbnail:
    """A small picture of another script, for a chooser."""

    tag: object  # who asked
    key: str
    pixels: Pixels


@dataclass(frozen=True)
class Survey:
    """Small things about the whole picture."""

    wanted: Wanted
    photo: Pixels  # for its tray: the photograph as opened
    stages: list[Pixels]  # for the trays: the framed photograph, then the print after every pass
    within: list[Pixels]  # for the second row: what the plate starts from, then after every pass of it
    print: Pixels  # the whole print, `SURVEY_SIDE` pixels long
    kept: Pixels  # the same in sRGB, whatever the monitor is: to be kept in a file
    histogram: NDArray[np.int64]  # 256: grays entering the selected pass
    channels: NDArray[np.int64]  # (3, 256): red, green, blue entering it
    unseen: float  # share of the print that is more colourful than the monitor shows
    out_ends: tuple[float, float]  # share of the print that is pure black, pure white
    wedge: NDArray[np.uint8]  # (256, 3): what each gray entering the selected pass becomes in the print
    rose: NDArray[np.float64]  # (72,): how much colour there is at each 5° of hue, strongest 1
    taken: dict[str, Any]  # what the selected pass takes from the picture
    aspect: float  # width to height of the picture of the chosen plate, 1 without one
    gray_small: NDArray[np.float32] = field(repr=False)  # grays entering the selected pass, (h, w)

    @property
    def without_colour(self) -> bool:
        """Whether the photograph has none."""
        return int(np.ptp(self.photo[..., :3], axis=2).max()) <= _GRAY


@dataclass(frozen=True)
class Pointed:
    """Values at one place of the picture."""

    x: float  # 0…1 across
    y: float
    photo: tuple[int, int, int]
    trace: list[tuple[int, int, int]]  # after every pass
    entering: float  # gray entering the selected pass, 0…1
    lightness: float  # L* of the print
    gray: float  # as bright as the print there, 0…1
    row: list[tuple[int, int, int]]  # after every pass of the second row


@dataclass(frozen=True)
class WhiteFound:
    """The light under which a place of a raw is gray."""

    kelvin: float
    tint: float


@dataclass(frozen=True)
class Felt:
    """What enters the chosen pass at a spot, over a small disc."""

    hue: float  # degrees of Oklch
    chroma: float  # Oklch
    gray: float  # 0…1
    colour: str  # #rrggbb
    tag: str  # what it was asked for
