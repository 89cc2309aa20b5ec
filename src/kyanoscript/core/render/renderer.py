"""Pixels of any region at any scale: each pass asks the one before it for what it needs.

With a cache, work is done in square tiles that are kept: a change to one pass renders that pass and the ones after it,
for the tiles on screen. Without one (export) a region is pushed through the whole run in one go and nothing is kept.
Both give the same pixels, whatever the tiles and however many threads ask.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from kyanoscript.core import blend
from kyanoscript.core.passes.base import Pass, Place
from kyanoscript.core.picture import Planes, Rect, Source, read, size_at
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.script import Script

TILE = 384  # pixels: of 256, 384 and 512 the quickest under a slider, where Python's share of a tile counts
PROXY = 1_000_000  # pixels of the small version that measures are taken from


class Renderer:
    """Renders one script on one source. Cheap to make; share the cache between renderers of the same source.

    `region` and `tile` may be called from several threads at once. With ``keep``, only what enters pass ``keep`` and
    what lies before it goes into the cache: while a control is dragged, each of its values is seen once.
    """

    def __init__(self, source: Source, script: Script, cache: TileCache | None = None, keep: int | None = None) -> None:
        self.source = source
        self.script = script
        self.cache = cache
        self._chains = cache or TileCache(0)  # chain numbers and measures are kept even where tiles are not
        self._steps: list[tuple[int, Pass]] = []  # (chain number, pass) of the passes that can change anything
        self._after = [0]  # how many of them lie before each place in the run
        chain = 0
        for one in script.passes:
            if one.acts:
                chain = self._chains.chain(chain, one)
                self._steps.append((chain, one))
            self._after.append(len(self._steps))
        self._keep = len(self._steps) if keep is None else self._after[min(keep, len(script.passes))]

    def size(self, scale: float) -> tuple[int, int]:
        """Width and height of the whole print at a scale."""
        return size_at(self.source, scale)

    def region(self, rect: Rect, scale: float = 1.0, upto: int | None = None) -> Planes:
        """Planes ``(1 or 3, rect.height, rect.width)``, encoded 0…1, of a region of the print at ``scale``.

        Parameters
        ----------
        rect : region in pixels of the print at that scale; must lie within it and not be empty.
        scale : above 0 up to 1; 1 gives the photograph's own pixels.
        upto : number of passes to run; None for all, 0 for the photograph itself.

        Raises ValueError for a region outside the print or a scale out of range.
        """
        if not 0 < scale <= 1:
            raise ValueError(f"a print is rendered at a scale above 0 up to 1, not {scale}")
        if rect.clipped(*self.size(scale)) != rect or rect.width < 1 or rect.height < 1:
            raise ValueError(f"{rect} does not lie within the print of {self.size(scale)} pixels")
        return self._area(self._after[-1 if upto is None else upto], rect, scale)

    def tile(self, tx: int, ty: int, scale: float, upto: int | None = None) -> Planes:
        """The tile in column ``tx`` and row ``ty``; smaller at the print's right and lower rim. Needs a cache."""
        return self._tile(self._after[-1 if upto is None else upto], tx, ty, scale)

    def wedge(self, start: int = 0) -> Planes:
        """What 256 even grays become from pass ``start`` to the end of the run: planes ``(1 or 3, 1, 256)``.

        Passes that look at a neighbourhood have no meaning on a wedge and are left out.
        """
        planes = np.linspace(0, 1, 256, dtype=np.float32).reshape(1, 1, 256)
        for step in range(self._after[start] + 1, len(self._steps) + 1):
            one = self._steps[step - 1][1]
            if one.margin(256.0):
                continue
            top = one.apply(planes, Place(Rect(0, 0, 256, 1), 1.0, 256.0, self._measured(step)))
            planes = blend.blend(planes, top, one.blend, one.strength / 100)
        return planes

    def tile_rect(self, tx: int, ty: int, scale: float) -> Rect:
        """Where a tile lies."""
        return Rect(tx * TILE, ty * TILE, TILE, TILE).clipped(*self.size(scale))

    def is_cached(self, tx: int, ty: int, scale: float, upto: int | None = None) -> bool:
        """Whether a tile is there without any work."""
        step = self._after[-1 if upto is None else upto]
        return self.cache is not None and self.cache.get((self._chain(step), scale, tx, ty)) is not None

    def _chain(self, step: int) -> int:
        return self._steps[step - 1][0] if step else 0

    def _area(self, step: int, rect: Rect, scale: float) -> Planes:
        """A region after ``step`` acting passes."""
        if self.cache is None:
            return self._run(step, rect, scale)
        columns = range(rect.x // TILE, (rect.right - 1) // TILE + 1)
        rows = range(rect.y // TILE, (rect.bottom - 1) // TILE + 1)
        tiles = {(tx, ty): self._tile(step, tx, ty, scale) for ty in rows for tx in columns}
        if len(tiles) == 1 and (only := next(iter(tiles.values()))).shape[1:] == (rect.height, rect.width):
            return only
        out = np.empty((max(len(t) for t in tiles.values()), rect.height, rect.width), np.float32)
        for (tx, ty), tile in tiles.items():
            x, y = tx * TILE - rect.x, ty * TILE - rect.y
            part = tile[:, max(0, -y) : rect.height - y, max(0, -x) : rect.width - x]
            out[:, max(0, y) : max(0, y) + part.shape[1], max(0, x) : max(0, x) + part.shape[2]] = part
        return out

    def _tile(self, step: int, tx: int, ty: int, scale: float) -> Planes:
        assert self.cache is not None
        key = (self._chain(step), scale, tx, ty)
        tile = self.cache.get(key)
        if tile is None:
            tile = self._run(step, self.tile_rect(tx, ty, scale), scale)
            if step <= self._keep:
                self.cache.put(key, tile)
        return tile

    def _run(self, step: int, rect: Rect, scale: float) -> Planes:
        """Work out a region: the last pass on what the passes before it give."""
        if step == 0:
            return read(self.source, rect, scale)
        one = self._steps[step - 1][1]
        width, height = self.size(scale)
        longer = float(max(width, height))
        margin = one.margin(longer)
        measured = self._measured(step)
        if not margin:
            base = self._area(step - 1, rect, scale)
            top = one.apply(base, Place(rect, scale, longer, measured))
            return blend.blend(base, top, one.blend, one.strength / 100)
        wide = rect.grown(margin)
        within = wide.clipped(width, height)
        base = self._area(step - 1, within, scale)
        beyond = ((within.y - wide.y, wide.bottom - within.bottom), (within.x - wide.x, wide.right - within.right))
        padded = np.pad(base, ((0, 0), *beyond), mode="edge")
        inner = (slice(None), slice(margin, margin + rect.height), slice(margin, margin + rect.width))
        top = np.ascontiguousarray(one.apply(padded, Place(wide, scale, longer, measured))[inner])
        return blend.blend(np.ascontiguousarray(padded[inner]), top, one.blend, one.strength / 100)

    def _measured(self, step: int) -> Any:
        """What the pass wants to know of the whole picture, from a small version of its input."""
        one = self._steps[step - 1][1]
        if type(one).measure is Pass.measure:
            return None
        chain = self._chain(step)
        known, value = self._chains.measured(chain)
        if not known:
            scale = min(1.0, math.sqrt(PROXY / (self.source.width * self.source.height)))
            value = one.measure(self._run(step - 1, Rect(0, 0, *self.size(scale)), scale))
            self._chains.keep_measure(chain, value)
        return value
