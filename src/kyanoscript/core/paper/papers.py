"""Papers: how white they are, and how black ink becomes on them.

Whites (CIE L*a*b*, D50) and largest densities are values of our own for papers of each kind: common practice, no
source. A paper of one's own has its own numbers on the sheet.
"""

from __future__ import annotations

from dataclasses import dataclass

Lab = tuple[float, float, float]


@dataclass(frozen=True)
class Stock:
    """What the paper itself does to a print."""

    label: str
    white: Lab
    density: float  # of the deepest black above the perfect white, log 10
    sharpen: float  # how much more sharpening it takes than a glossy one: rough paper swallows fine detail

    @property
    def black(self) -> float:
        """L* of the deepest black."""
        return lightness_of(self.density)


def lightness_of(density: float) -> float:
    """L* of a density (CIE 15:2004 with Y = 10^−D)."""
    y = 10.0**-density
    return 116 * y ** (1 / 3) - 16 if y > (6 / 29) ** 3 else y * (29 / 3) ** 3


PAPERS = {
    "glossy": Stock("Glossy, bluish white", (95.5, 0.4, -4.0), 2.35, 1.0),
    "baryta": Stock("Baryta, warm white", (96.5, 1.2, 4.1), 2.20, 1.0),
    "cotton": Stock("Cotton, matte", (96.0, 0.6, 3.0), 1.68, 1.35),
    "washi": Stock("Washi", (92.0, 0.4, 7.5), 1.40, 1.5),
    "vellum": Stock("Vellum", (89.5, -0.4, 4.5), 1.55, 1.3),
    "office": Stock("Office paper", (94.0, 2.2, -8.5), 1.25, 1.4),
}
