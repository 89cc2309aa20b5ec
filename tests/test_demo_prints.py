"""The demo's prints by the command line stay what they are.

What is meant to change is told in CHANGELOG, and they are kept anew: ``python -m tests.test_demo_prints``.
"""

import tempfile
from pathlib import Path

import cv2
import numpy as np
import pytest

from kyanoscript import demo
from tests.core.test_prints_stay import machine
from tests.test_docs import ROOT, load

KEPT = Path(__file__).parent / "data" / "demo-prints.npz"
prints = load(ROOT / "tools" / "wheel" / "prints.py")


def small(pixels):
    """A print in cells of ten pixels, 8 bits."""
    height, width = pixels.shape[:2]
    cells = cv2.resize(pixels.astype(np.float32), (width // 10, height // 10), interpolation=cv2.INTER_AREA)
    return np.rint(cells / 257).astype(np.uint8)


@pytest.fixture(scope="module")
def kept():
    with np.load(KEPT) as file:
        return dict(file)


@pytest.mark.parametrize("print_", demo.PRINTS, ids=lambda print_: print_.word)
def test_a_demo_print_is_what_it_was(kept, tmp_path, print_):
    pixels = prints.made(print_, tmp_path)
    before = kept[print_.word].astype(int)
    assert small(pixels).shape == before.shape
    assert np.abs(small(pixels).astype(int) - before).mean() < 0.5  # on any processor
    if machine() == str(kept["machine"]):  # to the bit
        assert prints.digest(pixels) == str(kept[f"digest {print_.word}"])


def main():
    """Keep the prints as they are now."""
    with tempfile.TemporaryDirectory() as folder:
        found = {print_.word: prints.made(print_, Path(folder)) for print_ in demo.PRINTS}
    digests = {f"digest {word}": np.array(prints.digest(pixels)) for word, pixels in found.items()}
    cells = {word: small(pixels) for word, pixels in found.items()}
    np.savez_compressed(KEPT, machine=np.array(machine()), **cells, **digests)


if __name__ == "__main__":
    main()
