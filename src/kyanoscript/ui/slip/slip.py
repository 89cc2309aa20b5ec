"""The slip of the selected pass, generated from its declaration.

Which control a parameter gets depends on its kind alone: `_BUILDERS` is the table. A pass needs no code here.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.core.frame import Frame
from kyanoscript.core.params import Param
from kyanoscript.core.passes.base import COMMON, Pass
from kyanoscript.ui import controls, theme
from kyanoscript.ui.desk import Desk
from kyanoscript.ui.service import RenderService, Survey
from kyanoscript.ui.slip.curve import CurveEditor
from kyanoscript.ui.slip.histogram import HistogramMarks
from kyanoscript.ui.slip.ring import RingEditor
from kyanoscript.ui.slip.stops import StopsEditor

_DEVELOP_SECONDS = 6.0  # from nothing to the full strength while the button is held

Show = Callable[[Pass], None]  # brings a control up to date with a pass


class Slip(QWidget):
    """The controls of one pass."""

    said = Signal(str)  # something for the foot
    double = Signal()
    remove = Signal()
    touch = Signal()
    turn_left = Signal()
    turn_right = Signal()

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__()
        self.desk = desk
        self.setFixedWidth(304)
        self.setAccessibleName("Slip")
        self._survey: Survey | None = None
        self._touching = False
        self._touch_word: QPushButton | None = None
        self._retired: QWidget | None = None
        self._built_for: tuple[int, str] | None = None
        self._group: dict[str, str] = {}  # which group of a pass's parameters was shown last
        self._shows: list[Show] = []
        self._surveyed: list[Callable[[Survey], None]] = []
        self.sliders: dict[str, controls.ValueSlider] = {}
        self.editors: dict[str, QWidget] = {}
        self._clock = QTimer(self)
        self._clock.setInterval(16)
        self._clock.timeout.connect(self._develop)
        self._developing = 0.0
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        outer.addWidget(self._scroll)
        desk.script_changed.connect(self._follow)
        desk.selection_changed.connect(self._follow)
        desk.handle_changed.connect(self._follow)
        desk.photo_changed.connect(self._rebuild)
        service.survey.connect(self._take)
        self._rebuild()

    def _follow(self, *_: object) -> None:
        one = self.desk.selected_thing
        if (self.desk.selected, one.kind if one else "") != self._built_for:
            self._rebuild()
        elif one is not None:
            self._show(one)

    def _show(self, one: Any) -> None:
        """Bring every control up to date; values that come from the picture are shown as they are."""
        if getattr(one, "auto", False) and self.desk.taken:
            one = one.model_copy(update={n: v for n, v in self.desk.taken.items() if n in one.suggests})
        for show in self._shows:
            show(one)

    def _take(self, survey: Survey) -> None:
        self._survey = survey
        if survey.wanted.selected == self.desk.selected and survey.taken != self.desk.taken:
            self.desk.taken = survey.taken
            if self.desk.selected_pass is not None:
                self._show(self.desk.selected_pass)
        for show in self._surveyed:
            show(survey)

    # Building

    def _rebuild(self) -> None:
        one = self.desk.selected_thing
        self._built_for = (self.desk.selected, one.kind if one else "")
        self._shows, self._surveyed, self.sliders, self.editors = [], [], {}, {}
        page = QWidget()
        page.setObjectName("page")
        column = QVBoxLayout(page)
        column.setContentsMargins(20, 8, 16, 8)
        column.setSpacing(3)
        if one is None:
            self._build_photo(column)
        elif isinstance(one, Frame):
            self._build_frame(column, one)
        else:
            self._build_pass(column, one)
        column.addStretch()
        old = self._scroll.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
            self._retired = old  # the button that asked for another page may still be in its own signal
        self._scroll.setWidget(page)
        if one is not None:
            self._show(one)
        if self._survey is not None:
            for take in self._surveyed:
                take(self._survey)

    def _build_photo(self, column: QVBoxLayout) -> None:
        photo = self.desk.photo
        column.addWidget(controls.title("Photo"))
        if photo is None:
            column.addWidget(controls.label("Nothing is open yet", quiet=True))
            return
        rows = [
            photo.path.name,
            f"{photo.width} × {photo.height} pixels, {photo.width * photo.height / 1e6:.1f} megapixels",
            photo.kind,
            f"{photo.ppi:.0f} pixels per inch" if photo.ppi else "",
            *photo.notes,
            "This file is never written to.",
        ]
        for text in rows:
            if text:
                shown = controls.label(text, quiet=text != photo.path.name)
                shown.setWordWrap(True)
                column.addWidget(shown)

    def _build_frame(self, column: QVBoxLayout, one: Frame) -> None:
        head = QHBoxLayout()
        head.addWidget(controls.title(one.label))
        head.addStretch()
        back = controls.word("Put back", "The whole photograph, as it was opened")
        back.clicked.connect(lambda: self.desk.set_values("Put the frame back", **dict(Frame())))
        head.addWidget(back)
        column.addLayout(head)
        column.addWidget(controls.wrapped(one.about))
        column.addSpacing(4)
        column.addWidget(controls.line())
        params = one.params()
        self._fields(column, {n: params[n] for n in ("ratio", "stand", "tilt")}, one, "")
        row = QHBoxLayout()
        for text, help, signal in (
            ("Turn left", "A quarter turn  ([)", self.turn_left),
            ("Turn right", "A quarter turn  (])", self.turn_right),
        ):
            button = controls.word(text, help)
            button.clicked.connect(signal)
            row.addWidget(button)
        row.addStretch()
        column.addLayout(row)
        self._fields(column, {n: params[n] for n in ("flip", "width", "height", "x", "y")}, one, "")
        size = controls.label("", quiet=True)
        self._shows.append(lambda _: size.setText("{} × {} pixels".format(*self.desk.print_size())))
        column.addWidget(size)
        column.addWidget(
            controls.wrapped(
                "Drag inside the frame to move it, outside to tilt it. Shift-drag along a horizon sets it level. "
                "G changes the guides."
            )
        )

    def _build_pass(self, column: QVBoxLayout, one: Pass) -> None:
        head = QHBoxLayout()
        head.addWidget(controls.title(one.label))
        head.addStretch()
        for text, help, signal in (
            ("Double", "Double this pass  (D)", self.double),
            ("Remove", "Take this pass out of the run  (Delete)", self.remove),
        ):
            button = controls.word(text, help)
            button.clicked.connect(signal)
            head.addWidget(button)
        column.addLayout(head)
        column.addWidget(controls.wrapped(one.about))
        params = one.params()
        self._number(column, "strength", params["strength"], one)
        self._strength_row(column, params["blend"], one)
        self._stencil(column, one)
        column.addSpacing(4)
        column.addWidget(controls.line())
        if one.starts:
            self._starts(column, one)
        own = {name: spec for name, spec in params.items() if name not in COMMON and spec.shown}
        groups = list(dict.fromkeys(spec.group for spec in own.values() if spec.group))
        if len(groups) > 1:
            self._groups(column, one, own, groups)
            own = {name: spec for name, spec in own.items() if not spec.group}
        self._fields(column, own, one, "")
        remark = controls.label("", quiet=True)
        row = QHBoxLayout()
        row.addWidget(remark)
        row.addStretch()
        self._touch_word = None
        if one.touches:
            self._touch_word = controls.word("Touch  T", "Press on the picture and drag up or down", checkable=True)
            self._touch_word.setChecked(self._touching)
            self._touch_word.clicked.connect(self.touch)
            row.addWidget(self._touch_word)
        column.addLayout(row)
        self._shows.append(lambda p: (remark.setText(p.remarks()), remark.setVisible(bool(p.remarks())))[0])

    def show_touch(self, on: bool) -> None:
        """Show whether Touch is on."""
        self._touching = on
        if self._touch_word is not None:
            self._touch_word.setChecked(on)

    def _stencil(self, column: QVBoxLayout, one: Pass) -> None:
        """Where the pass acts, and a word that lets it act everywhere."""
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        text = controls.label("", quiet=True)
        row.addWidget(text)
        row.addStretch()
        off = controls.word("Take off", "The pass acts everywhere again")
        off.clicked.connect(lambda: self.desk.set_values(f"{one.label}: take the stencil off", stencil=None))
        row.addWidget(off)

        def show(p: Pass) -> None:
            holder.setVisible(p.stencil is not None)
            if isinstance(p.stencil, str):
                text.setText(f"Stencil  {p.stencil}")
            elif p.stencil is not None:
                count = len(p.stencil.shapes)
                text.setText(f"Stencil  {count} {'shape' if count == 1 else 'shapes'}")

        self._shows.append(show)
        self.editors["stencil"] = off
        column.addWidget(holder)

    def _strength_row(self, column: QVBoxLayout, spec: Param, one: Pass) -> None:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.develop = QPushButton("Hold to develop   H")
        self.develop.setObjectName("main")
        self.develop.setToolTip("Press and hold: the pass comes up from nothing; let go where the eye says stop")
        self.develop.pressed.connect(self.start_developing)
        self.develop.released.connect(self.stop_developing)
        row.addWidget(self.develop)
        blend = self._combo(spec, one, "blend")
        blend.setAccessibleName("Blend")
        row.addWidget(blend, 1)
        column.addLayout(row)

    def _combo(self, spec: Param, one: Pass, name: str) -> QComboBox:
        box = QComboBox()
        box.setFont(theme.sans(13))
        box.setToolTip(spec.help)
        box.setAccessibleName(spec.label)
        _let_shrink(box)
        for value, text in spec.choices:
            box.addItem(text, value)

        def picked(index: int) -> None:
            value = box.itemData(index)
            self.desk.set_values(f"{one.label}: {spec.label.lower()} {box.itemText(index)}", **{name: value})

        def show(p: Pass) -> None:
            box.blockSignals(True)
            box.setCurrentIndex(box.findData(getattr(p, name)))
            box.blockSignals(False)

        box.currentIndexChanged.connect(picked)
        self._shows.append(show)
        self.editors[name] = box
        return box

    def _starts(self, column: QVBoxLayout, one: Pass) -> None:
        row = QHBoxLayout()
        row.addWidget(controls.label("Start from", quiet=True))
        box = QComboBox()
        box.setFont(theme.sans(13))
        box.setAccessibleName("Start from")
        _let_shrink(box)
        box.addItem("own values")
        for text in one.starts:
            box.addItem(text)

        def picked(index: int) -> None:
            if index > 0:
                text = box.itemText(index)
                self.desk.set_values(f"{one.label}: {text}", **one.starts[text])

        def show(p: Pass) -> None:
            values = dict(p)
            fits = [k + 1 for k, s in enumerate(p.starts.values()) if all(values[n] == v for n, v in s.items())]
            box.blockSignals(True)
            box.setCurrentIndex(fits[0] if fits else 0)
            box.blockSignals(False)

        box.currentIndexChanged.connect(picked)
        self._shows.append(show)
        self.editors["start"] = box
        row.addWidget(box, 1)
        column.addLayout(row)

    def _groups(self, column: QVBoxLayout, one: Pass, own: dict[str, Param], groups: list[str]) -> None:
        """Several groups of parameters, one shown at a time."""
        chosen = self._group.get(one.kind, groups[0])
        row = QHBoxLayout()
        row.setSpacing(10)
        together = QButtonGroup(self._scroll)
        holder = QWidget()
        inner = QVBoxLayout(holder)
        inner.setContentsMargins(0, 0, 0, 0)
        inner.setSpacing(3)
        for name in groups:
            button = controls.word(name, checkable=True)
            button.setChecked(name == chosen)
            together.addButton(button)
            row.addWidget(button)
            button.clicked.connect(lambda _=False, name=name: self._show_group(one.kind, name))
            self.editors[f"group {name}"] = button
        row.addStretch()
        column.addLayout(row)
        column.addWidget(holder)
        self._fields(inner, {n: s for n, s in own.items() if s.group == chosen}, one, chosen)

    def _show_group(self, kind: str, name: str) -> None:
        self._group[kind] = name
        self._rebuild()

    def _fields(self, column: QVBoxLayout, own: dict[str, Param], one: Pass, group: str) -> None:
        marks = {name: spec for name, spec in own.items() if spec.mark}
        if marks:
            self._histogram(column, marks, group)
        for name, spec in sorted(own.items(), key=lambda item: item[1].kind not in ("ring", "stops", "curve")):
            _BUILDERS[spec.kind](self, column, name, spec, one)

    def _histogram(self, column: QVBoxLayout, marks: dict[str, Param], group: str) -> None:
        widget = HistogramMarks(marks)
        self._wire(widget)
        widget.moved.connect(lambda name, value: self.desk.set_values("Tones on the histogram", **{name: value}))
        self._shows.append(lambda p: widget.set_values({name: getattr(p, name) for name in marks}))
        channel = ("Red", "Green", "Blue").index(group) if group in ("Red", "Green", "Blue") else None

        def take(survey: Survey) -> None:
            widget.set_counts(survey.histogram if channel is None else survey.channels[channel], group)

        self._surveyed.append(take)
        self.editors["histogram"] = widget
        column.addWidget(widget)

    def _wire(self, widget: Any) -> None:
        """Connect the drag of an editor to the desk's gesture."""
        widget.began.connect(self.desk.begin)
        widget.ended.connect(self.desk.commit)
        widget.given_up.connect(self.desk.abort)

    def _number(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        slider = controls.ValueSlider(spec, type(one).model_fields[name].default, longer=self._longer())
        words = f"{one.label}: {(spec.group + ' ').lower() if spec.group else ''}{spec.label.lower()}"
        slider.began.connect(lambda: self.desk.begin(words))
        slider.moved.connect(lambda value: self.desk.set_values(words, merge=name, **{name: value}))
        slider.ended.connect(self.desk.commit)
        slider.given_up.connect(self.desk.abort)
        slider.refused.connect(self.said)
        self._shows.append(lambda p: slider.set_value(getattr(p, name)))
        self.sliders[name] = slider
        column.addWidget(slider)

    def _longer(self) -> float | None:
        """The photograph's longer side, in which lengths are shown."""
        photo = self.desk.photo
        return float(max(photo.width, photo.height)) if photo else None

    def _choice(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        row = QHBoxLayout()
        row.addWidget(controls.label(spec.label))
        row.addWidget(self._combo(spec, one, name), 1)
        column.addLayout(row)

    def _toggle(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        box = QCheckBox(spec.label)
        box.setFont(theme.sans(13))
        box.setToolTip(spec.help)

        def show(p: Pass) -> None:
            box.blockSignals(True)
            box.setChecked(getattr(p, name))
            box.blockSignals(False)

        box.toggled.connect(lambda on: self.desk.set_values(f"{one.label}: {spec.label.lower()}", **{name: on}))
        self._shows.append(show)
        self.editors[name] = box
        column.addWidget(box)

    def _ring(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        ring = RingEditor(spec.label, spec.help)
        self._wire(ring)
        ring.moved.connect(lambda handles: self.desk.set_values(f"{one.label}: ring", merge=name, **{name: handles}))
        self._shows.append(lambda p: ring.set_ring(getattr(p, name)))
        self._surveyed.append(lambda survey: ring.set_rose([float(v) for v in survey.rose]))
        self.editors[name] = ring
        column.addWidget(ring)

    def _stops(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        editor = StopsEditor()
        self._wire(editor)
        editor.moved.connect(lambda stops: self.desk.set_values("Colour of a stop", merge=name, **{name: stops}))
        editor.chosen.connect(self.desk.choose_handle)
        editor.refused.connect(self.said)
        self._shows.append(lambda p: editor.show_stops(getattr(p, name), self.desk.handle))
        self.editors[name] = editor
        column.addWidget(editor)

    def _curve(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        tint = spec.group if spec.group in ("Red", "Green", "Blue") else ""
        editor = CurveEditor(spec.label, spec.help, tint)
        self._wire(editor)
        editor.moved.connect(
            lambda points: self.desk.set_values(f"Curve: {spec.label.lower()}", merge=name, **{name: points})
        )
        self._shows.append(lambda p: editor.show_curve(getattr(p, name)))
        channel = ("Red", "Green", "Blue").index(tint) if tint else None
        self._surveyed.append(lambda s: editor.set_counts(s.histogram if channel is None else s.channels[channel]))
        self.editors[name] = editor
        if spec.label != spec.group:
            column.addWidget(controls.label(spec.label, quiet=True))
        column.addWidget(editor)

    def _entry(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        row = QHBoxLayout()
        row.addWidget(controls.label(spec.label))
        entry = QLineEdit()
        entry.setFont(theme.sans(13))
        entry.setAccessibleName(spec.label)
        entry.setToolTip(spec.help)

        def typed() -> None:
            try:
                self.desk.set_values(f"{one.label}: {spec.label.lower()}", **{name: entry.text().strip()})
            except ValueError:
                self.said.emit(f"{spec.label}: “{entry.text()}” is not {spec.range_text()}")
                if self.desk.selected_pass is not None:
                    entry.setText(getattr(self.desk.selected_pass, name))

        entry.editingFinished.connect(typed)
        self._shows.append(lambda p: entry.setText(getattr(p, name)))
        self.editors[name] = entry
        row.addWidget(entry, 1)
        column.addLayout(row)

    def _list(self, column: QVBoxLayout, name: str, spec: Param, one: Pass) -> None:
        row = QHBoxLayout()
        count = controls.label("")
        row.addWidget(count)
        row.addStretch()
        clear = controls.word("Clear", f"Take all {spec.unit} away")
        clear.clicked.connect(lambda: self.desk.set_values(f"{one.label}: clear", **{name: ()}))
        row.addWidget(clear)

        def show(p: Pass) -> None:
            many = len(getattr(p, name))
            count.setText(f"{spec.label}: {many or 'none'}")
            clear.setEnabled(many > 0)

        self._shows.append(show)
        self.editors[name] = clear
        column.addLayout(row)

    # Hold to develop

    def start_developing(self) -> None:
        """The pass comes up from nothing while this is held."""
        if self.desk.selected_pass is None or self._clock.isActive():
            return
        self.desk.begin("Develop")
        self.desk.set_values("Develop", strength=0.0)
        self._developing = time.monotonic()
        self._clock.start()

    def _develop(self) -> None:
        share = min(1.0, (time.monotonic() - self._developing) / _DEVELOP_SECONDS)
        self.desk.set_values("Develop", strength=round(share * 100, 1))

    def stop_developing(self) -> None:
        """Let go: the strength stays where it is."""
        if self._clock.isActive():
            self._clock.stop()
            self.desk.commit()

    def give_up_developing(self) -> bool:
        """Escape: the strength is as before. False if nothing was being developed."""
        if not self._clock.isActive():
            return False
        self._clock.stop()
        self.desk.abort()
        return True


def _let_shrink(box: QComboBox) -> None:
    """A list shows its whole text when opened; closed it takes the room there is."""
    box.setMaxVisibleItems(16)
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(6)


_BUILDERS: dict[str, Callable[[Slip, QVBoxLayout, str, Param, Pass], None]] = {
    "number": Slip._number,
    "choice": Slip._choice,
    "toggle": Slip._toggle,
    "ring": Slip._ring,
    "stops": Slip._stops,
    "curve": Slip._curve,
    "colour": Slip._entry,
    "text": Slip._entry,
    "list": Slip._list,
}
