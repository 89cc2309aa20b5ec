"""The frame on the easel: a rectangle with handles over the whole photograph.

Drag inside to move it, a handle to change its size, outside to tilt it; Shift-drag along a horizon to set that level.
What is asked for is always covered: see `kyanoscript.core.geometry.framing`.
"""

from __future__ import annotations

import math
from dataclasses import replace

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import Framing, framing
from kyanoscript.core.script import Script
from kyanoscript.ui.document.desk import FRAME, Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.handle import paint_handle
from kyanoscript.ui.widgets.pens import haloed

GUIDES = ("thirds", "diagonals", "golden section", "centre", "none")
_HIT = 12  # pixels around a handle
_GOLDEN = (math.sqrt(5) - 1) / 2


class FrameTool:
    """Paints the frame over the easel and follows the pointer."""

    def __init__(self, easel: Stage, desk: Desk) -> None:
        self.easel, self.desk = easel, desk
        self.guides = GUIDES[0]
        self._start: tuple[str, QPointF, Frame] | None = None  # what is dragged, from where, the frame then
        self._line: tuple[QPointF, QPointF] | None = None  # a horizon being drawn, in widget points

    @property
    def active(self) -> bool:
        """Whether the frame is being worked on."""
        return self.desk.selected == FRAME and self.desk.photo is not None

    def next_guides(self) -> str:
        """Other guides; returns which."""
        self.guides = GUIDES[(GUIDES.index(self.guides) + 1) % len(GUIDES)]
        self.easel.update()
        return self.guides

    def shown(self, script: Script) -> Script:
        """The script as it is shown while the frame is worked on: everything of the photograph, turned."""
        frame = script.frame
        return replace(script, frame=Frame(ratio="free", turns=frame.turns, flip=frame.flip))

    # Geometry, in pixels of the photograph after its quarter turns

    def _size(self) -> tuple[float, float]:
        photo = self.desk.photo
        assert photo is not None
        across = self.desk.script.frame.turns % 2 == 1
        return (photo.height, photo.width) if across else (photo.width, photo.height)

    def _resolved(self, frame: Frame) -> Framing:
        photo = self.desk.photo
        assert photo is not None
        return framing(frame, photo.width, photo.height)

    def _middle(self, frame: Frame) -> tuple[float, float]:
        """Where the middle of the resolved frame lies."""
        found = self._resolved(frame)
        photo = self.desk.photo
        assert photo is not None
        whole = framing(Frame(ratio="free", turns=frame.turns, flip=frame.flip), photo.width, photo.height)
        return whole.to_photo.inverse()(*found.to_photo(found.width / 2, found.height / 2))

    def corners(self) -> list[QPointF]:
        """The corners on the easel: upper left, upper right, lower right, lower left."""
        frame = self.desk.script.frame
        found = self._resolved(frame)
        cx, cy = self._middle(frame)
        w, h = found.width / 2, found.height / 2
        return [self._to_screen(*_turned(cx, cy, dx, dy, frame.tilt)) for dx, dy in _signs(w, h)]

    def _to_screen(self, x: float, y: float) -> QPointF:
        tw, th = self._size()
        return self.easel.from_picture(QPointF(x / tw, y / th))

    def _from_screen(self, at: QPointF) -> tuple[float, float]:
        tw, th = self._size()
        spot = self.easel.to_picture(at)
        return spot.x() * tw, spot.y() * th

    # Painting

    def paint(self, painter: QPainter) -> None:
        """The frame, its guides and handles; what lies outside is dimmed."""
        corners = self.corners()
        inside = QPolygonF(corners)
        shade = QPainterPath()
        shade.addRect(QPolygonF([QPointF(0, 0), QPointF(self.easel.width(), self.easel.height())]).boundingRect())
        hole = QPainterPath()
        hole.addPolygon(inside)
        hole.closeSubpath()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillPath(shade.subtracted(hole), QColor(20, 20, 20, 120))
        self._paint_guides(painter, corners)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in haloed(3, 1.4, 140):
            painter.setPen(pen)
            painter.drawPolygon(inside)
        for at in self._handles(corners).values():
            paint_handle(painter, at, theme.colour("accent"), QColor("#FFFFFF"))
        if self._line is not None:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawLine(*self._line)

    def _paint_guides(self, painter: QPainter, corners: list[QPointF]) -> None:
        a, b, c, d = corners

        def at(u: float, v: float) -> QPointF:
            return a + (b - a) * u + (d - a) * v

        shares = {"thirds": (1 / 3, 2 / 3), "golden section": (1 - _GOLDEN, _GOLDEN), "centre": (0.5,)}
        painter.setPen(QPen(QColor(255, 255, 255, 130), 1))
        for share in shares.get(self.guides, ()):
            painter.drawLine(at(share, 0), at(share, 1))
            painter.drawLine(at(0, share), at(1, share))
        if self.guides == "diagonals":
            painter.drawLine(a, c)
            painter.drawLine(b, d)

    def _handles(self, corners: list[QPointF]) -> dict[str, QPointF]:
        """Handles by name: corners always, sides where the ratio is free."""
        a, b, c, d = corners
        found = {"0": a, "1": b, "2": c, "3": d}
        if self.desk.script.frame.ratio == "free":
            found |= {"top": (a + b) / 2, "right": (b + c) / 2, "bottom": (c + d) / 2, "left": (d + a) / 2}
        return found

    def grips(self) -> list[QPointF]:
        """Where it is taken hold of, in points of the easel."""
        return list(self._handles(self.corners()).values()) if self.active else []

    # The pointer

    def what(self, at: QPointF) -> str:
        """What lies under a point: a handle's name, "inside" or "outside"."""
        corners = self.corners()
        near = [((p - at).manhattanLength(), name) for name, p in self._handles(corners).items()]
        if min(near)[0] <= _HIT:
            return min(near)[1]
        return "inside" if QPolygonF(corners).containsPoint(at, Qt.FillRule.OddEvenFill) else "outside"

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape at a place."""
        found = self.what(at)
        shapes = {"inside": Qt.CursorShape.SizeAllCursor, "outside": Qt.CursorShape.CrossCursor}
        return shapes.get(found, Qt.CursorShape.PointingHandCursor)

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Start a drag; with Shift a line is drawn along a horizon."""
        found = "level" if modifiers & Qt.KeyboardModifier.ShiftModifier else self.what(at)
        words = {"inside": "Move the frame", "outside": "Tilt the frame", "level": "Level the horizon"}
        self.desk.begin(words.get(found, "Size of the frame"))
        self._start = (found, at, self.desk.script.frame)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        if self._start is None:
            return
        found, start, frame = self._start
        if found == "level":
            self._line = (start, at)
            self.easel.update()
        elif found == "inside":
            (x0, y0), (x1, y1) = self._from_screen(start), self._from_screen(at)
            cx, cy = self._middle(frame)
            self._place(frame, cx + x1 - x0, cy + y1 - y0)
        elif found == "outside":
            cx, cy = self._to_screen(*self._middle(frame)).toTuple()
            turn = math.degrees(
                math.atan2(at.y() - cy, at.x() - cx) - math.atan2(start.y() - cy, start.x() - cx)
            )  # fmt: skip
            turn = (turn + 180) % 360 - 180
            self._tilt(frame, frame.tilt + turn)
        else:
            self._resize(frame, found, at)

    def release(self, at: QPointF) -> None:
        """End the drag."""
        if self._start is not None and self._start[0] == "level" and self._line is not None:
            (x0, y0), (x1, y1) = self._from_screen(self._line[0]), self._from_screen(self._line[1])
            angle = math.degrees(math.atan2(y1 - y0, x1 - x0))
            angle = (angle + 45) % 90 - 45  # a level or an upright line, whichever is nearer
            if math.hypot(x1 - x0, y1 - y0) > 8:
                self._tilt(self._start[2], angle)
        self.give_up()
        self.desk.commit()

    def give_up(self) -> None:
        """The drag is over, for whatever reason."""
        self._start = self._line = None
        self.easel.update()

    def away(self) -> None:
        """The pointer has left the easel: handles stay."""

    def _tilt(self, frame: Frame, degrees: float) -> None:
        self.desk.set_values("Tilt", tilt=round(min(max(degrees, -45.0), 45.0), 2))

    def _place(self, frame: Frame, cx: float, cy: float) -> None:
        tw, th = self._size()
        x, y = (round(min(max(v, 0.0), 100.0), 2) for v in (cx / tw * 100, cy / th * 100))
        self.desk.set_values("Move the frame", x=x, y=y)

    def _resize(self, frame: Frame, handle: str, at: QPointF) -> None:
        """A handle follows the pointer; what lies opposite stays."""
        tw, th = self._size()
        found = self._resolved(frame)
        cx, cy = self._middle(frame)
        w, h = float(found.width), float(found.height)
        sx, sy = {"0": (-1, -1), "1": (1, -1), "2": (1, 1), "3": (-1, 1)}.get(handle, (0, 0))
        sx, sy = {"left": (-1, 0), "right": (1, 0), "top": (0, -1), "bottom": (0, 1)}.get(handle, (sx, sy))
        fixed = _turned(cx, cy, -sx * w / 2, -sy * h / 2, frame.tilt)
        px, py = self._from_screen(at)
        dx, dy = _turned(0, 0, px - fixed[0], py - fixed[1], -frame.tilt)
        new_w, new_h = (max(8.0, dx * sx) if sx else w), (max(8.0, dy * sy) if sy else h)
        ratio = frame.shape(tw, th)
        if ratio is not None:
            new_w = max(new_w, new_h * ratio)
            new_h = new_w / ratio
        x, y = _turned(*fixed, sx * new_w / 2, sy * new_h / 2, frame.tilt)
        self.desk.set_values(
            "Size of the frame",
            x=round(min(max(x / tw * 100, 0.0), 100.0), 2),
            y=round(min(max(y / th * 100, 0.0), 100.0), 2),
            width=round(min(max(new_w / tw * 100, 1.0), 100.0), 2),
            height=round(min(max(new_h / th * 100, 1.0), 100.0), 2),
        )


def _signs(w: float, h: float) -> list[tuple[float, float]]:
    return [(-w, -h), (w, -h), (w, h), (-w, h)]


def _turned(cx: float, cy: float, dx: float, dy: float, degrees: float) -> tuple[float, float]:
    """A place at ``dx``, ``dy`` from a middle, along axes turned clockwise."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return cx + c * dx - s * dy, cy + s * dx + c * dy
