"""Speed as ratios, both sides measured in the same run on the same machine.

(a) `kyanoscript render` of gray weights + levels + gradient map (soft light, 85 %), a 24 MP 16-bit TIFF to
    a 16-bit TIFF, against the same chain in pyvips: time and peak resident memory of whole processes, start included.
(b) From a changed slider of the last pass to the new pixels on the easel, against copying as many float32 RGB pixels
    once; and the longest time for which the interface thread was held up meanwhile.

Usage: bench.py [--json FILE]
"""

from __future__ import annotations

import argparse
import json
import resource
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import tifffile

from kyanoscript import demo

HERE = Path(__file__).parent
ROUNDS = 5
SCRIPT = {
    "kyanoscript": 1,
    "passes": [
        {"pass": "gray-weights"},
        {"pass": "levels", "in_black": 71, "in_white": 230},
        {
            "pass": "gradient-map",
            "stops": [[0, "#101418"], [100, "#f7efe0"]],
            "strength": 85,
            "blend": "soft-light",
        },
    ],
}


def picture(folder: Path) -> Path:
    """The ferry landing at 6000 × 4000, 16 bits, with a little noise in the low bits; uncompressed strips."""
    small = cv2.imread(str(demo.photo("ferry-landing")))[..., ::-1]
    large = cv2.resize(small, (6000, 4000), interpolation=cv2.INTER_CUBIC).astype(np.uint16) * 256
    large += np.random.default_rng(1).integers(0, 256, large.shape, dtype=np.uint16)
    file = folder / "landing-24mp.tif"
    tifffile.imwrite(file, large, photometric="rgb", rowsperstrip=64)
    return file


LAUNCH = """
import os, sys, time
began = time.perf_counter()
child = os.posix_spawn(sys.argv[1], sys.argv[1:], os.environ)
_, status, usage = os.wait4(child, 0)
print(time.perf_counter() - began, usage.ru_maxrss / 1024, os.waitstatus_to_exitcode(status))
"""


def run(words: list[str]) -> tuple[float, float]:
    """Wall seconds and peak resident megabytes of one process.

    A child's peak counts what its parent held when it was started, so a small interpreter of 10 MB starts it.
    """
    launcher = [sys.executable, "-S", "-E", "-c", LAUNCH, *words]
    seconds, megabytes, status = subprocess.run(launcher, capture_output=True, text=True).stdout.split()[-3:]
    if status != "0":
        raise SystemExit(f"{' '.join(words)} failed")
    return float(seconds), float(megabytes)


def best(words: list[str]) -> tuple[float, float]:
    """The quickest of several runs, and the least memory any of them needed."""
    runs = [run(words) for _ in range(ROUNDS)]
    return min(t for t, _ in runs), min(m for _, m in runs)


def render_against_pyvips(folder: Path) -> dict[str, Any]:
    """Measure (a)."""
    source = picture(folder)
    script = folder / "script.json"
    script.write_text(json.dumps(SCRIPT))
    ours_file, other_file = folder / "ours.tif", folder / "other.tif"
    ours_words = [sys.executable, "-m", "kyanoscript", "render", str(source), "--script", str(script)]
    ours_words += ["-o", str(ours_file)]
    run(ours_words)  # compiles, should that still be needed, and warms the disk's cache
    others = {
        kind: [sys.executable, str(HERE / "pyvips_chain.py"), kind, str(source), str(other_file)]
        for kind in ("composite", "arithmetic")
    }
    measured = {kind: best(words) for kind, words in others.items()}
    chosen = min(measured, key=lambda kind: measured[kind][0])
    ours = best(ours_words)
    run(others["arithmetic"])
    difference = tifffile.imread(ours_file).astype(np.int32) - tifffile.imread(other_file)
    return {
        "ours_seconds": ours[0],
        "ours_megabytes": ours[1],
        "pyvips_chain": chosen,
        "pyvips_seconds": measured[chosen][0],
        "pyvips_megabytes": measured[chosen][1],
        "pyvips_all": measured,
        "time_ratio": ours[0] / measured[chosen][0],
        "memory_ratio": ours[1] / measured[chosen][1],
        "mean_difference_of_255": float(np.abs(difference).mean() / 257),
    }


