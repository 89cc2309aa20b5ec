"""The run: the photograph and then a tray for every pass, each showing the print as it leaves that pass.

The run of a plate is a second, lower row beneath.
"""

from __future__ import annotations

import time

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRect, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QApplication, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench import painting
from kyanoscript.ui.bench.row import LEFT, MAIN, SECOND, Row, TrayPlaces
from kyanoscript.ui.document.desk import FRAME, PHOTO, Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Pointed, Survey
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Item, Role, Told, tell
from kyanoscript.ui.widgets.plain import hint, tip

_HOLD = 0.3  # seconds after which pressing the lamp is a hold


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
        self.drop: int | None = None  # between which trays the dragged one would land
        self.onto: int | None = None  # the tray that a stencil would be copied to
        self.hover: tuple[str, int] | None = None
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
        self.setAccessibleName(spoken("The plate's run" if self.second else "Run of passes"))
        hint(
            self,
            "The trays in their order; arrows choose one, Shift and arrows move it",
            "Grain and edges before toning are toned with the rest",
        )
        service.answers(Survey).connect(self._take)
        service.answers(Pointed).connect(self._take_spot)
        easel.left.connect(lambda: self._take_spot(None))
        desk.script_changed.connect(self._changed)
        desk.selection_changed.connect(self._choice_changed)
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
        if self._kinds != (kinds := [(step.kind, step.name) for step in self.passes]) or not self.desk.dragging:
            self._kinds = kinds
            self._follow()
        elif not self._soon.isActive():
            self._first = self.selected if self.second else first
            self._soon.start()

    def _repaint_one(self) -> None:
        """In a drag elsewhere the bar follows a little later, so that it does not hold up the print."""
        self.update(self.places.tray(self._first).toAlignedRect())

    def _follow(self, *_: object) -> None:
        self.setMinimumWidth(LEFT + (len(self.passes) - self.first) * self.row.pitch + 110)
        self.setAccessibleDescription(spoken(self._spoken()))
        self._marked = self._marks()
        self.update()
        tell(self)

    def _marks(self) -> set[tuple[int, bool]]:
        """The chosen trays, and whether each leads the others."""
        return {(k, k == self.selected) for k in range(self.first, len(self.passes)) if self.chosen(k)}

    def _choice_changed(self) -> None:
        """Only the trays that are chosen now, or were, look otherwise."""
        if self.second or self.desk.path or len(self._marked) != len(marks := self._marks()):
            self._follow()
            return
        for k, _ in self._marked ^ marks:
            self.update(self.places.tray(k).toAlignedRect())
        self._marked = marks
        self.setAccessibleDescription(spoken(self._spoken()))
        tell(self)

    def _spoken(self) -> str:
        step = self.desk.selected_pass
        where = "Frame" if self.desk.selected == FRAME else "Photo"
        name = (
            where
            if step is None
            else tr(
                "{title}, {on}, strength {strength:g} %",
                title=step.title,
                on="on" if step.on else "off",
                strength=step.strength,
            )
        )
        others = tr(" and {count} more", count=len(self.desk.also)) if self.desk.also else ""
        return tr(
            "Chosen: {name}{others}. Left and right choose a tray, up and down change its strength",
            name=name,
            others=others,
        )

    def told(self) -> Told:
        """For assistive technology: the chosen tray among those of the row."""
        last = max(self.first, len(self.passes) - 1)
        at = min(max(self.selected, self.first), last)
        words = self.name_of(at) if self.path or not self.second else "nothing"
        rows = range(self.first, last + 1) if self.path or not self.second else ()
        items = tuple(Item(self.name_of(k), self.places.tray(k).toAlignedRect(), k == self.selected) for k in rows)
        return Told(Role.List, words, at, self.first, last, 1.0, lambda value: self.choose(round(value)), items)

    def _take(self, survey: Survey) -> None:
        stages = survey.within if self.second else survey.stages
        old, self._pixels = self._pixels, stages
        if self.photo is None:
            self.photo = display.image(survey.photo)
            self.update(self.places.tray(PHOTO).toAlignedRect())
        for k, pixels in enumerate(stages):
            if len(old) == len(stages) and np.array_equal(old[k], pixels):
                continue  # most trays look as before while one pass is worked on
            self.images[k : k + 1] = [display.image(pixels)]
            self.update(self.places.tray(k - 1).toAlignedRect())
        del self.images[len(stages) :]

    def _take_spot(self, spot: Pointed | None) -> None:
        if spot is not self.spot:
            self.spot = spot
            self.update(self._values())

    def _values(self) -> QRect:
        """Where the values at the pointer stand: along the lower rims of the pictures."""
        return QRect(0, int(self.places.thumb(self.first).bottom()) - 17, self.width(), 17)

    def sizeHint(self) -> QSize:
        return QSize(self.minimumWidth(), self.row.height + 4)

    @property
    def places(self) -> TrayPlaces:
        """Where things are."""
        return TrayPlaces(self.row, self.first, len(self.passes))

    def _what(self, at: QPointF) -> tuple[str, int] | None:
        passes = self.passes
        if self.desk.photo is None or (self.second and not self.path):
            return None
        if self.places.end().contains(at):
            return ("end", len(passes))
        for k in range(self.first, len(passes)):
            if k >= 0:
                if self.places.adder(k).contains(at):
                    return ("adder", k)
                away = at - self.places.lamp(k)
                if abs(away.x()) <= 9 and abs(away.y()) <= 9:
                    return ("lamp", k)
                if self.places.bar(k).contains(at):
                    return ("bar", k)
                if passes[k].stencil is not None and self.places.notch(k).contains(at):
                    return ("notch", k)
            if self.places.tray(k).contains(at):
                return ("tray", k)
        return None

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.colour("panel"))
        if self.desk.photo is not None and (self.path or not self.second):
            only_values = self.row is MAIN and self._values().contains(event.region().boundingRect())
            for k in range(self.first, len(self.passes)):
                if event.region().intersects(self.places.tray(k).toAlignedRect().adjusted(-20, 0, 0, 0)):
                    painting.paint_tray(painter, self, k, only_values)
            painting.paint_end(painter, self)
            painting.paint_drop(painter, self)
        painter.end()

    def image(self, k: int) -> QImage | None:
        if k == PHOTO:
            return self.photo
        return self.images[k + 1] if k + 1 < len(self.images) else None

    def name_of(self, k: int) -> str:
        if self.second and k < 0:
            outer = self.desk.script.run(self.path[:-1])
            return f"‹ {spoken(outer[self.path[-1]].title)}"
        return {PHOTO: "Photo", FRAME: "Frame"}.get(k) or self.passes[k].title

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
            self.desk.begin(tr("{title}: strength", title=self.passes[k].title))
            self._to_strength(k, event.position().x())
        elif kind == "lamp":
            self._lamp_since = time.monotonic()
            self._lamp_timer.start(int(_HOLD * 1000))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        what = self._what(event.position())
        if what is not None and what[0] == "tray" and what[1] >= 0:
            if self.places.name_box(what[1]).contains(event.position()):
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
            drop = round((at.x() - LEFT) / self.row.pitch) + self.first
            self.drop = min(max(drop, 0), len(self.passes))
            self.update()
        elif kind == "notch" and far:
            over = self._what(at)
            self.onto = over[1] if over is not None and 0 <= over[1] < len(self.passes) and over[1] != k else None
            self.setCursor(Qt.CursorShape.DragCopyCursor)
            self.update()

    def _hover_over(self, at: QPointF) -> None:
        what = self._what(at)
        if what != self.hover:
            self.hover = what
            hand = what is not None and what[0] in ("adder", "end", "lamp", "notch")
            self.setCursor(theme.HAND if hand else Qt.CursorShape.ArrowCursor)
            tips = {
                "adder": "Add a pass here",
                "lamp": "Press: on or off. Hold: the print without this pass",
                "notch": "Press: work on the stencil. Drag to another tray: copy it there",
            }
            note = self.passes[what[1]].note if what is not None and 0 <= what[1] < len(self.passes) else ""
            tip(self, tips.get(what[0], note) if what else "")
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
                step = self.passes[k]
                self.desk.set_values_at(k, f"{step.title} {'off' if step.on else 'on'}", on=not step.on)
        elif kind in ("adder", "end"):
            self.add.emit(k, self.path, event.globalPosition().toPoint())
        elif kind == "notch":
            self._let_notch_go(k)
        elif self.drop is not None:
            drop, self.drop = self.drop, None
            self.desk.move_chosen(drop)
            self.update()
        elif kind == "tray" and self.desk.also and self.desk.path == self.path:
            self.choose(k)

    def _let_notch_go(self, k: int) -> None:
        onto, self.onto = self.onto, None
        self.setCursor(Qt.CursorShape.ArrowCursor)
        if onto is None:
            self.stencil.emit()
            return
        stencil, words = self.passes[k].stencil, tr("Copy the stencil to {title}", title=self.passes[onto].title)
        self.choose(onto)
        self.desk.set_values(words, stencil=stencil)

    def leaveEvent(self, event: object) -> None:
        self.hover = None
        self.update()

    def _lamp_held(self) -> None:
        if self._press is not None and self._press[0] == "lamp":
            k = self._press[1]
            rest = (*self.passes[:k], *self.passes[k + 1 :])
            self.easel.hold(
                self.desk.script.with_run(self.path, rest), tr("without {title}", title=self.passes[k].title)
            )

    def _to_strength(self, k: int, x: float) -> None:
        bar = self.places.bar(k)
        share = min(max((x - bar.left() - 1.5) / (bar.width() - 3), 0.0), 1.0)
        self.desk.set_values_at(k, "Strength", strength=float(round(share * 100)))
        self.update(self.places.tray(k).toAlignedRect())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._press is not None:
            self._press, self.drop, self.onto = None, None, None
            self.desk.abort()
            self.update()
        else:
            super().keyPressEvent(event)
