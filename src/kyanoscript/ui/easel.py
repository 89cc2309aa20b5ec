"""The easel: the print on its mat, to be zoomed and moved, with the whole print small at arm's length."""

from __future__ import annotations

import math

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from kyanoscript.core.geometry import framing
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.ui import theme
from kyanoscript.ui.desk import Desk
from kyanoscript.ui.frame_tool import FrameTool
from kyanoscript.ui.service import Frame, RenderService, Survey, View
from kyanoscript.ui.touch import TouchTool

_MARGIN = 24  # mat round a whole print, in pixels of the screen
_MOST = 16.0  # screen pixels to one of the photograph's
_INSET = 112  # longer side of the print at arm's length
_WHEEL = 1.25


class Easel(QWidget):
    """Shows the print of the desk's script, or another script while a key is held."""

    pointed = Signal(float, float)  # the pointer is over this place of the picture, 0…1
    left = Signal()
    zoomed = Signal()
    painted = Signal(object)  # the Frame that has just come onto the screen

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__()
        self.desk, self.service = desk, service
        self.whole = True  # fitted to the easel
        self.zoom = 1.0  # screen pixels to one of the photograph's, when not whole
        self.centre = QPointF(0.5, 0.5)  # the place of the picture in the middle of the easel
        self.mat = "mid gray"
        self.inset = True
        self.frame_tool = FrameTool(self, desk)
        self.touch = TouchTool(self, desk, service)
        self._held: Script | None = None
        self._caption = ""
        self._zone: tuple[int, int] | None = None
        self._frame: Frame | None = None
        self._image = QImage()
        self._backdrop = QImage()
        self._small = QImage()  # the print at arm's length, in the pixels it is shown in
        self._grip: QPointF | None = None
        self._space = False
        self._keyboard = False  # came here by the keyboard
        self._framing = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumSize(240, 160)
        self.setAccessibleName("Easel")
        self.setAccessibleDescription("The print. Wheel zooms, Space and drag moves, double-press changes size")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        service.frame.connect(self._take)
        service.survey.connect(self._survey)
        desk.script_changed.connect(self.refresh)
        desk.photo_changed.connect(self._new_photo)
        desk.selection_changed.connect(self._other_tray)

    # Where the picture lies

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        photo = self.desk.photo
        if not self.whole or photo is None:
            return self.zoom
        ratio = self.devicePixelRatioF()
        wide = max(32.0, (self.width() - 2 * _MARGIN) * ratio)
        high = max(32.0, (self.height() - 2 * _MARGIN) * ratio)
        width, height = self._size()
        return min(wide / width, high / height, _MOST)

    def shown(self) -> Script:
        """What is on the easel: the print, another script while it is held, everything while the frame is worked on."""
        script = self._held or self.desk.script
        return self.frame_tool.shown(script) if self.frame_tool.active else script

    def _size(self, scale: float = 1.0) -> tuple[int, int]:
        """Width and height in pixels of what is shown, at a scale."""
        photo = self.desk.photo
        return framing(self.shown().frame, photo.width, photo.height).size(scale) if photo is not None else (0, 0)

    def render_scale(self) -> float:
        """Scale at which the print is rendered: never above the photograph's own pixels."""
        return min(1.0, self.magnification())

    def place(self) -> QRectF:
        """The whole print on the easel, in pixels of the screen (those of the device)."""
        photo = self.desk.photo
        if photo is None:
            return QRectF()
        ratio = self.devicePixelRatioF()
        if self.magnification() <= 1:
            width, height = (float(v) for v in self._size(self.render_scale()))
        else:
            width, height = (v * self.magnification() for v in self._size())
        centre = QPointF(0.5, 0.5) if self.whole else self.centre
        x = self.width() * ratio / 2 - centre.x() * width
        y = self.height() * ratio / 2 - centre.y() * height
        return QRectF(round(x), round(y), width, height)

    def to_picture(self, at: QPointF) -> QPointF:
        """Place in the picture, 0…1 (outside when off the print), of a point of the widget."""
        place = self.place()
        ratio = self.devicePixelRatioF()
        if place.isEmpty():
            return QPointF(-1, -1)
        return QPointF((at.x() * ratio - place.x()) / place.width(), (at.y() * ratio - place.y()) / place.height())

    def from_picture(self, at: QPointF) -> QPointF:
        """Point of the widget of a place in the picture, 0…1."""
        place, ratio = self.place(), self.devicePixelRatioF()
        return QPointF(
            (place.x() + at.x() * place.width()) / ratio,
            (place.y() + at.y() * place.height()) / ratio,
        )

    # What is shown

    def hold(self, script: Script | None, caption: str = "") -> None:
        """Show another script's print until called with None."""
        if script != self._held:
            self._held, self._caption = script, caption
            self.refresh()

    def hold_zone(self, index: int | None, zone: int = 0) -> None:
        """Show which parts enter the pass at ``index`` in a zone, until called with None."""
        self._zone = None if index is None else (index, zone)
        self._caption = "" if index is None else f"zone {_roman(zone)}"
        self.refresh()

    def refresh(self, *_: object) -> None:
        """Ask for what should be on the easel now."""
        photo = self.desk.photo
        if photo is None or self.width() < 2:
            return
        scale = self.render_scale()
        size = self._size(scale)
        place, ratio = self.place(), self.devicePixelRatioF()
        each = place.width() / size[0]  # screen pixels to one rendered pixel
        visible = QRectF(0, 0, self.width() * ratio, self.height() * ratio).intersected(place)
        if visible.isEmpty():
            self.update()
            return
        x0, y0 = math.floor((visible.left() - place.x()) / each), math.floor((visible.top() - place.y()) / each)
        x1, y1 = math.ceil((visible.right() - place.x()) / each), math.ceil((visible.bottom() - place.y()) / each)
        rect = Rect(x0, y0, x1 - x0, y1 - y0).clipped(*size)
        if rect.width < 1 or rect.height < 1:
            return
        zone_of, zone = self._zone or (None, 0)
        keep = max(0, self.desk.selected) if self.desk.dragging else None
        self.service.look(View(self.shown(), rect, scale, zone_of, zone, keep))

    def _new_photo(self) -> None:
        self._frame = None
        self._backdrop = QImage()
        self.show_whole()

    def _other_tray(self) -> None:
        """Coming to the frame, or leaving it, something else is on the easel."""
        if self.frame_tool.active != self._framing:
            self._framing = self.frame_tool.active
            self.setCursor(Qt.CursorShape.ArrowCursor)
            self._frame = None
            self.show_whole()

    def _take(self, frame: Frame) -> None:
        current = self.shown() == frame.view.script or self.desk.dragging
        if frame.coarse and not current:
            return
        self._frame = frame
        height, width = frame.pixels.shape[:2]
        self._image = QImage(frame.pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
        self.update()

    def _survey(self, survey: Survey) -> None:
        self._backdrop = image_of(survey.print)
        ratio = self.devicePixelRatioF()
        inner = self._inset_rect().adjusted(6, 6, -6, -19).size() * ratio
        self._small = self._backdrop.scaled(
            inner.toSize(), Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        if self.inset:
            self.update(self._inset_rect().toAlignedRect().adjusted(-2, -2, 2, 2))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
        place, ratio = self.place(), self.devicePixelRatioF()
        if self.desk.photo is None:
            self._paint_empty(painter)
            return
        painter.save()
        painter.scale(1 / ratio, 1 / ratio)
        frame = self._frame
        # With no frame for this size yet, the small print stands in, so that the easel is never empty.
        covered = frame is not None and not frame.coarse and frame.scale == self.render_scale()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.magnification() < 2)
        if not covered and not self._backdrop.isNull() and not self.frame_tool.active:
            painter.drawImage(place, self._backdrop)
        if frame is not None:
            size = self._size(frame.scale)
            fx, fy = place.width() / size[0], place.height() / size[1]
            x, y = place.x() + frame.rect.x * fx, place.y() + frame.rect.y * fy
            if fx == 1 and fy == 1:
                painter.drawImage(QPoint(round(x), round(y)), self._image)
            else:
                painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, fx < 2 or frame.coarse)
                painter.drawImage(QRectF(x, y, frame.rect.width * fx, frame.rect.height * fy), self._image)
        painter.restore()
        if self._caption:
            self._paint_caption(painter)
        if self.frame_tool.active:
            painter.save()
            self.frame_tool.paint(painter)
            painter.restore()
        if self.touch.active:
            painter.save()
            self.touch.paint(painter)
            painter.restore()
        if self.inset and not self._backdrop.isNull():
            self._paint_inset(painter)
        if self._keyboard:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()
        if frame is not None:
            self.painted.emit(frame)

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setFont(theme.serif(24))
        painter.setPen(QColor("#FFFFFF" if self.mat != "paper white" else "#1C1C1C"))
        text = "Drop a photograph here, or press Ctrl+O"
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, text)

    def _paint_caption(self, painter: QPainter) -> None:
        painter.setFont(theme.sans(12))
        width = painter.fontMetrics().horizontalAdvance(self._caption) + 20
        box = QRect(12, 12, width, 24)
        painter.fillRect(box, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self._caption)

    def _inset_rect(self) -> QRectF:
        """The small print with its white rim, in the corner where it hides least."""
        size = self._backdrop.size()
        share = _INSET / max(1, size.width(), size.height())
        width, height = size.width() * share + 12, size.height() * share + 25
        return QRectF(self.width() - width - 12, self.height() - height - 12, width, height)

    def _paint_inset(self, painter: QPainter) -> None:
        box = self._inset_rect()
        if box.contains(QPointF(self.mapFromGlobal(self.cursor().pos()))):
            return  # the pointer is there to see what lies beneath
        painter.fillRect(box, QColor("#FFFFFF"))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        painter.drawImage(box.adjusted(6, 6, -6, -19), self._small)
        painter.setFont(theme.serif(12.5, italic=True))
        painter.setPen(QColor("#5A5A5A"))
        painter.drawText(
            QRectF(box.x(), box.bottom() - 18, box.width(), 16), Qt.AlignmentFlag.AlignCenter, "at arm’s length"
        )

    # Zooming and moving

    def show_whole(self) -> None:
        """Fit the whole print on the easel."""
        self.whole = True
        self.centre = QPointF(0.5, 0.5)
        self._moved()

    def show_actual(self, at: QPointF | None = None) -> None:
        """One pixel of the photograph to one of the screen; the place ``at`` (widget) stays under the pointer."""
        self.set_zoom(1.0, at)

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom to a magnification, keeping the place under a point of the widget where it is."""
        photo = self.desk.photo
        if photo is None:
            return
        at = at or QPointF(self.width() / 2, self.height() / 2)
        spot = self.to_picture(at)
        self.whole = False
        least = min(0.02, 64 / max(self._size()))
        self.zoom = min(max(zoom, least), _MOST)
        ratio = self.devicePixelRatioF()
        shift = (at - QPointF(self.width() / 2, self.height() / 2)) * ratio
        size = self.place().size()
        self.centre = QPointF(spot.x() - shift.x() / size.width(), spot.y() - shift.y() / size.height())
        self._moved()

    def _moved(self) -> None:
        # A part of the print always stays in sight.
        self.centre = QPointF(min(max(self.centre.x(), 0.0), 1.0), min(max(self.centre.y(), 0.0), 1.0))
        self.refresh()
        self.update()
        self.zoomed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.set_zoom(self.magnification() * _WHEEL**steps, event.position())

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.frame_tool.active or self.touch.active:
            self.mousePressEvent(event)
        elif event.button() == Qt.MouseButton.LeftButton:
            if self.whole or self.magnification() != 1:
                self.show_actual(event.position())
            else:
                self.show_whole()

    def hold_space(self, down: bool) -> None:
        """Space is held: the print can be dragged."""
        self._space = down
        self.setCursor(Qt.CursorShape.OpenHandCursor if down else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        middle = event.button() == Qt.MouseButton.MiddleButton
        if middle or (event.button() == Qt.MouseButton.LeftButton and self._space):
            self._grip = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton and self.frame_tool.active:
            level = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.frame_tool.press(event.position(), level)
        elif event.button() == Qt.MouseButton.LeftButton and self.touch.active:
            self.touch.press(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            if self.whole:
                self.zoom, self.whole = self.magnification(), False
            by = (event.position() - self._grip) * self.devicePixelRatioF()
            self._grip = event.position()
            size = self.place().size()
            self.centre = self.centre - QPointF(by.x() / size.width(), by.y() / size.height())
            self._moved()
            return
        if self.frame_tool.active:
            self.frame_tool.move(event.position())
            self.setCursor(self.frame_tool.cursor(event.position()))
            return
        if self.touch.active:
            self.touch.move(event.position())
            self.setCursor(Qt.CursorShape.SizeVerCursor)
        spot = self.to_picture(event.position())
        if 0 <= spot.x() < 1 and 0 <= spot.y() < 1:
            self.pointed.emit(spot.x(), spot.y())
        else:
            self.left.emit()
        if self.inset:
            self.update(self._inset_rect().toAlignedRect().adjusted(-2, -2, 2, 2))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self._grip = None
            self.hold_space(self._space)
        elif self.frame_tool.active:
            self.frame_tool.release(event.position())
        else:
            self.touch.release()

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Coming here by the keyboard shows; a press with the pointer needs no frame round the print."""
        reasons = (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        self._keyboard = event.reason() in reasons
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self._keyboard = False
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.left.emit()
        self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh()
        self.zoomed.emit()


def image_of(pixels: object) -> QImage:
    """A QImage that owns a copy of screen pixels ``(h, w, 4)``."""
    height, width = pixels.shape[:2]  # type: ignore[attr-defined]
    return QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32).copy()  # type: ignore[attr-defined]


def _roman(zone: int) -> str:
    from kyanoscript.core.colour import ZONES

    return ZONES[zone]
