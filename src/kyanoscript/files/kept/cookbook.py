"""One's own recipes: a folder of files, in which everything that is done can be taken back.

The folder lies in the user's data folder (XDG). A file there that is no recipe is named and left alone. All of this
waits for the disk: the window calls it from its thread for files.
"""

from __future__ import annotations

import contextlib
import re
import unicodedata
from dataclasses import dataclass, replace
from pathlib import Path

from kyanoscript.core.past import Past
from kyanoscript.files.base import places
from kyanoscript.files.base.errors import FileError, plain
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.base.trash import throw_away
from kyanoscript.files.kept.recipes import Recipe, bundled, in_order, read_recipe, written
from kyanoscript.translation import tr

_MOST = 2000  # files that are looked at


def folder() -> Path:
    """Where one's own recipes lie; it may not exist yet."""
    return places.data("recipes")


@dataclass(frozen=True)
class Contents:
    """Every recipe there is, and what is wrong with the files that are none."""

    recipes: tuple[Recipe, ...] = ()
    broken: tuple[str, ...] = ()  # a line for each


@dataclass(frozen=True)
class _Change:
    """One file before and after; None where there was none."""

    path: Path
    before: bytes | None
    after: bytes | None


class Cookbook:
    """Keeps, changes and removes one's own recipes."""

    def __init__(self) -> None:
        self._ships = tuple(bundled())
        self._past: Past[_Change | None] = Past(None)

    def read(self) -> Contents:
        """The recipes that ship and one's own, group after group."""
        own, broken = [], []
        words = {recipe.word for recipe in self._ships}
        try:
            files = sorted(folder().glob("*.json"))[:_MOST]
        except OSError as wrong:
            files, broken = [], [str(plain(folder(), wrong, "reading it"))]
        for file in files:
            try:
                found = read_recipe(file)
            except FileError as wrong:
                broken.append(str(wrong))
            else:
                own.append(replace(found, word=_free(found.word, words), file=file))
                words.add(own[-1].word)
        return Contents(tuple(in_order((*self._ships, *own))), tuple(broken))

    def keep(self, recipe: Recipe) -> Recipe:
        """Write a new recipe into the folder, with its word. Raises FileError."""
        path = self._path(recipe.name)
        made = replace(recipe, word=path.stem, file=path)
        self._do(tr("keep {name}", name=recipe.name), _Change(path, None, written(made)))
        return made

    def change(self, recipe: Recipe, name: str, about: str, group: str) -> None:
        """Another name, note or group for one of one's own. Raises FileError."""
        path = _own(recipe)
        made = replace(recipe, name=name, about=about, group=group)
        self._do(tr("rename {name}", name=recipe.name), _Change(path, _bytes(path), written(made)))

    def remove(self, recipe: Recipe) -> None:
        """Take one of one's own away. Raises FileError."""
        path = _own(recipe)
        self._do(tr("delete {name}", name=recipe.name), _Change(path, _bytes(path), None))

    def bring_in(self, path: Path) -> Recipe:
        """Copy a recipe's file into the folder. Raises FileError if it is none."""
        return self.keep(read_recipe(path))

    def send_out(self, recipe: Recipe, path: Path) -> None:
        """Write a recipe into a file anywhere. Raises FileError."""
        with replacing(path) as file:
            file.write(written(recipe))

    # Taking back

    @property
    def undo_label(self) -> str:
        """What undo would take back; empty if nothing."""
        return self._past.words[0]

    @property
    def redo_label(self) -> str:
        """What redo would do again; empty if nothing."""
        return self._past.words[1]

    def undo(self) -> None:
        """Take the last change back. Raises FileError, and leaves the file, if another program has changed it since."""
        change = self._past.present.value
        if change is not None:
            _put(change.path, change.after, change.before)
            self._past.take_back()

    def redo(self) -> None:
        """Do again what was taken back. Raises FileError."""
        change = self._past.following.value if self._past.following is not None else None
        if change is not None:
            _put(change.path, change.before, change.after)
            self._past.do_again()

    def _do(self, label: str, change: _Change) -> None:
        _put(change.path, change.before, change.after)
        self._past.do(label, change)

    def _path(self, name: str) -> Path:
        """A file name that is free, made from the recipe's name."""
        plain_name = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
        stem = re.sub("[^a-z0-9]+", "-", plain_name).strip("-")[:60] or "recipe"
        taken = {recipe.word for recipe in self._ships}
        with contextlib.suppress(OSError):
            taken |= {file.stem for file in folder().glob("*.json")}
        return folder() / f"{_free(stem, taken)}.json"


def _own(recipe: Recipe) -> Path:
    if recipe.file is None:
        raise FileError(recipe.name, "it ships with the program and stays as it is", "Keep a copy of your own instead")
    return recipe.file


def _free(word: str, taken: set[str]) -> str:
    """A word that is not taken: itself, or with a number."""
    if word not in taken:
        return word
    return next(made for k in range(2, len(taken) + 3) if (made := f"{word}-{k}") not in taken)


def _bytes(path: Path) -> bytes | None:
    try:
        return path.read_bytes()
    except FileNotFoundError:
        return None
    except OSError as wrong:
        raise plain(path, wrong, "reading it") from None


def _put(path: Path, before: bytes | None, after: bytes | None) -> None:
    """Write a file, or take it away, if it still is as it was."""
    if _bytes(path) != before:
        raise FileError(path, "another program has changed it since", "Nothing was done")
    try:
        if after is None:
            throw_away(path)
            return
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as wrong:
        raise plain(path, wrong, "writing") from None
    with replacing(path) as file:
        file.write(after)
