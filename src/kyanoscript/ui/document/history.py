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
        if entry.merge and self.present.merge == entry.merge and now - self._last < _MERGE and self.at:
            entry = replace(entry, before=self.entries.pop().before)
        self.entries.append(entry)
        self.at = len(self.entries) - 1
        self._last = now
