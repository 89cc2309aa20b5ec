"""Rendering off the interface thread: it is handed data and gives back pictures.

One thread waits for what is wanted; the latest request of each kind wins. A view is worked out tile by tile with a
helper thread beside it. While a slow view is being dragged, a coarse picture comes first. After the view, and at least
a few times a second during a drag, follows the survey: the small pictures under the run, the ladder's wedge and
histogram. Last come proofs, one at a time: small pictures of other scripts, for choosers. What takes seconds within a
pass gives way to a view that is waiting, and goes on after it where it stopped. Stencils have a thread of
their own, so that a brush's mark follows the hand however long the print takes.
"""

from __future__ import annotations

import itertools
import os
import threading
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor, wait
from dataclasses import dataclass, field
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal

from kyanoscript.core import colour, kernel
from kyanoscript.core.blend import in_colour
from kyanoscript.core.picture import Planes, Rect, Source, read, size_at, to_screen
from kyanoscript.core.render.bases import Library
from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.render.prepare import prepare
from kyanoscript.core.render.renderer import TILE, Renderer
from kyanoscript.core.script import Script
from kyanoscript.core.watching import GivenUp
from kyanoscript.files import log
from kyanoscript.files.errors import FileError

SURVEY_SIDE = 384  # pixels of the longer side of the small pictures
_SURVEY_PAUSE = 0.15  # seconds between surveys while views keep coming, at least
_SURVEY_SHARE = 6  # times as long as a survey took: a long run must not be slowed by its small pictures
_COARSE_OVER = 0.12  # seconds: a view expected to take longer is shown coarse first
_GIVE_UP_AFTER = 0.25  # seconds after which a view gives way to a newer one of the same place


@dataclass(frozen=True)
class View:
    """A part of a print, wanted on screen."""

    script: Script
    rect: Rect  # in pixels of the print at `scale`
    scale: float
    zone_of: int | None = None  # show which parts enter this pass in `zone` instead of the print
    zone: int = 0
    keep: int | None = None  # in a drag: the pass that is changing; what it and later ones give is not kept
    beside: bool = False  # the picture that the print is compared with


@dataclass(frozen=True)
class Frame:
    """A rendered view: ``pixels`` ``(h, w, 4)`` of blue, green, red, 255, covering ``rect`` at ``scale``."""

    view: View
    rect: Rect
    scale: float
    pixels: NDArray[np.uint8]
    coarse: bool = False


@dataclass(frozen=True)
class Within:
    """A plate's own run, unrolled (`Script.unrolled`)."""

    script: Script
    first: int  # where the run begins in it
    selected: int  # place in the script of the chosen pass; -1: it is the plate itself


@dataclass(frozen=True)
class Wanted:
    """What the survey should look at."""

    script: Script
    selected: int
    tray: tuple[int, int] = (120, 80)  # pixels of the screen that a tray's picture may take
    within: Within | None = None  # the second row, if there is one

    @property
    def looked_at(self) -> tuple[Script, int]:
        """The script and the place in it of the chosen pass."""
        if self.within is not None and self.within.selected >= 0:
            return self.within.script, self.within.selected
        return self.script, self.selected


@dataclass(frozen=True)
class Cut:
    """The stencil of a pass, wanted for a part of the print."""

    script: Script
    index: int
    rect: Rect
    scale: float
    drawing: bool = False


@dataclass(frozen=True)
class Mask:
    """A stencil on a part of the print: ``values`` ``(h, w)``, 255 where the pass acts fully."""

    cut: Cut
    values: NDArray[np.uint8]
    changed: Rect | None  # within the values: what differs from the one before; None: it lies elsewhere


@dataclass(frozen=True)
class Proof:
    """A small picture of another script, for a chooser."""

    tag: object  # who asked
    key: str
    pixels: NDArray[np.uint8]


