"""Names of prints by a pattern, as ``{name}-{n:03}``: never two alike."""

from __future__ import annotations

import re
from collections.abc import Iterable
from pathlib import Path

from kyanoscript.core.quoting import quoted
from kyanoscript.core.script.complaint import nearest
from kyanoscript.translation import tr

FIELDS = {
    "name": "the photograph's name", "folder": "the folder that it lies in", "n": "its number, from 1",
    "count": "how many there are", "script": "the script's name", "state": "the state's number",
    "recipe": "the recipe's name",
}  # fmt: skip
PLAIN = "{name}"
_PART = re.compile(r"\{\{|\}\}|\{([^{}]*)\}|[{}]")
_WIDTH = re.compile(r"0?[1-9]?")
_LONGEST = 200  # bytes of a name: systems take 255, and temporary files are named after it


class Pattern:
    """How prints are named. Raises ValueError, in words, for a pattern that cannot be."""

    def __init__(self, text: str, ending: str) -> None:
        self.text, self.ending = text, ending.lstrip(".")
        self._parts = list(self._parsed(text))
        if not self.text.strip():
            raise ValueError(tr("a pattern of names is empty; write it as {plain} or {plain}-{{n:03}}", plain=PLAIN))

    def _parsed(self, text: str) -> Iterable[tuple[str, str]]:
        """Words, and fields with their widths: ``("", words)`` or ``(field, width)``."""
        at = 0
        for found in _PART.finditer(text):
            yield "", text[at : found.start()]
            at = found.end()
            whole = found[0]
            if whole in ("{{", "}}"):
                yield "", whole[0]
                continue
            if found[1] is None:
                raise ValueError(
                    tr("{text} has a brace that is alone; fields are {known}", text=quoted(text), known=_known())
                )
            name, _, width = found[1].partition(":")
            if name not in FIELDS:
                raise ValueError(
                    tr(
                        "{text}: there is no {{{name}}}{name2}; there are {known}",
                        text=quoted(text),
                        name=name,
                        name2=nearest(name, FIELDS),
                        known=_known(),
                    )
                )
            if width and (name not in ("n", "count") or not _WIDTH.fullmatch(width)):
                raise ValueError(tr("{text}: only {{n}} and {{count}} have a width, as {{n:03}}", text=quoted(text)))
            yield name, width
        yield "", text[at:]

    def name(self, values: dict[str, str | int]) -> str:
        """One name, with its ending; what no file's name can hold is left out."""
        made = "".join(format(values.get(name, ""), width) if name else width for name, width in self._parts)
        made = re.sub(r"[/\x00-\x1f]+", "-", made).strip(" .")
        while len(made.encode("utf-8", "surrogateescape")) > _LONGEST:
            made = made[:-1]
        return f"{made or 'print'}.{self.ending}"

    def names(self, photos: Iterable[Path], known: dict[str, str | int]) -> list[str]:
        """A name for each photograph; one that another has already, however it is written, gets a number."""
        every = list(photos)
        taken: set[str] = set()
        made = []
        for k, photo in enumerate(every):
            values = {
                **known,
                "name": photo.stem,
                "folder": photo.resolve().parent.name,
                "n": k + 1,
                "count": len(every),
            }
            name = first = self.name(values)
            more = 2
            while name.casefold() in taken:
                stem = first[: -len(self.ending) - 1]
                name, more = f"{stem}-{more}.{self.ending}", more + 1
            taken.add(name.casefold())
            made.append(name)
        return made


def _known() -> str:
    return ", ".join(f"{{{name}}}" for name in FIELDS)
