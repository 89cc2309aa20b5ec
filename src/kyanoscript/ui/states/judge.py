"""Judging blind: pairs on the wall without names, in places by chance; then the ranking."""

from __future__ import annotations

import functools
import random
from collections.abc import Sequence

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout

from kyanoscript.core.judging import Rank, Round, enough, next_pair, ranking
from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.easel.wall import Piece
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage

_WORDS = (
    "Two of the prints, without names, in places by chance. Press the better one, or Left or Right; Down if neither "
    "is. The eye decides, not the memory of the work."
)


class Judge(QObject):
    """The rounds, and the page beside them."""

    pair = Signal(object)  # the two Pieces that are to be seen
    over = Signal()
    noted = Signal(object)  # by item: a line for its notes

    def __init__(self) -> None:
        super().__init__()
        self.pieces: tuple[Piece, ...] = ()
        self.rounds: list[Round] = []
        self.now = (0, 1)
        self.dice = random.Random()
        self.showing = False  # the ranking
        self.page = JudgePage()
        self.page.acts = {
            "left": lambda: self.choose(0),
            "right": lambda: self.choose(1),
            "neither": lambda: self.choose(None),
            "rank": self.rank,
            "again": self._on,
            "note": self._note,
            "done": self.over.emit,
        }

    def begin(self, pieces: Sequence[Piece]) -> None:
        """Judge these."""
        self.pieces, self.rounds = tuple(pieces), []
        self._on()

    def _on(self) -> None:
        self.showing = False
        self.now = next_pair(self.rounds, len(self.pieces), self.dice)
        self.page.show_round(len(self.rounds), enough(len(self.pieces)))
        self.pair.emit(tuple(self.pieces[k] for k in self.now))

    def choose(self, side: int | None) -> None:
        """0: the left one is better, 1: the right one, None: neither."""
        if not self.showing and self.pieces:
            self.rounds.append(Round(*self.now, side))
            self._on()

    def take_back(self) -> None:
        """The last round does not count."""
        if self.rounds and not self.showing:
            last = self.rounds.pop()
            self.now = last.first, last.second
            self.page.show_round(len(self.rounds), enough(len(self.pieces)))
            self.pair.emit(tuple(self.pieces[k] for k in self.now))

    def pairs(self) -> list[tuple[Script, Script]]:
        """What was judged so far, the better first; rounds with neither better left out."""
        return [
            (self.pieces[(r.first, r.second)[r.better]].script, self.pieces[(r.second, r.first)[r.better]].script)
            for r in self.rounds
            if r.better is not None
        ]

    def ranks(self) -> list[Rank]:
        """The ranking so far."""
        return ranking(self.rounds, len(self.pieces))

    def rank(self) -> None:
        """Show it."""
        self.showing = True
        rows = [(_title(self.pieces[rank.which]), _certain(rank)) for rank in self.ranks()]
        self.page.show_ranks(rows, len(self.rounds), any(piece.number for piece in self.pieces))

    def _note(self) -> None:
        ranks, count = self.ranks(), len(self.pieces)
        lines = {}
        for place, rank in enumerate(ranks, 1):
            said = tr(
                "Judged blind: {place} of {count} in {count2} rounds", place=place, count=count, count2=len(self.rounds)
            )
            after = (
                tr(", better than {title}: {rank}", title=_title(self.pieces[ranks[place].which]), rank=_certain(rank))
                if place < count
                else ""
            )
            lines[self.pieces[rank.which].item] = said + after
        self.noted.emit(lines)


def _title(piece: Piece) -> str:
    return f"{piece.number} {piece.name}".strip()


def _certain(rank: Rank) -> str:
    return tr("{certainty:.0f} % sure", certainty=rank.certainty * 100)


class JudgePage(BuiltPage):
    """The right side while one judges."""

    def __init__(self) -> None:
        super().__init__("Judging blind")

    def show_round(self, count: int, needed: int) -> None:
        """A pair is to be judged."""
        column = self._anew("Which is better?", _WORDS)
        row = QHBoxLayout()
        for name, text in (("left", "Left  ←"), ("right", "Right  →")):
            self.words[name] = furniture.main(text, "", functools.partial(self._act, name))
            row.addWidget(self.words[name])
        column.addLayout(row)
        self.add(self.word("neither", "Neither  ↓", "Both are as good"))
        column.addWidget(furniture.line())
        left = needed - count
        said = (
            tr("{count} judged; {left} more, and the ranking means something", count=count, left=left)
            if left > 0
            else tr("{count} judged", count=count)
        )
        column.addWidget(furniture.wrapped(said))
        if left <= 0:
            self.add(self.word("rank", "Show the ranking", "Bradley and Terry's, with its certainty"))
        self.add(self.word("done", "Leave", "Nothing is noted  (Escape)"))
        column.addStretch()
        self.end()

    def show_ranks(self, rows: Sequence[tuple[str, str]], count: int, states: bool) -> None:
        """The ranking: titles, and how sure it is that each is better than the next."""
        column = self._anew(
            "Ranking", tr("After {count} rounds; how sure it is that each is better than the next.", count=count)
        )
        for place, (title, certain) in enumerate(rows, 1):
            row = QHBoxLayout()
            row.addWidget(furniture.title(f"{place}", 16))
            row.addWidget(furniture.elided_title(title, 16), 1)
            if place < len(rows):
                row.addWidget(furniture.label(certain, quiet=True))
            column.addLayout(row)
        column.addWidget(furniture.line())
        if states:
            self.add(self.word("note", "Keep it in the notes", "A line in the note of every state; undo has it"))
        self.add(self.word("again", "Judge on", "More rounds make it surer"))
        self.add(self.word("done", "Done", "Back to the wall  (Escape)"))
        column.addStretch()
        self.end()

    def _anew(self, title: str, words: str) -> QVBoxLayout:
        column = self.begin(spacing=8)
        column.addWidget(furniture.title(title))
        column.addWidget(furniture.wrapped(words))
        column.addWidget(furniture.line())
        return column
