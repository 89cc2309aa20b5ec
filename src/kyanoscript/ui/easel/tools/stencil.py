"""The stencil of the chosen pass, drawn on the easel.

A press takes hold of a handle if there is one under it; otherwise it does what the hand is set to: paint, wipe, lay an
oval or a ramp, draw an outline, or find the tones or hues of a spot and widen the range by dragging.
"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QPainter

from kyanoscript.core.stencil import grips
from kyanoscript.core.stencil.shapes import Dot, Join, Outline, Shape, Stencil, Stroke
from kyanoscript.translation import tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.easel.tools import laid
from kyanoscript.ui.easel.tools import shared as tools
from kyanoscript.ui.easel.tools.veil import DISPLAYS, Veil
from kyanoscript.ui.service.requests import Feel
from kyanoscript.ui.service.results import Felt
from kyanoscript.ui.service.service import RenderService

HANDS = (
    ("brush", "Brush", "Paint where the pass acts; Ctrl wipes"),
    ("eraser", "Eraser", "Wipe it away again"),
    ("oval", "Oval", "Press in the middle, drag; Shift: round"),
    ("ramp", "Ramp", "Drag from nothing to everything"),
    ("outline", "Outline", "Draw round it; or press corners, then Return"),
    ("tones", "Tones", "Press on a tone; drag sideways to widen"),
    ("hues", "Hues", "Press on a colour; drag sideways to widen"),
)
_CLICK = 5  # pixels of the screen: less is a press and no drag


class StencilTool(QObject):
    """Follows the pointer while a stencil is worked on."""

    changed = Signal()  # the hand, the brush, the chosen part, how it is shown, or whether it is worked on
    said = Signal(str)

    def __init__(self, easel: Stage, desk: Desk, service: RenderService) -> None:
        super().__init__(easel)
        self.easel, self.desk, self.service = easel, desk, service
        self.ground = tools.Ground(easel, desk)
        self.hold = tools.Hold(self.ground)
        self.on = False
        self.hand = "brush"
        self.join: Join = "add"
        self.veil = Veil(easel, desk, service, lambda: self.active)
        self.chosen = -1  # which part of the stencil is worked on
        self.brush = Stroke(points=((0.0, 0.0),), size=80)
        self._start: Stencil | None = None  # the stencil as it was when the drag began
        self._from: QPointF | None = None
        self._at = QPointF(-1e4, -1e4)  # the pointer
        self._way: tools.Way | None = None
        self._corners: list[QPointF] = []  # of an outline that is not closed yet
        self._found: Felt | None = None
        self._late = False  # the hand has let go before it was known what lies there
        service.answers(Felt).connect(self._take_touch)
        desk.selection_changed.connect(self._other)
        desk.script_changed.connect(self._follow)

    @property
    def active(self) -> bool:
        """Whether a press on the picture works on the stencil."""
        return self.on and self.desk.selected_pass is not None

    @property
    def paints(self) -> bool:
        """Whether the hand holds a brush."""
        return self.hand in ("brush", "eraser")

    @property
    def stencil(self) -> Stencil:
        """The stencil of the chosen pass; an empty one if it has none."""
        return self.desk.stencil or Stencil()

    @property
    def part(self) -> Shape | None:
        """The chosen part."""
        shapes = self.stencil.shapes
        return shapes[self.chosen] if 0 <= self.chosen < len(shapes) else None

    # What is set from outside

    def switch(self, on: bool) -> None:
        """Start or stop working on the stencil."""
        self.on, self.chosen, self._corners = on, -1, []
        self.veil.drop()
        self.easel.refresh()
        self._tell()

    def take(self, hand: str) -> None:
        """Another hand."""
        self.hand, self._corners = hand, []
        part = self.part
        if part is not None and type(part).model_fields["shape"].default != hand:
            self.chosen = -1
        self._tell()

    def choose(self, index: int) -> None:
        """Another part of the stencil."""
        self.chosen = index
        self._tell()

    def show_as(self, display: str) -> None:
        """Tint, black and white, or not at all."""
        self.veil.show_as(display)
        self.refresh()
        self._tell()

    def next_display(self) -> str:
        """The next way of showing it."""
        self.show_as(DISPLAYS[(DISPLAYS.index(self.veil.display) + 1) % len(DISPLAYS)])
        return self.veil.display

    def set_brush(self, **values: object) -> None:
        """Another brush."""
        self.brush = self.brush.model_copy(update=values)
        self._tell()

    def resize(self, by: float) -> None:
        """A larger or smaller brush."""
        self.brush = tools.resized(self.brush, by)
        self._tell()

    def put(self, label: str, shapes: tuple[Shape, ...], merge: str = "") -> None:
        """Give the stencil other parts."""
        left = self.stencil.model_copy(update={"shapes": shapes}) if shapes or self._start is not None else None
        self.desk.set_stencil(label, left, merge)

    def remove(self, indices: tuple[int, ...]) -> None:
        """Take parts away."""
        shapes = self.stencil.shapes
        rest = tuple(s for k, s in enumerate(shapes) if k not in indices)
        self.chosen = -1
        self.put(tr("Remove from the stencil: {label}", label=shapes[indices[0]].label.lower()), rest)
        self._tell()

    def _tell(self) -> None:
        self.changed.emit()
        self.easel.update()

    def _other(self) -> None:
        self.chosen, self._corners = -1, []
        self.veil.drop()
        if self.on and self.desk.selected_pass is None:
            self.on = False
        self._tell()

    def _follow(self) -> None:
        if self.chosen >= len(self.stencil.shapes):
            self.chosen = -1

    # The pointer

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Take a handle, or begin what the hand does."""
        self._at = self._from = at
        if self._corners:
            self._corner(at)
            return
        part = self.part
        name = self.hold.under(part, at) if part is not None else ""
        if part is None or not name:
            other = self._middle_under(at)
            if other is not None:
                self.chosen, part, name = other, self.stencil.shapes[other], grips.MIDDLE
                self._tell()
        if part is not None and name:
            self._start = self.stencil
            self.desk.begin(
                tr("{label}: move", label=part.label)
                if name == grips.MIDDLE
                else tr("{label}: shape", label=part.label)
            )
            self.hold.take(name, part, at)
        elif self.paints:
            wipes = (self.hand == "eraser") != bool(modifiers & Qt.KeyboardModifier.ControlModifier)
            self._start = self.stencil
            self.desk.begin("Eraser" if wipes else "Brush")
            self._way = tools.Way(self.ground, at, pressure)
            self._paint_stroke("take-away" if wipes else "add")
        elif self.hand in ("oval", "ramp"):
            self._start = self.stencil
            self.desk.begin(tr("Stencil: {hand}", hand=self.hand))
        elif self.hand == "outline":
            self._way = tools.Way(self.ground, at, 1.0)
        else:
            self._start = self.stencil
            self.desk.begin(tr("Stencil: {hand}", hand=self.hand))
            self._found = None
            script, index = self.desk.entering()
            spot = self.easel.to_picture(at)
            scale = self.easel.render_scale()
            reads = 0 if self.hand == "hues" else index
            self.service.ask(Feel(script, reads, scale, spot.x(), spot.y(), 3, "stencil"))

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        if self._late:
            return
        self._repaint_brush(at)
        self._at = at
        free, even = (bool(modifiers & m) for m in (Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier))
        if self._corners:
            self.easel.update()
        elif self._from is None:
            return
        elif self.hold.active:
            shapes, moved = self.stencil.shapes, self.hold.moved(at, free, even)
            self.put("Stencil", (*shapes[: self.chosen], moved, *shapes[self.chosen + 1 :]))
            self.easel.update()
        elif self._way is not None:
            if self._way.go(at, pressure):
                if self._start is not None:
                    last = self.stencil.shapes[-1]
                    self._last(last.model_copy(update={"points": self._way.points}))
                else:
                    self.easel.update()
        elif (at - self._from).manhattanLength() >= _CLICK:
            self._lay(at, even)

    def release(self, at: QPointF) -> None:
        """Let go."""
        if self._from is None:
            return
        if self.hand in ("tones", "hues") and self._start is not None and not self.hold.active and self._found is None:
            self._late = True  # what lies there is not known yet: the hand was quicker
            return
        drawn = self._way if self._start is None else None
        laid = self._start is not None and not self.hold.active and self._way is None
        if drawn is not None and len(drawn.points) > 8:
            self._close(drawn.points)
        elif drawn is not None:
            self._corner(at)
        elif laid and self.hand in ("oval", "ramp") and self.stencil == self._start:
            self._lay(at + QPointF(90, 90 if self.hand == "oval" else -90), True)
        self._over()
        self.desk.commit()
        self._tell()

    def give_up(self) -> None:
        """The drag is over, for whatever reason; a line that is not closed is dropped, a chosen part let go of."""
        idle = self._from is None and not self._corners
        self._corners = []
        self._over()
        if idle and self.chosen >= 0:
            self.choose(-1)
        self.easel.update()

    def finish(self) -> bool:
        """Close an outline that is being drawn corner by corner. False if there is none."""
        if not self._corners:
            return False
        corners, self._corners = self._corners, []
        if len(corners) >= 3:
            self._close(tuple(self.ground.share(p) for p in corners))
        self._tell()
        return True

    def away(self) -> None:
        """The pointer has left the easel."""
        self._repaint_brush(QPointF(-1e4, -1e4))
        self._at = QPointF(-1e4, -1e4)

    def _over(self) -> None:
        self._from = self._way = self._start = self._found = None
        self._late = False
        self.hold.let_go()

    def _middle_under(self, at: QPointF) -> int | None:
        """The part whose middle lies under a point, the last one first."""
        for k in reversed(range(len(self.stencil.shapes))):
            shape = self.stencil.shapes[k]
            if k != self.chosen and grips.placed(shape):
                middle = self.hold.handles(shape)[grips.MIDDLE]
                if (middle - at).manhattanLength() <= tools.HIT:
                    return k
        return None

    def _last(self, shape: Any) -> None:
        """What is being laid down, in the place of what was laid a moment ago."""
        assert self._start is not None
        self.put("Stencil", (*self._start.shapes, shape))

    def _paint_stroke(self, join: str) -> None:
        assert self._way is not None
        self.chosen = -1
        self._last(self.brush.model_copy(update={"points": self._way.points, "join": join}))

    def _lay(self, at: QPointF, even: bool) -> None:
        """An oval or a ramp between the press and the pointer, or a range as wide as the pointer has gone."""
        assert self._from is not None
        shape: Shape | None = None
        if self.hand == "oval":
            shape = laid.oval(self.ground, self.desk.script.frame, self._from, at, even)
        elif self.hand == "ramp":
            shape = laid.ramp(self.ground, self._from, at)
        elif self._found is not None:
            shape = laid.reach(self.hand, self._found, abs(at.x() - self._from.x()))
            if shape is None:
                self.said.emit("There is no hue worth the name there; press on something with colour")
        if shape is not None:
            self._last(shape.model_copy(update={"join": self.join}))
            self.chosen = len(self.stencil.shapes) - 1

    def _take_touch(self, found: Felt) -> None:
        if found.tag == "stencil" and self._from is not None and self._start is not None and self._found is None:
            self._found = found
            self._lay(self._at, False)
            if self._late:
                self.release(self._at)
            self._tell()

    def _corner(self, at: QPointF) -> None:
        """Another corner of the outline; on the first one again, it is closed."""
        if len(self._corners) >= 3 and (at - self._corners[0]).manhattanLength() <= tools.HIT:
            self.finish()
        elif not self._corners or (at - self._corners[-1]).manhattanLength() > _CLICK:
            self._corners.append(at)
        self._from = None
        self.easel.update()

    def _close(self, points: tuple[Dot, ...]) -> None:
        self.put("Stencil: outline", (*self.stencil.shapes, Outline(points=points, join=self.join)))
        self.chosen = len(self.stencil.shapes) - 1

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape at a place."""
        part = self.part
        over = part is not None and bool(self.hold.under(part, at))
        if over or self._middle_under(at) is not None:
            return Qt.CursorShape.PointingHandCursor
        return Qt.CursorShape.CrossCursor

    # What is shown

    def refresh(self) -> None:
        """Ask for the stencil as it is now, for the part of the print that is on the easel."""
        self.veil.refresh(self.active)

    def paint(self, painter: QPainter) -> None:
        """Handles of the chosen part, middles of the others, the line being drawn, the brush at the pointer."""
        for k, shape in enumerate(self.stencil.shapes):
            if k == self.chosen and grips.placed(shape):
                self.hold.paint(painter, shape)
            elif grips.placed(shape):
                tools.paint_dot(painter, self.hold.handles(shape)[grips.MIDDLE])
        if self.hand == "outline":
            way = self._way.points if self._way is not None and self._start is None else ()
            laid.paint_line(painter, self.ground, way, self._corners, self._at)
        part = self.part
        if self.paints and not (part is not None and self.hold.under(part, self._at)) and not self.hold.active:
            tools.paint_brush(painter, self.ground, self._at, self.brush)

    def _repaint_brush(self, at: QPointF) -> None:
        """Draw again where the brush's rim was and where it is."""
        for place in (self._at, at) if self.paints and self.desk.photo is not None else ():
            self.easel.update(tools.brush_box(self.ground, place, self.brush).toAlignedRect())
