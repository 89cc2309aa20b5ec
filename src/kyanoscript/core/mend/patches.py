"""What is missing filled with patches of the picture itself: torn corners, holes, wide scratches.

From coarse to fine, every place in the hole looks for the place outside whose surroundings are most alike (Barnes,
Shechtman, Finkelstein and Goldman, "PatchMatch", SIGGRAPH 2009), and takes the tones that the patches over it agree on
(Wexler, Shechtman and Irani, "Space-time completion of video", PAMI 2007). Averaging would wash the grain out: what is
finer than tone is copied from one place. It is made up, not known: what lay there nobody can tell.
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2
from kyanoscript.core.watching import Watch, breathe, unwatched

Planes = NDArray[np.float32]  # (planes, h, w)
Mask = NDArray[np.uint8]
HALF = 4  # of a patch, pixels: 9 × 9
_ROUNDS = (16, 10, 6, 4, 2)  # at the coarsest size, at the next, …; the last counts for all finer ones
_COARSEST = 9  # pixels of the hole's inner radius at which the coarsest size is reached, at most
_AWAY = 0.06  # squared tones: what taking a patch from the other end of the part costs; what is near is likelier
_NEAR = 12  # pixels around what was found at a coarser size that are looked at
_SOFT = 1.2  # sigma of what counts as tone; what is finer is grain
_REACH = 3.0  # how far around a hole is looked for patches, as a share of its longer side
_AT_ONCE = 1500  # places that look before the work can be ended
_MOST = 900_000  # pixels of a part that is filled at its own size
f = np.float32


@kernel(
    "f4* picture, i8 planes, i8 w, i8 h, i4* hole, i8 n, i4* at, u1* untold, u1* bed, u1* whole, i4* found, "
    "f4* cost, f4 away, i8 half, i8 far, i8 turn, i8 first, i8 last, i8* chance"
)
def match(
    picture, planes, w, h, hole, n, at, untold, bed, whole, found, cost, away, half, far, turn, first, last, chance
):
    # hole: places, row after row; at: which of them a pixel is, or -1; found: for each the middle of the patch it is
    # like; untold: 1 where nothing is known of the hole yet, or ever: it is not compared; bed: 1 where there is nothing
    # to copy; whole: 1 where there is nothing of the hole in a patch; away: what a pixel's distance costs. Of one turn
    # through all places, of which the first tells only how good each is, those from first to last.
    r = chance[0]
    all_ = (2 * half + 1) * (2 * half + 1)
    step = 1 if turn % 2 == 0 else -1
    for k in range(first, last):
        i = k if step == 1 else n - 1 - k
        x, y = np.int64(hole[2 * i]), np.int64(hole[2 * i + 1])
        best_x, best_y, best = np.int64(found[2 * i]), np.int64(found[2 * i + 1]), cost[i]
        reach = np.int64(far)
        trial = np.int64(0)
        while reach > 0:
            if trial == 0:
                u, v = best_x, best_y
                best = f(1e30)
            elif turn == 0:
                break
            elif trial <= 2:  # as the place before it in its row, and that in its column
                dx, dy = (step, 0) if trial == 1 else (0, step)
                nx, ny = x - dx, y - dy
                j = np.int64(-1)
                if nx >= 0 and ny >= 0 and nx < w and ny < h:
                    j = np.int64(at[ny * w + nx])
                u, v = np.int64(-1), np.int64(-1)
                if j >= 0:
                    u, v = np.int64(found[2 * j]) + dx, np.int64(found[2 * j + 1]) + dy
            else:  # anywhere, ever nearer
                r = r * np.int64(6364136223846793005) + np.int64(1442695040888963407)
                u = best_x - reach + ((r >> 33) & np.int64(0x3FFFFFFF)) % (2 * reach + 1)
                r = r * np.int64(6364136223846793005) + np.int64(1442695040888963407)
                v = best_y - reach + ((r >> 33) & np.int64(0x3FFFFFFF)) % (2 * reach + 1)
                reach //= 2
            trial += 1
            if u < 0 or v < 0 or u >= w or v >= h or whole[v * w + u] == 0:
                continue
            total, count = f(0.0), np.int64(0)
            for b in range(-half, half + 1):
                yy, vv = y + b, v + b
                if yy < 0 or yy >= h or vv < 0 or vv >= h:
                    continue
                if total > best * f(all_):  # it can only become worse
                    break
                for a in range(-half, half + 1):
                    xx, uu = x + a, u + a
                    if xx < 0 or xx >= w or uu < 0 or uu >= w or untold[yy * w + xx] != 0:
                        continue
                    total += f(bed[vv * w + uu])  # a sheet's rim is like a sheet's rim only
                    for p in range(planes):
                        d = picture[(p * h + yy) * w + xx] - picture[(p * h + vv) * w + uu]
                        total += d * d
                    count += 1
            if count * 4 < all_:  # too little of it lies within
                continue
            total = total / f(count) + f(np.sqrt(np.float64((u - x) * (u - x) + (v - y) * (v - y)))) * away
            if total < best:
                best, best_x, best_y = total, u, v
        found[2 * i], found[2 * i + 1], cost[i] = best_x, best_y, best
    chance[0] = r


@kernel(
    "f4* picture, i8 planes, i8 w, i8 h, i4* hole, i8 n, u1* bed, i4* found, f4* cost, f4 sigma, i8 half, f4* total"
)
def agree(picture, planes, w, h, hole, n, bed, found, cost, sigma, half, total):
    # total: planes and a plane of weights, all 0; a patch counts by how alike it is
    for i in range(n):
        x, y = np.int64(hole[2 * i]), np.int64(hole[2 * i + 1])
        u, v = np.int64(found[2 * i]), np.int64(found[2 * i + 1])
        weight = f(np.exp(-cost[i] / (f(2.0) * sigma))) + f(1e-6)
        for b in range(-half, half + 1):
            yy, vv = y + b, v + b
            if yy < 0 or yy >= h or vv < 0 or vv >= h:
                continue
            for a in range(-half, half + 1):
                xx, uu = x + a, u + a
                if xx < 0 or xx >= w or uu < 0 or uu >= w or bed[vv * w + uu] != 0:
                    continue
                for p in range(planes):
                    total[(p * h + yy) * w + xx] += weight * picture[(p * h + vv) * w + uu]
                total[(planes * h + yy) * w + xx] += weight


def _worked_out(_: int, work: Callable[[], Planes]) -> Planes:
    return work()


def filled(
    planes: Planes,
    mask: Mask,
    unsound: Mask | None = None,
    watch: Watch = unwatched,
    kept: Callable[[int, Callable[[], Planes]], Planes] = _worked_out,
) -> Planes:
    """Encoded planes ``(planes, h, w)`` with the holes of a mask filled; nothing else is changed.

    Parameters
    ----------
    planes : encoded, 0…1.
    mask : 1 where the picture is missing, ``(h, w)``.
    unsound : 1 where it is not to be copied from either, such as damage that is mended otherwise.
    watch : told how far it is; may raise.
    kept : gets the number of each hole and the work for it; where it keeps them, work given up is gone on with.
    """
    out = planes.copy()
    count, labels, boxes, _ = cv2.connectedComponentsWithStats(mask, connectivity=8)
    barred = mask if unsound is None else np.maximum(mask, unsound)
    for k in range(1, count):
        x, y, w, h = (int(v) for v in boxes[k, :4])
        # As far around it as leaves a part that can be worked at.
        room = (math.sqrt((w - h) ** 2 + 4 * _MOST) - w - h) / 4
        reach = int(max(min(_REACH * max(w, h), room), 0.3 * max(w, h))) + 8 * HALF
        part = np.s_[max(0, y - reach) : y + h + reach, max(0, x - reach) : x + w + reach]
        hole = np.ascontiguousarray(labels[part] == k).astype(np.uint8)
        surroundings = np.ascontiguousarray(out[:, *part]), hole, np.ascontiguousarray(barred[part])
        out[:, *part][:, hole > 0] = kept(k, functools.partial(_inside, *surroundings))
        watch("Filling what is missing", k / (count - 1))
    return out


def _inside(planes: Planes, hole: Mask, barred: Mask) -> Planes:
    """What comes into one hole, ``(planes, n)``."""
    return _part(planes, hole, barred)[:, hole > 0]


def _part(planes: Planes, hole: Mask, barred: Mask) -> Planes:
    """One hole and its surroundings."""
    height, width = hole.shape
    if height * width > 2 * _MOST:  # a large hole is filled at a smaller size: far from its rim nothing fine is known
        scale = (_MOST / (height * width)) ** 0.5
        size = max(1, round(width * scale)), max(1, round(height * scale))
        small = np.stack([_smaller(p, barred, size) for p in planes])
        done = _part(small, _any(hole, size), _any(barred, size))
        large = np.stack([cv2.resize(p, (width, height), interpolation=cv2.INTER_CUBIC) for p in done])
        return np.asarray(np.clip(large, 0, 1), np.float32)
    deep = float(cv2.distanceTransform(np.pad(hole, 1), cv2.DIST_L2, 3).max())
    sizes = [(width, height)]
    while deep > _COARSEST and min(sizes[-1]) > 8 * HALF:
        deep /= 2
        sizes.append(((sizes[-1][0] + 1) // 2, (sizes[-1][1] + 1) // 2))
    now: Planes | None = None
    found: NDArray[np.int32] | None = None
    for step, size in enumerate(reversed(sizes)):
        breathe()
        here = planes if size == (width, height) else np.stack([_smaller(p, barred, size) for p in planes])
        own, out_of_bounds = _any(hole, size), _any(barred, size)
        start = here.copy()
        if now is None:
            levels = [np.rint(np.clip(p, 0, 1) * 65535).astype(np.uint16) for p in here]
            first = np.stack([cv2.inpaint(p, out_of_bounds, 3, cv2.INPAINT_TELEA) for p in levels]) / f(65535)
        else:
            first = np.stack([cv2.resize(p, size, interpolation=cv2.INTER_LINEAR) for p in now])
        start[:, own > 0] = first[:, own > 0]
        rounds = _ROUNDS[min(step, len(_ROUNDS) - 1)]
        now, found = _searched(np.ascontiguousarray(start), own, out_of_bounds, found, rounds, size == (width, height))
    assert now is not None
    return now


def _match(
    planes: Planes,
    places: NDArray[np.int32],
    at: NDArray[np.int32],
    untold: Mask,
    bed: Mask,
    whole: Mask,
    found: NDArray[np.int32],
    cost: NDArray[np.float32],
    far: int,
    turns: int,
    seed: int,
) -> None:
    """Every place looks for a patch that is more alike, a few times; it can be ended on the way."""
    count, height, width = planes.shape
    away, chance = _AWAY / (width + height), np.array([seed], np.int64)
    for turn in range(turns + 1):
        for first in range(0, len(places), _AT_ONCE):
            breathe()
            match(planes, count, width, height, places, len(places), at, untold, bed, whole, found, cost, away, HALF,
                  far, turn, first, min(first + _AT_ONCE, len(places)), chance)  # fmt: skip


def _searched(
    planes: Planes, hole: Mask, barred: Mask, before: NDArray[np.int32] | None, rounds: int, last: bool
) -> tuple[Planes, NDArray[np.int32]]:
    """The hole filled at one size, and where each of its places is taken from ``(h, w, 2)``."""
    height, width = hole.shape
    count = len(planes)
    bed = np.ascontiguousarray((barred > 0) & (hole == 0), np.uint8)
    clear = cv2.erode(1 - hole, np.ones((2 * HALF + 1,) * 2, np.uint8)) > 0
    whole: Mask = np.ascontiguousarray(clear & (bed == 0), np.uint8)
    if not whole.any():
        return planes, np.zeros((height, width, 2), np.int32)
    near = cv2.dilate(hole, np.ones((2 * HALF + 1,) * 2, np.uint8))  # every patch that reaches into the hole
    ys, xs = np.nonzero(near)
    places: NDArray[np.int32] = np.ascontiguousarray(np.stack([xs, ys], -1), np.int32)
    if before is None:
        sources = np.stack(np.nonzero(whole)[::-1], -1)
        first = sources[np.random.default_rng(0).integers(len(sources), size=len(places))]
    else:
        rows, columns = np.minimum(ys // 2, before.shape[0] - 1), np.minimum(xs // 2, before.shape[1] - 1)
        first = before[rows, columns] * 2 + np.stack([xs % 2, ys % 2], -1)
    found: NDArray[np.int32] = np.array(first, np.int32)
    cost = np.full(len(places), 1e30, np.float32)
    at = np.full((height, width), -1, np.int32)
    at[ys, xs] = np.arange(len(places), dtype=np.int32)
    inside = hole > 0
    if before is None:
        _peeled(planes, hole, bed, whole, places, at, found, cost)
    far = max(width, height) if before is None else _NEAR
    for turn in range(rounds):
        _match(planes, places, at, bed, bed, whole, found, cost, far, 2, turn + 1)
        total = np.zeros((count + 1, height, width), np.float32)
        sigma = float(np.percentile(cost, 75)) / (1 + turn) + 1e-6
        agree(planes, count, width, height, places, len(places), bed, found, cost, sigma, HALF, total)
        planes[:, inside] = (total[:count] / np.maximum(total[count], 1e-9))[:, inside]
    if last:
        sound = (barred == 0).astype(np.float32)
        under = np.maximum(cv2.GaussianBlur(sound, (0, 0), _SOFT), 1e-3)
        where = np.zeros((height, width, 2), np.int64)
        where[ys, xs] = found
        u, v = where[inside].T
        for plane in planes:
            fine = plane - cv2.GaussianBlur(plane * sound, (0, 0), _SOFT) / under
            plane[inside] = cv2.GaussianBlur(plane, (0, 0), _SOFT)[inside] + fine[v, u]
        np.clip(planes, 0, 1, out=planes)
    kept = np.zeros((height, width, 2), np.int32)
    kept[ys, xs] = found
    return planes, kept


def _peeled(
    planes: Planes,
    hole: Mask,
    bed: Mask,
    whole: Mask,
    places: NDArray[np.int32],
    at: NDArray[np.int32],
    found: NDArray[np.int32],
    cost: NDArray[np.float32],
) -> None:
    """The hole filled from its rim inward, by what is known alone: else a smooth guess would ask for smooth patches."""
    count, height, width = planes.shape
    unknown = hole.copy()
    for layer in range(max(width, height)):
        if not unknown.any():
            break
        untold = np.ascontiguousarray((unknown > 0) | (bed > 0), np.uint8)
        _match(planes, places, at, untold, bed, whole, found, cost, max(width, height), 4, layer + 101)
        total = np.zeros((count + 1, height, width), np.float32)
        sure = np.where(cost < 1e29, cost, 1.0).astype(np.float32)
        agree(planes, count, width, height, places, len(places), bed, found, sure, 0.002, HALF, total)
        rim = (unknown > 0) & (cv2.dilate(1 - untold, np.ones((3, 3), np.uint8)) > 0)
        if not rim.any():
            break
        planes[:, rim] = (total[:count] / np.maximum(total[count], 1e-9))[:, rim]
        unknown[rim] = 0


def _smaller(plane: NDArray[np.float32], barred: Mask, size: tuple[int, int]) -> NDArray[np.float32]:
    """Reduced by areas, of which only sound pixels count."""
    sound = (barred == 0).astype(np.float32)
    share = cv2.resize(sound, size, interpolation=cv2.INTER_AREA)
    return np.asarray(
        cv2.resize(plane * sound, size, interpolation=cv2.INTER_AREA) / np.maximum(share, 1e-3), np.float32
    )


def _any(mask: Mask, size: tuple[int, int]) -> Mask:
    return (cv2.resize(mask.astype(np.float32), size, interpolation=cv2.INTER_AREA) > 0.02).astype(np.uint8)
