"""How a process answers, from readings of a wedge; and the curve of the negative that makes it even.

Mean of the readings of a step → cubic smoothing spline, its smoothness chosen by generalised cross-validation (P.
Craven, G. Wahba, "Smoothing noisy data with spline functions", Numerische Mathematik 31, 1979) → made monotone
(isotonic regression) → its inverse, by monotone cubics (F. N. Fritsch, R. E. Carlson, SIAM J. Numer. Anal. 17, 1980).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from kyanoscript.core.process.aims import Array, aimed, density_from
from kyanoscript.translation import tr

if TYPE_CHECKING:  # SciPy is half of a second of every start: it is imported where it works
    from scipy.interpolate import BSpline

FEWEST = 6  # different steps: with fewer a curve would be guessed
_GRID = 1001
_LEAST_RANGE = 8.0  # L* between paper and the deepest: with less there is no print
_BACK = 1.0  # L*: so much lighter again, and beyond its error, a process turns back
_STILL, _WIDER = 0.01, 3.0  # of the way from white to the deepest where tones stand still, and per cent round it
_TAIL = 0.05  # L* from an end: closer, where the answer hardly changes, any value would do

Pair = tuple[float, float]  # value of the wedge on the film, 0…100, and L* of the print


@dataclass(frozen=True)
class Response:
    """A process's answer to the values of a wedge."""

    values: Array  # 0…100, rising: those that were read
    means: Array  # L* of each
    counts: Array  # readings of each
    grid: Array  # 0…100
    fitted: Array  # L* over the grid, falling
    band: Array  # standard error of it
    noise: float  # standard deviation of a single reading, L*
    stops: float  # the value at which the process turns back; 100: nowhere
    smoothing: float

    @property
    def white(self) -> float:
        """L* of the lightest tone."""
        return float(self.fitted[0])

    @property
    def deepest(self) -> float:
        """L* of the deepest."""
        return float(self.fitted[-1])

    def at(self, values: Array | float) -> Array:
        """L* of values 0…100."""
        return np.asarray(np.interp(values, self.grid, self.fitted))

    def value_for(self, lightness: Array) -> Array:
        """The values that print a lightness; ends where there is none."""
        from scipy.interpolate import PchipInterpolator

        falls = np.concatenate([[True], np.diff(np.minimum.accumulate(self.fitted)) < -1e-6])
        light, value = self.fitted[falls][::-1], self.grid[falls][::-1]
        inside = (light > self.deepest + _TAIL) & (light < self.white - _TAIL)
        if inside.any():  # flat ends: the value where the tone is reached, not where it goes on for ever
            first, last = int(np.argmax(inside)), len(inside) - int(np.argmax(inside[::-1]))
            light, value = light[max(0, first - 1) : last + 1], value[max(0, first - 1) : last + 1]
        inverse = PchipInterpolator(light, value)
        return np.asarray(np.clip(inverse(np.clip(lightness, light[0], light[-1])), 0, 100))

    def moving(self) -> tuple[float, float]:
        """The values between which its tones move, whole per cent: all but a hundredth at each end."""
        part = _STILL * (self.white - self.deepest)
        first = float(self.grid[int(np.argmax(self.fitted < self.white - part))])
        last = float(self.grid[len(self.grid) - 1 - int(np.argmax(self.fitted[::-1] > self.deepest + part))])
        return max(0.0, math.floor(first) - _WIDER), min(100.0, math.ceil(last) + _WIDER)

    def said(self) -> list[str]:
        """What should be known of it."""
        said = []
        if self.stops < 100:
            said.append(
                tr(
                    "The process turns back at {stops:.0f} %: beyond it gets lighter again, and the curve stops there",
                    stops=self.stops,
                )
            )
        return said


