"""Whether the tests notice: one thing in the program is changed, the tests run, and should fail. ``make mutants``.

What is changed: an operator, a line (left out), two arguments (swapped), a condition (left out), a way through a
function (cut short). Drawn with a seed from every room by its length, so that no room is left aside. Each mutant
lives in a copy of the tree, and is shown to tests that go over its line. What was found is kept line by line, so
that an interrupted run goes on where it stopped. A survivor is a check that is missing, or a line that is not needed.
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
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import asdict, dataclass
from pathlib import Path
from queue import SimpleQueue

ROOT = Path(__file__).parents[1]
PACKAGE = Path("src/kyanoscript")
# Which tests are asked first, by the beginning of a path; others that go over the line are asked after them.
FIRST = {
    "cli": ("test_options.py", "test_cli.py", "test_cli_"),
    "core/after": ("core/test_after.py",),
    "core/blend.py": ("core/test_blend.py", "core/test_passes.py"),
    "core/colour": ("core/test_colour.py", "core/test_space.py"),
    "core/seek": ("core/test_seek.py",),
    "core/stencil": ("core/test_stencil.py", "core/test_grips.py"),
    "core/tones.py": ("core/test_working_passes.py", "core/test_passes.py"),
    "core/mend": ("core/test_mend.py",),
    "core/people": ("core/test_people.py",),
    "core/picture": ("core/test_picture.py",),
    "core/process": ("core/test_process.py", "files/test_processes.py"),
    "core/render": ("core/test_renderer.py", "core/test_stages.py"),
    "core/script": ("core/test_script.py", "core/test_differ.py", "core/test_dials.py", "core/test_shared.py"),
    "core/tint/waiting.py": ("core/test_waiting.py",),
    "core/tint/regions.py": ("core/test_offers.py", "core/test_waiting.py"),
    "core/tint": ("core/test_tint.py",),
    "core/paper": ("core/test_paper.py", "core/test_screens.py", "files/test_plates.py"),
    "core/params": ("core/test_kinds.py", "core/test_identity.py"),
    "core/passes/surface/mend.py": ("core/test_mend.py",),
    "core/passes/surface": ("core/test_surface.py",),
    "core/passes/edge": ("core/test_surface.py",),
    "core/passes/toning/hand_tint.py": ("core/test_tint.py",),
    "core/passes/toning": ("core/test_toning.py", "core/test_working_passes.py"),
    "core/passes/plate": ("core/test_plate.py",),
    "core/passes": ("core/test_working_passes.py", "core/test_passes.py"),
    "files": ("files/test_",),
    "ui/sheet/process": (
        "ui/test_drawn.py",
        "ui/test_drawings_stay.py",
        "ui/test_pages_stay.py",
        "ui/test_process.py",
    ),
    "ui/sheet": (
        "ui/test_drawn.py",
        "ui/test_drawings_stay.py",
        "ui/test_pages_stay.py",
        "ui/test_sheets.py",
        "ui/test_sheet.py",
    ),
    "ui/strip": (
        "ui/test_drawings_stay.py",
        "ui/test_strip_drawn.py",
        "ui/test_pages_stay.py",
        "ui/test_strip.py",
        "ui/test_seek.py",
    ),
    "ui/states": (
        "ui/test_drawings_stay.py",
        "ui/test_states_drawn.py",
        "ui/test_pages_stay.py",
        "ui/test_states.py",
        "ui/test_comparing.py",
    ),
    "ui/service": (
        "ui/test_requests.py",
        "ui/test_queue.py",
        "ui/test_waits.py",
        "ui/test_under_the_hand.py",
        "ui/test_true_colour.py",
    ),
    "ui/recipes": (
        "ui/test_pages_stay.py",
        "ui/test_recipes_view.py",
        "ui/test_after.py",
    ),
    "ui/bench": ("ui/test_pages_stay.py", "ui/test_run.py", "ui/test_scenarios.py"),
    "ui/easel": ("ui/test_stencil_tool.py", "ui/test_dab_tool.py", "ui/test_frame_tool.py", "ui/test_touch.py"),
    "ui/document": ("ui/test_desk.py", "ui/test_keeping.py"),
    "ui": ("ui/test_window.py", "ui/test_leaving.py"),
}
# Nothing but the looks hangs on these: whether they are right is seen in the screenshots, by eyes.
LOOKS = frozenset(
    {
        "addSpacing", "addStretch", "setAlignment", "setAntialiasing", "setBrush", "setContentsMargins", "setCursor",
        "setFixedHeight", "setFixedWidth", "setFont", "setMinimumWidth", "setPen", "setRenderHint",
        "setRowStretch", "setColumnStretch", "setSpacing", "setSizePolicy", "setStyleSheet",
        "setHorizontalSpacing", "setVerticalSpacing", "setObjectName", "setFrameShape", "setProperty",
    }
)  # fmt: skip
SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult,
    ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.And: ast.Or, ast.Or: ast.And, ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
NAMES = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum"}


@dataclass(frozen=True)
class Mutant:
    """One change."""

    file: str
    line: int
    column: int
    what: str

    @property
    def key(self) -> str:
        return f"{self.file}:{self.line}:{self.column} {self.what}"


@dataclass(frozen=True)
class Site:
    """Where something can be changed: what becomes of it, its place, and how the tree is changed."""

    what: str
    line: int
    column: int
    change: Callable[[], None]


def sites(tree: ast.AST) -> Iterator[Site]:
    """Everything that can be changed, one at a time."""
    for node in ast.walk(tree):
        yield from _operators(node)
        yield from _arguments(node)
        yield from _conditions(node)
        for body in ("body", "orelse", "finalbody"):
            if isinstance(rows := getattr(node, body, None), list):
                yield from _lines(rows)
        if isinstance(node, ast.FunctionDef):
            yield from _ways(node)


def _operators(node: ast.AST) -> Iterator[Site]:
    if isinstance(node, ast.BinOp | ast.AugAssign) and type(node.op) in SWAPS and not _text(node):
        yield Site(_named(node.op), node.lineno, node.col_offset, _set(node, "op", SWAPS[type(node.op)]()))
    elif isinstance(node, ast.Compare) and type(node.ops[0]) in SWAPS:
        swapped = [SWAPS[type(node.ops[0])](), *node.ops[1:]]
        yield Site(_named(node.ops[0]), node.lineno, node.col_offset, _set(node, "ops", swapped))
    elif isinstance(node, ast.BoolOp):
        yield Site(_named(node.op), node.lineno, node.col_offset, _set(node, "op", SWAPS[type(node.op)]()))
    elif isinstance(node, ast.Name) and node.id in NAMES:
        yield Site(f"{node.id} made {NAMES[node.id]}", node.lineno, node.col_offset, _set(node, "id", NAMES[node.id]))
    elif isinstance(node, ast.Attribute) and node.attr in NAMES:
        what = f"{node.attr} made {NAMES[node.attr]}"
        yield Site(what, node.lineno, node.end_col_offset or 0, _set(node, "attr", NAMES[node.attr]))


def _arguments(node: ast.AST) -> Iterator[Site]:
    """Two arguments swapped. Of max, + and the like the order is the same."""
    if not isinstance(node, ast.Call) or len(node.args) < 2 or any(isinstance(a, ast.Starred) for a in node.args):
        return
    if isinstance(node.func, ast.Name | ast.Attribute):
        name = node.func.id if isinstance(node.func, ast.Name) else node.func.attr
        if name in NAMES or name in {"isinstance", "gcd", "hypot", "isclose", "lcm"} or name in LOOKS:
            return
    if ast.dump(node.args[0]) != ast.dump(node.args[1]):
        swapped = [node.args[1], node.args[0], *node.args[2:]]
        yield Site("two arguments swapped", node.lineno, node.end_col_offset or 0, _set(node, "args", swapped))


def _conditions(node: ast.AST) -> Iterator[Site]:
    """A condition left out: taken as fulfilled, or as the other."""
    if isinstance(node, ast.If | ast.IfExp) and not _typing(node.test):
        for value in (True, False):
            what = f"a condition taken as {'met' if value else 'never met'}"
            yield Site(what, node.lineno, node.col_offset, _set(node, "test", ast.Constant(value)))
    elif isinstance(node, ast.comprehension):
        for k, test in enumerate(node.ifs):
            left = [*node.ifs[:k], *node.ifs[k + 1 :]]
            yield Site("a choice left out", test.lineno, test.col_offset, _set(node, "ifs", left))


def _typing(test: ast.expr) -> bool:
    """True of ``if TYPE_CHECKING`` and of what only tells the machine."""
    return isinstance(test, ast.Name) and test.id == "TYPE_CHECKING"


def _lines(rows: list[ast.stmt]) -> Iterator[Site]:
    """Lines left out: calls, and what is set in something else. (A name not set is noticed by anybody.)"""
    for k, row in enumerate(rows):
        if isinstance(row, ast.Expr) and isinstance(row.value, ast.Call):
            func = row.value.func
            if isinstance(func, ast.Attribute) and func.attr in LOOKS:
                continue
        elif isinstance(row, ast.Assign):
            if all(isinstance(target, ast.Name) for target in row.targets):
                continue
        elif not isinstance(row, ast.AugAssign | ast.Delete):
            continue
        yield Site("the line left out", row.lineno, row.col_offset, _put(rows, k, ast.Pass()))


def _ways(node: ast.FunctionDef) -> Iterator[Site]:
    """A function of no value that returns before it is done."""
    if not (isinstance(node.returns, ast.Constant) and node.returns.value is None):
        return
    first = 2 if ast.get_docstring(node) is not None else 1
    for k in range(first, len(node.body)):
        row = node.body[k]
        if not isinstance(row, ast.Return | ast.Raise | ast.FunctionDef):
            yield Site("returns here", row.lineno, row.col_offset, _put(node.body, k, ast.Return(None)))


def _set(node: ast.AST, name: str, value: object) -> Callable[[], None]:
    return lambda: setattr(node, name, value)


def _put(rows: list[ast.stmt], k: int, row: ast.stmt) -> Callable[[], None]:
    return lambda: rows.__setitem__(k, row)


def _text(node: ast.BinOp | ast.AugAssign) -> bool:
    """Words put together are nobody's arithmetic."""
    sides = (node.left, node.right) if isinstance(node, ast.BinOp) else (node.value,)
    return any(
        isinstance(s, ast.JoinedStr) or (isinstance(s, ast.Constant) and isinstance(s.value, str)) for s in sides
    )


