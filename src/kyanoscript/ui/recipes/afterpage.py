"""The right side while a print is followed: what was found, with a tick and a strength each."""

from __future__ import annotations

import functools

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox

from kyanoscript.core.after.following import Followed
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.recipes.strength import STRENGTH
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import hint
from kyanoscript.ui.widgets.slider import ValueSlider

_RECIPE = "It stands for all the rest; untick it to follow the print without it"


class AfterPage(BuiltPage):
    """Built anew when another print is followed, or when something is ticked."""

    ticked = Signal(str, bool)
    strength = Signal(str, float)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__("After a print")
        self.ticks: dict[str, QCheckBox] = {}
        self.sliders: dict[str, ValueSlider] = {}

    def show_waiting(self, name: str) -> None:
        """The print is being looked at."""
        self.ticks, self.sliders = {}, {}
        self.begin(top=16, spacing=8)
        self.add(furniture.title("After a print"))
        self.add(furniture.wrapped(tr("Looking at {name}…", name=name)))
        self.line(("back", "Back to all recipes", "Nothing is followed then  (Escape)"))
        self.column.addStretch()
        self.end()

    def show_found(self, name: str, followed: Followed, chosen: dict[str, tuple[bool, float]]) -> None:
        """What was found; ``chosen`` says what is wanted, and how strong."""
        self.ticks, self.sliders = {}, {}
        self.begin(top=16, spacing=6)
        self.add(furniture.title("After a print"))
        scene = (
            tr("{name}: the same scene, laid over it", name=name)
            if followed.same
            else tr("{name}: another scene", name=name)
        )
        self.add(furniture.wrapped(scene))
        self.rule(2)
        taken = {one.key for one in followed.taken(chosen)}
        for one in followed.found:
            on, strength = chosen[one.key]
            tick = QCheckBox(spoken(one.title))
            tick.setFont(theme.sans(13))
            tick.setChecked(on and one.key in taken)  # a recipe stands for all the rest
            tick.setEnabled("recipe" not in taken or one.key == "recipe")
            hint(tick, _RECIPE if one.key == "recipe" else "As an ordinary pass, to be changed on the bench")
            tick.toggled.connect(functools.partial(self.ticked.emit, one.key))
            self.ticks[one.key] = tick
            self.add(tick)
            self.add(furniture.wrapped(one.words))
            if one.key in taken and one.key != "recipe":
                slider = ValueSlider(STRENGTH, strength)
                slider.setAccessibleName(tr("Strength of {title}", title=spoken(one.title)))
                slider.moved.connect(functools.partial(self.strength.emit, one.key))
                slider.refused.connect(self.refused)
                self.sliders[one.key] = slider
                self.add(slider)
        if not followed.found:
            self.add(furniture.wrapped("Nothing that could be followed was found."))
        for words in followed.left:
            self.rule(2)
            self.add(furniture.wrapped(words))
        self.column.addSpacing(4)
        self.main("use", "Use it in place of the run", "Onto the bench, as ordinary passes; undo has what was there")
        self.words["use"].setEnabled(bool(taken))
        for entry in (
            ("another", "Another print…", "The picture of another print to follow"),
            ("back", "Back to all recipes", "Nothing is followed then  (Escape)"),
        ):
            self.add(self.word(*entry))
        self.column.addStretch()
        self.end()
