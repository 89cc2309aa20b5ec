"""Pillow's guard against pictures that are far larger than their files, lifted for the length of one call.

Sizes are checked here before anything is decoded, with words that say what to do (`photo.check_size`). Whoever else
uses the library in this process keeps its guard.
"""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator

_lock = threading.Lock()
_inside = 0
_guard: int | None = None


@contextlib.contextmanager
def unguarded() -> Iterator[None]:
    """Within it pictures of any size are opened, in whichever thread; after the last of several the guard is back."""
    global _inside, _guard
    from PIL import Image

    with _lock:
        if not _inside:
            _guard, Image.MAX_IMAGE_PIXELS = Image.MAX_IMAGE_PIXELS, None
        _inside += 1
    try:
        yield
    finally:
        with _lock:
            _inside -= 1
            if not _inside:
                Image.MAX_IMAGE_PIXELS = _guard
