"""The right side of the Process page: what is known of the process, and what is done at this step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PySide6.QtCore import Qt, Signal, SignalInstance
from PySide6.QtWidgets import QCheckBox, QLabel, QLineEdit, QWidget

from kyanoscript.core.colour import parse_hex
from kyanoscript.core.params import Param
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import called, charts
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.core.quoting import cut
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet.furnished import SheetFurniture, add_pages
from kyanoscript.ui.sheet.process.steps import CURVE, EXPOSE, PROVE, READ, WEDGE
from kyanoscript.ui.sheet.process.worked import Worked
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.quiet import show_checked, show_choice

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

    def __init__(self, say: Callable[[str], None]) -> None:
        super().__init__("Process", say)
        self.known: dict[str, QLabel] = {}  # facts by their names
        self._built: object = None
        self.state: State | None = None

    def thing(self) -> Process:
        return self.state.worked.process if self.state is not None else AS_IT_IS

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
                self.known[name].setText(spoken(value))
        self.controls.show_values()
        for name in SHOWN:
            if name in self.words:
                self.words[name].setChecked(state.shown == name)

    def _build(self, state: State) -> None:
        self.known = {}
        column = self.begin()
        process = state.worked.process
        column.addWidget(furniture.elided_title(process.name))
        known = ", ".join(word for word in (process.paper, process.chemistry) if word)
        column.addWidget(furniture.elided(known or "How it answers, and the curve for it"))
        add_pages(self, "Process", self.turned.emit)
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
        self.line(("about", "About it…", "Its name, paper, chemistry, light and notes (F2)"),
                  ("export", "Keep as a file…", "A process file, for another machine or person"))  # fmt: skip
        if state.own:
            self.line(("cgats", "Readings as text…", "CGATS.17"), ("remove", "Take away", "Undo brings it back (Del)"))
        else:
            self.add(furniture.wrapped("It ships with the program; what is changed is kept as one of your own."))
        column.addStretch()
        self.end()

    def _fact(self, name: str, value: str) -> QWidget:
        label = furniture.label(value)
        label.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.known[name] = label
        return self.row(name, label)

    # The steps

    def _wedge(self, state: State) -> None:
        self._list(
            "chart",
            "Chart",
            "Which squares of grays, or inks, are written and read",
            tuple((chart.word, chart.about) for chart in charts()),
            lambda state: state.chart,
            self.chart_chosen,
        )
        self._film()
        self.main("write", "Write the chart…", "TIFF, PNG or PDF at its exact size")

    def _expose(self, state: State) -> None:
        self.show_value("minutes")
        baths = [(key, bath.label.lower()) for key, bath in BATHS.items()]
        self._list(
            "bath",
            "In the bench",
            "What the bench darkroom's paper is coated with",
            baths,
            lambda state: state.bath,
            self.bath_chosen,
        )
        self.main("practise", "Expose in the bench darkroom", "A stand-in: it exposes, scans and reads the chart")

    def _read(self, state: State) -> None:
        self.main("scan", "Read a scan…", "Of the dried print, all four markers in it")
        self.line(("typed", "Type or paste…", "L*, densities or reflectances"),
                  ("list", "From a file…", "CGATS.17, or values as text"))  # fmt: skip
        self.line(("densitometer", "Bench densitometer", "A stand-in: measures the wedge patch after patch, ± 0.01 D"))
        switch = QCheckBox(spoken("Average with the readings there are"))
        tip(switch, "Else new readings take the place of the old")
        switch.toggled.connect(self.adding)
        self.controls.shows.append(lambda: show_checked(switch, self.state is not None and self.state.adding))
        self.editors["adding"] = switch
        self.add(switch)
        self.show_value("white")
        self._shown()

    def _curve(self, state: State) -> None:
        self.show_value("aim", "smoothing")
        self._film()
        self.main("use", "Use it for the negative", "Of the print on the bench, on the Negative page")
        self._shown()

    def _prove(self, state: State) -> None:
        self.main("proof", "Write the wedge through the curve…", "TIFF, PNG or PDF at its exact size")
        self.line(("scan proof", "Read its scan…", "Of the dried proof"),
                  ("practise proof", "Practise", "In the bench darkroom: exposed, scanned and read"))  # fmt: skip
        if state.worked.process.proof:
            self.line(("improve", "Improve the curve with it", "The proof's readings join the others"))
        self._shown()

    # Their furniture

    def _film(self) -> None:
        """What is true of all film of this process."""
        entry = InkEntry()
        entry.given.connect(lambda ink: self.changed.emit("Filter ink", {"ink": ink}))
        entry.refused.connect(self.controls.said)
        self.controls.shows.append(lambda: entry.show_ink(self.thing().ink))
        self.editors["ink"] = entry
        self.add(self.row("Filter ink", entry))
        self.show_value("mirrored", "negative")

    def _shown(self) -> None:
        words = []
        for name in SHOWN:
            word = furniture.word(name, "In the middle", checkable=True, act=lambda name=name: self.showing.emit(name))
            self.words[name] = word
            words.append(word)
        self.column.addLayout(furniture.in_a_row(*words))

    def _list(
        self, key: str, name: str, help: str, entries: Sequence[tuple[str, str]], now: Callable[[State], str],
        chosen: SignalInstance,
    ) -> None:  # fmt: skip
        """Something that is chosen here and is no value of the process."""
        box = self.list(key, name, help)
        for value, text in entries:
            box.addItem(spoken(text), value)
        box.currentIndexChanged.connect(lambda k: chosen.emit(box.itemData(k)))
        self.controls.shows.append(lambda: show_choice(box, box.findData(now(self.state)) if self.state else -1))


class InkEntry(QLineEdit):
    """The colour of ink that holds the light back, typed; it is shown beside the words."""

    given = Signal(str)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._ink = ""
        self.setAccessibleName(spoken("Filter ink"))
        tip(self, "The colour of ink that holds the light back, as #rrggbb; the chart of filter inks finds it")
        self.setMaxLength(7)
        self.editingFinished.connect(self._take)

    def show_ink(self, ink: str) -> None:
        """Show it; what is being typed stays."""
        self._ink = ink
        if not self.hasFocus():
            self._show()

    def _show(self) -> None:
        self.setText(self._ink)
        self.setStyleSheet(f"QLineEdit {{ border-left: 28px solid {display.ink(self._ink).name()}; }}")

    def _take(self) -> None:
        text = self.text().strip()
        if text == self._ink:
            return
        try:
            parse_hex(text)
        except ValueError:
            self.refused.emit(tr("{text} is no colour; write it as #7fae2e", text=cut(text) or "nothing"))
            self._show()
            return
        self.given.emit(text)
