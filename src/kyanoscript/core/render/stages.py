"""A view in a drag: worked out pass by pass for all of it, each pass on several threads.

`Staged` gives the very pixels that `Renderer.region` gives. `Rough` gives up a little exactness for speed, for a view
that is gone with the next movement of the hand: what a wide pass looks at around a place is taken from the view itself,
reduced, or from a small print of the whole beside it, where the renderer would work out a coarser print of its own; and
blurs are made on coarser grids. Neither puts what it works out into the cache: it is seen once.
"""

from __future__ import annotations

import functools
import itertools
import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core import machine, smooth
from kyanoscript.core.geometry import Affine
from kyanoscript.core.picture import Planes, Rect
from kyanoscript.core.render import joined
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.chain import Chain
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.site import Place, View
from kyanoscript.core.stencil.ground import Ground
from kyanoscript.core.stencil.shapes import Hues, Tones

ShareOut = Callable[[Iterable[Any], Callable[[Any], None]], bool]  # work on every part; whether all was done
_NEARLY_ALL = 0.8  # of the print: then the nearest stands for what lies outside the view
_SMALL = 24_000  # pixels of the small print that lies beside a part of it
_HAIR = 1e-6  # pixels: what rounding leaves
_BAND = 20_000  # pixels of a band, at least: below that Python's share is the larger one
_ONCE = 64 << 20  # bytes of what bands share


@dataclass(frozen=True)
class _Stage:
    """What leaves a step, in a region."""

    rect: Rect
    planes: Planes

    def part(self, rect: Rect) -> Planes:
        x, y = rect.x - self.rect.x, rect.y - self.rect.y
        return np.ascontiguousarray(self.planes[:, y : y + rect.height, x : x + rect.width])


@dataclass(frozen=True)
class Beside:
    """A small print of the whole, for what lies outside a view."""

    scale: float
    steps: int  # of the run
    stages: dict[int, _Stage]


