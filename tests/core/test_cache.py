"""What was worked out is kept within its bound, in whatever it is put together."""

from collections import namedtuple
from dataclasses import dataclass
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from kyanoscript.core.render.cache import TileCache
from kyanoscript.core.smooth import Coarse

BYTES = 40_000
Two = namedtuple("Two", "a b")


@dataclass(frozen=True)
class Found:
    where: Any
    name: str = "x"


def pixels():
    return np.zeros(BYTES // 4, np.float32)


@pytest.mark.parametrize(
    "make",
    [
        pixels,
        lambda: Coarse(pixels(), 0, 0, 1, 1),
        lambda: (pixels(),),
        lambda: [None, pixels()],
        lambda: {"sky": pixels()},
        lambda: Two(3, pixels()),
        lambda: Found(pixels()),
        lambda: (Found(SimpleNamespace(parts=[{"a": (pixels(), None)}])),),
    ],
    ids=["pixels", "coarse", "tuple", "list", "dict", "named", "dataclass", "nested"],
)
def test_pixels_count_in_whatever_they_are_kept(make):
    """Scenes and mended prints are put together of many planes: as something small they filled the memory."""
    cache = TileCache(10 * BYTES)
    for k in range(50):
        cache.make(k, make)
        assert (k + 1) * BYTES <= cache.used <= (k + 1) * BYTES * 1.1 or 8 * BYTES < cache.used <= 10 * BYTES
    there = [k for k in range(50) if cache.get(k) is not None]
    assert there == list(range(50 - len(there), 50))
    assert 8 <= len(there) <= 10
    cache.make("small", lambda: "a word")
    assert cache.get("small") == "a word"
    cache.limit_to(3 * BYTES)
    assert cache.used <= 3 * BYTES
    assert cache.get("small") is not None
