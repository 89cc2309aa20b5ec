"""How long dragging holds the interface thread up, how a brush follows, how soon the window is there.

Hands are real mouse events on the real window. A probe in the event loop asks to be called every two milliseconds; what
it is late by is what a person would feel as a jerk.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import cv2
import numpy as np

import measure

STEPS = 14
_EVERY = 0.016  # seconds between places of a dragging hand


class Probe:
    """Counts how late the event loop is."""

    def __init__(self) -> None:
        from PySide6.QtCore import Qt, QTimer

        self.late: list[float] = []
        self._last = time.perf_counter()
        self._timer = QTimer()
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(2)
        self._timer.timeout.connect(self._beat)
        self._timer.start()

    def _beat(self) -> None:
        now = time.perf_counter()
        self.late.append(now - self._last - 0.002)
        self._last = now

    def longest(self) -> float:
        """Seconds that it was late by at most, and is by now: one that never came back in between is late too."""
        return max([*self.late, time.perf_counter() - self._last - 0.002])

    def again(self) -> None:
        """Forget what was counted."""
        self.late = []
        self._last = time.perf_counter()


def wait(seconds: float) -> None:
    """Let the event loop run."""
    from PySide6.QtCore import QEventLoop, QTimer

    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000), loop.quit)
    loop.exec()


def opened(folder: Path, script: dict[str, Any]) -> Any:
    """A window of 1280 × 800 on a photograph of 24 MP."""
    from PySide6.QtWidgets import QApplication

    from kyanoscript.ui.app.picture import settle
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.widgets import theme

    application = QApplication.instance() or QApplication([])
    theme.apply(application)  # type: ignore[arg-type]
    sys.setswitchinterval(0.001)
    window = Window()
    window.show()
    (folder / "script.json").write_text(json.dumps(script))
    window.opening.open(measure.picture(folder), folder / "script.json")
    settle(window)
    return window


def closed(window: Any) -> None:
    """Close it without asking."""
    window.desk.saved_as(Path(), window.desk.whole)
    window.close()


def hand(widget: Any, places: list[Any]) -> None:
    """Press, go from place to place as a hand does, let go."""
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest

    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    QTest.mousePress(widget, left, none, places[0].toPoint())
    for place in places[1:]:
        QTest.mouseMove(widget, place.toPoint())
        wait(_EVERY)
    QTest.mouseRelease(widget, left, none, places[-1].toPoint())


def _along(a: Any, b: Any) -> list[Any]:
    return [a + (b - a) * (k / STEPS) for k in range(STEPS + 1)]


def _controls(window: Any) -> Iterator[tuple[str, Callable[[], None]]]:
    """Everything that can be dragged for the chosen pass: its sliders, its own editors, the bar under its tray."""
    from PySide6.QtCore import QPointF

    slip = window.bench.slip
    for name, slider in list(slip.sliders.items()):
        left, right, y = slider.track()
        a, b = QPointF(slider.handle_x(), y), QPointF((left * 3 + right) / 4, y)
        yield name, lambda slider=slider, a=a, b=b: hand(slider, _along(a, b))
    for name, editor in list(slip.editors.items()):
        if name in ("ring", "every", "red", "green", "blue"):
            a, b = QPointF(editor.width() * 0.5, editor.height() * 0.2), QPointF(editor.width() * 0.6, 30)
            yield name, lambda editor=editor, a=a, b=b: hand(editor, _along(a, b))
        if name == "stops":
            plane = editor.colour.plane
            a, b = QPointF(60, 60), QPointF(100, 90)
            yield "colour plane", lambda plane=plane, a=a, b=b: hand(plane, _along(a, b))
            band = editor.colour.band
            yield "lightness", lambda band=band: hand(band, _along(QPointF(10, 30), QPointF(10, 110)))
    ladder = window.bench.ladder
    for handle in ladder.every():
        x = 84.0 if handle.coming_in else 117.0
        a, b = QPointF(x, ladder.y_of(handle.tone)), QPointF(x, ladder.y_of(0.5))
        yield f"ladder {handle.key}", lambda a=a, b=b: hand(ladder, _along(a, b))
    trays, k = window.bench.run.trays, window.desk.selected
    bar = trays.places.bar(k)
    yield "tray", lambda: hand(trays, _along(bar.center(), QPointF(bar.left() + 5, bar.center().y())))


def every_control(folder: Path, script: dict[str, Any]) -> list[dict[str, Any]]:
    """Drag every control of every pass, the frame and the brush; what each held the interface thread up by at most.

    A control that was over 33 ms is dragged again, up to four times, and the least counts: see below.
    """
    from PySide6.QtCore import QPointF

    from kyanoscript.ui.app.picture import settle

    window = opened(folder, script)
    probe = Probe()
    wait(1.0)
    rows = [{"pass": "", "control": "nothing (idle)", "longest_ms": probe.longest() * 1e3, "first_ms": 0.0}]

    def count(handle: str, control: str, drag: Callable[[], None]) -> None:
        # The machine itself stops now and then, idle or not. What is our own doing comes back every time.
        tries = []
        while not tries or (tries[-1] > 0.033 and len(tries) < 4):
            settle(window)
            probe.again()
            drag()
            tries.append(probe.longest())
        rows.append({"pass": handle, "control": control, "longest_ms": min(tries) * 1e3, "first_ms": tries[0] * 1e3})

    for k, handle in enumerate(window.desk.script.passes):
        window.desk.select(k)
        settle(window)
        for name, drag in _controls(window):
            count(handle.kind, name, drag)
    window.desk.select(-1)
    settle(window)
    corner = window.easel.frame_tool.corners()[2]
    count("frame", "corner", lambda: hand(window.easel, _along(corner, corner - QPointF(120, 80))))
    window.desk.undo()
    for k in (0, len(window.desk.script.passes) - 1):
        window.desk.select(k)
        window.bench.stencils.draw()
        settle(window)
        a, b = (window.easel.from_picture(QPointF(*p)) for p in ((0.2, 0.3), (0.8, 0.6)))
        count(window.desk.script.passes[k].kind, "brush", lambda a=a, b=b: hand(window.easel, _along(a, b)))
        window.bench.stencils.draw()
    closed(window)
    return rows


def brush(folder: Path, script: dict[str, Any]) -> list[dict[str, Any]]:
    """Painting at 24 MP: from the hand's new place to the mark of the stroke there, and to the print under it."""
    from PySide6.QtCore import QPointF, Qt
    from PySide6.QtTest import QTest

    from kyanoscript.ui.app.picture import settle
    from kyanoscript.ui.service.requests import Mask

    rows = []
    window = opened(folder, script)
    easel, tool = window.easel, window.easel.stencil
    for actual in (False, True):
        for k in (0, len(window.desk.script.passes) - 1):
            window.desk.select(k)
            tool.switch(True)
            (easel.show_actual if actual else easel.show_whole)()
            settle(window)
            marks: list[float] = []
            prints: list[float] = []
            sent: list[tuple[Any, float]] = []
            printed: set[int] = set()  # only when it first comes counts

            def masked(mask: Any) -> None:
                marks.extend(time.perf_counter() - t for s, t in sent if s.passes is mask.cut.script.passes)  # noqa: B023

            def painted(frame: Any) -> None:
                found = [t for s, t in sent if s is frame.look.script and id(s) not in printed]  # noqa: B023
                printed.add(id(frame.look.script))  # noqa: B023
                prints.extend(time.perf_counter() - t for t in found)  # noqa: B023

            window.service.answers(Mask).connect(masked)
            easel.painted.connect(painted)
            middle = QPointF(easel.width() / 2, easel.height() / 2)
            none = Qt.KeyboardModifier.NoModifier
            QTest.mousePress(easel, Qt.MouseButton.LeftButton, none, (middle - QPointF(200, 0)).toPoint())
            for step in range(60):
                at = middle + QPointF(-200 + step * 6, 60 * (step % 7) / 7)
                QTest.mouseMove(easel, at.toPoint())
                sent.append((window.desk.script, time.perf_counter()))
                wait(_EVERY)
            QTest.mouseRelease(easel, Qt.MouseButton.LeftButton, none, middle.toPoint())
            wait(0.5)
            window.service.answers(Mask).disconnect(masked)
            easel.painted.disconnect(painted)
            tool.switch(False)
            window.desk.undo()
            rows.append(
                {
                    "view": "actual" if actual else "whole",
                    "pass": k,
                    "mark_ms": statistics.median(marks) * 1e3 if marks else None,
                    "marks": len(marks),
                    "print_ms": statistics.median(prints) * 1e3 if prints else None,
                    "prints": len(prints),
                }
            )
    closed(window)
    return rows


