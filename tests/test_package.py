"""What people get holds every library: what is built is held against what the source says, and taken apart."""

import ast
import os
import re
import shutil
import subprocess
import sys
import textwrap
import tomllib
import zipfile
from pathlib import Path

import pytest

from kyanoscript.core.kernel import library
from tests.test_docs import ROOT, load

pytestmark = pytest.mark.skipif(library.level() == library.OWN, reason="libraries come for the levels of x86-64")
READY = f"kyanoscript/core/kernel/ready/{library.level()}/"
EXTRA = '''"""A pass's loop that nobody imports."""

from kyanoscript.core.kernel import kernel


@kernel("f4* a, i8 n")
def blacked(a, n):
    for k in range(n):
        a[k] = {value}
'''


MARKS = {"kernel", "in_spaces"}  # what a loop is marked with
ROOMS_OF_MARKS = {"kernel.mark", "colour.inloops"}


def in_the_source(package):
    """Modules that mark a kernel, read from their text alone: whatever the program imports."""
    found = set()
    for file in package.rglob("*.py"):
        called = (node for node in ast.walk(ast.parse(file.read_text())) if isinstance(node, ast.Call))
        if any(getattr(node.func, "id", getattr(node.func, "attr", "")) in MARKS for node in called):
            found.add(".".join(file.relative_to(package / "core").with_suffix("").parts))
    return found - ROOMS_OF_MARKS


def names(paths):
    """The modules that libraries are of."""
    return {Path(path).name.rpartition("-")[0] for path in paths}


def build(place):
    """A wheel of the source in a folder; what was said, if it stopped."""
    shutil.rmtree(place / "build", ignore_errors=True)
    words = [sys.executable, "-m", "pip", "wheel", "--no-deps", "--no-build-isolation", "--no-index", "-w", "out", "."]
    # For this machine's level alone: the other one is built the same way.
    environment = {**os.environ, "KYANOSCRIPT_PROCESSOR": library.level(), "PIP_DISABLE_PIP_VERSION_CHECK": "1"}
    done = subprocess.run(words, cwd=place, env=environment, capture_output=True, text=True)
    return next((place / "out").glob("*.whl"), None) if done.returncode == 0 else done.stdout + done.stderr


@pytest.fixture(scope="module")
def copied(tmp_path_factory):
    """The source that a wheel is made from, with a module more whose kernel nothing imports."""
    place = tmp_path_factory.mktemp("source")
    for name in ("pyproject.toml", "setup.py", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, place)
    without = shutil.ignore_patterns("photos", "scans", "films", "__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", place / "src", ignore=without)
    (place / "src" / "kyanoscript" / "core" / "passes" / "lonely.py").write_text(EXTRA.format(value="0"))
    return place


@pytest.fixture(scope="module")
def wheel(copied):
    made = build(copied)
    assert isinstance(made, Path), made
    return made


@pytest.fixture(scope="module")
def installed(wheel, tmp_path_factory):
    place = tmp_path_factory.mktemp("installed")
    with zipfile.ZipFile(wheel) as file:
        file.extractall(place)
    return place


def test_the_wheel_has_the_libraries_of_all_modules_of_the_source(copied, wheel):
    with zipfile.ZipFile(wheel) as file:
        built = [name for name in file.namelist() if name.startswith(READY)]
    assert names(built) == in_the_source(copied / "src" / "kyanoscript")
    assert "passes.lonely" in names(built)
    assert len(built) == len(names(built))


def test_the_wheel_is_for_every_python_and_every_usual_system(wheel):
    assert wheel.name.endswith("-py3-none-manylinux_2_27_x86_64.whl")


def test_building_stops_where_a_module_gets_no_library(copied, tmp_path):
    place = tmp_path / "broken"
    shutil.copytree(copied, place)
    shutil.rmtree(place / "out", ignore_errors=True)
    lonely = place / "src" / "kyanoscript" / "core" / "passes" / "lonely.py"
    for text, said in ((EXTRA.format(value="nowhere"), "nowhere"), ("import nothing_of_that_name", "nothing_of_that")):
        lonely.write_text(text)
        told = build(place)
        assert isinstance(told, str)
        assert said in told


def test_the_check_notices_every_library_that_is_missing(installed):
    """`make wheel` with any library taken out of the wheel, and put back, one after the other."""
    code = """
        import sys
        from pathlib import Path
        sys.modules["numba"] = None  # as where people have it
        sys.path.insert(0, {tools!r})
        import used
        from kyanoscript.core.kernel import library
        library.LEVELS = {{library.level(): set()}}
        assert str(library.READY).startswith({place!r}), library.READY
        assert list(used.kernels()) == [], list(used.kernels())
        files = sorted((library.READY / library.level()).glob("*.so"))
        for file in files:
            aside = file.rename(file.with_suffix(".aside"))
            said = list(used.kernels())
            aside.rename(file)
            module = "kyanoscript.core." + file.name.rpartition("-")[0]
            assert said == [f"{{module}} has no library for {{library.level()}}"], said
        print(len(files))
    """
    code = textwrap.dedent(code).format(tools=str(ROOT / "tools" / "wheel"), place=str(installed))
    environment = {**os.environ, "PYTHONPATH": str(installed)}
    done = subprocess.run([sys.executable, "-c", code], env=environment, capture_output=True, text=True)
    assert done.returncode == 0, done.stderr
    assert int(done.stdout) == len(in_the_source(installed / "kyanoscript"))


def test_every_command_of_readme_is_tried_on_the_wheel():
    used = load(ROOT / "tools" / "wheel" / "used.py")
    assert sorted(used.documented(ROOT / "README.md")) == sorted(used.COMMANDS)


def test_kernels_are_built_with_no_more_than_the_build_asks_for():
    """Whoever makes the package has what `build-system` lists: one more library, and there is no wheel."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())

    def names(lines):
        return {re.match(r"[A-Za-z0-9_-]+", line)[0].lower() for line in lines}

    imported = {"pillow": "PIL", "python-xlib": "Xlib", "pyside6-essentials": "PySide6", "openexr": "OpenEXR"}
    extra = names(project["project"]["dependencies"]) - names(project["build-system"]["requires"])
    code = f"""
import sys
class Missing:
    def find_spec(self, name, path=None, target=None):
        if name.partition(".")[0] in {[imported.get(name, name) for name in extra]!r}:
            raise ModuleNotFoundError(name)
sys.meta_path.insert(0, Missing())
from kyanoscript.core.kernel import build
print(len(build.everything()))
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr[-2000:]
    assert int(done.stdout) > 20
