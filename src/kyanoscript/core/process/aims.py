"""What a print is to be: L* for every tone wanted, between a process's ends; and lightness, density and light."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.paper.papers import PAPERS, lightness_of
from kyanoscript.core.process.wanted import AIMS
from kyanoscript.core.quoting import cut
from kyanoscript.translation import tr

Array = NDArray[np.float64]


def aimed(aim: str, tones: Array, white: float, deepest: float) -> Array:
    """L* that tones wanted, 0 paper white … 100 black, are to have between a process's ends.

    ``lightness``: evenly in L*; ``density``: evenly in density; ``light``: evenly in light, as the coverage of an ink;
    or the L* that they have on a paper by its name, as far as the process goes. Raises ValueError for another aim.
    """
    if aim not in AIMS:
        raise ValueError(tr("there is no aim {aim!r}; there are {aims}", aim=cut(aim), aims=", ".join(AIMS)))
    share = np.clip(np.asarray(tones, np.float64), 0, 100) / 100
    if aim == "lightness":
        return white + share * (deepest - white)
    if aim == "density":
        return lightness_from(density_from(white) + share * (density_from(deepest) - density_from(white)))
    if aim == "light":
        return lightness_from_y(y_from(white) + share * (y_from(deepest) - y_from(white)))
    paper = PAPERS[aim]
    low, high = 10.0**-paper.density, y_from(paper.white[0])
    return np.clip(lightness_from_y(low + y_from(100 * (1 - share)) * (high - low)), deepest, white)


def lost(aim: str, deepest: float) -> str:
    """What of a paper's darks the process has not, in words; empty if nothing."""
    paper = PAPERS.get(aim)
    if paper is None or lightness_of(paper.density) >= deepest - 0.5:
        return ""
    return tr(
        "{label} goes down to L* {black:.0f}; tones below L* {deepest:.0f} run together",
        label=paper.label.partition(",")[0],
        black=paper.black,
        deepest=deepest,
    )


# Numbers


def density_from(lightness: Array | float) -> Array:
    """Density, −log₁₀ of Y, of L* (CIE 15:2004)."""
    return np.asarray(-np.log10(np.maximum(y_from(lightness), 1e-6)))


def lightness_from(density: Array | float) -> Array:
    """L* of densities."""
    return lightness_from_y(10.0 ** -np.asarray(density, np.float64))


def y_from(lightness: Array | float) -> Array:
    """Y, of the perfect white 1, of L* (CIE 15:2004)."""
    at = np.asarray(lightness, np.float64)
    return np.where(at > 8, ((at + 16) / 116) ** 3, at * (3 / 29) ** 3)


def lightness_from_y(y: Array | float) -> Array:
    """L* of Y."""
    at = np.maximum(np.asarray(y, np.float64), 0)
    return np.where(at > (6 / 29) ** 3, 116 * np.cbrt(at) - 16, at * (29 / 3) ** 3)
