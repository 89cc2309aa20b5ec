"""How long one more dab takes, against copying the view once; and looks at an old scan, against reading its file."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from kyanoscript import demo

ROUNDS = 5


def dabs(folder: Path) -> list[dict[str, Any]]:
    """The 101st to 105th dab on a view of 1 MP; and a whole print of 24 MP with 100 dabs. One thread."""
    from kyanoscript.core.passes import load_all
    from kyanoscript.core.picture import ArraySource, Rect
    from kyanoscript.core.render.cache import TileCache
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import Script
    from kyanoscript.core.tint.dabs import Dab

    tint: Any = load_all()["hand-tint"]
    rng = np.random.default_rng(0)
    gray = cv2.imread(str(demo.photo("ferry-landing")), cv2.IMREAD_GRAYSCALE)
    every = [
        Dab(points=((float(x), float(y)),), colour="#{:02x}{:02x}{:02x}".format(*rng.integers(70, 190, 3)))
        for x, y in rng.uniform(2, 98, (100 + ROUNDS, 2))
    ]
    rows = []
    for width, height in ((1224, 816), (6000, 4000)):
        source = ArraySource(cv2.resize(gray, (width, height), interpolation=cv2.INTER_CUBIC))
        view = np.zeros((3, height, width), np.float32)
        copies, times = [], []
        cache = TileCache(4 << 30)
        whole = Rect(0, 0, width, height)
        Renderer(source, Script((tint(dabs=tuple(every[:100])),)), cache).region(whole)
        for k in range(ROUNDS):
            began = time.perf_counter()
            view.copy()
            copies.append(time.perf_counter() - began)
            began = time.perf_counter()
            Renderer(source, Script((tint(dabs=tuple(every[: 101 + k])),)), cache).region(whole)
            times.append(time.perf_counter() - began)
        rows.append({"megapixels": width * height / 1e6, "seconds": min(times), "ratio": min(times) / min(copies)})
    return rows


def looks(_: Path) -> dict[str, dict[str, float]]:
    """One look at a scan of 4 megapixels for people, parts and offers, and one for damage; each the first."""
    from kyanoscript.core.mend import detect, lines
    from kyanoscript.core.passes import load_all
    from kyanoscript.core.picture import ArraySource
    from kyanoscript.core.render.renderer import Renderer
    from kyanoscript.core.script import Script

    reading, row = [], {}
    path = str(demo.photo("yard-scan"))
    for _ in range(ROUNDS):
        began = time.perf_counter()
        levels = cv2.imread(path, cv2.IMREAD_GRAYSCALE)
        reading.append(time.perf_counter() - began)
    scale = (4e6 / levels.size) ** 0.5
    gray = cv2.resize(levels, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA).astype(np.float32) / 255

    def for_parts() -> None:
        Renderer(ArraySource(gray), Script((load_all()["hand-tint"](auto=True),))).settled(0)

    def for_damage() -> None:
        found = detect.likely(gray)
        lines.followed(found, detect.chosen(found, 50, 0.008 * max(gray.shape)), 50)

    for name, work in (("parts", for_parts), ("damage", for_damage)):
        began = time.perf_counter()
        work()
        first = time.perf_counter() - began
        row[name] = {"seconds": first, "ratio": first / min(reading)}
    row["all"] = {key: sum(one[key] for one in row.values()) for key in ("seconds", "ratio")}
    return row
