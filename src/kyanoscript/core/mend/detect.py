"""Where a scan is damaged: a small network that has learned from invented damage (tools/mend).

It looks at 90 × 90 pixels around each, is told detail and noise, and says how likely the pixel is damaged. Most of its
work is done at half the size. OpenCV runs it; the weights ship as ONNX. The scan is taken in tiles, so that memory is
bounded.
"""

from __future__ import annotations

import functools
import math
import threading
from collections.abc import Callable
from importlib import resources
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2
from kyanoscript.core.watching import Watch, breathe, unwatched

Field = NDArray[np.float32]
_TILE = 768  # pixels; even, as `_AROUND` is: the network's half size begins at every second pixel of the picture
_MUCH, _MORE = 0.02, 0.0006  # of a picture: the most that can be damaged, and what each per cent of sensitivity adds
_BED = 0.1  # encoded: darker than any print on paper
_AROUND = 48  # pixels around a tile that its own pixels depend on
Kept = Callable[[tuple[int, int], Callable[[], Any]], Any]
_lock = threading.Lock()  # a network is run by one thread at a time


def _worked_out(_: tuple[int, int], work: Callable[[], Any]) -> Any:
    return work()


@functools.cache
def _network() -> cv2.dnn.Net:
    data = (resources.files("kyanoscript") / "core" / "mend" / "detector.onnx").read_bytes()
    return cv2.dnn.readNetFromONNX(np.frombuffer(data, np.uint8))


def told(gray: Field) -> Field:
    """What the network is shown of an encoded gray ``(h, w)``: detail against the noise around, detail, tone."""
    near = cv2.GaussianBlur(gray, (0, 0), 6, borderType=cv2.BORDER_REFLECT)
    detail = gray - near
    noise = _wide(np.abs(detail)) + 0.004
    return np.stack([np.clip(detail / noise / 4, -4, 4), np.clip(detail * 8, -4, 4), near - 0.5]).astype(np.float32)


def _wide(plane: Field) -> Field:
    """Blurred by sigma 20; a quarter of the pixels each way does for that."""
    height, width = plane.shape
    if min(height, width) < 64:
        return np.asarray(cv2.GaussianBlur(plane, (0, 0), 20, borderType=cv2.BORDER_REFLECT), np.float32)
    small = cv2.resize(plane, (width // 4, height // 4), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), 5, borderType=cv2.BORDER_REFLECT)
    return np.asarray(cv2.resize(small, (width, height), interpolation=cv2.INTER_LINEAR), np.float32)


def likely(gray: Field, kept: Kept = _worked_out, watch: Watch = unwatched) -> NDArray[np.int8]:
    """How likely each pixel of an encoded gray ``(h, w)`` is damaged: a logit in eighths.

    ``kept`` gets the name of each tile and the work for it; where it keeps tiles, work given up is gone on with.
    """
    breathe()
    shown = told(gray)
    height, width = gray.shape
    out = np.empty((height, width), np.int8)
    breathe()
    padded = np.pad(shown, ((0, 0), (_AROUND, _AROUND), (_AROUND, _AROUND)), mode="reflect")
    for y in range(0, height, _TILE):
        for x in range(0, width, _TILE):
            h, w = min(_TILE, height - y), min(_TILE, width - x)
            part = padded[:, y : y + h + 2 * _AROUND, x : x + w + 2 * _AROUND]
            out[y : y + h, x : x + w] = kept((x, y), functools.partial(judged, part))
            watch("Looking the scan over", ((y + h) * width - h * (width - x - w)) / (height * width))
    return out


def judged(part: Field) -> NDArray[np.int8]:
    """A tile, of the numbers told of it and of what lies around it: a quarter of the memory, and fine enough."""
    height, width = part.shape[1:]
    even = np.pad(part, ((0, 0), (0, height % 2), (0, width % 2)), mode="edge")
    with _lock:
        net = _network()
        net.setInput(np.ascontiguousarray(even[None]))
        found = net.forward()[0, 0, :height, :width]
    inner = found[_AROUND:-_AROUND, _AROUND:-_AROUND]
    return np.rint(np.clip(inner, -15, 15) * 8).astype(np.int8)


def shadowed(infrared: Field, sensitivity: float, widest: float) -> NDArray[np.uint8]:
    """Where something lies on a film, 1: dyes let infrared through, dust and scratches do not (common practice).

    Parameters
    ----------
    infrared : encoded, ``(h, w)``, at the size that damage is looked for.
    sensitivity : 0…100; at 50 what keeps back a fifth of the light counts.
    widest : pixels; what is wider than that belongs to the picture.
    """
    side = int(1.5 * widest) | 1
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side))
    open_ = cv2.GaussianBlur(cv2.morphologyEx(infrared, cv2.MORPH_CLOSE, kernel), (0, 0), max(1.0, widest / 2))
    kept_back = 1 - infrared / np.maximum(open_, 1e-3)
    dark = (kept_back > 0.35 - 0.003 * sensitivity).astype(np.uint8)
    return np.asarray(cv2.dilate(dark, np.ones((3, 3), np.uint8)), np.uint8)


