"""Killed at random moments: what lies in the target, what is left over, how old the recovered work is."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import random
import subprocess
import sys
import threading
import time
import zipfile
from pathlib import Path

import numpy as np
import tifffile

from common import Report, command, room

OLDEST = 10.0  # seconds: work that is older than this must come back
SUFFIXES = (".tif", ".png", ".jpg")

# A window in which edits are made all the time; with saves and exports, or with exports that last.
CHILD = r"""
import sys, time
from pathlib import Path
from PySide6.QtWidgets import QApplication
from PySide6.QtCore import QTimer
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.widgets import theme
mode, folder, photo = sys.argv[1], Path(sys.argv[2]), Path(sys.argv[3])
app = QApplication([]); theme.apply(app); sys.setswitchinterval(0.001)
w = Window(); w.show(); w.opening.open(photo); settle(w); w.bench.passes.add("levels")
if mode == "exporting":
    for kind in ("local-contrast", "mist", "soften", "grain"): w.bench.passes.add(kind)
    w.desk.select(0)
n = 0
def say(*words): print(*words, f"{time.time():.4f}", flush=True)
def edit():
    global n
    n += 1
    w.desk.set_values("note", gamma=round(0.3 + (n % 900) / 400, 4), note=str(n))
    say("edit", n)
def save(): w.saving.save_to(folder / "print.kyano", over=True)
def export(): w.printing.export(folder / f"print{('.tif', '.png', '.jpg')[n % 3]}", Settings(longer_side=500))
def export_all():
    if w.printing.running is None: w.printing.export(folder / "print.tif", Settings())
timers = []
def every(ms, do):
    t = QTimer(); t.timeout.connect(do); t.start(ms); timers.append(t)
every(130, edit)
if mode == "window": every(170, save); every(210, export)
if mode == "exporting": export_all(); every(300, export_all)
say("ready")
app.exec()
"""


def incomplete(path: Path) -> str:
    """Empty if the file can be read to its end."""
    try:
        if path.suffix == ".kyano":
            with zipfile.ZipFile(path) as archive:
                if archive.testzip():
                    return "a damaged entry"
                json.loads(archive.read("script.json"))
        else:
            from kyanoscript.files.photos.photo import open_photo

            open_photo(path)
    except Exception as wrong:
        return f"{type(wrong).__name__}: {wrong}"
    return ""


def _digest(path: Path) -> str:
    return hashlib.sha256(path.read_bytes()).hexdigest()


def cli(count: int, seed: int) -> Report:
    """`render` killed: the target is as it was, or wholly new with the very bytes of an undisturbed run."""
    from kyanoscript import demo

    report, r, here = Report("kills of render"), random.Random(seed), room()
    photo, script = demo.photo("ferry-landing"), demo.finished("sepia").script
    common = [*command(), "render", str(photo), "--script", str(script), "--longer-side", "1200", "-q", "-o"]
    whole = {}
    for suffix in SUFFIXES[:count]:
        began = time.time()
        subprocess.run([*common, str(here / f"new{suffix}")], check=True, capture_output=True)
        whole[suffix] = (_digest(here / f"new{suffix}"), time.time() - began)
    for k in range(count):
        suffix = SUFFIXES[k % 3]
        target = here / f"print{suffix}"
        target.write_bytes(b"old" * 1000)
        quiet = subprocess.DEVNULL
        process = subprocess.Popen([*common, str(target)], stdout=quiet, stderr=quiet)
        time.sleep(r.uniform(0.25, 1.05) * whole[suffix][1])
        process.kill()
        process.wait()
        found = target.read_bytes()
        which = "old" if found == b"old" * 1000 else "new" if _digest(target) == whole[suffix][0] else "other"
        report.tally["kills"] += 1
        report.tally[f"target {which}"] += 1
        if which == "other":
            report.found(f"{target.name}: neither the old nor the new file: {incomplete(target) or 'other bytes'}")
    subprocess.run([*common, str(here / "print.tif")], check=True, capture_output=True)
    left = list(here.glob(".*.part"))
    if left:
        report.found(f"{len(left)} left-over files after another write beside them")
    return report


def window(count: int, seed: int, mode: str) -> Report:
    """A window killed in the middle of ``mode``: window (saves and exports), journal, or exporting (long ones)."""
    from kyanoscript import demo
    from kyanoscript.files.kept.journal import find_lost

    report, r, here = Report(f"kills of the window, {mode}"), random.Random(seed), room()
    photo = demo.photo("ferry-landing")
    if mode == "exporting":
        photo = here / "large.tif"
        rng = np.random.default_rng(1)
        pixels = rng.integers(0, 60_000, (600, 900, 3), dtype=np.uint16).repeat(7, 0).repeat(7, 1)
        tifffile.imwrite(photo, pixels, photometric="rgb")
    before, ages = _digest(photo), []
    for k in range(count):
        if k % 10 == 0:
            os.environ["KYANOSCRIPT_STATE"] = str(here / f"state-{k}")
        wait = r.uniform(0.05, 4) if mode == "window" else r.uniform(2, 11 if count > 1 else 5)
        edits, killed = _killed(mode, here, photo, wait)
        report.tally["kills"] += 1
        for path in here.glob("print.*"):
            wrong = incomplete(path)
            report.tally["files looked at"] += 1
            if wrong:
                report.found(f"{path.name} is damaged: {wrong}")
        age = _age(edits, killed, find_lost())
        if mode != "window":
            ages.append(age)
        if age > OLDEST:
            report.found(f"work of {age:.1f} s is lost ({mode})")
    if _digest(photo) != before:
        report.found("the photograph's file has changed")
    report.figures = {"seconds of work lost, median": sorted(ages)[len(ages) // 2] if ages else None}
    report.figures["most"] = max(ages, default=None)
    return report


def _killed(mode: str, here: Path, photo: Path, wait: float) -> tuple[dict[int, float], float]:
    """One window, killed so many seconds after it was ready: when each edit was made, and when it was killed."""
    words = [sys.executable, "-c", CHILD, mode, str(here), str(photo)]
    with subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True) as process:
        assert process.stdout is not None
        lines: list[str] = []
        while line := process.stdout.readline():
            if line.startswith("ready"):
                break
        reader = threading.Thread(target=lambda: lines.extend(process.stdout or ()), daemon=True)
        reader.start()
        time.sleep(wait)
        process.kill()
        killed = time.time()
        process.wait()
        reader.join(5)
    edits = {}
    for line in lines:
        word, *rest = line.split() or [""]
        if word == "edit" and len(rest) == 2 and len(rest[1]) >= 15:
            edits[int(rest[0])] = float(rest[1])
    return edits, killed


def _age(edits: dict[int, float], killed: float, lost: object) -> float:
    """How old the oldest edit is that does not come back."""
    kept = 0
    if lost is not None:
        with contextlib.suppress(ValueError):
            kept = int(lost.script.passes[0].note or 0)  # type: ignore[attr-defined]
        lost.drop()  # type: ignore[attr-defined]
    return round(max((killed - made for n, made in edits.items() if n > kept), default=0.0), 2)
