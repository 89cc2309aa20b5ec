"""Prints of sRGB photographs stay what they are: every pass as its sample shows it, every recipe.

What is meant to change is told in CHANGELOG, and the prints are kept anew: ``python -m tests.core.test_prints_stay``.
"""

import hashlib
import platform
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

KEPT = Path(__file__).with_name("prints-kept.npz")
PHOTO = cv2.GaussianBlur(make_colourful(96, 144, np.uint16), (0, 0), 1.0)
SCRIPTS = {
    **{kind: Script((model(**{"strength": 85.0, **model.samples}),)) for kind, model in load_all().items()},
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


@pytest.fixture(scope="module")
def kept():
    with np.load(KEPT) as file:
        return dict(file)


@pytest.mark.parametrize("word", SCRIPTS)
def test_a_print_is_what_it_was(kept, word):
    planes = made(word)
    before = kept[word].astype(int)
    assert planes[:, ::3, ::3].shape == before.shape
    # On any processor: single pixels may be rounded the other way, or fall on the other side of a hard border.
    assert np.abs((planes[:, ::3, ::3] >> 8).astype(int) - before).mean() < 0.05
    if machine() == str(kept["machine"]):  # to the bit
        assert digest(planes) == str(kept[f"digest {word}"])


def main():
    """Keep the prints as they are now."""
    found = {word: made(word) for word in SCRIPTS}
    small = {word: (planes[:, ::3, ::3] >> 8).astype(np.uint8) for word, planes in found.items()}
    digests = {f"digest {word}": np.array(digest(planes)) for word, planes in found.items()}
    np.savez_compressed(KEPT, machine=np.array(machine()), **small, **digests)


if __name__ == "__main__":
    main()
