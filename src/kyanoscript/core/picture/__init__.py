"""Pixels of a region at a scale."""

from kyanoscript.core.picture.read import Reading, read
from kyanoscript.core.picture.rect import Rect
from kyanoscript.core.picture.source import ArraySource, Planes, Source, leveled, size_at
from kyanoscript.core.picture.write import dithered, to_integers, to_screen

__all__ = [
    "ArraySource",
    "Planes",
    "Reading",
    "Rect",
    "Source",
    "dithered",
    "leveled",
    "read",
    "size_at",
    "to_integers",
    "to_screen",
]
