"""The Strip view: a value in steps across the print, narrowed by eye, and taken; or several, by choosing."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from kyanoscript.core.params import Number
from kyanoscript.core.script import Script, walk
from kyanoscript.core.script.dials import Dial
from kyanoscript.core.seek.seek import MOST
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.bench.view import Bench
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View
from kyanoscript.ui.commands.zooming import zooming
from kyanoscript.ui.document.desk import FRAME

if TYPE_CHECKING:
    from kyanoscript.ui.strip.search import Search
    from kyanoscript.ui.strip.trial import Trial

Put = Callable[[Script, float], Script]


class StripView(View):
    """See a value in steps before it is chosen."""

    title = "Strip"
    keys = "Ctrl+4"
    help = "A value in steps across the print"
    guide = "states#strips"
    wants = "photo"
    refusal = "Open a photograph first; a strip is of its print"
    zooms = True
    laid = Signal(object)  # a strip, for the sheet

    def __init__(self, context: Context, registry: Registry, home: Bench, printing: Printing) -> None:
        super().__init__()
        self.context, self.registry, self._home, self._printing = context, registry, home, printing
        self._trial: Trial | None = None
        self._search: Search | None = None
        self.seeking = False  # several values, by choosing among prints
        self.judged: Callable[[], Iterable[tuple[Script, Script]]] = tuple  # pairs judged blind, the better first
        self._from: View | None = None  # the view that a recipe's strength is tried from

    @property
    def trial(self) -> Trial:
        """What is tried; made when it is first wanted."""
        if self._trial is None:
            from kyanoscript.ui.strip.trial import Trial  # not needed for a first look

            self._trial = made = Trial(self.context, self._printing)
            made.taken.connect(self._take)
            made.laid.connect(self.laid)
            made.several.connect(lambda: self.turn(True))
        return self._trial

    @property
    def search(self) -> Search:
        """What is sought; made when it is first wanted."""
        if self._search is None:
            from kyanoscript.ui.strip.search import Search

            self._search = made = Search(self.context, self.trial.script)
            made.judged = lambda: self.judged()
            made.taken.connect(self._found)
            made.changed.connect(self.registry.changed)
            made.page.acts |= {
                "one": lambda: self._strip(False),
                "two": lambda: self._strip(True),
                "several": lambda: self.turn(True),
            }
        return self._search

    def turn(self, seeking: bool) -> None:
        """From strips to several values, or back."""
        if seeking != self.seeking:
            (self.search if self.seeking else self.trial).leave()
            self.seeking = seeking
            self.rearranged.emit()
            self._enter()
        elif seeking:
            self.search.page.show_kind()

    def _strip(self, two: bool) -> None:
        self.turn(False)
        self.trial.set_kind(two)

    def seek_with(self, dial: Dial) -> None:
        """One value more is to be sought."""
        if self.search.add(dial):
            count, name = len(self.search.sought), spoken(dial.words(self.context.desk.script))
            self.context.foot.say(
                trn(
                    "{name}: {count} value to be sought; Ctrl+4, Several",
                    "{name}: {count} values to be sought; Ctrl+4, Several",
                    count,
                    name=name,
                    count=count,
                )
            )
        else:
            self.context.foot.say(tr("{most} values are sought already, and more cannot be", most=MOST))

    def start(self, dial: Dial | None = None) -> None:
        """A strip of a number of the script; None: of that which has the keyboard on the slip, or the pass's first."""
        self._from = None
        self.trial.strip = None
        if dial is None:
            dial = self._home.slip.dial_in_hand()
        trial = self.trial
        if self.registry.view is self:
            self.turn(False)
        self.seeking = False
        self.registry.go(self)
        trial.begin(dial)

    def start_with(self, words: str, spec: Number, value: float, put: Put, base: Script, start: View) -> None:
        """A strip of something else, as a recipe's strength; Escape goes back to where it came from."""
        from kyanoscript.ui.strip.subject import Subject

        self._from = start
        trial = self.trial
        self.seeking = False
        self.registry.go(self)
        trial.begin_with(Subject(words, spec, value, put), base)

    # What the window asks of a view

    def enter(self) -> None:
        """A strip of what is chosen, or the search as it was left."""
        self._enter()

    def _enter(self) -> None:
        if self.seeking:
            self.context.foot.say("Press the print you like best; press the middle one if none is better")
            self.search.enter()
            self.search.wall.setFocus()
            return
        self.context.foot.say(
            "Press the band you like; press it again to go on between its neighbours, in half the steps"
        )
        self.trial.enter()
        self.trial.bands.setFocus()

    def leave(self) -> None:
        """It goes."""
        (self.search if self.seeking else self.trial).leave()
        self.context.easel.zoomed.emit()

    def panels(self) -> Panels:
        """Bands, page, every band whole; or the prints to choose from, and the way so far."""
        if self.seeking:
            search = self.search
            return Panels(search.nothing, search.page, search.below, search.wall)
        trial = self.trial
        return Panels(trial.nothing, trial.page, trial.below, trial.bands)

    def commands(self) -> Handlers:
        """The keys of the Bench, where they mean something here."""
        if self.seeking:
            search = self.search
            return {
                **zooming(self.context, search.wall),
                commands.UNDO: search.back,
                commands.REDO: search.forth,
                commands.KEEP_STATE: search.keep,
                commands.HOLD_PHOTO: Held(search.hold_photo, lambda: search.hold(None)),
                commands.HOLD_OTHER: Held(search.hold_start, lambda: search.hold(None)),
            }
        bands, desk = self.trial.bands, self.context.desk
        return {
            **zooming(self.context, bands),
            commands.UNDO: desk.undo,
            commands.REDO: desk.redo,
            commands.HOLD_PHOTO: Held(self._hold_photo, lambda: bands.hold(None)),
        }

    def anywhere(self) -> Handlers:
        """A strip of a value can be asked for wherever it is set."""
        return {commands.STRIP: self.start}

    def undo_words(self) -> tuple[str, str]:
        """Of the script; of a search, its looks."""
        if self.seeking:
            search = self.search
            return ("the last look" if search.at else ""), ("the look" if search.at < len(search.way) - 1 else "")
        return self.context.desk.undo_label, self.context.desk.redo_label

    def stops(self) -> list[QWidget]:
        """Bands, page."""
        if self.seeking:
            stop = self.search.page.stop()
            return [self.search.wall, *([stop] if stop is not None else [])]
        first = next(iter(self.trial.page.sliders.values()), None)
        return [self.trial.bands, *([first] if first is not None else [])]

    def focus(self) -> QWidget | None:
        """The bands, or the prints."""
        return self.search.wall if self.seeking else self.trial.bands

    def escape(self) -> bool:
        """Everything stays as it was."""
        self.registry.go(self._from or self._home)
        return True

    # What is done here

    def _take(self, words: str, script: Script, dial: object) -> None:
        desk = self.context.desk
        before = desk.script
        self.registry.go(self._home)
        desk.change(words, script)
        if isinstance(dial, Dial):
            self._select(dial)
        if desk.script == before:
            self.context.foot.say("That is the value it had; nothing was changed")
        else:
            self.context.foot.say(tr("{words}: taken; Ctrl+Z takes it back", words=words))

    def _found(self, words: str, script: Script) -> None:
        desk = self.context.desk
        before = desk.script
        self.registry.go(self._home)
        desk.change(words, script)
        if desk.script == before:
            self.context.foot.say("Those are the values it had; nothing was changed")
        else:
            self.context.foot.say(tr("{words}: taken; Ctrl+Z takes it back", words=words))

    def _select(self, dial: Dial) -> None:
        """Choose the tray of what was tried."""
        desk = self.context.desk
        if dial.of == "frame":
            desk.select(FRAME, ())
        for path in _paths(desk.script, dial.step):
            desk.select(path[-1], path[:-1])

    def _hold_photo(self) -> None:
        script = self.context.desk.script
        self.trial.bands.hold(Script(frame=script.frame, develop=script.develop))


def _paths(script: Script, word: str, path: tuple[int, ...] = ()) -> list[tuple[int, ...]]:
    """Where the pass of an identity stands."""
    found = []
    for k, step in enumerate(script.run(path)):
        if step.id == word:
            found.append((*path, k))
        elif any(inner.id == word for inner in walk(step.run)):
            found += _paths(script, word, (*path, k))
    return found