def respond(readings: Iterable[Pair], smoothing: float = 1.0) -> Response:
    """The answer of a process.

    Parameters
    ----------
    readings : pairs of a value 0…100 and L*; several of a value are averaged.
    smoothing : how much smoother than cross-validation finds, a factor.

    Raises ValueError, in words, for readings that no curve can be made of.
    """
    by: dict[float, list[float]] = {}
    for value, light in readings:
        by.setdefault(round(float(value), 4), []).append(float(light))
    values = np.array(sorted(by))
    if len(values) < FEWEST:
        raise ValueError(
            tr(
                "{count} different steps are too few for a curve; read {fewest} or more",
                count=len(values),
                fewest=FEWEST,
            )
        )
    if values[0] > 3 or values[-1] < 97:
        raise ValueError(
            tr(
                "the readings go from {values:g} to {values2:g} %; paper white and the deepest, 0 "
                "and 100 %, have to be among them",
                values=values[0],
                values2=values[-1],
            )
        )
    means = np.array([np.mean(by[value]) for value in values])
    counts = np.array([len(by[value]) for value in values], np.float64)
    _check(values, means)
    noise = _noise(values, means, [by[value] for value in values])
    spline, errors = _smoothed(values, means, counts, noise, smoothing)
    grid = np.linspace(0, 100, _GRID)
    raw, band = spline(np.clip(grid, values[0], values[-1])), errors(grid)
    stops = _turns(grid, raw, band)
    keep = grid <= stops + 1e-9
    fitted = _monotone(raw[keep], rising=False)
    fitted = np.concatenate([fitted, np.full(len(grid) - len(fitted), fitted[-1])])
    return Response(values, means, counts, grid, fitted, band, noise, stops, smoothing)


def _monotone(values: Array, rising: bool) -> Array:
    """The nearest values that go one way only."""
    from scipy.optimize import isotonic_regression

    return np.asarray(isotonic_regression(values, increasing=rising).x)


def _check(values: Array, means: Array) -> None:
    if not np.isfinite(means).all() or means.min() < -1 or means.max() > 110:
        raise ValueError(tr("the readings are no lightness: L* lies between 0 and 100"))
    if abs(means[0] - means[-1]) < _LEAST_RANGE and np.ptp(means) < _LEAST_RANGE:
        raise ValueError(
            tr(
                "from paper to the deepest there are {means:.1f} of L* only; was it exposed long enough?",
                means=np.ptp(means),
            )
        )
    if means[-1] > means[0]:
        raise ValueError(
            tr(
                "the readings go backwards: they get lighter where the wedge gets darker. Turn the list round, or read "
                "the "
                "print and not the film"
            )
        )


def _noise(values: Array, means: Array, by: list[list[float]]) -> float:
    """Standard deviation of one reading: of those of one value; with one each, of neighbours' bends."""
    inside = [(len(each) - 1, float(np.var(each, ddof=1))) for each in by if len(each) > 1]
    if sum(free for free, _ in inside) >= 5:
        return math.sqrt(sum(free * var for free, var in inside) / sum(free for free, _ in inside))
    middle = np.array([np.interp(values[k], values[[k - 1, k + 1]], means[[k - 1, k + 1]])
                       for k in range(1, len(values) - 1)])  # fmt: skip
    bends = means[1:-1] - middle
    return float(1.4826 * np.median(np.abs(bends - np.median(bends))) / math.sqrt(1.5))


def _smoothed(
    values: Array, means: Array, counts: Array, noise: float, smoothing: float
) -> tuple[Callable[[Array], Array], Callable[[Array], Array]]:
    """The spline, and its standard error over values."""
    from scipy.interpolate import make_smoothing_spline
    from scipy.optimize import minimize_scalar

    unit = np.eye(len(values))

    def spline(lam: float, of: Array) -> BSpline:
        return make_smoothing_spline(values / 100, of, w=counts, lam=lam)

    def hat(lam: float) -> Array:
        return np.asarray(spline(lam, unit)(values / 100))

    def score(power: float) -> float:  # generalised cross-validation
        through = hat(10.0**power)
        left = means - through @ means
        free = 1 - np.trace(through) / len(values)
        return float(np.mean(counts * left**2) / max(free, 1e-6) ** 2)

    powers = np.linspace(-9, 1, 21)
    best = powers[int(np.argmin([score(power) for power in powers]))]
    found = minimize_scalar(score, bounds=(best - 0.5, best + 0.5), method="bounded")
    lam = 10.0 ** float(found.x) * smoothing
    made, parts = spline(lam, means), spline(lam, unit)

    def errors(at: Array) -> Array:
        through = parts(np.clip(at, values[0], values[-1]) / 100)
        return np.asarray(noise * np.sqrt((through**2 / counts).sum(axis=1)))

    return (lambda at: np.asarray(made(at / 100))), errors


def _turns(grid: Array, raw: Array, band: Array) -> float:
    """Where the lightness has its lowest value, if it clearly rises again; else 100."""
    low = int(np.argmin(raw))
    back = raw[low:].max() - raw[low]
    return float(grid[low]) if back > max(_BACK, 3 * float(band[low:].max())) else 100.0


