"""The small prints that an `Appearance` is learned from."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.colour import in_colour, to_lab
from kyanoscript.core.develop import developed
from kyanoscript.core.picture import ArraySource, Rect, Source
from kyanoscript.core.render import analysis
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.seek.appearance import SIDE, Appearance, Array
from kyanoscript.core.seek.seek import Sought, script_at, to_learn


class Smalls:
    """Prints of a photograph with any values of the dials; it is reduced once, unless its development is sought."""

    def __init__(self, source: Source, base: Script, dials: Sequence[Sought], library: Library | None = None) -> None:
        self.base, self.dials, self._library = base, tuple(dials), library
        if not any(sought.dial.of == "develop" for sought in dials):
            raw = developed(source, base.develop)
            source = ArraySource(np.ascontiguousarray(np.moveaxis(analysis.opened(raw, SIDE), 0, -1)), raw.space)
        self._source = source
        self._size = self._planes(base).shape[1:]  # of the start: where the frame is sought others have other sizes

    def _planes(self, script: Script) -> NDArray[np.float32]:
        renderer = Renderer(self._source, script, library=self._library)
        rect, scale = analysis.overview(renderer, SIDE)
        return renderer.region(Rect(0, 0, rect.width, rect.height), scale)

    def lab(self, shares: Array) -> Array:
        """L*, a*, b* ``(p, 3)`` of the print there."""
        planes = in_colour(self._planes(script_at(self.base, self.dials, shares)))
        if planes.shape[1:] != self._size:
            sizes = zip(self._size, planes.shape[1:], strict=True)
            rows, columns = (np.arange(wanted) * there // wanted for wanted, there in sizes)
            planes = planes[:, rows][:, :, columns]
        return to_lab(np.clip(planes, 0.0, 1.0), self._source.space).reshape(3, -1).T

    def learned(self) -> Appearance:
        """From all that are to be learned from, one after another."""
        shares = to_learn(self.base, self.dials)
        return Appearance.learned(shares, np.stack([self.lab(share) for share in shares]))
