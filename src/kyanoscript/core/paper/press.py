"""The bench printer's ink on paper: a stand-in for a printer, in formulas that anybody can read.

It is told RGB. Three inks and black print what is asked for in dots that spread (Murray and Davies with a dot gain of
Yule and Nielsen's kind; J. A. C. Yule and W. J. Nielsen, TAGA Proceedings, 1951), their overprints mix by chance as
Demichel and Neugebauer say (H. E. J. Neugebauer, 1937). Ink colours and the paper are invented.
"""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

N = 1.7  # Yule and Nielsen's factor: how far light spreads in the paper
GAIN = 0.14  # of a half-tone of 50 %
# XYZ of the perfect white 1, D50: each ink alone; invented
_INKS = np.array([[0.066, 0.106, 0.512], [0.192, 0.072, 0.09], [0.623, 0.682, 0.024], [0.0085, 0.0087, 0.009]])
PAPER = np.array([0.905, 0.912, 0.885])

Colours = NDArray[np.float64]  # (n, 3)


def inks_of(rgb: Colours) -> NDArray[np.float64]:
    """Coverage of cyan, magenta, yellow and black, 0…1 ``(n, 4)``, that RGB 0…1 asks for: black takes gray over."""
    cmy = 1 - np.clip(rgb, 0, 1)
    common = cmy.min(axis=1)
    black = np.clip((common - 0.25) / 0.75, 0, 1) ** 1.6
    rest = (cmy - 0.85 * black[:, None]) / np.maximum(1 - 0.85 * black[:, None], 1e-6)
    return np.concatenate([np.clip(rest, 0, 1), black[:, None]], axis=1)


def printed(rgb: Colours) -> Colours:
    """XYZ of the dry print, of the perfect white 1 (D50), ``(n, 3)``."""
    told = inks_of(rgb)
    dots = told + GAIN * 4 * told * (1 - told)
    total = np.zeros((len(rgb), 3))
    for over in itertools.product((0, 1), repeat=4):
        share = np.prod(np.where(np.array(over, bool), dots, 1 - dots), axis=1)
        colour = PAPER * np.prod(np.where(np.array(over, bool)[:, None], _INKS / PAPER, 1), axis=0)
        total += share[:, None] * np.maximum(colour, 0.004) ** (1 / N)
    return total**N
