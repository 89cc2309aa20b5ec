"""What lies around a place, told for each tone: the step that local exposure and local contrast are made of.

Around every place a histogram of tones is kept, under a Gaussian. A *response* tells what a pixel of one tone owes to a
neighbour of another; summed over the neighbours it is what the pixel gains. That is the local Laplacian filter of two
levels, or unnormalised bilateral filter, of Aubry, Paris, Hasinoff, Kautz and Durand ("Fast local Laplacian filters",
ACM Transactions on Graphics 33, 2014, section 4): a neighbour of a tone far away owes nothing, and takes nothing from
the others by being there, so that nothing bends beside an edge. The histogram is gathered in coarse cells, which loses
nothing of an edge within a cell, blurred, and read between cells and between tones as in a bilateral grid (Chen, Paris
and Durand, ACM Transactions on Graphics 26, 2007).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import smooth
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.tones import table

f = np.float32
Response = NDArray[np.float32]  # (tones, tones): what a pixel of the tone k owes to a neighbour of the tone b
RANGE = 0.22  # of the way from black to white: tones farther apart are another thing's
_SHARE = 0.7  # of the slope that there is
_KEPT = 1.0  # cells that the Gaussian is at least wide
_ROUGHLY_KEPT = 0.85  # where it is seen for a moment
_HARDLY_KEPT = 0.66  # the same where cells are many: little more than what reading between them spreads by itself
_MANY = 4  # pixels that such cells are wide at most
_NEAR = 2.0  # pixels that it is at least wide in the coarse picture that is looked at: see `kyanoscript.core.smooth`
_LEAST = 1.32  # pixels: what reading between cells of two pixels spreads by itself
_BESIDE = 0.8  # pixels below which, for a moment, only the eight neighbours of a pixel count
# A Gaussian between the two is seen for a moment by cells of two pixels, with so much of what these give: least squares
# on the fine contrast of three photographs of scikit-image and the ferry landing, which agree within 0.05.
_NARROW = (0.7, 0.9, 1.1, _LEAST), (0.57, 0.8, 0.91, 1.0)
_DIFFERENCES = 1025  # of tones that are told apart among neighbours


def tones(count: int) -> NDArray[np.float64]:
    """The tones of a response, evenly from black to white."""
    return np.linspace(0, 1, count)


def near(count: int) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """How much lighter a pixel (rows) is than its neighbour (columns), and how much they are one thing, 1…0."""
    at = tones(count)
    away = at[:, None] - at[None, :]
    return away, np.clip(1 - (away / RANGE) ** 2, 0, None)


def response(gain: NDArray[np.float64], slope: NDArray[np.float64] | float = 1.0, share: float = _SHARE) -> Response:
    """A response from what pixels (rows) would owe to neighbours (columns) if all were one thing.

    It ends at `RANGE`, and what lifts a pixel away from its neighbour is held so that the tone curve goes on rising: of
    its ``slope`` at the tones of the pixels a ``share`` may be taken back.
    """
    away, window = near(len(gain))
    room = np.maximum(share * np.reshape(slope, (-1, 1)) * np.maximum(RANGE - np.abs(away), 0), 1e-9)
    size = np.abs(gain)
    apart = np.sign(gain) * size / (1 + (size / room) ** 4) ** 0.25
    return table(np.where(gain * away > 0, apart, gain * window**2))


def _cells(sigma: float, rough: bool) -> tuple[int, int]:
    """By how much the picture looked at is reduced, and how many of its pixels a cell is wide."""
    factor = max(k for k in smooth.FACTORS if k == 1 or sigma / k >= _NEAR)
    wide = 1
    while sigma / factor / (2 * wide) >= _least_kept(factor * 2 * wide, rough):
        wide *= 2
    return factor, 2 if wide == 1 and sigma >= (_BESIDE if rough else _LEAST) else wide


def _least_kept(wide: int, rough: bool) -> float:
    """Cells of so many present pixels that the Gaussian is at least wide."""
    return _KEPT if not rough else _HARDLY_KEPT if wide <= _MANY else _ROUGHLY_KEPT


def margin(sigma: float) -> int:
    """Pixels that a pass needs around a region, for a Gaussian of ``sigma`` pixels, at rest or in a drag."""
    cells = _cells(sigma, False), _cells(sigma, True)  # in a drag they are wider, and reach farther
    return max(_reach(sigma, 1, wide) if factor == 1 else 0 for factor, wide in cells)


def _reach(sigma: float, factor: int, wide: int) -> int:
    own = _own(sigma, factor * wide)
    return (smooth.reach(own) + smooth.AROUND + 2) * wide


def _own(sigma: float, wide: int) -> float:
    """The Gaussian between cells, beside what they spread and what reading between them does."""
    left = (sigma / wide) ** 2 - 1 / 3 - (1 / 12 if wide > 1 else 0)
    return math.sqrt(max(left, 0.0))


def gathered(
    place: Place,
    planes: Planes,
    gray: Planes,
    sigma: float,
    answers: Response,
    prepare: Callable[[Planes], Planes],
    by_difference: bool = False,
) -> Planes:
    """What each pixel of ``gray`` ``(1, h, w)`` gains from its neighbours in ``planes`` (with the pass's margin).

    ``by_difference``: what is owed depends on how far two tones lie apart, and not on where they lie.
    """
    factor, wide = _cells(sigma, place.rough)
    own = _own(sigma, factor * wide)
    reach = _reach(sigma, factor, wide)
    if place.rough and wide == 1 and by_difference:
        return _beside(prepare(place.inner(planes, 1)), own, answers)
    if place.rough and wide == 2 and sigma < _LEAST:
        answers = answers * f(np.interp(sigma, *_NARROW))
    count = len(answers)
    first, last = 0, count  # tones of which answers are worked out
    if factor == 1:
        cut = min(place.margin, reach)
        near = smooth.Coarse(place.inner(planes, cut), place.rect.x - cut, place.rect.y - cut, 1.0, 1.0)
        darkest, lightest = (float(np.clip(v, 0, 1)) * (count - 1) for v in (gray.min(), gray.max()))
        first = min(int(darkest), count - 2)
        last = min(int(lightest) + 2, count)
        found = _answered(prepare(near.planes), near, wide, own, answers, first, last)
    else:

        def work(coarse: smooth.Coarse) -> smooth.Coarse:
            return _answered(prepare(coarse.planes), coarse, wide, own, answers, first, last)

        found = place.coarse(factor, reach, ("ranges", wide, own, answers.tobytes()), work)
    return _read(found, gray, place.rect, count, first)


def _beside(gray: Planes, own: float, answers: Response) -> Planes:
    """What each pixel but the outermost gains from itself and the eight around it."""
    bell = smooth.bell(own)
    taps = np.convolve(bell, np.array([1, 4, 1], np.float32) / 6)
    taps = taps[len(taps) // 2 - 1 : len(taps) // 2 + 2]
    out = np.zeros((1, gray.shape[1] - 2, gray.shape[2] - 2), np.float32)
    apart = _apart(answers.tobytes(), len(answers))
    weigh_neighbours(gray, out, table(taps / taps.sum()), apart, gray.shape[2], *out.shape[:0:-1], len(apart))
    return out


@functools.lru_cache(maxsize=32)
def _apart(answers: bytes, count: int) -> NDArray[np.float32]:
    """What is owed for every difference of two tones, from the lighter neighbour's to the darker one's."""
    half = np.linspace(-0.5, 0.5, _DIFFERENCES) * (count - 1)
    middle = (count - 1) / 2
    at = np.stack([middle + half, middle - half])
    low = np.clip(np.floor(at).astype(int), 0, count - 2)
    (t, u), (k, b), owed = at - low, low, np.frombuffer(answers, np.float32).reshape(count, count)
    near = owed[k, b] * (1 - t) + owed[k + 1, b] * t
    far = owed[k, b + 1] * (1 - t) + owed[k + 1, b + 1] * t
    return table(near + (far - near) * u)


def _answered(
    gray: Planes, coarse: smooth.Coarse, wide: int, own: float, answers: Response, first: int, last: int
) -> smooth.Coarse:
    """What a pixel of every tone from ``first`` on, below ``last``, would gain in every cell."""
    # Cells lie on one lattice for the whole print, wherever the region begins.
    left, top = -int(coarse.x) % wide, -int(coarse.y) % wide
    across, down = (gray.shape[2] - left) // wide, (gray.shape[1] - top) // wide
    count, known = len(answers), last - first
    told = np.zeros((down, count + 3, across), np.float32)  # three more, that tones can be taken by fours
    spread(gray, told, gray.shape[2], left, top, across, down, wide, count)
    reach = int(RANGE * (count - 1)) + 1
    padded = np.zeros((known, count + 3), np.float32)
    padded[:, :count] = answers[first:last]
    taps = smooth.bell(own)
    lost = len(taps) // 2
    rows = np.empty((down, known, across - 2 * lost), np.float32)
    answer(told, rows, padded, taps, np.empty(across, np.float32), lost, across, down, known, first, count, reach)
    blurred = np.empty((down - 2 * lost, *rows.shape[1:]), np.float32)
    blur_down(rows, blurred, taps, lost, len(blurred), rows[0].size)
    x, y = (coarse.x + left) / wide + lost, (coarse.y + top) / wide + lost
    return smooth.Coarse(blurred, x, y, coarse.across / wide, coarse.down / wide)


def _read(found: smooth.Coarse, gray: Planes, rect: Rect, count: int, first: int) -> Planes:
    hc, known, wc = found.planes.shape
    xi, xw = smooth.spline(rect.x, rect.width, found.across, found.x, wc)
    yi, yw = smooth.spline(rect.y, rect.height, found.down, found.y, hc)
    out = np.empty_like(gray)
    between = np.empty((known, wc), np.float32)
    xi, planes = xi.astype(f), found.planes
    read_tones(planes, gray, out, between, xi, xw, yi, yw, rect.width, rect.height, wc, known, first, count - 1)
    return out


@kernel("f4* gray, f4* out, f4* taps, f4* apart, i8 width, i8 w, i8 h, i8 size")
def weigh_neighbours(gray, out, taps, apart, width, w, h, size):
    half = f(size // 2)
    for y in range(h):
        for j in range(9):
            weight, own, other = taps[j // 3] * taps[j % 3], (y + 1) * width + 1, (y + j // 3) * width + j % 3
            for x in range(w):
                at = (gray[own + x] - gray[other + x]) * half + half
                out[y * w + x] += weight * apart[np.int32(min(max(at, f(0.0)), half + half) + f(0.5))]


# Rows of cells, in each the tones, in each the columns: what is worked on together lies together.


@kernel("f4* gray, f4* told, i8 width, i8 left, i8 top, i8 across, i8 down, i8 wide, i8 count")
def spread(gray, told, width, left, top, across, down, wide, count):
    """Tones of cells, each between two of the table's."""
    share = f(1.0) / f(wide * wide)
    for y in range(down * wide):
        row, start = (y // wide) * (count + 3) * across, (top + y) * width + left
        for x in range(across):
            for j in range(wide):
                at = min(max(gray[start + x * wide + j], f(0.0)), f(1.0)) * f(count - 1)
                low = min(np.int64(at), count - 2)
                t = (at - f(low)) * share
                told[row + low * across + x] += share - t
                told[row + (low + 1) * across + x] += t


@kernel(
    "f4* told, f4* out, f4* answers, f4* taps, f4* line, i8 lost, i8 w, i8 h, i8 known, i8 first, i8 count, i8 reach"
)
def answer(told, out, answers, taps, line, lost, w, h, known, first, count, reach):
    """What pixels of every tone would gain, blurred along the row."""
    inner = w - 2 * lost
    for y in range(h):
        for k in range(known):
            own, row = k * (count + 3), y * (count + 3) * w
            start, stop = max(first + k - reach, 0), min(first + k + reach + 1, count)
            for i in range(w):
                line[i] = f(0.0)
            for b in range(start, stop, 4):
                p, q, r, s = answers[own + b], answers[own + b + 1], answers[own + b + 2], answers[own + b + 3]
                at = row + b * w
                bt, ct, et = at + w, at + 2 * w, at + 3 * w
                for i in range(w):
                    line[i] += p * told[at + i] + q * told[bt + i] + r * told[ct + i] + s * told[et + i]
            to = (y * known + k) * inner
            for i in range(inner):
                out[to + i] = taps[lost] * line[i + lost]
            for t in range(lost):
                by, far = taps[t], 2 * lost - t
                for i in range(inner):
                    out[to + i] += by * (line[i + t] + line[i + far])


@kernel("f4* rows, f4* out, f4* taps, i8 lost, i8 h, i8 n")
def blur_down(rows, out, taps, lost, h, n):
    for y in range(h):
        to, at = y * n, (y + lost) * n
        for i in range(n):
            out[to + i] = taps[lost] * rows[at + i]
        for t in range(lost):
            by, near, far = taps[t], (y + t) * n, (y + 2 * lost - t) * n
            for i in range(n):
                out[to + i] += by * (rows[near + i] + rows[far + i])


@kernel(
    "f4* found, f4* gray, f4* out, f4* between, f4* xi, f4* xw, i8* yi, f4* yw, i8 w, i8 h, i8 wc, i8 known, "
    "i8 first, i8 top"
)
def read_tones(found, gray, out, between, xi, xw, yi, yw, w, h, wc, known, first, top):
    n = known * wc
    for y in range(h):
        a, b, c, e = yw[y], yw[h + y], yw[h + h + y], yw[3 * h + y]
        at = yi[y] * n
        for i in range(n):
            j = at + i
            between[i] = a * found[j] + b * found[j + n] + c * found[j + 2 * n] + e * found[j + 3 * n]
        for x in range(w):
            tone = min(max(gray[y * w + x], f(0.0)), f(1.0)) * f(top) - f(first)
            low = min(np.floor(tone), f(known - 2))
            t = tone - low
            k = np.int32(low * f(wc) + xi[x])  # whole numbers of eight bytes would be worked out one by one
            m = k + wc
            p, q, r, s = xw[x], xw[w + x], xw[w + w + x], xw[3 * w + x]
            dark = p * between[k] + q * between[k + 1] + r * between[k + 2] + s * between[k + 3]
            light = p * between[m] + q * between[m + 1] + r * between[m + 2] + s * between[m + 3]
            out[y * w + x] = dark + t * (light - dark)
