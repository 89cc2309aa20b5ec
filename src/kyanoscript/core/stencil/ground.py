"""What a mask is made for: the framed photograph, a scale, and ways to look things up."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.geometry import Affine, Framing
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.watching import Watch, unwatched

Inputs = Callable[[str, Rect, float], Planes]  # planes of "print" or "photo" in a region (may reach outside) at a scale


@dataclass(frozen=True)
class Ground:
    """What a mask is made for: the framed photograph, a scale, and ways to look things up."""

    framing: Framing
    scale: float
    inputs: Inputs
    memo: Callable[[tuple[Any, ...], Callable[[], Any]], Any]  # keeps coarse grids of strokes
    drawing: bool = False  # the same region is asked for again and again while one more stroke is drawn

    watch: Watch = unwatched  # hears of work that takes seconds
    space: Space = SRGB
    infrared: Callable[[Rect, float], Planes] | None = None  # of the framed photograph, where its scan has any

    @property
    def to_photo(self) -> Affine:
        return self.framing.at(self.scale)

    @property
    def longer(self) -> float:
        """The photograph's longer side in pixels at this scale: what lengths are a share of."""
        return max(self.framing.photo) / self.to_photo.size

    def coarser(self, factor: int) -> Ground:
        """The same at a part of the scale."""
        return replace(self, scale=self.scale / factor)

    def around(self, rect: Rect, factor: int, margin: int) -> tuple[Rect, float, float]:
        """The region of a coarser grid that covers ``rect`` and a margin; coarse pixels to a present one."""
        width, height = self.framing.size(self.scale)
        wc, hc = self.framing.size(self.scale / factor)
        across, down = wc / width, hc / height
        x0, y0 = math.floor(rect.x * across) - margin, math.floor(rect.y * down) - margin
        x1, y1 = math.ceil(rect.right * across) + margin, math.ceil(rect.bottom * down) + margin
        return Rect(x0, y0, x1 - x0, y1 - y0), across, down
