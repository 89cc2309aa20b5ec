"""Passes, their starts and recipes, found by what people call them.

What is typed is held against names first, then against words of the trade (`kyanoscript.core.words`), then against what
each is for. Of several words all have to be found.
"""

from __future__ import annotations

import functools
import json
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from importlib import resources

from kyanoscript.core import passes, words
from kyanoscript.core.passes.base import Pass
from kyanoscript.translation import spoken

RECIPE = "recipe "  # what the address of a recipe begins with
_APART = ": "  # between a pass and a start of it


@dataclass(frozen=True)
class Thing:
    """A pass, a start of one, or a recipe."""

    address: str  # ``levels``, ``levels: matte, raised blacks``, ``recipe lith-warm``
    name: str
    about: str
    more: str = ""  # other words of its own
    of: str = ""  # a start: the name of its pass

    @property
    def words(self) -> str:
        """All that is said of it, in English and in the person's language, in small letters."""
        told = (self.of, self.name, self.about, self.more)
        return _plain(" ".join((*told, *map(spoken, told))))

    @property
    def names(self) -> tuple[str, ...]:
        """What it is called, in English and in the person's language."""
        return tuple({_plain(self.name), _plain(spoken(self.name))})


def passes_and_starts() -> list[Thing]:
    """All of them, each pass before its starts."""
    found = []
    for kind, model in passes.load_all().items():
        found.append(Thing(kind, model.label, model.about, f"{kind} {model.stage} {model.use} {model.beware}"))
        found += [Thing(f"{kind}{_APART}{start}", start, model.use, of=model.label) for start in model.starts]
    return found


def recipe(word: str, name: str, about: str, group: str) -> Thing:
    """A recipe as something to be found."""
    return Thing(f"{RECIPE}{word}", name, about, group)


def pass_of(address: str) -> Pass | None:
    """The pass that an address means, with the values of its start; None for a recipe, and for what there is not."""
    kind, _, start = address.partition(_APART)
    model = passes.load_all().get(kind)
    if model is None or (start and start not in model.starts):
        return None
    return model(**model.starts[start]) if start else model()


@functools.cache
def trade(language: str = "en") -> dict[str, tuple[str, ...]]:
    """Words of the trade in a language, and the addresses of what they may mean; of an unknown language none."""
    file = resources.files(words).joinpath(f"{language}.json")
    if not file.is_file():
        return {}
    told = json.loads(file.read_text(encoding="utf-8"))["words"]
    return {word: tuple(addresses) for word, addresses in told.items()}


def found(asked: str, things: Iterable[Thing], language: str = "en") -> list[Thing]:
    """What fits, the nearest first."""
    asked = _plain(asked)
    if not asked:
        return []
    meant = _meant(asked, language)
    ranked = []
    for k, thing in enumerate(things):
        rank = _rank(asked, thing, meant)
        if rank is not None:
            ranked.append((*rank, k, thing))
    return [thing for *_, thing in sorted(ranked, key=lambda entry: entry[:3])]


def _rank(asked: str, thing: Thing, meant: dict[str, tuple[int, int]]) -> tuple[int, int] | None:
    """How near it is, and which of those that are as near it is; None: not at all."""
    names = thing.names
    if asked in names:
        return 0, 0
    trade_rank = meant.get(thing.address)
    if trade_rank is not None and trade_rank[0] == 0:  # the very word
        return 1, trade_rank[1]
    if any(name.startswith(asked) for name in names):
        return 2, 0
    if any(word.startswith(asked) for name in names for word in name.split()):
        return 3, 0
    if trade_rank is not None:
        return 4, trade_rank[1]
    if any(asked in name for name in names):
        return 5, 0
    every = thing.words
    return (6, 0) if all(word in every for word in asked.split()) else None


def _meant(asked: str, language: str) -> dict[str, tuple[int, int]]:
    """What words of the trade mean that are what was asked, begin so, or have it; how near, and in what place."""
    found: dict[str, tuple[int, int]] = {}
    for word, addresses in trade(language).items():
        told = _plain(word)
        near = 0 if told == asked else 1 if told.startswith(asked) or asked.startswith(f"{told} ") else None
        if near is None and len(asked) > 2 and any(part.startswith(asked) for part in told.split()):
            near = 2
        if near is None:
            continue
        for place, address in enumerate(addresses):
            rank = (near, place)
            found[address] = min(found.get(address, rank), rank)
    return found


def _plain(text: str) -> str:
    """Small letters without accents, and nothing but letters, figures and single spaces."""
    apart = unicodedata.normalize("NFKD", text.casefold())
    bare = "".join(c if c.isalnum() else " " for c in apart if not unicodedata.combining(c))
    return " ".join(bare.split())
