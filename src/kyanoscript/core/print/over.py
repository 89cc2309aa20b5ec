"""What is made from another picture, place by place: of its size, in sRGB."""

from __future__ import annotations

from typing import Protocol

from kyanoscript.core.colour import SRGB, Space
from kyanoscript.core.picture import Planes, Rect


class Printable(Protocol):
    """What can be written as a print: a renderer, or what is made over one."""

    @property
    def planes(self) -> int: ...
    @property
    def looks_around(self) -> bool: ...
    @property
    def space(self) -> Space: ...
    def size(self, scale: float) -> tuple[int, int]: ...
    def region(self, rect: Rect, scale: float = 1.0) -> Planes: ...


class Sized(Protocol):
    """All that is asked of the other."""

    def size(self, scale: float) -> tuple[int, int]: ...


class Over:
    """One plane, or three; whoever is made so says what lies in a region."""

    looks_around = True
    planes = 1

    def __init__(self, of: Sized) -> None:
        self._below = of

    @property
    def space(self) -> Space:
        return SRGB

    def size(self, scale: float) -> tuple[int, int]:
        return self._below.size(scale)
