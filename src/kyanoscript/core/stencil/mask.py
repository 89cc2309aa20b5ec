"""A stencil made into a mask, 0…1, for any region at any scale.

Soft strokes are painted on a coarse grid and enlarged: a big soft brush costs no more than a small one. Feathering is a
Gaussian of half the feather, growing a disc; both work on coarse grids when they are wide.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import groupby

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import smooth
from kyanoscript.core.picture import Rect
from kyanoscript.core.stencil.brush import painted, stroke_factor
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.kernels import widen
from kyanoscript.core.stencil.shapes import Shape, Stencil, Stroke

f = np.float32
Mask = NDArray[np.float32]
_DISC = 16  # pixels: the widest disc that is used for growing; beyond it the grid is made coarser


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
            kept, added = painted(strokes, rect, ground, factor)
            made = made * kept + added
            continue
        for shape in group:
            if isinstance(shape, Stroke):  # intersecting
                _, part = painted((shape.model_copy(update={"join": "add"}),), rect, ground, 1)
            else:
                part = shape.cover(rect, ground)
                part = (1 - part if getattr(shape, "inverted", False) else part) * f(shape.opacity / 100)
            if shape.join == "add":
                made = made + part * (1 - made)
            elif shape.join == "take-away":
                made = made * (1 - part)
            else:
                made = made * part
    return made


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