def missing(gray: Field) -> NDArray[np.uint8]:
    """Where there is no picture, 1: the bare bed of the scanner, around a print and through holes in it."""
    calm = cv2.blur(gray, (9, 9), borderType=cv2.BORDER_REFLECT)
    dark = (calm < _BED).astype(np.uint8)
    count, labels = cv2.connectedComponents(dark, connectivity=4)
    kept = np.zeros(count, bool)
    kept[np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]])] = True
    kept[0] = False
    found = kept[labels].astype(np.uint8)
    if found.any():  # what is as even, and as dark, further in, is seen through a hole
        bed = gray[found > 0]
        level, spread = float(np.median(bed)), float(bed.std()) + 0.004
        alike = (np.abs(calm - level) < 2 * spread).astype(np.uint8)
        deep = cv2.distanceTransform(np.pad(alike, 1), cv2.DIST_L2, 5)[1:-1, 1:-1] > max(6.0, 0.004 * max(gray.shape))
        _, labels = cv2.connectedComponents(alike, connectivity=4)
        holes = np.unique(labels[deep & (found == 0)])
        found |= np.isin(labels, holes[holes > 0]).astype(np.uint8)
    return np.asarray(cv2.dilate(found, np.ones((9, 9), np.uint8)), np.uint8)


def torn(missing: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Of where there is no picture, what is torn out of it, 1: within the sheet's own rectangle, and deeper than a rim.

    The torn edge's bare paper belongs to it.
    """
    longer = max(missing.shape)
    sheet = cv2.findNonZero(1 - missing)
    if sheet is None or not missing.any():
        return np.zeros_like(missing)
    middle, (across, down), turn = cv2.minAreaRect(sheet)
    # A print's rim is not quite straight; but where the sheet fills the picture there is no rim.
    inset = 0.012 * longer if across * down < 0.985 * missing.size else 0.0
    within, well_within = np.zeros_like(missing), np.zeros_like(missing)
    for mask, less in ((within, 0.0), (well_within, inset)):
        corners = cv2.boxPoints((middle, (max(1.0, across - 2 * less), max(1.0, down - 2 * less)), turn))
        cv2.fillConvexPoly(mask, np.rint(corners).astype(np.int32), 1)
    holes = missing & well_within
    count, labels = cv2.connectedComponents(holes, connectivity=8)
    deep = cv2.distanceTransform(np.pad(holes, 1), cv2.DIST_L2, 5)[1:-1, 1:-1] > 0.006 * longer
    kept = np.zeros(count, bool)
    kept[np.unique(labels[deep])] = True
    kept[0] = False
    side = 2 * max(2, round(0.005 * longer + inset)) + 1
    grown = cv2.dilate(kept[labels].astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    edge = 2 * max(2, round(0.005 * longer)) + 1  # bare paper along the tear
    near = cv2.dilate(kept[labels].astype(np.uint8), cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (edge, edge)))
    return np.asarray((within > 0) & ((near > 0) | ((grown > 0) & (missing > 0))), np.uint8)


def wide(found: NDArray[np.uint8], radius: float) -> NDArray[np.uint8]:
    """Of what was found, the pieces that are deeper than ``radius`` pixels, 1."""
    deep = cv2.distanceTransform(np.pad(found, 1), cv2.DIST_L2, 5)[1:-1, 1:-1]
    core = (deep > radius).astype(np.uint8)
    if not core.any():
        return core
    side = 2 * math.ceil(radius) + 3
    near = cv2.dilate(core, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    return np.asarray((near > 0) & (found > 0), np.uint8)


def chosen(eighths: NDArray[np.int8], sensitivity: float, widest: float) -> NDArray[np.uint8]:
    """The damaged pixels, 1: all that hang together with a place that is plainly damaged, and their rims.

    Parameters
    ----------
    eighths : how likely each pixel is damaged, a logit in eighths.
    sensitivity : 0…100; fainter damage is found, and more that is none.
    widest : pixels; what is wider than that belongs to the picture.
    """
    high = 3.7 - 0.06 * sensitivity
    mask = _hanging_together(eighths, high)
    # A sharp photograph has fine edges all over: where so much would be damaged it is the picture, not damage.
    while high < 8 and mask.mean() > (_MUCH + _MORE * sensitivity):
        high += 0.5
        mask = _hanging_together(eighths, high)
    side = max(5, int(widest) | 1)  # what is found reaches a pixel beyond what is damaged
    thick = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
    mask[cv2.dilate(thick, np.ones((3, 3), np.uint8)) > 0] = 0
    return np.asarray(cv2.dilate(mask, np.ones((3, 3), np.uint8)), np.uint8)


def _hanging_together(eighths: NDArray[np.int8], high: float) -> NDArray[np.uint8]:
    strong, weak = eighths > 8 * high, (eighths > 8 * (high - 1.5)).astype(np.uint8)
    count, labels = cv2.connectedComponents(weak, connectivity=8)
    kept = np.zeros(count, bool)
    kept[np.unique(labels[strong])] = True
    kept[0] = False
    return kept[labels].astype(np.uint8)