def slider_to_easel(folder: Path, easel_size: tuple[int, int] | None) -> dict[str, Any]:
    """Measure (b), in a window of 1280 × 800 or with an easel of the given size."""
    from PySide6.QtCore import QEventLoop, Qt, QTimer
    from PySide6.QtWidgets import QApplication

    from kyanoscript.ui import theme
    from kyanoscript.ui.app import settle
    from kyanoscript.ui.window import Window

    application = QApplication.instance() or QApplication([])
    theme.apply(application)  # type: ignore[arg-type]
    sys.setswitchinterval(0.001)
    window = Window()
    window.show()
    if easel_size:
        chrome = window.size() - window.easel.size()
        window.resize(chrome.width() + easel_size[0], chrome.height() + easel_size[1])
    (folder / "script.json").write_text(json.dumps(SCRIPT))
    window.open(folder / "landing-24mp.tif", folder / "script.json")
    settle(window)
    window.desk.select(2)
    settle(window)
    shown: list[Any] = []
    loop = QEventLoop()
    gaps: list[float] = []
    last = [time.perf_counter()]

    def painted(frame: Any) -> None:
        shown.append(frame)
        if frame.view.script is window.desk.script and not frame.coarse:
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
    times = []
    window.desk.begin("Bench")
    for step in range(80):
        if step == 10:
            gaps.clear()
            last[0] = time.perf_counter()
            probe.start()
        began = time.perf_counter()
        window.slip.sliders["strength"]._announce(20 + step * 0.9)
        loop.exec()
        times.append(time.perf_counter() - began)
        # A hand moves on about fifty times a second; surveys come in between.
        QTimer.singleShot(20, loop.quit)
        loop.exec()
    probe.stop()
    window.desk.commit()
    frame = shown[-1]
    pixels = frame.rect.width * frame.rect.height
    a, b = np.ones((2, frame.rect.height, frame.rect.width, 3), np.float32)
    copies = []
    for _ in range(60):
        began = time.perf_counter()
        np.copyto(b, a)
        copies.append(time.perf_counter() - began)
    window.desk.saved_as(Path(), window.desk.script)
    window.close()
    median = float(np.median(times[10:]))
    return {
        "easel": f"{window.easel.width()}x{window.easel.height()}",
        "pixels": pixels,
        "median_ms": median * 1e3,
        "best_ms": min(times[10:]) * 1e3,
        "copy_ms": float(np.median(copies)) * 1e3,
        "ratio": median / float(np.median(copies)),
        "interface_longest_ms": max(gaps) * 1e3 - 2,
        "interface_99_percent_ms": float(np.percentile(gaps, 99)) * 1e3 - 2,
    }


def main() -> None:
    """Measure and print."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--json", type=Path)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        a = render_against_pyvips(folder)
        b = [slider_to_easel(folder, None), slider_to_easel(folder, (1280, 800))]
    print("(a) 24 MP, 16-bit TIFF to 16-bit TIFF: gray weights, levels, gradient map in soft light at 85 %")
    print(f"{'':14}{'time':>10}{'memory':>12}")
    print(f"{'kyanoscript':14}{a['ours_seconds']:>8.2f} s{a['ours_megabytes']:>9.0f} MB")
    print(f"{'pyvips':14}{a['pyvips_seconds']:>8.2f} s{a['pyvips_megabytes']:>9.0f} MB   ({a['pyvips_chain']})")
    print(f"{'ratio':14}{a['time_ratio']:>8.2f} ×{a['memory_ratio']:>9.2f} ×    aim: at most 0.70 × and 1.00 ×")
    print(f"mean difference of the two prints: {a['mean_difference_of_255']:.3f} of 255\n")
    print("(b) a slider of the last pass to new pixels on the easel, 24 MP photograph, whole view")
    for row in b:
        print(
            f"easel {row['easel']:>9}, print {row['pixels'] / 1e6:.2f} MP: median {row['median_ms']:.1f} ms, best "
            f"{row['best_ms']:.1f} ms; one float32 copy {row['copy_ms']:.2f} ms; ratio {row['ratio']:.1f} × (aim: 12); "
            f"interface held up at most {row['interface_longest_ms']:.1f} ms, 99 % under "
            f"{row['interface_99_percent_ms']:.1f} ms (aim: 16)"
        )
    print(f"\npeak memory of this process: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    if options.json:
        options.json.write_text(json.dumps({"render": a, "slider": b}, indent=2) + "\n")


if __name__ == "__main__":
    main()
