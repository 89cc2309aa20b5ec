"""Faces seen from the front: a boosted cascade of local binary patterns (Liao et al. 2007) over windows of 24 pixels.

The cascade in ``faces.xml`` is OpenCV's (Apache licence), as scikit-image ships it; the OpenCV that the program runs
on no longer has the code for it.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
from importlib import resources
from typing import NamedTuple
from xml.etree import ElementTree

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import helper, kernel
from kyanoscript.core.tint.spline import Field

_SIDE = 24  # pixels of a window
_STEP = 1.15  # from one size of faces to the next
_SMALLEST = 0.07  # of the longer side
_AGREE = 10  # windows that must have found the same face: with fewer, stones and leaves are taken for one


class _Cascade(NamedTuple):
    blocks: NDArray[np.int64]  # (trees, 4): left, top, width and height of the upper left block
    yes: NDArray[np.uint8]  # (trees, 256): 1 for the patterns that take the first leaf
    leaves: NDArray[np.float64]  # (trees, 2)
    ends: NDArray[np.int64]  # (stages): how many trees there are up to the end of each
    thresholds: NDArray[np.float64]  # (stages): the least sum of leaves with which a window goes on


@functools.cache
def _cascade() -> _Cascade:
    file = resources.files("kyanoscript") / "core" / "tint" / "faces.xml"
    root = ElementTree.fromstring(file.read_text())[0]
    rects = np.array([face.findtext("rect", "").split() for face in root.findall("features/_")], np.int64)
    stages = root.findall("stages/_")
    trees = [stage.findall("weakClassifiers/_") for stage in stages]
    every = [tree for stage in trees for tree in stage]
    nodes = np.array([tree.findtext("internalNodes", "").split() for tree in every], np.int64)
    bits = nodes[:, 3:, None] >> np.arange(32) & 1
    return _Cascade(
        rects[nodes[:, 2]],
        bits.reshape(len(every), 256).astype(np.uint8),
        np.array([tree.findtext("leafValues", "").split() for tree in every], np.float64),
        np.cumsum([len(stage) for stage in trees], dtype=np.int64),
        np.array([float(stage.findtext("stageThreshold", "")) for stage in stages]),
    )


def faces(lightness: Field) -> list[tuple[float, float, float, int]]:
    """The faces in a lightness ``(h, w)``, 0…100; surest first.

    Each has its middle across and down and its diameter, in pixels, and how many windows have found it.
    """
    height, width = lightness.shape
    levels = np.rint(np.clip(lightness, 0, 100) * 2.55).astype(np.uint8)
    found: list[tuple[float, float, float]] = []
    size = max(_SIDE, _SMALLEST * max(height, width))
    while size <= min(height, width):
        scale = _SIDE / size
        small = cv2.resize(levels, (round(width * scale), round(height * scale)), interpolation=cv2.INTER_AREA)
        if min(small.shape) >= _SIDE:
            for x, y in windows(small):
                found.append(((x + _SIDE / 2) / scale, (y + _SIDE / 2) / scale, size))
        size *= _STEP
    return _agreed(found)


def windows(levels: NDArray[np.uint8]) -> list[tuple[int, int]]:
    """Upper left corners of the windows that every stage takes for a face."""
    sums = np.ascontiguousarray(cv2.integral(levels), np.int64)
    rows, columns = levels.shape[0] - _SIDE + 1, levels.shape[1] - _SIDE + 1
    taken = np.zeros((rows, columns), np.uint8)
    seek(sums, taken, rows, columns, sums.shape[1], *_cascade(), len(_cascade().ends))
    ys, xs = np.nonzero(taken)
    return list(zip(xs.tolist(), ys.tolist(), strict=True))


@helper
def _block(sums, at, wide, w, h):
    """The sum of a block's levels, from the sums of all above and left of its corners."""
    return sums[at + h * wide + w] - sums[at + w] - sums[at + h * wide] + sums[at]


@kernel(
    "i8* sums, u1* taken, i8 rows, i8 columns, i8 wide, i8* blocks, u1* yes, f8* leaves, i8* ends, f8* thresholds, "
    "i8 stages"
)
def seek(sums, taken, rows, columns, wide, blocks, yes, leaves, ends, thresholds, stages):
    """Marks the windows that every stage takes; most are given up after the first."""
    for y in range(rows):
        for x in range(columns):
            tree, good = 0, True
            for stage in range(stages):
                total = 0.0
                while tree < ends[stage]:
                    w, h = blocks[tree * 4 + 2], blocks[tree * 4 + 3]
                    at = (y + blocks[tree * 4 + 1]) * wide + x + blocks[tree * 4]
                    down = h * wide
                    middle = _block(sums, at + down + w, wide, w, h)
                    # Round the middle from the upper left block clockwise: the pattern's bits, highest first.
                    code = (
                        (_block(sums, at, wide, w, h) >= middle) * 128
                        + (_block(sums, at + w, wide, w, h) >= middle) * 64
                        + (_block(sums, at + 2 * w, wide, w, h) >= middle) * 32
                        + (_block(sums, at + 2 * w + down, wide, w, h) >= middle) * 16
                        + (_block(sums, at + 2 * w + 2 * down, wide, w, h) >= middle) * 8
                        + (_block(sums, at + w + 2 * down, wide, w, h) >= middle) * 4
                        + (_block(sums, at + 2 * down, wide, w, h) >= middle) * 2
                        + (_block(sums, at + down, wide, w, h) >= middle) * 1
                    )
                    total += leaves[tree * 2] if yes[tree * 256 + code] else leaves[tree * 2 + 1]
                    tree += 1
                if total < thresholds[stage]:
                    good = False
                    break
            if good:
                taken[y * columns + x] = 1


def _agreed(found: list[tuple[float, float, float]]) -> list[tuple[float, float, float, int]]:
    """Faces that several windows have found, those of most windows first."""
    groups: list[list[tuple[float, float, float]]] = []
    for face in found:
        for group in groups:
            x, y, size = np.mean(group, axis=0)
            if np.hypot(face[0] - x, face[1] - y) < 0.3 * size and 0.6 < face[2] / size < 1.6:
                group.append(face)
                break
        else:
            groups.append([face])
    groups = sorted((g for g in groups if len(g) >= _AGREE), key=len, reverse=True)
    return [(float(x), float(y), float(s), len(g)) for g in groups for x, y, s in (np.mean(g, axis=0),)]
