"""The same script and photograph: the same bytes, in every run, by window and command line."""

from __future__ import annotations

import os
import random
import subprocess
from pathlib import Path

from common import Report, command, room


def run(times: int, seed: int) -> Report:
    """Every quick demo print so many times, with other numbers of threads and elsewhere in memory."""
    from kyanoscript import demo

    report, r, here = Report("same twice"), random.Random(seed), room()
    for entry in demo.PRINTS:
        if entry.word in ("hand-tint", "by-model", "washing-day"):
            continue
        for suffix in (".tif", ".png", ".jpg"):
            kinds: set[bytes] = set()
            for _ in range(times):
                out: Path = here / f"{entry.word}{suffix}"
                words = ["render", str(entry.photo), "--script", str(entry.script), "-o", str(out), "-q"]
                words += ["--threads", str(r.choice((1, 2, 3, 4))), "--longer-side", "1300"]
                # The size of the environment moves everything that follows it in memory.
                environment = {**os.environ, "KYANOSCRIPT_PADDING": "x" * r.randrange(4000)}
                subprocess.run([*command(), *words], check=True, capture_output=True, env=environment)
                kinds.add(out.read_bytes())
                report.tally["prints"] += 1
            if len(kinds) > 1:
                report.found(f"{entry.word}{suffix}: {len(kinds)} different files of {times}")
    return report
