"""What becomes of ink on presses as is usual: starts for the values of a sheet's plates.

Gain and Yule and Nielsen's factor on papers of each kind are values of our own: common practice, no source. The curves
A to E are those of ISO 12647-2:2013; they are measured with all that light does, so that the factor is 1.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from kyanoscript.core.paper.dots import TVI

GAINS = ("gain_1", "gain_2", "gain_3", "gain_4")  # values of a sheet


@dataclass(frozen=True)
class Usual:
    """A press, with all its inks alike."""

    label: str
    gain: float = 0.0  # how much more than half a half tone prints, per cent
    n: float = 1.0
    most: float = 300.0  # ink on one place, all together, per cent

    def values(self) -> dict[str, float]:
        """Those of a sheet, by their names."""
        return {**dict.fromkeys(GAINS, self.gain), "yule_nielsen": self.n, "most_ink": self.most}


PLAIN, OWN = "none", "own"
PRESSES = {
    PLAIN: Usual("ink that does not spread"),
    "glossy": Usual("as on glossy paper", 12, 1.6, 320),
    "baryta": Usual("as on baryta", 14, 1.7, 300),
    "cotton": Usual("as on cotton", 18, 1.9, 270),
    "washi": Usual("as on washi", 20, 2.0, 240),
    "vellum": Usual("as on vellum", 16, 1.8, 260),
    "office": Usual("as on office paper", 20, 2.0, 260),
    **{key: Usual(f"curve {key}, {value:g} %", value) for key, value in TVI.items()},
}


def press_named(values: Mapping[str, float]) -> str:
    """Which of them has these values of a sheet; `OWN` if none has."""
    return next((key for key, usual in PRESSES.items() if usual.values() == values), OWN)
