"""The campaign: everything that must not happen, tried. ``make campaign`` and ``make campaign-long``.

    python tools/campaign/run.py short|usual|long [--seed N] [--only PART] [--keep FOLDER] [--json FILE]

Ends with status 1 if anything was found: a signal, a hang of over five seconds, an exception that escaped, an
exception's own words before a person, work older than ten seconds lost, a half-written file left behind, a photograph
changed, another file from the same work.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import bombs
import exits
import faults
import kills
import lists
import pictures
import same
import scripts
import strangers
import texts

from common import Report

HERE = Path(__file__).parent
# How much of each part: two minutes, seven, about seventy on two cores
SIZES = {
    "short": {"pictures": 500, "lists": 250, "texts": 60, "bombs": 19, "scripts": 60, "kills": 2, "exits": 5,
              "hands": 6, "strangers": 2, "same": 0},
    "usual": {"pictures": 5000, "lists": 2500, "texts": 500, "bombs": 57, "scripts": 600, "kills": 8, "exits": 15,
              "hands": 45, "strangers": 4, "same": 0},
    "long": {"pictures": 24_000, "lists": 20_000, "texts": 5000, "bombs": 570, "scripts": 5500, "kills": 160,
             "exits": 100, "hands": 900, "strangers": 99, "same": 4},
}  # fmt: skip


def apart(part: str, *words: object) -> Report:
    """A part that wants a process of its own, since a window may take it down."""
    return told(part, [sys.executable, "-W", "ignore", str(HERE / f"{part}.py"), *map(str, words)])


def told(part: str, argv: list[str]) -> Report:
    """What such a process found; that it told it is no leave to die afterwards."""
    done = subprocess.run(argv, capture_output=True, text=True)
    try:
        data = json.loads(done.stdout.strip().splitlines()[-1])
    except (IndexError, ValueError):
        report = Report(part)
        report.found(f"ended with {done.returncode} without a word: {done.stderr[-1500:]}")
        return report
    report = Report(data["part"], findings=data["findings"], figures=data["figures"])
    report.tally.update(data["tally"])
    if done.returncode != bool(report.findings):
        report.findings.append(f"ended with {done.returncode} after its report: {done.stderr[-1500:]}")
    for line in report.findings:
        print(f"  {part}: {line[:600]}", flush=True)
    return report


def parts(size: dict[str, int], seed: int, keep: Path | None) -> Iterator[tuple[str, Callable[[], Report]]]:
    """Every part by its name, in the order in which they are run."""
    yield "pictures", lambda: pictures.run(size["pictures"], seed, keep)
    yield "lists", lambda: lists.run(size["lists"], seed, keep)
    yield "texts", lambda: texts.run(size["texts"], seed)
    yield "bombs", lambda: bombs.run(size["bombs"], seed, 2500 if size["bombs"] < 50 else 4000)
    yield "exits", lambda: exits.run(size["exits"], seed)
    yield "scripts", lambda: scripts.run(size["scripts"], seed, keep)
    yield "strangers", lambda: strangers.run(size["strangers"])
    yield "faults", faults.run
    yield "windows", lambda: apart("windows")
    yield "kills", lambda: kills.cli(size["kills"], seed)
    yield "kills", lambda: kills.window(max(1, size["kills"] // 3), seed, "window")
    yield "kills", lambda: kills.window(max(1, size["kills"] // 3), seed, "journal")
    yield "kills", lambda: kills.window(max(1, size["kills"] // 4), seed, "exporting")
    yield "hands", lambda: apart("hands", size["hands"], seed)
    if size["same"]:
        yield "same", lambda: same.run(size["same"], seed)


def main() -> int:
    """Run it; the status tells whether anything was found."""
    parser = argparse.ArgumentParser(description="Everything that must not happen, tried.")
    parser.add_argument("size", choices=SIZES)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument(
        "--only", action="append", help="a part: pictures, scripts, strangers, faults, windows, kills …"
    )
    parser.add_argument("--keep", type=Path, help="folder for files that did what must not be")
    parser.add_argument("--json", type=Path, help="file for the figures")
    options = parser.parse_args()
    size = SIZES[options.size]
    reports, began = [], time.monotonic()
    for name, do in parts(size, options.seed, options.keep):
        if options.only and name not in options.only:
            continue
        start = time.monotonic()
        report = do()
        reports.append(report)
        took = time.monotonic() - start
        print(f"{report.part}: {dict(report.tally)} {report.figures or ''} in {took:.0f} s", flush=True)
    if options.json is not None:
        options.json.write_text(json.dumps([report.to_json() for report in reports], indent=1))
    found = sum(len(report.findings) for report in reports)
    print(f"{found or 'nothing'} found, seed {options.seed}, {time.monotonic() - began:.0f} s")
    return int(bool(found))


if __name__ == "__main__":
    sys.exit(main())
