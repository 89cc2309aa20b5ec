"""An edition as it is put together in the window: photographs in their order, exceptions, and how all of it is printed.

It is kept in the state folder whenever it changes, so that after any end it is gone on with where it was.
"""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from kyanoscript.core.frame import Frame
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.render.alike import Tones
from kyanoscript.core.script import Script, ScriptError, from_json, to_json
from kyanoscript.core.script.complaint import read
from kyanoscript.core.script.json import LONGEST, sheet_from_json
from kyanoscript.files.base import log
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.places import folder as state_folder
from kyanoscript.files.base.replace import replacing
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.editions.names import PLAIN
from kyanoscript.files.editions.plan import Plan
from kyanoscript.files.editions.work import Task
from kyanoscript.files.kept.cookbook import Cookbook
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.files.prints.settings import Settings
from kyanoscript.translation import tr

_VERSION = 1
MOST = 100_000  # photographs


@dataclass(frozen=True)
class Entry:
    """A photograph of an edition."""

    photo: Path
    out: bool = False  # it is left out
    own: Script | None = None  # what it is printed through instead of what all the others are


@dataclass(frozen=True)
class Edition:
    """All of one."""

    entries: tuple[Entry, ...] = ()
    asked: Asked = field(default_factory=lambda: Asked(Script()))
    whence: str = ""  # where the script is from, in words; empty: there is none yet
    stem: str = ""  # the script's name, in names of prints
    state: str = ""  # the state's number there
    framed: bool = True  # the script's frame is every photograph's
    settings: Settings = field(default_factory=Settings)
    ending: str = "tif"
    pattern: str = PLAIN
    folder: Path | None = None  # that prints go to
    sheet_name: str = ""
    sheet: Sheet | None = None  # that each print is laid on
    crop: bool = False
    leaves: bool = False  # a file that is there already stays as it is, whatever it is
    match: Path | None = None  # the photograph whose print's tones all others are brought to
    tones: Tones | None = None  # which they are; None until they are known
    copies: int = 1
    caption: str = ""
    own_grain: bool = False
    jobs: int = 0  # 0: as many as there is room for
    cluster: str = ""  # its scheduler's address; empty: this machine

    @property
    def included(self) -> tuple[Entry, ...]:
        """Those that are not left out."""
        return tuple(entry for entry in self.entries if not entry.out)

    def asked_for(self, entry: Entry) -> Asked:
        """What a photograph is printed through."""
        if entry.own is not None:
            return Asked(entry.own, self.asked.file)
        if self.framed:
            return self.asked
        script, base = (replace(one, frame=Frame()) for one in (self.asked.script, self.asked.base))
        return replace(self.asked, script=script, base=base)

    def tasks(self) -> list[Task]:
        """Each print, of those that are not left out. Raises ValueError, in words: what is missing, or cannot be."""
        if not self.included:
            raise ValueError(
                tr("there are no photographs yet") if not self.entries else tr("every photograph is left out")
            )
        if not self.whence:
            raise ValueError(tr("choose what they are printed through"))
        if self.folder is None:
            raise ValueError(tr("choose the folder that prints go to"))
        own = {entry.photo: self.asked_for(entry) for entry in self.included if entry.own is not None}
        recipe = self.asked.recipe.word if self.asked.recipe is not None else ""
        plan = Plan(
            tuple(entry.photo for entry in self.included), self.asked_for(Entry(Path())), self.folder, self.settings,
            self.sheet, self.crop, self.pattern, self.ending,
            {"script": self.stem, "state": self.state, "recipe": recipe}, own, self.tones, self.copies,
            self.caption if self.copies > 1 and self.sheet is not None else "", self.own_grain,
        )  # fmt: skip
        return plan.tasks()


# Kept between starts


def keep(edition: Edition) -> None:
    """Leave it for the next start. Raises FileError."""
    path = _place()
    path.parent.mkdir(parents=True, exist_ok=True)
    with replacing(path, own=True) as file:
        file.write(json.dumps(told(edition)).encode("utf-8", "surrogateescape"))


def recall() -> Edition | None:
    """As it was left; None if there is none, or none that can be read."""
    try:
        with _place().open("rb") as file:
            return untold(json.loads(file.read(2 * LONGEST)), Cookbook().read().recipes)
    except FileNotFoundError:
        return None
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError, ScriptError, FileError) as error:
        log.note("the last edition could not be read", error)
        return None


def _place() -> Path:
    return state_folder() / "edition.json"


_WORDS = ("whence", "stem", "state", "ending", "pattern", "sheet_name", "caption", "cluster")
_SWITCHES = ("framed", "crop", "leaves", "own_grain")
_NUMBERS = ("copies", "jobs")


def told(edition: Edition) -> dict[str, Any]:
    """As plain data."""
    asked, tones = edition.asked, edition.tones
    return {
        "kyanoscript-edition": _VERSION,
        "entries": [
            {"photo": str(e.photo), "out": e.out, "own": to_json(e.own) if e.own is not None else None}
            for e in edition.entries
        ],
        "script": to_json(asked.script), "file": str(asked.file) if asked.file is not None else None,
        "recipe": asked.recipe.word if asked.recipe is not None else None,
        "settings": edition.settings.plain(),
        "sheet": edition.sheet.plain() if edition.sheet is not None else None,
        "folder": str(edition.folder) if edition.folder is not None else None,
        "match": str(edition.match) if edition.match is not None else None,
        "tones": [tones.mean, tones.spread] if tones is not None else None,
        **{name: getattr(edition, name) for name in (*_WORDS, *_SWITCHES, *_NUMBERS)},
    }  # fmt: skip


def untold(data: dict[str, Any], recipes: Iterable[Recipe]) -> Edition:
    """From plain data. Raises ValueError, KeyError, TypeError, ScriptError for what is none."""
    if data["kyanoscript-edition"] != _VERSION:
        raise ValueError(tr("of another version"))
    entries = tuple(
        Entry(Path(e["photo"]), bool(e["out"]), from_json(e["own"]) if e["own"] is not None else None)
        for e in data["entries"][:MOST]
    )
    recipe = next((one for one in recipes if one.word == data["recipe"]), None)
    asked = Asked(from_json(data["script"]), _path(data["file"]), recipe)
    tones = data["tones"]
    plain: dict[str, Any] = {
        **{name: str(data[name]) for name in _WORDS}, **{name: bool(data[name]) for name in _SWITCHES},
        **{name: max(0, int(data[name])) for name in _NUMBERS},
    }  # fmt: skip
    return Edition(
        entries, asked,
        settings=read(Settings, data["settings"], "settings"),
        sheet=sheet_from_json(data["sheet"]) if data["sheet"] is not None else None,
        folder=_path(data["folder"]), match=_path(data["match"]),
        tones=Tones(float(tones[0]), float(tones[1])) if tones is not None else None,
        **plain,
    )  # fmt: skip


def _path(text: str | None) -> Path | None:
    return Path(text) if text is not None else None
