"""What every page of the Sheet view is built of: values of a sheet, or of a process, by their declarations."""

from __future__ import annotations

from abc import abstractmethod
from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QPushButton

from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.params import Number, Param
from kyanoscript.core.params.kinds import Choice
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.slider import ValueSlider

_LONGEST = 1200.0  # mm: sliders go so far; more can be typed


class SheetFurniture(BuiltPage):
    """Controls by the names of the values."""

    changed = Signal(str, dict)  # what is done, in words, and the values
    began = Signal()
    ended = Signal()
    refused = Signal(str)
    wanted = Signal(str)  # something that is done, by its word

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.unit = "mm"
        self.sliders: dict[str, ValueSlider] = {}
        self.lists: dict[str, QComboBox] = {}
        self.switches: dict[str, QCheckBox] = {}
        self.words: dict[str, QPushButton] = {}
        self.facts, self.remarks = furniture.wrapped(""), furniture.wrapped("")

    def empty(self) -> None:
        """Another page is built."""
        self.sliders, self.lists, self.switches, self.words = {}, {}, {}, {}
        self.facts, self.remarks = furniture.wrapped(""), furniture.wrapped("")
        self.remarks.setObjectName("warning")

    def say(self, facts: str, remarks: str) -> None:
        """What is known of it, and what should be."""
        self.facts.setText(facts)
        self.remarks.setText(remarks)
        self.remarks.setVisible(bool(remarks))

    def main(self, key: str, text: str, help: str) -> None:
        """What is done here first of all."""
        made = QPushButton(text)
        made.setObjectName("main")
        tip(made, help)
        made.clicked.connect(lambda: self.wanted.emit(key))
        self.words[key] = made
        self.add(made)

    def word(self, key: str, text: str, help: str) -> None:
        """Something else that is done here."""
        word = furniture.word(text, help)
        word.clicked.connect(lambda: self.wanted.emit(key))
        self.words[key] = word
        self.add(word)

    @abstractmethod
    def declaration(self, key: str) -> Param:
        """What is known of a value, by its name."""

    def spec(self, key: str) -> Number:
        """The declaration of a length in the unit that is shown; of other numbers their own."""
        spec = self.declaration(key)
        assert isinstance(spec, Number)
        if spec.unit != "mm":
            return spec
        low, high = max(spec.low, 0.0), min(spec.high, _LONGEST)
        if self.unit == "mm":
            return replace(spec, low=low, high=high, decimals=1)
        return replace(spec, low=low / INCH, high=high / INCH, unit="in", step=0.0625, decimals=2)

    def slider(self, key: str, spec: Number | None = None) -> None:
        """A number."""
        spec = spec or self.spec(key)
        slider = ValueSlider(spec, spec.low)
        each = INCH if spec.unit == "in" else 1.0

        def move(value: float) -> None:
            plain = round(value) if spec.whole else round(value * each, 3)
            self.changed.emit(f"{spec.label} {told(value * each, self.unit) if spec.unit in ('mm', 'in') else plain}",
                              {key: plain})  # fmt: skip

        slider.began.connect(self.began)
        slider.ended.connect(self.ended)
        slider.moved.connect(move)
        slider.refused.connect(self.refused)
        self.sliders[key] = slider
        self.add(slider)

    def switch(self, key: str) -> None:
        """On or off."""
        spec = self.declaration(key)
        switch = QCheckBox(spec.label)
        tip(switch, spec.help)
        switch.toggled.connect(lambda on: self.changed.emit(f"{spec.label} {'on' if on else 'off'}", {key: on}))
        self.switches[key] = switch
        self.add(switch)

    def choice(self, key: str) -> QComboBox:
        """One of a few."""
        spec = self.declaration(key)
        assert isinstance(spec, Choice)
        box = shrinking(spec.label)
        tip(box, spec.help)
        for value, text in spec.choices:
            box.addItem(text, value)
        box.currentIndexChanged.connect(
            lambda k: self.changed.emit(f"{spec.label}: {box.itemText(k)}", {key: box.itemData(k)})
        )
        self.lists[key] = box
        return box
