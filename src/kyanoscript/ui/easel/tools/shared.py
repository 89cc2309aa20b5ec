"""What the tools on the easel share: places on the photograph, a brush's mark, handles and the hand on them."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from kyanoscript.core.geometry import framing
from kyanoscript.core.params import Declared
from kyanoscript.core.stencil import grips
from kyanoscript.core.stencil.shapes import Dot
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.handle import paint_handle
from kyanoscript.ui.widgets.pens import haloed

HIT = 11  # pixels of the screen round a handle
_SNAP = 7  # pixels of the screen within which a middle springs to the print's middle
_TURN = 26  # pixels of the screen between a thing and its handle for turning
_STEP = 1.5  # pixels of the screen between places of a brush's way, at least


class Ground:
    """Where the photograph lies on the easel."""

    def __init__(self, easel: Stage, desk: Desk) -> None:
        self.easel, self.desk = easel, desk

    @property
    def photo(self) -> grips.Photo:
        """Width and height of the photograph as opened, in pixels."""
        photo = self.desk.photo
        assert photo is not None
        return photo.width, photo.height

    def to_photo(self, at: QPointF) -> grips.Point:
        """The photograph's pixel under a point of the easel."""
        found = framing(self.desk.script.frame, *self.photo)
        spot = self.easel.to_picture(at)
        return found.to_photo(spot.x() * found.width, spot.y() * found.height)

    def to_easel(self, at: grips.Point) -> QPointF:
        """The point of the easel over a pixel of the photograph."""
        found = framing(self.desk.script.frame, *self.photo)
        x, y = found.to_photo.inverse()(*at)
        return self.easel.from_picture(QPointF(x / found.width, y / found.height))

    def share(self, at: QPointF) -> grips.Point:
        """The place under a point of the easel, in per cent of the photograph, as shapes have it."""
        x, y = self.to_photo(at)
        width, height = self.photo
        return _held(x / width * 100), _held(y / height * 100)

    @property
    def each(self) -> float:
        """Points of the easel to one pixel of the photograph."""
        return self.easel.magnification() / self.easel.devicePixelRatioF()

    def length(self, thousandths: float) -> float:
        """A declared length in points of the easel."""
        return thousandths / 1000 * max(self.photo) * self.each

    def in_thousandths(self, points: float) -> float:
        """The other way."""
        return points / self.each / max(self.photo) * 1000


def _held(share: float) -> float:
    return round(min(max(share, -1000.0), 1000.0), 3)


class Way:
    """The way of a brush under the hand."""

    def __init__(self, ground: Ground, at: QPointF, pressure: float) -> None:
        self._ground, self._last = ground, at
        self.points: tuple[Dot, ...] = (self._place(at, pressure),)

    def go(self, at: QPointF, pressure: float) -> bool:
        """Follow the hand; False if it has hardly moved."""
        if (at - self._last).manhattanLength() < _STEP or len(self.points) >= 20_000:
            return False
        self._last = at
        self.points = (*self.points, self._place(at, pressure))
        return True

    def _place(self, at: QPointF, pressure: float) -> Dot:
        x, y = self._ground.share(at)
        return (x, y) if pressure >= 1 else (x, y, round(pressure, 3))


def paint_brush(painter: QPainter, ground: Ground, at: QPointF, brush: Any) -> None:
    """The rim of a brush at the pointer, and of the part that has its full effect."""
    radius = ground.length(brush.size) / 2
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in haloed(2.4, 1.1, 120):
        painter.setPen(pen)
        painter.drawEllipse(at, radius, radius)
        hardness = getattr(brush, "hardness", 100)
        if 5 < hardness < 98 and radius > 12:
            pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawEllipse(at, radius * hardness / 100, radius * hardness / 100)


def brush_box(ground: Ground, at: QPointF, brush: Any) -> QRectF:
    """What the brush's rim covers of the easel."""
    radius = ground.length(brush.size) / 2 + 4
    return QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)


def resized(brush: Any, by: float) -> Any:
    """A brush of another size."""
    size = brush.number("size").held(round(brush.size * by, 2))
    return brush.model_copy(update={"size": size})


