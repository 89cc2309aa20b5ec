"""Everything that renders made ready at once, before the first picture needs it."""

from __future__ import annotations

from collections.abc import Callable

from kyanoscript.core import kernel, passes
from kyanoscript.core.render import renderer

__all__ = ["prepare", "renderer"]


def prepare(progress: Callable[[float], None] = lambda share: None) -> None:
    """Import every pass and load every kernel, building what is not there: see `kyanoscript.core.kernel.load`."""
    passes.load_all()
    kernel.load(progress)
