"""The past of the desk: scripts, with the trays that were chosen, and the states that they were kept as."""

from __future__ import annotations

from dataclasses import dataclass, replace

from kyanoscript.core.past import Done, Past
from kyanoscript.core.script import Script

Place = tuple[tuple[int, ...], int]  # a tray: the plates one has gone into to find it, and its place in that run
_MERGE = 1.0  # seconds within which repeated small steps of one kind are one entry


@dataclass(frozen=True)
class Moment:
    """How the desk was."""

    script: Script
    selected: Place  # the tray chosen after what was done
    before: Place  # and before it
    merge: str = ""
    state: int = 0  # it was kept as the state of this number, or came from it


class History(Past[Moment]):
    """Of one photograph."""

    def __init__(self, first: Moment) -> None:
        super().__init__(first, "Open")
        self._last = 0.0  # when the last was added

    def add(self, label: str, moment: Moment, now: float) -> None:
        """Something was done. A quick step of the same kind joins the one before it."""
        last = self.present.value
        joins = moment.merge and last.merge == moment.merge and now - self._last < _MERGE
        if joins and self.at and not last.state:
            moment = replace(moment, before=last.before)
            self.at -= 1
        self.do(label, moment)
        self._last = now

    def mark(self, state: int) -> None:
        """What is on the desk is kept as a state, or has come from it."""
        label, moment = self.present.label, self.present.value
        self.entries[self.at] = Done(label, replace(moment, state=state))

    def origin(self) -> tuple[int, int]:
        """The number of the state that what is on the desk was made from, 0 if there is none, and the steps since."""
        at = self.at
        while at > 0 and not self.entries[at].value.state:
            at -= 1
        return self.entries[at].value.state, self.at - at
