"""What an edition is to be: photographs, what they are printed through, exceptions, and where it goes.

Or the numbered prints of one photograph, each with its number in its caption, and with grain of its own if that is
wanted.
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from pathlib import Path

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.render.alike import Tones, tones_of
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError, plain
from kyanoscript.files.base.opening import ENDINGS
from kyanoscript.files.editions.asked import Asked
from kyanoscript.files.editions.names import PLAIN, Pattern
from kyanoscript.files.editions.work import Task, file_of
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints.settings import Settings
from kyanoscript.translation import tr

_SEEDS = 9999  # there are
MOST_COPIES = 999


@dataclass(frozen=True)
class Plan:
    """An edition."""

    photos: tuple[Path, ...]
    asked: Asked
    folder: Path
    settings: Settings = field(default_factory=Settings)
    sheet: Sheet | None = None
    crop: bool = False
    pattern: str = PLAIN
    ending: str = "tif"
    known: Mapping[str, str | int] = field(default_factory=dict)  # values of the pattern beside the photograph's own
    exceptions: Mapping[Path, Asked] = field(default_factory=dict)  # photographs that are printed otherwise
    match: Tones | None = None  # that every print is brought to
    copies: int = 1  # numbered prints of the one photograph
    caption: str = ""  # of numbered prints, as {n}/{count}
    own_grain: bool = False  # each numbered print has grain of its own

    def tasks(self) -> list[Task]:
        """Each print. Raises ValueError, in words."""
        if not 1 <= self.copies <= MOST_COPIES:
            raise ValueError(
                tr("copies are {copies}; there may be 1…{most_copies}", copies=self.copies, most_copies=MOST_COPIES)
            )
        if self.copies > 1 and len(self.photos) != 1:
            raise ValueError(tr("numbered prints are of one photograph, and here are {count}", count=len(self.photos)))
        if self.caption and (self.sheet is None or self.copies == 1):
            raise ValueError(
                tr("a caption is of numbered prints on a sheet; say how many with --copies, and which with --sheet")
            )
        if self.ending == "pdf" and self.sheet is None:
            raise ValueError(tr("a PDF is of a sheet; name one with --sheet, or choose another format"))
        photos = [Path(os.path.abspath(photo)) for photo in self.photos] * self.copies
        folder = Path(os.path.abspath(self.folder))
        exceptions = {Path(os.path.abspath(photo)): asked for photo, asked in self.exceptions.items()}
        for photo in exceptions:
            if photo not in photos:
                raise ValueError(tr("{name} is to be an exception, and is none of the photographs", name=photo.name))
        for photo in photos:
            if file_of(photo).parent.resolve() == folder.resolve():
                raise ValueError(
                    tr("{name} lies in the folder that prints go to; choose another folder", name=photo.name)
                )
        names = Pattern(numbered(self.pattern, self.copies), self.ending).names(photos, dict(self.known))
        return [self._task(k, photo, folder / name, exceptions.get(photo))
                for k, (photo, name) in enumerate(zip(photos, names, strict=True), 1)]  # fmt: skip

    def _task(self, number: int, photo: Path, target: Path, exception: Asked | None) -> Task:
        asked, sheet = exception or self.asked, self.sheet
        if asked.file is not None:
            asked = replace(asked, file=Path(os.path.abspath(asked.file)))
        if self.own_grain and self.copies > 1:
            asked = replace(asked, script=_seeded(asked.script, number - 1), base=_seeded(asked.base, number - 1))
        if sheet is not None and self.caption:
            words = self.caption.replace("{n}", str(number)).replace("{count}", str(self.copies))
            sheet = sheet.with_values(caption=words)
        match = self.match if exception is None else None
        return Task(number, photo, target, asked, self.settings, sheet, crop=self.crop, match=match)


def tones_through(photo: Path, asked: Asked) -> Tones:
    """Those of a photograph's print, that others are brought to. Raises FileError."""
    opened = open_photo(photo, hold=False)
    mine = asked.of(opened)
    return tones_of(opened.source, mine.script, mine.pictures(opened.path))


def numbered(pattern: str, copies: int) -> str:
    """How prints are named, where there are several of one photograph: with their number."""
    return pattern if copies == 1 or re.search(r"\{n[:}]", pattern) is not None else f"{pattern}-{{n:03}}"


def _seeded(script: Script, more: int) -> Script:
    """The script with every seed of chance so much further on."""
    passes = tuple(
        step.with_(seed=(int(step.seed) - 1 + more) % _SEEDS + 1) if "seed" in step.params() else step  # type: ignore[attr-defined]  # it is there
        for step in script.passes
    )
    return replace(script, passes=passes)


def photographs(named: Iterable[Path]) -> list[Path]:
    """Photographs of what was named: files, folders (those in them by name, not deeper), and ``@list``, a file with one
    on each line. Raises FileError."""
    found: list[Path] = []
    for path in named:
        text = str(path)
        if text.startswith("@") and not path.exists():
            found += photographs(_listed(Path(text[1:])))
        elif path.is_dir():
            inside = sorted(one for one in path.iterdir() if _is_photograph(one))
            if not inside:
                raise FileError(path, "there is no photograph in this folder", "Name another folder")
            found += inside
        else:
            found.append(path)
    return found


def _is_photograph(path: Path) -> bool:
    return path.suffix.lower() in ENDINGS and not path.name.startswith(".") and path.is_file()


def _listed(path: Path) -> list[Path]:
    try:
        lines = path.read_text("utf-8", "surrogateescape").splitlines()
    except OSError as error:
        raise plain(path, error, "reading") from error
    names = [Path(line.strip()) for line in lines if line.strip() and not line.startswith("#")]
    return [name if name.is_absolute() else path.parent / name for name in names]
