"""Everything done, as a list of words that one can go back in."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QFrame, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.popup import pop_up

_ROW = 27


class PastShown(QFrame):
    """Pops up over the easel; choosing a line goes there at once, and again forward."""

    def __init__(self, parent: QWidget, desk: Desk) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.desk = desk
        self.setObjectName("popup")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 10)
        column.addWidget(furniture.title("History", 18))
        self.list = QListWidget()
        self.list.setFont(theme.sans(13))
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setAccessibleName(spoken("History, the latest at the bottom"))
        labels, at = desk.history
        for k, label in enumerate(labels):
            item = QListWidgetItem(spoken(label))
            if k > at:  # taken back
                item.setForeground(theme.colour("quiet"))
            self.list.addItem(item)
        self.list.setCurrentRow(at)
        self.list.currentRowChanged.connect(self._go)
        self.list.itemActivated.connect(lambda _: self.close())
        column.addWidget(self.list)
        self.setFixedWidth(300)
        self.list.setFixedHeight(min(14, len(labels)) * _ROW + 4)

    def pop_up(self, at: QPoint) -> None:
        """Show it at a point."""
        self.adjustSize()
        pop_up(self, at)
        self.list.setFocus()
        self.list.scrollToItem(self.list.currentItem())

    def _go(self, row: int) -> None:
        self.desk.go_to(row)
        present = self.desk.history[1]
        for k in range(self.list.count()):
            self.list.item(k).setForeground(theme.colour("quiet" if k > present else "text"))
