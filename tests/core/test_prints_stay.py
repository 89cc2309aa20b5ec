"""Prints of sRGB photographs stay what they are: every pass as its sample shows it, every recipe.

Each is a file of its own in ``prints``. A new pass or recipe wants a new file and no other is touched:
``python -m tests.core.test_prints_stay``. What is meant to change is told in CHANGELOG, and kept anew by its name:
``python -m tests.core.test_prints_stay levels "recipe sepia-bath"``.
"""

import hashlib
import platform
import sys
from importlib.metadata import version
from pathlib import Path

import cv2
import numpy as np
import pytest

from kyanoscript.core.kernel.library import level
from kyanoscript.core.passes import load_all
from kyanoscript.core.picture import ArraySource, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.files.kept.recipes import bundled
from tests.conftest import make_colourful

KEPT = Path(__file__).with_name("prints")
PHOTO = cv2.GaussianBlur(make_colourful(96, 144, np.uint16), (0, 0), 1.0)
SCRIPTS = {
    **{kind: Script((model(**{"strength": 85.0, **model.samples}),)) for kind, model in load_all().items()},
    **{  # older forms of passes print as they did
        f"{kind} of {form}": Script((model(**{"strength": 85.0, **model.samples}, of=form),))
        for kind, model in load_all().items()
        for form in range(1, model.newest())
    },
    **{f"recipe {recipe.word}": recipe.script for recipe in bundled()},
}


def machine():
    """What decides how floating-point sums are rounded here."""
    compiler = f"llvmlite {version('llvmlite')}"
    return f"{platform.machine()} {level()} {compiler} {np.__version__} {cv2.__version__} {cv2.getCPUFeaturesLine()}"


def made(word):
    """The print in 16 bits, ``(3 or 1, h, w)``."""
    renderer = Renderer(ArraySource(PHOTO), SCRIPTS[word])
    return np.rint(renderer.region(Rect(0, 0, *renderer.size(1.0))) * 65535).astype(np.uint16)


def digest(planes):
    return hashlib.sha256(planes.tobytes() + str(planes.shape).encode()).hexdigest()[:16]


def file_of(word):
    return KEPT / f"{word.replace(' ', '-')}.npz"


@pytest.mark.parametrize("word", SCRIPTS)
def test_a_print_is_what_it_was(word):
    assert file_of(word).exists(), "it is new: python -m tests.core.test_prints_stay"
    planes = made(word)
    with np.load(file_of(word)) as kept:
        before, where, known = kept["planes"].astype(int), str(kept["machine"]), str(kept["digest"])
    assert planes[:, ::3, ::3].shape == before.shape
    # On any processor: single pixels may be rounded the other way, or fall on the other side of a hard border.
    assert np.abs((planes[:, ::3, ::3] >> 8).astype(int) - before).mean() < 0.05
    if machine() == where:  # to the bit
        assert digest(planes) == known


def test_nothing_is_kept_of_what_is_gone():
    assert {file.name for file in KEPT.iterdir()} == {file_of(word).name for word in SCRIPTS}


def main(words):
    """Keep the prints that are new; and those that are named, as they are now."""
    for word in words or [word for word in SCRIPTS if not file_of(word).exists()]:
        planes = made(word)
        small = (planes[:, ::3, ::3] >> 8).astype(np.uint8)
        np.savez_compressed(file_of(word), planes=small, machine=np.array(machine()), digest=np.array(digest(planes)))
        print(file_of(word).name)


if __name__ == "__main__":
    main(sys.argv[1:])
