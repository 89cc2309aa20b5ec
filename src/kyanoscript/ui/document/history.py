"""What was done, entry after entry, and which of them is the present."""

from __future__ import annotations

from dataclasses import dataclass, replace

from kyanoscript.core.script import Script

Place = tuple[tuple[int, ...], int]  # a tray: the plates one has gone into to find it, and its place in that run
_MERGE = 1.0  # seconds within which repeated small steps of one kind are one entry


@dataclass(frozen=True)
class Entry:
    """One line of the history."""

    label: str
    script: Script
    selected: Place  # the tray chosen after it
    before: Place  # and before it
    merge: str = ""
    state: int = 0  # it was kept as the state of this number, or came from it


class History:
    """Entries; those after the present were taken back."""

    def __init__(self, first: Entry) -> None:
        self.entries = [first]
        self.at = 0
        self._last = 0.0  # when the last was added

    @property
    def present(self) -> Entry:
        """The entry that what is on the desk comes from."""
        return self.entries[self.at]

    @property
    def following(self) -> Entry | None:
        """The one that was taken back last."""
        return self.entries[self.at + 1] if self.at + 1 < len(self.entries) else None

    def add(self, entry: Entry, now: float) -> None:
        """Something was done: what was taken back is gone. A quick step of the same kind joins the one before it."""
        del self.entries[self.at + 1 :]
        joins = entry.merge and self.present.merge == entry.merge and now - self._last < _MERGE
        if joins and self.at and not self.present.state:
            entry = replace(entry, before=self.entries.pop().before)
        self.entries.append(entry)
        self.at = len(self.entries) - 1
        self._last = now

    def mark(self, state: int) -> None:
        """What is on the desk is kept as a state, or has come from it."""
        self.entries[self.at] = replace(self.present, state=state)

    def origin(self) -> tuple[int, int]:
        """The number of the state that what is on the desk was made from, 0 if there is none, and the steps since."""
        at = self.at
        while at > 0 and not self.entries[at].state:
            at -= 1
        return self.entries[at].state, self.at - at
