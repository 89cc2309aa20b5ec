"""The rack: every state small, with its number, when it was kept, and whether it hangs; the photo and the bench too."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QMimeData, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QDrag, QFocusEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QApplication, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.easel.wall import DRAGGED
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

THUMB = QSize(100, 67)
_LEFT, _ROW, _ABOVE = 16, 118, 5


@dataclass(frozen=True)
class Line:
    """One of them."""

    item: int
    number: str
    name: str
    when: str
    hangs: bool


class StateRack(QWidget):
    """A press chooses, a second hangs or takes down; dragged to the wall it hangs there."""

    chosen = Signal(int)
    pressed_twice = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.lines: tuple[Line, ...] = ()
        self.current = 0
        self.images: dict[int, QImage] = {}
        self._pressed: QPointF | None = None
        self.own_keys = frozenset((Qt.Key.Key_Up, Qt.Key.Key_Down))
        self.setFixedWidth(132)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("States"))
        hint(self, "Kept versions; a press hangs one on the wall or takes it down")
        self.area = furniture.scrolling()
        self.area.setFixedWidth(132)
        self.area.setWidget(self)

    def show_lines(self, lines: Sequence[Line], current: int) -> None:
        """Those that there are."""
        self.lines, self.current = tuple(lines), current
        self.setFixedHeight(len(lines) * _ROW + 8)
        row = self._row_of(current)
        self.area.ensureVisible(0, row * _ROW + _ROW // 2, 0, _ROW // 2)
        self.update()
        tell(self)

    def take(self, item: int, image: QImage) -> None:
        """A small picture."""
        self.images[item] = image
        self.update()

    def told(self) -> Told:
        """For assistive technology: the chosen one."""
        row = self._row_of(self.current)
        last = max(0, len(self.lines) - 1)
        words = ""
        if self.lines:
            line = self.lines[row]
            words = f"{line.number} {line.name}, {'hangs' if line.hangs else 'does not hang'}".strip()
        return Told(Role.List, words, row, 0, last, 1.0, lambda value: self._choose(round(value)))

    def box(self, item: int) -> QRectF:
        """Where one is."""
        return QRectF(0, self._row_of(item) * _ROW + 4, self.width(), _ROW - 4)

    def _row_of(self, item: int) -> int:
        return next((k for k, line in enumerate(self.lines) if line.item == item), 0)

    def _choose(self, row: int) -> None:
        if self.lines:
            self.chosen.emit(self.lines[min(max(row, 0), len(self.lines) - 1)].item)

    def _at(self, at: QPointF) -> Line | None:
        row = int(at.y() // _ROW)
        return self.lines[row] if 0 <= row < len(self.lines) else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        line = self._at(event.position())
        if line is not None and event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position()
            self.chosen.emit(line.item)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        line = self._at(event.position())
        if line is not None:
            self.pressed_twice.emit(line.item)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pressed = self._pressed
        if pressed is None or (event.position() - pressed).manhattanLength() < QApplication.startDragDistance():
            return
        line, self._pressed = self._at(pressed), None
        if line is not None:
            self.drag(line).exec(Qt.DropAction.MoveAction)

    def drag(self, line: Line) -> QDrag:
        """One of them, to be dropped on the wall."""
        drag, data = QDrag(self), QMimeData()
        data.setData(DRAGGED, str(line.item).encode())
        drag.setMimeData(data)
        image = self.images.get(line.item)
        if image is not None:
            drag.setPixmap(QPixmap.fromImage(image))
        return drag

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pressed = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in self.own_keys:
            self._choose(self._row_of(self.current) + (1 if event.key() == Qt.Key.Key_Down else -1))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed_twice.emit(self.current)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        ratio = self.devicePixelRatioF()
        for line in self.lines:
            box = self.box(line.item)
            if not event.region().intersects(box.toAlignedRect()):
                continue
            if line.item == self.current:
                painter.fillRect(box, theme.colour("soft"))
                painter.fillRect(QRectF(0, box.y(), 3, box.height()), theme.colour("accent"))
                if self.hasFocus():
                    painter.setPen(theme.colour("accent"))
                    painter.drawRect(box.adjusted(0, 0, -1, -1))
            picture = QRectF(_LEFT, box.y() + _ABOVE, THUMB.width(), THUMB.height())
            painter.fillRect(picture, theme.colour("ground"))
            image = self.images.get(line.item)
            if image is not None:
                inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
                inner.moveCenter(picture.center())
                painter.setOpacity(1.0 if line.hangs else 0.55)
                painter.drawImage(inner, image)
                painter.setOpacity(1.0)
            words = QRectF(_LEFT, picture.bottom() + 3, THUMB.width(), 18)
            middle, right = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
            painter.setFont(theme.serif(15))
            painter.setPen(theme.colour("text"))
            painter.drawText(words, middle, spoken(line.number or line.name))
            painter.setFont(theme.sans(11))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(
                words, middle | right, spoken(" · ".join(filter(None, (line.when, "" if line.hangs else "off"))))
            )
            if line.number:
                painter.setFont(theme.sans(12))
                painter.setPen(theme.colour("text"))
                name = painter.fontMetrics().elidedText(spoken(line.name), Qt.TextElideMode.ElideRight, THUMB.width())
                painter.drawText(words.translated(0, 18), middle, spoken(name))
        painter.end()

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()
