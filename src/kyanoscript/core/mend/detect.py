"""Where a scan is damaged: a small network that has learned from invented damage (tools/mend).

It looks at 39 × 39 pixels around each, is told detail and noise, and says how likely the pixel is damaged. OpenCV runs
it; the weights ship as ONNX. The scan is taken in tiles, so that memory is bounded.
"""

from __future__ import annotations

import functools
import threading
from collections.abc import Callable
from importlib import resources
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.watching import Watch, unwatched

Field = NDArray[np.float32]
_TILE = 512
_BED = 0.1  # encoded: darker than any print on paper
_AROUND = 24  # pixels around a tile that its own pixels depend on, or nearly
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
    noise = cv2.GaussianBlur(np.abs(detail), (0, 0), 20, borderType=cv2.BORDER_REFLECT) + 0.004
    return np.stack([np.clip(detail / noise / 4, -4, 4), np.clip(detail * 8, -4, 4), near - 0.5]).astype(np.float32)


def likely(gray: Field, kept: Kept = _worked_out, watch: Watch = unwatched) -> NDArray[np.int8]:
    """How likely each pixel of an encoded gray ``(h, w)`` is damaged: a logit in eighths.

    ``kept`` gets the name of each tile and the work for it; where it keeps tiles, work given up is gone on with.
    """
    shown = told(gray)
    height, width = gray.shape
    out = np.empty((height, width), np.int8)
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
    with _lock:
        net = _network()
        net.setInput(np.ascontiguousarray(part[None]))
        found = net.forward()[0, 0]
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
    """Where there is no picture, 1: the bare bed of the scanner, which reaches in where a corner is torn."""
    dark = (cv2.blur(gray, (9, 9), borderType=cv2.BORDER_REFLECT) < _BED).astype(np.uint8)
    _, labels = cv2.connectedComponents(dark, connectivity=4)
    rim = np.unique(np.concatenate([labels[0], labels[-1], labels[:, 0], labels[:, -1]]))
    found = np.isin(labels, rim[rim > 0]).astype(np.uint8)
    return np.asarray(cv2.dilate(found, np.ones((9, 9), np.uint8)), np.uint8)


def chosen(eighths: NDArray[np.int8], sensitivity: float, widest: float) -> NDArray[np.uint8]:
    """The damaged pixels, 1: all that hang together with a place that is plainly damaged, and their rims.

    Parameters
    ----------
    eighths : how likely each pixel is damaged, a logit in eighths.
    sensitivity : 0…100; fainter damage is found, and more that is none.
    widest : pixels; what is wider than that belongs to the picture.
    """
    high = 4.0 - 0.06 * sensitivity
    strong, weak = eighths > 8 * high, (eighths > 8 * (high - 1.5)).astype(np.uint8)
    count, labels = cv2.connectedComponents(weak, connectivity=8)
    kept = np.zeros(count, bool)
    kept[np.unique(labels[strong])] = True
    kept[0] = False
    mask = kept[labels].astype(np.uint8)
    side = int(widest) | 1
    if side > 1:
        thick = cv2.morphologyEx(mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (side, side)))
        mask[cv2.dilate(thick, np.ones((3, 3), np.uint8)) > 0] = 0
    return np.asarray(cv2.dilate(mask, np.ones((3, 3), np.uint8)), np.uint8)