@dataclass(frozen=True)
class Survey:
    """Small things about the whole picture."""

    wanted: Wanted
    photo: NDArray[np.uint8]  # for its tray: the photograph as opened, ``(h, w, 4)``
    stages: list[NDArray[np.uint8]]  # for the trays: the framed photograph, then the print after every pass
    within: list[NDArray[np.uint8]]  # for the second row: what the plate starts from, then after every pass of it
    print: NDArray[np.uint8]  # the whole print, `SURVEY_SIDE` pixels long
    histogram: NDArray[np.int64]  # 256: grays entering the selected pass
    channels: NDArray[np.int64]  # (3, 256): red, green, blue entering it
    out_ends: tuple[float, float]  # share of the print that is pure black, pure white
    wedge: NDArray[np.uint8]  # (256, 3): what each gray entering the selected pass becomes in the print
    rose: NDArray[np.float64]  # (72,): how much colour there is at each 5° of hue, strongest 1
    taken: dict[str, Any]  # what the selected pass takes from the picture
    aspect: float  # width to height of the picture of the chosen plate, 1 without one
    gray_small: NDArray[np.float32] = field(repr=False)  # grays entering the selected pass, (h, w)


@dataclass(frozen=True)
class Spot:
    """Values at one place of the picture."""

    x: float  # 0…1 across
    y: float
    photo: tuple[int, int, int]
    trace: list[tuple[int, int, int]]  # after every pass
    entering: float  # gray entering the selected pass, 0…1
    lightness: float  # L* of the print
    row: list[tuple[int, int, int]]  # after every pass of the second row


@dataclass(frozen=True)
class Touched:
    """What enters the chosen pass at a spot, over a small disc."""

    hue: float  # degrees of Oklch
    chroma: float  # Oklch
    gray: float  # 0…1
    colour: str  # #rrggbb
    tag: str  # what it was asked for


_Asked = tuple[int, object, str, Script, tuple[int, int]]  # which asking, who asked, its key, the script, its room


