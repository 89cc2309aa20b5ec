"""Dabs that stay: each has a small picture of its own around it, on which the way from the dab is measured.

The way is the shortest over the grid, where a step costs its length (a reach is as long as the dab is wide) and the
change of lightness on it (a reach for every `_STEP` of L). It is found by going over the grid forwards and backwards
until nothing is shortened any more (Toivanen, "New geodesic distance transforms for gray-scale images", 1996).
"""

# mypy: allow-untyped-defs, allow-untyped-calls

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.kernel import kernel
from kyanoscript.core.late import cv2
from kyanoscript.core.people import PARTS
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import steered
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.tint import field
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.core.tint.spline import Field

_ACROSS = 24  # pixels of the dab's own picture to its diameter
_REACHES = 2.5  # beyond which nothing of it is left
_STEP = 9.0  # of L: a step of lightness that counts as much as the dab's own width
_GRAIN = 1.5  # of the middle step of lightness: what is no more than that is grain
_MOST = 320  # pixels: the longer side of a dab's own picture
_SWEEPS = 4
_MOST_OF_REGION = 720  # and of a part of the scene, which may be as large as that
_RIM = 0.006  # of an outline's extent: how soft its rim is
_SEEKS = 3  # rims: so far off may a rim of the scene's parts lie from where the lightness turns
_TURN = 0.002  # of the square of lightness: what varies less is even
_SETTLED = 0.02  # reaches: nothing that matters is shortened any more
f = np.float32


@dataclass(frozen=True)
class Patch:
    """How much a dab counts around it."""

    weight: Field  # (h, w), 0…1
    rect: Rect  # where it lies, in pixels of the print at `scale`
    scale: float
    print_: tuple[int, int]  # size of the print at that scale
    field: tuple[float, float, float, float] | None  # gain and offset of a, then of b; None: as if nothing lay there

    def laid(self, sampled: Planes, rect: Rect, size: tuple[int, int], bare: Planes | None = None) -> Planes:
        """Gains and offsets ``(4, h, w)`` of a region of a print of ``size``, with the dab's colour over them.

        ``bare`` ``(4, h, w)`` is what shows again where the patch has no colour.
        """
        across, down = self.print_[0] / size[0], self.print_[1] / size[1]
        inside = Rect(
            math.floor(self.rect.x / across),
            math.floor(self.rect.y / down),
            math.ceil(self.rect.width / across) + 1,
            math.ceil(self.rect.height / down) + 1,
        )
        x0, y0 = max(inside.x, rect.x), max(inside.y, rect.y)
        x1, y1 = min(inside.right, rect.right), min(inside.bottom, rect.bottom)
        if x1 <= x0 or y1 <= y0:
            return sampled
        matrix = np.array(
            [
                [across, 0, (x0 + 0.5) * across - 0.5 - self.rect.x],
                [0, down, (y0 + 0.5) * down - 0.5 - self.rect.y],
            ]
        )
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        weight = cv2.warpAffine(self.weight, matrix, (x1 - x0, y1 - y0), flags=flags, borderMode=cv2.BORDER_CONSTANT)
        there = np.s_[:, y0 - rect.y : y1 - rect.y, x0 - rect.x : x1 - rect.x]
        part = sampled[there]
        part *= 1 - weight
        if self.field is None:
            part += weight * (bare[there] if bare is not None else f(0))
        else:
            for plane, value in zip(part, self.field, strict=True):
                if value:
                    plane += weight * f(value)
        return sampled


def patches(dabs: Sequence[Dab], place: Place, ground: Ground) -> list[Patch]:
    """The patches of all dabs that stay, or fill their outlines, in order."""
    made = []
    for dab in dabs:
        if dab.acts == "stays":
            made.append(ground.memo(("staying", place.chain, dab), functools.partial(_patch, dab, ground)))
        elif dab.acts == "within" and len(dab.outline) > 2:
            key = (
                "within",
                place.chain,
                dab.outline,
                dab.shaded,
                _of_scene(dab),
            )  # another tint changes nothing of where it lies
            area = ground.memo(key, functools.partial(_area, dab, ground))
            made.append(replace(area, field=field_of(dab)))
    return made


def bared(dab: Dab, place: Place, ground: Ground) -> list[Patch]:
    """Patches that uncover what lies beneath: of what waits for a tint, on something larger that has one."""
    return [replace(patch, field=None) for patch in patches((dab,), place, ground)]


def field_of(dab: Dab) -> tuple[float, float, float, float]:
    """Gain and offset of Oklab a to a lightness of 0…100, then of b."""
    a, b = field.chroma_of(dab.colour)
    if not dab.shaded:
        return 0.0, a, 0.0, b
    light = 100 * field.tone_of(dab.colour)
    return a / light, 0.0, b / light, 0.0


def _of_scene(dab: Dab) -> bool:
    """Whether it is a part of the scene: a thing of a person's lies on one, and leaves no seam."""
    return dab.shaded and dab.name.split(" ")[0] not in PARTS


