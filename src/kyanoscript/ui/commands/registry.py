"""Who does what: commands are asked of the view that is on the screen first, then of the window."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal

from kyanoscript.ui.commands.list import COMMANDS, Command
from kyanoscript.ui.commands.view import Handlers, Held, View
from kyanoscript.ui.document.desk import Desk


class Registry(QObject):
    """Every command and every view of the window."""

    went = Signal()  # to another view
    changed = Signal()  # other things can be done
    said = Signal(str)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self._own: dict[Command, Callable[[], object] | Held] = {}
        self._going: dict[Command, View] = {}  # the commands that go to a view
        self.view: View | None = None

    @property
    def views(self) -> dict[Command, View]:
        """The views, by the commands that go there."""
        return dict(self._going)

    def add_view(self, view: View) -> None:
        """A view that can be gone to."""
        command = Command("Look", view.title, view.keys, view.help, wants=view.wants)
        self._going[command] = view
        self._own[command] = lambda: self.go(view)
        view.rearranged.connect(self.changed)

    def offer(self, handlers: Handlers) -> None:
        """What is done whatever the view."""
        self._own.update(handlers)

    def go(self, view: View) -> None:
        """Another view comes onto the screen."""
        if view.wants and self._desk.photo is None:
            self.said.emit(view.refusal)
        elif view is self.view:
            view.again()
        else:
            if self.view is not None:
                self.view.leave()
            self.view = view
            self.went.emit()
            view.enter()
        self.changed.emit()

    def every(self) -> list[Command]:
        """All commands in the order of the menus; those that go to a view before the others of their menu."""
        first = next(k for k, command in enumerate(COMMANDS) if command.menu == "Look")
        return [*COMMANDS[:first], *self._going, *COMMANDS[first:]]

    def handler(self, command: Command) -> Callable[[], object] | Held | None:
        """Who does it now; None if nobody does."""
        found = self.view.commands().get(command) if self.view is not None else None
        return found or self._own.get(command)

    def possible(self, command: Command) -> bool:
        """Whether it can be done now."""
        view = self.view
        alone = view is not None and view.stands_alone and command in view.commands()
        if self.handler(command) is None or (command.wants and self._desk.photo is None and not alone):
            return False
        return command.wants != "chosen" or (view is not None and view.chosen())

    def do(self, command: Command) -> None:
        """Do it, if somebody does it now."""
        found = self.handler(command)
        if found is not None and not isinstance(found, Held):
            found()

    def undo_words(self) -> tuple[str, str]:
        """What undo would take back and redo do again, in words."""
        return self.view.undo_words() if self.view is not None else ("", "")
