"""Where the program keeps what is its own."""

from __future__ import annotations

import os
from pathlib import Path

import platformdirs


def folder() -> Path:
    """The state folder; it may not exist yet."""
    return Path(os.environ.get("KYANOSCRIPT_STATE") or platformdirs.user_state_path("kyanoscript"))


def cache() -> Path:
    """The cache folder, of things that can be made again; it may not exist yet."""
    return Path(os.environ.get("KYANOSCRIPT_CACHE") or platformdirs.user_cache_path("kyanoscript"))


def data(kind: str) -> Path:
    """Where one's own recipes, sheets or processes lie; it may not exist yet."""
    return Path(os.environ.get("KYANOSCRIPT_DATA") or platformdirs.user_data_path("kyanoscript")) / kind
