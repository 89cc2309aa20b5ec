"""Shapes of a stencil as a drag lays them down, from where the hand pressed to where it is."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPolygonF

from kyanoscript.core.frame import Frame
from kyanoscript.core.stencil.shapes import Dot, Hues, Oval, Ramp, Shape, Tones
from kyanoscript.ui.easel.tools.shared import Ground, paint_dot
from kyanoscript.ui.service.results import Felt
from kyanoscript.ui.widgets.pens import haloed

_DULL = 0.02  # Oklch chroma below which a spot has no hue worth the name
_LONGEST = 20_000.0  # thousandths of the photograph's longer side


def oval(ground: Ground, frame: Frame, pressed: QPointF, at: QPointF, even: bool) -> Shape:
    """About where the hand pressed; ``even``: a circle."""
    x, y = ground.share(pressed)
    by = at - pressed
    wide, high = (max(2.0, 2 * abs(v)) for v in (by.x(), by.y()))
    if even:
        wide = high = max(wide, high)
    width, height = (round(min(ground.in_thousandths(v), _LONGEST), 2) for v in (wide, high))
    width, height = (height, width) if frame.turns % 2 == 1 else (width, height)
    return Oval(x=x, y=y, width=max(width, 1.0), height=max(height, 1.0), turn=frame.tilt)


def ramp(ground: Ground, pressed: QPointF, at: QPointF) -> Shape:
    """From nothing, where the hand pressed, to everything."""
    (x1, y1), (x2, y2) = ground.share(pressed), ground.share(at)
    return Ramp(x1=x1, y1=y1, x2=x2, y2=y2)


def reach(hand: str, found: Felt, wide: float) -> Shape | None:
    """The tones or hues round what was found, wider by as much as the pointer has gone; None: there is no hue."""
    if hand == "hues":
        if found.chroma < _DULL:
            return None
        return Hues(hue=round(found.hue, 1) % 360, width=float(round(min(30 + wide / 2, 360.0))))
    tone, half = found.gray * 255, 12 + wide / 4
    low, high = (float(round(min(max(v, 0.0), 255.0))) for v in (tone - half, tone + half))
    return Tones(low=low, high=high)


def paint_line(painter: QPainter, ground: Ground, way: Sequence[Dot], corners: Sequence[QPointF], at: QPointF) -> None:
    """The outline that is being drawn: along the hand's way, or from corner to corner and to the pointer."""
    width, height = ground.photo
    line = [ground.to_easel((p[0] / 100 * width, p[1] / 100 * height)) for p in way]
    if corners:
        line = [*corners, at]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for pen in haloed(2.6, 1.2, 130):
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF(line))
    if corners:
        paint_dot(painter, corners[0])
