"""Negative: light for dark, ``1 − v`` on encoded values."""

from __future__ import annotations

from typing import ClassVar

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes
from kyanoscript.core.site import Place


class Negative(Pass):
    """Light for dark."""

    kind: ClassVar[str] = "negative"
    label: ClassVar[str] = "Negative"
    stage: ClassVar[str] = "tone"
    about: ClassVar[str] = "Light for dark"

    def apply(self, planes: Planes, place: Place) -> Planes:
        return 1 - planes
