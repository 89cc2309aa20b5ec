"""The two views, and what keys and menus do in the Recipes view. Recipes are read and written in the files' thread."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QFileDialog, QWidget

from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import Script, mapped
from kyanoscript.files.recipes import read_recipe
from kyanoscript.files.trust import outside
from kyanoscript.ui.jobs.lanes import Job
from kyanoscript.ui.widgets.naming import Entry, Naming
from kyanoscript.ui.window.working import Working

if TYPE_CHECKING:
    from kyanoscript.files.cookbook import Contents, Cookbook
    from kyanoscript.files.recipes import Recipe
    from kyanoscript.ui.recipes.view import RecipesView

_GROUP = "own"  # unless another is named


class Cooking(Working):
    """Recipes on this picture, and one's own."""

    def __init__(self) -> None:
        super().__init__()
        self._view: RecipesView | None = None
        self._book: Cookbook | None = None
        self._contents: Contents | None = None
        self.undo_words = ("", "")  # of the recipe folder: what can be taken back, and done again

    @property
    def recipes(self) -> RecipesView:
        """The Recipes view; made when it is first wanted."""
        if self._view is None:
            from kyanoscript.ui.recipes.view import RecipesView  # not needed for a first look

            self._view = view = RecipesView(self.desk, self.service, self.easel)
            self._lay_in(view)
            view.large_changed.connect(self._other_size)
            view.used.connect(self._use)
            view.said.connect(lambda text: self.foot.say(text, warning=True))
            view.asked.connect(
                lambda what: {"rename": self.rename, "delete": self.remove, "send_out": self.send_out}[what]()
            )
            view.groups.bring_in.connect(self.bring_in)
            if self._contents is not None:
                view.show_contents(self._contents)
        return self._view

    @property
    def trial(self) -> Recipe | None:
        """The recipe that is large on the easel."""
        return self._view.trial if self._view is not None and self.view == "recipes" else None

    def _state(self) -> str:
        return "bench" if self.view == "bench" else "large" if self.trial is not None else "sheet"

    def stop_work(self) -> None:
        """End what the foot shows the progress of; in the Recipes view nothing of the script changes."""
        if self._exporting is not None or self.view == "bench":
            super().stop_work()
            return
        self.service.give_up()
        if self.trial is not None:
            self.recipes.back()
        self.foot.say("Stopped; the small pictures that need it stay as they were")

    def _first_of_sheet(self) -> QWidget:
        return self.recipes.grid

    def _can_undo(self) -> tuple[str, str]:
        return super()._can_undo() if self.view == "bench" else self.undo_words

    # Views

    def _other_size(self) -> None:
        """One recipe is large, or none is any more."""
        self._arrange()
        self._retitle()
        if self.view == "recipes":
            (self.easel if self.trial is not None else self.recipes.grid).setFocus()

    def show_bench(self) -> None:
        """The Bench."""
        if self.view != "bench":
            self.recipes.leave()
            self._go("bench")
            self.easel.setFocus()

    def show_recipes(self) -> None:
        """The Recipes view."""
        if self.desk.photo is None:
            self._go(self.view)
            self.foot.say("Open a photograph first; the recipes are shown on it")
            return
        if self.view == "recipes":
            self.recipes.back()
            return
        if self.easel.stencil.on:
            self.draw_stencil()
        self.foot.say("")
        view = self.recipes
        self._go("recipes")
        view.enter()
        view.grid.setFocus()
        self._read()

    def leave_recipe(self) -> bool:
        """Escape: from a large recipe to the sheet, from there to the Bench. False on the Bench."""
        if self.view != "recipes":
            return False
        if self.recipes.give_up_developing():
            self._held_key = 0
        elif self.trial is not None:
            self.recipes.back()
        elif self.recipes.groups.search.text():
            self.recipes.groups.search.clear()
        else:
            self.show_bench()
        return True

    def _use(self, label: str, script: Script, select: int) -> None:
        self.show_bench()
        before = self.desk.script
        self.desk.change(label, script, select)
        if self.desk.script != before:
            self.foot.say(f"{label} is on the bench; Ctrl+Z takes it back")

    def _ask_spot(self) -> None:
        trial = self.trial
        if trial is None:
            super()._ask_spot()
        elif self._pointer is not None:
            wanted = replace(self._wanted(), script=self.recipes.script(), selected=0, within=None)
            self.service.ask_spot(wanted, self.easel.render_scale(), *self._pointer)

    # What keys do there

    def _strength(self, by: float) -> None:
        if self.view == "recipes":
            self.recipes.strengthen(by)
        else:
            super()._strength(by)

    def before(self) -> None:
        """Choose the tray, or the recipe, to the left."""
        if self.view == "recipes":
            self.recipes.step(-1)
        else:
            super().before()

    def after(self) -> None:
        """Choose the tray, or the recipe, to the right."""
        if self.view == "recipes":
            self.recipes.step(1)
        else:
            super().after()

    def go_in(self) -> None:
        """Into a plate's run; in the Recipes view, use the recipe."""
        if self.view == "recipes":
            self.recipes.use()
        else:
            super().go_in()

    def rename(self) -> None:
        """Name and note of the chosen pass, or of one's own recipe."""
        if self.view != "recipes":
            super().rename()
            return
        trial = self.trial
        if trial is None or trial.file is None:
            self.foot.say("A recipe that ships keeps its name; use it, and keep the passes as a recipe of your own")
            return

        def named(words: list[str]) -> None:
            name, about, group = words
            self._change(lambda book: book.change(trial, name or trial.name, about, group or _GROUP))

        self._ask_words(trial.name, trial.about, trial.group, named)

    def remove(self) -> None:
        """Take the chosen passes out, or delete one's own recipe."""
        if self.view != "recipes":
            super().remove()
            return
        trial = self.trial
        if trial is None or trial.file is None:
            self.foot.say("Only recipes of your own can be deleted")
            return
        self._change(lambda book: book.remove(trial), f"{trial.name} is deleted; Ctrl+Z brings it back")

    def undo(self) -> None:
        """Take back: on the bench, or in the recipe folder."""
        if self.view == "recipes":
            self._change(lambda book: book.undo(), f"Taken back: {self.undo_words[0]}")
        else:
            super().undo()

    def redo(self) -> None:
        """Do again."""
        if self.view == "recipes":
            self._change(lambda book: book.redo(), f"Done again: {self.undo_words[1]}")
        else:
            super().redo()

    # One's own

    def keep_recipe(self) -> None:
        """Keep the chosen passes as a recipe; the whole run, if none is chosen."""
        from kyanoscript.files.recipes import Recipe  # not needed for a first look

        chosen, run = self.desk.chosen, self.desk.run
        kept = Script(tuple(run[k] for k in chosen) or run, stencils=self.desk.script.stencils).settled()
        passes = mapped(kept.passes, self._with_place)
        if not passes:
            self.foot.say("There is no pass in the run yet; a recipe is made of passes")
            return
        kinds = tuple(dict.fromkeys(one.kind for one in passes))

        def named(words: list[str]) -> None:
            name, about, group = words
            name = name or passes[-1].title
            made = Recipe("", name, group or _GROUP, about, kinds, Script(passes))
            self._change(lambda book: book.keep(made), f"{name} is kept; it is among the recipes")

        self._ask_words(passes[-1].title if len(passes) == 1 else "", "", _GROUP, named)

    def bring_in(self) -> None:
        """Ask for a recipe's file and copy it among one's own."""
        name, _ = QFileDialog.getOpenFileName(
            self, "Import a recipe", str(self._folder), "Recipes (*.json);;All files (*)"
        )
        if name:
            self.bring_in_file(Path(name))

    def bring_in_file(self, path: Path) -> Job:
        """Copy a recipe's file among one's own."""
        self._folder = path.resolve().parent
        job = self.jobs.run(lambda _: outside(path, read_recipe(path).script))
        job.failed.connect(self._failed)
        job.done.connect(lambda others: self._bring_in(path, others))
        return job

    def _bring_in(self, path: Path, others: list[Path]) -> None:
        """A recipe from anybody may name any picture: tell which, and ask."""
        answers = ("Import it", "Leave it")
        named = "\n".join(str(one) for one in others[:6])
        if others and self._ask(f"{path.name} uses pictures outside its own folder:", named, answers) != answers[0]:
            return
        self._change(lambda book: book.bring_in(path), f"{path.name} is among your recipes")

    def send_out(self) -> None:
        """Ask for a file and write the large recipe into it."""
        trial = self.trial
        if trial is None:
            return
        start = str(self._folder / f"{trial.word}.json")
        name, _ = QFileDialog.getSaveFileName(self, "Export the recipe", start, "Recipes (*.json)")
        if name:
            path = Path(name)
            self.send_out_to(path if path.suffix else path.with_suffix(".json"))

    def send_out_to(self, path: Path) -> Job | None:
        """Write the large recipe into a file."""
        trial = self.trial
        if trial is None:
            return None
        self._folder = path.resolve().parent
        return self._change(lambda book: book.send_out(trial, path), f"Wrote {path.name}")

    def _with_place(self, step: Pass) -> Pass:
        """A pass whose picture is named by its whole path: a recipe is used beside other photographs too."""
        name = getattr(step, "picture", "")
        if not name or self._pictures is None:
            return step
        return step.model_copy(update={"picture": str(self._pictures.place(name))})

    def _ask_words(self, name: str, about: str, group: str, then: Callable[[list[str]], None]) -> None:
        groups = sorted({one.group for one in self._contents.recipes if one.file} if self._contents else ())
        self.naming = Naming(
            self,
            (
                Entry("Name", name, "Of the recipe", "what the look is called", longest=80),
                Entry("Note", about, "One line of what it does", "one line of what it does", longest=200),
                Entry("Group", group, "Recipes of one group stand together", known=groups, longest=40),
            ),
        )
        self.naming.named.connect(then)
        corner = self.slip if self.view == "bench" else self.recipes.page
        self.naming.pop_up(corner.mapToGlobal(QPoint(-60, 90)), above=False)

    def _read(self) -> Job:
        """Read the recipes."""
        return self._change(lambda book: None)

    def _change(self, what: Callable[[Cookbook], object], words: str = "") -> Job:
        """Do something to the recipe folder, then read it."""

        def work(_: Job) -> tuple[Contents, tuple[str, str]]:
            from kyanoscript.files.cookbook import Cookbook

            if self._book is None:
                self._book = Cookbook()
            what(self._book)
            return self._book.read(), (self._book.undo_label, self._book.redo_label)

        def done(found: tuple[Contents, tuple[str, str]]) -> None:
            self._contents, self.undo_words = found
            if self._view is not None:
                self._view.show_contents(self._contents)
            self._retitle()
            if words:
                self.foot.say(words)
            elif self._contents.broken and self.view == "recipes":
                self.foot.say(f"Left out: {self._contents.broken[0]}", warning=True, stay=True)

        job = self.jobs.run(work)
        job.done.connect(done)
        job.failed.connect(lambda text: self.foot.say(text, warning=True, stay=True))
        return job