class RenderService(QObject):
    """The thread that renders. Signals come out in the interface thread."""

    frame = Signal(object)  # Frame
    survey = Signal(object)  # Survey
    spot = Signal(object)  # Spot
    touched = Signal(object)  # Touched
    mask = Signal(object)  # Mask
    proof = Signal(object)  # Proof
    looking = Signal(str, float)  # work within a pass that takes seconds: what it is, and how far; 1 when it is over
    preparing = Signal(float)  # the first start ever: how far the program is made ready for this machine; 1: it is
    failed = Signal(str)  # what is said of a fault; what it was stands in the log

    def __init__(self, cache_bytes: int = 768 << 20) -> None:
        super().__init__()
        self._cache_bytes = cache_bytes
        self._wake = threading.Condition()
        self._source: Source | None = None
        self._library: Library | None = None
        self._cache = TileCache(cache_bytes)
        self._view: View | None = None
        self._wanted: Wanted | None = None
        self._probe: tuple[Wanted, float, float, float] | None = None
        self._touch: tuple[Script, int, float, float, float, int, str] | None = None
        self._beside: View | None = None
        self._proofs: deque[_Asked] = deque()
        self._asked_proofs = 0  # times that proofs have been asked for
        self._giving_up = False
        self._cut: Cut | None = None
        self._cutting = False
        self._stopping = False
        self._trim = False  # a photograph was let go, and its memory is to be given back once there is time
        self._busy = False
        self._last_survey = 0.0
        self._pause = _SURVEY_PAUSE
        self._seconds_per_pixel = 0.0
        self._helpers = ThreadPoolExecutor(max(1, (os.cpu_count() or 2) - 1), "tiles")
        self._thread = threading.Thread(target=self._work, name="render", daemon=True)
        self._thread.start()
        self._cutter = threading.Thread(target=self._cut_masks, name="stencil", daemon=True)
        self._cutter.start()

    # Asked from the interface thread

    def set_source(self, source: Source, library: Library | None = None) -> None:
        """Work on another photograph from now on; plates find other pictures in the library."""
        with self._wake:
            self._library = library
            self._cache.close()  # at once, and not when the last of its renderers is collected
            self._source, self._cache = source, TileCache(self._cache_bytes)
            self._view = self._wanted = self._probe = self._touch = self._cut = self._beside = None
            self._proofs.clear()
            self._asked_proofs += 1
            self._trim = True

    def look(self, view: View) -> None:
        """Ask for a view; an older one that is still waiting is forgotten."""
        with self._wake:
            if view.beside:
                self._beside = view
            else:
                self._view = view
            self._wake.notify_all()

    def ask_mask(self, cut: Cut) -> None:
        """Ask for a stencil."""
        with self._wake:
            self._cut = cut
            self._wake.notify_all()

    def ask_proofs(self, tag: object, scripts: dict[str, Script], size: tuple[int, int]) -> None:
        """Ask for small pictures of scripts, each to fit into ``size``; those asked for before are forgotten.

        Those with a pass that takes seconds come last.
        """
        with self._wake:
            in_order = sorted(scripts.items(), key=lambda one: one[1].takes_long)
            self._asked_proofs += 1
            self._proofs = deque((self._asked_proofs, tag, key, script, size) for key, script in in_order)
            self._wake.notify_all()

    def give_up(self) -> None:
        """End the long work that is under way; the picture that wanted it is not made."""
        with self._wake:
            self._giving_up = True
            self._proofs = deque(one for one in self._proofs if not one[3].takes_long)

    def look_over(self, wanted: Wanted) -> None:
        """Ask for a survey."""
        with self._wake:
            self._wanted = wanted
            self._wake.notify_all()

    def ask_spot(self, wanted: Wanted, scale: float, x: float, y: float) -> None:
        """Ask for the values at a place (0…1 across and down), as seen at ``scale``."""
        with self._wake:
            self._probe = (wanted, scale, x, y)
            self._wake.notify_all()

    def ask_touch(
        self, script: Script, selected: int, scale: float, x: float, y: float, radius: int, tag: str = ""
    ) -> None:
        """Ask what enters a pass on a disc around a place (0…1 across and down)."""
        with self._wake:
            self._touch = (script, selected, scale, x, y, radius, tag)
            self._wake.notify_all()

    def idle(self) -> bool:
        """Whether everything asked for has been sent."""
        with self._wake:
            asked = self._view or self._wanted or self._probe or self._touch or self._cut or self._beside
            return not (self._busy or self._cutting or asked or self._proofs)

    def end(self) -> None:
        """Ask the threads to end; `left` tells which have not."""
        with self._wake:
            self._stopping = True
            self._wake.notify_all()

    def left(self) -> list[str]:
        """What has not ended yet, in words."""
        return ["working out the print"] if self._thread.is_alive() or self._cutter.is_alive() else []

    def stop(self) -> None:
        """End the threads."""
        self.end()
        self._thread.join()
        self._cutter.join()

    # In the rendering thread

    def _work(self) -> None:
        self._serve()
        self._helpers.shutdown(wait=False)

    def _serve(self) -> None:
        try:
            prepare(self._prepare)
        except GivenUp:
            return
        except Exception as error:  # whatever it is, the person must hear of it
            log.note("the kernels could not be loaded", error)
            self.failed.emit("The program cannot work on this machine; what is missing stands in the log (Help, About)")
            return
        while True:
            with self._wake:
                self._busy = False
                while not (self._stopping or (self._source and self._due())):
                    if self._trim and not self._wanted:
                        self._trim = False
                        kernel.give_back()
                    # A survey waits until views have stopped coming for a moment.
                    self._wake.wait(self._survey_in() if self._wanted and self._source else None)
                if self._stopping:
                    return
                self._busy = True
                self._giving_up = False
                source = self._source
                job, again = self._next()
            try:
                job()
            except GivenUp:
                self.looking.emit("", 1.0)
                with self._wake:
                    if not self._giving_up and self._source is source:
                        again()
            except Exception as error:  # a failed picture must not end the service
                self._fail("a picture", error)

    def _prepare(self, share: float) -> None:
        self.preparing.emit(share)
        if self._stopping:
            raise GivenUp

    def _fail(self, what: str, error: Exception) -> None:
        log.note(f"{what} could not be worked out", error)
        if isinstance(error, FileError):
            self.failed.emit(str(error))
        elif isinstance(error, MemoryError):
            self.failed.emit("There is not enough memory for this picture. Close other programs, or show it smaller")
        else:
            self.failed.emit("A part of what is shown could not be worked out; why stands in the log (Help, About)")

    def _survey_in(self) -> float:
        """Seconds until a survey may run."""
        return max(0.001, self._last_survey + self._pause - time.monotonic())

    def _due(self) -> bool:
        """Whether there is something to do now; called with the lock held."""
        overdue = self._last_survey + self._pause <= time.monotonic()
        return bool(
            self._touch
            or self._view
            or self._beside
            or self._probe
            or (self._wanted and overdue)
            or (self._proofs and not self._wanted)
        )

    def _next(self) -> tuple[Callable[[], None], Callable[[], None]]:
        """The most urgent job, and how it is asked for again if it gives way; called with the lock held."""
        source, cache = self._source, self._cache
        assert source is not None
        overdue = time.monotonic() - self._last_survey > self._pause
        if self._touch is not None:
            touch, self._touch = self._touch, None
            return lambda: self._feel(source, cache, *touch), _nothing
        if self._view is not None and not (self._wanted and overdue):
            view, self._view = self._view, None
            return lambda: self._render(source, cache, view), _nothing  # a newer one is there
        if self._beside is not None:
            beside, self._beside = self._beside, None
            return lambda: self._render(source, cache, beside), lambda: self._ask_beside(beside)
        if self._probe is not None and not (self._wanted and overdue):
            probe, self._probe = self._probe, None
            return lambda: self._look_at(source, cache, *probe), _nothing
        if self._wanted is None:
            proof = self._proofs.popleft()
            return lambda: self._prove(source, cache, proof), lambda: self._ask_proof(proof)
        wanted, self._wanted = self._wanted, None
        return lambda: self._look_over(source, cache, wanted), lambda: self._ask_survey(wanted)

    # Asked for again, after giving way to a view; called with the lock held

    def _ask_beside(self, view: View) -> None:
        self._beside = self._beside or view

    def _ask_proof(self, proof: _Asked) -> None:
        if proof[0] == self._asked_proofs:
            self._proofs.appendleft(proof)

    def _ask_survey(self, wanted: Wanted) -> None:
        self._wanted = self._wanted or wanted
        self._last_survey = time.monotonic()  # the view comes first now

    def _watch(self, what: str, share: float) -> None:
        """Long work within a pass: told on, and given up when a view is waiting for it."""
        self.looking.emit(what, share)
        if self._stopping or self._giving_up or self._view is not None:
            raise GivenUp

    def _render(self, source: Source, cache: TileCache, view: View) -> None:
        renderer = Renderer(source, view.script, cache, view.keep, self._library, self._watch)
        if view.rect.clipped(*renderer.size(view.scale)) != view.rect:
            # Asked for a frame that is another one by now; the easel has asked again or will.
            log.note(f"a view of {view.rect} was asked for of a print of {renderer.size(view.scale)} pixels")
            return
        if view.zone_of is not None:
            self._send_zone(renderer, view)
            return
        pixels = view.rect.width * view.rect.height
        if pixels * self._seconds_per_pixel > _COARSE_OVER and not self._cached(renderer, view):
            self._send_coarse(renderer, view)
        began = time.perf_counter()
        out = np.empty((view.rect.height, view.rect.width, 4), np.uint8)
        if self._fill(renderer, view, out, began):
            self._seconds_per_pixel = (time.perf_counter() - began) / pixels
            self.frame.emit(Frame(view, view.rect, view.scale, out))

    def _fill(self, renderer: Renderer, view: View, out: NDArray[np.uint8], began: float) -> bool:
        """Render a view into ``out``, tile by tile; in a drag, where nothing is kept, in bands.

        Returns False if a newer request made it pointless.
        """
        parts = iter(_bands(view.rect) if view.keep is not None else _tiles(view.rect, renderer, view.scale))
        lock = threading.Lock()
        alive = True

        def work() -> None:
            nonlocal alive
            while alive and not self._stopping:
                with lock:
                    part = next(parts, None)
                if part is None:
                    return
                _place(renderer.region(part, view.scale), part, view.rect, out)
                newer = None if view.beside else self._view
                if newer is not None and (
                    (newer.rect, newer.scale) != (view.rect, view.scale) or time.perf_counter() - began > _GIVE_UP_AFTER
                ):
                    alive = False

        helpers = [self._helpers.submit(work) for _ in range((os.cpu_count() or 2) - 1)]
        try:
            work()
            for helper in helpers:
                helper.result()
        finally:
            alive, done = False, alive
            wait(helpers)
        return done and not self._stopping

    def _cached(self, renderer: Renderer, view: View) -> bool:
        return renderer.is_cached(view.rect, view.scale)

    def _send_coarse(self, renderer: Renderer, view: View) -> None:
        """A quarter of the resolution, for the same part of the print."""
        scale = view.scale / 4
        width, height = renderer.size(scale)
        rect = Rect(
            view.rect.x // 4 - 1, view.rect.y // 4 - 1, view.rect.width // 4 + 3, view.rect.height // 4 + 3
        ).clipped(width, height)
        planes = renderer.region(rect, scale)
        self.frame.emit(Frame(view, rect, scale, screen(planes), coarse=True))

    def _send_zone(self, renderer: Renderer, view: View) -> None:
        """The print in pale grays, and in the accent what enters the pass in one zone."""
        gray = colour.gray_of(renderer.region(view.rect, view.scale, view.zone_of))[0]
        shown = screen(0.55 + 0.35 * gray[None])
        inside = np.minimum((gray * 11).astype(np.int32), 10) == view.zone
        shown[inside, :3] = (0x5E, 0x37, 0x17)
        self.frame.emit(Frame(view, view.rect, view.scale, shown))

    def _look_over(self, source: Source, cache: TileCache, wanted: Wanted) -> None:
        began = time.monotonic()
        renderer = Renderer(source, wanted.script, cache, library=self._library, watch=self._watch)
        scale = min(1.0, SURVEY_SIDE / max(renderer.size(1.0)))
        whole = Rect(0, 0, *renderer.size(scale))
        stages = [renderer.region(whole, scale, k) for k in range(len(wanted.script.passes) + 1)]
        row: list[Planes] = []
        script, selected = wanted.looked_at
        looked_at = renderer
        if wanted.within is not None:
            inner = Renderer(source, wanted.within.script, cache, library=self._library, watch=self._watch)
            places = range(wanted.within.first, len(wanted.within.script.passes) + 1)
            row = [inner.region(whole, scale, k) for k in places]
            looked_at = inner if script is wanted.within.script else renderer
        entering = looked_at.region(whole, scale, max(0, selected))
        gray = colour.gray_of(entering)[0]
        ends = colour.gray_of(stages[-1])
        wedge = in_colour(looked_at.wedge(max(0, selected)))[:, 0]
        now = time.monotonic()
        self._last_survey, self._pause = now, max(_SURVEY_PAUSE, _SURVEY_SHARE * (now - began))
        self.survey.emit(
            Survey(
                wanted,
                _fitted(screen(cache.make("opened", lambda: _opened(source))), wanted.tray),
                [_fitted(screen(s), wanted.tray) for s in stages],
                [_fitted(screen(s), wanted.tray) for s in row],
                screen(stages[-1]),
                _histogram(gray),
                np.stack([_histogram(p) for p in in_colour(entering)]),
                (float(np.mean(ends <= 0.5 / 255)), float(np.mean(ends >= 254.5 / 255))),
                np.ascontiguousarray(np.rint(np.clip(wedge, 0, 1) * 255).astype(np.uint8).T),
                _rose(entering),
                _taken(looked_at, script, selected),
                self._aspect(script, selected),
                gray,
            )
        )

    def _aspect(self, script: Script, selected: int) -> float:
        name = getattr(script.passes[selected], "picture", "") if 0 <= selected < len(script.passes) else ""
        found = self._library.find(name) if name and self._library is not None else None
        return found.colours.width / found.colours.height if found is not None else 1.0

    def _feel(
        self,
        source: Source,
        cache: TileCache,
        script: Script,
        selected: int,
        scale: float,
        x: float,
        y: float,
        radius: int,
        tag: str,
    ) -> None:
        renderer = Renderer(source, script, cache, library=self._library)
        width, height = renderer.size(scale)
        px, py = min(max(0, int(x * width)), width - 1), min(max(0, int(y * height)), height - 1)  # the mat: its rim
        rect = Rect(px - radius, py - radius, 2 * radius + 1, 2 * radius + 1).clipped(width, height)
        planes = renderer.region(rect, scale, max(0, selected))
        ys, xs = np.mgrid[rect.y : rect.bottom, rect.x : rect.right]
        disc = (xs - px) ** 2 + (ys - py) ** 2 <= radius**2
        mean = colour.to_encoded(colour.to_light(in_colour(planes))[:, disc].mean(axis=1)).reshape(3, 1)
        _, chroma, hue = colour.to_oklch(mean)[:, 0]
        gray = float(colour.gray_of(np.ascontiguousarray(mean.reshape(3, 1, 1), np.float32))[0, 0, 0])
        found = colour.hex_of(np.clip(mean[:, 0], 0, 1))
        self.touched.emit(Touched(float(hue), float(chroma) if len(planes) == 3 else 0.0, gray, found, tag))

    def _prove(self, source: Source, cache: TileCache, asked: _Asked) -> None:
        _, tag, key, script, size = asked
        renderer = Renderer(source, script, cache, library=self._library, watch=self._watch)
        width, height = renderer.size(1.0)
        scale = min(1.0, SURVEY_SIDE / max(width, height), max(size[0] / width, size[1] / height))
        planes = renderer.region(Rect(0, 0, *renderer.size(scale)), scale)
        self.proof.emit(Proof(tag, key, _fitted(screen(planes), size)))

    # In the thread for stencils

    def _cut_masks(self) -> None:
        before: Mask | None = None
        while True:
            with self._wake:
                self._cutting = False
                while not (self._stopping or (self._source and self._cut)):
                    self._wake.wait()
                if self._stopping:
                    return
                self._cutting = True
                (cut, self._cut), source, cache = (self._cut, None), self._source, self._cache
            assert cut is not None
            assert source is not None
            try:
                keep = cut.index if cut.drawing else None
                renderer = Renderer(source, cut.script, cache, keep, self._library)
                if cut.rect.clipped(*renderer.size(cut.scale)) != cut.rect:
                    continue  # of a frame that is another one by now
                values = renderer.stencil(cut.index, cut.rect, cut.scale)[0]
                levels = np.rint(values * 255).astype(np.uint8)
                before = Mask(cut, levels, _changed(before, cut, levels))
                self.mask.emit(before)
            except GivenUp:
                continue  # another photograph is on the bench
            except Exception as error:  # a failed picture must not end the service
                self._fail("a stencil", error)

    def _look_at(self, source: Source, cache: TileCache, wanted: Wanted, scale: float, x: float, y: float) -> None:
        renderer = Renderer(source, wanted.script, cache, library=self._library)
        width, height = renderer.size(scale)
        px, py = min(max(0, int(x * width)), width - 1), min(max(0, int(y * height)), height - 1)

        def at(renderer: Renderer, k: int) -> Planes:
            return in_colour(np.ascontiguousarray(renderer.region(Rect(px, py, 1, 1), scale, k)))

        values = [at(renderer, k) for k in range(len(wanted.script.passes) + 1)]
        row: list[Planes] = []
        script, selected = wanted.looked_at
        entering = values[max(0, selected)] if script is wanted.script else None
        if wanted.within is not None:
            inner = Renderer(source, wanted.within.script, cache, library=self._library)
            row = [at(inner, k + 1) for k in range(wanted.within.first, len(wanted.within.script.passes))]
            entering = at(inner, selected) if entering is None else entering
        levels = [_whole(v) for v in values]
        gray = float(colour.gray_of(entering)[0, 0, 0])
        lightness = float(colour.lightness(np.clip(values[-1], 0, 1))[0, 0])
        self.spot.emit(Spot(x, y, levels[0], levels[1:], gray, lightness, [_whole(v) for v in row]))


