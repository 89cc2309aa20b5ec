"""Starting the window."""

from __future__ import annotations

import argparse
import os
import signal
import sys
from collections.abc import Sequence
from pathlib import Path


def run(words: Sequence[str]) -> int:
    """Open the window on what the command line names; returns the exit status."""
    parser = argparse.ArgumentParser(prog="kyanoscript")
    parser.add_argument("file", nargs="?", type=Path, help="a photograph or a script file")
    parser.add_argument("--demo", action="store_true", help="open a demo photograph with its script")
    parser.add_argument("--picture", type=Path, metavar="PNG", help="draw the window into a file and leave")
    options = parser.parse_args(list(words))

    from PySide6.QtWidgets import QApplication

    from kyanoscript.files.remembered import Remembered, recall
    from kyanoscript.ui import theme
    from kyanoscript.ui.shell import Shell

    application = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(application, QApplication)
    application.setApplicationName("Kyanoscript")
    application.setDesktopFileName("kyanoscript")
    remembered = recall() if options.picture is None else Remembered()
    theme.apply(application, theme.LOOKS[remembered.look])
    shell = Shell(remembered)
    shell.show()
    application.processEvents()  # the window is on the screen; what follows takes longer to load
    # Rendering threads hand over to the interface often: a long turn would be a jerk under the pointer.
    sys.setswitchinterval(0.001)

    from kyanoscript import demo
    from kyanoscript.ui.window import Window

    window = Window(remembered)
    shell.hold(window)
    if options.demo:
        window.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    elif options.file is not None:
        window.open(options.file)
    if options.picture is None:
        window.look_for_lost()
        if not options.demo and options.file is None and not remembered.recent:
            window.first_start()
    if options.picture is not None:
        return _draw(application, window, options.picture)
    # An interrupt in the terminal ends the program; the journal has the work.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    return application.exec()


def _draw(application: object, window: object, target: Path) -> int:
    """Wait until everything is rendered, draw the window into a file and leave."""
    settle(window)
    if not window.window().grab().save(str(target)):  # type: ignore[attr-defined]
        print(f"kyanoscript: {target} could not be written", file=sys.stderr)
        return 2
    print(f"The window was drawn into {os.path.abspath(target)}")
    window.desk.saved_as(Path(), window.desk.script)  # type: ignore[attr-defined]
    window.close()  # type: ignore[attr-defined]
    return 0


def settle(window: object, seconds: float = 120) -> None:
    """Let the window work until nothing is under way."""
    import time

    from PySide6.QtWidgets import QApplication

    end = time.monotonic() + seconds
    quiet = 0
    while quiet < 5 and time.monotonic() < end:
        QApplication.processEvents()
        busy = window.jobs.busy or not window.service.idle()  # type: ignore[attr-defined]
        quiet = 0 if busy else quiet + 1
        time.sleep(0.01)
