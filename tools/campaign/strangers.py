"""Scripts from a stranger that name files, heavy ones, and a folder full of traps."""

from __future__ import annotations

import json
import os
import subprocess
import time
from pathlib import Path

from PIL import Image

from common import LIMIT, Report, command, room


def _names(here: Path, secret: Path, pipe: Path) -> dict[str, str]:
    return {
        "elsewhere": str(secret), "above": "../secret.png", "a link": "link.png", "passwd": "/etc/passwd",
        "zeros": "/dev/zero", "noise": "/dev/urandom", "stdin": "/dev/stdin", "terminal": "/dev/tty",
        "memory": "/proc/kcore", "own memory": "/proc/self/mem", "a pipe": str(pipe), "NUL": "a\0b.png",
        "5000 letters": "x" * 5000 + ".png", "300 letters": "x" * 300 + ".png", "a folder": str(here),
        "lone surrogate": "\ud800.png", "a new line": "a\nb.png", "home": "~/x.png", "nothing": " ",
    }  # fmt: skip


def _heavy() -> dict[str, str]:
    entry: dict[str, object] = {"pass": "plate", "run": [{"pass": "levels"}]}
    for _ in range(6):
        entry = {"pass": "plate", "run": [entry] * 5}
    rich = '{"pass":"levels","gamma":1.2,"in_black":3,"note":"a","strength":50}'
    return {
        "100 000 passes": '{"kyanoscript":1,"passes":[' + ",".join(['{"pass":"levels"}'] * 100_000) + "]}",
        "100 000 rich passes": '{"kyanoscript":1,"passes":[' + ",".join([rich] * 100_000) + "]}",
        "plates 1000 deep": '{"kyanoscript":1,"passes":[' + '{"pass":"plate","run":[' * 1000 + "]}" * 1001,
        "deep and wide": json.dumps({"kyanoscript": 1, "passes": [entry]}),
        "5000 digits": '{"kyanoscript":' + "9" * 5000 + "}",
    }


def run(limit: int | None = None) -> Report:
    """Everything, or the first ``limit`` of each kind; each answer at once, in one line, with status 0 or 2."""
    from kyanoscript import demo

    report, here = Report("strangers"), room() / "home"
    here.mkdir()
    secret, pipe, script = here.parent / "secret.png", here / "pipe.png", here / "plate.json"
    Image.new("RGB", (40, 40), (200, 10, 10)).save(secret)
    os.mkfifo(pipe)
    (here / "link.png").symlink_to(secret)
    out = here / "o.jpg"
    render = ["render", str(demo.photo()), "--script", str(script), "-o", str(out), "--longer-side", "100"]
    slowest = 0.0

    def say(words: list[str], what: str, trusted: bool = False) -> None:
        nonlocal slowest
        began = time.monotonic()
        try:
            done = subprocess.run([*command(), *words], capture_output=True, timeout=4 * LIMIT, cwd=here, input=b"")
        except subprocess.TimeoutExpired:
            report.found(f"{what}: hangs")
            return
        took, said = time.monotonic() - began, done.stderr.decode(errors="replace")
        slowest = max(slowest, took)
        report.tally[f"status {done.returncode}"] += 1
        if done.returncode not in (0, 2) or took > LIMIT or len(said) > 2000 or said.count("\n") > 1:
            report.found(f"{what}: status {done.returncode}, {took:.1f} s, {said[-300:]!r}")
        report.said(said, what)
        if done.returncode == 0 and what.startswith("plate") and not trusted:
            report.found(f"{what}: used without being asked")

    for what, name in list(_names(here, secret, pipe).items())[:limit]:
        script.write_text(
            json.dumps({"kyanoscript": 1, "passes": [{"pass": "plate", "source": "picture", "picture": name}]})
        )
        say(render, f"plate {what}")
        say([*render, "--trust"], f"plate {what}, trusted", trusted=True)
    for what, name in list(_names(here, secret, pipe).items())[:limit]:
        script.write_text(json.dumps({"kyanoscript": 1, "passes": [{"pass": "hand-tint", "model": name}]}))
        say([*render, "--trust"], f"model {what}", trusted=True)
    for place in [pipe, "/dev/zero", "/dev/urandom", "/proc/kcore", here, "/dev/null"][:limit]:
        say(["check", str(place)], f"check {place}")
        say(["render", str(place), "-o", str(out)], f"render {place}")
    for what, text in list(_heavy().items())[:limit]:
        script.write_text(text)
        say(["check", str(script)], f"check {what}")
    _traps(report, here, demo.photo())
    report.figures = {"slowest s": round(slowest, 2)}
    return report


def _traps(report: Report, here: Path, photo: Path) -> None:
    """A folder with files named like modules; none may run, however the program is started there."""
    trap = "import pathlib; pathlib.Path(__file__).with_suffix('.ran').touch(); raise SystemExit(3)"
    for name in ("numba", "numpy", "llvmlite", "PIL", "cv2", "scipy", "json", "kyanoscript_x", "sitecustomize"):
        (here / f"{name}.py").write_text(trap)
    environment = {**os.environ, "PYTHONPATH": "", "KYANOSCRIPT_KERNELS": str(here.parent / "kernels")}
    words = [*command(), "render", str(photo), "-o", str(here / "trap.jpg"), "--longer-side", "60"]
    done = subprocess.run(words, cwd=here, env=environment, capture_output=True, timeout=240)
    ran = list(here.glob("*.ran"))
    report.tally["traps"] += 1
    if done.returncode or ran:
        report.found(f"traps: status {done.returncode}, ran {[p.name for p in ran]}: {done.stderr[-200:]!r}")
