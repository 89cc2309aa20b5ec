"""The identity of passes: a short word that a pass keeps for life, so that two versions of a run can be compared.

It says nothing of what a pass does: passes that differ in nothing else are equal, and give the same pixels.
"""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Iterable

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script.walk import mapped, walk


def identified(run: tuple[Pass, ...]) -> tuple[Pass, ...]:
    """The run with a word for every pass that has none, or one that a pass before it has."""
    words = [step.id for step in walk(run)]
    if all(words) and len(set(words)) == len(words):
        return run
    seen: set[str] = set()

    def give(step: Pass) -> Pass:
        word = step.id
        while not word or word in seen:
            word = secrets.token_hex(4)
        seen.add(word)
        return step if word == step.id else step.model_copy(update={"id": word})

    return mapped(run, give)


def placed(run: Iterable[Pass], path: str = "") -> tuple[Pass, ...]:
    """For files that have none: words made from the places of the passes, the same at every reading."""
    made = []
    for k, step in enumerate(run):
        place = f"{path}/{k} {step.kind}"
        word = step.id or hashlib.sha256(place.encode()).hexdigest()[:8]
        if step.run or word != step.id:  # else it may be shared with another script
            step = step.model_copy(update={"id": word, "run": placed(step.run, place)})
        made.append(step)
    return tuple(made)


def fresh(run: Iterable[Pass]) -> tuple[Pass, ...]:
    """Copies that are passes of their own: doubled, pasted, or from a recipe."""
    return mapped(run, lambda step: step.model_copy(update={"id": ""}))
