"""What starts with a command: only what it needs is imported."""

import json
import subprocess
import sys

import cv2
import numpy as np
import pytest

from kyanoscript.core.passes import load_all

TELL = """
import json, sys
from kyanoscript.cli import main
status = main(sys.argv[1:])
print(json.dumps([status, sorted(sys.modules)]))
"""
THREE = [
    {"pass": "gray-weights", "red": 45, "green": 45, "blue": 10},
    {"pass": "levels", "in_black": 12},
    {"pass": "gradient-map", "stops": [[0, "#101418"], [100, "#f7efe0"]]},
]
# Large ones, and one that is large in what it brings along.
LARGE = ("scipy", "cv2", "pydantic", "numba", "llvmlite", "PySide6", "skimage", "rawpy", "pikepdf", "multiprocessing")


def after(*words):
    """The modules that are there after a command."""
    done = subprocess.run([sys.executable, "-c", TELL, *map(str, words)], capture_output=True, text=True, timeout=200)
    assert done.returncode == 0, done.stderr
    status, modules = json.loads(done.stdout.splitlines()[-1])
    assert status == 0, done.stderr
    return set(modules)


def printed(folder, passes):
    photo, script = folder / "photo.png", folder / "script.json"
    cv2.imwrite(str(photo), np.random.default_rng(1).integers(0, 255, (64, 64, 3), dtype=np.uint8))
    script.write_text(json.dumps({"kyanoscript": 1, "passes": passes}))
    return after("render", photo, "--script", script, "-o", folder / "print.png")


def of_passes(modules):
    """Those that declare passes."""
    known = {model.__module__ for model in load_all().values()}
    return sorted(module.rpartition(".")[2] for module in modules & known)


def test_three_passes_bring_along_nothing_but_themselves(tmp_path):
    found = printed(tmp_path, THREE)
    assert of_passes(found) == ["gradient_map", "gray_weights", "levels", "plate"]  # runs within runs are looked for
    assert [name for name in LARGE if name in found] == []
    assert not any(
        name.startswith(("kyanoscript.core.people", "kyanoscript.core.tint", "kyanoscript.ui")) for name in found
    )


def test_a_pass_that_asks_for_a_large_library_has_it(tmp_path):
    assert "cv2" in printed(tmp_path, [{"pass": "motion"}])


@pytest.mark.parametrize("words", ["--version", "--help"])
def test_to_be_told_what_there_is_nothing_is_computed(words):
    done = subprocess.run(
        [sys.executable, "-X", "importtime", "-m", "kyanoscript", words], capture_output=True, text=True, timeout=200
    )
    assert done.returncode == 0
    assert not any(line.rpartition("|")[2].strip() in ("numpy", *LARGE) for line in done.stderr.splitlines())


def test_passes_are_listed_without_what_they_compute_with():
    found = after("passes")
    assert [name for name in ("scipy", "cv2", "PIL", "imagecodecs") if name in found] == []


def test_no_source_is_read_and_nothing_is_looked_through_while_the_window_is_loaded(tmp_path):
    """PySide would read each module's to the end, and keep it."""
    code = """
import gc, linecache, sys
from kyanoscript.cli import main
status = main(["--demo", "--picture", sys.argv[1]])
read = [name for name in linecache.cache if "kyanoscript" in name]
print(status, len(read), gc.isenabled(), gc.get_freeze_count() > 50_000)
"""
    done = subprocess.run(
        [sys.executable, "-c", code, str(tmp_path / "window.png")], capture_output=True, text=True, timeout=200
    )
    assert done.stdout.splitlines()[-1:] == ["0 0 True True"], done.stdout + done.stderr


LITTLE = """
import os, resource, sys
os.sched_setaffinity(0, sorted(os.sched_getaffinity(0))[:2])
resource.setrlimit(resource.RLIMIT_AS, (1300 << 20, 1300 << 20))
os.execv(sys.executable, [sys.executable, *sys.argv[1:]])
"""


def test_the_window_works_where_there_is_little_memory(tmp_path):
    """Every thread's own heap takes 64 MB of address space: with all that it is made of the window wanted 1.7 GB."""
    picture = tmp_path / "window.png"
    words = [sys.executable, "-c", LITTLE, "-m", "kyanoscript", "--demo", "--picture", str(picture)]
    done = subprocess.run(words, capture_output=True, text=True, timeout=200)
    assert (done.returncode, done.stderr) == (0, "")
    assert picture.exists()
