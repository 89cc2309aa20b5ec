"""A gray scene divided into the few regions that belong together, each to be given one tint.

First many small pieces, floods from the stillest place of each square up to the steps of lightness and of roughness
between them (the watershed of Meyer 1992, as OpenCV has it); then the two neighbours that differ least are joined, and
again: by what they look like, by what colour is read there, by where they lie, by how plain the rim between them is,
weighted as in Ward (1963) by how much of the picture would come to differ from its region.
"""

from __future__ import annotations

import heapq
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.tint.spline import Field
from kyanoscript.core.watching import breathe

MOST, FEWEST = 12, 5
_LEAST = 0.015  # of the picture: what is smaller is joined to a neighbour
_ENOUGH = 60.0  # what two regions may differ by, and be one all the same
_SQUARES = 34  # along the longer side, with a piece each
_ROUGH, _READ, _PLACE, _RIM = 12.0, 250.0, 35.0, 1.0  # what each counts, beside lightness
_CORNERS = 0.004  # of the longer side: an outline keeps to its region so closely
_HOLE = 0.2  # of a region: an island of it that is smaller than that is not outlined
_BEYOND = 0.06  # what reaches the rim of the picture goes on beyond it
_AROUND = np.ones((3, 3), np.uint8)
Labels = NDArray[np.int32]


def divided(lightness: Field, chroma: Field, apart: NDArray[np.bool_] | None = None) -> Labels:
    """The region ``(h, w)`` of every place, from 0; -1 where it is ``apart`` ``(h, w)``, as somebody is.

    ``lightness`` ``(h, w)``, 0…100, best some 400 pixels long; ``chroma`` ``(2, h, w)`` that was read there.
    """
    looks, steps = _looks(lightness, chroma)
    pieces = _pieces(steps)
    breathe()
    if apart is None or not apart.any():
        return _joined(pieces, looks, steps)
    if apart.all():
        return np.full(lightness.shape, -1, np.int32)
    pieces = np.where(apart, -1, pieces)
    held = np.unique(pieces, return_inverse=True)[1].reshape(pieces.shape).astype(np.int32)  # what is apart is 0
    labels = _joined(held, looks, steps, alone=0) - 1
    sizes = np.bincount(labels.ravel() + 1)[1:]
    large = sizes >= _LEAST / 2 * labels.size  # what lies between people has no neighbour to be joined with
    number = np.append(np.where(large, np.cumsum(large) - 1, -1), -1).astype(np.int32)
    return np.asarray(number[labels], np.int32)


def _looks(lightness: Field, chroma: Field) -> tuple[Field, Field]:
    """What places look like ``(k, h, w)``, and how steep that is ``(h, w)``."""
    side = max(lightness.shape)

    def blurred(plane: Field, width: float) -> Field:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), width, borderType=cv2.BORDER_REPLICATE), np.float32)

    smooth = np.asarray(cv2.bilateralFilter(lightness, 0, 12, side / 120), np.float32)
    detail = np.square(lightness - smooth)  # a plain step of lightness is none

    def rough(width: float) -> Field:
        return np.log(np.sqrt(np.maximum(blurred(detail, width), 0)) + np.float32(0.4))

    def steep(plane: Field) -> Field:
        return np.hypot(cv2.Sobel(plane, cv2.CV_32F, 1, 0), cv2.Sobel(plane, cv2.CV_32F, 0, 1))

    even = blurred(smooth, side / 300)
    finely, coarsely = rough(side / 100), rough(side / 40)
    looks = np.stack([even, _ROUGH * finely, _ROUGH * coarsely, *(_READ * chroma)])
    return looks.astype(np.float32), blurred(steep(even) + 6 * steep(blurred(finely, side / 150)), 1.0)


def _pieces(steps: Field) -> Labels:
    """Many small pieces, from 0."""
    height, width = steps.shape
    step = max(8, round(max(steps.shape) / _SQUARES))
    seeds = np.zeros((height, width), np.int32)
    count = 0
    for top in range(0, height, step):
        for left in range(0, width, step):
            near = steps[top : top + step, left : left + step]  # all of the square: a seed on a rim floods along it
            row, column = np.unravel_index(int(near.argmin()), near.shape)
            count += 1
            seeds[top + row, left + column] = count
    levels = (255 * np.sqrt(steps / max(float(steps.max()), 1e-3))).astype(np.uint8)
    flooded = _grown(np.maximum(cv2.watershed(np.dstack([levels] * 3), seeds), 0))
    inner = cv2.erode(flooded, _AROUND) == cv2.dilate(flooded, _AROUND)  # a piece may have run along a rim: that goes
    grown = _grown(np.where(inner, flooded, np.float32(0)))
    return np.unique(grown, return_inverse=True)[1].reshape(height, width).astype(np.int32)


def _grown(pieces: NDArray[Any]) -> Field:
    """What is 0 belongs to the piece that is nearest; all of it to one, if there is none."""
    made = pieces.astype(np.float32)
    if not made.any():
        return np.ones_like(made)
    while (between := made == 0).any():
        made = np.where(between, cv2.dilate(made, _AROUND), made)
    return made


