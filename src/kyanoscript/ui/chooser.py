"""The chooser of passes: a small sheet with a search line, the passes by stage, and what each does."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from kyanoscript.core.passes import load_all
from kyanoscript.ui import theme

_WIDTH, _ROW = 380, 27


class Chooser(QFrame):
    """Pops up where a pass is to be added."""

    chosen = Signal(str)  # name of the pass

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setFrameShape(QFrame.Shape.Box)
        self.setObjectName("sheet")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 8)
        column.setSpacing(6)
        self.search = QLineEdit()
        self.search.setFont(theme.sans(13))
        self.search.setPlaceholderText("Which pass?")
        self.search.setAccessibleName("Search for a pass")
        self.search.textChanged.connect(self._fill)
        self.search.installEventFilter(self)
        column.addWidget(self.search)
        self.list = QListWidget()
        self.list.setFont(theme.sans(13))
        self.list.setFrameShape(QFrame.Shape.NoFrame)
        self.list.setAccessibleName("Passes")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemClicked.connect(self._pick)
        self.list.itemActivated.connect(self._pick)
        column.addWidget(self.list)
        self.setFixedWidth(_WIDTH)
        self._fill("")

    def pop_up(self, at: QPoint) -> None:
        """Show it above a point, within the screen."""
        self.adjustSize()
        place = at - QPoint(40, self.height() + 6)
        screen = self.screen().availableGeometry()
        self.move(max(screen.left(), min(place.x(), screen.right() - _WIDTH)), max(screen.top(), place.y()))
        self.show()
        self.search.setFocus()

    def _fill(self, text: str) -> None:
        self.list.clear()
        stage = ""
        for kind, model in load_all().items():
            if text.strip().lower() not in f"{model.label} {kind} {model.about} {model.stage}".lower():
                continue
            if model.stage != stage:
                stage = model.stage
                head = QListWidgetItem(stage.capitalize())
                head.setFlags(Qt.ItemFlag.NoItemFlags)
                head.setFont(theme.serif(15, italic=True))
                head.setForeground(theme.colour("quiet"))
                self.list.addItem(head)
            item = QListWidgetItem(f"{model.label}  —  {model.about[0].lower()}{model.about[1:]}")
            item.setData(Qt.ItemDataRole.UserRole, kind)
            self.list.addItem(item)
        if not self.list.count():
            nothing = QListWidgetItem("No pass of that name")
            nothing.setFlags(Qt.ItemFlag.NoItemFlags)
            self.list.addItem(nothing)
        self._step(1, -1)
        self.list.setFixedHeight(min(360, _ROW * max(1, self.list.count()) + 4))
        self.adjustSize()

    def _step(self, by: int, start: int) -> None:
        """Choose the next line that is a pass."""
        row = start + by
        while 0 <= row < self.list.count():
            if self.list.item(row).data(Qt.ItemDataRole.UserRole):
                self.list.setCurrentRow(row)
                return
            row += by

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
                self._step(1 if event.key() == Qt.Key.Key_Down else -1, self.list.currentRow())
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._pick(self.list.currentItem())
                return True
        return False

    def _pick(self, item: QListWidgetItem | None) -> None:
        kind = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        if kind:
            self.hide()
            self.chosen.emit(kind)
