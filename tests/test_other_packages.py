"""Passes of other packages: one that a package made here brings, and broken ones that nothing suffers from."""

from __future__ import annotations

import json
import os
import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

DAWN = '''
"""A pass from somewhere else: the print comes up from a paper that is lit from below."""

from typing import ClassVar

from kyanoscript.core.params import number
from kyanoscript.core.passes import Pass


class Dawn(Pass):
    kind: ClassVar[str] = "quay-passes/dawn"
    label: ClassVar[str] = "Dawn over the quay"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Lifts all tones by as much"
    use: ClassVar[str] = "For prints that are to look lit from behind"
    beware: ClassVar[str] = "Black is lost"
    lift: float = number(10, 0, 100, "%", "Lift", "How far black comes up")

    def apply(self, planes, place):
        return planes + (1 - planes) * (self.lift / 100)


class Taken(Dawn):
    kind: ClassVar[str] = "grain"


class Nowhere(Dawn):
    kind: ClassVar[str] = "quay-passes/nowhere"
    stage: ClassVar[str] = "dusk"


class Idle(Pass):
    kind: ClassVar[str] = "quay-passes/idle"
    label = about = use = beware = "Does nothing"
    stage: ClassVar[str] = "tone"


class Unmade(Dawn):
    kind: ClassVar[str] = "quay-passes/unmade"

    def __init__(self, **values):
        raise KeyError("no dye in the vat")


nothing = 7
'''


def package(folder: Path, name: str, module: str, text: str, entries: dict[str, str]) -> None:
    """What an installer leaves: the module, and a folder of what is known of its distribution (PEP 376)."""
    folder.mkdir(exist_ok=True)
    (folder / f"{module}.py").write_text(text)
    told = folder / f"{module}-1.0.dist-info"
    told.mkdir()
    (told / "METADATA").write_text(f"Metadata-Version: 2.1\nName: {name}\nVersion: 1.0\n")
    lines = [f"{word} = {where}" for word, where in entries.items()]
    (told / "entry_points.txt").write_text("\n".join(["[kyanoscript.passes]", *lines, ""]))


@pytest.fixture
def quay(tmp_path) -> Path:
    package(tmp_path / "site", "Quay_Passes", "quay_passes", DAWN, {"dawn": "quay_passes:Dawn"})
    return tmp_path / "site"


def run(site: Path | None, *words: str) -> subprocess.CompletedProcess[str]:
    return python(site, "-m", "kyanoscript", *words)


def python(site: Path | None, *words: str) -> subprocess.CompletedProcess[str]:
    path = os.pathsep.join(str(part) for part in (site, os.environ.get("PYTHONPATH")) if part)
    surroundings = {**os.environ, "PYTHONPATH": path}
    return subprocess.run([sys.executable, *words], capture_output=True, text=True, timeout=300, env=surroundings)


def test_a_pass_of_another_package_prints_and_is_told_like_any_other(quay, tmp_path):
    """Listed, found by its words, in the schema, set on the command line, and its numbers those that it reckons."""
    listed = json.loads(run(quay, "passes", "quay-passes/dawn", "--json").stdout)
    assert [row["name"] for row in listed] == ["quay-passes/dawn"]
    assert "quay-passes/dawn" in run(quay, "passes", "--find", "lit from behind").stdout
    np.save(tmp_path / "p.npy", np.full((6, 9), 0.5))
    code = (
        "import sys, numpy as np, kyanoscript\n"
        "from kyanoscript.core.script.schema import schema\n"
        "s = {'kyanoscript': 1, 'passes': [{'pass': 'quay-passes/dawn', 'lift': 40}]}\n"
        "print(kyanoscript.render(np.load(sys.argv[1]), s)[2, 3], 'quay-passes/dawn' in str(schema()))\n"
    )
    done = python(quay, "-c", code, str(tmp_path / "p.npy"))
    value, known = done.stdout.split()
    assert float(value) == pytest.approx(0.7, abs=1e-6), done.stderr  # 0.5 + 0.5 × 40 %
    assert known == "True"


def test_its_laws_are_those_of_every_pass_and_the_reference_tells_it(quay):
    """The laws themselves, run with the package installed."""
    done = python(quay, "-m", "pytest", "-v", "-p", "no:cacheprovider", "tests/core/test_laws.py", "-k", "dawn")
    assert done.returncode == 0, done.stdout[-2000:]
    passed = re.search(r"(\d+) passed", done.stdout)
    assert passed is not None
    assert int(passed[1]) >= 20
    code = "import sys; sys.path.insert(0, 'tools'); import reference; print(reference.reference())"
    told = python(quay, "-c", code).stdout
    assert "## Dawn over the quay (`quay-passes/dawn`)" in told
    assert "| `lift`" in told


