"""The desk: the opened photograph, the present script and its history. The only document state there is.

Every edit is ``change("what was done", new_script)``; a drag is ``begin``, any number of ``move``, ``commit``, and
becomes one entry (none, if it ended where it began). Undo goes back to an older script; scripts share what is the same.
"""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import Script, first_change
from kyanoscript.files.photo import Photo

PHOTO, FRAME = -2, -1  # selection: the trays of the photograph and of the frame
_MERGE = 1.0  # seconds within which repeated small steps of one kind are one entry


@dataclass(frozen=True)
class Entry:
    """One line of the history."""

    label: str
    script: Script
    selected: int  # the tray chosen after it
    before: int  # and before it
    merge: str = ""


class Desk(QObject):
    """Holds the document and says what changed."""

    photo_changed = Signal()
    script_changed = Signal(int)  # the first pass that differs
    selection_changed = Signal()
    handle_changed = Signal()  # another stop or ring handle is being worked on
    history_changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.photo: Photo | None = None
        self.file: Path | None = None  # where the script was saved
        self.script = Script()
        self.selected = PHOTO
        self.taken: dict[str, object] = {}  # what the selected pass takes from the picture, if it does
        self.handle = 0  # which stop of the selected pass the ladder and the slip both show
        self._entries = [Entry("Open", self.script, PHOTO, PHOTO)]
        self._at = 0
        self._saved: Script | None = self.script
        self._gesture: tuple[str, Script] | None = None
        self._last_change = 0.0

    # What is on the desk

    def open(self, photo: Photo, script: Script, file: Path | None = None, safe: bool = True) -> None:
        """Put another photograph on the desk, with a script; its history begins here.

        ``safe``: the script lies in a file (or is empty), so that closing would lose nothing.
        """
        self.photo, self.script, self.file = photo, script, file
        self.selected = 0 if script.passes else PHOTO
        self._entries = [Entry("Open", script, self.selected, self.selected)]
        self._at = 0
        self._saved = script if safe else None
        self._gesture = None
        self.handle = 0
        self.photo_changed.emit()
        self.script_changed.emit(0)
        self.selection_changed.emit()
        self.history_changed.emit()

    def print_size(self, scale: float = 1.0) -> tuple[int, int]:
        """Width and height in pixels of the framed print at a scale; (0, 0) with nothing open."""
        if self.photo is None:
            return 0, 0
        return framing(self.script.frame, self.photo.width, self.photo.height).size(scale)

    @property
    def edited(self) -> bool:
        """Whether something would be lost by closing."""
        return self.script != self._saved

    def saved_as(self, file: Path, script: Script) -> None:
        """Remember that ``script`` is safe in ``file``."""
        self.file, self._saved = file, script
        self.history_changed.emit()

    @property
    def selected_pass(self) -> Pass | None:
        """The pass whose tray is chosen; None for the photograph."""
        return self.script.passes[self.selected] if 0 <= self.selected < len(self.script.passes) else None

    @property
    def selected_thing(self) -> Pass | Frame | None:
        """What the slip shows: a pass, the frame, or None for the photograph."""
        return self.script.frame if self.selected == FRAME and self.photo is not None else self.selected_pass

    # Choosing

    def select(self, index: int) -> None:
        """Choose a tray: a pass, `FRAME` or `PHOTO`."""
        index = max(PHOTO, min(index, len(self.script.passes) - 1))
        if index != self.selected:
            self.selected, self.handle, self.taken = index, 0, {}
            self.selection_changed.emit()

    def choose_handle(self, index: int) -> None:
        """Choose a stop of the selected pass."""
        if index != self.handle:
            self.handle = index
            self.handle_changed.emit()

    # Changing

    def change(self, label: str, script: Script, select: int | None = None, merge: str = "") -> None:
        """Make one edit. Edits with the same ``merge`` word that follow quickly become one entry."""
        self.commit()
        self._record(label, script, self.selected if select is None else select, merge)

    def begin(self, label: str) -> None:
        """Start a drag."""
        self.commit()
        self._gesture = (label, self.script)

    def move(self, script: Script) -> None:
        """Show another script in the middle of a drag."""
        self._show(script)

    def commit(self) -> None:
        """End a drag: one entry, or none if nothing is different."""
        if self._gesture is not None:
            label, start = self._gesture
            self._gesture = None
            script = self.script
            if script != start:
                self.script = start
                self._record(label, script, self.selected, "", already_shown=True)

    def abort(self) -> None:
        """Give a drag up: everything as it was when it began."""
        if self._gesture is not None:
            _, start = self._gesture
            self._gesture = None
            self._show(start)

    @property
    def dragging(self) -> bool:
        """Whether a drag is under way."""
        return self._gesture is not None

    def set_values(self, label: str, merge: str = "", **values: object) -> None:
        """Change parameters of the selected pass: within a drag without an entry, otherwise as one edit."""
        self.set_values_at(self.selected, label, merge, **values)

    def set_values_at(self, index: int, label: str, merge: str = "", **values: object) -> None:
        """Change parameters of the pass at ``index``."""
        if index == FRAME:
            script = replace(self.script, frame=Frame(**{**dict(self.script.frame), **values}))
        elif 0 <= index < len(self.script.passes):
            one = self.script.passes[index]
            if getattr(one, "auto", False) and set(values) & set(one.suggests):
                # A hand on one of the values that came from the picture: they stay where they are, and are one's own.
                taken = self.taken if index == self.selected else {}
                own = {name: value for name, value in taken.items() if name in one.suggests}
                values = {**own, "auto": False, **values}
            script = self.script.with_pass(index, type(one)(**{**dict(one), **values}))
        else:
            return
        if script == self.script:
            return
        if self.dragging:
            self.move(script)
        else:
            self.change(label, script, merge=merge)

    # History

    def undo(self) -> None:
        """Go back one entry; in the middle of a drag, give the drag up."""
        if self.dragging:
            self.abort()
        elif self._at > 0:
            self._go(self._at - 1, self._entries[self._at].before)

    def redo(self) -> None:
        """Go forward one entry."""
        if not self.dragging and self._at + 1 < len(self._entries):
            self._go(self._at + 1, self._entries[self._at + 1].selected)

    @property
    def undo_label(self) -> str:
        """What undo would take back; empty if nothing."""
        return self._entries[self._at].label if self._at else ""

    @property
    def redo_label(self) -> str:
        """What redo would do again; empty if nothing."""
        return self._entries[self._at + 1].label if self._at + 1 < len(self._entries) else ""

    @property
    def entries(self) -> list[str]:
        """The history in words, up to the present."""
        return [entry.label for entry in self._entries[: self._at + 1]]

    @property
    def history(self) -> tuple[list[str], int]:
        """Every entry in words, those that were taken back too, and which one is the present."""
        return [entry.label for entry in self._entries], self._at

    def go_to(self, at: int) -> None:
        """Go back, or forward again, to an entry."""
        if not self.dragging and 0 <= at < len(self._entries) and at != self._at:
            self._go(at, self._entries[at].selected)

    def _go(self, at: int, selected: int) -> None:
        self._at = at
        self._show(self._entries[at].script, selected)
        self.history_changed.emit()

    def _record(self, label: str, script: Script, selected: int, merge: str, already_shown: bool = False) -> None:
        if script == self.script:
            return
        now = time.monotonic()
        del self._entries[self._at + 1 :]
        if merge and self._entries[-1].merge == merge and now - self._last_change < _MERGE and self._at:
            before = self._entries.pop().before
        else:
            before = self.selected
        self._entries.append(Entry(label, script, selected, before, merge))
        self._at = len(self._entries) - 1
        self._last_change = now
        if already_shown:
            self.script = script
        else:
            self._show(script, selected)
        self.history_changed.emit()

    def _show(self, script: Script, selected: int | None = None) -> None:
        old, self.script = self.script, script
        chosen = self.selected if selected is None else selected
        chosen = max(PHOTO, min(chosen, len(script.passes) - 1))
        moved = chosen != self.selected or self.selected >= len(script.passes)
        if moved:
            self.selected, self.handle, self.taken = chosen, 0, {}
        if script != old:
            self.script_changed.emit(first_change(old, script))
        if moved:
            self.selection_changed.emit()
