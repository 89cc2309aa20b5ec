"""Measures of the rows of trays."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF

THUMB_W, THUMB_H = 120, 80
LEFT = 20  # pixels before the first tray


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


@dataclass(frozen=True)
class TrayPlaces:
    """Where things are in a row. Tray −2 is the photograph, −1 the frame, or in the second row the plate."""

    row: Row
    first: int  # tray
    count: int  # of passes

    def tray(self, index: int) -> QRectF:
        """The whole tray."""
        box = self.thumb(index)
        return QRectF(box.left() - 6, self.row.top - 10 if self.row is MAIN else 1, box.width() + 12, self.row.height)

    def thumb(self, index: int) -> QRectF:
        """Its picture."""
        row = self.row
        return QRectF(LEFT + (index - self.first) * row.pitch, row.top, row.thumb_w, row.thumb_h)

    def name_box(self, index: int) -> QRectF:
        """Its name."""
        box = self.thumb(index)
        return QRectF(box.left(), box.bottom() + 2, box.width(), 20)

    def bar(self, index: int) -> QRectF:
        """Its strength bar, with room for a finger."""
        box = self.thumb(index)
        return QRectF(box.left(), box.bottom() + self.row.bar - 8, box.width() - 22, 16)

    def lamp(self, index: int) -> QPointF:
        """The middle of its lamp."""
        box = self.thumb(index)
        return QPointF(box.right() - 5, box.bottom() + self.row.bar)

    def notch(self, index: int) -> QRectF:
        """The mark of its stencil."""
        box = self.thumb(index)
        return QRectF(box.right() - 26, box.top(), 26, 17)

    def adder(self, index: int) -> QRectF:
        """The place between the tray before pass ``index`` and that pass, where another can be put."""
        box = self.thumb(index)
        return QRectF(box.left() - 21, box.center().y() - 20, 20, 40)

    def end(self) -> QRectF:
        """Add a pass at the end."""
        box = self.thumb(self.count)
        return QRectF(box.left(), box.top(), 82, self.row.thumb_h)
