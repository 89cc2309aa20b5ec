"""A stencil made into a mask, 0…1, for any region at any scale.

Soft strokes are painted on a coarse grid and enlarged: a big soft brush costs no more than a small one. Feathering is a
Gaussian of half the feather, growing a disc; both work on coarse grids when they are wide.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from itertools import groupby
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import smooth
from kyanoscript.core.colour import gray_of, hue_of
from kyanoscript.core.geometry import Affine, Framing
from kyanoscript.core.kernel import kernel
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.stencil.shapes import Hues, Outline, Oval, Ramp, Shape, Stencil, Stroke, Tones
from kyanoscript.core.watching import Watch, unwatched

f = np.float32
Mask = NDArray[np.float32]
Inputs = Callable[[str, Rect, float], Planes]  # planes of "print" or "photo" in a region (may reach outside) at a scale
_WHOLE = 2_000_000  # pixels: coarse grids of strokes are kept whole up to this size
_DISC = 16  # pixels: the widest disc that is used for growing; beyond it the grid is made coarser
_EVERY = 4  # dabs on the way of one radius
_KEPT_FROM = 3  # strokes: fewer are laid again sooner than looked up


@dataclass(frozen=True)
class Ground:
    """What a mask is made for: the framed photograph, a scale, and ways to look things up."""

    framing: Framing
    scale: float
    inputs: Inputs
    memo: Callable[[tuple[Any, ...], Callable[[], Any]], Any]  # keeps coarse grids of strokes
    drawing: bool = False  # the same region is asked for again and again while one more stroke is drawn

    watch: Watch = unwatched  # hears of work that takes seconds

    @property
    def to_photo(self) -> Affine:
        return self.framing.at(self.scale)

    @property
    def longer(self) -> float:
        """The photograph's longer side in pixels at this scale: what lengths are a share of."""
        return max(self.framing.photo) / self.to_photo.size

    def coarser(self, factor: int) -> Ground:
        """The same at a part of the scale."""
        return replace(self, scale=self.scale / factor)

    def around(self, rect: Rect, factor: int, margin: int) -> tuple[Rect, float, float]:
        """The region of a coarser grid that covers ``rect`` and a margin; coarse pixels to a present one."""
        width, height = self.framing.size(self.scale)
        wc, hc = self.framing.size(self.scale / factor)
        across, down = wc / width, hc / height
        x0, y0 = math.floor(rect.x * across) - margin, math.floor(rect.y * down) - margin
        x1, y1 = math.ceil(rect.right * across) + margin, math.ceil(rect.bottom * down) + margin
        return Rect(x0, y0, x1 - x0, y1 - y0), across, down


def mask(stencil: Stencil, rect: Rect, ground: Ground) -> Mask:
    """How far a pass acts at each pixel of ``rect`` ``(h, w)``: 0 not at all, 1 fully."""
    grow = stencil.grow / 1000 * ground.longer
    sigma = stencil.feather / 2000 * ground.longer
    if abs(grow) < 0.1 and sigma < 0.1:
        made = joined(stencil.shapes, rect, ground)
    else:
        factor = max(next(k for k in smooth.FACTORS if abs(grow) / k <= _DISC or k == 256), smooth.factor_for(sigma))
        blur = smooth.coarse_sigma(sigma, factor) if sigma / factor > 0.8 else sigma / factor
        margin = math.ceil(abs(grow) / factor) + smooth.reach(blur) + smooth.AROUND
        if factor == 1:
            margin -= smooth.AROUND
        wide, across, down = ground.around(rect, factor, margin)
        made = joined(stencil.shapes, wide, ground.coarser(factor))
        made = smooth.gaussian(_grown(made, grow / factor)[None], blur)[0]
        if factor > 1:
            left = math.ceil(abs(grow) / factor) + smooth.reach(blur)
            coarse = smooth.Coarse(made[None], wide.x + left, wide.y + left, across, down)
            made = np.clip(smooth.enlarge(coarse, rect)[0], 0, 1)
    if stencil.invert:
        made = 1 - made
    if stencil.strength < 100:
        made = 1 - f(stencil.strength / 100) * (1 - made)
    return np.ascontiguousarray(made, np.float32)