def _named(op: ast.AST) -> str:
    return f"{type(op).__name__} made {SWAPS[type(op)].__name__}"


def changed(text: str, mutant: Mutant) -> str:
    """The source with the one thing changed; the rest of the file as the parser has it, comments aside."""
    tree = ast.parse(text)
    for site in sites(tree):
        if (site.what, site.line, site.column) == (mutant.what, mutant.line, mutant.column):
            site.change()
            return ast.unparse(ast.fix_missing_locations(tree))
    raise ValueError(f"{mutant.key} is not there any more")


def room(file: str) -> str:
    """The room of a file: ``files``, ``core/paper``, ``ui/sheet``."""
    parts = file.split("/")[:-1]
    return "/".join(parts[:2]) or "the door"


def drawn(count: int, seed: int, only: str) -> list[Mutant]:
    """Mutants in the order in which they are tried: the same for a seed, as long as the source is. Every room by
    its length, and none left out; within a room every kind of change as often as another."""
    rooms: dict[str, dict[str, list[Mutant]]] = {}
    lines: dict[str, int] = {}
    for path in sorted((ROOT / PACKAGE).rglob("*.py")):
        name = str(path.relative_to(ROOT / PACKAGE))
        if not name.startswith(only):
            continue
        text = path.read_text()
        lines[room(name)] = lines.get(room(name), 0) + text.count("\n")
        for key in sorted({(s.line, s.column, s.what) for s in sites(ast.parse(text))}):
            kind = "operator" if " made " in key[2] else key[2]
            rooms.setdefault(room(name), {}).setdefault(kind, []).append(Mutant(name, *key))
    draw = random.Random(seed)
    chosen: list[Mutant] = []
    for name, kinds in sorted(rooms.items()):
        rows = [draw.sample(every, len(every)) for _, every in sorted(kinds.items())]
        turns = [row[k] for k in range(max(map(len, rows))) for row in draw.sample(rows, len(rows)) if k < len(row)]
        chosen += turns[: max(2, round(count * lines[name] / sum(lines.values())))]
    draw.shuffle(chosen)
    return chosen


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
        tests = sorted({context.split("|")[0] for context in found if context})  # setting up and running
        first = next((names for start, names in FIRST.items() if mutant.file.startswith(start)), ())
        near = [test for test in tests if any(f"tests/{name}" in test for name in first)]
        far = [test for test in tests if test not in set(near)]
        # A file of nothing but kernels has no line that Python goes over: the tests of its room, whole.
        # Of a kernel too nothing is known but who uses its file: all that are near.
        most = 60 if own else 1000
        groups = [
            _spread(near, most, mutant.key) or [f"tests/{name}" for name in first if (ROOT / "tests" / name).exists()],
            _spread(far, 80, mutant.key),
        ]
        return [group for group in groups if group]


