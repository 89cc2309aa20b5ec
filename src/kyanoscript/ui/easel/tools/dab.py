"""Dabs of colour on the easel: laid by press or stroke, chosen, moved, given another tint, taken away.

Parts of the scene have outlines: a press on one that waits takes that part, and its tint is chosen among those that are
offered (`offered`). A stroke divides a part, a press on another joins the two.
"""

from __future__ import annotations

from typing import Any, Literal

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from kyanoscript.core.passes.toning.hand_tint import HandTint
from kyanoscript.core.tint import waiting
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.easel.tools import shared as tools
from kyanoscript.ui.easel.tools.offered import Offered
from kyanoscript.ui.easel.tools.stroke import StrokeTool, drawn
from kyanoscript.ui.service import display
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.pens import haloed

_STILL = 3.0  # points of the easel that a hand moves in pressing
_ON_FACES, _NEAR = ("lips", "brows", "eyes", "blush"), 90.0  # shown while the pointer is so near
_DOT = 6.0  # points of the easel: radius of a dab's mark


class DabTool(StrokeTool):
    """Follows the pointer while a pass is chosen whose strokes are dabs."""

    said = Signal(str)  # what the hand should do, or could not

    chosen = -1  # place of the dab that is worked on; -1: none, the slip shows the next one
    group = ""  # of tints, as it was shown last
    shown = True  # whether all dabs show on the picture
    _grip: QPointF | None = None  # where a dab was taken hold of
    _far = False  # it has been moved from there
    _pass: Any = None
    mode: Literal["", "divide", "join"] = ""  # what the next stroke, or press, does to the part that is worked on

    def __init__(self, easel: Stage, desk: Desk, service: RenderService) -> None:
        super().__init__(easel, desk)
        self.offered = Offered(self, desk, service)
        self.offered.changed.connect(self.changed)

    @property
    def active(self) -> bool:
        """Whether a press on the picture lays a dab."""
        step = self.desk.selected_pass
        return step is not None and bool(step.draws) and drawn(step) is Dab

    @property
    def dabs(self) -> tuple[Dab, ...]:
        """The dabs of the chosen pass, with those that were taken from the picture."""
        step = self.desk.selected_pass
        found = self.desk.taken.get("dabs") if step is not None and step.auto else None
        if isinstance(found, list | tuple):
            return tuple(found)
        return step.dabs if isinstance(step, HandTint) else ()

    @property
    def dab(self) -> Dab | None:
        """The dab that is worked on."""
        dabs = self.dabs
        return dabs[self.chosen] if 0 <= self.chosen < len(dabs) else None

    @property
    def brush(self) -> Any:
        """The dab that is worked on, or one as the next will be."""
        return self.dab or super().brush

    def set_brush(self, **values: object) -> None:
        """Another tint or size: of the dab that is worked on, and of the next."""
        step = self.desk.selected_pass
        assert step is not None
        dab = self.dab
        if dab is not None:
            what = f"{dab.name[:1].upper()}{dab.name[1:]}" if dab.name else "Dab"
            words = ", ".join("tint" if value == "colour" else value for value in values)
            self._put(f"{what}: {words}", self._with(dab, values))
        self._brushes[step.kind] = super().brush.model_copy(update=values)
        self.changed.emit()
        self.easel.update()

    def _with(self, dab: Dab, values: dict[str, object]) -> tuple[Dab, ...]:
        """All dabs, with other values for the chosen one; both brows of one person are one thing, and have one name."""
        same = {k for k, d in enumerate(self.dabs) if k == self.chosen or (dab.name and d.name == dab.name)}
        own = {**values, "guess": False, "sure": 100.0}
        return tuple(d.model_copy(update=own) if k in same else d for k, d in enumerate(self.dabs))

    def try_tint(self, ink: str) -> None:
        """Show what a tint would make of the dab that is worked on; "": no more."""
        step, dab = self.desk.selected_pass, self.dab
        if not ink or dab is None or not isinstance(step, HandTint):
            self.easel.hold(None)
            return
        tried = step.model_copy(update={"dabs": self._with(dab, {"colour": ink}), "auto": False})
        run, k = self.desk.run, self.desk.selected
        self.easel.hold(self.desk.script.with_run(self.desk.path, (*run[:k], tried, *run[k + 1 :])), "this tint")

    def _put(self, label: str, dabs: tuple[Dab, ...]) -> None:
        dab = self.dab
        whose = (
            dab.name if dab is not None and dab.name else str(self.chosen)
        )  # each dab and part is taken back by itself
        self.desk.set_values(label, merge=f"dab {whose}", dabs=dabs)

    # Parts of the scene

    @property
    def tints(self) -> list[str]:
        """What the part that is worked on is offered; none if it is no part of the scene or of somebody."""
        return self.offered.of(self.dab) if self.dab is not None else []

    @property
    def waits(self) -> int:
        """How many parts have no tint yet."""
        return len(waiting.waiting(self.dabs))

    def take(self, which: int) -> None:
        """The part that is worked on has one of the tints that it is offered."""
        if which < len(self.tints):
            self.easel.hold(None)
            self.set_brush(colour=self.tints[which])

    def take_the_rest(self) -> None:
        """Whatever still waits has the likeliest of its tints."""
        dabs = self.dabs
        for name in waiting.waiting(dabs):
            first = next(dab for dab in dabs if dab.name == name)
            dabs = waiting.given(dabs, name, self.offered.of(first)[0])
        self.desk.set_values("The likeliest of the rest", dabs=dabs)
        self.changed.emit()
        self.easel.update()

    def next_that_waits(self, back: bool = False) -> None:
        """Work on the next part that waits for a tint."""
        if self.active:
            found = waiting.next_that_waits(self.dabs, self.chosen, back)
            if found < 0:
                self.said.emit("Nothing waits for a tint any more" if self.dabs else "Nothing waits for a tint")
            else:
                self.show_part(found)

    def show_part(self, index: int) -> None:
        """Work on a part, and see where it is."""
        self.shown = True
        self.choose(index)

    def show_named(self, name: str) -> None:
        """Work on the part of a name."""
        self.show_part(next((k for k, dab in enumerate(self.dabs) if dab.name == name), -1))

    def more(self) -> None:
        """Six other tints for the part that is worked on."""
        if self.dab is not None and self.dab.region:
            self.offered.more(self.dab.name)

    def begin_mode(self, mode: Literal["divide", "join"]) -> None:
        """The next stroke divides the part that is worked on; or the next press joins it with another."""
        dab = self.dab
        if dab is None or not dab.region:
            return
        self.mode = "" if self.mode == mode else mode
        if self.mode == "divide":
            self.said.emit(
                tr("Draw across {name} where one thing ends and another begins. Escape leaves it", name=dab.name)
            )
        elif self.mode == "join":
            self.said.emit(tr("Press on what belongs to {name}. Escape leaves it", name=dab.name))
        self.changed.emit()
        self.easel.update()

    def _divide(self, stroke: tuple[Any, ...]) -> None:
        dab, photo = self.dab, self.ground.photo
        self._end_mode()
        if dab is None:
            return
        size = round(photo[0]), round(photo[1])
        dabs = waiting.divided(self.dabs, dab.name, stroke, size)
        if dabs == self.dabs:
            self.said.emit(tr("That stroke cuts nothing off: draw across {name}, from rim to rim", name=dab.name))
            return
        self._put_parts(tr("{upper}{name}: two things", upper=dab.name[:1].upper(), name=dab.name[1:]), dabs, dab.name)

    def _join(self, at: QPointF) -> None:
        dab, other = self.dab, self.part_at(at)
        self._end_mode()
        if dab is None:
            return
        if other < 0 or not self.dabs[other].region or self.dabs[other].name == dab.name:
            self.said.emit("There is no other part of the scene")
            return
        size = round(self.ground.photo[0]), round(self.ground.photo[1])
        dabs = waiting.joined(self.dabs, dab.name, self.dabs[other].name, size)
        self._put_parts(tr("{upper}{name}: one thing", upper=dab.name[:1].upper(), name=dab.name[1:]), dabs, dab.name)

    def _put_parts(self, label: str, dabs: tuple[Dab, ...], name: str) -> None:
        self.desk.set_values(label, dabs=dabs)
        self.choose(next((k for k, dab in enumerate(self.dabs) if dab.name == name), -1))
        self.changed.emit()
        self.easel.update()

    def leave_mode(self) -> bool:
        """No stroke divides, no press joins. False if none was to."""
        if not self.mode:
            return False
        self._way = None
        self._end_mode()
        self.easel.update()
        return True

    def _end_mode(self) -> None:
        self.mode = ""
        self.changed.emit()

    def part_at(self, at: QPointF) -> int:
        """The part under a point of the easel, of the scene or of somebody; -1 if there is none."""
        return waiting.at_place(self.dabs, *self.ground.share(at)) if self.shown else -1

    # Choosing

    def choose(self, index: int) -> None:
        """Work on another dab, or on none."""
        if index != self.chosen:
            self.chosen = index
            self.mode = ""
            self.changed.emit()
            self.easel.update()

    def remove(self) -> bool:
        """Take the dab that is worked on away. False if there is none."""
        if not self.active or self.dab is None:
            return False
        dabs = (*self.dabs[: self.chosen], *self.dabs[self.chosen + 1 :])
        self.chosen = -1
        self.desk.set_values("Take a dab away", dabs=dabs)
        self.changed.emit()
        self.easel.update()
        return True

    def show_all(self, on: bool) -> None:
        """Whether every dab shows on the picture."""
        self.shown = on
        self.choose(-1)
        self.changed.emit()
        self.easel.update()

    def reset(self) -> None:
        """Another pass is chosen."""
        self.choose(-1)

    def under(self, at: QPointF) -> int:
        """The dab whose mark is under a point of the easel; -1 if none."""
        if not self.shown:
            return -1
        step: Any = self.desk.selected_pass
        there = [(k, d) for k, d in enumerate(self.dabs) if step.counts(d) or d.offered]
        near = [((self.mark(d) - at).manhattanLength(), k) for k, d in there]
        found = min(near, default=(1e9, -1))
        return found[1] if found[0] <= tools.HIT else -1

    def mark(self, dab: Dab) -> QPointF:
        """Where a dab's mark is: half-way along it."""
        x, y = dab.points[len(dab.points) // 2][:2]
        across, down = self.ground.photo
        return self.ground.to_easel((x / 100 * across, y / 100 * down))

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Take hold of a dab or of a part that waits, or begin one; Ctrl: always a new one, Shift: one that stays."""
        if self.mode == "join":
            self._join(at)
            return
        if self.mode == "divide":
            self._way = tools.Way(self.ground, at, 1.0)
            return
        found = -1 if modifiers & Qt.KeyboardModifier.ControlModifier else self.under(at)
        if found < 0 and not modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier):
            part = self.part_at(at)
            if part >= 0 and self.dabs[part].guess:  # nobody has given it a tint yet
                self.choose(waiting.first_of(self.dabs, self.dabs[part]))
                return
        if found >= 0:
            self.choose(found)
            self._grip, self._far, self._before = at, False, self.dabs
            self.desk.begin("Move a dab")
            return
        self.chosen = -1
        step = self.desk.selected_pass
        assert step is not None
        self._before = self.dabs
        self._stays = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        self._way = tools.Way(self.ground, at, 1.0)
        self.desk.begin("Lay a dab")
        self._lay()

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        if self.mode == "divide":
            self._at = at
            if self._way is not None:
                self._way.go(at, 1.0)
            self.easel.update()
            return
        if self._grip is None:
            super().move(at, modifiers, 1.0)
            return
        if not self._far and (at - self._grip).manhattanLength() < _STILL:
            return  # a press is no move
        self._far = True
        (x0, y0), (x1, y1) = self.ground.share(self._grip), self.ground.share(at)
        dab = self._before[self.chosen]

        def shifted(dots: tuple[Any, ...]) -> tuple[Any, ...]:
            return tuple((_held(p[0] + x1 - x0), _held(p[1] + y1 - y0), *p[2:]) for p in dots)

        places: dict[str, object] = {"points": shifted(dab.points), "outline": shifted(dab.outline)}
        moved = dab.model_copy(update={**places, **({} if dab.offered else {"guess": False, "sure": 100.0})})
        self.desk.set_values("Dab", dabs=(*self._before[: self.chosen], moved, *self._before[self.chosen + 1 :]))
        self._at = at
        self.easel.update()

    def release(self, at: QPointF) -> None:
        """The dab lies."""
        if self.mode == "divide":
            if self._way is not None:
                way, self._way = self._way, None
                self._divide(way.points)
            return
        laid = self._way is not None
        super().release(at)
        if self._grip is not None:
            self._grip = None
            self.desk.commit()
        if laid:
            self.choose(len(self.dabs) - 1)

    def give_up(self) -> None:
        """The hand's work is over; a second time, no dab is worked on."""
        if self._grip is None and self._way is None:
            self.choose(-1)
        self._grip = None
        super().give_up()

    def _lay(self) -> None:
        if self._way is None:
            return
        values: dict[str, object] = {"points": self._way.points, "guess": False, "sure": 100.0}
        values |= {"outline": (), "name": "", "tints": "", "shaded": False}
        if self._stays:
            values["acts"] = "stays"
        step = self.desk.selected_pass
        assert step is not None
        dab = self._brushes.get(step.kind, super().brush).model_copy(update=values)
        if dab.acts == "within":  # a hand has no outline to give it
            dab = dab.model_copy(update={"acts": "stays"})
        self.desk.set_values("Dab", dabs=(*self._before, dab))

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape."""
        if self.mode == "divide":
            return Qt.CursorShape.CrossCursor
        part = self.part_at(at)
        over = self.under(at) >= 0 or (part >= 0 and (self.dabs[part].guess or self.mode == "join"))
        return Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.CrossCursor

    def paint(self, painter: QPainter) -> None:
        """Every dab, and the brush at the pointer."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.shown:
            step = self.desk.selected_pass
            lit = self.dab.name if self.dab is not None and self.dab.name else None
            for dab in self.dabs:
                if dab.name == lit or dab.offered:
                    self._paint_outline(painter, dab, dab.name == lit)
            for k, dab in enumerate(self.dabs):
                if isinstance(step, HandTint) and (step.counts(dab) or dab.offered):
                    self._paint_dab(painter, dab, k == self.chosen)
        if self.mode:
            self._paint_cut(painter)
            return
        part = self.part_at(self._at)
        if self.under(self._at) < 0 and not (part >= 0 and self.dabs[part].guess):
            ink = display.ink(self.brush.colour)
            ink.setAlpha(150)  # the tint on the place, before it is laid
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(ink)
            radius = self.ground.length(self.brush.size) / 2
            painter.drawEllipse(self._at, radius, radius)
            tools.paint_brush(painter, self.ground, self._at, self.brush)

    def _paint_dab(self, painter: QPainter, dab: Dab, chosen: bool) -> None:
        across, down = self.ground.photo
        if len(dab.points) > 1:
            line = QPolygonF([self.ground.to_easel((p[0] / 100 * across, p[1] / 100 * down)) for p in dab.points])
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for pen in haloed(3, 1.2, 110):
                painter.setPen(pen)
                painter.drawPolyline(line)
        if dab.name and not (chosen or self._first_of_its_name(dab)):
            return  # a part has one mark
        small = waiting.base_of(dab.name) in _ON_FACES and not chosen
        if small and (self.mark(dab) - self._at).manhattanLength() > _NEAR:
            return  # a face would be hidden by its marks
        at, r = self.mark(dab), _DOT + (2 if chosen else 0)
        box = QRectF(at.x() - r, at.y() - r, 2 * r, 2 * r)
        draw = painter.drawEllipse if dab.acts == "spreads" else painter.drawRect
        painter.setBrush(Qt.BrushStyle.NoBrush if dab.offered else display.ink(dab.colour))
        rim = QColor(theme.DAYLIGHT.accent) if chosen else QColor(0, 0, 0, 150)
        painter.setPen(QPen(rim, 3 if chosen else 2.6))
        draw(box)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        style = Qt.PenStyle.DotLine if dab.guess else Qt.PenStyle.SolidLine
        painter.setPen(QPen(QColor("#FFFFFF"), 1.4, style))
        draw(box)
        if chosen or (dab.offered and dab.region and self._first_of_its_name(dab)):
            self._paint_name(painter, dab, QPointF(box.right() + 5, at.y()))

    def _paint_outline(self, painter: QPainter, dab: Dab, lit: bool) -> None:
        """The rim of a part: dashed while it waits."""
        if len(dab.outline) < 3:
            return
        across, down = self.ground.photo
        around = QPolygonF([self.ground.to_easel((p[0] / 100 * across, p[1] / 100 * down)) for p in dab.outline])
        painter.save()
        painter.setClipRect(QRectF(self.easel.from_picture(QPointF(0, 0)), self.easel.from_picture(QPointF(1, 1))))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in haloed(3, 1.6, 110) if lit else haloed(2.2, 1.0, 70):
            if not lit:
                pen.setDashPattern([4.0 / pen.widthF(), 4.0 / pen.widthF()])
            painter.setPen(pen)
            painter.drawPolygon(around)
        painter.restore()

    def _paint_cut(self, painter: QPainter) -> None:
        """The stroke that divides, so far."""
        if self._way is None:
            return
        across, down = self.ground.photo
        line = QPolygonF([self.ground.to_easel((p[0] / 100 * across, p[1] / 100 * down)) for p in self._way.points])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in haloed(3.5, 1.6, 130):
            painter.setPen(pen)
            painter.drawPolyline(line)

    def _first_of_its_name(self, dab: Dab) -> bool:
        """Pieces of one thing, as two brows, have one name between them."""
        return bool(dab.name) and next(d for d in self.dabs if d.name == dab.name) is dab

    def _paint_name(self, painter: QPainter, dab: Dab, at: QPointF) -> None:
        """What lies there; of an offer, that it waits for a tint."""
        if not dab.name:
            return
        painter.setFont(theme.sans(12))
        words = f"{dab.name}?" if dab.offered else dab.name
        box = QRectF(at.x(), at.y() - 9, theme.width_of(painter.font(), spoken(words)) + 10, 18)
        painter.fillRect(box, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken(words))


def _held(share: float) -> float:
    return round(min(max(share, -1000.0), 1000.0), 3)
