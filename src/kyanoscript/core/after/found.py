"""One thing that was found of a print, and what passes make of a photograph."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kyanoscript.core import colour
from kyanoscript.core.after.picture import Array
from kyanoscript.core.colour import SRGB
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import ArraySource, Planes, Rect
from kyanoscript.core.render.renderer import Renderer
from kyanoscript.core.script import Script
from kyanoscript.translation import spoken


@dataclass(frozen=True)
class Found:
    """One thing that was found, and what it becomes."""

    key: str
    title: str
    words: str
    steps: tuple[Pass, ...]
    on: bool = True  # proposed; else only offered
    strength: float = 100.0


def laid(photo: Planes, steps: Sequence[Pass]) -> Planes:
    """A photograph ``(1 or 3, h, w)`` with passes on it."""
    renderer = Renderer(ArraySource(np.ascontiguousarray(np.moveaxis(photo, 0, -1))), Script(tuple(steps)))
    return renderer.region(Rect(0, 0, *renderer.size(1.0)))


def grays(photo: Planes, steps: Sequence[Pass]) -> Array:
    """The encoded grays ``(h, w)`` that they make of it."""
    return np.asarray(colour.gray_of(laid(photo, steps), SRGB)[0], float)


def nodes(curve: Sequence[tuple[float, float]]) -> str:
    """The points of a curve in words."""
    return ", ".join(f"{x:.0f}\N{NO-BREAK SPACE}\N{RIGHTWARDS ARROW}\N{NO-BREAK SPACE}{y:.0f}" for x, y in curve)


def told(step: Pass) -> str:
    """The values of a pass that are not as they are at first."""
    usual = type(step)()
    params = step.params()
    return ", ".join(
        f"{spoken(params[name].label).lower()} {params[name].says(value)}"
        for name, value in step
        if name in params and params[name].shown and value != getattr(usual, name)
    )
