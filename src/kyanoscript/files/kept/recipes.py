"""Recipes: plain pieces of script with a name, a group, one line of what they do, and which strengths are worth trying.

A recipe is a JSON script with one more entry, ``recipe``. Those that ship lie in ``kyanoscript/recipes``, a file each;
its name there is the recipe's word on the command line. One's own lie in the data folder (XDG): see `cookbook`.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable
from dataclasses import dataclass, replace
from importlib import resources
from pathlib import Path
from typing import Any

from kyanoscript.core.frame import Frame
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.plate.plate import Plate
from kyanoscript.core.quoting import cut, quoted
from kyanoscript.core.script import Script, ScriptError, fresh, from_json, to_json
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import read_plain
from kyanoscript.translation import tr

GROUPS = ("plain", "toned", "inks", "metal", "effects", "scans")
OWN = "own"  # the group of a recipe that names none
NAME_LENGTH = 1000
_LIMIT = 1 << 20  # bytes of a recipe


@dataclass(frozen=True)
class Recipe:
    """A piece of script that people come for."""

    word: str  # by which it is asked for
    name: str
    group: str
    about: str  # one line
    tries: tuple[str, ...]  # the passes whose strengths are worth trying
    script: Script
    file: Path | None = None  # where it lies, if it is one's own

    def on(self, script: Script, shape: float = 1.5) -> Script:
        """The recipe, suited to a print of a shape (width over height), and the script after it."""
        return replace(script, passes=(*self._run(shape), *script.passes), frame=self._frame(script))

    def _run(self, shape: float) -> tuple[Pass, ...]:
        return tuple(step.suited(shape) for step in fresh(self.script.passes))

    def used(self, script: Script, strength: float = 100.0, added: bool = False, shape: float = 1.5) -> Script:
        """The script with the recipe in place of its passes, or ``added`` after them; a frame that was set stays.

        At less than full strength its passes lie in a plate of that strength: as much of the whole look, and no more.
        """
        run = self._run(shape)
        if strength < 100:
            run = (Plate(name=self.name[:NAME_LENGTH], run=run, strength=strength),)
        before = script.passes if added else ()
        return replace(script, passes=(*before, *run), frame=self._frame(script))

    def _frame(self, script: Script) -> Frame:
        """The script's frame; the recipe's only where nothing has been framed yet."""
        return self.script.frame if script.frame == Frame() else script.frame

    def to_json(self) -> dict[str, Any]:
        """As it is written into a file."""
        head = {"name": self.name, "group": self.group, "about": self.about, "try": list(self.tries)}
        return {"recipe": head, **to_json(self.script, identities=False)}


def read_recipe(path: Path) -> Recipe:
    """The recipe in a file. Raises FileError with one clear line."""
    return _parsed(path, read_plain(path, _LIMIT))


def written(recipe: Recipe) -> bytes:
    """The text of a recipe's file. Raises FileError where it could not be read again."""
    path = recipe.file or Path(recipe.name)
    try:
        text = (json.dumps(recipe.to_json(), indent=2, ensure_ascii=False) + "\n").encode()
    except UnicodeEncodeError:
        raise FileError(path, "its words hold letters that no file can", "Write them anew") from None
    _parsed(path, text)
    return text


def _parsed(path: Path, text: bytes) -> Recipe:
    if len(text) > _LIMIT:
        raise FileError(path, "this is too long for a recipe (over 1 MB)", "Choose another file")
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        raise FileError(path, "this is not a recipe: the JSON cannot be read", "Choose another file") from None
    if not isinstance(data, dict) or not isinstance(head := data.pop("recipe", None), dict):
        raise FileError(
            path, 'it is no recipe: it needs an entry "recipe" with its name', "Open it as a script instead"
        )
    try:
        script = from_json(data).settled()
    except ScriptError as wrong:
        raise FileError(path, str(wrong), "Correct it there") from None
    return _recipe(path, head, script)


def _recipe(path: Path, head: dict[str, Any], script: Script) -> Recipe:
    words = {key: head.get(key, "") for key in ("name", "group", "about")}
    tries = head.get("try", [])
    if not all(isinstance(v, str) for v in words.values()) or not words["name"].strip():
        raise FileError(path, "its name, group and line must be words, and it must have a name", "Correct them there")
    kinds = [recipe.kind for recipe in script.passes]
    if not isinstance(tries, list) or any(word not in kinds for word in tries):
        raise FileError(path, "try must name passes of the recipe", "Correct it there")
    return Recipe(path.stem, words["name"].strip(), words["group"].strip() or OWN, words["about"], tuple(tries), script)


def bundled() -> list[Recipe]:
    """Every recipe that ships, group after group."""
    folder = resources.files("kyanoscript") / "recipes"
    return in_order(read_recipe(Path(str(file))) for file in folder.iterdir() if file.name.endswith(".json"))


def in_order(recipes: Iterable[Recipe]) -> list[Recipe]:
    """Group after group, those that ship first; by name within a group."""

    def place(recipe: Recipe) -> tuple[int, str, str]:
        known = GROUPS.index(recipe.group) if recipe.group in GROUPS else len(GROUPS)
        return known, recipe.group.lower(), recipe.name.lower()

    return sorted(recipes, key=place)


def find(word: str, recipes: Iterable[Recipe]) -> Recipe:
    """The recipe of that word or name. Raises ScriptError that names the nearest."""
    recipes = list(recipes)
    for recipe in recipes:
        if word.strip().lower() in (recipe.word, recipe.name.lower()):
            return recipe
    near = difflib.get_close_matches(cut(word), [recipe.word for recipe in recipes], 1, 0.4)
    hint = (
        tr("; did you mean {near!r}?", near=near[0])
        if near
        else tr("; there are {join}", join=", ".join(recipe.word for recipe in recipes))
    )
    raise ScriptError(tr("there is no recipe {word}{hint}", word=quoted(word), hint=hint))
