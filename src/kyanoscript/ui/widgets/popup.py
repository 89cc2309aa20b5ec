"""Where things pop up: near what they belong to, and within the screen."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QWidget


def pop_up(widget: QWidget, at: QPoint) -> None:
    """Show a widget with its upper left corner at a point of the screen, or as near as it fits."""
    screen = widget.screen().availableGeometry()
    x = max(screen.left(), min(at.x(), screen.right() - widget.width()))
    y = max(screen.top(), min(at.y(), screen.bottom() - widget.height()))
    widget.move(x, y)
    widget.show()
