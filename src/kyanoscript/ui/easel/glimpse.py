"""A print that is on its way: a small picture of it where all of it will lie. Asks for nothing that loads long."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

MARGIN = 24  # mat round a whole print, in pixels of the screen


def paint_glimpse(painter: QPainter, easel: QRectF, image: QImage) -> None:
    """Paint it on an easel, if there is one."""
    if image.isNull():
        return
    room = easel.adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
    share = min(room.width() / image.width(), room.height() / image.height())
    lies = QRectF(0, 0, image.width() * share, image.height() * share)
    lies.moveCenter(room.center())
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(lies, image)
