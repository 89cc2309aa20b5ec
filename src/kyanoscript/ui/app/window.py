"""The window: puts everything together, and does nothing else."""

from __future__ import annotations

from PySide6.QtCore import QEvent
from PySide6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QStatusTipEvent
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kyanoscript import demo
from kyanoscript.core.passes import load_others
from kyanoscript.files.base import log
from kyanoscript.files.kept.remembered import Remembered
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.app.glimpses import Glimpses
from kyanoscript.ui.app.habits import Habits
from kyanoscript.ui.app.leaving import leave, never_left_open
from kyanoscript.ui.app.masthead import Masthead
from kyanoscript.ui.app.places import Places
from kyanoscript.ui.app.recovery import Recovery
from kyanoscript.ui.app.session import Session
from kyanoscript.ui.app.shell import LEAST
from kyanoscript.ui.bench.row import THUMB_H, THUMB_W
from kyanoscript.ui.bench.slip.begin import Way
from kyanoscript.ui.bench.view import Bench
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.guiding import Guiding
from kyanoscript.ui.commands.keys import Keys
from kyanoscript.ui.commands.looking import Looking
from kyanoscript.ui.commands.memory import Memory
from kyanoscript.ui.commands.menus import Menus
from kyanoscript.ui.commands.monitor import Monitor
from kyanoscript.ui.commands.opening import Opening
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.reporting import Reporting
from kyanoscript.ui.commands.saving import Saving
from kyanoscript.ui.commands.view import View
from kyanoscript.ui.commands.watching import Watching
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.document.keeper import Keeper
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.edition.view import EditionView
from kyanoscript.ui.jobs.lanes import Job, Jobs
from kyanoscript.ui.recipes.view import Recipes
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.sheet.view import SheetView
from kyanoscript.ui.states.view import States
from kyanoscript.ui.strip.view import StripView
from kyanoscript.ui.walks.walking import Walking
from kyanoscript.ui.widgets.plain import hinted

_FIRST = "A demo print. Hold O to see its photograph, H to let the chosen pass come up from nothing."


