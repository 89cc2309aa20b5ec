"""The right side of the Strip view: of which value, from where to where, how many bands, and what is done with them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox

from kyanoscript.core.params import Number
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.strip.kinds import kinds
from kyanoscript.ui.strip.subject import Axis, Strip, counts
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.plain import hint, tip
from kyanoscript.ui.widgets.quiet import show_choice
from kyanoscript.ui.widgets.slider import ValueSlider

_NO_SECOND = "Second value…"


class StripPage(BuiltPage):
    """Built anew when the values that it is of are others."""

    labels = 44

    of = Signal(int, int)  # which axis, and which of the subjects; −1: no second value
    changed = Signal(object)  # another Strip of the same values

    def __init__(self, say: Callable[[str], None]) -> None:
        super().__init__("Test strip")
        self._say = say
        self.strip: Strip | None = None
        self.sliders: dict[str, ValueSlider] = {}
        self.lists: dict[str, QComboBox] = {}
        self._built: object = None

    def show_empty(self) -> None:
        """There is nothing to try."""
        self._anew()
        kinds(self, "one")
        self.column.addWidget(furniture.title("Test strip"))
        self.column.addWidget(
            furniture.wrapped("One value in steps across the print. Add a pass first; every number of it can be tried.")
        )
        self._done()

    def show_strip(self, strip: Strip, names: Sequence[str], chosen: tuple[int, int], take: str) -> None:
        """The strip as it is: ``names`` of what can be tried, which two are, and what would be taken."""
        self.strip = strip
        built = (tuple(names), chosen, strip.first.subject.spec, strip.second and strip.second.subject.spec)
        if built != self._built:
            self._build(strip, names, chosen)
            self._built = built
        for prefix, axis in (("", strip.first), ("second ", strip.second)):
            if axis is not None:
                self.sliders[f"{prefix}from"].set_value(axis.low)
                self.sliders[f"{prefix}to"].set_value(axis.high)
                self.sliders[f"{prefix}bands"].set_value(axis.count)
                box = self.lists[f"{prefix}steps"]
                box.setItemText(1, spoken(_each(axis) or "even to the eye"))
                show_choice(box, int(axis.eye))
        box = self.lists["shows"]
        show_choice(box, int(strip.same))
        for name, down in (("across", False), ("down", True)):
            self.words[name].setChecked(strip.down == down)
            self.words[name].setVisible(strip.second is None)
        self.words["take"].setText(tr("Take {take}", take=take))

    def _build(self, strip: Strip, names: Sequence[str], chosen: tuple[int, int]) -> None:
        self._anew()
        column = self.column
        kinds(self, "one" if strip.second is None else "two")
        column.addWidget(furniture.title("Test strip"))
        about = "One value in steps across the print" if strip.second is None else "Two values at once, as a field"
        column.addWidget(furniture.wrapped(about))
        column.addWidget(furniture.line())
        column.addWidget(self.row("Of", self._names("of", names, chosen[0], 0)))
        self._axis(strip.first, "")
        column.addWidget(self.row("With", self._names("with", [_NO_SECOND, *names], chosen[1] + 1, 1)))
        if strip.second is not None:
            self._axis(strip.second, "second ")
        shows = shrinking("What every band shows")
        for text in ("its own part of the print", "all of them the same part"):
            shows.addItem(spoken(text))
        tip(shows, "The same part can be dragged over the print")
        shows.currentIndexChanged.connect(lambda index: self._put(same=bool(index)))
        self.lists["shows"] = shows
        column.addWidget(self.row("Shows", shows))
        for name, text, down in (("across", "Across", False), ("down", "Down", True)):
            self.words[name] = furniture.word(
                text, "How the bands lie", checkable=True, act=lambda down=down: self._put(down=down)
            )
        column.addLayout(furniture.in_a_row(self.words["across"], self.words["down"]))
        column.addWidget(furniture.line())
        self.main("take", "Take", "Return: the chosen value; one step of undo")
        for entry in (
            ("keep", "Keep every band as a state", "They hang in the States view then"),
            ("write", "Write the strip…", "As a picture with its labels"),
            ("lay", "Lay it on the sheet", "In the place of the print, to be printed and judged on paper"),
        ):
            self.add(self.word(*entry))
        self._done()

    def _axis(self, axis: Axis, prefix: str) -> None:
        spec, field = axis.subject.spec, bool(prefix) or (self.strip is not None and self.strip.second is not None)
        least, most = counts(field)
        count = Number(label="Bands", help="How many steps", low=least, high=most, whole=True)
        for name, label, help, value in (
            ("from", "From", "The first band", axis.low),
            ("to", "To", "The last band", axis.high),
        ):
            self._slider(f"{prefix}{name}", replace(spec, label=label, help=help), value, prefix)
        self._slider(f"{prefix}bands", count, axis.count, prefix)
        steps = shrinking("Steps")
        hint(steps, "How the values lie between the first and the last", "Even numbers are seldom even to the eye")
        steps.addItem(spoken("equal"))
        steps.addItem(spoken("even to the eye"))
        steps.currentIndexChanged.connect(lambda index: self._put_axis(prefix, eye=bool(index)))
        self.lists[f"{prefix}steps"] = steps
        self.column.addWidget(self.row("Steps", steps))

    def _slider(self, name: str, spec: Number, value: float, prefix: str) -> None:
        slider = ValueSlider(spec, value)
        key = {"from": "low", "to": "high", "bands": "count"}[name.removeprefix("second ")]
        slider.moved.connect(lambda to: self._put_axis(prefix, **{key: round(to) if key == "count" else to}))
        slider.refused.connect(self._say)
        self.sliders[name] = slider
        self.column.addWidget(slider)

    def _names(self, name: str, names: Sequence[str], at: int, axis: int) -> QComboBox:
        box = shrinking("Of which value" if not axis else "With which second value")
        hint(box, "Every number of the print can be laid in steps", "Two values at once are hard to judge on few bands")
        for text in names:
            box.addItem(spoken(text))
        box.setCurrentIndex(at)
        box.currentIndexChanged.connect(lambda index: self.of.emit(axis, index - axis))
        self.lists[name] = box
        return box

    def _put(self, **values: bool) -> None:
        if self.strip is not None:
            self.changed.emit(replace(self.strip, **values))  # type: ignore[arg-type]

    def _put_axis(self, prefix: str, **values: object) -> None:
        strip = self.strip
        if strip is None:
            return
        axis = strip.second if prefix else strip.first
        assert axis is not None
        made: Axis = replace(axis, **values)  # type: ignore[arg-type]
        self.changed.emit(replace(strip, second=made) if prefix else replace(strip, first=made))

    def _anew(self) -> None:
        self.sliders, self.lists, self.words = {}, {}, {}
        self.begin()

    def _done(self) -> None:
        self.column.addStretch()
        self._built = None
        self.end()


def _each(axis: Axis) -> str:
    """How far apart bands are to the eye, where that is a ratio."""
    values = axis.values
    if not axis.subject.spec.ratio or len(values) < 2 or values[0] <= 0:
        return ""
    ratio = (values[-1] / values[0]) ** (1 / (len(values) - 1))
    return tr("to the eye: each {ratio:.2f} times", ratio=ratio)
