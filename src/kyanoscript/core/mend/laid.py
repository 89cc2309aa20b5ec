"""What was worked out on the whole of a scan, at one size, laid on any region at any size."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import colour
from kyanoscript.core.geometry import Affine
from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.site import Place
from kyanoscript.core.smooth import looked_up


@dataclass(frozen=True)
class Change:
    """What is added at the damaged pixels alone: so little that it can be kept for scans of any size."""

    where: NDArray[np.int64]  # places in the whole picture, row after row: what is changed, and a little around it
    added: Planes  # (planes, n), encoded
    now: Planes  # (planes, n): the mended picture there, encoded
    shape: tuple[int, ...]

    def laid_on(self, planes: Planes, place: Place, key: tuple[Any, ...]) -> Planes:
        """The planes of a pass's region with it; ``key`` stands for this change among what is kept.

        In a smaller picture what is mended takes the place of what was there: a tilted frame is resampled at each size
        by itself, and adding would leave a hairline where a scratch was.
        """
        assert place.ground is not None
        width, height = place.ground.framing.size(place.scale)
        rect, own = place.rect, (self.shape[1], self.shape[0])
        if own == (width, height):
            return np.clip(planes + self._dense(self.added, rect), 0, 1)
        if own[0] > width:  # reduced by areas, once for the whole: it is small
            mended, share = place.ground.memo(
                ("mend reduced", place.scale, *key), lambda: self._smaller((width, height))
            )
            window = np.s_[:, rect.y : rect.bottom, rect.x : rect.right]
            return planes + share[window] * (mended[window] - planes)
        across, down = own[0] / width, own[1] / height
        x0, y0 = max(0, int(rect.x * across) - 2), max(0, int(rect.y * down) - 2)
        x1, y1 = min(own[0], int(rect.right * across) + 3), min(own[1], int(rect.bottom * down) + 3)
        dense = self._dense(self.added, Rect(x0, y0, x1 - x0, y1 - y0))
        shift = Affine(across, 0, (rect.x + 0.5) * across - 0.5 - x0, 0, down, (rect.y + 0.5) * down - 0.5 - y0)
        return np.clip(planes + looked_up(dense, shift, rect.width, rect.height), 0, 1)

    def _smaller(self, size: tuple[int, int]) -> tuple[Planes, Planes]:
        """The mended picture where it is changed, averaged in light, and how much of each pixel is changed."""
        whole = Rect(0, 0, self.shape[1], self.shape[0])
        there = self._dense(np.ones((1, len(self.where)), np.float32), whole)
        changed = self._dense((np.abs(self.added).max(axis=0, keepdims=True) > 1e-6).astype(np.float32), whole)[0]
        spread = np.asarray(cv2.dilate(changed, np.ones((3, 3), np.uint8)), np.float32)
        known, share = _reduced(there[0], size), _reduced(spread, size)
        made = []
        for values in self.now:
            light = _reduced(self._dense(colour.to_light(values[None]).astype(np.float32), whole)[0], size)
            made.append(colour.to_encoded(np.clip(light / np.maximum(known, 1e-3), 0, 1)))
        share = np.clip(2 * share, 0, 1) * (known > 0.02)
        return np.stack(made).astype(np.float32), share[None].astype(np.float32)

    def _dense(self, values: Planes, rect: Rect) -> Planes:
        """A region at its own size, 0 where nothing is added."""
        width = self.shape[1]
        first, last = np.searchsorted(self.where, (rect.y * width, rect.bottom * width))
        rows, columns = np.divmod(self.where[first:last], width)
        inside = (columns >= rect.x) & (columns < rect.right)
        out = np.zeros((len(values), rect.height, rect.width), np.float32)
        out[:, rows[inside] - rect.y, columns[inside] - rect.x] = values[:, first:last][:, inside]
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