def _nothing() -> None:
    """For work that need not be asked for again."""


def _taken(renderer: Renderer, script: Script, selected: int) -> dict[str, Any]:
    """The values that the selected pass takes from the picture; none if it takes none."""
    if not 0 <= selected < len(script.passes):
        return {}
    one = script.passes[selected]
    if not (one.auto and one.acts):
        return {}
    settled = renderer.settled(selected)
    return {name: getattr(settled, name) for name in one.suggested()}


def _changed(before: Mask | None, cut: Cut, levels: NDArray[np.uint8]) -> Rect | None:
    """Where a mask differs from the one before it of the same place."""
    if before is None or (before.cut.rect, before.cut.scale) != (cut.rect, cut.scale):
        return None
    differs = before.values != levels
    rows, columns = np.flatnonzero(differs.any(axis=1)), np.flatnonzero(differs.any(axis=0))
    if not len(rows):
        return Rect(0, 0, 0, 0)
    x, y = int(columns[0]), int(rows[0])
    return Rect(x, y, int(columns[-1]) - x + 1, int(rows[-1]) - y + 1)


def _opened(source: Source) -> Planes:
    """The whole photograph as opened, small."""
    scale = min(1.0, SURVEY_SIDE / max(source.width, source.height))
    return read(source, Rect(0, 0, *size_at(source, scale)), scale)


