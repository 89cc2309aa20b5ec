"""Colours as people write them: #rrggbb."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from kyanoscript.core.quoting import quoted
from kyanoscript.translation import tr


def parse_hex(text: str) -> tuple[float, float, float]:
    """Encoded RGB 0…1 of ``#rgb`` or ``#rrggbb``. Raises ValueError for anything else."""
    digits = text[1:] if text.startswith("#") else ""
    if len(digits) == 3:
        digits = "".join(d * 2 for d in digits)
    if len(digits) != 6 or any(d not in "0123456789abcdefABCDEF" for d in digits):
        raise ValueError(tr("{text} is not a colour; write it as #rrggbb, for example #f7efe0", text=quoted(text)))
    r, g, b = (int(digits[k : k + 2], 16) / 255 for k in (0, 2, 4))
    return r, g, b


def hex_of(rgb: ArrayLike) -> str:
    """``#rrggbb`` of one encoded colour 0…1."""
    r, g, b = (int(v) for v in np.floor(np.clip(np.asarray(rgb, np.float64), 0, 1) * 255 + 0.5))
    return f"#{r:02x}{g:02x}{b:02x}"
