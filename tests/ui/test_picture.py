"""``--picture`` tells the truth: what is not as it should be is said, and the status is not 0."""

import os
import subprocess
import sys

import cv2
import numpy as np
import pytest
from PIL import Image

from kyanoscript import demo
from kyanoscript.core.picture import Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.files.photos.photo import open_photo
from tests.conftest import package_lacking

PROGRAM = [sys.executable, "-P", "-m", "kyanoscript"]


@pytest.fixture
def drawn(tmp_path):
    """Draws a window: its status, what it said on stderr, and its pixels (none, if there is no file)."""

    def draw(*words, code="", **surroundings):
        picture = tmp_path / "window.png"
        here = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "KYANOSCRIPT_STATE": str(tmp_path / "state")}
        words = [*map(str, words), "--picture", str(picture)]
        start = PROGRAM if not code else [sys.executable, "-c", f"{code}\nfrom kyanoscript.cli import main\n"
                                          "import sys\nsys.exit(main(sys.argv[1:]))"]  # fmt: skip
        done = subprocess.run(
            [*start, *words], capture_output=True, text=True, timeout=300, env={**here, **surroundings}
        )
        pixels = np.asarray(Image.open(picture).convert("L"), float) if picture.exists() else None
        return done.returncode, done.stderr, pixels

    return draw


def test_the_print_is_on_it(drawn):
    """Looked for in the picture, wherever it lies and however large: the print as the core renders it."""
    status, said, pixels = drawn("--demo")
    assert (status, said) == (0, "")
    print_ = demo.PRINTS[0]
    photo = open_photo(print_.photo)
    renderer = Renderer(photo.source, read_script(print_.script).script)

    def alike(width):
        """The correlation with the place that is most like it (OpenCV's matchTemplate)."""
        scale = width / photo.width
        wanted = renderer.region(Rect(0, 0, *renderer.size(scale)), scale).mean(axis=0) * 255
        wanted = wanted[: wanted.shape[0] * 3 // 4]  # below, the print at arm's length lies over it
        if wanted.shape[0] > pixels.shape[0]:
            return 0.0
        return cv2.matchTemplate(pixels.astype(np.float32), wanted.astype(np.float32), cv2.TM_CCOEFF_NORMED).max()

    about = max(range(480, 960, 16), key=alike)
    assert max(map(alike, range(about - 15, about + 16))) > 0.99


def test_a_machine_on_which_it_cannot_work(drawn, tmp_path):
    """As on the stranger's machine: the library of one module is not there, and nothing to build it with."""
    package = package_lacking(tmp_path, "kyanoscript.core.render.joined")
    code = "import sys\nsys.modules['numba'] = sys.modules['llvmlite'] = None"
    nothing = {"PYTHONPATH": str(package), "KYANOSCRIPT_KERNELS": "/proc/nowhere"}
    status, said, _ = drawn("--demo", code=code, **nothing)
    assert status == 1
    assert "the window warns: The program cannot work on this machine" in said
    assert "the print is not on the picture" in said
    assert f"stands in {tmp_path / 'state' / 'log.txt'}" in said


def test_a_warning_at_the_foot(drawn):
    """Something else that the window shows cannot be worked out: the print is there, and the warning is told."""
    code = "from kyanoscript.ui.service import requests\n" \
           "def broken(*_): raise MemoryError\nrequests.LookOver.work = broken"  # fmt: skip
    status, said, pixels = drawn("--demo", code=code)
    assert status == 1
    assert "kyanoscript: the window warns: There is not enough memory for this picture" in said
    assert "the print is not" not in said
    assert pixels is not None


def test_a_trace_in_the_log(drawn):
    code = "from kyanoscript.files.base import log\nlog.note('tried', ValueError('on purpose'))"
    status, said, _ = drawn("--demo", code=code)
    assert status == 1
    assert "something went wrong that should not" in said


def test_a_print_that_is_not_drawn(drawn):
    """The easel paints nothing: everything was rendered, and nobody can see it."""
    code = "from kyanoscript.ui.easel.easel import Easel\nEasel._paint_frame = lambda *_: None"
    status, said, _ = drawn("--demo", code=code)
    assert (status, said) == (1, "kyanoscript: the print is not on the picture\n")


def test_a_print_that_takes_too_long(drawn):
    code = "from kyanoscript.ui.app import picture\nfrom kyanoscript.ui.service.service import RenderService\n" \
           "picture._PATIENCE = 1.0\nRenderService.idle = lambda self: False"  # fmt: skip
    status, said, _ = drawn("--demo", code=code)
    assert (status, said) == (1, "kyanoscript: the print was not ready after 1 seconds\n")


def test_an_empty_window_needs_no_print(drawn):
    status, said, pixels = drawn()
    assert (status, said) == (0, "")
    assert pixels.std() > 5
