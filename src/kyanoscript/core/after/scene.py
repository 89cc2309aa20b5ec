"""Whether two pictures show the same, and what was done to one of them if they do.

Features are those of D. G. Lowe, "Distinctive image features from scale-invariant keypoints", International Journal of
Computer Vision 60 (2004), and the frame between them is found with OpenCV's RANSAC.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import minimize

from kyanoscript.core import colour
from kyanoscript.core.after.picture import Array
from kyanoscript.core.colour import SRGB
from kyanoscript.core.late import cv2
from kyanoscript.core.passes.gray.gray_weights import lift_table
from kyanoscript.core.picture import Planes
from kyanoscript.core.tones import curve_at

_FEWEST, _SHARE = 24, 0.25  # features that must agree on one frame, and their share of those that match
_CLEAR = 0.75  # a match is twice as near as the next (Lowe)
_OFF = 2.5  # pixels
_SCALED = 6.0  # times larger or smaller: a print may show a part
_LEVELS = 64  # of the relation between two grays
_NODES = 5  # of a curve
_MOST = 1.8  # of a weight
_EYE = (0.299, 0.587)  # red and green
_HUES = (29.0, 70.0, 110.0, 142.0, 195.0, 264.0, 328.0)  # where the ring is asked, degrees of Oklab
_RIDGE = 0.002  # of a ring's lifts
_STEPS = 15  # towards a ring
_CLEARLY = 0.004  # encoded gray: less that is left asks for no ring
_TURNED = 0.01  # encoded gray, in the mean
_WORTH = 0.9  # a ring is worth having if what is left falls to this share

Curve = tuple[tuple[float, float], ...]


@dataclass(frozen=True, eq=False)
class Same:
    """The photograph laid over the print: where both are."""

    photo: Planes  # (3, h, w), on the print's pixels
    both: NDArray[np.bool_]  # (h, w)
    features: int  # that agree


def same_scene(print_: Planes, photo: Planes) -> Same | None:
    """The photograph laid over the print, if they show the same scene."""
    finder = cv2.SIFT_create(nfeatures=3000, contrastThreshold=0.01)  # type: ignore[attr-defined]
    even = cv2.createCLAHE(3.0, (8, 8))

    def seen(planes: Planes) -> tuple[NDArray[np.float32], NDArray[np.float32] | None]:
        gray = np.clip(colour.gray_of(planes, SRGB)[0] * 255, 0, 255).astype(np.uint8)
        points, words = finder.detectAndCompute(even.apply(gray), None)
        return np.array([point.pt for point in points], np.float32), words

    (here, own), (there, other) = seen(print_), seen(photo)
    if own is None or other is None or min(len(own), len(other)) < _FEWEST:
        return None
    pairs = cv2.BFMatcher(cv2.NORM_L2).knnMatch(other, own, k=2)
    clear = [one for one, next_ in pairs if one.distance < _CLEAR * next_.distance]
    once: dict[int, cv2.DMatch] = {}  # of the print each feature once: many that are like one agree on any frame
    for match in sorted(clear, key=lambda match: match.distance):
        once.setdefault(match.trainIdx, match)
    good = list(once.values())
    if len(good) < _FEWEST:
        return None
    source = np.array([there[match.queryIdx] for match in good])
    target = np.array([here[match.trainIdx] for match in good])
    cv2.setRNGSeed(1)
    frame, agree = cv2.estimateAffinePartial2D(source, target, ransacReprojThreshold=_OFF, maxIters=5000)
    if frame is None or agree.sum() < max(_FEWEST, _SHARE * len(good)):
        return None
    if not 1 / _SCALED < np.hypot(frame[0, 0], frame[1, 0]) < _SCALED:
        return None
    height, width = print_.shape[1:]
    stacked = np.ascontiguousarray(np.moveaxis(colour.in_colour(photo), 0, -1))
    laid = cv2.warpAffine(stacked, frame, (width, height), flags=cv2.INTER_AREA)
    covers = cv2.warpAffine(np.ones(photo.shape[1:], np.float32), frame, (width, height)) > 0.999
    return Same(np.ascontiguousarray(np.moveaxis(laid, -1, 0)), covers, int(agree.sum()))


@dataclass(frozen=True)
class Fitted:
    """How a photograph became the print: weights, ring and curve."""

    shares: tuple[float, float, float]  # red, green, blue, sum 1
    light: bool  # weighed in linear light
    ring: Curve  # handles: hue in degrees, lift
    curve: Curve  # 0…255
    off: float  # encoded gray, 0…1: what is left in the mean


def fitted(rgb: Array, wanted: Array, near: Fitted | None = None) -> Fitted:
    """Of encoded colours ``(3, p)`` and the grays ``(p,)`` that the print has there.

    For any weights the curve is the best there is; weights are those of which least is left, near those of the eye
    where the picture does not tell. ``near``: what was found before, of nearly the same grays.
    """
    best: tuple[float, Array, bool] | None = None
    for light in (False, True) if near is None else (near.light,):
        channels = np.asarray(colour.to_light(rgb), float) if light else rgb
        for start in (_EYE, (0.6, 0.3), (0.1, 0.3)) if near is None else (near.shares[:2],):
            found = minimize(
                lambda w, of=channels, light=light: left(_weighed(of, w, light), wanted) + 0.002 * _strange(w),
                np.array(start),
                method="Nelder-Mead",
                options={"xatol": 0.004, "fatol": 1e-5, "maxfev": 120},
            )
            if best is None or found.fun < best[0]:
                best = float(found.fun), found.x, light
    assert best is not None
    _, weights, light = best
    channels = np.asarray(colour.to_light(rgb), float) if light else rgb
    gray = _weighed(channels, weights, light)
    off = left(gray, wanted)
    ring: Curve = ()
    ringed = _Ringed(rgb, channels, light, wanted)
    for begun in (weights, np.array(_EYE)) if off > _CLEARLY else ():  # a ring may be on any weights
        values, less = ringed.sought(begun)
        if less < (off if ring else _WORTH * off):
            weights, gray, off = values[:2], ringed.gray(values), less
            ring = tuple((hue, round(100 * float(v), 1)) for hue, v in zip(_HUES, values[2:], strict=True))
    red, green = (float(share) for share in weights)
    return Fitted((red, green, 1 - red - green), light, ring, curve_of(gray, wanted), off)


def _weighed(channels: Array, weights: Array, light: bool) -> Array:
    gray = np.clip(
        weights[0] * channels[0] + weights[1] * channels[1] + (1 - weights[0] - weights[1]) * channels[2], 0, 1
    )
    return np.asarray(colour.to_encoded(gray), float) if light else gray


def _strange(weights: Array) -> float:
    """How far weights are from the eye's; far beyond what a glass or an emulsion has it soon is too far."""
    red, green = weights
    beyond = max(0.0, max(abs(red), abs(green), abs(1 - red - green)) - _MOST)
    return float((red - _EYE[0]) ** 2 + (green - _EYE[1]) ** 2 + 1000 * beyond)


