"""Lines that are seen on any picture: thin and light within a dark halo."""

from __future__ import annotations

from PySide6.QtGui import QColor, QPen


def haloed(wide: float, thin: float, dark: int) -> tuple[QPen, QPen]:
    """The two pens to draw with, one after the other: widths in points, darkness of the halo 0…255."""
    return QPen(QColor(0, 0, 0, dark), wide), QPen(QColor("#FFFFFF"), thin)
