"""How far apart two colours look: CIEDE2000.

Source: CIE 142-2001; G. Sharma, W. Wu and E. Dalal, "The CIEDE2000 color-difference formula", Color Research and
Application 30 (2005), whose test data the tests hold it to.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Colours = NDArray[np.float64]  # (n, 3): L*, a*, b*


def ciede2000(one: Colours, other: Colours) -> NDArray[np.float64]:
    """The difference of each pair of L*a*b* colours, ``(n,)``; 1 is about what is just seen."""
    (l1, a1, b1), (l2, a2, b2) = one.T, other.T
    mean_c = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(mean_c**7 / (mean_c**7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = (np.degrees(np.arctan2(b, a)) % 360 for a, b in ((a1, b1), (a2, b2)))
    no_hue = c1 * c2 == 0
    dl, dc = l2 - l1, c2 - c1
    dh = np.where(no_hue, 0, (h2 - h1 + 180) % 360 - 180)
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    ml, mc = (l1 + l2) / 2, (c1 + c2) / 2
    far = np.abs(h1 - h2) > 180
    mh = np.where(no_hue, h1 + h2, np.where(far, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2, (h1 + h2) / 2))

    def cos(times: float, less: float) -> NDArray[np.float64]:
        return np.asarray(np.cos(np.radians(times * mh - less)))

    t = 1 - 0.17 * cos(1, 30) + 0.24 * cos(2, 0) + 0.32 * cos(3, -6) - 0.20 * cos(4, 63)
    turn = 30 * np.exp(-(((mh - 275) / 25) ** 2))
    rc = 2 * np.sqrt(mc**7 / (mc**7 + 25.0**7))
    sl = 1 + 0.015 * (ml - 50) ** 2 / np.sqrt(20 + (ml - 50) ** 2)
    sc, sh = 1 + 0.045 * mc, 1 + 0.015 * mc * t
    rt = -np.sin(np.radians(2 * turn)) * rc
    terms = (dl / sl) ** 2 + (dc / sc) ** 2 + (dh / sh) ** 2 + rt * (dc / sc) * (dh / sh)
    return np.asarray(np.sqrt(np.maximum(terms, 0)))
