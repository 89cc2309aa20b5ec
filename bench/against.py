"""The same bench of another commit and of what is here, part by part in turn, as a table.

Usage: against.py COMMIT [--only a,c] [--table FILE]
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
USUAL = "a,c,d,i"
_HARDLY = 1e-9


def unpacked(commit: str, folder: Path) -> Path:
    """The files of a commit, with its kernels."""
    found = subprocess.run(["git", "-C", str(ROOT), "archive", commit], capture_output=True)
    if found.returncode:
        raise SystemExit(f"there is no commit {commit!r} here: {found.stderr.decode().strip()}")
    subprocess.run(["tar", "-x", "-C", str(folder)], input=found.stdout, check=True)
    kernels = folder / "tools" / "kernels.py"
    if kernels.exists():
        subprocess.run([sys.executable, "-P", str(kernels)], check=True, env=_with(folder), capture_output=True)
    return folder


def _with(root: Path) -> dict[str, str]:
    return {**os.environ, "PYTHONPATH": str(root / "src")}


def numbers(of: Any, name: str = "") -> Iterator[tuple[str, float]]:
    """Every number in what a bench has found, by its place."""
    if isinstance(of, dict):
        for key, value in of.items():
            yield from numbers(value, f"{name}.{key}" if name else str(key))
    elif isinstance(of, list):
        for k, value in enumerate(of):
            yield from numbers(value, f"{name}.{k}")
    elif isinstance(of, int | float) and not isinstance(of, bool):
        yield name, float(of)


def measured(root: Path, part: str, file: Path) -> dict[str, float]:
    """The numbers of a part; none where that commit cannot measure it."""
    words = [sys.executable, str(root / "bench" / "bench.py"), "--only", part, "--json", str(file)]
    done = subprocess.run(words, env=_with(root), capture_output=True, text=True)
    if done.returncode:
        print(f"({part}) could not be measured in {root}: {done.stderr.strip().splitlines()[-1:]}", file=sys.stderr)
        return {}
    return dict(numbers(json.loads(file.read_text())))


def table(before: dict[str, float], now: dict[str, float]) -> list[str]:
    """Rows of what both have measured."""
    rows = []
    for name in (name for name in now if name in before):
        old, new = before[name], now[name]
        ratio = f"{new / old:.2f}" if abs(old) > _HARDLY else ""
        rows.append(f"| {name} | {old:.4g} | {new:.4g} | {ratio} |")
    return rows


def main() -> None:
    """Measure both, and write the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("commit")
    parser.add_argument("--only", default=USUAL, help="parts, as a,c")
    parser.add_argument("--table", type=Path, default=ROOT / "bench-against.md")
    options = parser.parse_args()
    rows = [f"| | {options.commit} | here | ratio |", "|---|---|---|---|"]
    with tempfile.TemporaryDirectory() as name:
        there = Path(name) / "there"
        there.mkdir()
        unpacked(options.commit, there)
        for part in options.only.split(","):
            before, now = (measured(root, part, Path(name) / "found.json") for root in (there, ROOT))
            rows += table(before, now)
            print(f"({part}) measured", file=sys.stderr)
    options.table.write_text("\n".join(rows) + "\n")
    print("\n".join(rows))


if __name__ == "__main__":
    main()
