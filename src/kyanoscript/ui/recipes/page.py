"""The right side of the Recipes view: the recipe that is large on the easel, and what can be done with it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from kyanoscript.core.params import Number
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.recipes.strength import STRENGTH
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.slider import ValueSlider

_WORDS = "Every recipe on this picture. Press one to see it large, and again to use it."


class RecipePage(BuiltPage):
    """Shows a recipe, or what the view is for while none is chosen."""

    added = Signal(bool)  # used after the run, or in its place
    strength = Signal(object, float)  # of a pass by its place, or of the whole recipe: None
    began = Signal()
    ended = Signal()
    given_up = Signal()
    develop = Signal(bool)

    def __init__(self, say: Callable[[str], None]) -> None:
        super().__init__("Recipe")
        self._say = say
        self.whole: ValueSlider | None = None
        self.tries: dict[int, ValueSlider] = {}
        self._told: tuple[QLabel, ...] = ()
        self.show_recipe(None, False)

    def show_recipe(self, recipe: Recipe | None, added: bool) -> None:
        """Build the page."""
        self.whole, self.tries = None, {}
        self._told = () if recipe else (furniture.title("", 18), furniture.wrapped(""), furniture.wrapped(""))
        self.begin(top=16, spacing=8)
        if recipe is None:
            self.add(furniture.title("Recipes"))
            self.add(furniture.wrapped(_WORDS))
        else:
            self.add(furniture.elided_title(recipe.name))
            self.add(furniture.wrapped(recipe.about))
            self._build(recipe)
        self.rule()
        self.add(furniture.label("Laid on", quiet=True))
        self.add(self._switch(added))
        if recipe is not None:
            self.column.addSpacing(4)
            words = "Add it to the run" if added else "Use it in place of the run"
            self.main("use", words, "Return, or press its small picture once more")
            self.line(("back", "Back to all recipes", "All recipes  (Escape)"))
        else:
            self.rule()
            for label in self._told:
                self.add(label)
        self.column.addStretch()
        if recipe is not None:
            self.rule()
            if recipe.file is not None:
                self.line(
                    ("rename", "Name and note…", "Its name, note and group  (F2)"),
                    ("delete", "Delete", "Undo has it"),
                )
            self.line(("send_out", "Export…", "As a file that can be imported elsewhere"))
        self.end()

    def tell(self, recipe: Recipe | None) -> None:
        """Which recipe the pointer is over, while none is large."""
        if self._told:
            name, about, passes = self._told
            name.setText(spoken(recipe.name if recipe else ""))
            about.setText(spoken(recipe.about if recipe else ""))
            passes.setText(spoken(_passes(recipe) if recipe else ""))

    def _build(self, recipe: Recipe) -> None:
        self.whole = self._slider(STRENGTH, 100.0, None)
        develop = QPushButton(spoken("Hold to develop  H"))
        tip(develop, "The look comes up from nothing while this is held; let go where it is right")
        develop.pressed.connect(lambda: self.develop.emit(True))
        develop.released.connect(lambda: self.develop.emit(False))
        self.words["develop"] = develop
        row = QHBoxLayout()
        row.addWidget(develop)
        row.addStretch()
        self.column.addLayout(row)
        run = recipe.script.passes
        tried = [k for k, step in enumerate(run) if step.kind in recipe.tries]
        if tried:
            self.rule()
            self.add(furniture.label("Strengths worth trying", quiet=True))
            for k in tried:
                spec = replace(STRENGTH, label=run[k].title, help=tr("Strength of {title}", title=run[k].title))
                self.tries[k] = self._slider(spec, run[k].strength, k)
        self.rule()
        self.add(furniture.wrapped(_passes(recipe)))

    def _switch(self, added: bool) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        for after, text, help in (
            (False, "The photo", "Used, it takes the place of the run"),
            (True, "The print as it is", "Used, it is added after the run"),
        ):
            word = furniture.word(text, help, checkable=True)
            word.setChecked(after == added)
            word.clicked.connect(lambda _=False, after=after: self.added.emit(after))
            self.words["print" if after else "photo"] = word
            row.addWidget(word)
        row.addStretch()
        return holder

    def _slider(self, spec: Number, value: float, place: int | None) -> ValueSlider:
        made = ValueSlider(spec, value)
        made.began.connect(self.began)
        made.ended.connect(self.ended)
        made.given_up.connect(self.given_up)
        made.moved.connect(lambda to: self.strength.emit(place, to))
        made.refused.connect(self._say)
        self.add(made)
        return made


def _passes(recipe: Recipe) -> str:
    return "  ›  ".join(step.title for step in recipe.script.passes)
