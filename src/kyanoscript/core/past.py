"""What was done, one thing after another, and how far of it was taken back: one past under everything with an undo."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Generic, TypeVar

T = TypeVar("T")


@dataclass(frozen=True)
class Done(Generic[T]):
    """One thing that was done."""

    label: str  # in words
    value: T  # how everything is after it, or what it was


class Past(Generic[T]):
    """Entries from the first on, which nobody can take back; those after the present were taken back."""

    def __init__(self, first: T, label: str = "") -> None:
        self.entries = [Done(label, first)]
        self.at = 0

    @property
    def present(self) -> Done[T]:
        """What was done last, and was not taken back."""
        return self.entries[self.at]

    def do(self, label: str, value: T) -> None:
        """Something more was done: what was taken back is gone."""
        del self.entries[self.at + 1 :]
        self.entries.append(Done(label, value))
        self.at += 1

    def take_back(self) -> Done[T] | None:
        """Go back by one; returns what was taken back, None if there is nothing."""
        if not self.at:
            return None
        self.at -= 1
        return self.entries[self.at + 1]

    def do_again(self) -> Done[T] | None:
        """Go forward by one; returns what was done again, None if there is nothing."""
        if self.following is None:
            return None
        self.at += 1
        return self.present

    def took_back(self, label: str, value: T) -> None:
        """What was done before the first entry was taken back: it can be done again."""
        self.entries.insert(1, Done(label, value))

    @property
    def following(self) -> Done[T] | None:
        """What would be done again."""
        return self.entries[self.at + 1] if self.at + 1 < len(self.entries) else None

    @property
    def words(self) -> tuple[str, str]:
        """What undo would take back, and redo do again; empty if nothing."""
        following = self.following
        return (self.present.label if self.at else ""), (following.label if following is not None else "")

    def __iter__(self) -> Iterator[T]:
        """Every value, those that were taken back too."""
        return (entry.value for entry in self.entries)
