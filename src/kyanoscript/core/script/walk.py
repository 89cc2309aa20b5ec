"""Going through a run and the runs of the plates in it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from kyanoscript.core.passes.base import Pass


def walk(run: Iterable[Pass], into: Callable[[Pass], bool] = lambda step: True) -> Iterator[Pass]:
    """Every pass of a run, each before those of its own run; with ``into`` only those, and within those, that fit."""
    for step in run:
        if into(step):
            yield step
            yield from walk(step.run, into)


def acting(step: Pass) -> bool:
    """For `walk`: passes that can change anything, and are not within one that cannot."""
    return step.acts


def mapped(run: Iterable[Pass], change: Callable[[Pass], Pass]) -> tuple[Pass, ...]:
    """A run with every pass in it changed, those of plates first; what stays as it is remains the same object."""
    return tuple(_mapped(step, change) for step in run)


def _mapped(step: Pass, change: Callable[[Pass], Pass]) -> Pass:
    if step.run:
        inner = mapped(step.run, change)
        if any(a is not b for a, b in zip(inner, step.run, strict=True)):
            step = step.model_copy(update={"run": inner})
    return change(step)
