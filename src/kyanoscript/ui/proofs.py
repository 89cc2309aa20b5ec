"""Sheets to choose from in which every choice is shown on this picture: passes, blend modes.

The small pictures come one by one from the render service; nothing waits for them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from kyanoscript.core.script import Script
from kyanoscript.ui import controls, theme
from kyanoscript.ui.easel import image_of
from kyanoscript.ui.service import Proof, RenderService

THUMB = QSize(120, 80)
_CELL_W, _CELL_H, _GAP, _HEAD = 132, 106, 4, 26
_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}


@dataclass(frozen=True)
class Choice:
    """One thing to choose."""

    key: str
    name: str
    group: str = ""
    help: str = ""
    words: str = ""  # other words it is found by


class Grid(QWidget):
    """The choices, group after group."""

    chosen = Signal(str)
    pointed = Signal(str)  # another choice is looked at

    def __init__(self, columns: int) -> None:
        super().__init__()
        self.columns = columns
        self.current = ""
        self._choices: list[Choice] = []
        self._images: dict[str, QImage] = {}
        self._boxes: dict[str, QRectF] = {}
        self._heads: list[tuple[float, str]] = []
        self.setMouseTracking(True)
        self.setAccessibleName("Choices")

    def show_choices(self, choices: list[Choice], current: str = "") -> None:
        """Lay out the choices."""
        self._choices, self._boxes, self._heads = choices, {}, []
        y, column, group = 0.0, 0, ""
        for choice in choices:
            if choice.group != group:
                if column:
                    y, column = y + _CELL_H, 0
                group = choice.group
                self._heads.append((y, group))
                y += _HEAD
            if column == self.columns:
                y, column = y + _CELL_H, 0
            self._boxes[choice.key] = QRectF(column * (_CELL_W + _GAP), y, _CELL_W, _CELL_H)
            column += 1
        self.setFixedSize(self.columns * (_CELL_W + _GAP), int(y + (_CELL_H if choices else _HEAD)))
        keys = list(self._boxes)
        self.look_at(current if current in keys else (keys[0] if keys else ""))
        self.update()

    def box(self, key: str) -> QRectF:
        """Where a choice is."""
        return self._boxes[key]

    def shown(self) -> list[str]:
        """The choices in order, by their keys."""
        return list(self._boxes)

    def take(self, key: str, image: QImage) -> None:
        """A small picture has come."""
        self._images[key] = image
        if key in self._boxes:
            self.update(self._boxes[key].toAlignedRect())

    def pictured(self) -> set[str]:
        """The choices whose picture has come."""
        return set(self._images)

    def look_at(self, key: str) -> None:
        """Another choice."""
        if key != self.current:
            self.current = key
            self.update()
            self.pointed.emit(key)

    def step(self, across: int, down: int) -> None:
        """The nearest choice to one side."""
        if self.current not in self._boxes:
            return
        keys = list(self._boxes)
        here = self._boxes[self.current].center()
        if across:
            self.look_at(keys[min(max(keys.index(self.current) + across, 0), len(keys) - 1)])
            return
        beyond = [(abs(b.center().y() - here.y()), abs(b.center().x() - here.x()), k)
                  for k, b in self._boxes.items() if (b.center().y() - here.y()) * down > 1]  # fmt: skip
        if beyond:
            self.look_at(min(beyond)[2])

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.serif(15, italic=True))
        painter.setPen(theme.colour("quiet"))
        for y, text in self._heads:
            painter.drawText(QRectF(6, y, self.width(), _HEAD - 2), Qt.AlignmentFlag.AlignVCenter, text.capitalize())
        if not self._boxes:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Nothing of that name")
        for choice in self._choices:
            box = self._boxes[choice.key]
            if event.rect().intersects(box.toAlignedRect()):
                self._paint_choice(painter, choice, box)
        painter.end()

    def _paint_choice(self, painter: QPainter, choice: Choice, box: QRectF) -> None:
        if choice.key == self.current:
            painter.fillRect(box, theme.colour("soft"))
            painter.fillRect(QRectF(box.left(), box.top(), box.width(), 2), theme.colour("accent"))
        place = QRectF(box.left() + 6, box.top() + 6, THUMB.width(), THUMB.height())
        painter.fillRect(place, theme.colour("ground"))
        image = self._images.get(choice.key)
        if image is not None:
            ratio = self.devicePixelRatioF()
            inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
            inner.moveCenter(place.center())
            painter.drawImage(inner, image)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.colour("text"))
        name = painter.fontMetrics().elidedText(choice.name, Qt.TextElideMode.ElideRight, int(place.width()))
        text = QRectF(place.left(), place.bottom() + 1, place.width(), 18)
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, name)

    def _under(self, at: QPointF) -> str:
        return next((key for key, box in self._boxes.items() if box.contains(at)), "")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        key = self._under(event.position())
        if key:
            self.look_at(key)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        key = self._under(event.position())
        if key:
            self.chosen.emit(key)


class Sheet(QFrame):
    """Pops up with its choices, a line to search by and a line that says what the one looked at does."""

    chosen = Signal(str)
    pointed = Signal(str)
    closed = Signal()

    def __init__(
        self,
        parent: QWidget,
        service: RenderService,
        choices: list[Choice],
        script_of: Callable[[str], Script],
        columns: int,
        question: str = "",
        current: str = "",
    ) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.service, self._choices, self._script_of = service, choices, script_of
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFrameShape(QFrame.Shape.Box)
        self.setObjectName("sheet")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 8)
        column.setSpacing(6)
        self.search = QLineEdit()
        self.search.setFont(theme.sans(13))
        self.search.setPlaceholderText(question)
        self.search.setAccessibleName(question or "Search")
        self.search.textChanged.connect(self._find)
        self.search.installEventFilter(self)
        column.addWidget(self.search)
        self.grid = Grid(columns)
        self._area = QScrollArea()
        self._area.setWidget(self.grid)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFrameShape(QFrame.Shape.NoFrame)
        column.addWidget(self._area)
        self.help = controls.label("", quiet=True)
        self.help.setFixedHeight(20)
        column.addWidget(self.help)
        self.grid.chosen.connect(self._take)
        self.grid.pointed.connect(self._pointed)
        service.proof.connect(self._proof)
        self.grid.show_choices(choices, current)
        self._area.setFixedSize(self.grid.width() + 12, min(self.grid.height(), 470))

    def pop_up(self, at: QPoint) -> None:
        """Show it near a point, within the screen, and ask for the small pictures."""
        self.adjustSize()
        screen = self.screen().availableGeometry()
        x = max(screen.left(), min(at.x(), screen.right() - self.width()))
        y = max(screen.top(), min(at.y(), screen.bottom() - self.height()))
        self.move(x, y)
        self.show()
        self.search.setFocus()
        ratio = self.devicePixelRatioF()
        size = (round(THUMB.width() * ratio), round(THUMB.height() * ratio))
        self.service.ask_proofs(id(self), {c.key: self._script_of(c.key) for c in self._choices}, size)

    def _proof(self, proof: Proof) -> None:
        if proof.tag == id(self):
            self.grid.take(proof.key, image_of(proof.pixels))

    def _find(self, text: str) -> None:
        asked = text.strip().lower()
        found = [c for c in self._choices if asked in f"{c.name} {c.key} {c.group} {c.help} {c.words}".lower()]
        self.grid.show_choices(found, self.grid.current)

    def _pointed(self, key: str) -> None:
        self.help.setText(next((c.help for c in self._choices if c.key == key), ""))
        if key:
            box = self.grid.box(key)
            self._area.ensureVisible(int(box.center().x()), int(box.center().y()), 20, int(box.height() / 2 + 8))
        self.pointed.emit(key)

    def _take(self, key: str) -> None:
        if key:
            self.hide()
            self.chosen.emit(key)
            self.close()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = Qt.Key(event.key())
            if key in _ARROWS:
                self.grid.step(*_ARROWS[key])
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._take(self.grid.current)
                return True
        return False

    def hideEvent(self, event: object) -> None:
        self.service.ask_proofs(None, {}, (1, 1))
        self.closed.emit()
