"""A short form of the campaign, with a seed: what it tries at length, `make campaign` and `make campaign-long` do."""

import subprocess
import sys
from pathlib import Path

import pytest

RUN = Path(__file__).parents[1] / "tools" / "campaign" / "run.py"


@pytest.mark.parametrize("part", ["pictures", "lists", "texts", "scripts", "windows", "kills", "hands"])
def test_nothing_is_found(part):
    words = [sys.executable, "-W", "ignore", str(RUN), "short", "--seed", "7", "--only", part]
    done = subprocess.run(words, capture_output=True, text=True, timeout=400)
    assert done.returncode == 0, done.stdout[-3000:] + done.stderr[-3000:]
    assert "nothing found" in done.stdout


@pytest.mark.parametrize(("last", "found"), [("sys.exit(0)", 0), ("os.kill(os.getpid(), 11)", 1), ("os._exit(1)", 1)])
def test_a_window_that_dies_after_its_report_is_found(last, found):
    code = f"""
import os, sys
sys.path.insert(0, sys.argv[1])
import run
part = "import json, os, sys; print(json.dumps(dict(part='p', findings=[], figures={{}}, tally={{}})), flush=True); "
print(len(run.told("p", [sys.executable, "-c", part + {last!r}]).findings))
"""
    done = subprocess.run([sys.executable, "-c", code, str(RUN.parent)], capture_output=True, text=True, timeout=300)
    assert done.stdout.splitlines()[-1] == str(found), done.stderr


def test_what_must_not_be_is_found(tmp_path):
    """The campaign itself: exceptions, hangs, signals and raw words do not pass it by."""
    code = """
import os, sys, time
sys.path.insert(0, sys.argv[1])
from common import Report, Worker
def work(_, task):
    if task == "raise": raise KeyError("x")
    if task == "hang": time.sleep(60)
    if task == "die": os.kill(os.getpid(), 11)
    return ("OK", "")
worker = Worker(lambda: None, work)
print([worker.run(task, 1)[0][0] for task in ("fine", "raise", "hang", "die", "fine")])
report = Report("words")
report.said("ValueError: Rect(x=3) does not lie within", "the foot")
report.said("There is no such file. Check the name", "the foot")
print(len(report.findings))
"""
    done = subprocess.run([sys.executable, "-c", code, str(RUN.parent)], capture_output=True, text=True, timeout=300)
    lines = done.stdout.splitlines()
    assert lines[0] == "['OK', 'ESCAPED', 'HANG', 'SIGNAL', 'OK']", done.stderr
    assert lines[-1] == "1"
