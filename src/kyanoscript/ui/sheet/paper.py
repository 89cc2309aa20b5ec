"""The paper in the middle: rulers, prints, marks, wedge and caption, to scale; the print is moved and sized on it."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent

from kyanoscript.core.paper.layout import LETTERS, Box, laid
from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.bykeyboard import ByKeyboard
from kyanoscript.ui.widgets.handle import paint_handle
from kyanoscript.ui.widgets.plain import hint

RULER, ROOM = 20, 28  # pixels: of a ruler, and round the paper
SNAP, GRIP = 5.0, 9.0  # pixels
_WORDS = 14  # pixels: half a number on the ruler
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
_MM = (1, 2, 5, 10, 20, 50, 100, 200, 500)
_OVER = str.maketrans("ew", "we")  # corners of a sheet that lies turned over
_INCHES = (0.125, 0.25, 0.5, 1, 2, 5, 10, 20)


class PaperView(ByKeyboard):
    """Draws a sheet. What the hand does is told in millimetres; the sheet is changed by whoever hears of it."""

    moved = Signal(float, float)  # of the first print's corner
    sized = Signal(float, float, float)  # how wide a print is, and its corner
    nudged = Signal(float, float)  # by so many millimetres
    grip_changed = Signal(bool)  # a drag begins, or is over
    resized = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.sheet: Sheet | None = None
        self.shape = 1.5
        self.unit = "mm"
        self.image: QImage | None = None
        self.white = QColor("#FFFFFF")
        self.lines: tuple[float, ...] = ()  # of the paper, mm: what the print has snapped to
        self.film: Callable[[float], QColor] | None = None  # what becomes of the wedge's tones on film
        self._drag: tuple[str, QPointF, Box] | None = None
        self.own_keys = frozenset(_ARROWS)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Sheet of paper"))
        hint(self, "Drag the print, or its corners; arrows move it by a millimetre", "Near the rim, printers cut off")
        self.setMinimumSize(240, 160)

    def show_sheet(self, sheet: Sheet | None, shape: float, unit: str) -> None:
        """Another sheet, or the same changed."""
        self.sheet, self.shape, self.unit = sheet, shape, unit
        self.update()
        tell(self)

    def take(self, image: QImage | None) -> None:
        """The print."""
        self.image = image
        self.update()

    def told(self) -> Told:
        """For assistive technology: where the print lies."""
        words = "nothing"
        if self.sheet is not None:
            box = laid(self.sheet, self.shape).prints[0]
            words = tr("print {box}, {x} from the left, ", box=self._size_words(box), x=told(box.x, self.unit))
            words += tr("{y} from the top", y=told(box.y, self.unit))
        return Told(Role.List, words, 0, 0, 0, 1.0, lambda value: None)

    def _size_words(self, box: Box) -> str:
        return f"{told(box.width, self.unit).removesuffix(' ' + self.unit)} × {told(box.height, self.unit)}"

    # Where things are

    @property
    def each(self) -> float:
        """Pixels of the widget to a millimetre."""
        sheet = self.sheet
        if sheet is None:
            return 1.0
        wide, high = self.width() - RULER - 2 * ROOM, self.height() - RULER - 2 * ROOM
        return max(0.01, min(wide / sheet.paper.width, high / sheet.paper.height))

    @property
    def corner(self) -> QPointF:
        """Where the paper's upper left corner is."""
        sheet = self.sheet
        assert sheet is not None
        wide, high = self.width() - RULER, self.height() - RULER
        x, y = (wide - sheet.paper.width * self.each) / 2, (high - sheet.paper.height * self.each) / 2
        return QPointF(round(RULER + x), round(RULER + y))

    def at(self, x: float, y: float) -> QPointF:
        """A place on the paper, on the widget; of one that lies turned over, from the other side."""
        if self.turned_over and self.sheet is not None:
            x = self.sheet.paper.width - x
        return self.corner + QPointF(x * self.each, y * self.each)

    def box(self, of: Box) -> QRectF:
        """A rectangle on the paper, on the widget."""
        return QRectF(self.at(of.x, of.y), self.at(of.right, of.bottom)).normalized()

    @property
    def turned_over(self) -> bool:
        """Whether left is right."""
        return self.sheet is not None and self.sheet.placing.mirrored

    # The hand

    def _what(self, at: QPointF) -> str:
        """What lies under a point: a corner of the first print, a print, or nothing."""
        if self.sheet is None:
            return ""
        everything = laid(self.sheet, self.shape)
        box = self.box(everything.prints[0])
        for name, corner in (
            ("nw", box.topLeft()),
            ("ne", box.topRight()),
            ("sw", box.bottomLeft()),
            ("se", box.bottomRight()),
        ):
            if (at - corner).manhattanLength() <= GRIP:
                return name.translate(_OVER) if self.turned_over else name
        return "print" if any(self.box(one).contains(at) for one in everything.prints) else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        what = self._what(event.position())
        if event.button() == Qt.MouseButton.LeftButton and what and self.sheet is not None:
            self._drag = what, event.position(), laid(self.sheet, self.shape).prints[0]
            self.grip_changed.emit(True)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._drag is None:
            what = self._what(at)
            cursors = {"nw": Qt.CursorShape.SizeFDiagCursor, "se": Qt.CursorShape.SizeFDiagCursor,
                       "ne": Qt.CursorShape.SizeBDiagCursor, "sw": Qt.CursorShape.SizeBDiagCursor,
                       "print": Qt.CursorShape.SizeAllCursor}  # fmt: skip
            seen = what.translate(_OVER) if self.turned_over and what != "print" else what
            self.setCursor(cursors.get(seen, Qt.CursorShape.ArrowCursor))
            return
        what, pressed, box = self._drag
        way = (at - pressed) / self.each
        if self.turned_over:
            way.setX(-way.x())
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if what == "print":
            self.moved.emit(*self._snapped(box.x + way.x(), box.y + way.y(), free))
            return
        wider = way.x() if what in ("ne", "se") else -way.x()
        higher = way.y() if what in ("sw", "se") else -way.y()
        across = max(1.0, box.width + (wider + higher * self.shape) / 2)
        if not free:
            across = max(1.0, float(round(across)))
        x = box.x if what in ("ne", "se") else box.right - across
        y = box.y if what in ("sw", "se") else box.bottom - across / self.shape
        self.sized.emit(across, x, y)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag, self.lines = None, ()
            self.grip_changed.emit(False)
            self.update()

    def _snapped(self, x: float, y: float, free: bool) -> tuple[float, float]:
        """A corner of the block moved a little, so that margins are equal or whole millimetres; free: it stays."""
        sheet = self.sheet
        assert sheet is not None
        if free:
            return x, y
        block = laid(sheet, self.shape).all_prints
        near, lines = SNAP / self.each, []
        middle_x, middle_y = (sheet.paper.width - block.width) / 2, (sheet.paper.height - block.height) / 2
        if abs(x - middle_x) < near:
            x, lines = middle_x, [sheet.paper.width / 2]
        else:
            x = float(round(x))
        y = middle_y if abs(y - middle_y) < near else float(round(y))
        self.lines = tuple(lines)
        return x, y

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.sheet is not None and event.key() in _ARROWS:
            step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            step *= 1.0 if self.unit == "mm" else INCH / 16
            x, y = _ARROWS[Qt.Key(event.key())]
            x = -x if self.turned_over else x
            self.nudged.emit(x * step, y * step)
        elif event.key() == Qt.Key.Key_Escape and self._drag is not None:  # it was given up already, by the window
            self._drag, self.lines = None, ()
            self.update()
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.resized.emit()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("line"))
        if self.sheet is None:
            painter.end()
            return
        everything = laid(self.sheet, self.shape)
        paper = self.box(everything.paper)
        painter.fillRect(paper.translated(2, 3), QColor(0, 0, 0, 40))
        painter.fillRect(paper, self.white)
        for one in everything.prints:
            box = self.box(one)
            if self.sheet.paper.mat:
                self._mat(painter, one)
            if self.image is None:
                painter.fillRect(box, QColor(128, 128, 128))
            else:
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
                shown = self.image.flipped(Qt.Orientation.Horizontal) if self.sheet.placing.mirrored else self.image
                painter.drawImage(box, shown)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor("#101010"), max(0.8, 0.25 * self.each)))
        for line in everything.lines:
            painter.drawLine(self.at(line.x0, line.y0), self.at(line.x1, line.y1))
        for ring in everything.rings:
            painter.drawEllipse(self.at(ring.x, ring.y), ring.radius * self.each, ring.radius * self.each)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for step, level in everything.wedge:
            white = self.white
            tone = QColor.fromRgbF(white.redF() * level, white.greenF() * level, white.blueF() * level)
            painter.fillRect(self.box(step).adjusted(0, 0, 0.6, 0), self.film(level) if self.film is not None else tone)
        if everything.caption is not None:
            self._caption(painter, everything.caption)
        self._handles(painter, everything.prints[0])
        self._rulers(painter)
        self.paint_focus(painter)
        painter.end()

    def _mat(self, painter: QPainter, one: Box) -> None:
        """The window mat: drawn to judge by, and not printed."""
        assert self.sheet is not None
        wide = self.sheet.paper.mat * self.each
        painter.save()
        painter.setPen(QPen(QColor(0, 0, 0, 70), 1))
        painter.setBrush(QColor("#F4F2EC"))
        painter.drawRect(self.box(one).adjusted(-wide, -wide, wide, wide))
        painter.restore()

    def _caption(self, painter: QPainter, room: Box) -> None:
        assert self.sheet is not None
        font = theme.serif(max(1.0, LETTERS * self.each))
        font.setItalic(True)
        painter.setFont(font)
        painter.setPen(QColor("#101010"))
        box = self.box(room)
        words = painter.fontMetrics().elidedText(
            spoken(self.sheet.marks.caption), Qt.TextElideMode.ElideRight, int(box.width())
        )
        if self.turned_over:  # the letters, too
            painter.save()
            painter.translate(2 * box.center().x(), 0)
            painter.scale(-1, 1)
        painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop, spoken(words))
        if self.turned_over:
            painter.restore()

    def _handles(self, painter: QPainter, one: Box) -> None:
        box = self.box(one)
        for corner in (box.topLeft(), box.topRight(), box.bottomLeft(), box.bottomRight()):
            paint_handle(painter, corner, theme.colour("accent"), theme.colour("panel"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(theme.sans(11))
        words = self._size_words(one)
        width = painter.fontMetrics().horizontalAdvance(spoken(words)) + 10
        above = box.top() - 22 if box.top() > RULER + 24 else box.top() + 6
        place = QRectF(box.center().x() - width / 2, above, width, 16)
        painter.fillRect(place, QColor(255, 255, 255, 215))
        painter.setPen(QColor(theme.DAYLIGHT.accent))
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, spoken(words))
        painter.setPen(QPen(QColor(theme.DAYLIGHT.accent), 1, Qt.PenStyle.DashLine))
        for x in self.lines:
            painter.drawLine(self.at(x, 0), self.at(x, self.sheet.paper.height if self.sheet else 0))

    def _rulers(self, painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, self.width(), RULER), theme.colour("panel"))
        painter.fillRect(QRectF(0, 0, RULER, self.height()), theme.colour("panel"))
        unit = 1.0 if self.unit == "mm" else INCH
        steps = _MM if self.unit == "mm" else _INCHES
        fine = next((s for s in steps if s * unit * self.each >= 5), steps[-1])
        named = next((s for s in steps if s * unit * self.each >= 38 and s >= fine), steps[-1])
        painter.setFont(theme.sans(10))
        corner = self.corner
        for lying, length, begin in ((True, self.width(), corner.x()), (False, self.height(), corner.y())):
            first = math.ceil((RULER - begin) / (fine * unit * self.each))
            last = math.floor((length - begin) / (fine * unit * self.each))
            for k in range(first, last + 1):
                value = k * fine
                at = begin + value * unit * self.each
                told_here = abs(value / named - round(value / named)) < 1e-6
                tick = 8 if told_here else 4
                painter.setPen(QPen(theme.colour("quiet"), 1))
                if lying:
                    painter.drawLine(QPointF(at, RULER - tick), QPointF(at, RULER))
                else:
                    painter.drawLine(QPointF(RULER - tick, at), QPointF(RULER, at))
                if told_here and lying and RULER < at < self.width() - _WORDS:  # no number is cut at the end
                    words = f"{value:g}".replace("-", "\N{MINUS SIGN}")
                    painter.drawText(QRectF(at - 20, 0, 40, 11), Qt.AlignmentFlag.AlignCenter, spoken(words))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(RULER, RULER, self.width(), RULER)
        painter.drawLine(RULER, RULER, RULER, self.height())
