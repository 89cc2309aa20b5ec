"""The program left by a fault while it is rendering: its own status, and never a segmentation fault."""

import os
import subprocess
import sys
import textwrap

import pytest

PROGRAM = """
    import sys, time
    from PySide6.QtWidgets import QApplication
    application = QApplication([])
    from kyanoscript import demo
    from kyanoscript.ui.app.window import Window
    from kyanoscript.ui.jobs.lanes import until
    window = Window()
    window.show()
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    assert until(lambda: {moment}, 240)
    {leave}
"""
OPENED = "window.desk.photo is not None"
MOMENTS = {
    "while it reads": "window.jobs.busy",
    "while it renders": f"{OPENED} and not window.service.idle()",
    "at rest": f"{OPENED} and window.easel.complete",
}


WAYS = {"by a fault": ("raise LookupError('left')", 1), "by its own": ("sys.exit(7)", 7), "at its end": ("pass", 0)}


CASES = [(moment, "by a fault") for moment in MOMENTS] + [("while it renders", way) for way in list(WAYS)[1:]]


@pytest.mark.parametrize(("moment", "way"), CASES)
def test_a_window_left_open_ends_in_order(tmp_path, moment, way):
    leave, status = WAYS[way]
    code = textwrap.dedent(PROGRAM).format(moment=MOMENTS[moment], leave=leave)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "KYANOSCRIPT_STATE": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, timeout=300)
    assert done.returncode == status, done.stderr
    assert not (tmp_path / "log.txt").exists(), (tmp_path / "log.txt").read_text()


def test_what_was_done_is_in_the_journal(tmp_path):
    code = textwrap.dedent(PROGRAM).format(
        moment=MOMENTS["at rest"], leave="window.bench.passes.add('negative'); raise LookupError('left')"
    )
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "KYANOSCRIPT_STATE": str(tmp_path)}
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, env=environment, timeout=300)
    assert done.returncode == 1
    assert any('"negative"' in file.read_text() for file in tmp_path.rglob("*.json"))
