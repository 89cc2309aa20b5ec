"""A small sheet for the name and note of a pass."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QGridLayout, QLineEdit, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.ui import controls, theme


class Naming(QFrame):
    """Pops up over the tray; Return takes both, Escape neither."""

    named = Signal(str, str)

    def __init__(self, parent: QWidget, one: Pass) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFrameShape(QFrame.Shape.Box)
        self.setObjectName("sheet")
        grid = QGridLayout(self)
        grid.setContentsMargins(12, 10, 12, 10)
        self.name, self.note = QLineEdit(one.name), QLineEdit(one.note)
        self.name.setPlaceholderText(one.label)
        params = one.params()
        for row, (entry, key) in enumerate(((self.name, "name"), (self.note, "note"))):
            spec = params[key]
            entry.setFont(theme.sans(13))
            entry.setMinimumWidth(300)
            entry.setMaxLength(1000)
            entry.setAccessibleName(spec.label)
            entry.setToolTip(spec.help)
            grid.addWidget(controls.label(spec.label), row, 0)
            grid.addWidget(entry, row, 1)

    def pop_up(self, at: QPoint) -> None:
        """Show it above a point."""
        self.adjustSize()
        self.move(at - QPoint(0, self.height() + 4))
        self.show()
        self.name.setFocus()
        self.name.selectAll()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.hide()
            self.named.emit(self.name.text().strip(), self.note.text().strip())
            self.close()
        else:
            super().keyPressEvent(event)
