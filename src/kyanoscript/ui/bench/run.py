"""The run: the photograph and then a tray for every pass, each showing the print as it leaves that pass.

The run of a plate is a second, lower row beneath.
"""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QApplication, QScrollArea, QVBoxLayout, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.ui.document.desk import FRAME, PHOTO, Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Pointed, Survey
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import furniture, theme

THUMB_W, THUMB_H = 120, 80
_LEFT = 20
_HOLD = 0.3  # seconds after which pressing the lamp is a hold


@dataclass(frozen=True)
class Row:
    """Measures of a row of trays, in pixels."""

    thumb_w: int
    thumb_h: int
    top: int  # above the pictures
    bar: int  # the strength bar's middle below the pictures
    serif: float

    @property
    def pitch(self) -> int:
        """From tray to tray."""
        return self.thumb_w + 22

    @property
    def height(self) -> int:
        """Of a tray."""
        return self.top + self.thumb_h + self.bar + 13


MAIN, SECOND = Row(THUMB_W, THUMB_H, 14, 31, 15.5), Row(84, 56, 8, 28, 14)


class Trays(QWidget):
    """All trays of one run, drawn as one row."""

    add = Signal(int, object, object)  # before this pass; path of the run; where the chooser should appear (global)
    menu = Signal(object)
    rename = Signal()
    stencil = Signal()  # the chosen pass's stencil is to be worked on

    def __init__(self, desk: Desk, service: RenderService, easel: Easel, row: Row = MAIN) -> None:
        super().__init__()
        self.desk, self.easel, self.row = desk, easel, row
        self.second = row is SECOND
        self.images: list[QImage] = []  # of every stage, at the size of a tray's picture
        self._pixels: list[NDArray[np.uint8]] = []  # what they show
        self.photo: QImage | None = None
        self._kinds: list[tuple[str, str]] = []
        self.spot: Pointed | None = None
        self._press: tuple[str, int, QPointF] | None = None  # what was pressed, of which tray, where
        self._drop: int | None = None  # between which trays the dragged one would land
        self._onto: int | None = None  # the tray that a stencil would be copied to
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
        self.setAccessibleName("The plate's run" if self.second else "Run of passes")
        service.answers(Survey).connect(self._take)
        service.answers(Pointed).connect(self._take_spot)
        easel.left.connect(lambda: self._take_spot(None))
        desk.script_changed.connect(self._changed)
        desk.selection_changed.connect(self._follow)
        desk.photo_changed.connect(self._new_photo)
        self._follow()

    # What it shows

    @property
    def path(self) -> tuple[int, ...]:
        """Where its run is found."""
        return self.desk.opened if self.second else ()

    @property
    def passes(self) -> tuple[Pass, ...]:
        """The passes of its run."""
        if self.second and not self.path:
            return ()
        return self.desk.script.run(self.path)

    @property
    def first(self) -> int:
        """The first tray: the photograph's; in the second row that of the plate itself."""
        return -1 if self.second else PHOTO

    @property
    def selected(self) -> int:
        """The chosen tray of this row; below all of them if it lies in another."""
        desk = self.desk
        if self.second:
            return desk.selected if desk.path == self.path else -1 if desk.opened else PHOTO
        return desk.path[0] if desk.path else desk.selected

    def chosen(self, k: int) -> bool:
        """Whether a tray is chosen, alone or with others."""
        here = self.desk.path == self.path
        return k == self.selected or (here and k in self.desk.also)

    def choose(self, k: int) -> None:
        """Choose a tray."""
        if self.second and k < 0:
            self.desk.select(self.path[-1], self.path[:-1])
        else:
            self.desk.select(k, self.path)

    def _new_photo(self) -> None:
        self.images, self._pixels, self.photo = [], [], None
        self._follow()

    def _changed(self, first: int) -> None:
        """A value of one pass needs its own tray drawn; anything else the whole row."""
        if self._kinds != (kinds := [(one.kind, one.name) for one in self.passes]) or not self.desk.dragging:
            self._kinds = kinds
            self._follow()
        elif not self._soon.isActive():
            self._first = self.selected if self.second else first
            self._soon.start()

    def _repaint_one(self) -> None:
        """In a drag elsewhere the bar follows a little later, so that it does not hold up the print."""
        self.update(self.tray(self._first).toAlignedRect())

    def _follow(self, *_: object) -> None:
        self.setMinimumWidth(_LEFT + (len(self.passes) - self.first) * self.row.pitch + 110)
        self.setAccessibleDescription(self._spoken())
        self.update()

    def _spoken(self) -> str:
        one = self.desk.selected_pass
        where = "Frame" if self.desk.selected == FRAME else "Photo"
        name = where if one is None else f"{one.title}, {'on' if one.on else 'off'}, strength {one.strength:g} %"
        others = f" and {len(self.desk.also)} more" if self.desk.also else ""
        return f"Chosen: {name}{others}. Left and right choose a tray, up and down change its strength"

    def _take(self, survey: Survey) -> None:
        stages = survey.within if self.second else survey.stages
        old, self._pixels = self._pixels, stages
        if self.photo is None:
            self.photo = display.image(survey.photo)
            self.update(self.tray(PHOTO).toAlignedRect())
        for k, pixels in enumerate(stages):
            if len(old) == len(stages) and np.array_equal(old[k], pixels):
                continue  # most trays look as before while one pass is worked on
            self.images[k : k + 1] = [display.image(pixels)]
            self.update(self.tray(k - 1).toAlignedRect())
        del self.images[len(stages) :]

    def _take_spot(self, spot: Pointed | None) -> None:
        if spot is not self.spot:
            self.spot = spot
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), self.row.height + 4)

    # Where things are; tray -2 is the photograph, -1 the frame, or in the second row the plate

    def tray(self, index: int) -> QRectF:
        """The whole tray."""
        box = self.thumb(index)
        return QRectF(box.left() - 6, self.row.top - 10 if self.row is MAIN else 1, box.width() + 12, self.row.height)

    def thumb(self, index: int) -> QRectF:
        """Its picture."""
        row = self.row
        return QRectF(_LEFT + (index - self.first) * row.pitch, row.top, row.thumb_w, row.thumb_h)

    def name_box(self, index: int) -> QRectF:
        """Its name."""
        box = self.thumb(index)
        return QRectF(box.left(), box.bottom() + 2, box.width(), 20)

    def bar(self, index: int) -> QRectF:
        """Its strength bar, with room for a finger."""
        box = self.thumb(index)
        return QRectF(box.left(), box.bottom() + self.row.bar - 8, box.width() - 22, 16)

    def lamp(self, index: int) -> QPointF:
        """The middle of its lamp."""
        box = self.thumb(index)
        return QPointF(box.right() - 5, box.bottom() + self.row.bar)

    def notch(self, index: int) -> QRectF:
        """The mark of its stencil."""
        box = self.thumb(index)
        return QRectF(box.right() - 26, box.top(), 26, 17)

    def adder(self, index: int) -> QRectF:
        """The place between the tray before pass ``index`` and that pass, where another can be put."""
        box = self.thumb(index)
        return QRectF(box.left() - 21, box.center().y() - 20, 20, 40)

    def end(self) -> QRectF:
        """Add a pass at the end."""
        box = self.thumb(len(self.passes))
        return QRectF(box.left(), box.top(), 82, self.row.thumb_h)

    def _what(self, at: QPointF) -> tuple[str, int] | None:
        passes = self.passes
        if self.desk.photo is None or (self.second and not self.path):
            return None
        if self.end().contains(at):
            return ("end", len(passes))
        for k in range(self.first, len(passes)):
            if k >= 0:
                if self.adder(k).contains(at):
                    return ("adder", k)
                away = at - self.lamp(k)
                if abs(away.x()) <= 9 and abs(away.y()) <= 9:
                    return ("lamp", k)
                if self.bar(k).contains(at):
                    return ("bar", k)
                if passes[k].stencil is not None and self.notch(k).contains(at):
                    return ("notch", k)
            if self.tray(k).contains(at):
                return ("tray", k)
        return None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        if self.desk.photo is not None and (self.path or not self.second):
            for k in range(self.first, len(self.passes)):
                if event.region().intersects(self.tray(k).toAlignedRect().adjusted(-20, 0, 0, 0)):
                    self._paint_tray(painter, k)
            self._paint_end(painter)
            self._paint_drop(painter)
        painter.end()

    def _image(self, k: int) -> QImage | None:
        if k == PHOTO:
            return self.photo
        return self.images[k + 1] if k + 1 < len(self.images) else None

    def name_of(self, k: int) -> str:
        if self.second and k < 0:
            outer = self.desk.script.run(self.path[:-1])
            return f"‹ {outer[self.path[-1]].title}"
        return {PHOTO: "Photo", FRAME: "Frame"}.get(k) or self.passes[k].title

    def _paint_tray(self, painter: QPainter, k: int) -> None:
        one = self.passes[k] if k >= 0 else None
        tray, box = self.tray(k), self.thumb(k)
        if self.chosen(k) or k == self._onto:
            painter.fillRect(tray, theme.colour("soft"))
            leads = k == self.selected and not (self.row is MAIN and self.desk.path)
            painter.fillRect(QRectF(tray.left(), tray.top(), tray.width(), 3 if leads else 1), theme.colour("accent"))
            if self.hasFocus() and k == self.selected:
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(tray.adjusted(1, 1, -1, -1))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(box, theme.colour("ground"))
        image = self._image(k)
        if image is not None:
            ratio = self.devicePixelRatioF()
            inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
            if self.second:
                inner.setSize(inner.size().scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio))
            inner.moveCenter(box.center())
            painter.setOpacity(1.0 if one is None or one.on else 0.45)
            painter.drawImage(inner, image)
            painter.setOpacity(1.0)
        if one is not None and one.stencil is not None:  # it acts in places only
            notch = self.notch(k)
            painter.fillRect(notch, theme.colour("panel"))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.colour("accent"), 1))
            painter.setBrush(theme.colour("accent"))
            painter.drawEllipse(notch.center(), 7, 4.5)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setFont(theme.serif(self.row.serif, italic=one is not None and bool(one.name)))
        painter.setPen(theme.colour("text" if one is None or one.on else "quiet"))
        room = self.name_box(k)
        name = painter.fontMetrics().elidedText(self.name_of(k), Qt.TextElideMode.ElideRight, int(room.width()))
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, name)
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
        """The pointer's spot as it leaves this tray."""
        spot = self.spot
        values = spot.row if spot is not None and self.second else spot.trace if spot is not None else []
        if spot is None or k >= len(values) or (k == FRAME and not self.second) or (self.second and k < 0):
            return
        r, g, b = spot.photo if k < 0 else values[k]
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
            painter.fillRect(QRectF(x - 1.5, 4, 3, self.row.height - 6), theme.colour("accent"))

    # Pressing and dragging

    def mousePressEvent(self, event: QMouseEvent) -> None:
        what = self._what(event.position())
        if what is None:
            return
        kind, k = what
        if event.button() == Qt.MouseButton.RightButton and kind in ("tray", "bar", "lamp", "notch") and k >= 0:
            if not self.chosen(k):
                self.choose(k)
            self.menu.emit(event.globalPosition().toPoint())
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._press = (kind, k, event.position())
        adding = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if kind == "tray" and adding and k >= 0 and self.desk.path == self.path:
            self.desk.choose_also(k, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            self._press = None
        elif kind == "tray" and self.chosen(k) and self.desk.also and self.desk.path == self.path:
            pass  # several are chosen: they are moved together, or on letting go only this one stays chosen
        elif kind in ("tray", "bar", "lamp", "notch"):
            self.choose(k)
        if kind == "bar":
            self.desk.begin(f"{self.passes[k].title}: strength")
            self._to_strength(k, event.position().x())
        elif kind == "lamp":
            self._lamp_since = time.monotonic()
            self._lamp_timer.start(int(_HOLD * 1000))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        what = self._what(event.position())
        if what is not None and what[0] == "tray" and what[1] >= 0:
            if self.name_box(what[1]).contains(event.position()):
                self.rename.emit()
            return
        self.mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._press is None:
            self._hover_over(at)
            return
        kind, k, start = self._press
        far = abs(at.x() - start.x()) > QApplication.startDragDistance()
        if kind == "bar":
            self._to_strength(k, at.x())
        elif kind == "tray" and k >= 0 and far:
            drop = round((at.x() - _LEFT) / self.row.pitch) + self.first
            self._drop = min(max(drop, 0), len(self.passes))
            self.update()
        elif kind == "notch" and far:
            over = self._what(at)
            self._onto = over[1] if over is not None and 0 <= over[1] < len(self.passes) and over[1] != k else None
            self.setCursor(Qt.CursorShape.DragCopyCursor)
            self.update()

    def _hover_over(self, at: QPointF) -> None:
        what = self._what(at)
        if what != self._hover:
            self._hover = what
            hand = what is not None and what[0] in ("adder", "end", "lamp", "notch")
            self.setCursor(theme.HAND if hand else Qt.CursorShape.ArrowCursor)
            tips = {
                "adder": "Add a pass here",
                "lamp": "Press: on or off. Hold: the print without this pass",
                "notch": "Press: work on the stencil. Drag to another tray: copy it there",
            }
            note = self.passes[what[1]].note if what is not None and 0 <= what[1] < len(self.passes) else ""
            self.setToolTip(tips.get(what[0], note) if what else "")
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            return
        kind, k, _ = self._press
        self._press = None
        if kind == "bar":
            self.desk.commit()
        elif kind == "lamp":
            self._lamp_timer.stop()
            self.easel.hold(None)
            if time.monotonic() - self._lamp_since < _HOLD and k < len(self.passes):
                one = self.passes[k]
                self.desk.set_values_at(k, f"{one.title} {'off' if one.on else 'on'}", on=not one.on)
        elif kind in ("adder", "end"):
            self.add.emit(k, self.path, event.globalPosition().toPoint())
        elif kind == "notch":
            self._let_notch_go(k)
        elif self._drop is not None:
            drop, self._drop = self._drop, None
            self.desk.move_chosen(drop)
            self.update()
        elif kind == "tray" and self.desk.also and self.desk.path == self.path:
            self.choose(k)

    def _let_notch_go(self, k: int) -> None:
        onto, self._onto = self._onto, None
        self.setCursor(Qt.CursorShape.ArrowCursor)
        if onto is None:
            self.stencil.emit()
            return
        stencil, words = self.passes[k].stencil, f"Copy the stencil to {self.passes[onto].title}"
        self.choose(onto)
        self.desk.set_values(words, stencil=stencil)

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.update()

    def _lamp_held(self) -> None:
        if self._press is not None and self._press[0] == "lamp":
            k = self._press[1]
            rest = (*self.passes[:k], *self.passes[k + 1 :])
            self.easel.hold(self.desk.script.with_run(self.path, rest), f"without {self.passes[k].title}")

    def _to_strength(self, k: int, x: float) -> None:
        bar = self.bar(k)
        share = min(max((x - bar.left() - 1.5) / (bar.width() - 3), 0.0), 1.0)
        self.desk.set_values_at(k, "Strength", strength=float(round(share * 100)))
        self.update(self.tray(k).toAlignedRect())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._press is not None:
            self._press, self._drop, self._onto = None, None, None
            self.desk.abort()
            self.update()
        else:
            super().keyPressEvent(event)


class _Scroller(QScrollArea):
    """One row of trays, scrolled sideways when there are many."""

    def __init__(self, trays: Trays) -> None:
        super().__init__()
        self.trays = trays
        self.setWidget(trays)
        self.setWidgetResizable(True)
        self.setFixedHeight(trays.row.height + (10 if trays.row is MAIN else 4))
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def reveal(self) -> None:
        """Bring the chosen tray into sight."""
        trays = self.trays
        box = trays.tray(max(trays.selected, trays.first)).toAlignedRect()
        trays.resize(max(trays.minimumWidth(), self.viewport().width()), trays.height())
        self.ensureVisible(box.center().x(), 10, box.width() // 2 + 20, 0)

    def wheelEvent(self, event: QWheelEvent) -> None:
        bar = self.horizontalScrollBar()
        delta = event.angleDelta()
        bar.setValue(bar.value() - (delta.y() or delta.x()))


class Run(QWidget):
    """The run, and beneath it that of the plate that is chosen or was gone into."""

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.desk = desk
        self.trays = Trays(desk, service, easel)
        self.second = Trays(desk, service, easel, SECOND)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        self._rows = [_Scroller(self.trays), _Scroller(self.second)]
        self._line = furniture.line()
        for part in (self._rows[0], self._line, self._rows[1]):
            column.addWidget(part)
        desk.selection_changed.connect(self._reveal)
        desk.script_changed.connect(self._reveal)
        self._reveal()

    def place_of(self, path: tuple[int, ...], index: int) -> QPoint:
        """Where a tray is on the screen: its picture's upper left corner."""
        trays = self.second if path else self.trays
        return trays.mapToGlobal(trays.thumb(index).topLeft().toPoint())

    def _reveal(self, *_: object) -> None:
        if self.desk.dragging:  # a value is changing: every tray stays where it is
            return
        shown = bool(self.desk.opened)
        for part in (self._rows[1], self._line):
            part.setVisible(shown)
        for row in self._rows:
            row.reveal()
