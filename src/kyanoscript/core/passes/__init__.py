"""Every pass: one file each, in folders by stage. A new file in a stage's folder is found by itself."""

from __future__ import annotations

import functools
import importlib
import pkgutil

from kyanoscript.core.passes.base import STAGES, Pass, find, registered

__all__ = ["STAGES", "Pass", "find", "load_all", "registered"]


@functools.cache
def load_all() -> dict[str, type[Pass]]:
    """Import every file of every stage; returns the passes by name, in the order of the stages."""
    for stage in STAGES:
        package = importlib.import_module(f"{__name__}.{stage}")
        for module in pkgutil.iter_modules(package.__path__):
            importlib.import_module(f"{package.__name__}.{module.name}")
    return registered()
