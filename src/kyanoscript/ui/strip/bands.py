"""The bands on the mat: each shows its own part of the print, or all of them the same part."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QApplication

from kyanoscript.core.geometry import framing
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import part
from kyanoscript.core.script import Script, first_change
from kyanoscript.translation import spoken
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.prints import WHEEL, Prints
from kyanoscript.ui.easel.sight import Sight, laid
from kyanoscript.ui.service import display
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.service.walls import Band, Hang, Hung
from kyanoscript.ui.strip.subject import Strip
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell

_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class BandsShown(Prints):
    """Shows a strip."""

    chosen = Signal(int)
    pressed_again = Signal(int)
    entered = Signal()

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__("Test strip")
        self.desk, self.service = desk, service
        self.strip: Strip | None = None
        self.current = 0
        self.small: QImage | None = None  # fills the place until bands come
        self.frames: dict[int, Hung] = {}
        self._images: dict[int, QImage] = {}
        self._scripts: list[Script] = []
        self._held: Script | None = None  # shown in the place of every band
        self.sight = Sight(self, self.print_size, lambda: QRectF(self.rect()))
        self.piece = QPointF(0.5, 0.5)  # the middle of the part that all of them show
        self._grip: QPointF | None = None
        self._pressed: QPointF | None = None
        self.own_keys = frozenset(_ARROWS)
        service.answers(Hung).connect(self._take)

    # What is shown

    def show_strip(self, strip: Strip | None, current: int) -> None:
        """Another strip, or another cell chosen."""
        scripts = [strip.script(k) for k in range(len(strip.cells))] if strip is not None else []
        like = strip is not None and self.strip is not None and strip.grid == self.strip.grid
        if scripts != self._scripts or not like or (strip and self.strip and strip.same != self.strip.same):
            known = {k for k, script in enumerate(scripts) if k < len(self._scripts) and script == self._scripts[k]}
            kept = known if like and strip is not None and strip.same == self.strip.same else set()  # type: ignore[union-attr]
            self.frames = {k: frame for k, frame in self.frames.items() if k in kept}
            self._images = {k: image for k, image in self._images.items() if k in kept}
        self.strip, self._scripts, self.current = strip, scripts, current
        if self.isVisible():
            self.refresh()
        self.update()
        tell(self)

    def hold(self, script: Script | None) -> None:
        """Another print in the place of all bands, until called with None."""
        self._held = script
        self.frames.clear()
        self._images.clear()
        self.refresh()
        self.update()

    def _script_of(self, cell: int) -> Script:
        return self._held or self._scripts[cell]

    def told(self) -> Told:
        """For assistive technology: the chosen band."""
        strip = self.strip
        words = strip.text(self.current) if strip is not None else "nothing"
        last = len(strip.cells) - 1 if strip is not None else 0
        return Told(Role.List, words, self.current, 0, last, 1.0, lambda value: self.chosen.emit(round(value)))

    def print_size(self, scale: float) -> tuple[int, int]:
        return self._size_of(self.strip.present, scale) if self.strip is not None else (0, 0)

    def _size_of(self, cell: int, scale: float) -> tuple[int, int]:
        """Of a band's print: where the frame is tried each has its own, and all lie as the present one does."""
        photo = self.desk.photo
        if photo is None:
            return 0, 0
        return framing(self._script_of(cell).frame, photo.width, photo.height).size(scale)

    # Where they are

    def box(self, cell: int) -> QRectF:
        """Where a band is on the widget, in its points."""
        strip = self.strip
        assert strip is not None
        if not strip.same:
            scale = self.sight.render_scale()
            size, place, ratio = self.print_size(scale), self.sight.place(), self.sight.ratio
            rect = part(strip.grid, cell, size)
            there = laid(place, size, rect)
            return QRectF(there.topLeft() / ratio, there.size() / ratio)
        columns, rows = strip.grid
        room = QRectF(self.rect()).adjusted(20, 20, -20, -20)
        wide, high = int(room.width() / columns), int(room.height() / rows)  # all alike, to the pixel
        x0 = round(room.x() + (room.width() - columns * wide) / 2) + cell % columns * wide
        y0 = round(room.y() + (room.height() - rows * high) / 2) + cell // columns * high
        return QRectF(x0, y0, wide, high)

    def place(self, cell: int) -> QRectF:
        """Where the whole print would lie for a band, in pixels of the screen."""
        strip = self.strip
        assert strip is not None
        place = self.sight.place()
        if not strip.same:
            return place
        middle = self.box(cell).center() * self.sight.ratio
        x, y = middle.x() - self.piece.x() * place.width(), middle.y() - self.piece.y() * place.height()
        return QRectF(math.floor(x), math.floor(y), place.width(), place.height())  # `round` goes to even numbers

    def seen(self, cell: int) -> Rect | None:
        """The part of the print that a band shows, in pixels of the print as rendered; None: nothing."""
        strip, scale, ratio = self.strip, self.sight.render_scale(), self.sight.ratio
        assert strip is not None
        size, place = self._size_of(cell, scale), self.place(cell)
        if strip.same:
            each = place.width() / size[0]
            box = self.box(cell)
            lies = QRectF(box.topLeft() * ratio, box.size() * ratio).intersected(place)
            x0, y0 = int((lies.x() - place.x()) // each), int((lies.y() - place.y()) // each)
            x1, y1 = -int(-(lies.right() - place.x()) // each), -int(-(lies.bottom() - place.y()) // each)
            rect = Rect(x0, y0, x1 - x0, y1 - y0).clipped(*size)
        else:
            seen, whole = self.sight.seen(), self.print_size(scale)
            rect = part(strip.grid, cell, size)
            if seen is None:
                return None
            if size != whole:
                seen = seen.scaled(size[0] / whole[0], size[1] / whole[1])
            x0, y0 = max(rect.x, seen.x), max(rect.y, seen.y)
            rect = Rect(x0, y0, min(rect.right, seen.right) - x0, min(rect.bottom, seen.bottom) - y0)
        return rect if rect.width > 0 and rect.height > 0 else None

    # Asking for them

    def refresh(self) -> None:
        """Ask for what should be seen, from the chosen band outwards."""
        strip = self.strip
        if strip is None or self.desk.photo is None or self.width() < 2:
            return
        scale = self.sight.render_scale()
        for cell in sorted(range(len(strip.cells)), key=lambda k: abs(k - self.current)):
            rect = self.seen(cell)
            if rect is None:
                continue
            script = self._script_of(cell)
            changed = max(0, first_change(strip.base, script))
            asked = Band(script, rect, scale, slot=("band", cell), changed=changed)
            shown = self.frames.get(cell)
            if shown is None or shown.look != asked or shown.coarse:
                self.service.ask(asked)

    def _take(self, frame: Hung) -> None:
        assert isinstance(frame.look, Hang)
        slot = frame.look.slot
        if not (isinstance(slot, tuple) and slot[0] == "band") or self.strip is None:
            return
        cell = slot[1]
        if cell < len(self._scripts) and self._script_of(cell) == frame.look.script:
            self.frames[cell] = frame
            self._images[cell] = display.view(frame.pixels)
            self.update()

    # Zooming and moving

    def show_whole(self) -> None:
        """All of the print."""
        self.sight.fit()
        self._moved()

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Another magnification."""
        if self.strip is None:
            return
        self.sight.zoom_to(zoom, at if at is not None and not self.strip.same else QRectF(self.rect()).center())
        self._moved()

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        return self.sight.magnification()

    def _move_by(self, way: QPointF) -> None:
        if self.strip is not None and self.strip.same:
            place, by = self.sight.place(), way * self.sight.ratio
            x, y = self.piece.x() - by.x() / place.width(), self.piece.y() - by.y() / place.height()
            self.piece = QPointF(min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0))
        else:
            self.sight.move_by(way)
        self._moved()

    def _moved(self) -> None:
        self.refresh()
        self.update()
        self.zoomed.emit()

    # Pointer and keys

    def cell_at(self, at: QPointF) -> int | None:
        """The band under a point."""
        if self.strip is None:
            return None
        return next((k for k in range(len(self.strip.cells)) if self.box(k).contains(at)), None)

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.set_zoom(self.magnification() * WHEEL**steps, event.position())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() in (Qt.MouseButton.LeftButton, Qt.MouseButton.MiddleButton):
            self._grip = self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None or self._pressed is None:
            return
        at = event.position()
        far = (at - self._pressed).manhattanLength() > QApplication.startDragDistance()
        if far or self._grip != self._pressed:
            self._move_by(at - self._grip)
            self._grip = at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        still = self._pressed is not None and self._grip == self._pressed and not self.space
        self._grip = self._pressed = None
        self.hold_space(self.space)
        cell = self.cell_at(event.position())
        if still and cell is not None and event.button() == Qt.MouseButton.LeftButton:
            self.press(cell)

    def press(self, cell: int) -> None:
        """Choose a band; the one that is chosen already: go on there."""
        (self.pressed_again if cell == self.current else self.chosen).emit(cell)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.strip is not None and event.key() in _ARROWS:
            columns, rows = self.strip.grid
            x, y = _ARROWS[Qt.Key(event.key())]
            if self.strip.second is None:  # one way or the other: along the bands
                x, y = (x + y, 0) if columns > 1 else (0, x + y)
            column = min(max(self.current % columns + x, 0), columns - 1)
            row = min(max(self.current // columns + y, 0), rows - 1)
            self.chosen.emit(row * columns + column)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        else:
            super().keyPressEvent(event)

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
        strip = self.strip
        if strip is None or self.desk.photo is None:
            painter.end()
            return
        ink = QColor("#FFFFFF" if self.mat != "paper white" else "#1C1C1C")
        whole = QRectF(self.rect())
        for cell in range(len(strip.cells)):
            self._paint_band(painter, cell)
        painter.setPen(QPen(QColor("#FFFFFF"), 1))
        for cell in range(len(strip.cells)):
            box = self.box(cell).intersected(whole)
            columns = strip.grid[0]
            if cell % columns:
                painter.drawLine(box.topLeft(), box.bottomLeft())
            if cell >= columns:
                painter.drawLine(box.topLeft(), box.topRight())
        for cell in range(len(strip.cells)):
            self._paint_label(painter, cell, whole)
        box = self.box(self.current).intersected(whole)
        painter.setPen(QPen(ink, 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(0, -1, 0, 1))
        self.paint_focus(painter)
        painter.end()

    def _paint_band(self, painter: QPainter, cell: int) -> None:
        place, ratio, frame = self.place(cell), self.sight.ratio, self.frames.get(cell)
        painter.save()
        painter.setClipRect(self.box(cell))
        painter.scale(1 / ratio, 1 / ratio)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.magnification() < 2)
        scale = self.sight.render_scale()
        covered = frame is not None and frame.scale == scale and frame.rect == self.seen(cell)
        if not covered and self.small is not None:
            painter.drawImage(place, self.small)
        if frame is not None:
            painter.drawImage(laid(place, self._size_of(cell, frame.scale), frame.rect), self._images[cell])
        painter.restore()

    def _paint_label(self, painter: QPainter, cell: int, whole: QRectF) -> None:
        strip, box = self.strip, self.box(cell).intersected(whole)
        assert strip is not None
        if box.width() < 8 or box.height() < 20:
            return
        text = strip.text(cell)
        painter.setFont(theme.sans(12))
        width = min(painter.fontMetrics().horizontalAdvance(spoken(text)) + 14, box.width())
        label = QRectF(box.x() + min(6.0, box.width() - width), box.bottom() - 28, width, 20)
        chosen = cell == self.current
        painter.fillRect(label, theme.colour("accent" if chosen else "panel"))
        painter.setPen(theme.colour("panel" if chosen else "text"))
        shown = painter.fontMetrics().elidedText(spoken(text), Qt.TextElideMode.ElideRight, int(width))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, spoken(shown))
