"""The Recipes view: every recipe on this picture; pressed, one is large on the easel, and pressed again it is used."""

from __future__ import annotations

import functools
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View
from kyanoscript.ui.commands.watching import wanted
from kyanoscript.ui.commands.zooming import zooming
from kyanoscript.ui.recipes.strength import STRENGTH
from kyanoscript.ui.service.results import Wanted

if TYPE_CHECKING:
    from kyanoscript.files.kept.recipes import Recipe
    from kyanoscript.ui.recipes.after import Following
    from kyanoscript.ui.recipes.trials import Trials


class Recipes(View):
    """Recipes beside one another, and what is done with one's own."""

    strip = Signal(object, object, object, object, object, object)  # words, Number, value, put, base, from where

    title = "Recipes"
    keys = "Ctrl+2"
    help = "Every recipe on this picture"
    guide = "first-print#2-look-at-it-small-in-every-way"
    wants = "photo"
    refusal = "Open a photograph first; the recipes are shown on it"

    def __init__(self, context: Context, registry: Registry, book: Book, home: View) -> None:
        super().__init__()
        self.context, self.registry, self.book = context, registry, book
        self._home = home  # the view that one goes to from here
        self._trials: Trials | None = None
        self._following: Following | None = None
        book.changed.connect(self._show_contents)
        book.broken.connect(self._tell_broken)

    @property
    def trials(self) -> Trials:
        """What is looked at; made when it is first wanted."""
        if self._trials is None:
            from kyanoscript.ui.recipes.trials import Trials  # not needed for a first look

            context = self.context
            warn = functools.partial(context.foot.say, warning=True)
            self._trials = made = Trials(context.desk, context.service, context.easel, warn)
            made.large_changed.connect(self._other_size)
            made.used.connect(self._use)
            made.page.acts |= {"rename": self.rename, "delete": self.remove, "send_out": self.send_out}
            made.groups.bring_in.connect(self.book.ask_bring_in)
            made.groups.follow.connect(lambda: self.following.ask())
            if self.book.contents is not None:
                made.show_contents(self.book.contents)
        return self._trials

    @property
    def following(self) -> Following:
        """A print that is followed; made when it is first wanted."""
        if self._following is None:
            from kyanoscript.ui.recipes.after import Following

            self._following = made = Following(self.context)
            made.changed.connect(self._other_size)
            made.used.connect(self._use)
        return self._following

    @property
    def follows(self) -> bool:
        """Whether a print is followed."""
        return self._following is not None and self._following.path is not None

    def follow(self, path: Path) -> None:
        """Follow a print, from whatever view."""
        self.registry.go(self)
        if self.registry.view is self:
            self.trials.back()
            self.following.follow(path)

    @property
    def trial(self) -> Recipe | None:
        """The recipe that is large on the easel."""
        return self._trials.trial if self._trials is not None else None

    # What the window asks of a view

    def enter(self) -> None:
        """The recipes, as they were left."""
        self.context.foot.say("")
        self.trials.enter()
        if self.follows:
            self.following.enter()
        self.trials.grid.setFocus()
        self.book.read()

    def again(self) -> None:
        """Back to all recipes."""
        if self.follows:
            self.following.stop()
        self.trials.back()

    def leave(self) -> None:
        """What was tried is not on the easel any more."""
        self.trials.leave()

    def panels(self) -> Panels:
        """All in the middle, or one recipe on the easel and the others in a row below."""
        trials = self.trials
        if self.follows:
            following = self.following
            return Panels(following.nothing, following.page, None, following.pair)
        if trials.trial is None:
            return Panels(trials.groups, trials.page, None, trials.contacts)
        return Panels(trials.groups, trials.page, trials.below)

    def commands(self) -> Handlers:
        """The keys of the Bench, where they mean something here."""
        if self.follows:
            wall = self.following.pair.wall
            photo = Script(frame=self.context.desk.script.frame, develop=self.context.desk.script.develop)
            return {
                **zooming(self.context, wall),
                commands.UNDO: self.book.undo,
                commands.REDO: self.book.redo,
                commands.HOLD_PHOTO: Held(lambda: self.following.hold(photo), lambda: self.following.hold(None)),
            }
        return {
            commands.UNDO: self.book.undo,
            commands.REDO: self.book.redo,
            commands.RENAME: self.rename,
            commands.REMOVE: self.remove,
            commands.STRONGER: lambda: self.trials.strengthen(1),
            commands.WEAKER: lambda: self.trials.strengthen(-1),
            commands.MUCH_STRONGER: lambda: self.trials.strengthen(10),
            commands.MUCH_WEAKER: lambda: self.trials.strengthen(-10),
            commands.TO_NOTHING: lambda: self.trials.strengthen(-100),
            commands.BEFORE: lambda: self.trials.step(-1),
            commands.AFTER: lambda: self.trials.step(1),
            commands.GO_IN: lambda: self.trials.use(),
            commands.STRIP: self.try_strength,
            commands.HOLD_DEVELOP: Held(lambda: self.trials.start_developing(), lambda: self.trials.stop_developing()),
        }

    def undo_words(self) -> tuple[str, str]:
        """Of the recipe folder."""
        return self.book.undo_words

    def chosen(self) -> bool:
        """Whether a recipe is large."""
        return self.trial is not None

    def stops(self) -> list[QWidget]:
        """Easel, recipes, strength, search; or the print, and what was found."""
        if self.follows:
            page = self.following.page
            first = next(iter(page.ticks.values()), None) or page.words.get("back")
            return [self.following.pair.wall, *([first] if first is not None else [])]
        trials = self.trials
        whole = [trials.page.whole] if trials.page.whole is not None else []
        return [self.context.easel, trials.grid, *whole, trials.groups.search]

    def focus(self) -> QWidget | None:
        """The recipes; the easel, if a recipe is on it."""
        if self.follows:
            return self.following.pair.wall
        return None if self.trial is not None else self.trials.grid

    def escape(self) -> bool:
        """From developing to what was before, from a large recipe to all, from there to the Bench."""
        trials = self.trials
        if self.follows:
            self.following.stop()
            return True
        if trials.give_up_developing():
            return True
        if trials.trial is not None:
            trials.back()
        elif trials.groups.search.text():
            trials.groups.search.clear()
        else:
            self.registry.go(self._home)
        return True

    def wanted(self) -> Wanted | None:
        """The recipe that is tried; over all of them, the print."""
        found = wanted(self.context)
        if self.trial is None:
            return found
        return replace(found, script=self.trials.script(), selected=0, within=None)

    def stop_work(self) -> str:
        """In this view nothing of the script changes."""
        if self.trial is not None:
            self.trials.back()
        return "Stopped; the small pictures that need it stay as they were"

    # What is done here

    def _other_size(self) -> None:
        """One recipe is large, or none is any more."""
        self.rearranged.emit()
        if self.registry.view is self:
            (self.focus() or self.context.easel).setFocus()

    def _use(self, label: str, script: Script, select: int) -> None:
        self.registry.go(self._home)
        desk = self.context.desk
        before = desk.script
        desk.change(label, script, select)
        if desk.script != before:
            self.context.foot.say(tr("{label} is on the bench; Ctrl+Z takes it back", label=label))

    def _show_contents(self) -> None:
        if self._trials is not None and self.book.contents is not None:
            self._trials.show_contents(self.book.contents)
        self.rearranged.emit()

    def _tell_broken(self, text: str) -> None:
        if self.registry.view is self:
            self.context.foot.say(text, warning=True, stay=True)

    def try_strength(self) -> None:
        """A test strip of the large recipe's strength."""
        trials, trial = self.trials, self.trial
        if trial is None:
            self.context.foot.say("Press a recipe first; its strength can be tried in steps then")
            return
        base, strength, added = trials.base(), trials.strength, trials.added
        shape = self.context.desk.shape
        put = lambda script, value: trial.used(script, value, added, shape)  # noqa: E731
        self.strip.emit(tr("{name} · Strength", name=trial.name), STRENGTH, strength, put, base, self)

    def rename(self) -> None:
        """Name, note and group of one's own recipe."""
        trial = self.trial
        if trial is None or trial.file is None:
            self.context.foot.say(
                "A recipe that ships keeps its name; use it, and keep the passes as a recipe of your own"
            )
        else:
            self.book.rename(trial, self.trials.page)

    def remove(self) -> None:
        """Delete one's own recipe."""
        trial = self.trial
        if trial is None or trial.file is None:
            self.context.foot.say("Only recipes of your own can be deleted")
        else:
            self.book.remove(trial)

    def send_out(self) -> None:
        """Write the large recipe into a file."""
        if self.trial is not None:
            self.book.ask_send_out(self.trial)
