"""What was worked out on the whole of a scan, at one size, laid on any region at any size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.geometry import Affine
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up


@dataclass(frozen=True)
class Change:
    """What is added at the damaged pixels alone: so little that it can be kept for scans of any size."""

    where: NDArray[np.int64]  # places in the whole picture, row after row
    added: Planes  # (planes, n)
    shape: tuple[int, ...]

    def at(self, place: Place, key: tuple[Any, ...]) -> Planes:
        """On the region of a pass, at its size; ``key`` stands for this change among what is kept."""
        assert place.ground is not None
        width, height = place.ground.framing.size(place.scale)
        rect, own = place.rect, (self.shape[1], self.shape[0])
        if own == (width, height):
            return self._dense(rect)
        if own[0] > width:  # reduced by areas, once for the whole: it is small
            whole = Rect(0, 0, *own)
            small = place.ground.memo(
                ("mend reduced", place.scale, *key),
                lambda: np.stack([_reduced(p, (width, height)) for p in self._dense(whole)]),
            )
            return np.asarray(small[:, rect.y : rect.bottom, rect.x : rect.right])
        across, down = own[0] / width, own[1] / height
        x0, y0 = max(0, int(rect.x * across) - 2), max(0, int(rect.y * down) - 2)
        x1, y1 = min(own[0], int(rect.right * across) + 3), min(own[1], int(rect.bottom * down) + 3)
        part = self._dense(Rect(x0, y0, x1 - x0, y1 - y0))
        shift = Affine(across, 0, (rect.x + 0.5) * across - 0.5 - x0, 0, down, (rect.y + 0.5) * down - 0.5 - y0)
        return looked_up(part, shift, rect.width, rect.height)

    def _dense(self, rect: Rect) -> Planes:
        """A region at its own size, 0 where nothing is added."""
        width = self.shape[1]
        first, last = np.searchsorted(self.where, (rect.y * width, rect.bottom * width))
        rows, columns = np.divmod(self.where[first:last], width)
        inside = (columns >= rect.x) & (columns < rect.right)
        out = np.zeros((len(self.added), rect.height, rect.width), np.float32)
        out[:, rows[inside] - rect.y, columns[inside] - rect.x] = self.added[:, first:last][:, inside]
        return out


def at(whole: Planes, place: Place) -> Planes:
    """Planes of the whole picture at some size, on the region at its own."""
    ground = place.ground
    assert ground is not None
    width, height = ground.framing.size(place.scale)
    rect = place.rect
    if whole.shape[1:] == (height, width):
        return whole[:, rect.y : rect.bottom, rect.x : rect.right]
    if whole.shape[1] > height:
        whole = np.stack([_reduced(p, (width, height)) for p in whole])
        return whole[:, rect.y : rect.bottom, rect.x : rect.right]
    across, down = whole.shape[2] / width, whole.shape[1] / height
    shift = Affine(across, 0, (rect.x + 0.5) * across - 0.5, 0, down, (rect.y + 0.5) * down - 0.5)
    return looked_up(whole, shift, rect.width, rect.height)


def _reduced(plane: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    return np.asarray(cv2.resize(plane, size, interpolation=cv2.INTER_AREA), np.float32)
