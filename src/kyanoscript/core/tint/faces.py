"""Faces seen from the front: a boosted cascade of local binary patterns (Liao et al. 2007) over windows of 24 pixels.

The cascade in ``faces.xml`` is OpenCV's (Apache licence), as scikit-image ships it; the OpenCV that the program runs
on no longer has the code for it.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass
from importlib import resources
from typing import Any
from xml.etree import ElementTree

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.tint.spline import Field

_SIDE = 24  # pixels of a window
_STEP = 1.15  # from one size of faces to the next
_SMALLEST = 0.07  # of the longer side
_AGREE = 10  # windows that must have found the same face: with fewer, stones and leaves are taken for one
# Round the middle of three by three blocks, from the upper left one clockwise: the pattern's bits, highest first.
_ROUND = ((0, 0), (0, 1), (0, 2), (1, 2), (2, 2), (2, 1), (2, 0), (1, 0))


@dataclass(frozen=True)
class _Stage:
    threshold: float
    blocks: NDArray[np.int64]  # (trees, 4): left, top, width and height of the upper left block
    yes: NDArray[np.bool_]  # (trees, 256): the patterns that take the first leaf
    leaves: NDArray[np.float64]  # (trees, 2)


@functools.cache
def _stages() -> list[_Stage]:
    file = resources.files("kyanoscript") / "core" / "tint" / "faces.xml"
    root = ElementTree.fromstring(file.read_text())[0]
    rects = np.array([face.findtext("rect", "").split() for face in root.findall("features/_")], np.int64)
    stages = []
    for stage in root.findall("stages/_"):
        trees = stage.findall("weakClassifiers/_")
        nodes = np.array([tree.findtext("internalNodes", "").split() for tree in trees], np.int64)
        bits = nodes[:, 3:, None] >> np.arange(32) & 1
        leaves = np.array([tree.findtext("leafValues", "").split() for tree in trees], float)
        threshold = float(stage.findtext("stageThreshold", ""))
        stages.append(_Stage(threshold, rects[nodes[:, 2]], bits.reshape(len(trees), 256) > 0, leaves))
    return stages


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
    sums: NDArray[Any] = cv2.integral(levels)
    rows, columns = levels.shape[0] - _SIDE + 1, levels.shape[1] - _SIDE + 1
    first, *others = _stages()
    ys, xs = np.nonzero(_takes(first, lambda dy, dx: sums[dy : dy + rows, dx : dx + columns]))  # of all: plain slices
    for stage in others:
        ys, xs = _left(stage, sums, ys, xs)
    return list(zip(xs.tolist(), ys.tolist(), strict=True))


def _left(stage: _Stage, sums: NDArray[Any], ys: NDArray[Any], xs: NDArray[Any]) -> tuple[NDArray[Any], NDArray[Any]]:
    """Of the corners of windows, those that a stage takes for a face."""
    kept = _takes(stage, lambda dy, dx: sums[ys + dy, xs + dx])
    return ys[kept], xs[kept]


def _takes(stage: _Stage, sums: Callable[[int, int], NDArray[Any]]) -> NDArray[np.bool_]:
    """Which windows a stage takes for a face; ``sums`` of all above and left of a place, from a window's corner on."""
    total: Any = 0.0
    for (left, top, w, h), yes, leaves in zip(stage.blocks, stage.yes, stage.leaves, strict=True):
        at = [[sums(top + h * j, left + w * i) for i in range(4)] for j in range(4)]
        blocks = [[at[j + 1][i + 1] - at[j][i + 1] - at[j + 1][i] + at[j][i] for i in range(3)] for j in range(3)]
        code = sum((blocks[j][i] >= blocks[1][1]).astype(np.int64) << (7 - k) for k, (j, i) in enumerate(_ROUND))
        total = total + np.where(yes[code], leaves[0], leaves[1])
    return np.asarray(total >= stage.threshold)


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