class Staged(Renderer):
    """Renders one view; the arguments are the renderer's, with ``keep`` the pass that is dragged."""

    rough = False

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self._stages: dict[tuple[int, float], _Stage] = {}  # by what stands for the run so far, and scale
        self._once = TileCache(_ONCE)
        self._region = Rect(0, 0, 1, 1)  # what is being worked out, in bands

    def view(self, rect: Rect, scale: float, share_out: ShareOut) -> Planes | None:
        """As `region`; None if ``share_out``, which works on parts with helpers, says that not all was done."""
        self._check(rect, scale)
        return self._through(rect, scale, self._entering, share_out)

    @property
    def _entering(self) -> int:
        """The last step that is kept: what enters the dragged pass."""
        count = len(self._run_of.links)
        return next((k for k in range(count, -1, -1) if not self._passing(self._run_of, k)), 0)

    def _through(self, rect: Rect, scale: float, first: int, share_out: ShareOut) -> Planes | None:
        """From step ``first`` to the end of the run."""
        self._whole = scale
        for stop, region in self._stops(rect, scale, first):
            if not self._stage(stop, region, scale, share_out):
                return None
        return self._stages[self._run_of.key(len(self._run_of.links)), scale].planes

    def _stage(self, stop: int, region: Rect, scale: float, share_out: ShareOut) -> bool:
        """Have what leaves a step; False if it was given up."""
        made: dict[int, Planes] = {}
        chain = self._run_of
        work_out = self._pushed if stop and self._passing(chain, stop) else self._area

        def work(part: Rect) -> None:
            made[part.y] = work_out(chain, stop, part, scale)

        self._region = region
        if not share_out(self._bands(region), work):
            return False
        rows = [made[y] for y in sorted(made)]
        if len(rows) == 1:
            self._stages[chain.key(stop), scale] = _Stage(region, rows[0])
            return True
        out = np.empty((max(len(part) for part in rows), region.height, region.width), np.float32)
        y = 0
        for part in rows:
            out[:, y : y + part.shape[1]] = part
            y += part.shape[1]
        self._stages[chain.key(stop), scale] = _Stage(region, out)
        return True

    def _bands(self, region: Rect) -> list[Rect]:
        """As many bands of whole rows as there are processors."""
        count = max(1, min(machine.processors(), region.width * region.height // _BAND))
        edges = [region.y + region.height * k // count for k in range(count + 1)]
        return [Rect(region.x, top, region.width, bottom - top) for top, bottom in itertools.pairwise(edges)]

    def _stops(self, rect: Rect, scale: float, first: int) -> list[tuple[int, Rect]]:
        """Where the run is halted, and which region is needed there: before what looks around, and at its end."""
        chain = self._run_of
        stops, region = {len(chain.links): rect}, rect
        for k in range(len(chain.links), first, -1):
            if self._halted(chain, k):
                region = region.grown(self._reach(chain, k, scale)).clipped(*self.size(scale))
                stops.setdefault(k - 1, region)
        stops.setdefault(first, region)
        return sorted(stops.items())

    def _halted(self, chain: Chain, upto: int) -> bool:
        """Whether all that enters a step must be there before it can begin."""
        return not self._simple(chain, upto) or self._wants_all(chain, upto)

    def _reach(self, chain: Chain, upto: int, scale: float) -> int:
        """Pixels around a region that a step looks at, those of a plate's own run among them."""
        here = chain.links[upto - 1]
        if here.plate is None:
            return here.step.margin(self._longer(scale))
        return sum(self._reach(here.plate, k + 1, scale) for k in range(len(here.plate.links)))

    def _known(self, chain: Chain, upto: int, scale: float) -> bool:
        return (chain.key(upto), scale) in self._stages

    def _area(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        known = self._stages.get((chain.key(upto), scale))
        if known is not None and known.rect.holds(rect):
            return known.part(rect)
        return super()._area(chain, upto, rect, scale)

    def _place(self, chain: Chain, upto: int, rect: Rect, scale: float, margin: int) -> Place:
        place = super()._place(chain, upto, rect, scale, margin)
        if scale != self._whole or not self._region.holds(rect):
            return place
        return replace(place, view=View(self._region, self._once.make, self.rough))


class Rough(Staged):
    """Renders one view a little less exactly. ``rested``: the `keys` of the run when the hand last rested.

    What passes have found in the picture then (damage, where colours lie) serves until it rests again.
    """

    def __init__(self, *args: Any, rested: Sequence[int] = (), **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        same = len(rested) == len(self.keys)
        self._at_rest = dict(zip(self.keys, rested, strict=True)) if same else {}

    rough = True
    _halts = False  # after every pass
    _rest = 0.0  # the scale of the view when the hand rests: what is coarser is reduced by areas, as it is quick
    beside: Beside | None = None  # the small print of the whole, once `roughly` has been called for a part

    def roughly(self, rect: Rect, scale: float, fine: float, beside: Beside | None = None) -> Planes:
        """A region at ``scale``, on one thread: the next picture of the drag may be worked out on another meanwhile.

        ``fine`` is the scale that the view has at rest: what is kept of it there serves. Of a part of the print, a
        small print of the whole is worked out beside it, unless that of a former picture of the drag is handed in: it
        tells what lies outside the view, and may lag behind a little.
        """
        self._check(rect, scale)
        self._rest = fine
        width, height = self.size(scale)
        small = min(scale, math.sqrt(_SMALL / (self.framing.width * self.framing.height)))
        if small < scale and rect.width * rect.height < _NEARLY_ALL * width * height:
            if beside is None or beside.steps != len(self._run_of.links) or beside.scale != small:
                self._from_what_enters(Rect(0, 0, *self.size(small)), small, small)
            else:
                self._stages.update({(self._run_of.key(stop), small): stage for stop, stage in beside.stages.items()})
            chain = self._run_of
            there = {stop: self._stages.get((chain.key(stop), small)) for stop in range(len(chain.links) + 1)}
            self.beside = Beside(small, len(chain.links), {stop: s for stop, s in there.items() if s is not None})
        return self._from_what_enters(rect, scale, fine)

    def at_hand(self, rect: Rect, scale: float, fine: float) -> bool:
        """Whether what enters the dragged pass is there at ``scale``, or quickly had from what is kept at rest."""
        self._whole = scale
        region = dict(self._stops(rect, scale, self._entering))[self._entering]
        key = ("entering", self._run_of.key(self._entering), scale, region)
        return self._tiles.get(key) is not None or self._kept_finer(region, scale, fine)

    def every(self, scale: float) -> list[Planes]:
        """The whole print after each pass of the script, the framed photograph first."""
        self._halts = True
        whole = Rect(0, 0, *self.size(scale))
        self._from_what_enters(whole, scale, scale)
        chain = self._run_of
        return [self._area(chain, after, whole, scale) for after in chain.after]

    def _from_what_enters(self, rect: Rect, scale: float, fine: float) -> Planes:
        entering = self._entering
        self._whole = scale
        region = dict(self._stops(rect, scale, entering))[entering]
        key = self._run_of.key(entering)
        planes = self._tiles.make(
            ("entering", key, scale, region), lambda: self._entered(entering, region, scale, fine)
        )  # for every picture of the drag
        self._stages[key, scale] = _Stage(region, planes)
        planes = self._through(rect, scale, entering, _alone)
        assert planes is not None
        return planes

    def _entered(self, entering: int, region: Rect, scale: float, fine: float) -> Planes:
        """What enters the dragged pass: reduced from what is kept of it at the scale of rest, if it is."""
        if self._kept_finer(region, scale, fine):
            self._whole = fine
            planes = super()._area(self._run_of, entering, self._finer(region, scale, fine), fine)
            self._whole = scale
            return _reduced_as_light(planes, region.width, region.height)
        return super()._area(self._run_of, entering, region, scale)

    def _kept_finer(self, region: Rect, scale: float, fine: float) -> bool:
        return fine > scale and self.is_cached(self._finer(region, scale, fine), fine, self._entering)

    def _finer(self, region: Rect, scale: float, fine: float) -> Rect:
        """Where a region lies at the scale of rest."""
        across, down = (a / b for a, b in zip(self.size(fine), self.size(scale), strict=True))
        x, y = round(region.x * across), round(region.y * down)
        right, bottom = round(region.right * across), round(region.bottom * down)
        return Rect(x, y, right - x, bottom - y).clipped(*self.size(fine))

    def _bands(self, region: Rect) -> list[Rect]:
        return [region]

    def _looked_at(self, scale: float) -> bool:
        return scale == self._rest

    def _pushed(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        first = self._first(chain, upto, scale)
        known = self._stages.get((chain.key(first), scale))
        if upto - first < 2 or known is None or not known.rect.holds(rect) or not joined.fits(known.planes):
            return super()._pushed(chain, upto, rect, scale)

        def passes(planes: Planes) -> Planes:
            place = Rect(0, 0, planes.shape[2], planes.shape[1])
            for k in range(first + 1, upto + 1):
                planes = self._step(chain, k, planes, place, 1.0)
            return planes

        make = functools.partial(joined.table, passes, known.planes)
        (table,) = self._once.make(("joined", chain.key(first), chain.key(upto)), lambda: (make(),))
        if table is None:
            return super()._pushed(chain, upto, rect, scale)
        return joined.through(known.part(rect), table)

    def _area(self, chain: Chain, upto: int, rect: Rect, scale: float) -> Planes:
        if self._passing(chain, upto):
            known = self._stages.get((chain.key(upto), scale))
            if known is not None:  # a few pixels around the view that reducing asks for: the nearest stand for them
                return known.part(rect) if known.rect.holds(rect) else _repeated(known.planes, known.rect, rect)
            found = self._reduced(chain.key(upto), rect, scale) if scale != self._whole else None
            if found is not None:
                return found
        return super()._area(chain, upto, rect, scale)

    def _reduced(self, key: int, rect: Rect, scale: float) -> Planes | None:
        """A region at another scale, of what is there of this step: the view, on the small print of the whole."""
        there = sorted((at for k, at in self._stages if k == key))
        out: Planes | None = None
        for at in there:
            stage = self._stages[key, at]
            across, down = (a / b for a, b in zip(self.size(scale), self.size(at), strict=True))
            if out is None and across > 1:
                out = _looked_up(stage, rect, across, down)
                continue
            box, inside = _whole_pixels(stage.rect, across, down)
            if inside is None:
                continue
            reduce = functools.partial(_reduced_as_light, stage.part(inside), box.width, box.height)
            part = self._once.make(("reduced", key, at, scale), reduce)
            if out is None:
                out = _repeated(part, box, rect)
            else:
                _put(part, box, out, rect)
        return out

    def _proxy(self, chain: Chain, upto: int) -> Planes:
        for (key, at), stage in self._stages.items():
            if key == chain.key(upto - 1) and stage.rect == Rect(0, 0, *self.size(at)):
                return stage.planes
        return super()._proxy(chain, upto)

    def _halted(self, chain: Chain, upto: int) -> bool:
        return self._halts or super()._halted(chain, upto)

    def _masked(self, where: Any, chain: Chain, upto: int, rect: Rect, scale: float) -> NDArray[np.float32]:
        def make() -> NDArray[np.float32]:
            return super(Rough, self)._masked(where, chain, upto, rect, scale)

        changing = upto <= self._entering or any(isinstance(shape, Tones | Hues) for shape in where.shapes)
        return make() if changing else self._tiles.make(("mask", where, self.framing, scale, rect), make)

    def _ground(self, chain: Chain, upto: int, scale: float) -> Ground:
        return replace(super()._ground(chain, upto, scale), memo=functools.partial(self._found, chain.key(upto)))

    def _found(self, enters: int, key: tuple[Any, ...], make: Callable[[], Any]) -> Any:
        """What was found when the hand last rested, if anything was; else what is found now, and that apart."""
        under, rested = self._found_under(enters), self._at_rest.get(enters)
        if under != enters and rested is not None:
            found = self._findings.get(tuple(rested if part == under else part for part in key))
            if found is not None:
                return found
        return self._findings.make(key, make)

    def _found_under(self, key: int) -> int:
        return key if self._keep is not None and key in self._keep else -key


def _alone(parts: Iterable[Any], work: Callable[[Any], None]) -> bool:
    """Work on every part in this thread."""
    for part in parts:
        work(part)
    return True


def _reduced_as_light(planes: Planes, width: int, height: int) -> Planes:
    """Planes at another size, by areas and very nearly in light, as a photograph is: squares are close to it."""
    return np.sqrt(smooth.resized(planes * np.abs(planes), width, height).clip(0))


def _whole_pixels(lies: Rect, across: float, down: float) -> tuple[Rect, Rect | None]:
    """Which pixels of a coarser grid a region holds wholly, and the part of it that they are; None: there is none."""
    x, y = math.ceil(lies.x * across - _HAIR), math.ceil(lies.y * down - _HAIR)
    box = Rect(x, y, math.floor(lies.right * across + _HAIR) - x, math.floor(lies.bottom * down + _HAIR) - y)
    if box.width < 1 or box.height < 1:
        return box, None
    return box, box.scaled(1 / across, 1 / down).clipped_to(lies)


def _looked_up(stage: _Stage, rect: Rect, across: float, down: float) -> Planes:
    """A region of a larger grid, straight from one pixel to the next."""
    x, y = (rect.x + 0.5) / across - 0.5 - stage.rect.x, (rect.y + 0.5) / down - 0.5 - stage.rect.y
    where = Affine(1 / across, 0.0, x, 0.0, 1 / down, y)
    return smooth.looked_up(stage.planes, where, rect.width, rect.height)


def _repeated(planes: Planes, box: Rect, rect: Rect) -> Planes:
    """What lies on ``box``, in ``rect``; outside the nearest is repeated."""
    rows = np.clip(np.arange(rect.y, rect.bottom) - box.y, 0, box.height - 1)
    columns = np.clip(np.arange(rect.x, rect.right) - box.x, 0, box.width - 1)
    return np.ascontiguousarray(planes[:, rows[:, None], columns])


def _put(planes: Planes, box: Rect, onto: Planes, rect: Rect) -> None:
    """Put what lies on ``box`` onto what lies on ``rect``."""
    x0, x1 = max(box.x, rect.x), min(box.right, rect.right)
    y0, y1 = max(box.y, rect.y), min(box.bottom, rect.bottom)
    if x1 > x0 and y1 > y0:
        onto[:, y0 - rect.y : y1 - rect.y, x0 - rect.x : x1 - rect.x] = planes[
            :, y0 - box.y : y1 - box.y, x0 - box.x : x1 - box.x
        ]
