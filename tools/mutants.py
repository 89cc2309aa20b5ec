"""Whether the tests notice: one operator of the program is changed, the tests run, and should fail. ``make mutants``.

Operators are drawn with a seed from the passes, blending, stencils, tones, mending, tinting, paper and files. Each
mutant lives in a copy of the tree, and is shown to tests that go over its line. What was found is kept line by line,
so that an interrupted run goes on where it stopped. A survivor is a check that is missing, or a line that is not
needed.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass
from pathlib import Path
from queue import SimpleQueue

ROOT = Path(__file__).parents[1]
PACKAGE = Path("src/kyanoscript")
PLACES = (
    "core/passes", "core/blend.py", "core/stencil", "core/tones.py", "core/mend", "core/tint", "core/paper", "files",
)  # fmt: skip

# Which tests are asked first, by the beginning of a path; others that go over the line are asked after them.
FIRST = {
    "core/blend.py": ("core/test_blend.py", "core/test_passes.py"),
    "core/stencil": ("core/test_stencil.py", "core/test_grips.py"),
    "core/tones.py": ("core/test_working_passes.py", "core/test_passes.py"),
    "core/mend": ("core/test_mend.py",),
    "core/tint/faces.py": ("core/test_faces.py", "core/test_tint.py"),
    "core/tint": ("core/test_tint.py",),
    "core/paper": ("core/test_kinds.py", "core/test_identity.py"),
    "core/passes/surface/mend.py": ("core/test_mend.py",),
    "core/passes/surface": ("core/test_surface.py",),
    "core/passes/edge": ("core/test_surface.py",),
    "core/passes/toning/hand_tint.py": ("core/test_tint.py",),
    "core/passes/toning": ("core/test_toning.py", "core/test_working_passes.py"),
    "core/passes/plate": ("core/test_plate.py",),
    "core/passes": ("core/test_working_passes.py", "core/test_passes.py"),
    "files/export.py": ("files/test_export.py",),
    "files/printing.py": ("files/test_export.py", "test_cli.py"),
    "files/photo.py": ("files/test_photo.py", "files/test_hostile.py"),
    "files/tiff.py": ("files/test_photo.py", "files/test_hostile.py"),
    "files/lab.py": ("files/test_photo.py", "files/test_hostile.py"),
    "files/pixels.py": ("files/test_photo.py",),
    "files/profiles.py": ("files/test_photo.py", "files/test_export.py"),
    "files/cookbook.py": ("files/test_cookbook.py",),
    "files/recipes.py": ("files/test_cookbook.py", "files/test_recipes.py"),
    "files/journal.py": ("files/test_hostile.py", "ui/test_keeping.py"),
    "files/remembered.py": ("ui/test_keeping.py",),
    "files": ("files/test_scriptfile.py", "files/test_bad_input.py", "files/test_hostile.py"),
}
COVERING = ("tests/core", "tests/files", "tests/test_cli.py", "tests/ui/test_keeping.py")
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult,
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.And: ast.Or, ast.Or: ast.And, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
NAMES = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum"}


@dataclass(frozen=True)
class Mutant:
    """One changed operator."""

    file: str
    line: int
    column: int
    what: str

    @property
    def key(self) -> str:
        return f"{self.file}:{self.line}:{self.column} {self.what}"


def sites(tree: ast.AST) -> Iterator[tuple[ast.AST, str, int, int]]:
    """Every operator that can be changed: where it hangs, what becomes of it, and its place."""
    for node in ast.walk(tree):
        if isinstance(node, ast.BinOp | ast.AugAssign) and type(node.op) in SWAPS and not _text(node):
            yield node, _named(node.op), node.lineno, node.col_offset
        elif isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
            yield node, _named(node.ops[0]), node.lineno, node.col_offset
        elif isinstance(node, ast.BoolOp):
            yield node, _named(node.op), node.lineno, node.col_offset
        elif isinstance(node, ast.Name | ast.Attribute):
            name = node.id if isinstance(node, ast.Name) else node.attr
            if name in NAMES:
                yield node, f"{name} made {NAMES[name]}", node.lineno, node.end_col_offset or 0


def _text(node: ast.BinOp | ast.AugAssign) -> bool:
    """Words put together are nobody's arithmetic."""
    sides = (node.left, node.right) if isinstance(node, ast.BinOp) else (node.value,)
    return any(
        isinstance(s, ast.JoinedStr) or (isinstance(s, ast.Constant) and isinstance(s.value, str)) for s in sides
    )