def joined(shapes: Iterable[Shape], rect: Rect, ground: Ground) -> Mask:
    """The shapes joined in order, before growing and feathering."""
    shapes = tuple(shapes)
    first_adds = bool(shapes) and shapes[0].join == "add"
    made = np.full((rect.height, rect.width), 0.0 if first_adds else 1.0, np.float32)

    def brush(shape: Shape) -> int:
        """Strokes that can be painted on one grid together; 0 for other shapes."""
        return stroke_factor(shape, ground.longer) if isinstance(shape, Stroke) and shape.join != "intersect" else 0

    for factor, group in groupby(shapes, brush):
        if factor:
            strokes = tuple(s for s in group if isinstance(s, Stroke))
            kept, added = _painted(strokes, rect, ground, factor)
            made = made * kept + added
            continue
        for shape in group:
            if isinstance(shape, Stroke):  # intersecting
                _, part = _painted((shape.model_copy(update={"join": "add"}),), rect, ground, 1)
            else:
                part = _shape(shape, rect, ground)
                part = (1 - part if getattr(shape, "inverted", False) else part) * f(shape.opacity / 100)
            if shape.join == "add":
                made = made + part * (1 - made)
            elif shape.join == "take-away":
                made = made * (1 - part)
            else:
                made = made * part
    return made


def _shape(shape: Shape, rect: Rect, ground: Ground) -> Mask:
    """One shape that is no stroke, at full opacity."""
    out = np.empty((rect.height, rect.width), np.float32)
    pw, ph = ground.framing.photo
    to_photo = ground.to_photo
    if isinstance(shape, Oval):
        longer = max(pw, ph)
        rx, ry = shape.width / 2000 * longer, shape.height / 2000 * longer
        c, s = math.cos(math.radians(shape.turn)), math.sin(math.radians(shape.turn))
        cx, cy = shape.x / 100 * pw, shape.y / 100 * ph
        own = Affine(c / rx, s / rx, -(c * cx + s * cy) / rx, -s / ry, c / ry, (s * cx - c * cy) / ry).after(to_photo)
        oval(out, rect.width, rect.height, rect.x, rect.y, *_six(own), max(shape.soft / 100, own.size), own.size / 2)
    elif isinstance(shape, Ramp):
        x1, y1, x2, y2 = shape.x1 / 100 * pw, shape.y1 / 100 * ph, shape.x2 / 100 * pw, shape.y2 / 100 * ph
        square = max((x2 - x1) ** 2 + (y2 - y1) ** 2, 1e-6)
        dx, dy = (x2 - x1) / square, (y2 - y1) / square
        own = Affine(dx, dy, -(dx * x1 + dy * y1), 0, 0, 0).after(to_photo)
        ramp(out, rect.width, rect.height, rect.x, rect.y, own.a, own.b, own.c)
    elif isinstance(shape, Outline):
        back = to_photo.inverse()
        dots = np.array([back(p[0] / 100 * pw, p[1] / 100 * ph) for p in shape.points])
        corners = np.ascontiguousarray(dots - (rect.x, rect.y))
        crossings = np.empty(2 * len(corners), np.float64)
        outline(out, rect.width, rect.height, corners, len(corners), crossings)
    elif isinstance(shape, Tones):
        gray = gray_of(ground.inputs(shape.of, rect, ground.scale))
        low, high = min(shape.low, shape.high) / 255, max(shape.low, shape.high) / 255
        tones(np.ascontiguousarray(gray), out, out.size, low, high, max(shape.soft / 255, 1e-4))
    elif isinstance(shape, Hues):
        planes = ground.inputs(shape.of, rect, ground.scale)
        if len(planes) == 1:
            out[:] = 0
        else:
            hues(planes, out, out.size, shape.hue / 360, shape.width / 720, max(shape.soft / 360, 1e-4))
    return out


