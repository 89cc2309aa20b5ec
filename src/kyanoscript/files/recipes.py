"""Recipes: plain pieces of script with a name, a group, one line of what they do, and which strengths are worth trying.

A recipe is a JSON script with one more entry, ``recipe``. Those that ship lie in ``kyanoscript/recipes``, a file each;
its name there is the recipe's word on the command line.
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable
from dataclasses import dataclass, replace
from importlib import resources
from pathlib import Path
from typing import Any

from kyanoscript.core.script import Script, ScriptError, from_json
from kyanoscript.files.errors import FileError, plain

GROUPS = ("plain", "toned", "inks", "metal", "effects")
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

    def on(self, script: Script) -> Script:
        """The recipe, and the script after it; its frame and its stencils are the script's."""
        return replace(script, passes=(*self.script.passes, *script.passes))


def read_recipe(path: Path) -> Recipe:
    """The recipe in a file. Raises FileError with one clear line."""
    try:
        with path.open("rb") as file:
            data = json.loads(file.read(_LIMIT))
    except OSError as wrong:
        raise plain(path, wrong, "reading it") from None
    except ValueError:
        raise FileError(path, "this is not a recipe: the JSON cannot be read", "Choose another file") from None
    if not isinstance(data, dict) or not isinstance(head := data.pop("recipe", None), dict):
        raise FileError(
            path, 'it is no recipe: it needs an entry "recipe" with its name', "Open it as a script instead"
        )
    try:
        script = from_json(data)
    except ScriptError as wrong:
        raise FileError(path, str(wrong), "Correct it there") from None
    return _recipe(path, head, script)


def _recipe(path: Path, head: dict[str, Any], script: Script) -> Recipe:
    words = {key: head.get(key, "") for key in ("name", "group", "about")}
    tries = head.get("try", [])
    if not all(isinstance(v, str) for v in words.values()) or not words["name"].strip():
        raise FileError(path, "its name, group and line must be words, and it must have a name", "Correct them there")
    kinds = [one.kind for one in script.passes]
    if not isinstance(tries, list) or any(word not in kinds for word in tries):
        raise FileError(path, "try must name passes of the recipe", "Correct it there")
    return Recipe(path.stem, words["name"], words["group"] or "own", words["about"], tuple(tries), script)


def bundled() -> list[Recipe]:
    """Every recipe that ships, group after group."""
    folder = resources.files("kyanoscript") / "recipes"
    found = [read_recipe(Path(str(file))) for file in folder.iterdir() if file.name.endswith(".json")]
    return sorted(found, key=lambda one: (GROUPS.index(one.group), one.name))


def find(word: str, recipes: Iterable[Recipe]) -> Recipe:
    """The recipe of that word or name. Raises ScriptError that names the nearest."""
    recipes = list(recipes)
    for one in recipes:
        if word.strip().lower() in (one.word, one.name.lower()):
            return one
    near = difflib.get_close_matches(word, [one.word for one in recipes], 1, 0.4)
    hint = f"; did you mean {near[0]!r}?" if near else f"; there are {', '.join(one.word for one in recipes)}"
    raise ScriptError(f"there is no recipe {word!r}{hint}")