def curve_of(response: Response, aim: str, tones: Array) -> Array:
    """The value of the film, 0…100, for tones wanted."""
    return response.value_for(aimed(aim, tones, response.white, response.deepest))


@dataclass(frozen=True)
class Left:
    """What a proof through the curve is off by, of one step."""

    tone: float  # wanted, 0…100
    wanted: float  # L*
    read: float


def left_over(response: Response, aim: str, proof: Sequence[Pair]) -> list[Left]:
    """What is left after the curve: of readings (tone wanted, L*) of a wedge through it, means of each tone."""
    by: dict[float, list[float]] = {}
    for tone, light in proof:
        by.setdefault(tone, []).append(light)
    tones = np.array(sorted(by))
    wanted = aimed(aim, tones, response.white, response.deepest)
    return [Left(float(t), float(w), float(np.mean(by[t]))) for t, w in zip(tones, wanted, strict=True)]


def summed(left: Sequence[Left]) -> tuple[float, float]:
    """Root of the mean square, and what 95 % stay within, L*."""
    off = np.array([one.read - one.wanted for one in left])
    return float(np.sqrt(np.mean(off**2))), float(np.percentile(np.abs(off), 95))


# Time, and the ink that holds the light back


def shortest_time(times: Sequence[float], lightness: Sequence[float], white: float, share: float = 0.95) -> float:
    """The shortest of times, rising, after which the print has this share of its largest density above the paper's.

    ``white``: L* of the paper. Between two times it is found on the line of log time. Raises ValueError, in words.
    """
    above = _above(times, lightness, white)
    if above[-1] < 0.2:
        raise ValueError(tr("it hardly gets dark at the longest time; expose longer"))
    if above[-1] - above[-2] > 0.05 * float(above[-1]):
        raise ValueError(tr("it still gets darker at the longest time; expose longer"))
    aim = share * float(above[-1])
    at = int(np.argmax(above >= aim))
    if at == 0:
        return float(times[0])
    logs = np.log(np.array(times))
    part = (aim - above[at - 1]) / (above[at] - above[at - 1])
    return float(np.exp(logs[at - 1] + part * (logs[at] - logs[at - 1])))


def scale_of(times: Sequence[float], lightness: Sequence[float], white: float) -> float:
    """The exposure scale: log₁₀ of exposure from 0.04 above the paper's density to nine tenths of the way to the
    deepest (as ISO 6846 puts it; from memory). Not a number where the times do not reach that far.
    """
    above = _above(times, lightness, white)
    if above[-1] < 0.2 or above[0] > 0.04:
        return math.nan
    rising = np.concatenate([[True], np.diff(above) > 1e-6])
    at = np.interp([0.04, 0.9 * above[-1]], above[rising], np.log10(np.array(times))[rising])
    return float(at[1] - at[0])


def _above(times: Sequence[float], lightness: Sequence[float], white: float) -> Array:
    """Densities above the paper's, rising with time."""
    if len(times) < 3 or len(times) != len(lightness):
        raise ValueError(tr("{count} times are too few, or have not a reading each", count=len(times)))
    if list(times) != sorted(set(times)) or times[0] <= 0:
        raise ValueError(tr("times have to rise, from above 0"))
    dense = density_from(np.array(lightness, np.float64)) - float(density_from(white))
    return _monotone(dense, rising=True)


@dataclass(frozen=True)
class Holding:
    """What a filter ink does."""

    colour: str
    lightness: float
    ink: float  # how much of it is on the film, 0…1 of every primary


def filter_ink(readings: Iterable[tuple[str, float]], white: float, within: float = 0.7) -> Holding:
    """The colour that just keeps paper white with the least ink. Raises ValueError where none does."""
    found: dict[str, list[float]] = {}
    for tint, light in readings:
        found.setdefault(tint, []).append(light)
    every = []
    for tint, lights in found.items():
        rgb = [int(tint[k : k + 2], 16) / 255 for k in (1, 3, 5)]
        every.append(Holding(tint, float(np.mean(lights)), sum(1 - v for v in rgb) / 3))
    holds = [one for one in every if one.lightness >= white - within]
    if not holds:
        best = max((one.lightness for one in every), default=0.0)
        raise ValueError(
            tr(
                "no ink of the chart keeps the paper white: the best leaves L* {best:.1f} of "
                "{white:.1f}; expose shorter, or print on film that takes more ink",
                best=best,
                white=white,
            )
        )
    return min(holds, key=lambda one: one.ink)