_EMPTY = """
import time; began = time.perf_counter()
from PySide6.QtWidgets import QApplication, QWidget
class W(QWidget):
    def paintEvent(self, event):
        if not hasattr(self, "seen"):
            self.seen = time.perf_counter() - began, time.process_time()
            app.quit()
app = QApplication([])
w = W(); w.resize(1280, 800); w.show(); app.exec()
print(*w.seen)
"""
_OURS = """
import time; began = time.perf_counter()
import os, sys
from PySide6.QtCore import QEvent, QObject
from PySide6.QtWidgets import QApplication
from kyanoscript.ui.app import start as app
seen = {"first": os.environ["STAYS"]}
def now():
    return time.perf_counter() - began, time.process_time()
class Watch(QObject):
    known = []
    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Paint:
            seen.setdefault("window", now())
            if getattr(watched, "glimpse", None) is not None and not watched.glimpse.isNull():
                seen.setdefault("glimpse", now())
            if hasattr(watched, "painted") and watched not in self.known:
                self.known.append(watched)
                watched.painted.connect(self.painted)
        return False
    def painted(self, frame):
        seen.setdefault("picture", now())
        application.processEvents()
        from PySide6.QtCore import QTimer
        QTimer.singleShot(3500 if seen["first"] else 0, lambda: application.exit(0))
application = QApplication([])
watch = Watch()
application.installEventFilter(watch)
app.run(sys.argv[1:])
print(*seen["window"], *seen.get("glimpse", (0.0, 0.0)), *seen["picture"], flush=True)
import os; os._exit(0)
"""


