"""Dabs of colour on the easel: laid by press or stroke, chosen, moved, given another tint, taken away."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from kyanoscript.core.passes.toning.hand_tint import HandTint
from kyanoscript.core.tint.dabs import Dab
from kyanoscript.ui.easel.tools import shared as tools
from kyanoscript.ui.easel.tools.stroke import StrokeTool, drawn
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.pens import haloed

_STILL = 3.0  # points of the easel that a hand moves in pressing
_DOT = 6.0  # points of the easel: radius of a dab's mark


class DabTool(StrokeTool):
    """Follows the pointer while a pass is chosen whose strokes are dabs."""

    chosen = -1  # place of the dab that is worked on; -1: none, the slip shows the next one
    group = ""  # of tints, as it was shown last
    shown = True  # whether all dabs show on the picture
    _grip: QPointF | None = None  # where a dab was taken hold of
    _far = False  # it has been moved from there
    _pass: Any = None

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
            self._put(f"Dab: {', '.join(values)}", self._with(dab, values))
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
        self.desk.set_values(label, merge="dab", dabs=dabs)

    def choose(self, index: int) -> None:
        """Work on another dab, or on none."""
        if index != self.chosen:
            self.chosen = index
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
        """Take hold of a dab, or begin one; with Ctrl always a new one, with Shift one that stays."""
        found = -1 if modifiers & Qt.KeyboardModifier.ControlModifier else self.under(at)
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
        values |= {"outline": (), "name": ""}
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
        return Qt.CursorShape.PointingHandCursor if self.under(at) >= 0 else Qt.CursorShape.CrossCursor

    def paint(self, painter: QPainter) -> None:
        """Every dab, and the brush at the pointer."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.shown:
            step = self.desk.selected_pass
            for k, dab in enumerate(self.dabs):
                if isinstance(step, HandTint) and (step.counts(dab) or dab.offered):
                    self._paint_dab(painter, dab, k == self.chosen)
        if self.under(self._at) < 0:
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
        if chosen and len(dab.outline) > 2:
            around = QPolygonF([self.ground.to_easel((p[0] / 100 * across, p[1] / 100 * down)) for p in dab.outline])
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for pen in haloed(3, 1.2, 110):
                painter.setPen(pen)
                painter.drawPolygon(around)
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
        if chosen or (dab.offered and self._first_of_its_name(dab)):
            self._paint_name(painter, dab, QPointF(box.right() + 5, at.y()))

    def _first_of_its_name(self, dab: Dab) -> bool:
        """Pieces of one thing, as two brows, have one name between them."""
        return bool(dab.name) and next(d for d in self.dabs if d.name == dab.name) is dab

    def _paint_name(self, painter: QPainter, dab: Dab, at: QPointF) -> None:
        """What lies there; of an offer, that it waits for a tint."""
        if not dab.name:
            return
        painter.setFont(theme.sans(12))
        words = f"{dab.name}?" if dab.offered else dab.name
        box = QRectF(at.x(), at.y() - 9, theme.width_of(painter.font(), words) + 10, 18)
        painter.fillRect(box, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _held(share: float) -> float:
    return round(min(max(share, -1000.0), 1000.0), 3)
