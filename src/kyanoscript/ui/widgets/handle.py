"""A handle that is taken hold of: a small square, the same on all four sides wherever it lies."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

_SIDE = 8  # pixels


def paint_handle(painter: QPainter, at: QPointF, ink: QColor, ground: QColor) -> None:
    """Round a point; its lines lie in the middle of pixels, so that none of them is thicker than another."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(ink, 1.4))
    painter.setBrush(ground)
    painter.drawRect(box(at))
    painter.restore()


def box(at: QPointF) -> QRectF:
    """Where it is drawn."""
    return QRectF(math.floor(at.x()) - _SIDE / 2 + 0.5, math.floor(at.y()) - _SIDE / 2 + 0.5, _SIDE, _SIDE)