def _relation(gray: Array, wanted: Array) -> tuple[Array, Array, Array]:
    """Levels of a gray, what is wanted there in the mean, and how many there are."""
    at = np.minimum((gray * _LEVELS).astype(int), _LEVELS - 1)
    count = np.bincount(at, minlength=_LEVELS).astype(float)
    some = count > 0
    level = np.bincount(at, gray, _LEVELS)[some] / count[some]
    mean = np.bincount(at, wanted, _LEVELS)[some] / count[some]
    return level, mean, count[some]


def left(gray: Array, wanted: Array) -> float:
    """What the best relation of two grays leaves, in the mean; it need not rise."""
    level, mean, _ = _relation(gray, wanted)
    return float(np.abs(wanted - np.interp(gray, level, mean)).mean())


def turned(gray: Array, wanted: Array) -> bool:
    """Whether some lighter tone became darker than a darker one: no curve that rises does that."""
    _, mean, count = _relation(gray, wanted)
    off = np.abs(mean - _rising(mean, count))
    return float((off * count).sum() / count.sum()) > _TURNED


def _rising(values: Array, weight: Array) -> Array:
    """The nearest row that never falls (pool adjacent violators: R. E. Barlow and others, 1972)."""
    blocks: list[list[float]] = []
    for value, heavy in zip(values, weight, strict=True):
        blocks.append([float(value), float(heavy), 1])
        while len(blocks) > 1 and blocks[-2][0] > blocks[-1][0]:
            last, before = blocks.pop(), blocks.pop()
            together = before[1] + last[1]
            blocks.append([(before[0] * before[1] + last[0] * last[1]) / together, together, before[2] + last[2]])
    return np.concatenate([np.full(int(count), value) for value, _, count in blocks])


