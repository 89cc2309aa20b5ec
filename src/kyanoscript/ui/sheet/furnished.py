"""What every page of the Sheet view is built of: values of a sheet, or of a process, by their declarations."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QPushButton, QVBoxLayout, QWidget

from kyanoscript.core.paper.customs import usual_unit
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.params import Number, Param
from kyanoscript.core.params.kinds import Choice
from kyanoscript.translation import spoken
from kyanoscript.ui.fields.fields import Fields, shrinking
from kyanoscript.ui.fields.target import Page, Target
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import lead, tip
from kyanoscript.ui.widgets.slider import ValueSlider

# Each with what it is for, and where the guide tells of it
PAGES = (
    {
        "Paper": ("Its size and kind, its white and black", "paper#size-and-place"),
        "Print": ("How large the print is on it, and where", "paper#size-and-place"),
        "Colour": ("What the printer makes of its colours, and how they are proofed", "paper#proof"),
        "Marks": ("Marks for the knife and for laying plates on each other, a wedge, a caption", "plates#the-press"),
    },
    {
        "Plates": ("To print with inks, one after another, on a press: a gray picture of each ink", "plates"),
        "Negative": (
            "To print with light, on paper coated by hand: a film as large as the print",
            "processes#the-negative",
        ),
        "Process": (
            "How such paper answers to light, measured once; its negatives need it",
            "processes#measure-it-five-steps",
        ),
    },
)
_WHICH = "For a printer the first four are all. Plates are for a press; a negative is for paper coated by hand."
_LONGEST = 1200.0  # mm: sliders go so far; more can be typed


class OnPage(Target):
    """The values that a page of the Sheet view is about; what is done with them it hands on."""

    def __init__(self, page: SheetFurniture) -> None:
        self.page = page

    def thing(self) -> Any:
        return self.page.thing()

    def value(self, name: str) -> Any:
        found = self.page.value(name)
        return found / INCH if self.page.in_inches(name) else found

    def default(self, declared: Any, name: str) -> Any:
        found = super().default(declared, name)
        return found / INCH if found is not None and self.page.in_inches(name) else found

    def words(self, declared: Any, spec: Param, says: str) -> str:
        return f"{spec.label}{':' if isinstance(spec, Choice) else ''} {says}"

    def set(self, label: str, merge: str = "", **values: object) -> None:
        plain = {
            name: round(value * INCH if self.page.in_inches(name) else value, 3) if isinstance(value, float) else value
            for name, value in values.items()
        }
        self.page.changed.emit(label, plain)

    def begin(self, label: str) -> None:
        self.page.began.emit()

    def commit(self) -> None:
        self.page.ended.emit()

    def abort(self) -> None:
        self.page.given_up.emit()


class SheetFurniture(BuiltPage):
    """Controls by the names of the values."""

    changed = Signal(str, dict)  # what is done, in words, and the values
    began = Signal()
    ended = Signal()
    given_up = Signal()

    def __init__(self, name: str, say: Callable[[str], None]) -> None:
        self.unit, self._say = usual_unit(), say
        super().__init__(name)

    @property
    def sliders(self) -> dict[str, ValueSlider]:
        """Sliders, by the names of their values."""
        return self.controls.sliders

    @property
    def editors(self) -> dict[str, QWidget]:
        """Other controls."""
        return self.controls.editors

    @abstractmethod
    def thing(self) -> Any:
        """The values as they are now."""

    @abstractmethod
    def declaration(self, key: str) -> Param:
        """What is known of a value, by its name."""

    def owner(self, key: str) -> Any:
        """What has a value."""
        return self.thing()

    def value(self, key: str) -> Any:
        """A value, lengths in millimetres."""
        return getattr(self.thing(), key)

    def begin(self, top: int = 12, spacing: int = 6) -> QVBoxLayout:
        """Another page is built."""
        column = super().begin(top, spacing)
        self.controls = Page(self, column)
        self.controls.labels = self.labels
        self.controls.said.connect(self._say)
        self.fields = Fields(self.controls, OnPage(self))
        self.facts, self.remarks = furniture.wrapped(""), furniture.wrapped("")
        self.remarks.setObjectName("warning")
        return column

    def say(self, facts: str, remarks: str) -> None:
        """What is known of it, and what should be."""
        self.facts.setText(spoken(facts))
        self.remarks.setText(spoken(remarks))
        self.remarks.setVisible(bool(remarks))

    def is_length(self, key: str) -> bool:
        """Whether it is shown in the unit that is chosen for lengths."""
        return getattr(self.declaration(key), "unit", "") == "mm"

    def in_inches(self, key: str) -> bool:
        """Whether it is a length, and shown so."""
        return self.unit == "in" and self.is_length(key)

    def spec(self, key: str) -> Param:
        """The declaration of a length in the unit that is shown; of other values their own."""
        spec = self.declaration(key)
        if not isinstance(spec, Number) or spec.unit != "mm":
            return spec
        low, high = max(spec.low, 0.0), min(spec.high, _LONGEST)
        if self.unit == "mm":
            return replace(spec, low=low, high=high, decimals=1)
        return replace(spec, low=low / INCH, high=high / INCH, unit="in", step=0.0625, decimals=2)

    def show_value(self, *keys: str) -> None:
        """Controls for values."""
        for key in keys:
            self.fields.add({key: self.spec(key)}, self.owner(key))

    def list(self, key: str, name: str, help: str = "") -> QComboBox:
        """A list of a page's own, in a row with its name."""
        box = shrinking(name)
        tip(box, help)
        self.editors[key] = box
        self.add(self.row(name, box))
        return box


def add_pages(page: SheetFurniture, shown: str, turn: Callable[[str], None]) -> None:
    """The words that lead from page to page of the view; the one that is ``shown`` stays marked."""

    def pressed(name: str, word: QPushButton) -> None:
        word.setChecked(name == shown)
        if name != shown:
            turn(name)

    for names in PAGES:
        words = []
        for name in names:
            about, place = names[name]
            word = furniture.word(name, about, checkable=True)
            lead(word, place)
            word.setChecked(name == shown)
            word.clicked.connect(lambda _=False, name=name, word=word: pressed(name, word))
            words.append(word)
        page.column.addLayout(furniture.in_a_row(*words, spacing=12))
    about, place = next(names[shown] for names in PAGES if shown in names)
    lead(page, place)
    page.column.addWidget(furniture.wrapped(_WHICH if shown in PAGES[0] else f"{about}."))
