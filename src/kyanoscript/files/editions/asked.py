"""The script that photographs are to be printed through."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path

from kyanoscript.core.script import Script, with_value
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.files.photos.photo import Photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.files.prints.out import shape_of


@dataclass(frozen=True)
class Asked:
    """The script that was asked for, and where it lies."""

    script: Script
    file: Path | None = None
    recipe: Recipe | None = None
    base: Script = field(default_factory=Script)  # what the recipe is laid on
    values: tuple[str, ...] = ()  # set afterwards

    def of(self, photo: Photo) -> Asked:
        """For one photograph: a recipe is suited to its print's shape."""
        if self.recipe is None:
            return self
        return self.at(shape_of(photo, self.script)[1])

    def at(self, shape: float) -> Asked:
        """For a print of a shape: width over height."""
        if self.recipe is None:
            return self
        return replace(self, script=with_values(self.recipe.on(self.base, shape), self.values))

    def pictures(self, photo: Path) -> Pictures:
        """Where its passes find other pictures."""
        return Pictures(photo, self.file)


def with_values(script: Script, values: Iterable[str]) -> Script:
    """A script with values set, one after another. Raises ScriptError."""
    for words in values:
        script = with_value(script, words)
    return script
