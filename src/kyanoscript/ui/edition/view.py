"""The Edition view: one script over many photographs, safely, told by how it stands with each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QWidget

from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.opening import Opening
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View

if TYPE_CHECKING:
    from kyanoscript.ui.edition.room import Room


class EditionView(View):
    """A contact sheet of many photographs, and what all of them are printed through."""

    title = "Edition"
    keys = "Ctrl+6"
    help = "One script over many photographs"
    guide = "editions"
    stands_alone = True

    def __init__(
        self, context: Context, registry: Registry, home: View, book: Book, opening: Opening,
        recent: Callable[[], Sequence[str]],
    ) -> None:  # fmt: skip
        super().__init__()
        self.context, self.registry, self._home, self._book = context, registry, home, book
        self._opening, self._recent = opening, recent
        self._room: Room | None = None

    @property
    def room(self) -> Room:
        """What is worked with; made when it is first wanted."""
        if self._room is None:
            from kyanoscript.ui.edition.room import Room  # not needed for a first look

            self._room = made = Room(self.context, self._book, self._recent)
            made.changed.connect(self.registry.changed)
            made.emptied.connect(self.rearranged)
            made.open_wanted.connect(self._open)
            self.context.foot.pause.connect(made.work.pause)
        return self._room

    # What the window asks of a view

    def enter(self) -> None:
        """As it was left."""
        self.context.foot.say("")
        self.room.enter()
        self.room.tiles.setFocus()

    def leave(self) -> None:
        """It goes; what is at work goes on."""
        self.room.leave()
        self.context.easel.zoomed.emit()

    def panels(self) -> Panels:
        """Counts, contact sheet, page, the chosen one."""
        room = self.room
        return Panels(room.rack, room.page, room.below if room.tiles.tiles else None, room.middle)

    def commands(self) -> Handlers:
        """The keys of the Bench, where they mean something here."""
        room, tiles = self.room, self.room.tiles
        return {
            commands.UNDO: room.series.undo,
            commands.REDO: room.series.redo,
            commands.CHOOSE_ALL: tiles.choose_all,
            commands.REMOVE: room.remove,
            commands.LAMP: room.leave_out,
            commands.BEFORE: lambda: tiles.choose(tiles.current - 1),
            commands.AFTER: lambda: tiles.choose(tiles.current + 1),
            commands.MOVE_LEFT: lambda: room.shift(-1),
            commands.MOVE_RIGHT: lambda: room.shift(1),
            commands.EXPORT: room.go,
            commands.HOLD_PHOTO: Held(lambda: tiles.hold("photo"), lambda: tiles.hold("")),
            commands.HOLD_WITHOUT: Held(lambda: tiles.hold("plain"), lambda: tiles.hold("")),
        }

    def anywhere(self) -> Handlers:
        """What is done with the photograph on the bench."""
        return {commands.KEEP_EXCEPTION: self.keep_exception}

    def undo_words(self) -> tuple[str, str]:
        """Of the edition."""
        return self.room.series.past.words

    def chosen(self) -> bool:
        """Whether there is a photograph."""
        return self.room.tiles.tile() is not None

    def stops(self) -> list[QWidget]:
        """Contact sheet, page, counts."""
        return self.room.stops()

    def focus(self) -> QWidget | None:
        """The contact sheet."""
        return self.room.tiles

    def escape(self) -> bool:
        """To the bench; what is at work goes on."""
        self.registry.go(self._home)
        return True

    def stop_work(self) -> str:
        """The edition is stopped."""
        self.room.work.stop()
        return "Stopping; what is done stays"

    def take_drop(self, files: Sequence[Path]) -> bool:
        """Photographs, folders, a script."""
        self.room.setup.add(files)
        return True

    def may_close(self) -> bool:
        """Ask where an edition would be stopped."""
        if self._room is None or self._room.work.running is None:
            return True
        said = tr("The edition is at work: {work}.", work=self._room.work.progress())
        more = "What is done stays. Next time Go on does the others."
        return ask(self.context.top, said, more, ("Stop it and close", "Stay")) == "Stop it and close"

    def end(self) -> None:
        """The window closes."""
        if self._room is not None:
            self._room.series.keep_last()

    # Exceptions

    def _open(self, photo: Path, script: Script) -> None:
        job = self._opening.open(photo, script)
        if job is not None:
            job.done.connect(lambda _: self._opened(photo))

    def _opened(self, photo: Path) -> None:
        if self.context.desk.photo is not None and self.context.desk.photo.path == photo:
            self.registry.go(self._home)
            self.context.foot.say("Change it here; Shift+S keeps what it becomes, for this picture only", stay=True)

    def keep_exception(self) -> None:
        """What is on the bench is what its photograph is printed through, and no other."""
        desk, foot = self.context.desk, self.context.foot
        if desk.photo is None:
            return
        desk.commit()
        from kyanoscript.ui.edition.setup import LEFT_OUT, left_out  # not needed for a first look

        if left_out(desk, desk.script):
            foot.say(LEFT_OUT, warning=True)
            return
        photo = desk.photo.named
        if not self.room.keep_exception(photo, desk.script):
            foot.say(tr("{name} is none of the edition's photographs; add it there first  (Ctrl+6)", name=photo.name))
            return
        if desk.file is None:
            desk.saved_as(None, desk.whole)  # the edition has it
        self.registry.go(self)
        foot.say(tr("{stem} is printed through this, and no other is; Ctrl+Z takes it back", stem=photo.stem))
