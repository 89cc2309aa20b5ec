"""Stains evened: the rim that a drop left when it dried, and the tone within it.

A stain is drawn round by hand. The rim is looked for within the brush's width of that line (the most marked dark or
light way along it). Across it the picture is taken apart: what is the same along the rim for a good way belongs to the
stain, and goes; edges and textures, which are not, stay. Where the line closes, the difference of tone that its two
sides have all round is made up for within it. The way of it is our own, no source.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.spatial import cKDTree

from kyanoscript.core.late import cv2

Field = NDArray[np.float32]
Planes = NDArray[np.float32]
Line = NDArray[np.float64]  # (n, 2), a pixel apart
_SAME = 4.0  # half widths of the brush along the rim that a stain's tone is taken to be the same on
_BEND = 0.3  # what a step aside costs a way, in noise
_UNLIKE = 0.25  # a place of the rim is so much stronger or fainter than is usual on it, at most
_MOST = 0.35  # of the full range: no stain is taken to be darker or lighter


def correction(planes: Planes, points: Line, width: float, snaps: bool = True) -> tuple[Planes, tuple[int, int]]:
    """What takes one stain away: what is to be added, and where its first row and column lie.

    Parameters
    ----------
    planes : encoded, 0…1, ``(planes, h, w)``.
    points : the line drawn round the stain, or along its rim, in pixels ``(n, 2)``.
    width : of the brush, pixels: the rim lies within it.
    snaps : whether the rim is looked for; else the line lies on it.
    """
    height, whole_width = planes.shape[1:]
    closed = _closes(points, width)
    way = _spaced(points, closed)
    if len(way) < 8:
        return np.zeros((len(planes), 1, 1), np.float32), (0, 0)
    half = max(4, math.ceil(width / 2))
    fine = max(1.0, width / 25) if snaps else 0.6
    if snaps:
        way = _snapped(cv2.GaussianBlur(planes.mean(axis=0), (0, 0), fine), way, half, closed)
    low = np.maximum(np.floor(way.min(axis=0)).astype(int) - 3 * half, 0)
    high = np.minimum(np.ceil(way.max(axis=0)).astype(int) + 3 * half, [whole_width, height])
    shape = (int(high[1] - low[1]), int(high[0] - low[0]))
    if min(shape) < 1:
        return np.zeros((len(planes), 1, 1), np.float32), (0, 0)
    band = np.ones(shape, np.uint8)
    on = np.clip(np.rint(way - low).astype(int), 0, [shape[1] - 1, shape[0] - 1])
    band[on[:, 1], on[:, 0]] = 0
    ys, xs = np.nonzero(cv2.distanceTransform(band, cv2.DIST_L2, 5) <= 2 * half)
    places = np.stack([xs, ys], -1) + low
    far, nearest = cKDTree(way).query(places, workers=1)
    side = np.sum((places - way[nearest]) * _across(way, closed)[nearest], axis=1)
    share = np.clip((2 * half - far) / (0.5 * half), 0, 1)
    if not closed:  # what lies beyond the line's ends is not beside it
        beyond = np.sqrt(np.maximum(far * far - side * side, 0))
        share *= np.clip(1 - beyond / (0.25 * half), 0, 1)
    added = np.zeros((len(planes), *shape), np.float32)
    for plane, out in zip(planes, added, strict=True):
        profile, jump = _profile(cv2.GaussianBlur(plane, (0, 0), fine), way, half, closed)
        out[ys, xs] = share * ndimage.map_coordinates(profile, [nearest, side + 2 * half], order=1, mode="nearest")
        if closed:
            out += jump * _within(way - low, shape, half)
    return added, (int(low[1]), int(low[0]))


def _closes(points: Line, width: float) -> bool:
    length = float(np.hypot(*np.diff(points, axis=0).T).sum())
    gap = float(np.hypot(*(points[-1] - points[0])))
    return length > 4 * width and gap < max(1.5 * width, 0.12 * length)


def _spaced(points: Line, closed: bool) -> Line:
    """A line of places a pixel apart, without the corners of a hand's line."""
    if closed:
        points = np.concatenate([points, points[:1]])
    steps = np.hypot(*np.diff(points, axis=0).T)
    keep = np.concatenate([[True], steps > 1e-6])
    points, along = points[keep], np.concatenate([[0.0], np.cumsum(steps[steps > 1e-6])])
    at = np.arange(0, along[-1], 1.0)
    line = np.stack([np.interp(at, along, points[:, k]) for k in (0, 1)], -1)
    if len(line) > 8:
        mode = "wrap" if closed else "nearest"
        line = ndimage.gaussian_filter1d(line, min(8.0, len(line) / 8), axis=0, mode=mode)
    return np.asarray(line, np.float64)


def _across(way: Line, closed: bool) -> Line:
    """Which way is to the left of every place, of length 1; inward on a line that goes round clockwise on a picture."""
    mode = "wrap" if closed else "nearest"
    along = ndimage.correlate1d(way, [-0.5, 0, 0.5], axis=0, mode=mode)
    along = ndimage.gaussian_filter1d(along, 4.0, axis=0, mode=mode)
    along /= np.maximum(np.hypot(along[:, 0], along[:, 1]), 1e-6)[:, None]
    left = np.stack([-along[:, 1], along[:, 0]], -1)
    if closed:
        x, y = way.T
        area = float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y))
        left *= 1.0 if area > 0 else -1.0
    return np.asarray(left, np.float64)


