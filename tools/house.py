"""How the house has grown: counted, so that the next one can see it. ``make house``.

Connections of signals, and those that only hand one signal on as another; classes of many methods; long files; how many
stays in how many rooms a walk through the program has; in how many places something new has to be told of.
"""

from __future__ import annotations

import ast
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from types import FrameType
from typing import Any

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "kyanoscript"
MANY = 35  # methods of a class
LONG = 420  # lines of a file
# What something is called where it has to be told of: a format of prints, a command, a view, a chart, a kind of shape.
ADDED = {
    "a format of prints (AVIF)": ('"avif"', '"AVIF"', '".avif"'),
    "a command (trace)": ('"trace"', "def trace("),
    "a view (the strip)": ("StripView", '"Strip"'),
    "a chart (filter inks)": ("filter inks", "charts.inks("),
    "a way out (negatives)": ("AsNegative(",),
}


def trees() -> Iterator[tuple[Path, ast.Module]]:
    """Every file of the program."""
    for path in sorted(SOURCE.rglob("*.py")):
        yield path.relative_to(SOURCE), ast.parse(path.read_text())


def connections() -> tuple[int, int]:
    """All, and those of a signal to another signal of the one who connects them."""
    every = own = 0
    for _, tree in trees():
        signals = {
            target.id
            for node in ast.walk(tree)
            if isinstance(node, ast.Assign) and isinstance(node.value, ast.Call)
            and isinstance(node.value.func, ast.Name) and node.value.func.id == "Signal"
            for target in node.targets if isinstance(target, ast.Name)
        }  # fmt: skip
        for node in ast.walk(tree):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr == "connect":
                every += 1
                to = node.args[0] if node.args else None
                own += (
                    isinstance(to, ast.Attribute) and isinstance(to.value, ast.Name) and to.value.id == "self"
                    and to.attr in signals
                )  # fmt: skip
    return every, own


def classes() -> list[tuple[str, int]]:
    """Those of many methods, with their number."""
    found = []
    for path, tree in trees():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef):
                count = sum(isinstance(inner, ast.FunctionDef) for inner in node.body)
                if count > MANY:
                    found.append((f"{path}: {node.name}", count))
    return sorted(found, key=lambda row: -row[1])


def twice() -> list[str]:
    """Names that two classes have in different rooms."""
    known: dict[str, set[str]] = {}
    for path, tree in trees():
        for node in tree.body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                known.setdefault(node.name, set()).add(str(path.parent))
    return sorted(name for name, rooms in known.items() if len(rooms) > 1)


def places(words: tuple[str, ...]) -> list[str]:
    """Files in which something is told of by one of these words."""
    return [str(path) for path, _ in trees() if any(word in (SOURCE / path).read_text() for word in words)]


class Walk:
    """Functions of the program that are entered, and the files they stand in."""

    def __init__(self) -> None:
        self.stays: set[tuple[str, str]] = set()

    def __call__(self, frame: FrameType, event: str, _: Any) -> None:
        code = frame.f_code
        if event == "call" and str(SOURCE) in code.co_filename and not code.co_name.startswith("<"):
            self.stays.add((code.co_filename, code.co_name))

    @property
    def rooms(self) -> int:
        return len({file for file, _ in self.stays})


def walked(argv: list[str]) -> Walk:
    """A command of the terminal, after it has been done once; what the engine does is left aside."""
    from kyanoscript.cli import main

    main(argv)
    walk = Walk()
    sys.setprofile(walk)
    import threading

    threading.setprofile(walk)
    try:
        main(argv)
    finally:
        sys.setprofile(None)
        threading.setprofile(None)  # type: ignore[arg-type]
    engine = (
        "/core/passes/",
        "/core/kernel/",
        "/core/params/",
        "/core/picture/",
        "/core/colour/",
        "/core/render/",
        "/cli/words.py",
    )  # all commands say their options
    walk.stays = {(file, name) for file, name in walk.stays if not any(room in file for room in engine)}
    return walk


def main() -> None:
    """Count, and say it."""
    every, own = connections()
    print(f"connections {every}, of them to an own signal {own}")
    print(f"classes of more than {MANY} methods:", *(f"{name} {count}" for name, count in classes()), sep="\n  ")
    long = [(str(path), (SOURCE / path).read_text().count("\n")) for path, _ in trees()]
    print(f"files of more than {LONG} lines:", *(f"{name} {n}" for name, n in long if n > LONG), sep="\n  ")
    print("names that mean two things:", ", ".join(twice()))
    for what, words in ADDED.items():
        print(f"{what} is told of in {len(found := places(words))} files: {', '.join(found)}")
    from kyanoscript import demo

    with tempfile.TemporaryDirectory() as folder:
        ink, sheet = demo.finished("two-inks"), ["--set", "sheet.resolution=72"]
        for name, argv in {
            "a sheet to a PDF": ["sheet", str(ink.photo), "--script", str(ink.script), *sheet, "-o", f"{folder}/a.pdf"],
            "plates": ["plates", str(ink.photo), "--script", str(ink.script), *sheet, "-o", f"{folder}/a.tif"],
        }.items():
            walk = walked(argv)
            print(f"the walk of {name}: {len(walk.stays)} stays in {walk.rooms} files")


if __name__ == "__main__":
    main()
