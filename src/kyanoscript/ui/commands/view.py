"""What a view of the window is. Another one takes a class like this, and one line where the window lists its views."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from kyanoscript.ui.commands.list import Command
from kyanoscript.ui.service.results import Wanted


@dataclass(frozen=True)
class Held:
    """What a held key does, and what letting go of it does."""

    start: Callable[[], object]
    end: Callable[[], object]


Handlers = Mapping[Command, Callable[[], object] | Held]


@dataclass(frozen=True)
class Panels:
    """What stands where; the easel is in the middle unless something else is, and nothing below unless it is told."""

    left: QWidget
    right: QWidget
    below: QWidget | None = None
    middle: QWidget | None = None


class View(QObject):
    """One way of working on the photograph that is open."""

    rearranged = Signal()  # its panels are others now, or what it can do is

    title = ""  # its word in the masthead
    keys = ""
    help = ""
    guide = "index"  # where the guide tells of it
    wants = ""  # "photo": there is nothing to see in it without one
    refusal = ""  # said then
    zooms = False  # what is in its middle is zoomed as the easel is
    stands_alone = False  # its commands need no photograph on the bench

    def enter(self) -> None:
        """It comes onto the screen."""

    def again(self) -> None:
        """It is gone to, and is on the screen already."""

    def leave(self) -> None:
        """It goes."""

    def panels(self) -> Panels:
        """What it shows."""
        raise NotImplementedError

    def commands(self) -> Handlers:
        """What it does; where the window has the same command, the view's counts."""
        return {}

    def anywhere(self) -> Handlers:
        """What it does whatever view is on the screen."""
        return {}

    def hears(self) -> Mapping[Command, tuple[QWidget, ...]]:
        """Where keys are heard that do not work everywhere, besides the easel."""
        return {}

    def undo_words(self) -> tuple[str, str]:
        """What undo would take back and redo do again, in words; empty if nothing."""
        return "", ""

    def chosen(self) -> bool:
        """Whether there is something that commands for what is chosen can work on."""
        return False

    def stops(self) -> list[QWidget]:
        """Where the keyboard goes from part to part."""
        return []

    def focus(self) -> QWidget | None:
        """What has the keyboard when the view comes; None: the easel."""
        return None

    def escape(self) -> bool:
        """The Escape key; whether there was something for it to leave."""
        return False

    def wanted(self) -> Wanted | None:
        """What the pointer's values are told of; None: there is no print to point at."""
        return None

    def take_drop(self, files: Sequence[Path]) -> bool:
        """Files were dropped on the window; whether they were for the view."""
        return False

    def may_close(self) -> bool:
        """Whether the window may close; what would be stopped is asked about."""
        return True

    def end(self) -> None:
        """The window closes."""

    def stop_work(self) -> str:
        """Long work within a pass was stopped; what became of it, in words."""
        return ""