def _strip(plane: Field, way: Line, half: int, closed: bool) -> Field:
    """The picture across the line ``(n, 2·half + 1)``, from without inward."""
    aside = _across(way, closed)
    s = np.arange(-half, half + 1)
    xs, ys = (way[:, k, None] + aside[:, k, None] * s for k in (0, 1))
    where = xs.astype(np.float32), ys.astype(np.float32)
    return np.asarray(cv2.remap(plane, *where, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REFLECT), np.float32)


def _snapped(plane: Field, way: Line, half: int, closed: bool) -> Line:
    """The line moved onto the rim: the most marked dark or light way along it, or the clearest step of tone."""
    strip = ndimage.gaussian_filter1d(_strip(plane, way, 2 * half, closed), half / 3, axis=0, mode="nearest")
    fine = max(1.0, half / 8)
    detail = ndimage.gaussian_filter1d(strip, 3 * fine, axis=1) - ndimage.gaussian_filter1d(strip, fine, axis=1)
    detail = detail[:, half:-half] / (np.abs(detail).mean() + 1e-6)
    step = np.gradient(ndimage.gaussian_filter1d(strip, 2 * fine, axis=1), axis=1)[:, half:-half]
    step = step / (np.abs(step).mean() + 1e-6)
    told = (sign * seen for seen in (detail, step) for sign in (1, -1))
    best = max((_likeliest(np.clip(seen, -2, 2)) for seen in told), key=lambda found: found[1])
    offset = ndimage.gaussian_filter1d(best[0] - half, half / 4, mode="wrap" if closed else "nearest")
    return np.asarray(way + _across(way, closed) * offset[:, None], np.float64)


def _likeliest(told: NDArray[np.float32]) -> tuple[NDArray[np.float64], float]:
    """The way along a strip that gathers most: its column at every row, and what it gathers."""
    rows, columns = told.shape
    best = told[0].astype(np.float64)
    came = np.zeros((rows, columns), np.int64)
    for k in range(1, rows):
        before = np.pad(best, 1, constant_values=-1e9)
        options = np.stack([before[:-2] - _BEND, before[1:-1], before[2:] - _BEND])
        came[k] = options.argmax(axis=0) - 1
        best = options.max(axis=0) + told[k]
    at = int(best.argmax())
    line = np.empty(rows, np.float64)
    for k in range(rows - 1, -1, -1):
        line[k] = at
        at = min(max(at + int(came[k, at]), 0), columns - 1)
    return line, float(best.max())


def _profile(plane: Field, way: Line, half: int, closed: bool) -> tuple[Field, float]:
    """What is to be added across the rim ``(n, 4·half + 1)``, and within it: what stays the same along it.

    Steps of neighbours across are averaged along the rim with those that are far off left out: an edge that crosses it
    gives large ones for a short way.
    """
    strip = _strip(plane, way, 2 * half, closed)
    steps = np.diff(strip, axis=1)
    mode = "wrap" if closed else "nearest"
    long_ = max(_SAME * half, len(way) / 20)

    # Blurred so widely, every tenth row or so tells as much as all.
    rows = max(2, math.ceil(len(way) / max(1.0, long_ / 10)))
    fewer = long_ * rows / len(way)

    def along(values: NDArray[np.float32]) -> NDArray[np.float32]:
        small = cv2.resize(values, (values.shape[1], rows), interpolation=cv2.INTER_AREA)
        small = ndimage.gaussian_filter1d(small, fewer, axis=0, mode=mode)
        return np.asarray(cv2.resize(small, (values.shape[1], len(values)), interpolation=cv2.INTER_LINEAR), np.float32)

    for share in (3.0, 2.0):
        middle = along(steps)
        spread = np.sqrt(along((steps - middle) ** 2)) + 1e-5
        steps = np.clip(steps, middle - share * spread, middle + share * spread)
    # Where little else is going on a stain is seen best: what lies in a tree is told by the sky on both its sides.
    busy = ndimage.gaussian_filter1d(((steps - along(steps)) ** 2).mean(axis=1), half / 2, mode=mode)
    plain = (1 / (busy + 0.2 * np.median(busy)))[:, None].astype(np.float32)
    steps = along(steps * plain) / along(np.repeat(plain, steps.shape[1], axis=1))
    tone = np.concatenate([np.zeros((len(steps), 1), np.float32), np.cumsum(steps, axis=1)], axis=1)
    rim = 2 * half
    outer = tone[:, :half].mean(axis=1)
    inner = tone[:, -half:].mean(axis=1)
    # A picture's own tones differ at either side as well: what is the same all round is the stain's.
    jump = float(np.clip(np.median(outer - inner), -_MOST, _MOST))
    share_in = np.clip((np.arange(2 * rim + 1) - half) / (2 * half), 0, 1)  # the picture's own slope is left
    base = outer[:, None] + (inner - outer)[:, None] * share_in
    profile = base - tone
    usual = (profile * plain**2).sum(axis=0) / (plain**2).sum()  # no place of a rim is much unlike the others
    play = _UNLIKE * np.abs(usual) + 0.004
    profile = np.clip(profile, usual - play, usual + play)
    return np.clip(profile, -_MOST, _MOST).astype(np.float32), jump


def _within(way: Line, shape: tuple[int, int], half: int) -> Field:
    """How far within the stain a place is, 0…1, over the width of a brush."""
    mask = np.zeros(shape, np.uint8)
    cv2.fillPoly(mask, [np.rint(way).astype(np.int32)], 1)
    return np.asarray(cv2.GaussianBlur(mask.astype(np.float32), (0, 0), half / 2), np.float32)