def _six(m: Affine) -> tuple[float, ...]:
    return m.a, m.b, m.c, m.d, m.e, m.f


def _grown(made: Mask, by: float) -> Mask:
    """Wider (or, below 0, narrower) by a disc of ``by`` pixels; the result is smaller by as many on every side."""
    radius = math.ceil(abs(by))
    if radius == 0:
        return made
    h, w = made.shape[0] - 2 * radius, made.shape[1] - 2 * radius
    out = np.empty((h, w), np.float32)
    source = np.ascontiguousarray(made if by > 0 else 1 - made)
    widen(source, out, w, h, radius, abs(by) ** 2 + 0.1)
    return out if by > 0 else 1 - out


# Strokes


def stroke_factor(stroke: Any, longer: float) -> int:
    """How coarse a grid a stroke can be painted on without being seen."""
    fading = stroke.size / 2000 * longer * (1 - stroke.hardness / 100)
    return max(k for k in smooth.FACTORS if k == 1 or fading / k >= 4)


def _painted(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground, factor: int) -> tuple[Mask, Mask]:
    """What strokes make of a mask m: ``m · kept + added``."""
    if factor == 1:
        planes = _laid(strokes, rect, ground)
    else:
        planes = enlarged(("strokes", strokes), lambda r, g: _laid(strokes, r, g), rect, ground, factor)
    return planes[0], planes[1]


def _laid(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground) -> Planes:
    """Strokes one after another; while one is being drawn those before it are kept as they were laid."""
    if not ground.drawing or len(strokes) < _KEPT_FROM:
        return _paint(strokes, rect, ground)
    before = strokes[:-1]
    key = ("laid", before, ground.framing, ground.scale, rect)
    return _paint(strokes[-1:], rect, ground, ground.memo(key, lambda: _paint(before, rect, ground)))


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


def _paint(strokes: tuple[Stroke, ...], rect: Rect, ground: Ground, on: Planes | None = None) -> Planes:
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


@kernel("f4* cover, i8 w, i8 h, f4* dabs, i8 n, f4 radius, f4 inner, f4 flow")
def stamp(cover, w, h, dabs, n, radius, inner, flow):
    per = f(1.0) / (radius - inner)
    for k in range(n):
        ix, fx, iy, fy = dabs[k * 5], dabs[k * 5 + 1], dabs[k * 5 + 2], dabs[k * 5 + 3]
        p = dabs[k * 5 + 4] * flow
        y0, y1 = max(np.int64(iy - radius), 0), min(np.int64(iy + radius) + 3, h)
        x0, x1 = max(np.int64(ix - radius), 0), min(np.int64(ix + radius) + 3, w)
        for y in range(y0, y1):  # type: ignore[call-overload]
            dy = (f(y) - iy) - fy
            for x in range(x0, x1):  # type: ignore[call-overload]
                dx = (f(x) - ix) - fx
                t = (radius - np.sqrt(dx * dx + dy * dy)) * per
                t = min(max(t, f(0.0)), f(1.0))
                a = p * t * t * (f(3.0) - t - t)
                c = cover[y * w + x]
                cover[y * w + x] = c + a * (f(1.0) - c)


# Kernels of the shapes; ``x0``, ``y0`` is the region's corner, six numbers map its pixels to the shape's own measure


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c, f8 p, f8 q, f8 r, f4 soft, f4 half")
def oval(out, w, h, x0, y0, a, b, c, p, q, r, soft, half):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            u = np.float64(x0 + x) + 0.5
            ex = f(a * u + b * v + c)
            ey = f(p * u + q * v + r)
            t = (f(1.0) + half - np.sqrt(ex * ex + ey * ey)) / soft  # a hard rim is halved at the rim
            t = min(max(t, f(0.0)), f(1.0))
            out[y * w + x] = t * t * (f(3.0) - t - t)


