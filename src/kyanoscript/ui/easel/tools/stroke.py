"""Strokes that are part of a pass, drawn on the easel: dodge and burn.

Which list of strokes a pass draws, it declares (`Pass.draws`); what a stroke has besides its way is set on the slip.
"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QPainter

from kyanoscript.core.params import Declared
from kyanoscript.core.passes.base import Pass
from kyanoscript.translation import tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.easel.tools import shared as tools


def drawn(step: Pass) -> type[Declared]:
    """What a pass that is drawn has in its list of strokes."""
    return step.params()[step.draws].entries_of()[0]


class StrokeTool(QObject):
    """Follows the pointer while a pass that draws strokes is chosen."""

    changed = Signal()  # the brush

    def __init__(self, easel: Stage, desk: Desk) -> None:
        super().__init__(easel)
        self.easel, self.desk = easel, desk
        self.ground = tools.Ground(easel, desk)
        self._brushes: dict[str, Any] = {}  # by kind of pass
        self._way: tools.Way | None = None
        self._before: tuple[Any, ...] = ()
        self._turned = False  # lightens instead of darkens, or the other way
        self._at = QPointF(-1e4, -1e4)

    @property
    def active(self) -> bool:
        """Whether a press on the picture draws a stroke."""
        step = self.desk.selected_pass
        return step is not None and bool(step.draws) and "hardness" in drawn(step).model_fields

    @property
    def brush(self) -> Any:
        """A stroke as the next one will be, but for its way."""
        step = self.desk.selected_pass
        assert step is not None
        if step.kind not in self._brushes:
            self._brushes[step.kind] = drawn(step)(points=((0.0, 0.0),))
        return self._brushes[step.kind]

    def set_brush(self, **values: object) -> None:
        """Another brush."""
        step = self.desk.selected_pass
        assert step is not None
        self._brushes[step.kind] = self.brush.model_copy(update=values)
        self.changed.emit()
        self.easel.update()

    def resize(self, by: float) -> None:
        """A larger or smaller brush."""
        self.set_brush(size=tools.resized(self.brush, by).size)

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Begin a stroke; with Ctrl it does the opposite."""
        step = self.desk.selected_pass
        assert step is not None
        self._before = getattr(step, step.draws)
        self._turned = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        self._way = tools.Way(self.ground, at, pressure)
        self.desk.begin(tr("{label}: stroke", label=step.label))
        self._lay()

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        for place in (self._at, at):
            self.easel.update(tools.brush_box(self.ground, place, self.brush).toAlignedRect())
        self._at = at
        if self._way is not None and self._way.go(at, pressure):
            self._lay()

    def release(self, at: QPointF) -> None:
        """The stroke is done."""
        if self._way is not None:
            self._way = None
            self.desk.commit()

    def give_up(self) -> None:
        """The stroke is over, for whatever reason."""
        self._way = None

    def away(self) -> None:
        """The pointer has left the easel."""
        self._at = QPointF(-1e4, -1e4)
        self.easel.update()

    def _lay(self) -> None:
        step = self.desk.selected_pass
        if step is None or self._way is None:
            return
        stroke = self.brush.model_copy(update={"points": self._way.points})
        if self._turned and "exposure" in stroke.params():
            stroke = stroke.model_copy(update={"exposure": -stroke.exposure})
        elif self._turned and "does" in stroke.params():
            stroke = stroke.model_copy(update={"does": stroke.turns[stroke.does]})
        values: dict[str, object] = {step.draws: (*self._before, stroke)}
        self.desk.set_values("Stroke", "", **values)

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape."""
        return Qt.CursorShape.CrossCursor

    def paint(self, painter: QPainter) -> None:
        """The brush at the pointer."""
        tools.paint_brush(painter, self.ground, self._at, self.brush)


class PlacedTool(QObject):
    """Handles of a pass that lies on the picture somewhere: a plate's picture, a point, an angle, an oval."""

    def __init__(self, easel: Stage, desk: Desk) -> None:
        super().__init__(easel)
        self.easel, self.desk = easel, desk
        self.hold = tools.Hold(tools.Ground(easel, desk))

    @property
    def active(self) -> bool:
        """Whether the chosen pass can be taken hold of on the picture."""
        step = self.desk.selected_pass
        return step is not None and bool(step.placed())

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> bool:
        """Take a handle; False if there is none under the pointer."""
        step = self.desk.selected_pass
        assert step is not None
        name = self.hold.under(step, at, self.easel.aspect)
        if name:
            self.desk.begin(tr("{label}: place", label=step.label))
            self.hold.take(name, step, at)
        return bool(name)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        step = self.desk.selected_pass
        if self.hold.active and step is not None:
            free, even = (
                bool(modifiers & m) for m in (Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier)
            )
            moved = self.hold.moved(at, free, even)
            self.desk.set_values("Place", **{n: v for n, v in dict(moved).items() if v != getattr(step, n)})
            self.easel.update()

    def release(self, at: QPointF) -> None:
        """Let go."""
        if self.hold.active:
            self.hold.let_go()
            self.desk.commit()
            self.easel.update()

    def give_up(self) -> None:
        """The drag is over, for whatever reason."""
        self.hold.let_go()
        self.easel.update()

    def away(self) -> None:
        """The pointer has left the easel: handles stay."""

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape at a place."""
        step = self.desk.selected_pass
        over = step is not None and bool(self.hold.under(step, at, self.easel.aspect))
        return Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor

    def paint(self, painter: QPainter) -> None:
        """Its lines and handles."""
        step = self.desk.selected_pass
        if step is not None:
            self.hold.paint(painter, step, self.easel.aspect)
