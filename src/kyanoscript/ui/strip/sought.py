"""The prints of a search on the mat: nine or twenty-five, the best so far in the middle, to be pressed."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen

from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script, first_change
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.wall import Piece, Wall
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.service.walls import Band, Hang
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told

LEAST = 200  # points: how wide a print has to be to be judged
_FIRST = 10_000  # items of the wall: states have numbers of their own
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
_KEYS = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Backspace)


class SoughtWall(Wall):
    """A wall of prints without names, of which the pointer or the arrow keys frame one; a press takes it."""

    back = Signal()  # one look back
    framed = Signal()  # another print has the frame

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__(desk, service)
        self.setAccessibleName(spoken("Prints to choose from"))
        self.blind = True
        self.side = 3
        self.base = Script()
        self.words = ""  # in the place of prints, while there are none
        self.own_keys = frozenset((*_ARROWS, *_KEYS))
        self.setAcceptDrops(False)

    def show_prints(self, base: Script, scripts: Sequence[Script], side: int) -> None:
        """Other prints; the middle one has the frame."""
        self.base, self.side, self.words = base, side, ""
        self.show_pieces([Piece(_FIRST + k, script) for k, script in enumerate(scripts)], _FIRST + len(scripts) // 2)

    def show_words(self, words: str) -> None:
        """None, and why."""
        self.words = words
        self.show_pieces((), 0)

    @property
    def at(self) -> int:
        """The place that has the frame."""
        return self.current - _FIRST

    @property
    def middle(self) -> int:
        """The place of the best so far."""
        return len(self.pieces) // 2

    def frame_at(self, place: int) -> None:
        """Another print has the frame."""
        if 0 <= place < len(self.pieces) and place != self.at:
            self.current = _FIRST + place
            self.update()
            self.framed.emit()

    def place_of(self, item: int) -> int:
        """The place of an item of the wall."""
        return item - _FIRST

    def told(self) -> Told:
        """For assistive technology: the framed print."""
        last = max(0, len(self.pieces) - 1)
        words = tr("row {row}, column {column}", row=self.at // self.side + 1, column=self.at % self.side + 1)
        if self.at == self.middle:
            words += ", " + spoken("best so far")
        return Told(
            Role.List, words if self.pieces else "nothing", max(0, self.at), 0, last, 1.0,
            lambda value: self.frame_at(round(value)),
        )  # fmt: skip

    def roomy(self, side: int) -> bool:
        """Whether so many prints each way are wide enough to be judged."""
        across, down = self._size(Piece(0, self.base), 1.0)
        wide = (self.width() - 40 - (side - 1) * 14) / side
        high = (self.height() - 40 - (side - 1) * 14) / side
        return min(wide, high * across / max(1, down)) >= LEAST

    # What a wall asks

    def _grid(self) -> tuple[int, int]:
        return self.side, self.side

    def _asked(self, piece: Piece, rect: Rect, scale: float) -> Hang:
        """What comes before the first dial is shared by all of them."""
        script = self.script_of(piece)
        return Band(script, rect, scale, slot=piece.item, changed=max(0, first_change(self.base, script)))

    # Pointer and keys

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
        piece = self._under(event.position())
        if piece is not None and self._grip is None:
            self.frame_at(self.place_of(piece.item))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)  # two presses are two choices

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in _ARROWS and self.pieces:
            x, y = _ARROWS[Qt.Key(key)]
            column = min(max(self.at % self.side + x, 0), self.side - 1)
            row = min(max(self.at // self.side + y, 0), self.side - 1)
            self.frame_at(row * self.side + column)
        elif key == Qt.Key.Key_Backspace:
            self.back.emit()
        else:
            super().keyPressEvent(event)

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        dark = self.mat != "paper white"
        ink = QColor("#FFFFFF" if dark else "#1C1C1C")
        if not self.pieces:
            painter = QPainter(self)
            painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
            painter.setFont(theme.sans(15))
            painter.setPen(ink)
            room = QRectF(self.rect()).adjusted(60, 20, -60, -20)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, spoken(self.words))
            self.paint_focus(painter)
            painter.end()
            return
        super().paintEvent(event)
        painter = QPainter(self)
        if 0 <= self.at < len(self.pieces):
            painter.setPen(QPen(ink, 3))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self._visible(self.pieces[self.at]).adjusted(-3, -3, 3, 3))
        if self.middle not in self._held_places():
            self._paint_best(painter)
        painter.end()

    def _held_places(self) -> set[int]:
        return {self.place_of(item) for item in self._held}

    def _paint_best(self, painter: QPainter) -> None:
        box = self._visible(self.pieces[self.middle])
        painter.setFont(theme.sans(12))
        words = spoken("best so far")
        wide = painter.fontMetrics().horizontalAdvance(words) + 16
        label = QRectF(box.topLeft() + QPointF(6, 6), box.topLeft() + QPointF(6 + min(wide, box.width() - 12), 26))
        painter.fillRect(label, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, words)
