"""The right side of the Process page: what is known of the process, and what is done at this step."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal, SignalInstance
from PySide6.QtWidgets import QCheckBox, QComboBox, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from kyanoscript.core.colour import parse_hex
from kyanoscript.core.params import Param
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import called, charts
from kyanoscript.core.process.process import Process
from kyanoscript.core.quoting import cut
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet.furnished import SheetFurniture
from kyanoscript.ui.sheet.page import PAGES
from kyanoscript.ui.sheet.process.steps import CURVE, EXPOSE, PROVE, READ, WEDGE
from kyanoscript.ui.sheet.process.worked import Worked
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.quiet import show_checked, show_choice

CHARTS = tuple((chart.word, chart.about) for chart in charts())
SHOWN = ("Scan", "Curve", "Both")

# What is done, by the word that the controller knows it by: text, help
_ABOUT = {
    WEDGE: "Print it on film as it is: no colour management, the ink and settings that negatives will have.",
    EXPOSE: "Lay it on the paper, expose, develop, dry. Then scan the dried print whole, all four markers in it.",
    READ: "A press on a square leaves it out, or takes it back.",
    CURVE: "The film gets what makes the print even.",
    PROVE: "Print the wedge through the curve, expose and read it: what is left is told.",
}


@dataclass(frozen=True)
class State:
    """What the page shows."""

    worked: Worked
    step: int
    chart: str
    bath: str
    shown: str
    adding: bool
    own: bool  # one's own process, that can be changed
    dragging: bool = False  # a value is being slid: the page stays as it is


class ProcessPage(SheetFurniture):
    """Built anew when the step or the process is another."""

    labels = 86

    turned = Signal(str)  # to another page of the sheet
    chart_chosen = Signal(str)
    bath_chosen = Signal(str)
    showing = Signal(str)
    adding = Signal(bool)

    def __init__(self) -> None:
        super().__init__("Process")
        self.ink: QLineEdit | None = None
        self.known: dict[str, QLabel] = {}  # facts by their names
        self._built: object = None
        self.state: State | None = None

    def declaration(self, key: str) -> Param:
        return Process.params()[key]

    def show_state(self, state: State) -> None:
        """The process as it is."""
        process = state.worked.process
        facts = state.worked.facts()
        built = (process.name, state.step, tuple(name for name, _ in facts), state.worked.said, state.worked.wrong,
                 state.own, bool(process.proof), not called(state.chart).is_wedge)  # fmt: skip
        self.state = state
        if built != self._built and not (state.dragging and self._built is not None):
            self._build(state)
            self._built = built
        for name, value in facts:
            if name in self.known:
                self.known[name].setText(value)
        for key, slider in self.sliders.items():
            slider.set_value(getattr(process, key))
        for key, switch in self.switches.items():
            show_checked(switch, state.adding if key == "adding" else bool(getattr(process, key)))
        for key, box in self.lists.items():
            value = {"chart": state.chart, "bath": state.bath}.get(key) or getattr(process, key)
            show_choice(box, box.findData(value))
        for name in SHOWN:
            if name in self.words:
                self.words[name].setChecked(state.shown == name)
        if self.ink is not None and not self.ink.hasFocus():
            self._show_ink(process.ink)

    def _build(self, state: State) -> None:
        self.empty()
        self.known, self.ink = {}, None
        column = self.begin()
        process = state.worked.process
        column.addWidget(furniture.elided_title(process.name))
        known = ", ".join(word for word in (process.paper, process.chemistry) if word)
        column.addWidget(furniture.elided(known or "How it answers, and the curve for it"))
        self._pages()
        column.addWidget(furniture.line())
        for name, value in state.worked.facts():
            self.add(self._fact(name, value))
        for words in (*state.worked.said, *((state.worked.wrong,) if state.worked.wrong else ())):
            warning = furniture.wrapped(words[:1].upper() + words[1:])
            warning.setObjectName("warning")
            self.add(warning)
        self.rule(2)
        {WEDGE: self._wedge, EXPOSE: self._expose, READ: self._read, CURVE: self._curve, PROVE: self._prove}[
            state.step
        ](state)
        self.add(furniture.wrapped(_ABOUT[state.step]))
        self.rule(2)
        self._row(("about", "About it…", "Its name, paper, chemistry, light and notes (F2)"),
                  ("export", "Keep as a file…", "A process file, for another machine or person"))  # fmt: skip
        if state.own:
            self._row(("cgats", "Readings as text…", "CGATS.17"), ("remove", "Take away", "Undo brings it back (Del)"))
        else:
            self.add(furniture.wrapped("It ships with the program; what is changed is kept as one of your own."))
        column.addStretch()
        self.end()

    def _pages(self) -> None:
        """The words that lead back to the sheet."""
        for pages in PAGES:
            row = QHBoxLayout()
            row.setSpacing(12)
            for page in pages:
                word = furniture.word(page, checkable=True)
                word.setChecked(page == "Process")
                word.clicked.connect(lambda _=False, page=page, word=word: self._turn(page, word))
                row.addWidget(word)
            row.addStretch()
            self.column.addLayout(row)

    def _turn(self, page: str, word: QPushButton) -> None:
        word.setChecked(page == "Process")
        if page != "Process":
            self.turned.emit(page)

    def _fact(self, name: str, value: str) -> QWidget:
        label = furniture.label(value)
        label.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.known[name] = label
        return self.row(name, label)

    # The steps

    def _wedge(self, state: State) -> None:
        self.add(self.row("Chart", self._list("chart", "Chart", CHARTS, self.chart_chosen)))
        self._film()
        self.main("write", "Write the chart…", "TIFF, PNG or PDF at its exact size")

    def _expose(self, state: State) -> None:
        self.slider("minutes")
        self.add(self.row("In the bench", self._list("bath", "Process of the bench darkroom",
                                                     [(key, bath.label.lower()) for key, bath in BATHS.items()],
                                                     self.bath_chosen)))  # fmt: skip
        self.main("practise", "Expose in the bench darkroom", "A stand-in: it exposes, scans and reads the chart")

    def _read(self, state: State) -> None:
        self.main("scan", "Read a scan…", "Of the dried print, all four markers in it")
        self._row(("typed", "Type or paste…", "L*, densities or reflectances"),
                  ("list", "From a file…", "CGATS.17, or values as text"))  # fmt: skip
        self._row(("densitometer", "Bench densitometer", "A stand-in: measures the wedge patch after patch, ± 0.01 D"))
        switch = QCheckBox("Average with the readings there are")
        tip(switch, "Else new readings take the place of the old")
        switch.toggled.connect(self.adding)
        self.switches["adding"] = switch
        self.add(switch)
        self.slider("white")
        self._shown()

    def _curve(self, state: State) -> None:
        self.add(self.row(Process.params()["aim"].label, self.choice("aim")))
        self.slider("smoothing")
        self._film()
        self.main("use", "Use it for the negative", "Of the print on the bench, on the Negative page")
        self._shown()

    def _prove(self, state: State) -> None:
        self.main("proof", "Write the wedge through the curve…", "TIFF, PNG or PDF at its exact size")
        self._row(("scan proof", "Read its scan…", "Of the dried proof"),
                  ("practise proof", "Practise", "In the bench darkroom: exposed, scanned and read"))  # fmt: skip
        if state.worked.process.proof:
            self._row(("improve", "Improve the curve with it", "The proof's readings join the others"))
        self._shown()

    # Their furniture

    def _film(self) -> None:
        """What is true of all film of this process."""
        entry = QLineEdit()
        entry.setAccessibleName("Filter ink")
        tip(entry, "The colour of ink that holds the light back, as #rrggbb; the chart of filter inks finds it")
        entry.setMaxLength(7)
        entry.editingFinished.connect(lambda: self._take_ink(entry))
        self.ink = entry
        self.add(self.row("Filter ink", entry))
        self.switch("mirrored")
        self.switch("negative")

    def _show_ink(self, ink: str) -> None:
        assert self.ink is not None
        self.ink.setText(ink)
        self.ink.setStyleSheet(f"QLineEdit {{ border-left: 28px solid {display.ink(ink).name()}; }}")

    def _take_ink(self, entry: QLineEdit) -> None:
        text = entry.text().strip()
        assert self.state is not None
        if text == self.state.worked.process.ink:
            return
        try:
            parse_hex(text)
        except ValueError:
            self.refused.emit(f"{cut(text) or 'nothing'} is no colour; write it as #7fae2e")
            self._show_ink(self.state.worked.process.ink)
            return
        self.changed.emit("Filter ink", {"ink": text})

    def _row(self, *entries: tuple[str, str, str]) -> None:
        row = QHBoxLayout()
        row.setSpacing(14)
        for key, text, help in entries:
            word = furniture.word(text, help)
            word.clicked.connect(lambda _=False, key=key: self.wanted.emit(key))
            self.words[key] = word
            row.addWidget(word)
        row.addStretch()
        self.column.addLayout(row)

    def _shown(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(14)
        for name in SHOWN:
            word = furniture.word(name, "In the middle", checkable=True)
            word.clicked.connect(lambda _=False, name=name: self.showing.emit(name))
            self.words[name] = word
            row.addWidget(word)
        row.addStretch()
        self.column.addLayout(row)

    def _list(self, key: str, name: str, entries: Sequence[tuple[str, str]], chosen: SignalInstance) -> QComboBox:
        """Something that is chosen here and is no value of the process."""
        box = shrinking(name)
        for value, text in entries:
            box.addItem(text, value)
        box.currentIndexChanged.connect(lambda k: chosen.emit(box.itemData(k)))
        self.lists[key] = box
        return box
