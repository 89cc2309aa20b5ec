"""One's own recipes: read and written in the files' thread, and what was done to them can be taken back."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import Script, mapped
from kyanoscript.files.kept.trust import outside
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Job
from kyanoscript.ui.widgets.naming import Entry, Naming

if TYPE_CHECKING:
    from kyanoscript.files.kept.cookbook import Contents, Cookbook
    from kyanoscript.files.kept.recipes import Recipe

_GROUP = "own"  # unless another is named


class Book(QObject):
    """The recipe folder."""

    changed = Signal()  # it has been read
    broken = Signal(str)  # some of it could not be

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.contents: Contents | None = None
        self.undo_words = ("", "")  # what can be taken back, and done again
        self.naming: Naming | None = None  # the popup that is open, or was last
        self._book: Cookbook | None = None

    def read(self) -> Job:
        """Read the recipes."""
        return self._change(lambda book: None)

    def undo(self) -> None:
        """Take back the last change."""
        self._change(lambda book: book.undo(), tr("Taken back: {undo_words}", undo_words=self.undo_words[0]))

    def redo(self) -> None:
        """Do it again."""
        self._change(lambda book: book.redo(), tr("Done again: {undo_words}", undo_words=self.undo_words[1]))

    def keep(self, beside: QWidget) -> None:
        """Keep the chosen passes as a recipe; the whole run, if none is chosen."""
        from kyanoscript.files.kept.recipes import Recipe  # not needed for a first look

        desk = self.context.desk
        chosen, run = desk.chosen, desk.run
        kept = Script(tuple(run[k] for k in chosen) or run, stencils=desk.script.stencils).settled()
        passes = mapped(kept.passes, self._with_place)
        if not passes:
            self.context.foot.say("There is no pass in the run yet; a recipe is made of passes")
            return
        kinds = tuple(dict.fromkeys(step.kind for step in passes))

        def named(words: list[str]) -> None:
            name, about, group = words
            name = name or passes[-1].title
            made = Recipe("", name, group or _GROUP, about, kinds, Script(passes))
            self._change(lambda book: book.keep(made), tr("{name} is kept; it is among the recipes", name=name))

        self._ask_words(passes[-1].title if len(passes) == 1 else "", "", _GROUP, named, beside)

    def _with_place(self, step: Pass) -> Pass:
        """A pass whose picture is named by its whole path: a recipe is used beside other photographs too."""
        name, pictures = getattr(step, "picture", ""), self.context.desk.pictures
        if not name or pictures is None:
            return step
        return step.model_copy(update={"picture": str(pictures.place(name))})

    def rename(self, recipe: Recipe, beside: QWidget) -> None:
        """Ask for another name, note and group of one's own."""

        def named(words: list[str]) -> None:
            name, about, group = words
            self._change(lambda book: book.change(recipe, name or recipe.name, about, group or _GROUP))

        self._ask_words(recipe.name, recipe.about, recipe.group, named, beside)

    def remove(self, recipe: Recipe) -> None:
        """Delete one's own."""
        self._change(lambda book: book.remove(recipe), tr("{name} is deleted; Ctrl+Z brings it back", name=recipe.name))

    def ask_bring_in(self) -> None:
        """Ask for a recipe's file and copy it among one's own."""
        start, kinds = str(self.context.folders.files), "Recipes (*.json);;All files (*)"
        name, _ = QFileDialog.getOpenFileName(self.context.top, spoken("Import a recipe"), start, kinds)
        if name:
            self.bring_in(Path(name))

    def bring_in(self, path: Path) -> Job:
        """Copy a recipe's file among one's own."""
        from kyanoscript.files.kept.recipes import read_recipe

        self.context.folders.files = path.resolve().parent
        return self.context.jobs.run(
            lambda _: outside(path, read_recipe(path).script),
            failed=self._failed,
            done=lambda others: self._bring_in(path, others),
        )

    def _bring_in(self, path: Path, others: list[Path]) -> None:
        """A recipe from anybody may name any picture: tell which, and ask."""
        answers = ("Import it", "Leave it")
        named = "\n".join(str(picture) for picture in others[:6])
        text = tr("{name} uses pictures outside its own folder:", name=path.name)
        if others and ask(self.context.top, text, named, answers) != answers[0]:
            return
        self._change(lambda book: book.bring_in(path), tr("{name} is among your recipes", name=path.name))

    def ask_send_out(self, recipe: Recipe) -> None:
        """Ask for a file and write a recipe into it."""
        start = str(self.context.folders.files / f"{recipe.word}.json")
        name, _ = QFileDialog.getSaveFileName(self.context.top, spoken("Export the recipe"), start, "Recipes (*.json)")
        if name:
            path = Path(name)
            self.send_out(recipe, path if path.suffix else path.with_suffix(".json"))

    def send_out(self, recipe: Recipe, path: Path) -> Job:
        """Write a recipe into a file."""
        self.context.folders.files = path.resolve().parent
        return self._change(lambda book: book.send_out(recipe, path), tr("Wrote {name}", name=path.name))

    def _ask_words(self, name: str, about: str, group: str, then: Callable[[list[str]], None], beside: QWidget) -> None:
        own = (recipe.group for recipe in self.contents.recipes if recipe.file) if self.contents else ()
        self.naming = Naming(
            self.context.top,
            (
                Entry("Name", name, "Of the recipe", "what the look is called", longest=80),
                Entry("Note", about, "One line of what it does", "one line of what it does", longest=200),
                Entry("Group", group, "Recipes of one group stand together", known=sorted(set(own)), longest=40),
            ),
        )
        self.naming.named.connect(then)
        self.naming.pop_up(beside.mapToGlobal(QPoint(-60, 90)), above=False)

    def _change(self, what: Callable[[Cookbook], object], words: str = "") -> Job:
        """Do something to the recipe folder, then read it."""

        def work(_: Job) -> tuple[Contents, tuple[str, str]]:
            from kyanoscript.files.kept.cookbook import Cookbook

            if self._book is None:
                self._book = Cookbook()
            what(self._book)
            return self._book.read(), (self._book.undo_label, self._book.redo_label)

        def done(found: tuple[Contents, tuple[str, str]]) -> None:
            self.contents, self.undo_words = found
            self.changed.emit()
            if words:
                self.context.foot.say(words)
            elif self.contents.broken:
                self.broken.emit(tr("Left out: {broken}", broken=self.contents.broken[0]))

        return self.context.jobs.run(work, done=done, failed=self._failed)

    def _failed(self, text: str) -> None:
        self.context.foot.say(text, warning=True, stay=True)
