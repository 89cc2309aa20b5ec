"""Words on the easel: where there is no print yet, and over one."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import theme


def paint_preparing(painter: QPainter, room: QRectF, mat: str, share: float) -> None:
    """The first start on this machine: what is done, why it takes a while, and how far it is."""
    dark = mat != "paper white"
    ink = QColor("#FFFFFF" if dark else "#1C1C1C")
    middle = room.center()
    painter.setPen(ink)
    painter.setFont(theme.serif(24))
    line = QRectF(0, middle.y() - 62, room.width(), 34)
    painter.drawText(line, Qt.AlignmentFlag.AlignCenter, spoken("Getting ready for this machine"))
    bar = QRectF(middle.x() - 160, middle.y() - 12, 320, 4)
    painter.fillRect(bar, QColor(255, 255, 255, 70) if dark else QColor(0, 0, 0, 40))
    painter.fillRect(QRectF(bar.x(), bar.y(), bar.width() * share, bar.height()), ink)
    painter.setFont(theme.sans(13))
    words = tr(
        "{share:.0f} % done. Its inner loops are compiled for this processor; this is done once.", share=share * 100
    )
    painter.drawText(QRectF(0, middle.y() + 8, room.width(), 24), Qt.AlignmentFlag.AlignCenter, spoken(words))


def paint_empty(painter: QPainter, room: QRectF, mat: str) -> None:
    """Nothing is open."""
    painter.setFont(theme.serif(24))
    painter.setPen(QColor("#FFFFFF" if mat != "paper white" else "#1C1C1C"))
    painter.drawText(room, Qt.AlignmentFlag.AlignCenter, spoken("Drop a photograph here, or press Ctrl+O"))


def paint_caption(painter: QPainter, text: str, left: float = 12, right: float | None = None) -> None:
    """What the picture is, at its upper rim: from ``left`` on, or up to ``right``."""
    painter.setFont(theme.sans(12))
    width = painter.fontMetrics().horizontalAdvance(spoken(text)) + 20
    box = QRectF(left if right is None else right - width, 12, width, 24)
    painter.fillRect(box, theme.colour("panel"))
    painter.setPen(theme.colour("text"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken(text))