def _area(dab: Dab, ground: Ground) -> Patch:
    """All within a closed line, with a soft rim that gives way where the lightness turns."""
    most = _MOST_OF_REGION if dab.shaded else _MOST
    across, down = ground.framing.photo
    corners = np.array([(p[0] / 100 * across, p[1] / 100 * down) for p in dab.outline])
    extent = float(np.ptp(corners, axis=0).max()) + 1.0
    full = replace(ground, scale=1.0)
    scale = min(1.0, min(1.0, 0.8 * most / extent) * full.to_photo.size)
    here = replace(ground, scale=scale)
    to_print = here.to_photo.inverse()
    places = np.array([to_print(x, y) for x, y in corners])
    wide = float(np.ptp(places, axis=0).max())
    rim = max(1.0, _RIM * wide)
    x0, y0 = np.floor(places.min(axis=0) - 4 * rim).astype(int)
    x1, y1 = np.ceil(places.max(axis=0) + 4 * rim).astype(int)
    rect = Rect(int(x0), int(y0), int(x1 - x0), int(y1 - y0))
    size = here.framing.size(scale)
    if rect.clipped(*size).width < 1 or rect.clipped(*size).height < 1:
        return Patch(np.zeros((1, 1), np.float32), rect, scale, size, None)  # beyond the print
    mask = np.zeros((rect.height, rect.width), np.uint8)
    cv2.fillPoly(mask, [np.round((places - (rect.x, rect.y)) * 16).astype(np.int32)], 255, cv2.LINE_AA, 4)
    if _of_scene(dab):  # neighbours reach over one another: two soft rims side by side would leave a gray seam
        mask = np.asarray(cv2.dilate(mask, np.ones((2 * round(rim) + 1,) * 2, np.uint8)), np.uint8)
    soft = np.asarray(cv2.GaussianBlur(mask.astype(np.float32) / f(255), (0, 0), rim / 2), np.float32)
    gray = colour.gray_of(ground.inputs("print", rect, scale), ground.space)[0]
    lightness = field.lightness_of(np.ascontiguousarray(gray)) / f(100)
    radius = max(1, round(rim * (_SEEKS if _of_scene(dab) else 1)))
    reach = cv2.dilate(mask, np.ones((2 * radius + 1,) * 2, np.uint8)).astype(np.float32) / f(255)
    weight = steered(soft, lightness, radius, _TURN) * cv2.GaussianBlur(reach, (0, 0), rim / 2)
    return Patch(np.clip(weight, 0, 1).astype(np.float32), rect, scale, size, None)


def _patch(dab: Dab, ground: Ground) -> Patch:
    across, down = ground.framing.photo
    reach = dab.size / 1000  # of the longer side
    xs, ys = [p[0] / 100 * across for p in dab.points], [p[1] / 100 * down for p in dab.points]
    longer = max(across, down)
    room = (_REACHES + 0.5) * reach * longer  # pixels of the photograph
    extent = max(max(xs) - min(xs), max(ys) - min(ys)) + 2 * room
    # Pixels of the patch to one of the photograph: never more than there are, nor more than fit.
    each = min(1.0, _ACROSS / (reach * longer), _MOST / extent)
    full = replace(ground, scale=1.0)
    scale = min(1.0, each * full.to_photo.size)
    here = replace(ground, scale=scale)
    to_print = here.to_photo.inverse()
    places = np.array([to_print(x, y) for x, y in zip(xs, ys, strict=True)])
    margin = room * to_print.size
    x0, y0 = np.floor(places.min(axis=0) - margin).astype(int)
    x1, y1 = np.ceil(places.max(axis=0) + margin).astype(int)
    rect = Rect(int(x0), int(y0), int(x1 - x0), int(y1 - y0))
    width, height = here.framing.size(scale)
    if rect.clipped(width, height).width < 1 or rect.clipped(width, height).height < 1:
        return Patch(np.zeros((1, 1), np.float32), rect, scale, (width, height), None)  # beyond the print
    gray = colour.gray_of(ground.inputs("print", rect, scale), ground.space)[0]
    lightness = field.lightness_of(np.ascontiguousarray(gray))
    wide = reach * longer * to_print.size  # the dab's diameter here
    start = np.zeros(lightness.shape, np.uint8)
    line = np.round((places - (rect.x, rect.y)) * 16).astype(np.int32)
    cv2.polylines(start, [line], False, 1, max(1, round(wide)), cv2.LINE_8, 4)
    cv2.circle(start, (int(line[0][0]), int(line[0][1])), max(1, round(wide * 8)), 1, -1, cv2.LINE_8, 4)
    way = np.where(start > 0, f(0), f(1e9)).astype(np.float32)
    # Grain is no outline: it is blurred a little, and steps no larger than most cost nothing.
    lightness = np.asarray(cv2.GaussianBlur(lightness, (0, 0), 1.0, borderType=cv2.BORDER_REPLICATE), np.float32)
    grain = _GRAIN * float(np.median(np.abs(np.diff(lightness, axis=1)))) if lightness.shape[1] > 1 else 0.0
    for _ in range(_SWEEPS):
        before = way.copy()
        shorten(lightness, way, way.shape[1], way.shape[0], 1 / max(wide, 1.0), 1 / _STEP, grain)
        if np.abs(np.minimum(way, _REACHES) - np.minimum(before, _REACHES)).max() < _SETTLED:
            break
    weight = np.exp(-way * way) - math.exp(-_REACHES * _REACHES)
    return Patch(np.maximum(weight, 0).astype(np.float32), rect, scale, here.framing.size(scale), field_of(dab))


@kernel("f4* light, f4* way, i8 w, i8 h, f4 length, f4 step, f4 grain")
def shorten(light, way, w, h, length, step, grain):
    """Once forwards and once backwards over the grid."""
    for back in range(2):
        sign = 1 - 2 * back
        for row in range(h):
            y = row if back == 0 else h - 1 - row
            for column in range(w):
                x = column if back == 0 else w - 1 - column
                k = y * w + x
                best = way[k]
                for n in range(4):
                    dx = (-1, 0, 1, -1)[n] * sign
                    dy = (-1, -1, -1, 0)[n] * sign
                    xx, yy = x + dx, y + dy
                    if xx >= 0 and xx < w and yy >= 0 and yy < h:
                        other = yy * w + xx
                        far = length * (f(1.41421356) if dx != 0 and dy != 0 else f(1.0))
                        rise = max(f(0.0), abs(light[k] - light[other]) - grain)
                        best = min(best, way[other] + far + step * rise)
                way[k] = best