def _named(op: ast.AST) -> str:
    return f"{type(op).__name__} made {SWAPS[type(op)].__name__}"


def changed(text: str, mutant: Mutant) -> str:
    """The source with the operator changed; the rest of the file as the parser has it, comments aside."""
    tree = ast.parse(text)
    for node, what, line, column in sites(tree):
        if (what, line, column) == (mutant.what, mutant.line, mutant.column):
            if isinstance(node, ast.Compare):
                node.ops[0] = SWAPS[type(node.ops[0])]()  # type: ignore[assignment]
            elif isinstance(node, ast.Name):
                node.id = NAMES[node.id]
            elif isinstance(node, ast.Attribute):
                node.attr = NAMES[node.attr]
            elif isinstance(node, ast.BinOp | ast.AugAssign | ast.BoolOp):
                node.op = SWAPS[type(node.op)]()  # type: ignore[assignment]
            return ast.unparse(tree)
    raise ValueError(f"{mutant.key} is not there any more")


def drawn(count: int, seed: int, room: str) -> list[Mutant]:
    """Mutants in the order in which they are tried: the same for a seed, as long as the source is."""
    every = []
    for place in PLACES:
        path = ROOT / PACKAGE / place
        for file in sorted(path.rglob("*.py")) if path.is_dir() else [path]:
            name = str(file.relative_to(ROOT / PACKAGE))
            found = {Mutant(name, line, column, what) for _, what, line, column in sites(ast.parse(file.read_text()))}
            every += sorted(found, key=lambda mutant: mutant.key)
    random.Random(seed).shuffle(every)
    return [mutant for mutant in every if mutant.file.startswith(room)][:count]


class Covered:
    """Which tests go over a line: from a run of the suite under coverage, each test in a context of its own."""

    def __init__(self, data: Path) -> None:
        from coverage import CoverageData

        self._data = CoverageData(str(data))
        self._data.read()

    def tests_for(self, mutant: Mutant) -> list[list[str]]:
        """Groups of tests, to be asked one after another until one notices: first those of the room, then others."""
        file = ROOT / PACKAGE / mutant.file
        lines = self._data.contexts_by_lineno(str(file))
        wanted = _function(ast.parse(file.read_text()), mutant.line)
        own = {c for line in wanted for c in lines.get(line, ())} - {""} if wanted else set()
        found = own
        if not own:  # within a kernel, which runs as machine code: whoever uses the file
            found = {c for contexts in lines.values() for c in contexts}
        tests = sorted(context.split("|")[0] for context in found if context)
        first = next((names for start, names in FIRST.items() if mutant.file.startswith(start)), ())
        near = [test for test in tests if any(f"tests/{name}" in test for name in first)]
        far = [test for test in tests if test not in set(near)]
        # A file of nothing but kernels has no line that Python goes over: the tests of its room, whole.
        # Of a kernel too nothing is known but who uses its file: all that are near.
        most = 60 if own else 1000
        groups = [_spread(near, most, mutant.key) or [f"tests/{name}" for name in first], _spread(far, 80, mutant.key)]
        return [group for group in groups if group]


def _function(tree: ast.AST, line: int) -> range:
    """The lines of the innermost function round a line, without its head; none for a line of the module."""
    inside = [
        node
        for node in ast.walk(tree)
        if isinstance(node, ast.FunctionDef) and node.lineno <= line <= (node.end_lineno or 0)
    ]
    if not inside:
        return range(0)
    last = max(inside, key=lambda node: node.lineno)
    return range(last.body[0].lineno, (last.end_lineno or 0) + 1)


def _spread(tests: list[str], most: int, seed: str) -> list[str]:
    """So many of the tests, of as many different functions as there are."""
    draw = random.Random(seed)
    by_function: dict[str, list[str]] = {}
    for test in draw.sample(tests, len(tests)):
        by_function.setdefault(test.partition("[")[0], []).append(test)
    turns = [test for k in range(most) for row in by_function.values() for test in row[k : k + 1]]
    return sorted(turns[:most])


