"""Colour spaces: where the primaries of a picture lie. Nothing else in the core knows a matrix.

Every space here has the sRGB curve (`transfer`), whatever its own standard says: a photograph is brought to that curve
when it is opened, and keeps its own primaries. R = G = B is neutral in all of them.

Sources: IEC 61966-2-1 (sRGB), IEC 61966-2-5 (opRGB), ITU-R BT.2020, SMPTE EG 432-1 primaries with the white D65
(Display P3), ISO 22028-2 (ROMM RGB); ICC.1:2010 annex E (Bradford adaptation to the connection space, D50);
B. Ottosson, "A perceptual color space for image processing" (2020) (Oklab).
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from kyanoscript.translation import tr

Matrix = NDArray[np.float64]
F = TypeVar("F", bound=np.floating)

_D65 = (0.3127, 0.3290)
D50 = np.array([0.9642, 1.0, 0.8249])  # ICC.1:2010, 7.2.16: the connection space's white
_CONES = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])

# Linear sRGB to CIE XYZ as the standard itself rounds it (IEC 61966-2-1); its middle row is that of ITU-R BT.709.
_SRGB = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])

# Oklab: linear sRGB to cones, and cones after their cube root to Lab
_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
TO_OKLAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_TAKEN = np.array([[1, -1, 1], [1, 1, -1], [1, -1, 1]])  # what kernels take away, and not add, on the way back
_NEAR = 1e-3  # of a matrix's entries: makers round, and adapt the white, in ways that differ by less


@dataclass(frozen=True)
class Space:
    """Primaries and white, by the matrix that they come to.

    ``matrix``: nine numbers, row by row, from linear RGB to XYZ under the space's own white (Y of white is 1).
    """

    name: str
    matrix: tuple[float, ...]
    white: tuple[float, float]  # chromaticity x, y

    @functools.cached_property
    def to_xyz(self) -> Matrix:
        """Linear RGB to XYZ under the space's own white, ``(3, 3)``."""
        return _SRGB if self.name == "sRGB" else self._derived

    @functools.cached_property
    def _derived(self) -> Matrix:
        return np.array(self.matrix, np.float64).reshape(3, 3)

    @functools.cached_property
    def luminance(self) -> tuple[float, float, float]:
        """How bright each channel is, in light: sums to 1."""
        r, g, b = (float(v) for v in self.to_xyz[1])
        return r, g, b

    @functools.cached_property
    def to_d50(self) -> Matrix:
        """Linear RGB to XYZ in the connection space of ICC profiles, under D50."""
        return adaptation(self.white) @ self._derived

    @functools.cached_property
    def from_d50(self) -> Matrix:
        """The way back."""
        return np.asarray(np.linalg.inv(self.to_d50), np.float64)

    @functools.cached_property
    def to_lms(self) -> Matrix:
        """Linear RGB to the cones of Oklab, before their cube root."""
        return _TO_LMS if self.name == "sRGB" else _TO_LMS @ self.linear_to(SRGB)

    @functools.cached_property
    def from_lms(self) -> Matrix:
        """The way back."""
        return np.asarray(np.linalg.inv(self.to_lms), np.float64)

    @functools.cached_property
    def numbers(self) -> NDArray[np.float32]:
        """What kernels take of it: `luminance`, `to_lms`, `from_lms`, 21 numbers. See `inloops`."""
        parts = (np.array(self.luminance), self.to_lms.ravel(), (self.from_lms * _TAKEN).ravel())
        return np.ascontiguousarray(np.concatenate(parts), np.float32)

    def linear_to(self, other: Space) -> Matrix:
        """From linear RGB of this space to that of another, white to white (Bradford)."""
        return np.eye(3) if other == self else other.from_d50 @ self.to_d50

    @property
    def places(self) -> tuple[tuple[float, float], ...]:
        """Chromaticities x, y of red, green and blue."""
        return tuple(
            (float(x / s), float(y / s)) for x, y, s in zip(*self._derived[:2], self._derived.sum(0), strict=True)
        )


def adaptation(white: tuple[float, float]) -> Matrix:
    """XYZ under a white (chromaticity x, y) to XYZ under D50, by Bradford (ICC.1:2010, annex E)."""
    x, y = white
    gain = (_CONES @ D50) / (_CONES @ np.array([x / y, 1.0, (1 - x - y) / y]))
    return np.asarray(np.linalg.inv(_CONES) @ np.diag(gain) @ _CONES)


def space_of(name: str, primaries: ArrayLike, white: tuple[float, float]) -> Space:
    """A space by the chromaticities of its primaries, three pairs x, y, and its white.

    Raises ValueError for primaries that span nothing.
    """
    x, y = np.asarray(primaries, np.float64).T
    with np.errstate(divide="raise", invalid="raise"):
        try:
            xyz = np.array([x / y, np.ones(3), (1 - x - y) / y])
            light = np.linalg.solve(xyz, [white[0] / white[1], 1.0, (1 - white[0] - white[1]) / white[1]])
        except (np.linalg.LinAlgError, FloatingPointError, ZeroDivisionError) as error:
            raise ValueError(tr("its primaries span no colours")) from error
    return Space(name, tuple(float(v) for v in (xyz * light).ravel()), white)


SRGB = space_of("sRGB", [(0.640, 0.330), (0.300, 0.600), (0.150, 0.060)], _D65)
DISPLAY_P3 = space_of("Display P3", [(0.680, 0.320), (0.265, 0.690), (0.150, 0.060)], _D65)
OPRGB = space_of("opRGB", [(0.640, 0.330), (0.210, 0.710), (0.150, 0.060)], _D65)
BT2020 = space_of("BT.2020", [(0.708, 0.292), (0.170, 0.797), (0.131, 0.046)], _D65)
ROMM = space_of("ROMM RGB", [(0.7347, 0.2653), (0.1596, 0.8404), (0.0366, 0.0001)], (0.3457, 0.3585))
SPACES = (SRGB, DISPLAY_P3, OPRGB, BT2020, ROMM)


def space_near(to_d50: ArrayLike, white: tuple[float, float], name: str = "") -> Space:
    """The space of a profile's matrix (linear RGB to XYZ under D50): a named one if it is close to it, else its own."""
    wanted = np.asarray(to_d50, np.float64)
    for known in SPACES:
        if np.abs(known.to_d50 - wanted).max() < _NEAR:
            return known
    own = np.linalg.inv(adaptation(white)) @ wanted
    if not np.isfinite(own).all() or not 1e-4 < abs(np.linalg.det(own)) < 10:
        raise ValueError(tr("its primaries span no colours"))
    own = own / own[1].sum()
    return Space(name or "its own", tuple(float(v) for v in own.ravel()), white)
