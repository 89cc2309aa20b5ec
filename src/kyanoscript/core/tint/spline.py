"""Colours spread from dabs over everything that looks alike: a linear radial spline in a space of features.

A place p has five features: its lightness blurred narrowly and widely, how rough it is, and where it lies. The chroma
is ``c₀ − Σ cₖ ‖f(p) − fₖ‖``, with the c that meet every dab: the polyharmonic spline of order one (Duchon 1977),
smoothed a little so that two dabs on one spot are no contradiction. Features and their weights are our own, found by
measuring: docs/decisions/0012-hand-tint.md. Everything is solved on a small picture of 1/16 megapixel.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2

SMALL = 62_500  # pixels of the picture that everything is solved on
SMOOTH = 0.02  # how far the spline may miss a dab, so that dabs on one spot do not break it
DIMENSIONS = 5

f = np.float32
Field = NDArray[np.float32]


def features(lightness: Field) -> Field:
    """The features ``(5, h, w)`` of a lightness ``(h, w)``, 0…100."""
    height, width = lightness.shape
    side = max(height, width)

    def blurred(plane: Field, share: float) -> Field:
        made = cv2.GaussianBlur(plane, (0, 0), side / share, borderType=cv2.BORDER_REPLICATE)
        return np.asarray(made, np.float32)

    mean = blurred(lightness, 128)
    rough = np.sqrt(np.maximum(blurred(lightness * lightness, 128) - mean * mean, 0))
    ys, xs = np.mgrid[:height, :width].astype(np.float32)
    made = [blurred(lightness, 256) / 40, blurred(lightness, 64) / 60, rough / 20]
    made += [100 * xs / (60 * side), 100 * ys / (60 * side)]
    return np.ascontiguousarray(np.stack(made), np.float32)


def solved(
    anchors: NDArray[np.float64], values: NDArray[np.float64], loose: NDArray[np.float64] | None = None
) -> NDArray[np.float64]:
    """Weights ``(k + 1, 2)`` of the spline, the constant last: ``values`` ``(k, 2)`` at ``anchors`` ``(k, 5)``.

    ``loose`` ``(k,)``: how far the spline may stay away from each value; `SMOOTH` without it.
    """
    count = len(anchors)
    apart = np.sqrt(((anchors[:, None] - anchors[None]) ** 2).sum(axis=2))
    system = np.ones((count + 1, count + 1))
    system[:count, :count] = np.diag(np.full(count, SMOOTH) if loose is None else loose) - apart
    system[count, count] = 0
    return np.asarray(np.linalg.solve(system, np.vstack([values, np.zeros((1, 2))])), np.float64)


def spread(
    space: Field, anchors: NDArray[np.float64], values: NDArray[np.float64], loose: NDArray[np.float64] | None = None
) -> Field:
    """Chroma ``(2, h, w)`` everywhere, from that of the anchors."""
    weights = solved(anchors, values, loose)
    out = np.empty((2, *space.shape[1:]), np.float32)
    count = len(anchors)
    evaluate(
        space,
        np.ascontiguousarray(anchors, np.float32),
        np.ascontiguousarray(weights, np.float32),
        out,
        out.size // 2,
        count,
    )
    return out


@kernel("f4* space, f4* anchors, f4* weights, f4* out, i8 n, i8 count")
def evaluate(space, anchors, weights, out, n, count):
    last = 2 * count
    for p in range(n):
        out[p] = weights[last]
        out[n + p] = weights[last + 1]
    # Anchor by anchor over a run of pixels that stays in the processor's own cache.
    run = 1024
    for start in range(0, n, run):
        end = min(start + run, n)
        for k in range(count):
            a0, a1, a2 = anchors[5 * k], anchors[5 * k + 1], anchors[5 * k + 2]
            a3, a4 = anchors[5 * k + 3], anchors[5 * k + 4]
            wa, wb = weights[2 * k], weights[2 * k + 1]
            for p in range(start, end):
                d0, d1, d2 = space[p] - a0, space[n + p] - a1, space[2 * n + p] - a2
                d3, d4 = space[3 * n + p] - a3, space[4 * n + p] - a4
                far = np.sqrt(d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3 + d4 * d4)
                out[p] -= wa * far
                out[n + p] -= wb * far