WINDOW = """
import sys, pathlib
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
from kyanoscript import demo
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.jobs.lanes import until
application = QApplication([])
window = Window(None, False)
window.show()
until(lambda: "Left out" in window.foot.message.text(), 20)
print("FOOT", window.foot.message.text())
window.opening.open(demo.photo("ferry-landing"))
until(lambda: window.desk.photo is not None)
settle(window)
window.registry.do(commands.ADD)
chooser = window.bench.passes.choosers.present
QTest.keyClicks(chooser.search, "lit from behind")
print("SHOWN", chooser.grid.shown())
QTest.keyClick(chooser.search, Qt.Key.Key_Return)
settle(window)
print("RUN", [step.kind for step in window.desk.script.passes])
print("SLIDER", sorted(window.bench.slip.sliders))
window.desk.saved_as(pathlib.Path(), window.desk.whole)
window.close()
"""


def test_it_is_found_in_the_chooser_and_has_its_slip_and_a_broken_one_is_named_at_the_foot(tmp_path):
    site = tmp_path / "site"
    package(site, "quay-passes", "quay_passes", DAWN, {"broken": "quay_passes:Idle", "dawn": "quay_passes:Dawn"})
    done = python(site, "-c", WINDOW)
    told = dict(line.partition(" ")[::2] for line in done.stdout.splitlines())
    assert "quay-passes/dawn" in told["SHOWN"], done.stderr
    assert told["RUN"] == "['quay-passes/dawn']"
    assert "lift" in told["SLIDER"]
    assert "Left out: broken of the package quay-passes: it has no apply" in told["FOOT"]


def test_a_script_keeps_it_and_tells_which_package_is_missing(quay, tmp_path):
    script = tmp_path / "s.json"
    script.write_text('{"kyanoscript": 1, "passes": [{"pass": "quay-passes/dawn", "lift": 40}]}')
    assert run(quay, "check", str(script)).returncode == 0
    without = run(None, "check", str(script))
    assert without.returncode == 2
    assert "'quay-passes/dawn', of the package quay-passes, which is not here: install it" in without.stderr
    assert len(without.stderr.splitlines()) == 1


@pytest.mark.parametrize(
    ("entry", "words"),
    [
        ("quay_passes:Taken", "its kind is 'grain'; it must be quay-passes/ and a word"),
        ("quay_passes:Nowhere", "its stage is 'dusk'; there are colour, gray, tone"),
        ("quay_passes:Idle", "it has no apply"),
        ("quay_passes:Unmade", "KeyError: 'no dye in the vat'"),
        ("quay_passes:nothing", "7 is no class of passes"),
        ("quay_passes:Dusk", "AttributeError"),
        ("quay_gone:Dawn", "ModuleNotFoundError"),
        ("quay_ends:Dawn", "SystemExit"),
    ],
)
def test_a_broken_one_is_named_and_left_out_and_nothing_suffers(tmp_path, entry, words):
    site = tmp_path / "site"
    package(site, "quay-passes", "quay_passes", DAWN, {"broken": entry, "dawn": "quay_passes:Dawn"})
    (site / "quay_ends.py").write_text("raise SystemExit('the ferry has left')\n")
    done = run(site, "passes", "--json")
    assert done.returncode == 0
    assert "left out: broken of the package quay-passes: " in done.stderr
    assert words in done.stderr
    assert len(done.stderr.splitlines()) == 1
    kinds = [row["name"] for row in json.loads(done.stdout)]
    assert "quay-passes/dawn" in kinds
    assert "grain" in kinds
    assert len(kinds) == len(set(kinds))


def test_a_package_that_is_here_but_broken_is_told_as_that(tmp_path):
    package(tmp_path / "site", "quay-passes", "quay_passes", "import nowhere_at_all\n", {"dawn": "quay_passes:Dawn"})
    script = tmp_path / "s.json"
    script.write_text('{"kyanoscript": 1, "passes": [{"pass": "quay-passes/dawn"}]}')
    done = run(tmp_path / "site", "check", str(script))
    assert done.returncode == 2
    assert (
        "of a package that is here, but was left out (dawn of the package quay-passes: ModuleNotFoundError"
        in done.stderr
    )