def start(rounds: int = 7) -> dict[str, Any]:
    """From the start of the process: a window, something of the print, and the print, beside an empty window."""

    # As installed: with compiled bytecode, kept from the round that is not counted, whatever this shell forbids. In
    # that round the print stands on the easel until its glimpse is kept.
    here = {k: v for k, v in os.environ.items() if k != "PYTHONDONTWRITEBYTECODE"}
    kept = tempfile.TemporaryDirectory()
    here["PYTHONPYCACHEPREFIX"] = here["KYANOSCRIPT_CACHE"] = kept.name

    def times(code: str, *words: str) -> list[list[float]]:
        found = []
        for k in range(rounds + 1):
            done = subprocess.run(
                [sys.executable, "-c", code, *words],
                capture_output=True,
                text=True,
                check=True,
                env={**here, "STAYS": "" if k else "1"},
            )
            found.append([float(v) for v in done.stdout.split()])
        return found

    empty, ours = times(_EMPTY), times(_OURS, "--demo")
    kept.cleanup()
    bare, worked = (statistics.median(row[k] for row in empty[1:]) for k in (0, 1))
    found: dict[str, Any] = {"empty": bare, "empty_first": empty[0][0], "empty_processor": worked}
    for k, what in enumerate(("window", "glimpse", "picture")):
        found[what], processor = (statistics.median(row[2 * k + j] for row in ours[1:]) for j in (0, 1))
        found[f"{what}_first"] = ours[0][2 * k]
        found[f"{what}_ratio"] = found[what] / bare
        found[f"{what}_processor"] = processor
        found[f"{what}_processor_ratio"] = processor / worked
    return found


def commands(folder: Path) -> dict[str, Any]:
    """What the smallest of commands take, with bytecode."""
    import three_passes

    photo, script = folder / "small.png", folder / "small.json"
    cv2.imwrite(str(photo), np.random.default_rng(1).integers(0, 255, (64, 64, 3), dtype=np.uint8))
    script.write_text(json.dumps(three_passes.SCRIPT))
    start = [sys.executable, "-X", f"pycache_prefix={folder / 'bytecode'}", "-m", "kyanoscript"]
    lines = {
        "--version": ["--version"], "--help": ["--help"], "passes": ["passes"],
        "render": ["render", str(photo), "--script", str(script), "-o", str(folder / "small-print.png")],
    }  # fmt: skip
    written = os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
    try:
        return {name: measure.best([*start, *words], 5)._asdict() for name, words in lines.items()}
    finally:
        if written is not None:
            os.environ["PYTHONDONTWRITEBYTECODE"] = written