class Window(QWidget):
    """One photograph with its script, and the views of it."""

    def __init__(self, remembered: Remembered | None = None, keeps: bool = True) -> None:
        super().__init__()
        self.setWindowTitle(spoken("Kyanoscript"))
        self.setAcceptDrops(True)
        self.setMinimumSize(*LEAST)
        desk, service, jobs, foot = Desk(), RenderService(), Jobs(), Foot()
        desk.photo_changed.connect(self._new_source)  # before the easel asks for a view of it
        self.desk, self.service, self.jobs, self.foot = desk, service, jobs, foot
        self.easel = Easel(desk, service)
        self.context = context = Context(desk, service, jobs, foot, self.easel, self)
        self.registry = Registry(desk)
        self.keeper = Keeper(desk, jobs)
        self.book = Book(context)
        self.saving = Saving(context)
        self.opening = Opening(context, self.saving)
        self.printing = Printing(context)
        self.looking = Looking(context, self.registry)
        self.monitor = Monitor(context)
        self.memory = Memory(context)
        self.reporting = Reporting(context)
        self.guiding = Guiding(context, self.registry)
        self.bench = Bench(context, self.registry, self.book)
        self.bench.slip.page_chosen.connect(self.opening.open_page)
        self.bench.slip.begun.connect(self._begin)
        self.recipes = Recipes(context, self.registry, self.book, self.bench)
        self.states = States(context, self.registry, self.bench)
        self.strip = StripView(context, self.registry, self.bench, self.printing)
        self.sheet = SheetView(context, self.registry, self.bench, self.printing)
        self.edition = EditionView(
            context, self.registry, self.bench, self.book, self.opening, lambda: self.habits.files
        )
        self.recipes.strip.connect(self.strip.start_with)
        self.opening.follow.connect(self.recipes.follow)
        self.bench.slip.strip.connect(self.strip.start)
        self.strip.judged = self.states.judged
        self.bench.slip.sought.connect(self.strip.seek_with)
        self.strip.laid.connect(self.sheet.lay_strip)
        self.watching = Watching(context, self.registry, (THUMB_W, THUMB_H))
        self.walking = Walking(self)
        for view in self.views():
            self.registry.add_view(view)
            self.registry.offer(view.anywhere())
        for controller in (
            self.opening,
            self.saving,
            self.printing,
            self.looking,
            self.monitor,
            self.memory,
            self.reporting,
            self.guiding,
            self.walking,
        ):
            self.registry.offer(controller.commands())
        self.registry.offer({commands.QUIT: self.quit})
        self.menus = Menus(self.registry, self, self.easel)
        self.masthead = Masthead(self.registry, self.menus)
        self.recovery = Recovery(context, self.keeper, self.opening)
        self.places = Places(self.masthead, self.recovery, self.easel, foot)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(self.places)
        self.left_behind = False  # it was closed while something was still at work
        self.closed = False  # or on its way to be
        self._connect()
        self.keys = Keys(self, self.registry, desk, self.easel)
        self.keys.came.connect(lambda widget: foot.tell_of(hinted(widget)))
        self.keys.returned.connect(self.saving.look_again)
        self.habits = Habits(
            context, self.looking, self.opening, self.monitor, self.memory, self.bench.slip, self.menus.recent,
            remembered or Remembered(), keeps,
        )  # fmt: skip
        self.glimpses = Glimpses(context) if keeps else None
        self.session = Session(jobs, self.opening, foot, self)
        self._fill_demos()
        self.registry.go(self.bench)
        jobs.run(lambda job: load_others(), done=self._tell_left_out)
        never_left_open(self)
        service.start()

    def views(self) -> tuple[View, ...]:
        """Every view, in the order of the masthead. Another one takes a folder and its name here."""
        return self.bench, self.recipes, self.states, self.strip, self.sheet, self.edition

    def _connect(self) -> None:
        desk, foot, registry = self.desk, self.foot, self.registry
        for signal in (desk.photo_changed, desk.history_changed, desk.selection_changed):
            signal.connect(registry.changed)
        registry.went.connect(self._arrange)
        registry.said.connect(foot.say)
        registry.changed.connect(self._retitle)
        for view in registry.views.values():
            view.rearranged.connect(self._arrange)
        self.looking.rearranged.connect(self._arrange)
        foot.stop.connect(self.stop_work)
        self.service.looking.connect(self._tell_work)
        self.service.failed.connect(foot.warn)
        desk.refused.connect(foot.warn)
        self.keeper.said.connect(foot.warn)

    def _fill_demos(self) -> None:
        """The demo prints, each to be put on the bench."""
        for sample in demo.PRINTS:
            made = self.menus.demos.addAction(spoken(sample.title))
            made.triggered.connect(lambda _=False, sample=sample: self.opening.open(sample.photo, sample.script))

    def _tell_left_out(self, left: tuple[object, ...]) -> None:
        """Passes of other packages that cannot be used: nothing else suffers from them."""
        for one in left:
            log.note(f"left out: {one}")
        if left:
            more = tr(" and {count} more", count=len(left) - 1) if left[1:] else ""
            self.foot.say(tr("Left out: {left}{more}", left=left[0], more=more), warning=True, stay=True)

    def _new_source(self) -> None:
        assert self.desk.photo is not None
        self.service.set_source(self.desk.photo.source, self.desk.pictures)

    def _arrange(self) -> None:
        """Show what belongs to the view."""
        view = self.registry.view
        if view is not None:
            panels = view.panels()
            self.places.arrange(panels, self.looking.bare, view.focus())
            self.foot.show_easel(panels.middle is None or view.zooms)

    def _begin(self, way: Way) -> None:
        """A print is begun with a recipe, looked for among those of a group, or with passes."""
        if way.recipes:
            self.registry.go(self.recipes)
            self.recipes.trials.groups.choose(way.recipes)
        else:
            self.bench.passes.begin(way.text, way.passes)

    def _retitle(self) -> None:
        photo, desk, top = self.desk.photo, self.desk, self.window()
        if photo is None:
            self.masthead.open.tell("", "", "")
            top.setWindowTitle(spoken("Kyanoscript"))
            return
        state = "edited" if desk.edited else (desk.file.name if desk.file else "")
        width, height = desk.print_size()
        self.masthead.open.tell(photo.named.name, f"{width} × {height}", state)
        top.setWindowTitle(
            tr("{name}{edited} – Kyanoscript", name=photo.named.name, edited=" (edited)" if desk.edited else "")
        )

    # Work that takes seconds

    def _tell_work(self, what: str, share: float) -> None:
        """How far long work within a pass has come; while a file is written the foot tells of that."""
        if self.printing.running is not None:
            return
        if share < 1:
            if not self.foot.working:
                self.foot.say(f"{what}…", stay=True)
            self.foot.show_progress(share, "Stop this; the pass is switched off")
        elif self.foot.working:
            self.foot.show_progress(None)
            self.foot.say("")

    def tell_once(self, text: str) -> None:
        """Say something, once there is a print and nothing else to be said."""

        def told(*_: object) -> None:
            if not self.foot.message.text() and not self.foot.working:
                self.easel.painted.disconnect(told)
                self.foot.say(text)

        self.easel.painted.connect(told)

    def stop_work(self) -> None:
        """End what the foot shows the progress of."""
        if self.printing.running is not None:
            self.printing.running.cancel()
        elif self.opening.running is not None:
            self.opening.running.cancel()
        elif self.registry.view is not None:
            self.service.give_up()
            self.foot.say(self.registry.view.stop_work())

    # Coming and going

    def open_demo(self) -> Job | None:
        """The first start: the demo print is on the bench, and one quiet line says what to try first."""
        job = self.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
        if job is not None:
            job.done.connect(self._welcome)
        return job

    def _welcome(self, _: object) -> None:
        self.foot.say(_FIRST, stay=True)
        self.walking.offer()

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QStatusTipEvent):  # the pointer has come to something that there is a line about, or left
            self.foot.tell_of(event.tip())
            return True
        return super().event(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        self.opening.drag(event)

    def dropEvent(self, event: QDropEvent) -> None:
        self.opening.drop(event, self.registry.view)

    def quit(self) -> None:
        """Leave: the whole window, whatever holds this one."""
        self.window().close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if (
            self.closed
            or not all(view.may_close() for view in self.views())
            or (self.desk.edited and not self.opening.may_lose())
        ):
            event.ignore()
            return
        self.closed = True
        self.keys.stop()
        self.keeper.stop()
        self.habits.keep_last()
        for view in self.views():
            view.end()
        self.printing.end()
        self.left_behind = leave(self.context)
        event.accept()

    def end_at_once(self) -> None:
        """The system asks the program to end: what was done goes into the journal, and nothing is asked."""
        self.keys.stop()
        self.keeper.write_now()
        self.jobs.wait(1.0)
