"""What every bench needs: pictures of any size, and time and memory of whole processes."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path
from typing import NamedTuple

import cv2
import numpy as np
import tifffile

from kyanoscript import demo

HERE = Path(__file__).parent
ROUNDS = 5
TILE = 256


def picture(folder: Path, megapixels: int = 24, tiled: bool = False) -> Path:
    """The ferry landing at 24 MP (or, laid side by side, at any size), 16 bits, with noise in the low bits; 3:2."""
    file = folder / f"landing-{megapixels}mp{'-tiled' if tiled else ''}.tif"
    if file.exists():
        return file
    small = cv2.imread(str(demo.photo("ferry-landing")))[..., ::-1]
    height = round((megapixels * 1e6 / 1.5) ** 0.5)
    width = round(height * 1.5)
    if not tiled:
        large = cv2.resize(small, (width, height), interpolation=cv2.INTER_CUBIC).astype(np.uint16) * 256
        large += np.random.default_rng(1).integers(0, 256, large.shape, dtype=np.uint16)
        tifffile.imwrite(file, large, photometric="rgb", rowsperstrip=64)
        return file

    def tiles():  # type: ignore[no-untyped-def]
        rng = np.random.default_rng(1)
        high = -(-small.shape[0] * width // small.shape[1]) if width < small.shape[1] else small.shape[0]
        base = cv2.resize(small, (min(width, small.shape[1]), high), interpolation=cv2.INTER_AREA).astype(np.uint16)
        for y in range(0, height, TILE):
            rows = np.arange(y, y + TILE) % base.shape[0]
            for x in range(0, width, TILE):
                tile = base[rows][:, np.arange(x, x + TILE) % base.shape[1]] * 256
                yield tile + rng.integers(0, 256, tile.shape, dtype=np.uint16)

    tifffile.imwrite(
        file, tiles(), shape=(height, width, 3), dtype=np.uint16, photometric="rgb", tile=(TILE, TILE), bigtiff=True
    )
    return file


LAUNCH = """
import os, sys, time
began = time.perf_counter()
child = os.posix_spawn(sys.argv[1], sys.argv[1:], os.environ)
_, status, usage = os.wait4(child, 0)
took = usage.ru_utime + usage.ru_stime
print(time.perf_counter() - began, usage.ru_maxrss / 1024, took, os.waitstatus_to_exitcode(status))
"""


class Run(NamedTuple):
    """What a process took."""

    seconds: float  # by the clock
    megabytes: float  # at its peak
    processor: float  # seconds of processor time, which hardly depend on what else the machine does


def run(words: list[str]) -> Run:
    """One process, from its start to its end.

    A child's peak counts what its parent held when it was started, so a small interpreter of 10 MB starts it.
    """
    launcher = [sys.executable, "-S", "-E", "-c", LAUNCH, *words]
    done = subprocess.run(launcher, capture_output=True, text=True)
    *took, status = done.stdout.split()[-4:]
    if status != "0":
        raise SystemExit(f"{' '.join(words)} failed: {done.stderr}")
    return Run(*map(float, took))


def best(words: list[str], rounds: int = ROUNDS) -> Run:
    """The quickest of several runs, and the least memory and processor time any of them needed."""
    return Run(*map(min, zip(*(run(words) for _ in range(rounds)), strict=True)))


class Meanwhile:
    """How much of the processors others took, from its making on: what is measured beside them is not to be trusted."""

    def __init__(self) -> None:
        self._began = self._all(), self._own(), time.perf_counter()

    @staticmethod
    def _all() -> float:
        """Seconds that the processors were at work, or taken from this machine by the one that it runs on."""
        user, nice, system, _, _, irq, soft, steal, *_ = map(int, Path("/proc/stat").read_text().split()[1:11])
        return (user + nice + system + irq + soft + steal) / os.sysconf("SC_CLK_TCK")

    @staticmethod
    def _own() -> float:
        return sum(os.times()[:4])

    def others(self) -> float:
        """Their share of the processors, 0…1."""
        worked, own, began = self._began
        taken = (self._all() - worked) - (self._own() - own)
        return max(taken, 0.0) / max(time.perf_counter() - began, 1e-9) / (os.cpu_count() or 1)


def render_words(source: Path, script: Path, target: Path, *more: str) -> list[str]:
    """The command that renders."""
    words = [sys.executable, "-m", "kyanoscript", "render", str(source), "--script", str(script), "-o", str(target)]
    return [*words, *more]
