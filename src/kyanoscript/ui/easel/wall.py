"""The wall: one to six prints side by side, zoomed and moved as one.

Longer than most: it is one widget, and every event of it comes in here.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QDragEnterEvent,
    QDragLeaveEvent,
    QDragMoveEvent,
    QDropEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QApplication

from kyanoscript.core.colour import zone
from kyanoscript.core.geometry import framing
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.translation import spoken
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.prints import WHEEL, Prints
from kyanoscript.ui.easel.sight import Sight, laid
from kyanoscript.ui.service import display
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.service.walls import Hang, Hung, Value, Values, ValuesThere
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell

MOST = 6
DRAGGED = "application/x-kyanoscript-state"  # what is dragged from the rack
_RIM, _GAP = 20, 14
_GRIDS = ((1, 1), (2, 1), (1, 2), (2, 2), (3, 1), (1, 3), (3, 2), (2, 3))
_LABEL = 25  # height of the words over a print


@dataclass(frozen=True)
class Piece:
    """A print that hangs."""

    item: int  # the number of its state; other things have numbers of their own
    script: Script
    number: str = ""  # in Roman numerals
    name: str = ""
    small: QImage | None = None  # fills the place until it comes


class Wall(Prints):
    """Shows the pieces that it is given."""

    chosen = Signal(int)
    dropped = Signal(int, int)  # an item, and the place where it is to hang
    taken_down = Signal(int)
    entered = Signal()  # the Return key
    valued = Signal(object)  # ValuesThere, or None: the pointer is on no print

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__("Wall")
        self.desk, self.service = desk, service
        self.pieces: tuple[Piece, ...] = ()
        self.current = 0  # the item that is chosen
        self.blind = False  # no names and values
        self.more = False  # there are states that do not hang
        self.frames: dict[int, Hung] = {}
        self._images: dict[int, QImage] = {}
        self.sights: dict[int, Sight] = {}
        self._held: dict[int, tuple[Script, str]] = {}
        self.values: dict[object, Value] = {}
        self._pointing = False  # the pointer is on a print: what comes is still of use
        self._grip: QPointF | None = None
        self._pressed: QPointF | None = None
        self._over: int | None = None  # the place that something is dragged over
        self._whole, self._zoom, self._centre = True, 1.0, QPointF(0.5, 0.5)
        self.setAcceptDrops(True)
        service.answers(Hung).connect(self._take)
        service.answers(ValuesThere).connect(self._told_values)

    # What hangs

    def show_pieces(self, pieces: Sequence[Piece], current: int) -> None:
        """Other prints, or others chosen."""
        scripts = {piece.item: piece.script for piece in pieces}
        before = {piece.item: piece.script for piece in self.pieces}
        self.pieces, self.current = tuple(pieces), current
        for item in list(self.frames):
            if item not in scripts:
                del self.frames[item], self._images[item]
        self._held = {item: held for item, held in self._held.items() if item in scripts}
        if before != scripts:
            self.values = {}
        self._make_sights()
        if self.isVisible():
            self.refresh()
        self.update()
        tell(self)

    def hold(self, item: int, script: Script | None, words: str = "") -> None:
        """Another print in the place of one, until called with None."""
        if script is None:
            self._held.pop(item, None)
        else:
            self._held[item] = (script, words)
        self.frames.pop(item, None)
        self._images.pop(item, None)
        self.refresh()
        self.update()

    def script_of(self, piece: Piece) -> Script:
        """What is shown in its place."""
        held = self._held.get(piece.item)
        return held[0] if held is not None else piece.script

    def told(self) -> Told:
        """For assistive technology: the chosen print."""
        items = [piece.item for piece in self.pieces]
        at = items.index(self.current) if self.current in items else 0
        words = f"{self.pieces[at].number} {self.pieces[at].name}".strip() if items else "nothing hangs"
        return Told(
            Role.List, words, at, 0, max(0, len(items) - 1), 1.0,
            lambda value: self.chosen.emit(items[round(value)]) if items else None,
        )  # fmt: skip

    # Where they hang

    def cells(self) -> list[QRectF]:
        """The places, empty ones too."""
        columns, rows = self._grid()
        room = QRectF(self.rect()).adjusted(_RIM, _RIM, -_RIM, -_RIM)
        wide = (room.width() - (columns - 1) * _GAP) / columns
        high = (room.height() - (rows - 1) * _GAP) / rows
        places = [
            QRectF(round(room.x() + c * (wide + _GAP)), round(room.y() + r * (high + _GAP)), int(wide), int(high))
            for r in range(rows)
            for c in range(columns)
        ]
        return places if self.more and not self.blind else places[: max(1, len(self.pieces))]

    def _grid(self) -> tuple[int, int]:
        """Columns and rows: those that leave the prints the most room."""
        count = max(1, len(self.pieces))
        across, down = self._size(self.pieces[0], 1.0) if self.pieces else (3, 2)
        room = self.width() - 2 * _RIM, self.height() - 2 * _RIM

        def large(grid: tuple[int, int]) -> float:
            columns, rows = grid
            wide, high = (room[0] - (columns - 1) * _GAP) / columns, (room[1] - (rows - 1) * _GAP) / rows
            return round(min(wide / max(1, across), high / max(1, down)), 6)

        if self.blind and count > 1:
            return 2, 1
        fits = [grid for grid in _GRIDS if grid[0] * grid[1] >= count]
        return max(fits, key=lambda grid: (large(grid), -grid[0] * grid[1]))

    def cell(self, item: int) -> QRectF:
        """Where a print hangs."""
        k = next(k for k, piece in enumerate(self.pieces) if piece.item == item)
        return self.cells()[k]

    def _size(self, piece: Piece, scale: float) -> tuple[int, int]:
        photo = self.desk.photo
        if photo is None:
            return 0, 0
        return framing(self.script_of(piece).frame, photo.width, photo.height).size(scale)

    def _make_sights(self) -> None:
        self.sights = {
            piece.item: Sight(
                self,
                lambda scale, piece=piece: self._size(piece, scale),  # type: ignore[misc]
                lambda item=piece.item: self.cell(item),  # type: ignore[misc]
                margin=0,
            )
            for piece in self.pieces
        }
        self._align()

    def _align(self, like: Sight | None = None) -> None:
        """All of them are looked at as one is."""
        if like is not None:
            self._whole, self._zoom, self._centre = like.whole, like.zoom, like.centre
        for sight in self.sights.values():
            sight.whole, sight.zoom, sight.centre = self._whole, self._zoom, QPointF(self._centre)

    @property
    def sight(self) -> Sight | None:
        """How one looks at the chosen print, and at all of them."""
        return self.sights.get(self.current) or next(iter(self.sights.values()), None)

    # Asking for them

    def refresh(self) -> None:
        """Ask for what should be seen, the chosen one first."""
        if self.desk.photo is None or self.width() < 2:
            return
        for piece in sorted(self.pieces, key=lambda piece: piece.item != self.current):
            sight = self.sights[piece.item]
            rect, scale = sight.seen(), sight.render_scale()
            if rect is None or rect.width < 1 or rect.height < 1:
                continue
            asked = self._asked(piece, rect, scale)
            shown = self.frames.get(piece.item)
            if shown is None or shown.look != asked or shown.coarse:
                self.service.ask(asked)

    def _asked(self, piece: Piece, rect: Rect, scale: float) -> Hang:
        return Hang(self.script_of(piece), rect, scale, slot=piece.item)

    def _take(self, frame: Hung) -> None:
        assert isinstance(frame.look, Hang)
        item = frame.look.slot
        piece = next((piece for piece in self.pieces if piece.item == item), None)
        if piece is not None and self.script_of(piece) == frame.look.script:
            self.frames[piece.item] = frame
            self._images[piece.item] = display.view(frame.pixels)
            self.update(self.cell(piece.item).toAlignedRect())

    # Zooming and moving

    def show_whole(self) -> None:
        """All of every print."""
        if (sight := self.sight) is not None:
            sight.fit()
            self._moved(sight)

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Another magnification."""
        found = self._under(at) if at is not None else None
        sight = self.sights[found.item] if found is not None else self.sight
        if sight is not None:
            cell = self.cell(found.item if found is not None else self._item_of(sight))
            sight.zoom_to(zoom, at if at is not None else cell.center())
            self._moved(sight)

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        return self.sight.magnification() if self.sight is not None else 1.0

    @property
    def whole(self) -> bool:
        """Whether all of every print is seen."""
        return self._whole

    def _item_of(self, sight: Sight) -> int:
        return next(item for item, other in self.sights.items() if other is sight)

    def _moved(self, sight: Sight) -> None:
        self._align(sight)
        self.refresh()
        self.update()
        self.zoomed.emit()

    # The pointer

    def _under(self, at: QPointF) -> Piece | None:
        for piece, cell in zip(self.pieces, self.cells(), strict=False):
            if cell.contains(at):
                return piece
        return None

    def cross(self, item: int) -> QRectF:
        """Where a press takes a print down."""
        label = self._label(next(piece for piece in self.pieces if piece.item == item))
        return QRectF(label.right() - 22, label.top(), 22, label.height())

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps and self._under(event.position()) is not None:
            self.set_zoom(self.magnification() * WHEEL**steps, event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, piece = event.position(), self._under(event.position())
        left = event.button() == Qt.MouseButton.LeftButton
        if left and piece is not None and not self.blind and self.cross(piece.item).contains(at):
            self.taken_down.emit(piece.item)
        elif event.button() == Qt.MouseButton.MiddleButton or left:
            self._grip = self._pressed = at
            if left and piece is not None and not self.space and not self.blind:
                self.chosen.emit(piece.item)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._grip is not None and self._pressed is not None:
            far = (at - self._pressed).manhattanLength() > QApplication.startDragDistance()
            if (far or self._grip != self._pressed) and (sight := self.sight) is not None:
                sight.move_by(at - self._grip)
                self._grip = at
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self._moved(sight)
            return
        self._point(at)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        still = self._pressed is not None and self._grip == self._pressed
        piece = self._under(event.position())
        self._grip = self._pressed = None
        if self.blind and still and piece is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(piece.item)  # judged by a press; dragging moves the pair
        self.hold_space(self.space)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self._under(event.position()) is not None:
            if self._whole or self.magnification() != 1:
                self.show_actual(event.position())
            else:
                self.show_whole()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        else:
            super().keyPressEvent(event)

    def leaveEvent(self, event: object) -> None:
        self._point(QPointF(-1, -1))

    def _point(self, at: QPointF) -> None:
        """The values at the place under the pointer are told of every print."""
        piece = self._under(at)
        spot = self.sights[piece.item].to_picture(at) if piece is not None else QPointF(-1, -1)
        if piece is None or self.blind or not (0 <= spot.x() < 1 and 0 <= spot.y() < 1):
            self._pointing = False
            if self.values:
                self.values = {}
                self.update()
            self.valued.emit(None)
            return
        self._pointing = True
        scripts = tuple((piece.item, self.script_of(piece)) for piece in self.pieces)
        self.service.ask(Values(scripts, self.sights[piece.item].render_scale(), spot.x(), spot.y()))

    def _told_values(self, found: ValuesThere) -> None:
        if self.isVisible() and self._pointing and not self.blind:
            self.values = found.values
            self.valued.emit(found)
            self.update()

    # Dropping

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(DRAGGED) and not self.blind:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        self._over = self._place_at(event.position())
        event.acceptProposedAction()
        self.update()

    def dragLeaveEvent(self, event: QDragLeaveEvent) -> None:
        self._over = None
        self.update()

    def dropEvent(self, event: QDropEvent) -> None:
        self._over = None
        data = bytes(event.mimeData().data(DRAGGED).data()).decode("ascii", "replace")
        if data.lstrip("-").isdigit():
            at = self._place_at(event.position())
            self.dropped.emit(int(data), len(self.pieces) if at is None else at)
            event.acceptProposedAction()
        self.update()

    def _place_at(self, at: QPointF) -> int | None:
        return next((k for k, cell in enumerate(self.cells()) if cell.contains(at)), None)

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
        dark = self.mat != "paper white"
        ink = QColor("#FFFFFF" if dark else "#1C1C1C")
        cells = self.cells()
        for piece, cell in zip(self.pieces, cells, strict=False):
            if event.region().intersects(cell.toAlignedRect().adjusted(-6, -6, 6, 6)):
                self._paint_piece(painter, piece, cell, ink)
        painter.setFont(theme.sans(13))
        for k in range(len(self.pieces), len(cells)):
            painter.setPen(QPen(ink, 2 if k == self._over else 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(cells[k])
            painter.drawText(cells[k], Qt.AlignmentFlag.AlignCenter, spoken("Drop a state here"))
        self.paint_focus(painter)
        painter.end()

    def _visible(self, piece: Piece) -> QRectF:
        """The part of its place that the print covers, in points of the widget."""
        sight = self.sights[piece.item]
        place, ratio = sight.place(), sight.ratio
        return QRectF(place.topLeft() / ratio, place.size() / ratio).intersected(self.cell(piece.item))

    def _paint_piece(self, painter: QPainter, piece: Piece, cell: QRectF, ink: QColor) -> None:
        sight = self.sights[piece.item]
        place, ratio = sight.place(), sight.ratio
        painter.save()
        painter.setClipRect(cell)
        painter.scale(1 / ratio, 1 / ratio)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, sight.magnification() < 2)
        frame, seen = self.frames.get(piece.item), sight.seen()
        covered = frame is not None and frame.scale == sight.render_scale() and (not seen or frame.rect.holds(seen))
        if not covered and piece.small is not None and not piece.small.isNull() and piece.item not in self._held:
            painter.drawImage(place, piece.small)
        if frame is not None:
            painter.drawImage(laid(place, self._size(piece, frame.scale), frame.rect), self._images[piece.item])
        painter.restore()
        visible = self._visible(piece)
        if piece.item == self.current and not self.blind:
            painter.setPen(QPen(ink, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(visible.adjusted(-3, -3, 3, 3))
        if not self.blind:
            self._paint_words(painter, piece, visible)

    def _label(self, piece: Piece) -> QRectF:
        visible = self._visible(piece)
        held = self._held.get(piece.item)
        words = theme.width_of(theme.sans(13), spoken(held[1] if held else piece.name))
        number = 0.0 if held else theme.width_of(theme.serif(15), spoken(piece.number))
        width = min(visible.width(), 9 + number + (8 if number and words else 0) + words + 32)
        return QRectF(visible.x(), visible.y(), width, _LABEL)

    def _paint_words(self, painter: QPainter, piece: Piece, visible: QRectF) -> None:
        held = self._held.get(piece.item)
        label = self._label(piece)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.fillRect(label, theme.colour("panel"))
        inner = label.adjusted(9, 0, -24, 0)
        if held is None and piece.number:
            painter.setFont(theme.serif(15))
            painter.setPen(theme.colour("accent"))
            painter.drawText(inner, middle, spoken(piece.number))
            inner.setLeft(inner.left() + painter.fontMetrics().horizontalAdvance(spoken(piece.number)) + 8)
        painter.setFont(theme.sans(13))
        painter.setPen(theme.colour("text"))
        name = held[1] if held is not None else piece.name
        elide = Qt.TextElideMode.ElideRight
        painter.drawText(
            inner, middle, painter.fontMetrics().elidedText(spoken(name), elide, math.ceil(inner.width()) + 1)
        )
        painter.setPen(theme.colour("quiet"))
        painter.drawText(self.cross(piece.item), Qt.AlignmentFlag.AlignCenter, "✕")
        value = self.values.get(piece.item)
        if value is not None:
            text = f"{' '.join(map(str, value.levels))}  {zone(value.gray)}"
            width = painter.fontMetrics().horizontalAdvance(spoken(text)) + 18
            box = QRectF(visible.x(), visible.bottom() - 20, width, 20)
            painter.fillRect(box, theme.colour("panel"))
            painter.setPen(theme.colour("text"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken(text))
