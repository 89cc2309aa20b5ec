"""Pixels of any region at any scale: each pass asks the one before it for what it needs.

With a cache, work is done in square tiles that are kept: a change to one pass renders that pass and the ones after it,
for the tiles on screen. Without one (export) a region is pushed through the whole run in one go; only the coarse
pictures that wide passes look at are kept, within a small bound. Both give the same pixels, whatever the tiles and
however many threads ask.
"""

from __future__ import annotations

import math
import sys
import threading
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import blend, smooth
from kyanoscript.core.develop import developed
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes.base import Pass, Rim
from kyanoscript.core.passes.plate.plate import Plate
from kyanoscript.core.picture import Planes, Reading, Rect, Source
from kyanoscript.core.render.bases import Library, Placed, flat, read_framed
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.chain import Chain, Link, alone, planes_after
from kyanoscript.core.script import MOST_PASSES, Script
from kyanoscript.core.site import Place
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.mask import mask
from kyanoscript.core.watching import Watch, breathe, unwatched
from kyanoscript.translation import tr

TILE = 384  # pixels: of 256, 384 and 512 the quickest under a slider, where Python's share of a tile counts
COARSE_TILE = 192  # pixels: of coarse pictures, where a view needs little more than its own part
PROXY = 1_000_000  # pixels of the small version that measures are taken from
_COARSE = 48 << 20  # bytes of coarse pictures kept while exporting
_FINDINGS = 96 << 20  # bytes of what passes have found of the whole picture kept while exporting
NOTHING = -1  # of the run is kept
_CHUNK = 80_000  # pixels that pointwise passes take in one go: about what a core's own cache holds

# A pass asks for what enters it, and that for what enters it: as deep as a script may be long.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 20 * MOST_PASSES))