def _fitted(pixels: NDArray[np.uint8], room: tuple[int, int]) -> NDArray[np.uint8]:
    """Screen pixels reduced to fit into a room."""
    height, width = pixels.shape[:2]
    share = min(room[0] / width, room[1] / height, 1.0)
    size = (max(1, round(width * share)), max(1, round(height * share)))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA))


def screen(planes: Planes) -> NDArray[np.uint8]:
    """Planes as a screen picture ``(h, w, 4)``."""
    planes = np.ascontiguousarray(planes, np.float32)
    channels, height, width = planes.shape
    out = np.empty((height, width, 4), np.uint8)
    to_screen(planes, out, 0, channels, width, height, width)
    return out


def _tiles(rect: Rect, renderer: Renderer, scale: float) -> list[Rect]:
    """The tiles under a view."""
    columns = range(rect.x // TILE, (rect.right - 1) // TILE + 1)
    rows = range(rect.y // TILE, (rect.bottom - 1) // TILE + 1)
    return [renderer.tile_rect(tx, ty, scale) for ty in rows for tx in columns]


def _bands(rect: Rect) -> list[Rect]:
    """A view in bands of whole rows, one for every core: what Python adds counts once for each."""
    count = max(1, min(os.cpu_count() or 2, rect.height // 64))
    edges = [rect.y + rect.height * k // count for k in range(count + 1)]
    return [Rect(rect.x, top, rect.width, bottom - top) for top, bottom in itertools.pairwise(edges)]


def _place(tile: Planes, lies: Rect, rect: Rect, out: NDArray[np.uint8]) -> None:
    """Write the part of a tile that a view shows into the view's picture."""
    left, top = max(lies.x, rect.x), max(lies.y, rect.y)
    right, bottom = min(lies.right, rect.right), min(lies.bottom, rect.bottom)
    part = tile[:, top - lies.y : bottom - lies.y, left - lies.x : right - lies.x]
    start = (top - rect.y) * rect.width + left - rect.x
    to_screen(np.ascontiguousarray(part), out, start, len(part), right - left, bottom - top, rect.width)


def _histogram(plane: NDArray[np.float32]) -> NDArray[np.int64]:
    steps = np.clip(plane * 255 + 0.5, 0, 255).astype(np.uint8)
    return np.bincount(steps.ravel(), minlength=256)


def _rose(planes: Planes) -> NDArray[np.float64]:
    """How much colour lies at each 5° of hue; all 0 for a gray picture."""
    if len(planes) == 1:
        return np.zeros(72)
    _, chroma, hue = colour.to_oklch(planes[:, ::3, ::3])
    found = np.bincount((hue.ravel() / 5).astype(int) % 72, np.where(chroma > 0.015, chroma, 0).ravel(), 72)
    most = found.max()
    return np.sqrt(found / most) if most > 0 else found


def _whole(value: Any) -> tuple[int, int, int]:
    r, g, b = (int(v) for v in np.rint(np.clip(value.ravel(), 0, 1) * 255))
    return r, g, b
