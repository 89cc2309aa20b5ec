"""Ten minutes of work at the window: every event of the interface thread is timed.

The work is the same in every run: controls dragged, painting, zooming, moving, stepping through the run, undo and redo,
the Recipes view opened. What counts is how long the thread is busy from one time it can listen to people to the next.
"""

from __future__ import annotations

import random
import time
from pathlib import Path
from typing import Any

import numpy as np

import interface
import twelve_passes

LIMIT = 0.016  # seconds


class Busy:
    """How long the event loop is away each time, and what was being done."""

    def __init__(self) -> None:
        from PySide6.QtCore import QAbstractEventDispatcher

        self.spans: list[float] = []
        self.doing = ""
        self.by: dict[str, list[float]] = {}
        self._woke = time.perf_counter()
        dispatcher = QAbstractEventDispatcher.instance()
        dispatcher.awake.connect(self._awake)
        dispatcher.aboutToBlock.connect(self._blocks)

    def _awake(self) -> None:
        self._woke = time.perf_counter()

    def _blocks(self) -> None:
        now = time.perf_counter()
        self.spans.append(now - self._woke)
        self.by.setdefault(self.doing, []).append(now - self._woke)
        self._woke = now


def minutes(folder: Path, seconds: float = 600) -> dict[str, Any]:
    """The share of turns of the event loop under 16 ms, and what took longest."""
    from PySide6.QtCore import QPointF, Qt
    from PySide6.QtTest import QTest

    window = interface.opened(folder, twelve_passes.script())
    easel, desk = window.easel, window.desk
    dice = random.Random(11)
    busy = Busy()

    def drag() -> None:
        desk.select(dice.randrange(len(desk.script.passes)))
        interface.wait(0.2)
        found = list(interface._controls(window))
        for _, move in dice.sample(found, min(3, len(found))):
            move()

    def paint() -> None:
        desk.select(dice.choice([0, len(desk.script.passes) - 1]))
        window.bench.stencils.draw()
        a, b = (easel.from_picture(QPointF(*p)) for p in ((0.3, 0.3), (0.7, 0.6)))
        interface.hand(easel, interface._along(a, b))
        window.bench.stencils.draw()
        desk.undo()

    def look() -> None:
        middle = QPointF(easel.width() / 2, easel.height() / 2)
        easel.show_actual()
        interface.wait(0.3)
        easel.hold_space(True)
        interface.hand(easel, interface._along(middle, middle + QPointF(dice.uniform(-150, 150), 90)))
        easel.hold_space(False)
        for zoom in (0.5, 1.5, 3.0):
            easel.set_zoom(zoom)
            interface.wait(0.2)
        easel.show_whole()

    def steps() -> None:
        for _ in range(6):
            QTest.keyClick(easel, Qt.Key.Key_Down if dice.random() < 0.5 else Qt.Key.Key_Up)
            interface.wait(0.15)
        for _ in range(3):
            desk.undo()
            interface.wait(0.2)
        for _ in range(3):
            desk.redo()
            interface.wait(0.2)

    def recipes() -> None:
        window.registry.go(window.recipes)
        interface.wait(2.5)
        window.registry.go(window.bench)
        interface.wait(0.3)

    jobs = {"dragging": drag, "painting": paint, "zooming and moving": look, "stepping": steps, "recipes": recipes}
    turns = ["dragging"] * 6 + ["painting", "zooming and moving"] * 2 + ["stepping", "recipes"]
    interface.wait(1.0)
    busy.spans.clear()
    busy.by.clear()
    began = time.perf_counter()
    while time.perf_counter() - began < seconds:
        busy.doing = dice.choice(turns)
        jobs[busy.doing]()
    interface.closed(window)
    spans = np.array(busy.spans)
    return {
        "turns": len(spans),
        "under_share": float((spans < LIMIT).mean()),
        "longest_ms": float(spans.max()) * 1e3,
        "by": {
            what: {"over": int((np.array(found) >= LIMIT).sum()), "of": len(found), "longest_ms": max(found) * 1e3}
            for what, found in busy.by.items()
        },
    }
