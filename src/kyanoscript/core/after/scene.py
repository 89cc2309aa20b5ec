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
_LEVELS = 64  # of the relation between two grays
_NODES = 5  # of a curve
_MOST = 1.8  # of a weight
_HUES = (29.0, 70.0, 110.0, 142.0, 195.0, 264.0, 328.0)  # where the ring is asked, degrees of Oklab
_RIDGE = 0.02  # of a ring's lifts
_TURNED = 0.008  # encoded gray, in the mean
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
    good = [one for one, next_ in (pair for pair in pairs if len(pair) == 2) if one.distance < _CLEAR * next_.distance]
    if len(good) < _FEWEST:
        return None
    source = np.array([there[match.queryIdx] for match in good])
    target = np.array([here[match.trainIdx] for match in good])
    cv2.setRNGSeed(1)
    frame, agree = cv2.estimateAffinePartial2D(source, target, ransacReprojThreshold=_OFF, maxIters=5000)
    if frame is None or agree.sum() < max(_FEWEST, _SHARE * len(good)):
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
    ring: tuple[tuple[float, float], ...]
    curve: Curve  # 0…255
    off: float  # encoded gray, 0…1: what is left in the mean
    turned: bool  # some lighter tone became darker than a darker one: no curve that rises does that


def fitted(rgb: Array, wanted: Array) -> Fitted:
    """Of encoded colours ``(3, p)`` and the grays ``(p,)`` that the print has there.

    For any weights the curve is the best there is; weights are those of which least is left, near those of the eye
    where the picture does not tell.
    """
    best: tuple[float, Array, bool] | None = None
    for light in (False, True):
        channels = np.asarray(colour.to_light(rgb), float) if light else rgb
        for start in ((0.3, 0.59), (0.6, 0.3), (0.1, 0.3)):
            found = minimize(
                lambda w, of=channels, light=light: _left(_weighed(of, w, light), wanted) + 0.002 * _strange(w),
                np.array(start),
                method="Nelder-Mead",
                options={"xatol": 0.004, "fatol": 1e-5, "maxfev": 120},
            )
            if best is None or found.fun < best[0]:
                best = float(found.fun), found.x, light
    assert best is not None
    _, weights, light = best
    gray = _weighed(np.asarray(colour.to_light(rgb), float) if light else rgb, weights, light)
    off = _left(gray, wanted)
    ring: tuple[tuple[float, float], ...] = ()
    lifted, handles = _ringed(rgb, gray, wanted)
    if _left(lifted, wanted) < _WORTH * off and off > 0.004:
        gray, ring = lifted, handles
        off = _left(gray, wanted)
    red, green = (float(share) for share in weights)
    return Fitted((red, green, 1 - red - green), light, ring, curve_of(gray, wanted), off, _turned(gray, wanted))


def _weighed(channels: Array, weights: Array, light: bool) -> Array:
    gray = np.clip(
        weights[0] * channels[0] + weights[1] * channels[1] + (1 - weights[0] - weights[1]) * channels[2], 0, 1
    )
    return np.asarray(colour.to_encoded(gray), float) if light else gray


def _strange(weights: Array) -> float:
    """How far weights are from the eye's; far beyond what a glass or an emulsion has it soon is too far."""
    red, green = weights
    beyond = max(0.0, max(abs(red), abs(green), abs(1 - red - green)) - _MOST)
    return float((red - 0.299) ** 2 + (green - 0.587) ** 2 + 1000 * beyond)


def _relation(gray: Array, wanted: Array) -> tuple[Array, Array, Array]:
    """Levels of a gray, what is wanted there in the mean, and how many there are."""
    at = np.minimum((gray * _LEVELS).astype(int), _LEVELS - 1)
    count = np.bincount(at, minlength=_LEVELS).astype(float)
    some = count > 0
    level = np.bincount(at, gray, _LEVELS)[some] / count[some]
    mean = np.bincount(at, wanted, _LEVELS)[some] / count[some]
    return level, mean, count[some]


def _left(gray: Array, wanted: Array) -> float:
    """What the best curve leaves, in the mean."""
    level, mean, _ = _relation(gray, wanted)
    return float(np.abs(wanted - np.interp(gray, level, mean)).mean())


def _turned(gray: Array, wanted: Array) -> bool:
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


def _ringed(rgb: Array, gray: Array, wanted: Array) -> tuple[Array, tuple[tuple[float, float], ...]]:
    """The gray lifted hue by hue, and the ring that does it: least squares, with a little kept back."""
    level, mean, count = _relation(gray, wanted)
    mean = _rising(mean, count)
    before = np.interp(wanted, np.maximum.accumulate(mean + 1e-9 * np.arange(len(mean))), level)
    lch = colour.to_oklch(rgb.astype(np.float32), SRGB)
    hue = np.asarray(lch[2], float)
    vivid = 1 - (1 - (rgb.max(0) - rgb.min(0))) ** 2
    tables = [lift_table(tuple((other, 100.0 * (other == one)) for other in _HUES)) for one in _HUES]
    each = np.stack([np.interp(hue % 360, np.linspace(0, 360, len(t)), t) for t in tables], 1) * vivid[:, None]
    lifts = np.zeros(len(_HUES))
    for _ in range(3):
        up = (each @ lifts >= 0)[:, None]
        moves = each * np.where(up, (1 - gray)[:, None], gray[:, None])
        ridge = _RIDGE * len(gray) / 10 * np.eye(len(_HUES))
        lifts = np.clip(np.linalg.solve(moves.T @ moves + ridge, moves.T @ (before - gray)), -1, 1)
    lift = np.clip(each @ lifts, -1, 1)
    made = gray + np.maximum(lift, 0) * (1 - gray) + np.minimum(lift, 0) * gray
    return made, tuple((hue, round(100 * float(v), 1)) for hue, v in zip(_HUES, lifts, strict=True))
