"""(p) Four states of a 24 MP photograph against the slowest alone; the wall moved; seven bands against one view; nine
prints of a search against one view."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF

import interface
import twelve_passes

ROUNDS = 3


def wall(folder: Path) -> dict[str, Any]:
    """The twelve-pass script in four versions."""
    from PySide6.QtCore import QEvent, QObject

    window = interface.opened(folder, twelve_passes.script())
    window.resize(1280, 800)
    desk, gallery = window.desk, window.states.gallery
    for k in range(4):
        desk.select(k)
        desk.set_values("x", strength=90.0 - 5 * k)
        desk.kept.keep()
    window.registry.go(window.states)
    _settle(window)
    numbers = [state.number for state in desk.kept.states]

    def hung(those: list[int]) -> float:
        """Seconds until all of them are there, with nothing worked out before."""
        gallery.hung = []
        gallery.show()
        _afresh(window)
        gallery.hung = list(those)
        began = time.perf_counter()
        gallery.show()
        return _until(lambda: _there(gallery.wall, those), began)

    alone, four = [], []
    for _ in range(ROUNDS):  # in turn, so that the machine's mood counts for both
        alone.append(max(hung([n]) for n in numbers))
        four.append(hung(numbers))

    class Paints(QObject):
        count = 0

        def eventFilter(self, watched: object, event: QEvent) -> bool:
            self.count += event.type() == QEvent.Type.Paint
            return False

    paints = Paints()
    gallery.wall.set_zoom(1.0)
    _settle(window)
    gallery.wall.installEventFilter(paints)
    a = gallery.wall.cells()[0].center()
    places = [a + QPointF(2.0 * k % 120, 1.3 * k % 90) for k in range(150)]
    began = time.perf_counter()
    interface.hand(gallery.wall, places)
    moved = paints.count / (time.perf_counter() - began)
    interface.closed(window)
    return {"alone": min(alone), "four": min(four), "ratio": min(four) / min(alone), "moved": moved}


def strip(folder: Path) -> dict[str, Any]:
    """Seven bands of a value in the middle of the run."""
    from kyanoscript.core.script.dials import Dial

    window = interface.opened(folder, twelve_passes.script())
    window.resize(1280, 800)
    desk = window.desk
    view = window.strip
    whole, seven = [], []
    for _ in range(ROUNDS):
        window.registry.go(window.bench)
        _settle(window)
        _afresh(window)
        window.easel.frame = None
        began = time.perf_counter()
        window.easel.refresh()
        whole.append(
            _until(
                lambda: (
                    (frame := window.easel.frame) is not None and not frame.coarse and frame.look.script == desk.script
                ),
                began,
            )
        )
        desk.select(6)
        view.start(Dial("pass", "fine", desk.run[6].id))
        _settle(window)
        sheet = view.trial.bands
        _afresh(window)
        sheet.frames.clear()
        began = time.perf_counter()
        sheet.refresh()
        seven.append(_until(lambda: len(sheet.frames) == 7 and not any(f.coarse for f in sheet.frames.values()), began))  # noqa: B023
        _settle(window)
    interface.closed(window)
    return {"whole": min(whole), "seven": min(seven), "ratio": min(seven) / min(whole)}


def nine(folder: Path) -> dict[str, Any]:
    """A grid of nine prints of twelve values against one view of as many pixels; and the reckoning of the next nine."""
    from kyanoscript.core.script.dials import dials

    window = interface.opened(folder, twelve_passes.script())
    window.resize(1280, 800)
    view = window.strip
    window.registry.go(view)
    view.turn(True)
    search = view.search
    names = {
        "fine",
        "broad",
        "gamma",
        "in_black",
        "in_white",
        "shadows",
        "highlights",
        "red",
        "green",
        "blue",
        "amount",
    }
    for dial in dials(window.desk.script):
        if dial.of == "pass" and dial.name in names and len(search.sought) < 12:
            search.tick(dial, True)
    search.begin()
    began = time.perf_counter()
    _until(lambda: bool(search.way), began)
    learned = time.perf_counter() - began
    _settle(window)
    whole, grid, planes = [], [], []
    for look in range(12):
        began = time.perf_counter()
        step = search.seek.choose((5, 1, 4, 7, 3, 0)[look % 6])
        planes.append(time.perf_counter() - began)
        search.way.append(step)
        search.at += 1
    search._show()
    _settle(window)
    for _ in range(ROUNDS):
        _afresh(window)
        search.wall.frames.clear()
        began = time.perf_counter()
        search.wall.refresh()
        grid.append(_until(lambda: len(search.wall.frames) == 9, began))
        pixels = sum(frame.rect.width * frame.rect.height for frame in search.wall.frames.values())
        window.registry.go(window.bench)
        _settle(window)
        easel = window.easel
        photo = window.desk.photo
        easel.sight.zoom_to(
            (pixels / (photo.width * photo.height)) ** 0.5, QPointF(easel.width() / 2, easel.height() / 2)
        )
        _afresh(window)
        easel.frame = None
        began = time.perf_counter()
        easel.refresh()
        whole.append(_until(lambda: (frame := window.easel.frame) is not None and not frame.coarse, began))
        window.registry.go(view)
        _settle(window)
    count = len(search.sought)
    interface.closed(window)
    return {
        "dials": count, "learned": learned, "whole": min(whole), "nine": min(grid), "ratio": min(grid) / min(whole),
        "plane": max(planes),
    }  # fmt: skip


def _settle(window: Any) -> None:
    from kyanoscript.ui.app.picture import settle

    settle(window)


def _afresh(window: Any) -> None:
    """Nothing is kept of what was worked out."""
    _settle(window)
    window.service.set_source(window.desk.photo.source, window.desk.pictures)
    interface.wait(0.05)


def _there(wall: Any, numbers: list[int]) -> bool:
    def sharp(number: int) -> bool:
        frame = wall.frames.get(number)
        sight = wall.sights[number]
        return frame is not None and not frame.coarse and frame.rect == sight.seen()

    return all(sharp(number) for number in numbers)


def _until(done: Callable[[], bool], began: float) -> float:
    while not done():
        interface.wait(0.004)
        if time.perf_counter() - began > 60:
            raise SystemExit("it never came")
    return time.perf_counter() - began
