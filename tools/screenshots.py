"""Draws the pictures in docs/screenshots from the demo data. Run by ``make screenshots``."""

from __future__ import annotations

import os
import sys
import tempfile
from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kyanoscript import demo
from kyanoscript.ui import theme
from kyanoscript.ui.app import settle
from kyanoscript.ui.desk import FRAME
from kyanoscript.ui.window import Window

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"


def main() -> None:
    """Every picture that is kept."""
    application = QApplication([])
    theme.apply(application)
    window = Window()
    window.show()
    window.open(demo.photo(), demo.script())
    settle(window)
    spot = window.easel.from_picture(QPointF(0.33, 0.78))
    QTest.mouseMove(window.easel, spot.toPoint())
    settle(window)
    TARGET.mkdir(parents=True, exist_ok=True)
    draw(window, "bench")
    window.open(demo.photo("ferry-landing"), demo.script("ferry-landing"))
    settle(window)
    window.desk.select(FRAME)
    window.desk.set_values("Frame", ratio="5:4", tilt=2.5, x=56.0, width=80.0, height=80.0)
    draw(window, "frame")
    window.add("curves", 1)
    start = window.desk.selected_pass.starts["S for contrast"]
    window.desk.set_values("Curves", **start)
    draw(window, "curves")
    window.safelight()
    draw(window, "safelight")
    window.desk.saved_as(Path(), window.desk.script)
    window.close()


def draw(window: Window, name: str) -> None:
    """One picture, when everything is rendered."""
    settle(window)
    file = TARGET / f"{name}.png"
    window.grab().save(str(file))
    print(file.relative_to(Path.cwd()) if file.is_relative_to(Path.cwd()) else file)


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as state:
        os.environ["KYANOSCRIPT_STATE"] = state  # what the person at this machine does is left alone
        sys.exit(main())
