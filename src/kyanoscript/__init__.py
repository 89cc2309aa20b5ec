"""Kyanoscript: monochrome, toned and hand-tinted prints from photographs, worked by eye.

For other programs, without a window: see `kyanoscript.library`, whose names are names of the package itself.
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

__version__ = "0.1.0"

if TYPE_CHECKING:
    from kyanoscript.library import (
        FileError,
        Photo,
        Recipe,
        Script,
        ScriptError,
        after,
        open,
        passes,
        read_script,
        recipes,
        render,
        seek,
    )

__all__ = [
    "FileError",
    "Photo",
    "Recipe",
    "Script",
    "ScriptError",
    "after",
    "open",
    "passes",
    "read_script",
    "recipes",
    "render",
    "seek",
]


def __getattr__(name: str) -> Any:
    """What `library` offers, once it is asked for: whoever wants a window or one command waits for none of it."""
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    from kyanoscript import library

    return getattr(library, name)


def __dir__() -> list[str]:
    return [*globals(), *__all__]