class Hold:
    """Handles of one thing on the picture, and the hand on one of them."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground
        self.snapped: tuple[bool, bool] = (False, False)  # to the print's middle, across and down
        self._held: tuple[str, grips.Point, Declared] | None = None

    def handles(self, thing: Any, aspect: float = 1.0) -> dict[str, QPointF]:
        """The handles by name, in points of the easel."""
        found = grips.grips(thing, self.ground.photo, _TURN / self.ground.each, aspect)
        return {name: self.ground.to_easel(at) for name, at in found.items()}

    def under(self, thing: Any, at: QPointF, aspect: float = 1.0) -> str:
        """The name of the handle under a point; "" if there is none. The middle comes last."""
        near = [
            (name == grips.MIDDLE, (p - at).manhattanLength(), name)
            for name, p in self.handles(thing, aspect).items()
            if (p - at).manhattanLength() <= HIT
        ]
        return min(near)[2] if near else ""

    def take(self, name: str, thing: Any, at: QPointF) -> None:
        """Take a handle."""
        self._held = (name, self.ground.to_photo(at), thing)

    def moved(self, at: QPointF, free: bool = False, even: bool = False) -> Any:
        """The thing with the handle at another place; ``free``: nothing springs to the middle."""
        assert self._held is not None
        name, start, thing = self._held
        if name == grips.MIDDLE and not free:
            at = self._sprung(thing, at)
        values = grips.dragged(thing, name, start, self.ground.to_photo(at), self.ground.photo, even)
        return thing.model_copy(update=values)

    def _sprung(self, thing: Any, at: QPointF) -> QPointF:
        """Where the hand would be if the thing's middle had sprung to the print's."""
        assert self._held is not None
        offset = self.ground.to_easel(self._held[1]) - self.handles(thing)[grips.MIDDLE]
        centre = self.ground.easel.from_picture(QPointF(0.5, 0.5))
        away = at - offset - centre
        self.snapped = (abs(away.x()) < _SNAP, abs(away.y()) < _SNAP)
        return at - QPointF(away.x() if self.snapped[0] else 0, away.y() if self.snapped[1] else 0)

    @property
    def active(self) -> bool:
        """Whether a handle is held."""
        return self._held is not None

    def let_go(self) -> None:
        """Let go of it."""
        self._held, self.snapped = None, (False, False)

    def paint(self, painter: QPainter, thing: Any, aspect: float = 1.0) -> None:
        """Its lines and handles, and the print's middle where it has sprung to it."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        lines = [
            QPolygonF([self.ground.to_easel(p) for p in line])
            for line in grips.rims(thing, self.ground.photo, aspect)
        ]  # fmt: skip
        handles = self.handles(thing, aspect)
        foot = handles.get("top") or self.ground.to_easel(grips.centre(thing, self.ground.photo))
        stalk = [handles["turn"], foot] if "turn" in handles else []
        for pen in haloed(2.6, 1.2, 130):
            painter.setPen(pen)
            for line in [*lines, QPolygonF(stalk)]:
                painter.drawPolyline(line)
        if any(self.snapped):
            middle = self.ground.easel.from_picture(QPointF(0.5, 0.5))
            painter.setPen(QPen(theme.colour("accent"), 1, Qt.PenStyle.DashLine))
            if self.snapped[0]:
                painter.drawLine(QPointF(middle.x(), 0), QPointF(middle.x(), self.ground.easel.height()))
            if self.snapped[1]:
                painter.drawLine(QPointF(0, middle.y()), QPointF(self.ground.easel.width(), middle.y()))
        painter.setPen(QPen(QColor(theme.DAYLIGHT.accent), 1.4))
        for name, at in handles.items():
            painter.setBrush(QColor("#FFFFFF"))
            if name in (grips.MIDDLE, "turn"):
                painter.drawEllipse(at, 5, 5)
            else:
                paint_handle(painter, at, QColor(theme.DAYLIGHT.accent), QColor("#FFFFFF"))
            if name == grips.MIDDLE:
                painter.setBrush(QColor(theme.DAYLIGHT.accent))
                painter.drawEllipse(at, 1.6, 1.6)


def paint_dot(painter: QPainter, at: QPointF) -> None:
    """The middle of a part that is not the chosen one."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(0, 0, 0, 150), 1))
    painter.setBrush(QColor(255, 255, 255, 200))
    painter.drawEllipse(at, 4, 4)
