"""Every pass: one file each, in folders by stage. A new file in a stage's folder is found by itself; those of other
packages are too, see `others`."""

from __future__ import annotations

import functools
import importlib
import pkgutil
from pathlib import Path

from kyanoscript.core.passes.base import STAGES, Pass, find, registered
from kyanoscript.core.passes.others import load_others, missing

__all__ = ["STAGES", "Pass", "find", "load_all", "load_others", "missing", "named", "registered"]


def named(kind: str) -> type[Pass] | None:
    """The pass of that name, or None. Of all files only its own is imported where it is called like it, as a rule."""
    file = kind.replace("-", "_")
    if find(kind) is None and file in _stage_of_file():
        importlib.import_module(f"{__name__}.{_stage_of_file()[file]}.{file}")
    if find(kind) is None:
        load_all()
    return find(kind)


@functools.cache
def _stage_of_file() -> dict[str, str]:
    return {path.stem: stage for stage in STAGES for path in (Path(__path__[0]) / stage).glob("[!_]*.py")}


@functools.cache
def load_all() -> dict[str, type[Pass]]:
    """Imports every file of every stage, then what other packages have; all by name, in the order of the stages."""
    for stage in STAGES:
        package = importlib.import_module(f"{__name__}.{stage}")
        for module in pkgutil.iter_modules(package.__path__):
            importlib.import_module(f"{package.__name__}.{module.name}")
    load_others()
    return registered()
