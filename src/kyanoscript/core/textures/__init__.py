"""Surfaces that ship with the program: invented, rendered, 1024 pixels square, each repeating without a seam."""

from __future__ import annotations

import functools
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.late import cv2

BUNDLED = ("laid-paper", "plaster", "linen", "rust")


@functools.lru_cache(maxsize=len(BUNDLED))
def bundled(name: str) -> NDArray[np.float32]:
    """The gray of a surface ``(1024, 1024)``, encoded 0…1. Raises KeyError for a name that is not in `BUNDLED`."""
    if name not in BUNDLED:
        raise KeyError(name)
    data = np.frombuffer((resources.files(__package__) / f"{name}.jpg").read_bytes(), np.uint8)
    gray = cv2.imdecode(data, cv2.IMREAD_GRAYSCALE)
    assert gray is not None
    return np.asarray(gray, np.float32) / np.float32(255)
