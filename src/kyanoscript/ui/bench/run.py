"""The run, and beneath it that of the plate that is chosen or was gone into: two rows of trays."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from kyanoscript.ui.bench.row import MAIN, SECOND
from kyanoscript.ui.bench.trays import Trays
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import furniture


class _Scroller(QScrollArea):
    """One row of trays, scrolled sideways when there are many."""

    def __init__(self, trays: Trays) -> None:
        super().__init__()
        self.trays = trays
        self.setWidget(trays)
        self.setWidgetResizable(True)
        self.setFixedHeight(trays.row.height + (10 if trays.row is MAIN else 4))
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def reveal(self) -> None:
        """Bring the chosen tray into sight."""
        trays = self.trays
        box = trays.places.tray(max(trays.selected, trays.first)).toAlignedRect()
        trays.resize(max(trays.minimumWidth(), self.viewport().width()), trays.height())
        self.ensureVisible(box.center().x(), 10, box.width() // 2 + 20, 0)

    def wheelEvent(self, event: QWheelEvent) -> None:
        bar = self.horizontalScrollBar()
        delta = event.angleDelta()
        bar.setValue(bar.value() - (delta.y() or delta.x()))


class Run(QWidget):
    """The run, and beneath it that of the plate that is chosen or was gone into."""

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.desk = desk
        self.trays = Trays(desk, service, easel)
        self.second = Trays(desk, service, easel, SECOND)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._rows = [_Scroller(self.trays), _Scroller(self.second)]
        self._line = furniture.line()
        for part in (self._rows[0], self._line, self._rows[1]):
            column.addWidget(part)
        desk.selection_changed.connect(self._reveal)
        desk.script_changed.connect(self._reveal)
        self._reveal()

    def place_of(self, path: tuple[int, ...], index: int) -> QPoint:
        """Where a tray is on the screen: its picture's upper left corner."""
        trays = self.second if path else self.trays
        return trays.mapToGlobal(trays.places.thumb(index).topLeft().toPoint())

    def _reveal(self, *_: object) -> None:
        if self.desk.dragging:  # a value is changing: every tray stays where it is
            return
        shown = bool(self.desk.opened)
        for part in (self._rows[1], self._line):
            part.setVisible(shown)
        for row in self._rows:
            row.reveal()
