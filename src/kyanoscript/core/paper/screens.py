"""Screens: coverage into dots, for plates that print ink or none.

A screen is a tile of thresholds that repeats: ink lies where coverage is above the threshold. Thresholds of a tile are
ranks, each of them once, so that the mean of what prints is the coverage itself. Dots and lines stand on a supercell:
a square of whole pixels that holds several cells, whose angle and ruling come as near as is asked for (rational
tangents; T. M. Holladay, "An optimum algorithm for halftone generation", Proc. SID 21, 1980, for the tile as rows that
are shifted). Blue noise: R. Ulichney, "The void-and-cluster method for dither array generation", Proc. SPIE 1913, 1993.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.paper.dots import KINDS
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.quoting import quoted
from kyanoscript.translation import tr

PPI = (300.0, 2880.0)
RULING = (10.0, 300.0)  # lines to the inch
NEAR = 15.0  # degrees: inks nearer than that make a moiré (common practice, no source)
_ANGLE, _RULING = 0.08, 0.002  # degrees, and share, that a supercell may be off
_MOST = 3_000_000  # pixels of a tile
_LEVELS = 65535
_BLUE = 128  # pixels: side of the tile of blue noise

Thresholds = NDArray[np.uint16]


@dataclass(frozen=True)
class Screen:
    """What a plate's dots are like."""

    kind: str = "round"  # one of `KINDS`
    ruling: float = 85.0  # lines to the inch
    angle: float = 45.0  # degrees, against the clock from lying
    grain: float = 0.12  # mm: of an aquatint's grains
    ppi: float = 2400.0  # of the device

    def check(self) -> None:
        """Raise ValueError, in words, for what cannot be."""
        if self.kind not in KINDS:
            raise ValueError(
                tr("there is no screen {kind}; there are {kinds}", kind=quoted(self.kind), kinds=", ".join(KINDS))
            )
        if not PPI[0] <= self.ppi <= PPI[1]:
            raise ValueError(
                tr(
                    "a screen for {ppi:g} pixels per inch cannot be made; {ppi2:g}…{ppi3:g} can",
                    ppi=self.ppi,
                    ppi2=PPI[0],
                    ppi3=PPI[1],
                )
            )
        if self.dots and not RULING[0] <= self.ruling <= RULING[1]:
            raise ValueError(
                tr(
                    "a ruling of {ruling:g} lines per inch cannot be; {ruling2:g}…{ruling3:g} can",
                    ruling=self.ruling,
                    ruling2=RULING[0],
                    ruling3=RULING[1],
                )
            )
        if self.dots and self.ppi / self.ruling < 4:
            raise ValueError(
                tr(
                    "{ruling:g} lines per inch are too fine for {ppi:g} pixels per inch: a cell "
                    "needs four pixels a side; take at most {ppi2:g}",
                    ruling=self.ruling,
                    ppi=self.ppi,
                    ppi2=self.ppi / 4,
                )
            )
        if self.kind == "grain" and not 0.02 <= self.grain <= 2:
            raise ValueError(tr("a grain of {grain:g} mm cannot be; 0.02…2 mm can", grain=self.grain))

    @property
    def dots(self) -> bool:
        """Whether it stands in rows, at an angle."""
        return self.kind in ("round", "elliptical", "line")


