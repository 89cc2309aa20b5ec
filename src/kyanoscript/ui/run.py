"""The run: the photograph and then a tray for every pass, each showing the print as it leaves that pass."""

from __future__ import annotations

import time

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QApplication, QScrollArea, QWidget

from kyanoscript.core.script import Script
from kyanoscript.ui import theme
from kyanoscript.ui.desk import FRAME, PHOTO, Desk
from kyanoscript.ui.easel import Easel, image_of
from kyanoscript.ui.service import RenderService, Spot, Survey

_PITCH, _LEFT, _TOP = 142, 20, 14
THUMB_W, THUMB_H = 120, 80
_BAR_Y = 31  # below the thumbnail
_HOLD = 0.3  # seconds after which pressing the lamp is a hold


class Trays(QWidget):
    """All trays, drawn as one row."""

    add = Signal(int, object)  # before this pass; where the chooser should appear (global point)
    menu = Signal(int, object)

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.desk, self.easel = desk, easel
        self._images: list[QImage] = []  # of every stage, at the size of a tray's picture
        self._pixels: list[NDArray[np.uint8]] = []  # what they show
        self._photo: QImage | None = None
        self._kinds: list[str] = []
        self._spot: Spot | None = None
        self._press: tuple[str, int, QPointF] | None = None  # what was pressed, of which tray, where
        self._drop: int | None = None  # between which trays the dragged one would land
        self._hover: tuple[str, int] | None = None
        self._lamp_since = 0.0
        self._first = 0  # the tray that is to be drawn again soon
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(40)
        self._soon.timeout.connect(self._repaint_one)
        self._lamp_timer = QTimer(self)
        self._lamp_timer.setSingleShot(True)
        self._lamp_timer.timeout.connect(self._lamp_held)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Run of passes")
        self.setAccessibleDescription("Left and right choose a tray, up and down change its strength")
        service.survey.connect(self._take)
        service.spot.connect(self._take_spot)
        easel.left.connect(lambda: self._take_spot(None))
        desk.script_changed.connect(self._changed)
        desk.selection_changed.connect(self._follow)
        desk.photo_changed.connect(self._new_photo)
        self._follow()

    def _new_photo(self) -> None:
        self._images, self._pixels, self._photo = [], [], None
        self._follow()

    def _changed(self, first: int) -> None:
        """A value of one pass needs its own tray drawn; anything else the whole row."""
        if self._kinds != (kinds := [one.kind for one in self.desk.script.passes]) or not self.desk.dragging:
            self._kinds = kinds
            self._follow()
        elif not self._soon.isActive():
            self._first = first
            self._soon.start()

    def _repaint_one(self) -> None:
        """In a drag elsewhere the bar follows a little later, so that it does not hold up the print."""
        self.update(self.tray(self._first).toAlignedRect())

    def _follow(self, *_: object) -> None:
        self.setMinimumWidth(_LEFT + (len(self.desk.script.passes) + 2) * _PITCH + 110)
        self.setAccessibleDescription(self._spoken())
        self.update()

    def _spoken(self) -> str:
        one = self.desk.selected_pass
        where = "Frame" if self.desk.selected == FRAME else "Photo"
        name = where if one is None else f"{one.label}, {'on' if one.on else 'off'}, strength {one.strength:g} %"
        return f"Chosen: {name}. Left and right choose a tray, up and down change its strength"

    def _take(self, survey: Survey) -> None:
        old, self._pixels = self._pixels, survey.stages
        if self._photo is None:
            self._photo = image_of(survey.photo)
            self.update(self.tray(PHOTO).toAlignedRect())
        for k, pixels in enumerate(survey.stages):
            if len(old) == len(survey.stages) and np.array_equal(old[k], pixels):
                continue  # most trays look as before while one pass is worked on
            self._images[k : k + 1] = [image_of(pixels)]
            self.update(self.tray(k - 1).toAlignedRect())
        del self._images[len(survey.stages) :]

    def _take_spot(self, spot: Spot | None) -> None:
        if spot is not self._spot:
            self._spot = spot
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), 140)

    # Where things are; tray -2 is the photograph, -1 the frame

    def tray(self, index: int) -> QRectF:
        """The whole tray."""
        return QRectF(_LEFT + (index + 2) * _PITCH - 6, 4, THUMB_W + 12, 134)

    def thumb(self, index: int) -> QRectF:
        """Its picture."""
        return QRectF(_LEFT + (index + 2) * _PITCH, _TOP, THUMB_W, THUMB_H)

    def bar(self, index: int) -> QRectF:
        """Its strength bar, with room for a finger."""
        box = self.thumb(index)
        return QRectF(box.left(), box.bottom() + _BAR_Y - 8, 98, 16)

    def lamp(self, index: int) -> QPointF:
        """The middle of its lamp."""
        box = self.thumb(index)
        return QPointF(box.right() - 5, box.bottom() + _BAR_Y)

    def adder(self, index: int) -> QRectF:
        """The place between the tray before pass ``index`` and that pass, where another can be put."""
        box = self.thumb(index)
        return QRectF(box.left() - 21, box.top() + 20, 20, 40)

    def end(self) -> QRectF:
        """Add a pass at the end."""
        box = self.thumb(len(self.desk.script.passes))
        return QRectF(box.left(), box.top(), 82, THUMB_H)

    def _what(self, at: QPointF) -> tuple[str, int] | None:
        passes = self.desk.script.passes
        if self.desk.photo is None:
            return None
        if self.end().contains(at):
            return ("end", len(passes))
        for k in range(PHOTO, len(passes)):
            if k >= 0:
                if self.adder(k).contains(at):
                    return ("adder", k)
                away = at - self.lamp(k)
                if abs(away.x()) <= 9 and abs(away.y()) <= 9:
                    return ("lamp", k)
                if self.bar(k).contains(at):
                    return ("bar", k)
            if self.tray(k).contains(at):
                return ("tray", k)
        return None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        if self.desk.photo is not None:
            for k in range(PHOTO, len(self.desk.script.passes)):
                if event.region().intersects(self.tray(k).toAlignedRect().adjusted(-20, 0, 0, 0)):
                    self._paint_tray(painter, k)
            self._paint_end(painter)
            self._paint_drop(painter)
        painter.end()

    def _paint_tray(self, painter: QPainter, k: int) -> None:
        chosen = k == self.desk.selected
        one = self.desk.script.passes[k] if k >= 0 else None
        tray, box = self.tray(k), self.thumb(k)
        if chosen:
            painter.fillRect(tray, theme.colour("soft"))
            painter.fillRect(QRectF(tray.left(), tray.top(), tray.width(), 3), theme.colour("accent"))
            if self.hasFocus():
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(tray.adjusted(1, 1, -1, -1))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(box, theme.colour("ground"))
        image = self._photo if k == PHOTO else (self._images[k + 1] if k + 1 < len(self._images) else None)
        if image is not None:
            ratio = self.devicePixelRatioF()
            inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
            inner.moveCenter(box.center())
            painter.setOpacity(1.0 if one is None or one.on else 0.45)
            painter.drawImage(inner, image)
            painter.setOpacity(1.0)
        if one is not None and one.stencil is not None:  # it acts in places only
            notch = QRectF(box.right() - 26, box.top(), 26, 17)
            painter.fillRect(notch, theme.colour("panel"))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.colour("accent"), 1))
            painter.setBrush(theme.colour("accent"))
            painter.drawEllipse(notch.center(), 7, 4.5)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setFont(theme.serif(15.5))
        painter.setPen(theme.colour("text" if one is None or one.on else "quiet"))
        name = {PHOTO: "Photo", FRAME: "Frame"}.get(k) or self.desk.script.passes[k].label
        name_box = QRectF(box.left(), box.bottom() + 2, THUMB_W, 20)
        painter.drawText(name_box, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if one is not None:
            self._paint_bar(painter, k, one.strength, one.on)
        self._paint_value(painter, k)
        if k >= 0:
            self._paint_adder(painter, k)

    def _paint_bar(self, painter: QPainter, k: int, strength: float, on: bool) -> None:
        bar = self.bar(k)
        y = bar.center().y()
        painter.setPen(QPen(theme.colour("line"), 3))
        painter.drawLine(QPointF(bar.left() + 1.5, y), QPointF(bar.right() - 1.5, y))
        if strength > 0:
            painter.setPen(QPen(theme.colour("accent" if on else "quiet"), 3))
            painter.drawLine(
                QPointF(bar.left() + 1.5, y), QPointF(bar.left() + 1.5 + (bar.width() - 3) * strength / 100, y)
            )
        painter.setPen(QPen(theme.colour("accent" if on else "quiet"), 1.5))
        painter.setBrush(theme.colour("accent" if on else "panel"))
        painter.drawEllipse(self.lamp(k), 4.5, 4.5)

    def _paint_value(self, painter: QPainter, k: int) -> None:
        """The pointer's spot as it leaves this tray; in the photograph's tray where a strength bar would be."""
        spot = self._spot
        if spot is None or k >= len(spot.trace) or k == FRAME:
            return
        r, g, b = spot.photo if k < 0 else spot.trace[k]
        text = str(r) if r == g == b else f"{r} {g} {b}"
        painter.setFont(theme.sans(10.5))
        width = painter.fontMetrics().horizontalAdvance(text) + 10
        box = QRectF(self.thumb(k).left(), self.thumb(k).bottom() - 17, width, 17)
        painter.fillRect(box, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_adder(self, painter: QPainter, k: int) -> None:
        box = self.adder(k)
        hot = self._hover == ("adder", k)
        painter.setFont(theme.sans(17 if hot else 14))
        painter.setPen(theme.colour("accent" if hot else "quiet"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "+" if hot else "›")

    def _paint_end(self, painter: QPainter) -> None:
        box = self.end()
        hot = self._hover is not None and self._hover[0] == "end"
        painter.setPen(QPen(theme.colour("accent"), 1, Qt.PenStyle.DashLine))
        painter.setBrush(theme.colour("soft") if hot else Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
        painter.setFont(theme.sans(13))
        painter.setPen(theme.colour("accent"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, "Add\na pass")

    def _paint_drop(self, painter: QPainter) -> None:
        if self._drop is not None:
            x = self.thumb(self._drop).left() - 11
            painter.fillRect(QRectF(x - 1.5, 8, 3, 124), theme.colour("accent"))

    # Pressing and dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        what = self._what(event.position())
        if what is None:
            return
        kind, k = what
        if event.button() == Qt.MouseButton.RightButton and kind in ("tray", "bar", "lamp") and k >= 0:
            self.desk.select(k)
            self.menu.emit(k, event.globalPosition().toPoint())
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._press = (kind, k, event.position())
        if kind in ("tray", "bar", "lamp"):
            self.desk.select(k)
        if kind == "bar":
            self.desk.begin(f"{self.desk.script.passes[k].label}: strength")
            self._to_strength(k, event.position().x())
        elif kind == "lamp":
            self._lamp_since = time.monotonic()
            self._lamp_timer.start(int(_HOLD * 1000))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._press is None:
            self._hover_over(at)
            return
        kind, k, start = self._press
        if kind == "bar":
            self._to_strength(k, at.x())
        elif kind == "tray" and k >= 0 and abs(at.x() - start.x()) > QApplication.startDragDistance():
            drop = min(max(round((at.x() - _LEFT) / _PITCH) - 2, 0), len(self.desk.script.passes))
            self._drop = drop
            self.update()

    def _hover_over(self, at: QPointF) -> None:
        what = self._what(at)
        if what != self._hover:
            self._hover = what
            hand = what is not None and what[0] in ("adder", "end", "lamp")
            self.setCursor(theme.HAND if hand else Qt.CursorShape.ArrowCursor)
            tips = {"adder": "Add a pass here", "lamp": "Press: on or off. Hold: the print without this pass"}
            self.setToolTip(tips.get(what[0], "") if what else "")
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            return
        kind, k, _ = self._press
        self._press = None
        point = event.globalPosition().toPoint()
        if kind == "bar":
            self.desk.commit()
        elif kind == "lamp":
            self._lamp_timer.stop()
            self.easel.hold(None)
            if time.monotonic() - self._lamp_since < _HOLD and k < len(self.desk.script.passes):
                one = self.desk.script.passes[k]
                self.desk.set_values_at(k, f"{one.label} {'off' if one.on else 'on'}", on=not one.on)
        elif kind in ("adder", "end"):
            self.add.emit(k, point)
        elif self._drop is not None:
            drop, self._drop = self._drop, None
            self.move(k, drop - 1 if drop > k else drop)
            self.update()

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def _lamp_held(self) -> None:
        if self._press is not None and self._press[0] == "lamp":
            k = self._press[1]
            self.easel.hold(self.desk.script.without(k), f"without {self.desk.script.passes[k].label}")

    def move(self, index: int, to: int) -> None:  # type: ignore[override]
        """Move a tray."""
        to = min(max(to, 0), len(self.desk.script.passes) - 1)
        if index != to and index >= 0:
            label = self.desk.script.passes[index].label
            self.desk.change(f"Move {label}", self.desk.script.moved(index, to), select=to)

    def _to_strength(self, k: int, x: float) -> None:
        bar = self.bar(k)
        share = min(max((x - bar.left() - 1.5) / (bar.width() - 3), 0.0), 1.0)
        self.desk.set_values_at(k, "Strength", strength=float(round(share * 100)))
        self.update(self.tray(k).toAlignedRect())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._press is not None:
            self._press, self._drop = None, None
            self.desk.abort()
            self.update()
        else:
            super().keyPressEvent(event)


class Run(QScrollArea):
    """The trays, scrolled sideways when there are many."""

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.trays = Trays(desk, service, easel)
        self.desk = desk
        self.setWidget(self.trays)
        self.setWidgetResizable(True)
        self.setFixedHeight(148)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        desk.selection_changed.connect(self._reveal)
        desk.script_changed.connect(self._reveal)

    def _reveal(self, *_: object) -> None:
        box = self.trays.tray(self.desk.selected).toAlignedRect()
        self.trays.resize(max(self.trays.minimumWidth(), self.viewport().width()), self.trays.height())
        self.ensureVisible(box.center().x(), 10, box.width() // 2 + 20, 0)

    def wheelEvent(self, event: QWheelEvent) -> None:
        bar = self.horizontalScrollBar()
        delta = event.angleDelta()
        bar.setValue(bar.value() - (delta.y() or delta.x()))


def without_selected(desk: Desk) -> Script | None:
    """The script without the chosen pass; None if the photograph is chosen."""
    return desk.script.without(desk.selected) if desk.selected_pass is not None else None
