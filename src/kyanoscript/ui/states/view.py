"""The States view: kept versions side by side, how they differ, and going on from any."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QWidget

from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View
from kyanoscript.ui.commands.zooming import zooming
from kyanoscript.ui.widgets.naming import Entry, Naming

if TYPE_CHECKING:
    from kyanoscript.ui.states.gallery import Gallery


class States(View):
    """Several answers at once."""

    title = "States"
    keys = "Ctrl+3"
    help = "Kept versions of the print, side by side"
    guide = "states"
    wants = "photo"
    refusal = "Open a photograph first; states are versions of its print"
    zooms = True

    def __init__(self, context: Context, registry: Registry, home: View) -> None:
        super().__init__()
        self.context, self.registry, self._home = context, registry, home
        self._gallery: Gallery | None = None
        self.naming: Naming | None = None
        context.desk.kept.refused.connect(lambda text: context.foot.say(text, warning=True))

    @property
    def gallery(self) -> Gallery:
        """What is looked at; made when it is first wanted."""
        if self._gallery is None:
            from kyanoscript.ui.states.gallery import Gallery  # not needed for a first look

            self._gallery = made = Gallery(self.context)
            made.judging_changed.connect(self.rearranged)
            made.changed.connect(self.registry.changed)
            made.bench_wanted.connect(self._to_the_bench)
            made.rename.connect(self.rename)
            made.keep.connect(self.keep)
        return self._gallery

    def judged(self) -> list[tuple[Script, Script]]:
        """Pairs that were judged blind, the better first."""
        return self._gallery.judge.pairs() if self._gallery is not None else []

    # What the window asks of a view

    def enter(self) -> None:
        """As it was left."""
        self.context.foot.say("")
        self.gallery.enter()
        self.gallery.wall.setFocus()
        self.rearranged.emit()

    def again(self) -> None:
        """From judging back to the wall."""
        if self.gallery.judging:
            self.gallery.stop_judging()

    def leave(self) -> None:
        """It goes."""
        self.gallery.leave()
        self.context.foot.show_words("")
        self.context.easel.zoomed.emit()

    def panels(self) -> Panels:
        """Rack, wall, page, descent; while one judges only the pair."""
        gallery = self.gallery
        if gallery.judging:
            return Panels(gallery.nothing, gallery.judge.page, None, gallery.wall)
        return Panels(gallery.rack.area, gallery.page, gallery.below, gallery.wall)

    def commands(self) -> Handlers:
        """The keys of the Bench, where they mean something here."""
        gallery = self.gallery
        common = zooming(self.context, gallery.wall)
        if gallery.judging:
            return {
                **common,
                commands.BEFORE: lambda: gallery.judge.choose(0),
                commands.AFTER: lambda: gallery.judge.choose(1),
                commands.WEAKER: lambda: gallery.judge.choose(None),
                commands.UNDO: gallery.judge.take_back,
                commands.JUDGE: gallery.stop_judging,
            }
        return {
            **common,
            commands.UNDO: gallery.past.undo,
            commands.REDO: gallery.past.redo,
            commands.RENAME: self.rename,
            commands.REMOVE: gallery.let_go,
            commands.BEFORE: lambda: gallery.step(-1),
            commands.AFTER: lambda: gallery.step(1),
            commands.JUDGE: gallery.start_judging,
            commands.HOLD_OTHER: Held(lambda: gallery.flick(True), lambda: gallery.flick(False)),
            commands.HOLD_PHOTO: Held(lambda: gallery.hold_photo(True), lambda: gallery.hold_photo(False)),
        }

    def undo_words(self) -> tuple[str, str]:
        """Of the states, or of the bench, whichever was worked on last here."""
        judge = self.gallery.judge
        if self.gallery.judging:
            return ("the last round" if judge.rounds and not judge.showing else ""), ""
        return self.gallery.past.words

    def chosen(self) -> bool:
        """Something always is."""
        return True

    def stops(self) -> list[QWidget]:
        """Wall, page, rack."""
        gallery = self.gallery
        first = next(iter(gallery.page.words.values()), None)
        return [gallery.wall, *([first] if first is not None else []), gallery.rack]

    def focus(self) -> QWidget | None:
        """The wall."""
        return self.gallery.wall

    def escape(self) -> bool:
        """From judging to the wall, from there to the Bench."""
        if self.gallery.judging:
            self.gallery.stop_judging()
        else:
            self.registry.go(self._home)
        return True

    # What is done here, and from any view

    def anywhere(self) -> Handlers:
        """What is done with states whatever the view."""
        return {
            commands.KEEP_STATE: self.keep,
            commands.JUDGE: self.judge,
            commands.HOLD_OTHER: Held(self._hold_origin, lambda: self.context.easel.hold(None)),
        }

    def judge(self) -> None:
        """From another view: go here and begin."""
        self.registry.go(self)
        if self.registry.view is self:
            self.gallery.start_judging()

    def _hold_origin(self) -> None:
        """On the easel, the state that the print was made from; the last one, if from none."""
        desk = self.context.desk
        states = desk.kept.states
        state = desk.kept.find(desk.origin[0]) or (states[-1] if states else None)
        if state is None:
            self.context.foot.say("There are no states yet; S keeps the print as one")
        else:
            self.context.easel.hold(replace(state.script, origin=0), tr("state {title}", title=state.title))

    def keep(self) -> None:
        """Keep the print as it is on the bench."""
        desk = self.context.desk
        same = desk.kept.same_as(desk.script)
        if same is not None:
            self.context.foot.say(tr("This print is kept already, as state {title}", title=same.title))
            return
        state = desk.kept.keep()
        if state is None:
            return
        if self._gallery is not None and self._gallery.active:
            self._gallery.past.with_states()
        where = "" if self.registry.view is self else "; Ctrl+3 shows all states"
        self.context.foot.say(tr("Kept as state {title}{where}", title=state.title, where=where))

    def rename(self) -> None:
        """Name and note of the chosen state."""
        state = self.gallery.state()
        if state is None:
            self.context.foot.say("The photo and the bench have their names; choose a state")
            return
        entries = (
            Entry("Name", state.name, "Of the state", "what this state is", longest=80),
            Entry("Note", state.note.replace("\n", "; "), "Anything worth remembering about it"),
        )
        self.naming = Naming(self.context.top, entries)
        self.naming.named.connect(self.gallery.describe)
        self.naming.pop_up(self.gallery.page.mapToGlobal(QPoint(-60, 60)), above=False)

    def _to_the_bench(self, words: str) -> None:
        self.registry.go(self._home)
        self.context.foot.say(words)
