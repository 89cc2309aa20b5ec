"""The states: versions of the print that were kept. They stay whatever is undone on the bench, and have an undo of
their own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import datetime
from typing import Protocol

from PySide6.QtCore import QObject, Signal, SignalInstance

from kyanoscript.core.past import Past
from kyanoscript.core.script import Script, State
from kyanoscript.core.script.json import MOST_STATES
from kyanoscript.translation import tr

States = tuple[State, ...]


class Bench(Protocol):
    """What is asked of `desk.Desk`."""

    history_changed: SignalInstance

    @property
    def script(self) -> Script: ...
    @property
    def origin(self) -> tuple[int, int]: ...
    def commit(self) -> None: ...
    def mark(self, state: int) -> None: ...


class Kept(QObject):
    """The states of one desk."""

    changed = Signal()
    refused = Signal(str)

    def __init__(self, desk: Bench) -> None:
        super().__init__()
        self._desk = desk
        self._past: Past[States] = Past(())
        self.now: Callable[[], datetime] = datetime.now

    @property
    def states(self) -> States:
        """In the order in which they were kept."""
        return self._past.present.value

    def open(self, states: States) -> None:
        """Those of another file; who shows them hears of it once all of the file is there."""
        self._past = Past(states)

    def find(self, number: int) -> State | None:
        """The state of a number."""
        return next((state for state in self.states if state.number == number), None)

    def same_as(self, script: Script) -> State | None:
        """The state that holds just this script, if one does."""
        return next((state for state in self.states if replace(state.script, origin=0) == _bare(script)), None)

    # Changing

    def keep(self, name: str = "") -> State | None:
        """Keep the print as it is on the bench; None if it is kept already, or there are too many."""
        desk = self._desk
        desk.commit()
        if self.same_as(desk.script) is not None:
            return None
        origin, steps = desk.origin
        found = self._add((desk.script,), (name,), origin, steps)
        if found:
            desk.mark(found[0].number)
        return found[0] if found else None

    def keep_all(self, scripts: tuple[Script, ...], names: tuple[str, ...]) -> States:
        """Keep other scripts, made from what is on the bench."""
        origin, steps = self._desk.origin
        return self._add(scripts, names, origin, steps + 1)

    def _add(self, scripts: tuple[Script, ...], names: tuple[str, ...], origin: int, steps: int) -> States:
        if len(self.states) + len(scripts) > MOST_STATES:
            self.refused.emit(tr("{most_states} states are the most; let some go first", most_states=MOST_STATES))
            return ()
        first = max((state.number for states in self._past for state in states), default=0) + 1
        when = self.now().isoformat(timespec="minutes")
        made = tuple(
            State(replace(_bare(script), origin=origin), name, "", first + k, when, steps)
            for k, (script, name) in enumerate(zip(scripts, names, strict=True))
        )
        what = (
            tr("Keep state {title}", title=made[0].title)
            if len(made) == 1
            else tr("Keep {count} states", count=len(made))
        )
        self._do(what, (*self.states, *made))
        return made

    def describe(self, number: int, name: str, note: str) -> None:
        """Another name and note."""
        self._do("Name and note", tuple(_if(s, number, name=name, note=note) for s in self.states))

    def note(self, notes: dict[int, str]) -> None:
        """A line more in the notes of some."""
        lines = {n: "\n".join(filter(None, (s.note, notes[n]))) for s in self.states if (n := s.number) in notes}
        self._do("Judged blind", tuple(_if(s, s.number, note=lines.get(s.number, s.note)) for s in self.states))

    def let_go(self, number: int) -> None:
        """Keep it no longer."""
        gone = self.find(number)
        if gone is not None:
            self._do(tr("Let go of {title}", title=gone.title), tuple(s for s in self.states if s.number != number))

    def _do(self, label: str, states: States) -> None:
        if states != self.states:
            self._past.do(label, states)
            self._went()

    def _went(self) -> None:
        self.changed.emit()
        self._desk.history_changed.emit()

    # Undo of what was done with states

    def undo(self) -> None:
        """Take back the last thing done with them."""
        if self._past.take_back() is not None:
            self._went()

    def redo(self) -> None:
        """Do it again."""
        if self._past.do_again() is not None:
            self._went()

    @property
    def undo_words(self) -> tuple[str, str]:
        """What undo would take back and redo do again."""
        return self._past.words


def _bare(script: Script) -> Script:
    """A script as a state keeps it: without papers and states."""
    return replace(script, sheets=(), states=(), origin=0)


def _if(state: State, number: int, **changed: str) -> State:
    return (
        replace(state, name=changed.get("name", state.name), note=changed["note"]) if state.number == number else state
    )
