"""Modules that are large and seldom needed, imported when something of them is first used.

OpenCV alone takes 40 MB and a fifth of the time of a small print; many passes never ask it.
"""

from __future__ import annotations

import importlib
import types
from typing import TYPE_CHECKING, Any


class _Late(types.ModuleType):
    """Stands for a module; what was asked of it once is at hand without asking again."""

    def __getattr__(self, name: str) -> Any:
        found = getattr(importlib.import_module(self.__name__), name)
        setattr(self, name, found)
        return found


if TYPE_CHECKING:
    import cv2
else:
    cv2 = _Late("cv2")

__all__ = ["cv2"]