def tree(folder: Path) -> Path:
    """A copy of what the tests need."""
    for name in ("src", "tests", "tools"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    for name in ("pyproject.toml", "README.md", "CHANGELOG.md", "CONTRIBUTING.md"):
        shutil.copy(ROOT / name, folder / name)
    shutil.copytree(ROOT / "docs", folder / "docs", ignore=shutil.ignore_patterns("*.png"))
    return folder


def noticed(mutant: Mutant, folder: Path, kernels: Path, covered: Covered, seconds: float) -> str:
    """The tests that noticed; empty if none did."""
    file = folder / PACKAGE / mutant.file
    whole = file.read_text()
    environment = {
        **os.environ, "PYTHONPATH": str(folder / "src"), "KYANOSCRIPT_KERNELS": str(kernels),
        "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1", "KYANOSCRIPT_STATE": str(folder / "state"),
    }  # fmt: skip
    file.write_text(changed(whole, mutant))
    try:
        for group in covered.tests_for(mutant):
            command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", *group]
            with tempfile.TemporaryFile() as said:
                child = subprocess.Popen(
                    command, cwd=folder, env=environment, stdout=said, stderr=said, start_new_session=True
                )
                try:
                    if child.wait(seconds) != 0:
                        said.seek(0)
                        lines = said.read().decode(errors="replace").splitlines()
                        return next((line for line in lines if line.startswith(("FAILED", "ERROR"))), "did not start")
                except subprocess.TimeoutExpired:
                    return "takes for ever"
                finally:
                    if child.poll() is None:
                        os.killpg(child.pid, 9)
                        child.wait()
    finally:
        file.write_text(whole)
    return ""


def cover(data: Path) -> None:
    """Run the tests of core and files under coverage."""
    words = ["--cov=kyanoscript.core", "--cov=kyanoscript.files", "--cov-context=test", "--cov-report="]
    subprocess.run(
        [sys.executable, "-m", "pytest", "-n", "2", "--dist", "loadfile", "-W", "ignore", *words, *COVERING],
        cwd=ROOT, env={**os.environ, "COVERAGE_FILE": str(data), "QT_QPA_PLATFORM": "offscreen"}, check=False,
    )  # fmt: skip


def main() -> int:
    """Try mutants; tells which were not noticed. Fails below the share that is asked for."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--count", type=int, default=200)
    words.add_argument("--seed", type=int, default=12)
    words.add_argument("--room", default="", help="the beginning of a path, as core/blend")
    words.add_argument("--least", type=float, default=90.0, help="per cent that must be noticed")
    words.add_argument("--found", type=Path, default=ROOT / "mutants.jsonl")
    words.add_argument("--data", type=Path, default=ROOT / "mutants.coverage", help="which tests go over which line")
    words.add_argument("--workers", type=int, default=os.cpu_count() or 2)
    words.add_argument("--seconds", type=float, default=400.0, help="for the tests of one mutant")
    options = words.parse_args()
    known: dict[str, str] = {}
    if options.found.exists():
        rows = (json.loads(line) for line in options.found.read_text().splitlines())
        known = {row["key"]: row["noticed"] for row in rows}
    if not options.data.exists():
        cover(options.data)
    covered = Covered(options.data)
    wanted = drawn(options.count, options.seed, options.room)
    with tempfile.TemporaryDirectory(prefix="mutants-") as place, ThreadPoolExecutor(options.workers) as pool:
        trees: SimpleQueue[Path] = SimpleQueue()
        for k in range(options.workers):
            trees.put(tree(Path(place) / str(k)))

        def tried(mutant: Mutant) -> None:
            folder = trees.get()
            try:
                found = noticed(mutant, folder, Path(place) / "kernels", covered, options.seconds)
            finally:
                trees.put(folder)
            known[mutant.key] = found
            with options.found.open("a") as out:
                out.write(json.dumps({"key": mutant.key, "noticed": found, **asdict(mutant)}) + "\n")
            print("noticed " if found else "SURVIVED", mutant.key, f"({found})" if found else "", flush=True)

        list(pool.map(tried, (mutant for mutant in wanted if mutant.key not in known)))
    survived = [mutant.key for mutant in wanted if not known[mutant.key]]
    share = 100 * (1 - len(survived) / len(wanted))
    print(f"{share:.1f} % of {len(wanted)} noticed; survived:", *survived, sep="\n  ")
    return int(share < options.least)


if __name__ == "__main__":
    sys.exit(main())
