"""Draws the pictures in docs/screenshots from the demo data. Run by ``make screenshots``."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kyanoscript import demo
from kyanoscript.ui import theme
from kyanoscript.ui.app import settle
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
    file = TARGET / "bench.png"
    window.grab().save(str(file))
    print(file.relative_to(Path.cwd()) if file.is_relative_to(Path.cwd()) else file)
    window.close()


if __name__ == "__main__":
    sys.exit(main())
