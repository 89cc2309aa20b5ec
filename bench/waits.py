"""(t) How long what is under the hand, or in sight, waits for work that is not: a scripted quarter of an hour.

All views are gone through with a portrait of 6 MP, an old scan of 6 MP and a photograph of 24 MP, five minutes each. Of
every request that the hand or the eye waits for it is told how long it lay until a thread began with it.
"""

from __future__ import annotations

import random
import time
from collections.abc import Hashable
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import skimage.data

import interface
import measure
import twelve_passes
from kyanoscript import demo

NEAR = ("Look", "hang", "Point", "Values", "Feel", "FindWhite", "Cut")  # slots of what the hand or the eye waits for


class Lying:
    """How long requests lie, by their slots, and what was being done."""

    def __init__(self, queue: Any) -> None:
        self.doing = ""
        self.found: list[tuple[float, str, str]] = []
        self._since: dict[Hashable, float] = {}
        ask, take, done = queue.ask, queue.take, queue.done
        forget, other = queue.forget, queue.other_photo

        def asked(request: Any) -> None:
            ask(request)
            if request.key in queue._waiting:
                self._since.setdefault(request.key, time.monotonic())

        def taken(*args: Any) -> Any:
            found = take(*args)
            if found is None:
                return found
            since, name = self._since.pop(found.request.key, None), _family(found.request.key)
            if since is not None and name in NEAR:
                self.found.append((time.monotonic() - since, name, self.doing))
            return found

        def ended(asked: Any) -> None:
            done(asked)
            if _family(asked.request.key) == "hang":  # what hangs together comes one by one
                now = time.monotonic()
                self._since = {key: now if _family(key) == "hang" else at for key, at in self._since.items()}

        def left(families: Any) -> None:
            forget(families)
            self._since = {key: at for key, at in self._since.items() if _family(key) not in families}

        def afresh() -> None:
            self._since.clear()
            other()

        queue.ask, queue.take, queue.done = asked, taken, ended
        queue.forget, queue.other_photo = left, afresh


def _family(key: Hashable) -> str:
    return str(key[0] if isinstance(key, tuple) else key)


def quarter(folder: Path, seconds: float = 900) -> dict[str, Any]:
    """The worst waits, and how many requests waited for longer than a fifth of a second."""
    window = interface.opened(folder, twelve_passes.script())
    window.resize(1280, 800)
    lying, dice = Lying(window.service._queue), random.Random(5)
    pictures = {"24 MP": measure.picture(folder), "portrait": _portrait(folder), "scan": _scan(folder)}
    for name, path in pictures.items():
        window.desk.saved_as(Path(), window.desk.whole)
        window.opening.open(path)
        interface.wait(1.0)
        jobs = _jobs(window, dice)
        until = time.monotonic() + seconds / len(pictures)
        while time.monotonic() < until:
            what = dice.choice(list(jobs))
            lying.doing = f"{what} ({name})"
            jobs[what]()
        window.registry.go(window.bench)
    interface.closed(window)
    found = sorted(lying.found, reverse=True)
    waits = np.array([wait for wait, _, _ in found])
    return {
        "requests": len(found),
        "worst_ms": float(waits[0] * 1e3),
        "over_200_ms": int((waits > 0.2).sum()),
        "at_99_ms": float(np.percentile(waits, 99) * 1e3),
        "longest": [{"ms": wait * 1e3, "what": what, "while": doing} for wait, what, doing in found[:8]],
    }


def _jobs(window: Any, dice: random.Random) -> dict[str, Any]:
    from PySide6.QtCore import QPointF
    from PySide6.QtTest import QTest

    desk, easel, registry = window.desk, window.easel, window.registry

    def point() -> None:
        for _ in range(6):
            QTest.mouseMove(easel, easel.from_picture(QPointF(dice.random(), dice.random())).toPoint())
            interface.wait(0.05)

    def add() -> None:
        registry.go(window.bench)
        window.bench.passes.add(dice.choice(["gray-weights", "mend", "hand-tint", "local-contrast", "threshold"]))
        interface.wait(dice.uniform(0.05, 1.5))
        window.bench.passes.add("gray-weights")
        interface.wait(dice.uniform(0.05, 1.0))
        point()
        for _ in range(2):
            desk.undo()
            interface.wait(0.2)

    def drag() -> None:
        registry.go(window.bench)
        if not desk.script.passes:
            window.bench.passes.add("levels")
        desk.select(dice.randrange(len(desk.script.passes)))
        interface.wait(0.2)
        for _, move in list(interface._controls(window))[:2]:
            move()
        desk.undo()

    def zoom() -> None:
        registry.go(window.bench)
        for size in (0.5, 1.0, 2.0):
            easel.set_zoom(size)
            interface.wait(0.15)
        easel.show_whole()

    def recipes() -> None:
        registry.go(window.recipes)
        trials = window.recipes.trials
        trials.groups.choose(dice.choice(["all", "scans", "toned", "metal"]))
        interface.wait(dice.uniform(0.1, 2.0))
        if trials.grid.shown():
            trials.look(dice.choice(trials.grid.shown()))
            interface.wait(dice.uniform(0.1, 1.5))
            trials.step(1)
            interface.wait(0.5)
            trials.back()

    def states() -> None:
        registry.go(window.bench)
        window.bench.passes.add(dice.choice(["mend", "quad-tone", "soften"]))
        desk.kept.keep()
        registry.go(window.states)
        interface.wait(dice.uniform(0.2, 2.0))
        registry.go(window.bench)
        desk.undo()
        interface.wait(0.2)

    def strip() -> None:
        registry.go(window.bench)
        if not desk.script.passes:
            window.bench.passes.add("levels")
        registry.go(window.strip)
        interface.wait(dice.uniform(0.2, 1.5))

    def sheet() -> None:
        registry.go(window.sheet)
        interface.wait(dice.uniform(0.3, 2.0))

    return {
        "pointing": point, "adding": add, "dragging": drag, "zooming": zoom, "recipes": recipes, "states": states,
        "strip": strip, "sheet": sheet,
    }  # fmt: skip


def _portrait(folder: Path) -> Path:
    file = folder / "portrait-6mp.png"
    cv2.imwrite(str(file), cv2.resize(skimage.data.astronaut(), (2450, 2450), interpolation=cv2.INTER_CUBIC)[..., ::-1])
    return file


def _scan(folder: Path) -> Path:
    file = folder / "scan-6mp.png"
    gray = cv2.imread(str(demo.photo("landing-scan")), cv2.IMREAD_GRAYSCALE)
    cv2.imwrite(str(file), cv2.resize(gray, (3000, 2000), interpolation=cv2.INTER_CUBIC))
    return file
