"""Controls for declared values, made from their declaration.

Which control a parameter gets, its kind says (`Param.widget`): `_BUILDERS` is the table. What is being changed (a pass,
the frame, a part of a stencil, a brush) is a `Target`; nothing here knows which.
"""

from __future__ import annotations

import functools
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QWheelEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kyanoscript.core.params import Declared, Number, Param
from kyanoscript.core.params.kinds import Choice, Listed, Text
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.files.base.opening import PICTURES
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.fields.colour import ColourField
from kyanoscript.ui.fields.curve import CurveEditor
from kyanoscript.ui.fields.histogram import Histogram
from kyanoscript.ui.fields.ring import RingEditor
from kyanoscript.ui.fields.stops import StopsEditor
from kyanoscript.ui.fields.target import Page, Target
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.choicebox import ChoiceBox
from kyanoscript.ui.widgets.plain import hint, lead, tip
from kyanoscript.ui.widgets.quiet import show_checked, show_choice
from kyanoscript.ui.widgets.slider import ValueSlider

CHANNELS = ("Red", "Green", "Blue")


class Fields:
    """A group of controls on a page, for one target."""

    def __init__(self, page: Page, target: Target, column: QVBoxLayout | None = None) -> None:
        self.page, self.target = page, target
        self.column = page.column if column is None else column

    def follow(self, show: Callable[[Any], None]) -> None:
        """Call ``show`` with the target's values whenever they may have changed."""

        def bring() -> None:
            thing = self.target.thing()
            if thing is not None:
                show(thing)

        self.page.shows.append(bring)

    def add(self, own: dict[str, Param], declared: Declared, group: str = "") -> None:
        """Controls for some of the parameters."""
        marks = {name: spec for name, spec in own.items() if isinstance(spec, Number) and spec.mark}
        if marks:
            self._histogram(marks, group)
        for name, spec in sorted(own.items(), key=lambda item: not item[1].large):
            widget = self.page.rows[name] = _BUILDERS[spec.widget](self, name, spec, declared)
            for part in {widget, self.page.sliders.get(name) or self.page.editors.get(name) or widget}:
                _tell(part, name, spec, declared)
            self.column.addWidget(widget)
            if spec.when:
                self.follow(functools.partial(_show_if_it_means, widget, spec))

    def _wire(self, widget: Any, words: str = "") -> None:
        """Connect the drag of an editor, which says what it does unless ``words`` do, to the target's gesture."""

        def begin(*said: str) -> None:
            self.page.held = True
            self.target.begin(words or said[0])

        def end(how: Callable[[], None]) -> None:
            self.page.held = False
            how()

        widget.began.connect(begin)
        widget.ended.connect(lambda: end(self.target.commit))
        widget.given_up.connect(lambda: end(self.target.abort))

    def _histogram(self, marks: dict[str, Number], group: str) -> None:
        widget = Histogram()
        self.page.marks = tuple(marks)  # they are taken hold of on the ladder
        edges = [name for name, spec in marks.items() if spec.mark == "in"]
        self.follow(lambda p: widget.set_edges([getattr(p, name) for name in edges]))
        channel = CHANNELS.index(group) if group in CHANNELS else None

        def take(survey: Survey) -> None:
            widget.set_counts(survey.histogram if channel is None else survey.channels[channel], group)

        self.page.surveyed.append(take)
        self.page.editors["histogram"] = widget
        self.column.addWidget(widget)

    def number(self, name: str, spec: Number, declared: Any) -> QWidget:
        """A slider."""
        found = self.target.default(declared, name)
        default = self.target.value(name) if found is None else found  # as it is now, where nothing is declared
        slider = ValueSlider(spec, default, longer=self.page.longer())
        _tell(slider, name, spec, declared)
        self._wire(slider, self.target.words(declared, spec, spec.text(default)))

        def move(value: float) -> None:
            words = self.target.words(declared, spec, spec.text(value))
            self.target.set(words, merge=name, **{name: spec.held(value)})

        slider.moved.connect(move)
        slider.refused.connect(self.page.said)
        self.follow(lambda _: slider.set_value(self.target.value(name)))
        self.page.sliders[name] = slider
        return slider

    def combo(self, name: str, spec: Choice, declared: Any) -> QComboBox:
        """A list to choose from."""
        box = shrinking(spec.label)
        tip(box, spec.help)
        _tell(box, name, spec, declared)
        for value, text in spec.choices:
            box.addItem(spoken(text), value)

        def picked(index: int) -> None:
            self.target.set(self.target.words(declared, spec, box.itemText(index)), **{name: box.itemData(index)})

        def show(_: Any) -> None:
            show_choice(box, box.findData(self.target.value(name)))

        box.currentIndexChanged.connect(picked)
        self.follow(show)
        self.page.editors[name] = box
        return box

    def beside(self, text: str, widget: QWidget, *more: QWidget) -> QWidget:
        """A control with its name before it, and what belongs to it behind."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        label = furniture.label(text)
        if self.page.labels:
            label.setFixedWidth(max(self.page.labels, label.sizeHint().width()))
        row.addWidget(label)
        row.addWidget(widget, 1)
        for part in more:
            row.addWidget(part)
        return holder

    def _choice(self, name: str, spec: Choice, declared: Any) -> QWidget:
        return self.beside(spec.label, self.combo(name, spec, declared))

    def _toggle(self, name: str, spec: Param, declared: Any) -> QWidget:
        box = QCheckBox(spoken(spec.label))
        box.setFont(theme.sans(13))
        tip(box, spec.help)

        def show(_: Any) -> None:
            show_checked(box, self.target.value(name))

        box.toggled.connect(lambda on: self.target.set(self.target.words(declared, spec, spec.says(on)), **{name: on}))
        self.follow(show)
        self.page.editors[name] = box
        return box

    def _ring(self, name: str, spec: Param, declared: Any) -> QWidget:
        ring = RingEditor(spec.label, spec.help)
        self._wire(ring)
        ring.moved.connect(
            lambda handles: self.target.set(tr("{label}: ring", label=declared.label), merge=name, **{name: handles})
        )
        self.follow(lambda p: ring.set_ring(getattr(p, name)))
        self.page.surveyed.append(lambda survey: ring.set_rose([float(v) for v in survey.rose]))
        self.page.editors[name] = ring
        return ring

    def _stops(self, name: str, spec: Param, declared: Any) -> QWidget:
        editor = StopsEditor()
        page = self.page
        self._wire(editor)
        editor.moved.connect(lambda stops: self.target.set("Colour of a stop", merge=name, **{name: stops}))
        editor.chosen.connect(page.choose_handle)
        self._colour_wires(editor.colour)
        self.follow(lambda p: editor.show_stops(getattr(p, name), page.handle()))
        self.page.editors[name] = editor
        return editor

    def _colour_wires(self, field: ColourField) -> None:
        """What a colour has beside its value: picking it from the picture, kept inks."""
        page = self.page
        field.refused.connect(page.said)
        field.pick.connect(lambda: page.pick.emit(field.take))
        field.keep.connect(page.keep)
        field.drop.connect(page.drop)
        page.shows.append(lambda: field.show_inks(page.inks()))

    def _colour(self, name: str, spec: Param, declared: Any) -> QWidget:
        field = ColourField(f"{declared.label}: {spec.label.lower()}")
        self._wire(field)
        words = f"{declared.label}: {spec.label.lower()}"
        field.moved.connect(lambda ink: self.target.set(words, merge=name, **{name: ink}))
        self._colour_wires(field)
        self.follow(lambda p: field.show_colour(getattr(p, name)))
        self.page.editors[name] = field
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        swatch = furniture.Swatch(spec.label, spec.help)
        column.addWidget(swatch)
        column.addWidget(field)
        # Where there is more to see than one colour, the plane is folded away behind its swatch.
        large = [s for s in declared.params().values() if s.widget in ("colour", "curve", "stops")]
        field.setVisible(len(large) == 1)
        swatch.clicked.connect(lambda: field.setVisible(not field.isVisible()))
        self.follow(lambda p: swatch.show_colour(getattr(p, name)))
        self.page.editors[f"{name} swatch"] = swatch
        return holder

    def _curve(self, name: str, spec: Param, declared: Any) -> QWidget:
        tint = spec.group if spec.group in CHANNELS else ""
        editor = CurveEditor(spec.label, spec.help, tint)
        self._wire(editor)
        words = tr("Curve: {label}", label=spec.label.lower())
        editor.moved.connect(lambda points: self.target.set(words, merge=name, **{name: points}))
        self.follow(lambda p: editor.show_curve(getattr(p, name)))
        channel = CHANNELS.index(tint) if tint else None
        self.page.surveyed.append(lambda s: editor.set_counts(s.histogram if channel is None else s.channels[channel]))
        self.page.editors[name] = editor
        if spec.label != spec.group:
            self.column.addWidget(furniture.label(spec.label, quiet=True))
        return editor

    def entry(self, name: str, spec: Text, declared: Any) -> QWidget:
        """Words; where they name a file, it can be looked for."""
        entry = QLineEdit()
        entry.setFont(theme.sans(13))
        entry.setAccessibleName(spoken(spec.label))
        tip(entry, spec.help)
        entry.setPlaceholderText(spoken(spec.example))

        def take(text: str) -> None:
            words = self.target.words(declared, spec, "").strip()
            if spec.names == "model" and text:  # it is shown before it is used
                self.page.show_values()
                self.page.model.emit(text)
            else:
                self.target.set(words, **{name: text})

        def typed() -> None:
            text = entry.text().strip()
            if text == self.target.value(name).strip():
                return
            try:
                take(text)
            except ValueError:
                self.page.said.emit(
                    tr("{label}: “{entry}” is not {spec}", label=spec.label, entry=entry.text(), spec=spec.range_text())
                )
                self.page.show_values()

        if spec.live:
            entry.setMaxLength(1000)
            entry.textEdited.connect(take)
        else:
            entry.editingFinished.connect(typed)

        def show(_: Any) -> None:
            if entry.text() != self.target.value(name) and not (spec.live and entry.hasFocus()):
                entry.setText(self.target.value(name))

        self.follow(show)
        self.page.editors[name] = entry
        if spec.names:
            look = furniture.word("Choose…", "Look for the file")

            def choose() -> None:
                folder = self.page.folder()
                kinds = tr("Pictures ({pictures});;All files (*)", pictures=PICTURES)
                start = "" if folder is None else str(folder)
                found, _ = QFileDialog.getOpenFileName(self.page.widget, spoken(spec.label), start, kinds)
                if found:
                    beside = Path(found).parent == folder
                    take(Path(found).name if beside else found)

            look.clicked.connect(choose)
            return self.beside(spec.label, entry, look)
        return self.beside(spec.label, entry)

    def _list(self, name: str, spec: Listed, declared: Any) -> QWidget:
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        count = furniture.label("")
        row.addWidget(count)
        row.addStretch()
        last = furniture.word(
            "Drop the last",
            tr("Take the last of the {what} away", what=spec.what),
            act=lambda: put("drop the last", tuple(getattr(self.target.thing(), name))[:-1]),
        )
        clear = furniture.word("Clear", tr("Take all {what} away", what=spec.what), act=lambda: put("clear", ()))

        def put(words: str, entries: tuple[Any, ...]) -> None:
            values: dict[str, object] = {name: entries}
            self.target.set(f"{declared.label}: {words}", "", **values)

        for button in (last, clear):
            row.addWidget(button)

        def show(p: Any) -> None:
            many = len(getattr(p, name))
            count.setText(spoken(f"{spec.label}: {many or 'none'}"))
            for button in (last, clear):
                button.setEnabled(many > 0)

        self.follow(show)
        self.page.editors[name] = clear
        return holder

    def _run(self, name: str, spec: Param, declared: Any) -> QWidget:
        words = furniture.label("", quiet=True)
        self.follow(
            lambda p: words.setText(
                tr("Its run: {count} passes, in the second row", count=len(getattr(p, name)) or "no")
            )
        )
        return words


def _tell(widget: QWidget, name: str, spec: Param, declared: Any) -> None:
    """What a control does and what goes wrong with it, and where the guide tells of it."""
    hint(widget, spec.help or spec.label, spec.wrong or getattr(declared, "beware", ""))
    lead(widget, place_of(declared, name))


def place_of(declared: Any, name: str) -> str:
    """Where the guide tells of a value."""
    home = "all" if isinstance(declared, Pass) and name in COMMON else _HOMES.get(type(declared).__name__, "")
    home = home or getattr(declared, "kind", "")
    return f"passes#{home}-{name}" if home else "first-print#6-keep-a-few-places-apart"


def _show_if_it_means(widget: QWidget, spec: Param, values: Any) -> None:
    widget.setVisible(spec.means(values))


class AskBox(ChoiceBox):
    """Looks like a list, but what there is to choose is shown elsewhere."""

    asked = Signal()

    def __init__(self, name: str) -> None:
        super().__init__(name)
        self.setFont(theme.sans(13))
        self.addItem("")

    def show_text(self, text: str) -> None:
        """Show what is chosen."""
        self.setItemText(0, spoken(text))

    def showPopup(self) -> None:
        self.asked.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


def shrinking(name: str) -> QComboBox:
    """A list that shows its whole text when opened; closed it takes the room there is."""
    box = ChoiceBox(name)
    box.setFont(theme.sans(13))
    box.setMaxVisibleItems(16)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(6)
    return box


_HOMES = {
    "Frame": "frame", "Develop": "develop", "Process": "process",
    **dict.fromkeys(("Paper", "Placing", "Marks", "Plates", "Film", "Output", "Sheet"), "sheet"),
}  # fmt: skip
_BUILDERS: dict[str, Callable[[Fields, str, Any, Any], QWidget]] = {
    "slider": Fields.number,
    "list": Fields._choice,
    "tick": Fields._toggle,
    "ring": Fields._ring,
    "stops": Fields._stops,
    "curve": Fields._curve,
    "colour": Fields._colour,
    "entry": Fields.entry,
    "entries": Fields._list,
    "run": Fields._run,
}
