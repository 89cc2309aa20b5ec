"""A region of a picture, in whole pixels."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Rect:
    """A region in whole pixels at some scale."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        return self.x + self.width

    @property
    def bottom(self) -> int:
        return self.y + self.height

    def tiles(self, side: int) -> list[tuple[int, int]]:
        """Columns and rows of the tiles under it, row after row, of a lattice of squares."""
        columns = range(self.x // side, (self.right - 1) // side + 1)
        rows = range(self.y // side, (self.bottom - 1) // side + 1)
        return [(column, row) for row in rows for column in columns]

    def holds(self, other: Rect) -> bool:
        """Whether another region lies within it."""
        return other.x >= self.x and other.y >= self.y and other.right <= self.right and other.bottom <= self.bottom

    def grown(self, by: int) -> Rect:
        """The region with a margin on every side; it may reach outside the picture."""
        return Rect(self.x - by, self.y - by, self.width + 2 * by, self.height + 2 * by)

    def clipped(self, width: int, height: int) -> Rect:
        """The part within a picture of that size."""
        x, y = min(max(self.x, 0), width), min(max(self.y, 0), height)
        return Rect(x, y, max(0, min(self.right, width) - x), max(0, min(self.bottom, height) - y))

    def clipped_to(self, other: Rect) -> Rect:
        """The part within another region."""
        x, y = min(max(self.x, other.x), other.right), min(max(self.y, other.y), other.bottom)
        return Rect(x, y, max(0, min(self.right, other.right) - x), max(0, min(self.bottom, other.bottom) - y))

    def scaled(self, across: float, down: float) -> Rect:
        """Where it lies on another grid, to the nearest pixel and at least one pixel large."""
        x, y = round(self.x * across), round(self.y * down)
        return Rect(x, y, max(1, round(self.right * across) - x), max(1, round(self.bottom * down) - y))
