"""Editions: two processes against one, and what of a hand's moves is seen while an edition is at work behind it."""

from __future__ import annotations

import json
import multiprocessing
import os
import shutil
import signal
import sys
from pathlib import Path
from typing import Any

import measure
import twelve_passes

_COUNT = 6  # photographs of 24 MP
_KINDS = ("jpg", "tif")
_TIMES = 5  # that a drag is measured each way


def processes(folder: Path) -> list[dict[str, Any]]:
    """Six photographs of 24 MP through twelve passes: by one process and by two, in turn, twice each."""
    source, script = measure.picture(folder), folder / "twelve.json"
    script.write_text(json.dumps(twelve_passes.script()))
    inside = folder / "edition"
    inside.mkdir(exist_ok=True)
    for k in range(_COUNT):
        os.link(source, inside / f"quay-{k}{source.suffix}")
    rows = []
    for kind in _KINDS:
        seconds: dict[int, list[float]] = {1: [], 2: []}
        for _ in range(2):
            for jobs in seconds:
                target = folder / "prints"
                words = [sys.executable, "-m", "kyanoscript", "edition", str(inside), "--script", str(script), "-q"]
                words += ["-o", str(target), "--format", kind, "--jobs", str(jobs)]
                seconds[jobs].append(measure.run(words)[0])
                shutil.rmtree(target)
        rows.append(
            {"kind": kind, "one": min(seconds[1]), "two": min(seconds[2]), "ratio": min(seconds[1]) / min(seconds[2])}
        )
    shutil.rmtree(inside)
    return rows


def frames(folder: Path) -> dict[str, Any]:
    """A slider of the twelve passes dragged, sixty moves a second, in turn while an edition's processes are held still
    and while they work; of each the middle one."""
    import interface
    import window as drags
    from kyanoscript.ui.jobs.lanes import until

    window = interface.opened(folder, twelve_passes.script())
    inside = folder / "edition"
    inside.mkdir(exist_ok=True)
    source = measure.picture(folder)
    for k in range(60):
        os.link(source, inside / f"quay-{k}{source.suffix}")
    window.registry.go(window.edition)
    room = window.edition.room
    room.setup.add([inside])
    until(lambda: bool(room.series.edition.entries))
    room.series.whence(window.desk.script, "the bench", "bench")
    room.series.put("Into", folder=folder / "prints", ending="jpg")
    until(lambda: bool(room.series.tasks))
    window.registry.go(window.bench)
    move = (3, "gamma", 0.8, 1.6)
    window.desk.select(move[0])
    room.series.look(room.work.start)
    until(lambda: room.work.share > 0)
    pids = [child.pid for child in multiprocessing.active_children() if child.pid is not None]
    rows: dict[str, list[dict[str, Any]]] = {"at rest": [], "at work": []}
    for _ in range(_TIMES):
        for name, number in (("at rest", signal.SIGSTOP), ("at work", signal.SIGCONT)):
            for pid in pids:
                os.kill(pid, number)
            until(lambda: window.service.idle())
            rows[name].append(drags._drag(window, move))
    room.work.stop()
    until(lambda: room.work.running is None)
    interface.closed(window)
    shutil.rmtree(inside)
    found = {}
    for name, each in rows.items():
        in_order = sorted(each, key=lambda row: float(row["frames_a_second"]))
        found[name] = in_order[len(each) // 2]
    return found
