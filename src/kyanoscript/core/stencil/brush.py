"""Strokes of a brush, painted on grids as coarse as their softness allows.

A big soft brush costs no more than a small one.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import smooth
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.kernels import stamp
from kyanoscript.core.stencil.shapes import Stroke

f = np.float32
Mask = NDArray[np.float32]
_WHOLE = 2_000_000  # pixels: coarse grids of strokes are kept whole up to this size
_EVERY = 4  # dabs on the way of one radius
_KEPT_FROM = 3  # strokes: fewer are laid again sooner than looked up


def stroke_factor(stroke: Any, longer: float) -> int:
    """How coarse a grid a stroke can be painted on without being seen."""
    fading = stroke.size / 2000 * longer * (1 - stroke.hardness / 100)
    return max(k for k in smooth.FACTORS if k == 1 or fading / k >= 4)


def painted(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground, factor: int) -> tuple[Mask, Mask]:
    """What strokes make of a mask m: ``m · kept + added``."""
    if factor == 1:
        planes = _laid(strokes, rect, ground)
    else:
        planes = enlarged(("strokes", strokes), lambda r, g: _laid(strokes, r, g), rect, ground, factor)
    return planes[0], planes[1]


def _laid(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground) -> Planes:
    """Strokes one after another; while one is being drawn those before it are kept as they were laid."""
    if not ground.drawing or len(strokes) < _KEPT_FROM:
        return paint(strokes, rect, ground)
    before = strokes[:-1]
    key = ("laid", before, ground.framing, ground.scale, rect)
    return paint(strokes[-1:], rect, ground, ground.memo(key, lambda: paint(before, rect, ground)))


def enlarged(
    name: tuple[Any, ...], paint: Callable[[Rect, Ground], Planes], rect: Rect, ground: Ground, factor: int
) -> Planes:
    """What ``paint`` puts on a grid ``factor`` times coarser, enlarged to ``rect``; a small grid is kept whole."""
    coarse = ground.coarser(factor)
    wc, hc = coarse.framing.size(coarse.scale)
    part, across, down = ground.around(rect, factor, smooth.AROUND)
    whole = Rect(-3, -3, wc + 6, hc + 6)
    within = part.x >= -3 and part.y >= -3 and part.right <= wc + 3 and part.bottom <= hc + 3
    if within and whole.width * whole.height <= _WHOLE:
        key = (*name, ground.framing, coarse.scale)
        grid, at = ground.memo(key, lambda: paint(whole, coarse)), whole
    else:
        grid, at = paint(part, coarse), part
    return smooth.enlarge(smooth.Coarse(grid, at.x, at.y, across, down), rect)


def paint(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground, on: Planes | None = None) -> Planes:
    """Planes (kept, added) of strokes one after another on a grid, over those laid ``on`` it before."""
    planes = np.empty((2, rect.height, rect.width), np.float32)
    planes[0], planes[1] = (1, 0) if on is None else on
    for stroke in strokes:
        found = cover(stroke.points, stroke.size, stroke.hardness, stroke.flow, rect, ground)
        if found is not None:
            y, x, covered = found
            h, w = covered.shape
            part = planes[:, y : y + h, x : x + w]
            s = covered * f(stroke.opacity / 100)
            part[1] = part[1] * (1 - s) + (s if stroke.join == "add" else 0)
            part[0] *= 1 - s
    return planes


def cover(
    points: tuple[tuple[float, ...], ...], size: float, hardness: float, flow: float, rect: Rect, ground: Ground
) -> tuple[int, int, Mask] | None:
    """Row, column and values 0…1 of what one stroke covers within ``rect``; None if it does not touch it."""
    back = ground.to_photo.inverse()
    radius = max(size / 2000 * ground.longer, 0.5)
    dots = dabs(points, size, ground.framing.photo)
    xs = back.a * dots[:, 0] + back.b * dots[:, 1] + back.c - 0.5
    ys = back.d * dots[:, 0] + back.e * dots[:, 1] + back.f - 0.5
    x0 = max(math.floor(float(xs.min()) - radius), rect.x)
    y0 = max(math.floor(float(ys.min()) - radius), rect.y)
    x1 = min(math.ceil(float(xs.max()) + radius) + 1, rect.right)
    y1 = min(math.ceil(float(ys.max()) + radius) + 1, rect.bottom)
    if x1 <= x0 or y1 <= y0:
        return None
    # Whole pixels and the rest apart, so that rounding does not depend on the region.
    ix, iy = np.floor(xs), np.floor(ys)
    at = np.ascontiguousarray(np.stack([ix - x0, xs - ix, iy - y0, ys - iy, dots[:, 2]], 1), np.float32)
    covered = np.zeros((y1 - y0, x1 - x0), np.float32)
    each = flow / 100 if len(dots) == 1 else 1 - (1 - flow / 100) ** (1 / _EVERY)
    stamp(covered, x1 - x0, y1 - y0, at, len(at), radius, min(hardness / 100 * radius, radius - 0.5), each)
    return y0 - rect.y, x0 - rect.x, covered


@functools.lru_cache(maxsize=512)
def dabs(points: tuple[tuple[float, ...], ...], size: float, photo: tuple[int, int]) -> NDArray[np.float64]:
    """Places ``(n, 3)`` of a brush along its way: x, y in the photograph's pixels, and pressure."""
    way = np.array([(p[0] / 100 * photo[0], p[1] / 100 * photo[1], p[2] if len(p) > 2 else 1.0) for p in points])
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(way[:, :2], axis=0).T))])
    if along[-1] == 0:
        return way[:1]
    step = size / 2000 * max(photo) / _EVERY
    whole = math.floor(along[-1] / step)
    at = np.append(np.arange(whole + 1) * step, along[-1])
    laid = np.stack([np.interp(at, along, way[:, k]) for k in range(3)], 1)
    # The end lies less than a step on and counts as much less, so that a growing stroke changes only at its end.
    laid[-1, 2] *= along[-1] / step - whole
    return laid
