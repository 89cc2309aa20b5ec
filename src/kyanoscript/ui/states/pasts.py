"""What was done in the States view, in one order: with the states, or on the bench. Each has a past of its own."""

from __future__ import annotations

from kyanoscript.core.past import Past
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.document.kept import Kept


class TwoPasts:
    """Which of the two is to take something back."""

    def __init__(self, desk: Desk, kept: Kept) -> None:
        self._desk, self._kept = desk, kept
        self._past: Past[object] = Past(None)

    def with_states(self) -> None:
        """Something is done with states."""
        self._past.do("", self._kept)

    def on_bench(self) -> None:
        """Something is done on the bench."""
        self._past.do("", self._desk)

    def undo(self) -> None:
        """Take back what was done last."""
        where = self._last()
        if self._past.take_back() is None:  # it was done before the view came
            self._past.took_back("", where)
        (self._kept if where is self._kept else self._desk).undo()

    def _last(self) -> object:
        """Where what was done last is to be taken back."""
        if self._past.at:
            return self._past.present.value
        return self._kept if self._kept.undo_words[0] else self._desk

    def redo(self) -> None:
        """Do it again."""
        done = self._past.do_again()
        if done is not None:
            (self._kept if done.value is self._kept else self._desk).redo()

    @property
    def words(self) -> tuple[str, str]:
        """What undo and redo would do."""
        states, again = self._kept.undo_words
        back = states if self._last() is self._kept else self._desk.undo_label
        following = self._past.following
        if following is None:
            return back, ""
        return back, again if following.value is self._kept else self._desk.redo_label
