"""Measures of the rows of trays."""

from __future__ import annotations

from dataclasses import dataclass

THUMB_W, THUMB_H = 120, 80


@dataclass(frozen=True)
class Row:
    """Measures of a row of trays, in pixels."""

    thumb_w: int
    thumb_h: int
    top: int  # above the pictures
    bar: int  # the strength bar's middle below the pictures
    serif: float

    @property
    def pitch(self) -> int:
        """From tray to tray."""
        return self.thumb_w + 22

    @property
    def height(self) -> int:
        """Of a tray."""
        return self.top + self.thumb_h + self.bar + 13


MAIN, SECOND = Row(THUMB_W, THUMB_H, 14, 31, 15.5), Row(84, 56, 8, 28, 14)
