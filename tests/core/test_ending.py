"""Threads are ended before the interpreter is, however the program is left."""

import subprocess
import sys
import textwrap

import pytest

WORKER = """
    import os, sys, threading, time
    from kyanoscript.core import ending

    class Worker:
        def __init__(self):
            self.stop = threading.Event()
            self.thread = threading.Thread(target=self.work, daemon=True)
            self.thread.start()
        def work(self):
            self.stop.wait({patience})
            time.sleep(0.05)
            os.write(1, b"ended ")  # a thread that the interpreter has ended already says nothing
        def end(self):
            os.write(1, b"asked ")
            self.stop.set()
        def left(self):
            return ["at work"] if self.thread.is_alive() else []

    worker = Worker()
    ending.in_order(worker)
    {leave}
"""


def left(leave, patience=60):
    code = textwrap.dedent(WORKER).format(leave=leave, patience=patience)
    return subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=300)


@pytest.mark.parametrize(
    ("leave", "status"), [("pass", 0), ("sys.exit(3)", 3), ("1 / 0", 1), ("raise KeyboardInterrupt", -2)]
)
def test_a_thread_is_asked_to_end_and_waited_for(leave, status):
    done = left(leave)
    assert (done.stdout, done.returncode) == ("asked ended ", status), done.stderr


def test_one_that_has_ended_is_not_asked():
    done = left("worker.stop.set(); worker.thread.join()")
    assert (done.stdout, done.returncode) == ("ended ", 0)


def test_one_that_is_gone_holds_nothing_up():
    done = left("thread = worker.thread; worker.stop.set(); thread.join(); del worker")
    assert (done.stdout, done.returncode) == ("ended ", 0)


def test_what_never_ends_is_left_behind():
    """A drive that does not answer: the process goes all the same, and says by its status that it was not in order."""
    done = left("worker.end = lambda: None; ending._AT_MOST = 0.2", patience=600)
    assert (done.stdout, done.returncode) == ("", 1)