class Near:
    """The tests of a room alone, whole: what they do not notice another test may. Needs no run under coverage."""

    def tests_for(self, mutant: Mutant) -> list[list[str]]:
        """One group after another."""
        first = next((names for start, names in FIRST.items() if mutant.file.startswith(start)), ())
        every = sorted(str(path.relative_to(ROOT)) for path in (ROOT / "tests").rglob("test_*.py"))
        return [[test] for name in first for test in every if test.startswith(f"tests/{name}")]


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
    for name in ("src", "tests", "tools", "bench"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
    for name in ("pyproject.toml", "README.md", "CHANGELOG.md", "CONTRIBUTING.md"):
        shutil.copy(ROOT / name, folder / name)
    shutil.copytree(ROOT / "docs", folder / "docs", ignore=shutil.ignore_patterns("*.png"))
    return folder


def noticed(mutant: Mutant, folder: Path, kernels: Path, covered: Covered | Near, seconds: float) -> str:
    """The tests that noticed; empty if none did."""
    file = folder / PACKAGE / mutant.file
    whole = file.read_text()
    file.write_text(changed(whole, mutant))
    try:
        return next(filter(None, (failed(tests, folder, kernels, seconds) for tests in covered.tests_for(mutant))), "")
    finally:
        file.write_text(whole)


def failed(tests: list[str], folder: Path, kernels: Path, seconds: float) -> str:
    """The first of some tests that fails in a tree; empty if all pass."""
    environment = {
        **os.environ, "PYTHONPATH": str(folder / "src"), "KYANOSCRIPT_KERNELS": str(kernels),
        "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1", "KYANOSCRIPT_STATE": str(folder / "state"),
    }  # fmt: skip
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-n", "0", *tests]
    with tempfile.TemporaryFile() as said:
        child = subprocess.Popen(command, cwd=folder, env=environment, stdout=said, stderr=said, start_new_session=True)
        try:
            if child.wait(seconds) == 0:
                return ""
            said.seek(0)
            lines = said.read().decode(errors="replace").splitlines()
            return next((line for line in lines if line.startswith(("FAILED", "ERROR"))), "did not start")
        except subprocess.TimeoutExpired:
            return "takes for ever"
        finally:
            if child.poll() is None:
                os.killpg(child.pid, 9)
                child.wait()


def cover(data: Path) -> None:
    """Run the whole suite under coverage."""
    words = ["--cov=kyanoscript", "--cov-context=test", "--cov-report="]
    subprocess.run(
        [sys.executable, "-m", "pytest", "-n", "2", "--dist", "loadfile", "-W", "ignore", *words, "tests"],
        cwd=ROOT, env={**os.environ, "COVERAGE_FILE": str(data), "QT_QPA_PLATFORM": "offscreen"}, check=False,
    )  # fmt: skip


def main() -> int:
    """Try mutants; tells which were not noticed. Fails below the share that is asked for."""
    words = argparse.ArgumentParser(description=__doc__)
    words.add_argument("--count", type=int, default=300)
    words.add_argument("--seed", type=int, default=29)
    words.add_argument("--room", default="", help="the beginning of a path, as ui/sheet")
    words.add_argument("--least", type=float, default=90.0, help="per cent that must be noticed")
    words.add_argument("--found", type=Path, default=ROOT / "mutants.jsonl")
    words.add_argument("--data", type=Path, default=ROOT / "mutants.coverage", help="which tests go over which line")
    words.add_argument("--near", action="store_true", help="the tests of the room alone: quicker, and at least so many")
    words.add_argument("--workers", type=int, default=os.cpu_count() or 2)
    words.add_argument("--seconds", type=float, default=400.0, help="for the tests of one mutant")
    options = words.parse_args()
    known: dict[str, str] = {}
    if options.found.exists():
        rows = (json.loads(line) for line in options.found.read_text().splitlines())
        known = {row["key"]: row["noticed"] for row in rows}
    covered: Covered | Near
    if options.near:
        covered = Near()
    else:
        if not options.data.exists():
            cover(options.data)
        covered = Covered(options.data)
    wanted = drawn(options.count, options.seed, options.room)
    with tempfile.TemporaryDirectory(prefix="mutants-") as place, ThreadPoolExecutor(options.workers) as pool:
        trees: SimpleQueue[Path] = SimpleQueue()
        for k in range(options.workers):
            trees.put(tree(Path(place) / str(k)))

        # A tree in which tests fail whatever is changed would notice everything.
        some = {
            test
            for mutant in wanted[:: max(1, len(wanted) // 8)]
            for group in covered.tests_for(mutant)[: None if options.near else 1]
            for test in group[:3]
        }
        if wrong := failed(sorted(some), Path(place) / "0", Path(place) / "kernels", options.seconds):
            print(f"tests fail where nothing was changed: {wrong}")
            return 1

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
    print("survived:", *survived, sep="\n  ")
    for name in sorted({room(mutant.file) for mutant in wanted}):
        told(name, [mutant for mutant in wanted if room(mutant.file) == name], known)
    return int(told("all", wanted, known) < options.least)


def told(name: str, mutants: list[Mutant], known: dict[str, str]) -> float:
    """Say how many of a room were noticed: per cent."""
    seen = sum(bool(known[mutant.key]) for mutant in mutants)
    share = 100 * seen / len(mutants)
    print(f"{share:5.1f} % {seen:4d} of {len(mutants):4d}  {name}")
    return share


if __name__ == "__main__":
    sys.exit(main())
