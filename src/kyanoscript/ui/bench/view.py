"""The Bench: one print, the ladder to its left, the slip to its right, the run below."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import Script, mapped
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.album import Album
from kyanoscript.ui.bench.history import PastShown
from kyanoscript.ui.bench.ladder import Ladder
from kyanoscript.ui.bench.passes import Passes
from kyanoscript.ui.bench.run import Run
from kyanoscript.ui.bench.slip.slip import Slip
from kyanoscript.ui.bench.stencils import Stencils
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.list import Command
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View
from kyanoscript.ui.commands.watching import wanted
from kyanoscript.ui.document.desk import without_chosen
from kyanoscript.ui.easel.comparison import COMPARE
from kyanoscript.ui.service.results import Felt, Wanted

_NATIVE = QKeySequence.SequenceFormat.NativeText
_TRAY_MENU = (
    commands.DOUBLE,
    commands.LAMP,
    commands.RENAME,
    commands.COPY,
    commands.PASTE,
    commands.DRAW_STENCIL,
    commands.COPY_STENCIL,
    commands.PASTE_STENCIL,
    commands.KEEP_RECIPE,
    commands.MOVE_LEFT,
    commands.MOVE_RIGHT,
    commands.REMOVE,
)


class Bench(View):
    """Work on one print."""

    title = "Bench"
    keys = "Ctrl+1"
    help = "Work on one print"
    guide = "first-print"

    def __init__(self, context: Context, registry: Registry, book: Book) -> None:
        super().__init__()
        self.context, self.registry, self.book = context, registry, book
        desk, service, easel = context.desk, context.service, context.easel
        self.ladder = Ladder(desk, service, easel)
        self.slip = Slip(context, lambda name: self.passes.choosers.show_model(name))
        self.run = Run(desk, service, easel)
        self.passes = Passes(context, self.run, self.slip)
        self.stencils = Stencils(context, self.passes)
        self.album = Album(context)
        self.history: PastShown | None = None  # the list that is open, or was last
        self._handlers: Handlers = self._commands()
        self._connect()

    def _connect(self) -> None:
        slip, foot, touch = self.slip, self.context.foot, self.context.easel.touch
        self.context.service.answers(Felt).connect(
            lambda felt: foot.say(touch.words()) if felt.tag == "touch" else None
        )
        slip.asked.connect(self.registry.do)
        slip.marks_changed.connect(self.ladder.show_marks)
        self.ladder.show_marks(slip.page.marks)
        for trays in (self.run.trays, self.run.second):
            trays.menu.connect(self._tray_menu)

    def _commands(self) -> Handlers:
        easel = self.context.easel
        own: dict[Command, Callable[[], object] | Held] = {
            commands.HISTORY: self.show_history,
            commands.KEEP_RECIPE: lambda: self.book.keep(self.slip),
            commands.NEXT_COMPARE: self.next_compare,
            commands.COMPARE_WITH: self.compare_with,
            commands.GUIDES: self.guides,
            commands.MARKS: self.marks,
            commands.HOLD_WITHOUT: Held(self.hold_without, lambda: easel.hold(None)),
            commands.HOLD_DEVELOP: Held(self.slip.start_developing, self.slip.stop_developing),
        }
        return {**self.passes.commands(), **self.stencils.commands(), **own}

    # What the window asks of a view

    def enter(self) -> None:
        """The print has the keyboard."""
        self.context.easel.setFocus()

    def leave(self) -> None:
        """The stencil is left alone."""
        if self.context.easel.stencil.on:
            self.context.easel.stencil.switch(False)

    def panels(self) -> Panels:
        """Ladder, slip, run."""
        return Panels(self.ladder, self.slip, self.run)

    def commands(self) -> Handlers:
        """All that is done with passes and stencils."""
        return self._handlers

    def hears(self) -> Mapping[Command, tuple[QWidget, ...]]:
        """Return goes into a plate from its tray, too."""
        return {commands.GO_IN: (self.run.trays, self.run.second)}

    def undo_words(self) -> tuple[str, str]:
        """Of the script."""
        return self.context.desk.undo_label, self.context.desk.redo_label

    def chosen(self) -> bool:
        """Whether a pass is."""
        return self.context.desk.selected_pass is not None

    def stops(self) -> list[QWidget]:
        """Easel, slip, run, ladder."""
        slider = next((slider for slider in self.slip.sliders.values() if slider.isVisible()), None)
        return [self.context.easel, *([slider] if slider is not None else []), self.run.trays, self.ladder]

    def escape(self) -> bool:
        """Developing is given up; or what the next stroke or press was to do to a part of the scene."""
        if self.context.easel.dabs.leave_mode():
            return True
        if not self.slip.give_up_developing():
            return False
        self.context.easel.give_up()
        return True

    def wanted(self) -> Wanted | None:
        """What is chosen."""
        return wanted(self.context)

    def stop_work(self) -> str:
        """The passes that take seconds are switched off."""
        desk = self.context.desk
        desk.change("Stop looking", desk.script.with_run((), mapped(desk.script.passes, _off_if_it_waits)))
        return "Stopped; the pass is off. Its lamp starts it again"

    # What is done here

    def _tray_menu(self, at: QPoint) -> None:
        menu = QMenu(self.context.top)
        for command in _TRAY_MENU:
            menu.addAction(self._action(menu, command))
        menu.exec(at)

    def _action(self, menu: QMenu, command: Command) -> QAction:
        made = QAction(spoken(f"{command.text}\t{QKeySequence(command.keys).toString(_NATIVE)}"), menu)
        made.setEnabled(self.registry.possible(command))
        made.triggered.connect(lambda _=False: self.registry.do(command))
        return made

    def show_history(self) -> None:
        """The history as a list of words."""
        self.history = PastShown(self.context.top, self.context.desk)
        self.history.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.history.pop_up(self.context.easel.mapToGlobal(QPoint(24, 24)))

    def next_compare(self) -> None:
        """Whole, split, side by side."""
        easel = self.context.easel
        how = COMPARE[(COMPARE.index(easel.comparison.how) + 1) % len(COMPARE)]
        easel.set_compare(how)
        self.context.foot.say(tr("Compare: {how}", how=how))

    def compare_with(self) -> None:
        """The photo, the print without the chosen passes, each of the states."""
        easel, comparison = self.context.easel, self.context.easel.comparison
        every: list[str | int] = ["photo", "without", *(state.number for state in self.context.desk.kept.states)]
        at = every.index(comparison.against) if comparison.against in every else 0
        comparison.against = every[(at + 1) % len(every)]
        words = {"photo": "the photo as opened", "without": "the print without the chosen pass"}
        self.context.foot.say(
            tr("Compared with {words}", words=words.get(str(comparison.against)) or easel.compared_with())
        )
        easel.set_compare(comparison.how if comparison.how != COMPARE[0] else COMPARE[1])

    def guides(self) -> None:
        """Other guides within the frame."""
        tool = self.context.easel.frame_tool
        if tool.active:
            self.context.foot.say(tr("Guides: {tool}", tool=tool.next_guides()))

    def marks(self) -> None:
        """Handles, stencil and everything else over the print: hidden, or shown again."""
        easel = self.context.easel
        easel.marks = not easel.marks
        easel.setCursor(Qt.CursorShape.ArrowCursor)
        said = "" if easel.marks else "Everything over the print is hidden; V shows it again"
        self.context.foot.say(said, stay=True)
        easel.update()

    def hold_without(self) -> None:
        """The print without the chosen passes."""
        desk, step = self.context.desk, self.context.desk.selected_pass
        if step is not None:
            script: Script = desk.script.with_run(desk.path, without_chosen(desk))
            count = len(desk.chosen)
            self.context.easel.hold(
                script, tr("without {count}", count=step.title if count == 1 else tr("{count} passes", count=count))
            )


def _off_if_it_waits(step: Pass) -> Pass:
    """A pass that takes seconds, off; any other as it is."""
    return step.model_copy(update={"on": False}) if step.on and step.waits else step