class _Join:
    """Pieces, and what joining two neighbours would cost."""

    def __init__(self, pieces: Labels, looks: Field, steps: Field) -> None:
        height, width = pieces.shape
        self.total, count = height * width, int(pieces.max()) + 1
        down, across = np.mgrid[:height, :width].astype(np.float32) * np.float32(_PLACE / max(height, width))
        flat = pieces.ravel()
        self.sizes = np.bincount(flat, minlength=count).astype(np.float64)
        self.sums = np.stack([np.bincount(flat, p.ravel(), count) for p in (*looks, across, down)], axis=1)
        self.rims: list[dict[int, list[float]]] = [{} for _ in range(count)]  # of each its neighbours: steps, length
        for one, other, step in (
            (pieces[:, :-1], pieces[:, 1:], np.maximum(steps[:, :-1], steps[:, 1:])),
            (pieces[:-1], pieces[1:], np.maximum(steps[:-1], steps[1:])),
        ):
            apart = one != other
            pairs = np.sort(np.stack([one[apart], other[apart]]), axis=0)
            codes, where = np.unique(pairs[0].astype(np.int64) * count + pairs[1], return_inverse=True)
            lengths, heights = np.bincount(where), np.bincount(where, step[apart])
            for code, length, height_ in zip(codes.tolist(), lengths.tolist(), heights.tolist(), strict=True):
                p, q = divmod(code, count)
                rim = self.rims[p].setdefault(q, [0.0, 0.0])
                rim[0] += height_
                rim[1] += length
                self.rims[q][p] = rim
        self.into = list(range(count))
        self.turn = [0] * count  # how often each has grown

    def cost(self, p: int, q: int) -> float:
        """Of joining two."""
        differ = float(np.square(self.sums[p] / self.sizes[p] - self.sums[q] / self.sizes[q]).sum())
        steps, length = self.rims[p][q]
        share = self.sizes[p] * self.sizes[q] / (self.sizes[p] + self.sizes[q]) / self.total
        return float((differ**0.5 + _RIM * steps / length) ** 2 * share)

    def join(self, p: int, q: int) -> None:
        """The second is part of the first."""
        self.sums[p] += self.sums[q]
        self.sizes[p] += self.sizes[q]
        self.into[q] = p
        self.turn[p] += 1
        self.turn[q] = -1
        for r, rim in self.rims[q].items():
            del self.rims[r][q]
            if r != p:
                mine = self.rims[p].setdefault(r, [0.0, 0.0])
                mine[0] += rim[0]
                mine[1] += rim[1]
                self.rims[r][p] = mine

    def small(self, p: int, q: int) -> bool:
        """Whether one of two is too small to stay."""
        return min(self.sizes[p], self.sizes[q]) < _LEAST * self.total


def _joined(pieces: Labels, looks: Field, steps: Field, alone: int | None = None) -> Labels:
    """Pieces joined, but for the one that is to stay ``alone``."""
    work = _Join(pieces, looks, steps)
    if alone is not None:
        for p in work.rims[alone]:
            del work.rims[p][alone]
        work.rims[alone] = {}
    fewest = FEWEST if alone is None else 2  # people have parts of their own
    queue = [(work.cost(p, q), p, q, 0, 0) for p, rims in enumerate(work.rims) for q in rims if p < q]
    heapq.heapify(queue)
    left = len(work.sizes) - (alone is not None)
    while queue and left > 1:
        cost, p, q, was_p, was_q = heapq.heappop(queue)
        if (work.turn[p], work.turn[q]) != (was_p, was_q):
            continue
        if left <= MOST and not work.small(p, q) and (cost > _ENOUGH or left <= fewest):
            continue
        work.join(p, q)
        left -= 1
        for r in work.rims[p]:
            one, other = min(p, r), max(p, r)
            heapq.heappush(queue, (work.cost(p, r), one, other, work.turn[one], work.turn[other]))

    def root(k: int) -> int:
        while work.into[k] != k:
            k = work.into[k]
        return k

    ends = np.array([root(k) for k in range(len(work.into))])
    return np.unique(ends, return_inverse=True)[1].astype(np.int32)[pieces]


@dataclass(frozen=True)
class Outline:
    """A piece of a region, told by the corners of its rim, 0…1 across and down; beyond that at the picture's rim."""

    corners: tuple[tuple[float, float], ...]


def _out(at: float, pixel: float) -> float:
    return -_BEYOND if at < pixel else 1 + _BEYOND if at > 1 - pixel else at


def outlines(labels: Labels, region: int) -> tuple[Outline, ...]:
    """The rim of a region; of several pieces those that are no small part of it, the largest first.

    It reaches a pixel beyond, so that neighbours leave nothing between them.
    """
    height, width = labels.shape
    mask = cv2.dilate(np.pad((labels == region).astype(np.uint8), 1), _AROUND)
    found, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    ordered = sorted(found, key=cv2.contourArea, reverse=True)
    made: list[Outline] = []
    for line in ordered:
        if made and cv2.contourArea(line) < _HOLE * cv2.contourArea(ordered[0]):
            break
        corners = cv2.approxPolyDP(line, _CORNERS * max(height, width), True)[:, 0, :].astype(float) - 0.5
        at = [(_out(x / width, 1 / width), _out(y / height, 1 / height)) for x, y in corners]
        if len(at) >= 3:
            made.append(Outline(tuple(at)))
    return tuple(made)