def curve_of(gray: Array, wanted: Array, gentlest: float = 0.0, steepest: float = 8.0) -> Curve:
    """At most five points, 0…255, that come nearest to the relation of two grays, and rise as steeply as is allowed."""
    level, mean, count = _relation(gray, wanted)
    mean = _rising(mean, count)
    low, high = float(level[0]), float(level[-1])
    if high - low < 0.02:
        return ()
    ends = float(np.interp(low, level, mean)), float(np.interp(high, level, mean))
    ticks = np.linspace(low, high, 17)[1:-1]

    def points(inner: tuple[float, ...]) -> Curve:
        x = np.array([low, *inner, high])
        y = np.clip([ends[0], *np.interp(inner, level, mean), ends[1]], 0, 1)
        steps = np.diff(x)
        rises = np.clip(np.diff(y), gentlest * steps, steepest * steps)
        spare = rises - gentlest * steps
        beyond = max(0.0, y[0] + rises.sum() - 1)  # white: less of what is more than the gentlest
        rises -= spare * min(1.0, beyond / max(float(spare.sum()), 1e-9))
        y = y[0] + np.concatenate([[0.0], np.cumsum(rises)])
        return tuple(zip((255 * x).tolist(), (255 * np.clip(y, 0, 1)).tolist(), strict=True))

    def off(curve: Curve) -> float:
        return float((count * np.abs(curve_at(curve, level) - mean)).sum() / count.sum())

    best = min((points(inner) for inner in itertools.combinations(ticks[::2], _NODES - 2)), key=off)
    straight = points(())
    chosen = straight if off(straight) < off(best) + 0.002 else best
    return tuple((round(x, 1), round(y, 1)) for x, y in chosen)


class _Ringed:
    """Grays lifted hue by hue: weights and ring together (Gauss and Newton's steps, with a little kept back)."""

    def __init__(self, rgb: Array, channels: Array, light: bool, wanted: Array) -> None:
        self.channels, self.light, self.wanted = channels, light, wanted
        hue = np.asarray(colour.to_oklch(rgb.astype(np.float32), SRGB)[2], float) % 360
        vivid = 1 - (1 - (rgb.max(0) - rgb.min(0))) ** 2
        tables = [lift_table(tuple((other, 100.0 * (other == one)) for other in _HUES)) for one in _HUES]
        self.each = np.stack([np.interp(hue, np.linspace(0, 360, len(t)), t) for t in tables], 1) * vivid[:, None]

    def gray(self, values: Array) -> Array:
        """Of red and green weights and lifts, ``(2 + n,)``."""
        gray, lift = _weighed(self.channels, values[:2], self.light), self._lift(values)
        return gray + np.maximum(lift, 0) * (1 - gray) + np.minimum(lift, 0) * gray

    def sought(self, weights: Array) -> tuple[Array, float]:
        """The values of which least is left, and how much that is."""
        values = np.concatenate([weights, np.zeros(len(_HUES))])
        off = left(self.gray(values), self.wanted)
        for _ in range(_STEPS):
            step = self._step(values)
            for share in (1.0, 0.5, 0.25, 0.1):
                tried = values + share * step
                tried[2:] = np.clip(tried[2:], -1, 1)
                now = left(self.gray(tried), self.wanted) + 0.002 * _strange(tried[:2])
                if now < off - 1e-5:
                    values, off = tried, now
                    break
            else:
                break
        return values, left(self.gray(values), self.wanted)

    def _lift(self, values: Array) -> Array:
        return np.asarray(np.clip(self.each @ values[2:], -1, 1))

    def _step(self, values: Array) -> Array:
        made, lift = self.gray(values), self._lift(values)
        level, mean, count = _relation(made, self.wanted)
        mean = _rising(mean, count)
        steep = np.interp(made, level, np.gradient(mean, level)) if len(level) > 1 else np.zeros(made.shape)
        gray = _weighed(self.channels, values[:2], self.light)
        by_weight = (self.channels[:2] - self.channels[2]).T * (1 - np.abs(lift))[:, None]
        by_lift = self.each * np.where(lift >= 0, 1 - gray, gray)[:, None]
        moves = np.concatenate([by_weight, by_lift], axis=1) * steep[:, None]
        kept = np.concatenate([[1e-3, 1e-3], np.full(len(_HUES), _RIDGE / 10)]) * len(made)
        rest = np.concatenate([values[:2] - _EYE, values[2:]])
        off = self.wanted - np.interp(made, level, mean)
        return np.asarray(np.linalg.solve(moves.T @ moves + np.diag(kept), moves.T @ off - kept * rest))
