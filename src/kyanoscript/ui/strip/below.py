"""Below the prints of the Strip view: a row of small ones under a title."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.chooser import Grid
from kyanoscript.ui.widgets.plain import hint

THUMB = QSize(120, 80)


class Below(QWidget):
    """The row, which scrolls where there is no room for all of it."""

    def __init__(self, title: str, help: str) -> None:
        super().__init__()
        self.row = Grid(1, THUMB, one_row=True)
        self.row.setAccessibleName(spoken(title))
        hint(self.row, help)
        self.setFixedHeight(148)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 8, 8, 2)
        column.setSpacing(2)
        column.addWidget(furniture.title(title, 18))
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setWidget(self.row)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        column.addWidget(area, 1)
        self._area = area

    def size_in_pixels(self) -> tuple[int, int]:
        """Of a small print, in pixels of the screen."""
        ratio = self.row.devicePixelRatioF()
        return round(THUMB.width() * ratio), round(THUMB.height() * ratio)

    def show_key(self, key: str) -> None:
        """Scroll so far that one is seen."""
        box = self.row.box(key)
        self._area.ensureVisible(int(box.center().x()), 0, int(box.width()), 0)


def nothing() -> QWidget:
    """What stands on the left."""
    made = QWidget()
    made.setFixedWidth(1)
    return made
