"""Grays through a table: what plates and film are made of."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from kyanoscript.core.picture import Planes

Table = NDArray[np.float32]  # for grays evenly from 0 to 1, encoded


def through(gray: Planes, table: Table) -> Planes:
    """Values of a table for grays ``(1, h, w)``, joined between its entries."""
    at = np.clip(gray, 0, 1) * np.float32(len(table) - 1)
    below = np.minimum(at.astype(np.int32), len(table) - 2)
    part = at - below
    return np.asarray(table[below] * (1 - part) + table[below + 1] * part, np.float32)
