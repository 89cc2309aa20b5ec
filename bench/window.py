"""From a moved control to new pixels on the easel, and how long the interface thread is held up meanwhile."""

from __future__ import annotations

import json
import sys
import time
from pathlib import Path
from typing import Any

import numpy as np

import measure

Move = tuple[int, str, float, float]  # pass, slider, from, to
SECONDS, WARM = 3.5, 1.0


def drags(
    folder: Path, script: dict[str, Any], moves: list[Move], easel: tuple[int, int] | None = None, actual: bool = False
) -> list[dict[str, Any]]:
    """Drag controls one after another at 24 MP, in a window of 1280 × 800 or with an easel of the given size."""
    from PySide6.QtWidgets import QApplication

    from kyanoscript.ui.app.picture import settle
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.widgets import theme

    application = QApplication.instance() or QApplication([])
    theme.apply(application)  # type: ignore[arg-type]
    sys.setswitchinterval(0.001)
    window = Window()
    window.show()
    if easel:
        chrome = window.size() - window.easel.size()
        window.resize(chrome.width() + easel[0], chrome.height() + easel[1])
    (folder / "script.json").write_text(json.dumps(script))
    window.opening.open(measure.picture(folder), folder / "script.json")
    settle(window)
    if actual:
        window.easel.show_actual()
    found = []
    for move in moves:
        window.desk.select(move[0])
        settle(window)
        found.append(_drag(window, move))
        settle(window)
    window.desk.saved_as(Path(), window.desk.whole)
    window.close()
    return found


def _drag(window: Any, move: Move) -> dict[str, Any]:
    """A slider moved to and fro as a hand does, sixty times a second; then the hand rests."""
    from PySide6.QtCore import QEventLoop, Qt, QTimer

    index, name, start, end = move
    shown: list[tuple[float, Any]] = []
    loop = QEventLoop()
    gaps: list[float] = []
    last = [time.perf_counter()]

    def painted(frame: Any) -> None:
        if not shown or shown[-1][1] is not frame:
            shown.append((time.perf_counter(), frame))

    def beat() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    pause = QTimer()
    pause.setTimerType(Qt.TimerType.PreciseTimer)
    pause.setSingleShot(True)
    pause.timeout.connect(loop.quit)

    def wait(milliseconds: int) -> None:
        pause.start(milliseconds)
        loop.exec()

    window.easel.painted.connect(painted)
    probe = QTimer()
    probe.setTimerType(Qt.TimerType.PreciseTimer)
    probe.setInterval(5)  # more often it would take part in the work
    probe.timeout.connect(beat)
    last[0] = time.perf_counter()
    probe.start()
    wait(400)
    idle = max(gaps, default=0.0)  # what the machine itself holds the thread up by
    slider = window.bench.slip.sliders[name]
    window.desk.begin("Bench")
    began = time.perf_counter()
    moved: list[float] = []
    steps, worked, meanwhile = 0, time.process_time(), None
    while (passed := time.perf_counter() - began) < WARM + SECONDS:
        if passed > WARM and not moved:
            gaps.clear()
            shown.clear()
            worked, meanwhile = time.process_time(), measure.Meanwhile()
        share = abs((passed / 1.7) % 2 - 1)  # there and back in three seconds and a half
        slider._announce(start + (end - start) * share)
        if passed > WARM:
            moved.append(time.perf_counter())
        steps += 1
        wait(max(0, round((began + steps / 60 - time.perf_counter()) * 1e3)))
    ended, frames, worked = time.perf_counter(), [at for at, _ in shown], time.process_time() - worked
    others = meanwhile.others() if meanwhile else 0.0
    coarse = sum(frame.coarse for _, frame in shown)
    late = max(gaps, default=0.0), float(np.percentile(gaps or [0.0], 99))
    rests = []
    for k in range(5):  # the hand comes to rest
        slider._announce(start + (end - start) * (0.3 + 0.1 * k))
        rested = time.perf_counter()
        shown.clear()
        while not any(not f.coarse and f.look.script is window.desk.script for _, f in shown):
            wait(5)
            if time.perf_counter() - rested > 5:
                break
        rests.append(time.perf_counter() - rested)
    probe.stop()
    window.desk.commit()
    window.easel.painted.disconnect(painted)
    # From beginning to end: a machine that shows one picture in all that time, or none, is measured too.
    apart = np.diff([began + WARM, *frames, ended])
    rect = window.easel.frame.rect
    return {
        "pass": index,
        "slider": name,
        "easel": f"{window.easel.width()}x{window.easel.height()}",
        "megapixels": rect.width * rect.height / 1e6,
        "frames_a_second": len(frames) / float(apart.sum()),
        "longest_wait_ms": float(apart.max()) * 1e3,
        "moves_a_second": len(moved) / float(apart.sum()),
        "processor_ms_a_picture": worked * 1e3 / max(1, len(frames)),
        "others": others,
        "coarse_share": coarse / max(1, len(frames)),
        "finest": window.service._memory.pace.now(index),
        "sharp_ms": float(np.median(rests)) * 1e3,
        "interface_longest_ms": late[0] * 1e3 - 5,
        "interface_99_percent_ms": late[1] * 1e3 - 5,
        "interface_idle_ms": idle * 1e3 - 5,
    }


def line(row: dict[str, Any], aim: str) -> str:
    """One measurement in words."""
    return (
        f"pass {row['pass'] + 1:>2} {row['slider']:<9} easel {row['easel']:>9} {row['megapixels']:.2f} MP: "
        f"{row['frames_a_second']:5.1f} of {row['moves_a_second']:.0f} a second at {row['finest']:.2f} of the scale "
        f"(longest wait {row['longest_wait_ms']:.0f} ms), sharp {row['sharp_ms']:.0f} ms after rest, "
        f"processor {row['processor_ms_a_picture']:.0f} ms a picture, others {100 * row['others']:.0f} % ({aim}); "
        f"interface held up {row['interface_longest_ms']:.1f} ms at most, "
        f"99 % under {row['interface_99_percent_ms']:.1f} (idle: {row['interface_idle_ms']:.1f})"
    )