class Renderer:
    """Renders one script on one source. Cheap to make; share the cache between renderers of the same source.

    `region` and `tile` may be called from several threads at once. With ``keep``, only what enters pass ``keep`` and
    what lies before it goes into the cache: while a control is dragged, each of its values is seen once; with `NOTHING`
    no tile does. ``watch`` hears of work that takes seconds, and may end it by raising. ``reading``: how the photograph
    is reduced to the scale that is asked for; what only helps is always measured by areas.
    """

    def __init__(
        self,
        source: Source,
        script: Script,
        cache: TileCache | None = None,
        keep: int | None = None,
        library: Library | None = None,
        watch: Watch = unwatched,
        reading: Reading = Reading.MEASURED,
    ) -> None:
        self.source = source = developed(source, script.develop)
        self.space = source.space  # what planes mean, from the photograph to the print
        self.script = script = script.settled()
        self.cache = cache
        self.framing = framing(script.frame, source.width, source.height)
        self._tiles = cache or TileCache(_COARSE)
        self._findings = cache or TileCache(_FINDINGS)  # what took long to find is not pushed out by tiles
        self._library = library
        self._reading = reading
        self._watch = watch
        self._whole = 1.0  # the scale that is looked at; what is coarser only helps, and is always kept
        self._under = threading.local()
        self._sizes: dict[float, tuple[int, int]] = {}  # asked for so often that it counts
        self._lengths: dict[float, float] = {}
        self._start = self._tiles.chain(0, (self.framing, script.develop))
        self._run_of = run = self._chain(script.passes, self._photo, self._start, source.channels)
        self._keep: set[int] | None = None
        if keep is not None:
            kept = run.after[min(keep, len(script.passes))] + 1 if keep >= 0 else 0
            self._keep = {run.key(k) for k in range(kept)}

    def _chain(
        self,
        passes: tuple[Pass, ...],
        base: Callable[[Rect, float], Planes],
        key: int,
        planes: int,
        borrows: bool = False,
    ) -> Chain:
        chain = Chain(base, key, planes, borrows)
        ended = False
        for step in passes:
            if step.acts and not ended:
                ended = step.ends
                if step.name or step.note:  # words change no pixel
                    step = step.model_copy(update={"name": "", "note": "", "id": ""})
                plate = outline = None
                if isinstance(step, Plate):
                    plate, outline = self._plate(step, chain, len(chain.links))
                if not isinstance(step, Plate) or plate is not None:
                    # A plate's picture may change while its name stays: what the plate starts from is part of the key.
                    key = self._tiles.chain(key, (step, plate.base_key) if plate else step)
                    chain.links.append(Link(key, step, plate, outline))
                    chain.planes.append(planes_after(step, chain.planes[-1], plate))
            chain.after.append(len(chain.links))
        return chain

    # What there is

    @property
    def planes(self) -> int:
        """How many planes the whole print has: 1 if it is sure to be gray, else 3."""
        return self._run_of.planes[-1]

    @property
    def keys(self) -> tuple[int, ...]:
        """What stands for the run so far, after each acting pass; equal runs on one cache have equal ones."""
        return tuple(self._run_of.key(k) for k in range(len(self._run_of.links) + 1))

    @property
    def looks_around(self) -> bool:
        """Whether any pass looks at more than each pixel itself."""
        return any(not self._simple(self._run_of, upto + 1) for upto in range(len(self._run_of.links)))

    def size(self, scale: float) -> tuple[int, int]:
        """Width and height of the whole print at a scale."""
        known = self._sizes.get(scale)
        if known is None:
            known = self._sizes[scale] = self.framing.size(scale)
        return known

    def region(self, rect: Rect, scale: float = 1.0, upto: int | None = None) -> Planes:
        """Planes ``(1 or 3, rect.height, rect.width)``, encoded 0…1, of a region of the print at ``scale``.

        Parameters
        ----------
        rect : region in pixels of the print at that scale; must lie within it and not be empty.
        scale : above 0 up to 1; 1 gives the photograph's own pixels.
        upto : number of passes to run; None for all, 0 for the framed photograph.

        Raises ValueError for a region outside the print or a scale out of range.
        """
        self._check(rect, scale)
        self._whole = scale
        return self._area(self._run_of, self._run_of.after[-1 if upto is None else upto], rect, scale)

    def stencil(self, index: int, rect: Rect, scale: float = 1.0) -> Planes:
        """Where pass ``index`` acts in a region, as a gray plane ``(1, h, w)``: white where it acts fully."""
        self._check(rect, scale)
        self._whole = scale
        where = self.script.passes[index].where
        if where is None:
            return np.ones((1, rect.height, rect.width), np.float32)
        return self._masked(where, self._run_of, self._run_of.after[index], rect, scale)[None]

    def _check(self, rect: Rect, scale: float) -> None:
        if not 0 < scale <= 1:
            raise ValueError(tr("a print is rendered at a scale above 0 up to 1, not {scale}", scale=scale))
        if rect.clipped(*self.size(scale)) != rect or rect.width < 1 or rect.height < 1:
            raise ValueError(
                tr("{rect} does not lie within the print of {scale} pixels", rect=rect, scale=self.size(scale))
            )

    def tile(self, tx: int, ty: int, scale: float, upto: int | None = None) -> Planes:
        """The tile in column ``tx`` and row ``ty``; smaller at the print's right and lower rim. Needs a cache."""
        self._whole = scale
        return self._tile(self._run_of, self._run_of.after[-1 if upto is None else upto], tx, ty, scale, TILE)

    def wedge(self, start: int = 0) -> Planes:
        """What 256 even grays become from pass ``start`` to the end of the run: planes ``(1 or 3, 1, 256)``.

        Passes that look at a neighbourhood have no meaning on a wedge and are left out; stencils are taken off.
        """
        planes = np.linspace(0, 1, 256, dtype=np.float32).reshape(1, 1, 256)
        chain = self._run_of
        for upto in range(chain.after[start] + 1, len(chain.links) + 1):
            step = self._settled(chain, upto)
            if not alone(step):
                continue
            before = tuple(link.step for link in chain.links[: upto - 1])
            place = Place(Rect(0, 0, 256, 1), 1.0, 256.0, self._measured(chain, upto), space=self.space, before=before)
            top = step.apply(planes, place)
            planes = blend.blend(planes, top, step.blend, step.strength / 100)
        return planes

    def settled(self, index: int) -> Pass:
        """Pass ``index`` with the values that it takes from the picture in their places."""
        before = self._run_of.after[index]
        acting = self._run_of.after[index + 1] > before
        return self._settled(self._run_of, before + 1) if acting else self.script.passes[index]

    def found(self, index: int, what: str, make: Callable[[Planes], Any]) -> Any:
        """``what`` is made of a small version of all that enters pass ``index``; it is kept."""
        before = self._run_of.after[index]
        key = what, self._found_under(self._run_of.key(before))
        return self._findings.make(key, lambda: (make(self._small(self._run_of, before)),))[0]

    def is_cached(self, rect: Rect, scale: float, upto: int | None = None) -> bool:
        """Whether the tiles under a region are there without any work."""
        key = self._run_of.key(len(self._run_of.links) if upto is None else upto)
        return self.cache is not None and all(
            self.cache.get((key, scale, TILE, tx, ty)) is not None for tx, ty in rect.tiles(TILE)
        )

    # How it is worked out

    def _area(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        """A region after ``upto`` acting passes."""
        if upto == 0 and chain.borrows:
            return chain.base(rect, scale)
        if scale == self._whole and self._passing(chain, upto):
            return self._pushed(chain, upto, rect, scale)
        side = TILE if self._looked_at(scale) else COARSE_TILE
        tiles = {(tx, ty): self._tile(chain, upto, tx, ty, scale, side) for tx, ty in rect.tiles(side)}
        if len(tiles) == 1 and (only := next(iter(tiles.values()))).shape[1:] == (rect.height, rect.width):
            return only
        out = np.empty((max(len(t) for t in tiles.values()), rect.height, rect.width), np.float32)
        for (tx, ty), tile in tiles.items():
            x, y = tx * side - rect.x, ty * side - rect.y
            part = tile[:, max(0, -y) : rect.height - y, max(0, -x) : rect.width - x]
            out[:, max(0, y) : max(0, y) + part.shape[1], max(0, x) : max(0, x) + part.shape[2]] = part
        return out

    def _passing(self, chain: Chain, upto: int) -> bool:
        """Whether what leaves a step is seen once and not kept."""
        return self.cache is None or (self._keep is not None and chain.key(upto) not in self._keep)

    def _looked_at(self, scale: float) -> bool:
        """Whether pictures of a scale are to be seen, and do not only help."""
        return scale == self._whole

    def _known(self, chain: Chain, upto: int, scale: float) -> bool:
        """Whether what leaves a step at a scale is there already, in no tiles."""
        return False

    def _tile(self, chain: Chain, upto: int, tx: int, ty: int, scale: float, side: int) -> Planes:
        work = self._pushed if self._passing(chain, upto) else self._run
        rect = Rect(tx * side, ty * side, side, side).clipped(*self.size(scale))
        return self._tiles.make((chain.key(upto), scale, side, tx, ty), lambda: work(chain, upto, rect, scale))

    def _pushed(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        """A region through the whole run; pointwise passes in a row take it in chunks that stay in the cache."""
        first = self._first(chain, upto, scale)
        if first == upto:
            return self._run(chain, upto, rect, scale)
        seen_once = self._passing(chain, first) and not self._known(chain, first, scale)
        whole = self._run if seen_once else self._area
        rows = max(4, _CHUNK // rect.width)
        if rows >= rect.height:
            planes = whole(chain, first, rect, scale)
            for k in range(first + 1, upto + 1):
                planes = self._step(chain, k, planes, rect, scale)
            return planes
        base = whole(chain, first, rect, scale) if first or whole == self._area else None
        out: Planes | None = None
        for y in range(0, rect.height, rows):
            part = Rect(rect.x, rect.y + y, rect.width, min(rows, rect.height - y))
            if base is None:
                planes = self._run(chain, 0, part, scale)
            else:
                planes = np.ascontiguousarray(base[:, y : y + part.height])
            for k in range(first + 1, upto + 1):
                planes = self._step(chain, k, planes, part, scale)
            if out is None or len(out) < len(planes):
                grown = np.empty((len(planes), rect.height, rect.width), np.float32)
                if out is not None:
                    grown[:, :y] = out[:, :y]
                out = grown
            out[:, y : y + part.height] = planes
        assert out is not None
        return out

    def _first(self, chain: Chain, upto: int, scale: float) -> int:
        """Where the pointwise passes in a row begin that end with a step and are seen once."""
        first = upto
        while first > 0 and self._simple(chain, first) and self._passing(chain, first):
            first -= 1
            if self._known(chain, first, scale):
                break
        return first

    def _simple(self, chain: Chain, upto: int) -> bool:
        """Whether a step looks at nothing but each pixel itself."""
        step = chain.links[upto - 1].step
        return alone(step) and step.where is None

    def _run(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        """A region: the last pass on what the passes before it give."""
        if upto == 0:
            return chain.base(rect, scale)
        step = chain.links[upto - 1].step
        margin = step.margin(self._longer(scale))
        if not margin:
            return self._step(chain, upto, self._area(chain, upto - 1, rect, scale), rect, scale)
        wide = rect.grown(margin)
        padded = self._padded(chain, upto - 1, wide, scale, step.rim)
        return self._step(chain, upto, padded, rect, scale, wide)

    def _step(
        self, chain: Chain, upto: int, planes: Planes, rect: Rect, scale: float, wide: Rect | None = None
    ) -> Planes:
        """One pass on its input, which lies on ``wide`` if that is given."""
        breathe()
        here = chain.links[upto - 1]
        step = self._settled(chain, upto)
        mask = None if step.where is None else self._masked(step.where, chain, upto - 1, rect, scale)
        margin = 0 if wide is None else rect.x - wide.x
        base = np.ascontiguousarray(planes[:, margin : margin + rect.height, margin : margin + rect.width])
        if mask is not None and not mask.any():
            return base
        if here.plate is not None:
            if here.outline is not None:
                alpha = self._area(here.outline, len(here.outline.links), rect, scale)[0]
                mask = alpha if mask is None else mask * alpha
                if not mask.any():
                    return base
            outer, self._under.plate = getattr(self._under, "plate", None), (chain.key(upto - 1), scale, rect, base)
            try:
                top = self._area(here.plate, len(here.plate.links), rect, scale)
            finally:
                self._under.plate = outer
        else:
            top = step.apply(planes, self._place(chain, upto, rect, scale, margin))
        over = blend.blend(base, top, step.blend, step.strength / 100)
        return over if mask is None else blend.through(base, over, np.ascontiguousarray(mask))

    def _place(self, chain: Chain, upto: int, rect: Rect, scale: float, margin: int) -> Place:
        def look(region: Rect, factor: int, margin: int) -> smooth.Coarse:
            ground = self._ground(chain, upto - 1, scale)
            wide, across, down = ground.around(region, factor, margin)
            rim = chain.links[upto - 1].step.rim
            return smooth.Coarse(self._padded(chain, upto - 1, wide, scale / factor, rim), wide.x, wide.y, across, down)

        measured = self._measured(chain, upto)
        ground = self._ground(chain, upto - 1, scale)
        find = self._library.find if self._library is not None else None
        under = self._found_under(chain.key(upto - 1))
        before = tuple(link.step for link in chain.links[: upto - 1])
        return Place(rect, scale, self._longer(scale), measured, margin, look, ground, find, under, self.space, before)

    def _longer(self, scale: float) -> float:
        """The photograph's longer side in pixels at a scale."""
        known = self._lengths.get(scale)
        if known is None:
            known = self._lengths[scale] = max(self.framing.photo) / self.framing.at(scale).size
        return known

    def _padded(self, chain: Chain, upto: int, wide: Rect, scale: float, rim: Rim = "edge") -> Planes:
        """A region that may reach outside the print, where its rim is repeated, or the print mirrored at it."""
        width, height = self.size(scale)
        inside = wide.clipped(width, height)
        if inside.width < 1 or inside.height < 1:  # wholly outside: its nearest row or column
            x, y = min(max(wide.x, 0), width - 1), min(max(wide.y, 0), height - 1)
            inside = Rect(x, y, max(1, inside.width), max(1, inside.height))
        base = self._area(chain, upto, inside, scale)
        if inside == wide:
            return np.ascontiguousarray(base)
        before = max(0, inside.y - wide.y), max(0, inside.x - wide.x)
        after = max(0, wide.bottom - inside.bottom), max(0, wide.right - inside.right)
        padded = np.pad(base, ((0, 0), (before[0], after[0]), (before[1], after[1])), mode=rim)
        # Of a region wholly outside only the repeated rim is left.
        y, x = max(0, wide.y - inside.y), max(0, wide.x - inside.x)
        return np.ascontiguousarray(padded[:, y : y + wide.height, x : x + wide.width])

    # Stencils

    def ground(self, scale: float) -> Ground:
        """Where the print lies on its photograph, at a scale."""
        return self._ground(self._run_of, 0, scale)

    def _ground(self, chain: Chain, upto: int, scale: float) -> Ground:
        def inputs(of: str, rect: Rect, at: float) -> Planes:
            if of == "photo":
                return self._padded(self._run_of, 0, rect, at)
            return self._padded(chain, upto, rect, at)

        return Ground(
            self.framing,
            scale,
            inputs,
            self._findings.make,
            self._keep is not None,
            self._watch,
            self.space,
            self._infrared,
        )

    def _masked(self, where: Any, chain: Chain, upto: int, rect: Rect, scale: float) -> NDArray[np.float32]:
        return mask(where, rect, self._ground(chain, upto, scale))

    # Measures

    def _measured(self, chain: Chain, upto: int) -> Any:
        """What the pass wants to know of the whole picture, from a small version of its input."""
        step = chain.links[upto - 1].step
        if type(step).measure is Pass.measure:
            return None
        key = "measure", self._found_under(chain.key(upto))
        return self._findings.make(key, lambda: (step.measure(self._proxy(chain, upto)),))[0]

    def _settled(self, chain: Chain, upto: int) -> Pass:
        """The pass of a step, its automatic values in their places."""
        step = chain.links[upto - 1].step
        if not step.auto:
            return step
        key = "suggest", self._found_under(chain.key(upto))
        values = self._findings.make(
            key, lambda: (step.suggest(self._proxy(chain, upto), self.framing, self.space, self._watch),)
        )[0]  # fmt: skip
        return step.model_copy(update=values)

    def _wants_all(self, chain: Chain, upto: int) -> bool:
        """Whether a step has to know something of the whole picture."""
        step = chain.links[upto - 1].step
        return step.auto or type(step).measure is not Pass.measure

    def _found_under(self, key: int) -> int:
        """What stands, in what passes have found, for a run so far."""
        return key

    def _proxy(self, chain: Chain, upto: int) -> Planes:
        """A small version of what comes into a step: always of the same size, so that preview and export agree."""
        return self._small(chain, upto - 1)

    def _small(self, chain: Chain, upto: int) -> Planes:
        scale = math.sqrt(PROXY / (self.framing.width * self.framing.height))
        scale = math.nextafter(scale, 0) if scale < 1 else 1.0  # one that nobody looks at: reduced to be measured
        return self._area(chain, upto, Rect(0, 0, *self.size(scale)), scale)

    # Bases

    def _photo(self, rect: Rect, scale: float) -> Planes:
        """The framed photograph."""
        how = self._reading if self._looked_at(scale) else Reading.MEASURED
        return read_framed(self.source, self.framing, rect, scale, how)

    @property
    def _infrared(self) -> Callable[[Rect, float], Planes] | None:
        """The framed infrared of a scan that has any."""
        found: Source | None = getattr(self.source, "infrared", None)
        return None if found is None else lambda rect, scale: read_framed(found, self.framing, rect, scale)

    def _plate(self, step: Plate, chain: Chain, upto: int) -> tuple[Chain | None, Chain | None]:
        """What a plate prints, and its outline; (None, None) if its picture is not there."""
        if step.source == "print":
            planes = chain.planes[upto]

            def print_so_far(rect: Rect, scale: float) -> Planes:
                # What the plate is printed on has just been worked out for this very region.
                known: tuple[int, float, Rect, Planes] | None = getattr(self._under, "plate", None)
                if known is not None and known[:2] == (chain.key(upto), scale):
                    lies, under = known[2:]
                    if lies.holds(rect):
                        x, y = rect.x - lies.x, rect.y - lies.y
                        return np.ascontiguousarray(under[:, y : y + rect.height, x : x + rect.width])
                return self._area(chain, upto, rect, scale)

            return self._chain(step.run, print_so_far, chain.key(upto), planes, borrows=True), None
        if step.source == "photo":
            return self._chain(step.run, self._photo, self._start, self.source.channels), None
        if step.source == "flat":
            start = self._tiles.chain(0, ("flat", step.tone))
            return self._chain(step.run, lambda r, s: flat(step.tone, self.space, r), start, 3), None
        picture = self._library.find(step.picture) if self._library is not None else None
        if picture is None:
            return None, None
        placed = Placed(picture, step, self.framing, self.space)
        start = self._tiles.chain(0, ("picture", step.picture, id(picture), step.placing(), self.framing))
        shown = self._chain(step.run, placed.colours, start, picture.colours.channels)
        spreading = tuple(p for p in step.run if p.spreads)
        return shown, self._chain(spreading, placed.outline, self._tiles.chain(start, "outline"), 1)
