"""The desk: the opened photograph, the present script and its history. The only document state there is.

Every edit is ``change("what was done", new_script)``; a drag is ``begin``, any number of ``move``, ``commit``, and
becomes one entry (none, if it ended where it began). Undo goes back to an older script; scripts share what is the same.

Longer than most: everything that can be done to the document, in one place.
"""

from __future__ import annotations

import time
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.develop import Develop
from kyanoscript.core.frame import Frame
from kyanoscript.core.geometry import framing
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import MOST_PASSES, Script, first_change
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.files.photos.photo import Photo
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.translation import tr
from kyanoscript.ui.document.history import History, Moment, Place
from kyanoscript.ui.document.kept import Kept

PHOTO, FRAME = -2, -1  # selection: the trays of the photograph and of the frame


class Desk(QObject):
    """Holds the document and says what changed."""

    photo_changed = Signal()
    script_changed = Signal(int)  # the first pass that differs
    selection_changed = Signal()
    handle_changed = Signal()  # another stop or ring handle is being worked on
    history_changed = Signal()
    refused = Signal(str)  # something that cannot be done to a script, in words

    def __init__(self) -> None:
        super().__init__()
        self.photo: Photo | None = None
        self.pictures: Pictures | None = None  # where its plates find theirs
        self.file: Path | None = None  # where the script was saved
        self.digest = ""  # SHA-256 of that file as it was last read or written here
        self.script = Script()
        self.path: tuple[int, ...] = ()  # the plates that were gone into, to the run that is worked on
        self.selected = PHOTO
        self.also: frozenset[int] = frozenset()  # other trays of the same run that are chosen with it
        self.taken: dict[str, object] = {}  # what the selected pass takes from the picture, if it does
        self.handle = 0  # which stop of the selected pass the ladder and the slip both show
        self._history = History(Moment(self.script, ((), PHOTO), ((), PHOTO)))
        self.kept = Kept(self)  # the states; undo of the script leaves them alone
        self._saved: Script | None = self.script
        self._gesture: tuple[str, Script] | None = None
        self.clock = time.monotonic  # tells which edits follow quickly

    # What is on the desk

    def open(
        self,
        photo: Photo,
        script: Script,
        file: Path | None = None,
        safe: bool = True,
        digest: str = "",
        pictures: Pictures | None = None,
    ) -> None:
        """Put another photograph on the desk, with a script; its history begins here.

        ``safe``: the script lies in a file (or is empty), so that closing would lose nothing.
        """
        whole = script
        script = replace(whole, states=(), origin=0)
        self.photo, self.script, self.file, self.digest = photo, script, file, digest
        self.pictures = pictures or Pictures(photo.path, file)
        self.path, self.also = (), frozenset()
        self.selected = 0 if script.passes else PHOTO
        self._history = History(Moment(script, self._place, self._place, state=whole.origin))
        self.kept.open(whole.states)
        self._saved = whole if safe else None
        self._gesture = None
        self.handle = 0
        self.photo_changed.emit()
        self.script_changed.emit(0)
        self.kept.changed.emit()
        self.selection_changed.emit()
        self.history_changed.emit()

    def exchange(self, photo: Photo) -> None:
        """Another photograph in place of the one on the desk, with all that has been done: the same, come in whole."""
        self.photo = photo
        self.photo_changed.emit()
        self.script_changed.emit(-1)
        self.selection_changed.emit()

    def print_size(self, scale: float = 1.0) -> tuple[int, int]:
        """Width and height in pixels of the framed print at a scale; (0, 0) with nothing open."""
        if self.photo is None:
            return 0, 0
        return framing(self.script.frame, self.photo.width, self.photo.height).size(scale)

    @property
    def shape(self) -> float:
        """The framed print's width over its height; with nothing open that of most."""
        width, height = self.print_size()
        return width / height if height else 1.5

    @property
    def edited(self) -> bool:
        """Whether something would be lost by closing."""
        return self.whole != self._saved

    @property
    def whole(self) -> Script:
        """The script with its states, as it lies in a file."""
        states = self.kept.states
        return replace(self.script, states=states, origin=self.origin[0]) if states else self.script

    @property
    def origin(self) -> tuple[int, int]:
        """The number of the state that the print was made from, 0: the photograph; and the steps since."""
        return self._history.origin()

    def mark(self, state: int) -> None:
        """The print is kept as a state, or has come from it."""
        self._history.mark(state)
        self.history_changed.emit()

    def saved_as(self, file: Path | None, script: Script, digest: str | None = None) -> None:
        """Remember that ``script`` is safe in ``file``, whose SHA-256 is ``digest`` now."""
        self.file, self._saved = file, script
        self.digest = self.digest if digest is None else digest
        self.history_changed.emit()

    @property
    def run(self) -> tuple[Pass, ...]:
        """The run that is worked on: the script's, or that of the plate one has gone into."""
        return self.script.run(self.path)

    @property
    def selected_pass(self) -> Pass | None:
        """The pass whose tray is chosen; None for the photograph."""
        run = self.run
        return run[self.selected] if 0 <= self.selected < len(run) else None

    @property
    def selected_thing(self) -> Pass | Frame | Develop | None:
        """What the slip shows: a pass, the frame, how a raw is developed, or None for a photograph of another kind."""
        if self.photo is not None and self.selected == FRAME:
            return self.script.frame
        if self.photo is not None and self.selected == PHOTO and self.photo.raw:
            return self.script.develop
        return self.selected_pass

    @property
    def shown_thing(self) -> Pass | Frame | Develop | None:
        """The same with the values that it takes from the picture in their places, as they are shown."""
        step = self.selected_thing
        if isinstance(step, Pass) and step.auto and self.taken:
            return step.model_copy(update={n: v for n, v in self.taken.items() if n in step.suggested()})
        return step

    @property
    def chosen(self) -> tuple[int, ...]:
        """Places of all chosen passes in the run that is worked on, in order."""
        count = len(self.run)
        return tuple(sorted(k for k in {*self.also, self.selected} if 0 <= k < count))

    @property
    def opened(self) -> tuple[int, ...]:
        """Where the run of the second row is found: that of the plate gone into or chosen; () if there is none."""
        step = self.selected_pass
        return (*self.path, self.selected) if step is not None and "run" in step.params() else self.path

    def entering(self) -> tuple[Script, int]:
        """A script, and the place in it, at which what enters the chosen pass can be looked at."""
        if not self.path:
            return self.script, self.selected
        script, first = self.script.unrolled(self.path)
        return script, first + self.selected

    @property
    def stencil(self) -> Stencil | None:
        """The stencil of the chosen pass, found by its name if it has one."""
        found = self.selected_pass.stencil if self.selected_pass is not None else None
        return dict(self.script.stencils).get(found) if isinstance(found, str) else found

    @property
    def _place(self) -> Place:
        return self.path, self.selected

    # Choosing

    def select(self, index: int, path: tuple[int, ...] | None = None) -> None:
        """Choose a tray: a pass, `FRAME` or `PHOTO`; in another run if a path of plates is given.

        Before the first pass of a plate's run lies the plate.
        """
        self._choose(self._legal(self.path if path is None else path, index))

    def choose_also(self, index: int, through: bool = False) -> None:
        """Choose another tray of the run with those chosen, or let go of it; ``through``: all up to it."""
        if not (0 <= index < len(self.run) and self.selected >= 0):
            self.select(index)
            return
        if through:
            low, high = sorted((self.selected, index))
            also = frozenset(range(low, high + 1)) - {self.selected}
        elif index == self.selected:
            if not self.also:
                return
            self.selected = max(self.also)
            also = self.also - {self.selected}
        else:
            also = self.also ^ {index}
        self.also = also
        self.selection_changed.emit()

    def _legal(self, path: tuple[int, ...], index: int) -> Place:
        """The nearest tray that there is."""
        for depth, k in enumerate(path):
            run = self.script.run(path[:depth])
            if not (0 <= k < len(run) and "run" in run[k].params()):
                return path[:depth], max(PHOTO if not depth else 0, min(k, len(run) - 1))
        run = self.script.run(path)
        if path and (index < 0 or not run):
            return path[:-1], path[-1]
        return path, max(PHOTO, min(index, len(run) - 1))

    def _choose(self, place: Place) -> None:
        if place != self._place or self.also:
            (self.path, self.selected), self.also = place, frozenset()
            self.handle, self.taken = 0, {}
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
        self._record(label, script, (self.path, self.selected if select is None else select), merge)

    def change_run(self, label: str, passes: Iterable[Pass], select: int | None = None, merge: str = "") -> None:
        """Put other passes into the run that is worked on."""
        self.change(label, self.script.with_run(self.path, passes), select, merge)

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
                self._record(label, script, self._place, "", already_shown=True)

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

    def move_chosen(self, before: int) -> None:
        """Put the chosen passes together before the place ``before`` of the run."""
        run, chosen = self.run, self.chosen
        if not chosen:
            return
        before = min(max(before, 0), len(run))
        moved = [run[k] for k in chosen]
        left = [run[k] for k in range(before) if k not in chosen]
        right = [run[k] for k in range(before, len(run)) if k not in chosen]
        words = moved[0].title if len(moved) == 1 else tr("{count} passes", count=len(moved))
        first = len(left)
        self.change_run(tr("Move {words}", words=words), (*left, *moved, *right), select=first)
        if len(moved) > 1:
            self.select(first)
            self.choose_also(first + len(moved) - 1, through=True)

    def set_values(self, label: str, merge: str = "", **values: object) -> None:
        """Change parameters of the selected pass: within a drag without an entry, otherwise as one edit."""
        self.set_values_at(self.selected, label, merge, **values)

    def set_values_at(self, index: int, label: str, merge: str = "", **values: object) -> None:
        """Change parameters of the pass at ``index`` of the run that is worked on."""
        run = self.run
        fixed: dict[int, Frame | Develop] = {FRAME: self.script.frame, PHOTO: self.script.develop}
        thing = fixed.get(index) or (run[index] if 0 <= index < len(run) else None)
        if thing is None or not set(values) <= set(type(thing).model_fields):
            return  # asked for something that is not chosen any more
        if index == FRAME:
            script = replace(self.script, frame=Frame(**{**dict(self.script.frame), **values}))
        elif index == PHOTO:
            script = replace(self.script, develop=Develop(**{**dict(self.script.develop), **values}))
        elif 0 <= index < len(run):
            step = run[index]
            if step.auto and set(values) & set(step.suggested()):
                # A hand on one of the values that came from the picture: they stay where they are, and are one's own.
                taken = self.taken if index == self.selected else {}
                own = {name: value for name, value in taken.items() if name in step.suggested()}
                values = {**own, "auto": False, **values}
            changed = type(step)(**{**dict(step), **values})
            script = self.script.with_run(self.path, (*run[:index], changed, *run[index + 1 :]))
        else:
            return
        self._put(label, script, merge)

    def set_stencil(self, label: str, stencil: Stencil | None, merge: str = "") -> None:
        """Give the chosen pass another stencil; one with a name changes for all that use it."""
        step = self.selected_pass
        if step is None:
            return
        if stencil is not None and isinstance(step.stencil, str):
            named = tuple((n, stencil if n == step.stencil else s) for n, s in self.script.stencils)
            self._put(label, replace(self.script, stencils=named), merge)
        else:
            self.set_values(label, merge, stencil=stencil)

    def _put(self, label: str, script: Script, merge: str) -> None:
        """Show a changed script: within a drag without an entry, otherwise as one edit."""
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
        elif (done := self._history.take_back()) is not None:
            self._go(done.value.before)

    def redo(self) -> None:
        """Go forward one entry."""
        if not self.dragging and (done := self._history.do_again()) is not None:
            self._go(done.value.selected)

    @property
    def undo_label(self) -> str:
        """What undo would take back; empty if nothing."""
        return self._history.words[0]

    @property
    def redo_label(self) -> str:
        """What redo would do again; empty if nothing."""
        return self._history.words[1]

    @property
    def entries(self) -> list[str]:
        """The history in words, up to the present."""
        return [entry.label for entry in self._history.entries[: self._history.at + 1]]

    @property
    def history(self) -> tuple[list[str], int]:
        """Every entry in words, those that were taken back too, and which one is the present."""
        return [entry.label for entry in self._history.entries], self._history.at

    def go_to(self, at: int) -> None:
        """Go back, or forward again, to an entry."""
        entries = self._history.entries
        if not self.dragging and 0 <= at < len(entries) and at != self._history.at:
            self._history.at = at
            self._go(entries[at].value.selected)

    def _go(self, selected: Place) -> None:
        self._show(self._history.present.value.script, selected)
        self.history_changed.emit()

    def _record(self, label: str, script: Script, selected: Place, merge: str, already_shown: bool = False) -> None:
        if script == self.script:
            return
        if len(script.passes) > len(self.script.passes) and script.count > MOST_PASSES:
            self.refused.emit(
                tr(
                    "A script may have {most_passes} passes that act, those of plates counted; nothing was done",
                    most_passes=MOST_PASSES,
                )
            )
            return
        self._history.add(label, Moment(script, selected, self._place, merge), self.clock())
        if already_shown:
            self.script = script
        else:
            self._show(script, selected)
        self.history_changed.emit()

    def _show(self, script: Script, selected: Place | None = None) -> None:
        old, self.script = self.script, script
        place = self._legal(*(selected or self._place))
        moved = place != self._place or (selected is not None and bool(self.also))
        if moved:
            (self.path, self.selected), self.also = place, frozenset()
            self.handle, self.taken = 0, {}
        if script != old:
            self.script_changed.emit(first_change(old, script))
        if moved:
            self.selection_changed.emit()


def without_chosen(desk: Desk) -> tuple[Pass, ...]:
    """The run that is worked on without the chosen passes."""
    return tuple(step for k, step in enumerate(desk.run) if k not in desk.chosen)
