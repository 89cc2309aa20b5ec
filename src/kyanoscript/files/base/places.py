"""Where the program keeps what is its own."""

from __future__ import annotations

import os
from pathlib import Path


def folder() -> Path:
    """The state folder; it may not exist yet."""
    return _own("KYANOSCRIPT_STATE", "user_state_path")


def cache() -> Path:
    """The cache folder, of things that can be made again; it may not exist yet."""
    return _own("KYANOSCRIPT_CACHE", "user_cache_path")


def data(kind: str) -> Path:
    """Where one's own recipes, sheets or processes lie; it may not exist yet."""
    return _own("KYANOSCRIPT_DATA", "user_data_path") / kind


def shared() -> Path:
    """Where the desktop keeps what programs share: the data folder of the XDG Base Directory Specification."""
    named = os.environ.get("XDG_DATA_HOME", "")
    return Path(named) if named.startswith("/") else Path.home() / ".local" / "share"


def _own(variable: str, kind: str) -> Path:
    if named := os.environ.get(variable):
        return Path(named)
    import platformdirs

    return Path(getattr(platformdirs, kind)("kyanoscript"))