@dataclass(frozen=True)
class Tile:
    """Thresholds: rows of the tile, twice as wide as it; each time down it lies ``shift`` further to the right."""

    rows: Thresholds  # (height, width)
    shift: int
    angle: float = 0.0  # what it came to, degrees
    ruling: float = 0.0  # lines to the inch

    def at(self, y: int, x: int, width: int) -> Thresholds:
        """Thresholds of a part of one row of the plate."""
        high, wide = self.rows.shape
        start = (x - y // high * self.shift) % wide
        row = self.rows[y % high]
        times = -(-(start + width) // wide)
        return np.tile(row, times)[start : start + width] if times > 1 else row[start : start + width]


def screened(coverage: NDArray[np.uint16], tile: Tile, x: int = 0, y: int = 0) -> NDArray[np.bool_]:
    """Where ink lies, of coverage ``(h, w)``, 0 none … 65535 all, that begins at a place of the plate."""
    out = np.empty(coverage.shape, np.bool_)
    wide = _widened(tile, coverage.shape[1])
    high, period = tile.rows.shape
    for k in range(len(coverage)):
        start = (x - (y + k) // high * tile.shift) % period
        np.greater(coverage[k], wide[(y + k) % high, start : start + coverage.shape[1]], out=out[k])
    return out


def covered(coverage: NDArray[np.floating]) -> NDArray[np.uint16]:
    """Coverage 0…1 as `screened` takes it."""
    return np.asarray(np.clip(coverage, 0, 1) * _LEVELS + 0.5, np.uint16)


@functools.lru_cache(maxsize=8)
def tile_of(screen: Screen) -> Tile:
    """The tile of a screen. Raises ValueError."""
    screen.check()
    if screen.kind == "blue":
        return Tile(_ranked(_blue_noise(_BLUE)), 0)
    if screen.kind == "grain":
        return Tile(_ranked(_grains(screen.grain * screen.ppi / INCH)), 0)
    return _supercell(screen)


_wide: dict[int, tuple[Tile, Thresholds]] = {}


def _widened(tile: Tile, width: int) -> Thresholds:
    """The tile's rows so often side by side that any part of a row is one slice; the last one asked for is kept."""
    known = _wide.get(0)
    need = width + tile.rows.shape[1]
    if known is None or known[0] is not tile or known[1].shape[1] < need:
        known = tile, np.tile(tile.rows, (1, -(-need // tile.rows.shape[1])))
        _wide[0] = known
    return known[1]


def _ranked(order: NDArray[np.float64]) -> Thresholds:
    """Thresholds from what prints first, the larger the sooner."""
    flat = np.argsort(-order, axis=None, kind="stable")
    ranks = np.empty(flat.size, np.int64)
    ranks[flat] = np.arange(flat.size)
    return ((ranks + 0.5) / flat.size * _LEVELS).astype(np.uint16).reshape(order.shape)


def _supercell(screen: Screen) -> Tile:
    # Pictures count rows downwards, and angles go against the clock.
    period, angle = screen.ppi / screen.ruling, math.radians(-screen.angle)
    best: tuple[float, int, int, int] | None = None
    for cells in range(1, 200):
        if (cells * period) ** 2 > _MOST:
            break
        a, b = round(cells * period * math.cos(angle)), round(cells * period * math.sin(angle))
        off = abs(math.degrees(math.atan2(-b, a)) - screen.angle) % 180
        off = min(off, 180 - off) / _ANGLE
        wrong = max(off, abs(math.hypot(a, b) / (cells * period) - 1) / _RULING)
        if best is None or wrong < best[0]:
            best = wrong, cells, a, b
        if wrong <= 1 and a * a + b * b >= 2500:
            break
    assert best is not None
    _, cells, a, b = best
    area, common = a * a + b * b, math.gcd(a, b)
    wide, high = area // common, common
    # Whole numbers i, j with i·b + j·a = the common divisor: the shortest way down by it leads `shift` to the right.
    i, j = _bezout(b, a)
    shift = (i * a - j * b) % wide
    xs, ys = np.arange(wide)[None], np.arange(high)[:, None]
    u = (cells * (a * xs + b * ys)) % area / area
    v = (cells * (-b * xs + a * ys)) % area / area
    across, down = np.cos(2 * np.pi * u), np.cos(2 * np.pi * v)
    spot = {"round": across + down, "elliptical": across + 0.62 * down, "line": down + 1e-4 * across}[screen.kind]
    # Places alike in all cells print in scattered order, so that no cell is always the first.
    spot = spot + 1e-6 * np.random.default_rng(1).random(spot.shape)
    found = math.degrees(math.atan2(-b, a)) % 180
    return Tile(_ranked(spot), int(shift), found, screen.ppi * cells / math.hypot(a, b))


def _bezout(p: int, q: int) -> tuple[int, int]:
    """Whole numbers (i, j) with i·p + j·q = the greatest common divisor, above 0."""
    if q == 0:
        return (1, 0) if p >= 0 else (-1, 0)
    i, j = _bezout(q, p % q)
    i, j = j, i - p // q * j
    return (i, j) if i * p + j * q > 0 else (-i, -j)


def _grains(size: float) -> NDArray[np.float64]:
    """Noise whose grains are so many pixels wide, on a tile that joins itself."""
    side = int(min(1536, max(256, 2 ** math.ceil(math.log2(max(1.0, 24 * size))))))
    field = np.random.default_rng(3).standard_normal((side, side))
    frequency = np.hypot(np.fft.fftfreq(side)[:, None], np.fft.rfftfreq(side)[None])
    # Between a wide and a narrow blur: grains of one size, and not clouds of them.
    sigma = max(size, 1.0) / 2.6
    through = np.exp(-2 * (np.pi * sigma * frequency) ** 2) - np.exp(-2 * (np.pi * 1.7 * sigma * frequency) ** 2)
    return np.fft.irfft2(np.fft.rfft2(field) * through, (side, side))


@functools.lru_cache(maxsize=1)
def _blue_noise(side: int) -> NDArray[np.float64]:
    """Void and cluster on a torus: what prints first is largest.

    The filter that voids and clusters are found by is as wide as dots are apart, and not always 1.5 pixels as in the
    paper: of a half tone of 50 % that leaves half as much below half the principal frequency.
    """
    total = side * side
    away = np.minimum(np.arange(side), side - np.arange(side)) ** 2
    distance = away[:, None] + away[None]
    filters = _Filters(distance, side)
    ones = np.zeros(total, bool)
    ones[np.random.default_rng(9).choice(total, total // 10, replace=False)] = True
    filters.of(ones)
    while True:  # the tightest cluster goes into the largest void, until it would go back
        tight = filters.take(ones)
        if filters.put(ones) == tight:
            break
    ranks, first, count = np.zeros(total), ones.copy(), int(ones.sum())
    for rank in range(count - 1, -1, -1):
        if rank % _BATCH == _BATCH - 1:
            filters.of(ones)
        ranks[filters.take(ones)] = rank
    ones = first
    filters.of(ones)
    for rank in range(count, total):
        if rank % _BATCH == 0:
            filters.of(ones)
        ranks[filters.put(ones)] = rank
    return -ranks.reshape(side, side)


_BATCH = 256  # dots after which the filter has another width
_APART, _NARROW, _WIDE = 0.6, 0.9, 3.0  # its width against how far dots are apart, and between which pixels


class _Filters:
    """How crowded every place of a torus is."""

    def __init__(self, distance: NDArray[np.int64], side: int) -> None:
        self._distance, self._side = distance, side

    def of(self, ones: NDArray[np.bool_]) -> None:
        """Anew, as wide as goes with so many dots."""
        share = max(float(min(ones.mean(), 1 - ones.mean())), 1e-3)
        wide = float(np.clip(_APART / math.sqrt(share), _NARROW, _WIDE))
        kernel = np.exp(-self._distance / (2 * wide**2))
        self._twice = np.tile(kernel, (2, 2))
        shape = kernel.shape
        spectrum = np.fft.rfft2(ones.reshape(shape).astype(float)) * np.fft.rfft2(kernel)
        self.crowd = np.fft.irfft2(spectrum, shape)

    def _lump(self, at: int) -> NDArray[np.float64]:
        y, x = divmod(at, self._side)
        return self._twice[self._side - y : 2 * self._side - y, self._side - x : 2 * self._side - x]

    def take(self, ones: NDArray[np.bool_]) -> int:
        """Take the dot of the tightest cluster away; returns where it was."""
        at = int(np.argmax(np.where(ones, self.crowd.ravel(), -np.inf)))
        ones[at] = False
        self.crowd -= self._lump(at)
        return at

    def put(self, ones: NDArray[np.bool_]) -> int:
        """Put a dot into the largest void; returns where."""
        at = int(np.argmin(np.where(ones, np.inf, self.crowd.ravel())))
        ones[at] = True
        self.crowd += self._lump(at)
        return at


# Angles, and what dots do when they print


def angles_for(darkness: Sequence[float], first: float = 45.0) -> tuple[float, ...]:
    """Angles for inks by how dark each is, 0…1: the darkest at ``first``, three strong ones 30° apart, the lightest of
    four lies between (common practice, no source)."""
    order = sorted(range(len(darkness)), key=lambda k: -darkness[k])
    given = [(first + more) % 180 for more in (0.0, 30.0, -30.0, -45.0)]
    return tuple(given[order.index(k)] for k in range(len(darkness)))


def too_near(angles: Sequence[float], lightest: int | None = None) -> list[str]:
    """Pairs of inks whose angles are nearer than 15°, in words; the lightest ink may be.

    Screens repeat after a quarter turn.
    """
    said = []
    for (i, one), (j, other) in itertools.combinations(enumerate(angles), 2):
        apart = abs(one - other) % 90
        apart = min(apart, 90 - apart)
        if apart < NEAR - 1e-9 and lightest not in (i, j):
            said.append(
                tr(
                    "inks {i} and {j} are {apart:g}° apart; nearer than {near:g}° they make a moiré",
                    i=i + 1,
                    j=j + 1,
                    apart=apart,
                    near=NEAR,
                )
            )
    return said


def effective(solid: float, tint: float, n: float = 1.0) -> float:
    """Effective coverage of a tint from densities above the paper's: Murray and Davies (1936); ``n`` above 1: Yule and
    Nielsen (TAGA Proceedings, 1951)."""
    return (1 - 10 ** (-tint / n)) / (1 - 10 ** (-solid / n))
