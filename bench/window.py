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
STEPS, WARM = 60, 10


def drags(
    folder: Path, script: dict[str, Any], moves: list[Move], easel: tuple[int, int] | None = None, actual: bool = False
) -> list[dict[str, Any]]:
    """Drag controls one after another at 24 MP, in a window of 1280 × 800 or with an easel of the given size."""
    from PySide6.QtWidgets import QApplication

    from kyanoscript.ui.app.start import settle
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
    window.desk.saved_as(Path(), window.desk.script)
    window.close()
    return found


def _drag(window: Any, move: Move) -> dict[str, Any]:
    """Move one slider step by step, waiting for the finished picture of every step."""
    from PySide6.QtCore import QEventLoop, Qt, QTimer

    index, name, start, end = move
    shown: list[Any] = []
    firsts: list[float] = []  # until any new picture, coarse or fine
    began = [0.0]
    loop = QEventLoop()
    gaps: list[float] = []
    last = [time.perf_counter()]

    def painted(frame: Any) -> None:
        shown.append(frame)
        if began[0] and frame.look.script is window.desk.script:
            firsts.append(time.perf_counter() - began[0])
            began[0] = 0.0
        if frame.look.script is window.desk.script and not frame.coarse:
            loop.quit()

    def beat() -> None:
        now = time.perf_counter()
        gaps.append(now - last[0])
        last[0] = now

    window.easel.painted.connect(painted)
    probe = QTimer()
    probe.setTimerType(Qt.TimerType.PreciseTimer)
    probe.setInterval(2)
    probe.timeout.connect(beat)
    last[0] = time.perf_counter()
    probe.start()
    QTimer.singleShot(400, loop.quit)
    loop.exec()
    idle = max(gaps)  # what the machine itself holds the thread up by
    times = []
    window.desk.begin("Bench")
    for step in range(STEPS):
        if step == WARM:
            gaps.clear()
            last[0] = time.perf_counter()
        began[0] = start_ = time.perf_counter()
        window.bench.slip.sliders[name]._announce(start + (end - start) * step / STEPS)
        loop.exec()
        times.append(time.perf_counter() - start_)
        # A hand moves on about fifty times a second; surveys come in between.
        QTimer.singleShot(20, loop.quit)
        loop.exec()
    probe.stop()
    window.desk.commit()
    window.easel.painted.disconnect(painted)
    frame = shown[-1]
    a, b = np.ones((2, frame.rect.height, frame.rect.width, 3), np.float32)
    copies = []
    for _ in range(60):
        began = time.perf_counter()
        np.copyto(b, a)
        copies.append(time.perf_counter() - began)
    first = float(np.median(firsts[WARM:]))
    median, copy = float(np.median(times[WARM:])), float(np.median(copies))
    return {
        "pass": index,
        "slider": name,
        "easel": f"{window.easel.width()}x{window.easel.height()}",
        "megapixels": frame.rect.width * frame.rect.height / 1e6,
        "median_ms": median * 1e3,
        "frames_a_second": 1 / median,
        "first_ms": first * 1e3,
        "copy_ms": copy * 1e3,
        "ratio": median / copy,
        "interface_longest_ms": max(gaps) * 1e3 - 2,
        "interface_99_percent_ms": float(np.percentile(gaps, 99)) * 1e3 - 2,
        "interface_idle_ms": idle * 1e3 - 2,
    }


def line(row: dict[str, Any], aim: str) -> str:
    """One measurement in words."""
    return (
        f"pass {row['pass'] + 1:>2} {row['slider']:<9} easel {row['easel']:>9} {row['megapixels']:.2f} MP: median "
        f"{row['median_ms']:6.1f} ms, {row['frames_a_second']:5.1f} a second (any picture {row['first_ms']:.0f} ms), "
        f"{row['ratio']:5.1f} × one float32 copy ({aim}); interface held up {row['interface_longest_ms']:.1f} ms at "
        f"most, 99 % under {row['interface_99_percent_ms']:.1f} (idle: {row['interface_idle_ms']:.1f})"
    )
