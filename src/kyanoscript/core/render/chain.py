"""Passes one after another on what they start from."""

from __future__ import annotations

from collections.abc import Callable

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.picture import Planes, Rect


class Link:
    """One acting pass of a chain."""

    def __init__(self, key: int, step: Pass, plate: Chain | None = None, outline: Chain | None = None) -> None:
        self.key = key
        self.step = step
        self.plate = plate  # what a plate prints
        self.outline = outline  # its alpha, where it has one


class Chain:
    """Passes one after another on a base."""

    def __init__(self, base: Callable[[Rect, float], Planes], key: int, planes: int, borrows: bool) -> None:
        self.base = base
        self.borrows = borrows  # the base is another chain's print, which that chain keeps already
        self.base_key = key
        self.links: list[Link] = []
        self.planes = [planes]  # how many there are at most after each step
        self.after = [0]  # how many acting passes lie before each place in the run

    def key(self, upto: int) -> int:
        """What stands for everything up to a step."""
        return self.links[upto - 1].key if upto else self.base_key


def alone(step: Pass) -> bool:
    """Whether a pass works out each pixel from that pixel alone."""
    return step.pointwise and type(step).margin is Pass.margin


def planes_after(step: Pass, before: int, plate: Chain | None) -> int:
    """How many planes there can be after a pass."""
    if plate is not None:
        top = plate.planes[-1]
    elif step.grays() or (before == 1 and not step.colours()):
        top = 1
    else:
        top = 3
    wholly = step.blend == "normal" and step.strength == 100 and step.where is None and plate is None
    return top if wholly else max(before, top)