@kernel("f4* out, i8 w, i8 h, i8 x0, i8 y0, f8 a, f8 b, f8 c")
def ramp(out, w, h, x0, y0, a, b, c):
    for y in range(h):
        v = np.float64(y0 + y) + 0.5
        for x in range(w):
            t = f(a * (np.float64(x0 + x) + 0.5) + b * v + c)
            t = min(max(t, f(0.0)), f(1.0))
            out[y * w + x] = t * t * (f(3.0) - t - t)


@kernel("f4* out, i8 w, i8 h, f8* corners, i8 n, f8* crossings")
def outline(out, w, h, corners, n, crossings):
    # Four lines a pixel down, exact shares of a pixel across; the winding number tells in from out.
    for k in range(w * h):
        out[k] = f(0.0)
    for y in range(h):
        for part in range(4):
            line = np.float64(y) + (np.float64(part) + 0.5) * 0.25
            found = 0
            for k in range(n):
                j = k + 1 if k + 1 < n else 0
                ya, yb = corners[k * 2 + 1], corners[j * 2 + 1]
                if (ya <= line) != (yb <= line):
                    xa, xb = corners[k * 2], corners[j * 2]
                    x = xa + (line - ya) / (yb - ya) * (xb - xa)
                    way = 1.0 if yb > ya else -1.0
                    at = found
                    while at > 0 and crossings[(at - 1) * 2] > x:
                        crossings[at * 2] = crossings[(at - 1) * 2]
                        crossings[at * 2 + 1] = crossings[(at - 1) * 2 + 1]
                        at -= 1
                    crossings[at * 2] = x
                    crossings[at * 2 + 1] = way
                    found += 1
            winding = 0.0
            for k in range(found - 1):
                winding += crossings[k * 2 + 1]
                if winding != 0.0:
                    left, right = max(crossings[k * 2], 0.0), min(crossings[k * 2 + 2], np.float64(w))
                    if right > left:
                        first, last = np.int64(left), min(np.int64(right), w - 1)
                        for x in range(first, last + 1):
                            share = min(right, np.float64(x + 1)) - max(left, np.float64(x))
                            if share > 0.0:
                                out[y * w + x] += f(share * 0.25)
    for k in range(w * h):
        out[k] = min(out[k], f(1.0))


@kernel("f4* gray, f4* out, i8 n, f4 low, f4 high, f4 soft")
def tones(gray, out, n, low, high, soft):
    for k in range(n):
        v = gray[k]
        t = f(1.0) - max(low - v, v - high) / soft
        t = min(max(t, f(0.0)), f(1.0))
        out[k] = t * t * (f(3.0) - t - t)


@kernel("f4* rgb, f4* out, i8 n, f4 hue, f4 half, f4 soft")
def hues(rgb, out, n, hue, half, soft):
    for k in range(n):
        r, g, b = rgb[k], rgb[n + k], rgb[n + n + k]
        away = abs(hue_of(r, g, b) - hue)
        away = min(away, f(1.0) - away)
        t = f(1.0) - (away - half) / soft
        t = min(max(t, f(0.0)), f(1.0))
        # Near-grays have no hue worth the name: they come in slowly.
        strong = min(max((max(r, max(g, b)) - min(r, min(g, b)) - f(0.03)) * f(12.0), f(0.0)), f(1.0))
        out[k] = t * t * (f(3.0) - t - t) * strong


@kernel("f4* src, f4* out, i8 w, i8 h, i8 radius, f4 square")
def widen(src, out, w, h, radius, square):
    wide = w + 2 * radius
    for y in range(h):
        for x in range(w):
            out[y * w + x] = f(0.0)
        for dy in range(-radius, radius + 1):
            for dx in range(-radius, radius + 1):
                if f(dx * dx + dy * dy) <= square:
                    at = (y + radius + dy) * wide + radius + dx
                    for x in range(w):
                        out[y * w + x] = max(out[y * w + x], src[at + x])
