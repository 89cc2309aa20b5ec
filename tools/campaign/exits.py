"""Programs that end by an exception, by an exit and by an interrupt while threads render: each with its own status."""

from __future__ import annotations

import random
import subprocess
import sys

from common import Report, room

# What is done, and the status that it ends with
WAYS = {
    "an exception": ("raise RuntimeError('the end')", 1),
    "an exit": ("sys.exit(7)", 7),
    "an interrupt": ("os.kill(os.getpid(), signal.SIGINT); time.sleep(60)", 130),
    "quitting": ("application.quit(); application.processEvents()", 0),
    "nothing": ("pass", 0),
}
PROGRAM = """
import os, signal, sys, time
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from PySide6.QtWidgets import QApplication
from kyanoscript import demo
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.widgets import theme
application = QApplication([])
theme.apply(application)
window = Window()
window.show()
print_ = demo.PRINTS[{which}]
window.opening.open(print_.photo, print_.script)
end = time.monotonic() + {seconds}
while time.monotonic() < end:
    application.processEvents()
    {stir}
signal.signal(signal.SIGINT, lambda *_: sys.exit(130))
{way}
"""
STIRS = ("pass", "window.easel.set_zoom(1 + time.monotonic() % 3)", "window.registry.go(window.recipes)")


def run(count: int, seed: int) -> Report:
    """So many programs, of every way in turn."""
    report, r = Report("exits"), random.Random(seed)
    room()
    from kyanoscript import demo

    for k in range(count):
        name, (way, status) = list(WAYS.items())[k % len(WAYS)]
        words = PROGRAM.format(
            which=r.randrange(len(demo.PRINTS)), seconds=round(r.uniform(0, 2.5), 2), stir=r.choice(STIRS), way=way
        )
        try:
            done = subprocess.run([sys.executable, "-c", words], capture_output=True, text=True, timeout=120)
        except subprocess.TimeoutExpired:
            report.found(f"{name}, seed {seed} number {k}: does not end")
            continue
        report.tally[name] += 1
        if done.returncode != status:
            report.found(f"{name}, seed {seed} number {k}: status {done.returncode}, {done.stderr[-300:]!r}")
    return report
