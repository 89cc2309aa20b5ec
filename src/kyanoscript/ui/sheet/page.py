"""The right side of the Sheet view: the paper, the print on it, its colours, and what goes out."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QPushButton

from kyanoscript.core.paper.layout import paper_of, start
from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.page import Sheet
from kyanoscript.core.paper.sizes import ROLLS, SIZES, name_of
from kyanoscript.core.params import Number
from kyanoscript.core.params.kinds import Choice
from kyanoscript.files.proofs import BENCH
from kyanoscript.ui.bench.slip.fields import shrinking
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.built import BuiltPage
from kyanoscript.ui.widgets.slider import ValueSlider

PAGES = (("Paper", "Print", "Colour", "Marks"), ("Plates", "Negative", "Process"))
_OWN = "own size"
_LONGEST = 1200.0  # mm: sliders go so far; more can be typed
_SLIDERS = {
    "Paper": ("width", "height"),
    "Print": ("across", "left", "top", "columns", "rows", "gutter", "mat"),
    "Colour": ("resolution", "sharpen"),
    "Marks": ("steps",),
}
_DOTTED = ("round", "elliptical", "line")
_WITHOUT_PROFILE = "none: the paper alone"


class SheetPage(BuiltPage):
    """Built anew when another page is turned to, or the sheet is of another kind."""

    changed = Signal(str, dict)  # what is done, in words, and the values
    turned = Signal(str)
    unit_changed = Signal(str)
    began = Signal()
    ended = Signal()
    printing = Signal()
    writing = Signal()
    keeping = Signal()
    showing = Signal(str, bool)  # "proof" or "gamut", and whether
    filling = Signal()
    renamed = Signal(str)
    refused = Signal(str)
    wanted = Signal(str)  # something that is done with plates or the negative, by its word

    def __init__(self) -> None:
        super().__init__("Sheet")
        self.plates: tuple[str, ...] = ()  # inks of the print, a line each
        self.plate_remarks: tuple[str, ...] = ()
        self.processes: tuple[tuple[str, str], ...] = ()  # names of processes, and what is known of each
        self.film_remarks: tuple[str, ...] = ()
        self.page = "Paper"
        self.unit = "mm"
        self.sliders: dict[str, ValueSlider] = {}
        self.lists: dict[str, QComboBox] = {}
        self.switches: dict[str, QCheckBox] = {}
        self.words: dict[str, QPushButton] = {}
        self.shown = {"proof": True, "gamut": False}
        self.caption: QLineEdit | None = None
        self.facts = furniture.wrapped("")
        self.warning = furniture.wrapped("")
        self._built: object = None
        self._sheet: Sheet | None = None

    def show_sheet(self, name: str, sheet: Sheet, shape: float, facts: str, warning: str) -> None:
        """The sheet as it is."""
        built = (
            name,
            self.page,
            self.unit,
            sheet.paper == "own",
            sheet.wedge,
            sheet.middle,
            sheet.profile,
            sheet.columns * sheet.rows > 1,
            (sheet.screen, self.plates, self.plate_remarks) if self.page == "Plates" else None,
            (sheet.process, self.processes, self.film_remarks) if self.page == "Negative" else None,
        )
        if built != self._built:
            self._build(name, sheet)
            self._built = built
        self._sheet = sheet
        each = 1.0 if self.unit == "mm" else INCH
        for key, slider in self.sliders.items():
            value = sheet.across / shape if key == "down" else getattr(sheet, key)
            if sheet.middle and key in ("left", "top"):
                value = start(sheet, shape)[key == "top"]
            slider.set_value(value / each if slider.spec.unit in ("mm", "in") else value)
        for key, on in self.shown.items():
            if key in self.words:
                self.words[key].setChecked(on)
        for key, switch in self.switches.items():
            switch.blockSignals(True)
            switch.setChecked(bool(getattr(sheet, key)))
            switch.blockSignals(False)
        for key, box in self.lists.items():
            if key not in ("size", "profile"):
                box.blockSignals(True)
                box.setCurrentIndex(box.findData(getattr(sheet, key)))
                box.blockSignals(False)
        if "size" in self.lists:
            size = self.lists["size"]
            size.blockSignals(True)
            found = size.findText(name_of(sheet.width, sheet.height).partition(",")[0])
            size.setCurrentIndex(max(0, found))
            size.blockSignals(False)
        if self.caption is not None and not self.caption.hasFocus():
            self.caption.setText(sheet.caption)
        self.facts.setText(facts)
        self.warning.setText(warning)
        self.warning.setVisible(bool(warning))

    def _build(self, name: str, sheet: Sheet) -> None:
        self.sliders, self.lists, self.switches, self.words, self.caption = {}, {}, {}, {}, None
        column = self.begin()
        column.addWidget(furniture.elided_title(name))
        column.addWidget(furniture.label("What lies on the paper", quiet=True))
        for pages in PAGES:
            row = QHBoxLayout()
            row.setSpacing(12)
            for page in pages:
                word = furniture.word(page, checkable=True)
                word.setChecked(page == self.page)
                word.clicked.connect(lambda _=False, page=page: self.turned.emit(page))
                row.addWidget(word)
            row.addStretch()
            column.addLayout(row)
        {"Paper": self._paper, "Print": self._print, "Colour": self._colour, "Marks": self._marks,
         "Plates": self._plates, "Negative": self._negative}[self.page](sheet)  # fmt: skip
        self.facts, self.warning = furniture.wrapped(""), furniture.wrapped("")
        self.warning.setObjectName("warning")
        column.addWidget(self.facts)
        column.addWidget(self.warning)
        if self.page not in ("Plates", "Negative"):
            self._out()
        column.addStretch()
        self.end()

    def _out(self) -> None:
        """What is done with the sheet as a whole."""
        column = self.column
        self.rule()
        out = QPushButton("Print…")
        out.setObjectName("main")
        out.setToolTip("On a printer of this machine, or on the bench printer")
        out.clicked.connect(self.printing)
        column.addWidget(out)
        words = QHBoxLayout()
        words.setSpacing(14)
        for text, help, signal in (
            ("Write to a file…", "PDF at its exact size, TIFF, PNG or JPEG", self.writing),
            ("Keep for others", "This sheet is there for other photographs too", self.keeping),
        ):
            word = furniture.word(text, help)
            word.clicked.connect(signal)
            words.addWidget(word)
        words.addStretch()
        column.addLayout(words)

    # The pages

    def _paper(self, sheet: Sheet) -> None:
        size = shrinking("Size of the paper")
        size.addItem(_OWN)
        for name in (*SIZES, *ROLLS):
            size.addItem(name)
        size.currentTextChanged.connect(self._take_size)
        self.lists["size"] = size
        self.add(self.row("Size", size))
        row = QHBoxLayout()
        row.setSpacing(14)
        turn = furniture.word("Turn", "Upright or lying")
        turn.clicked.connect(self._turn)
        row.addWidget(turn)
        for unit, text in (("mm", "Millimetres"), ("in", "Inches")):
            word = furniture.word(text, checkable=True)
            word.setChecked(unit == self.unit)
            word.clicked.connect(lambda _=False, unit=unit: self.unit_changed.emit(unit))
            row.addWidget(word)
        row.addStretch()
        self.column.addLayout(row)
        self._sliders()
        self.add(self.row("Paper", self._choice("paper")))
        if sheet.paper == "own":
            for key in ("white_l", "white_a", "white_b", "density"):
                self._slider(key)
        paper = paper_of(sheet)
        white = " ".join(f"{v:g}".replace("-", "\N{MINUS SIGN}") for v in paper.white)
        self.add(furniture.wrapped(f"White L* {white} · black D {paper.density:.2f}"))

    def _print(self, sheet: Sheet) -> None:
        self._slider("across")
        down = replace(self._spec("across"), label="Print's height", help="Its width follows from its shape")
        self._slider("down", down)
        fill = furniture.word("Fill the margins", "As large as leaves the same margin all round")
        fill.clicked.connect(self.filling)
        self.add(fill)
        self._switch("middle")
        for key in ("left", "top"):
            self._slider(key)
            self.sliders[key].setEnabled(not sheet.middle)
        for key in ("columns", "rows", *(("gutter",) if sheet.columns * sheet.rows > 1 else ()), "mat"):
            self._slider(key)
        self._switch("mirrored")

    def _colour(self, sheet: Sheet) -> None:
        self._sliders()
        profile = shrinking("Profile of the printer")
        profile.addItem(_WITHOUT_PROFILE, "")
        profile.addItem("the bench printer's", BENCH)
        if sheet.profile not in ("", BENCH):
            profile.addItem(Path(sheet.profile).name, sheet.profile)
        profile.addItem("another…", "another")
        profile.setCurrentIndex(max(0, profile.findData(sheet.profile)))
        profile.currentIndexChanged.connect(lambda _: self._take_profile(profile))
        self.lists["profile"] = profile
        self.add(self.row("Profile", profile))
        self.add(self.row("Intent", self._choice("intent")))
        self._switch("black_point")
        self._switch("paper_white")
        row = QHBoxLayout()
        row.setSpacing(14)
        for key, text, help in (
            ("proof", "Proof", "As this paper will have it; hold P for without"),
            ("gamut", "Out of gamut", "Marks what the printer has not (Shift+Y)"),
        ):
            word = furniture.word(text, help, checkable=True)
            word.setChecked(self.shown[key])
            word.clicked.connect(lambda on, key=key: self.showing.emit(key, on))
            self.words[key] = word
            row.addWidget(word)
        row.addStretch()
        self.column.addLayout(row)

    def _marks(self, sheet: Sheet) -> None:
        self._switch("marks")
        self._switch("cuts")
        self._switch("wedge")
        if sheet.wedge:
            self._slider("steps")
        caption = QLineEdit(sheet.caption)
        caption.setAccessibleName("Caption")
        caption.setPlaceholderText("Landing, 3/25")
        caption.setMaxLength(200)
        caption.textEdited.connect(lambda text: self.changed.emit("Caption", {"caption": text}))
        self.caption = caption
        self.add(self.row("Caption", caption))

    def _plates(self, sheet: Sheet) -> None:
        if not self.plates:
            words = (
                "This print has no inks. Add the pass Inks or Quad-tone on the Bench: each of its inks is a plate here."
            )
            self.add(furniture.wrapped(words))
            return
        for line in self.plates:
            self.add(furniture.label(line))
        self._slider("trap")
        self._switch("knock_out")
        self.add(self.row("Screen", self._choice("screen")))
        if sheet.screen in _DOTTED:
            self._slider("ruling")
            self._slider("angle")
        if sheet.screen == "grain":
            self._slider("grain")
        if sheet.screen != "none":
            self._slider("device")
            self.add(self.row("Dot gain", self._choice("gain")))
        self._remarks(self.plate_remarks)
        self.rule()
        self._main("plates", "Write the plates…", "TIFF or PDF, a page for each ink; or a folder, a file each")

    def _negative(self, sheet: Sheet) -> None:
        process = shrinking("Process")
        process.addItem("as it is: no curve", "")
        for name, _ in self.processes:
            process.addItem(name, name)
        if sheet.process and process.findData(sheet.process) < 0:
            process.addItem(sheet.process, sheet.process)
        process.currentIndexChanged.connect(
            lambda k: self.changed.emit(f"Process: {process.itemText(k)}", {"process": process.itemData(k)})
        )
        self.lists["process"] = process
        self.add(self.row("Process", process))
        about = dict(self.processes).get(sheet.process, "")
        if about:
            self.add(furniture.wrapped(about))
        self.add(furniture.wrapped("The film is the sheet: its size and place are those of the Paper and Print pages."))
        self._remarks(self.film_remarks)
        self.rule()
        self._main("negative", "Write the negative…", "TIFF, PNG or PDF at its exact size, mirrored, with its rim")
        if self.plates:
            self._word("negatives", "One for each ink…", "Each ink through this process, for several exposures")
        self._word("expose", "Expose it in the bench darkroom", "A stand-in: shows the dried print on the sheet")

    def _remarks(self, remarks: tuple[str, ...]) -> None:
        for words in remarks:
            warning = furniture.wrapped(words[:1].upper() + words[1:])
            warning.setObjectName("warning")
            self.add(warning)

    # Their furniture

    def _main(self, key: str, text: str, help: str) -> None:
        made = QPushButton(text)
        made.setObjectName("main")
        made.setToolTip(help)
        made.clicked.connect(lambda: self.wanted.emit(key))
        self.words[key] = made
        self.add(made)

    def _word(self, key: str, text: str, help: str) -> None:
        word = furniture.word(text, help)
        word.clicked.connect(lambda: self.wanted.emit(key))
        self.words[key] = word
        self.add(word)

    def _spec(self, key: str) -> Number:
        spec = Sheet.number(key)
        if spec.unit != "mm":
            return spec
        low, high = max(spec.low, 0.0), min(spec.high, _LONGEST)
        if self.unit == "mm":
            return replace(spec, low=low, high=high, decimals=1)
        return replace(spec, low=low / INCH, high=high / INCH, unit="in", step=0.0625, decimals=2)

    def _sliders(self) -> None:
        for key in _SLIDERS[self.page]:
            self._slider(key)

    def _slider(self, key: str, spec: Number | None = None) -> None:
        spec = spec or self._spec(key)
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

    def _switch(self, key: str) -> None:
        spec = Sheet.params()[key]
        switch = QCheckBox(spec.label)
        switch.setToolTip(spec.help)
        switch.toggled.connect(lambda on: self.changed.emit(f"{spec.label} {'on' if on else 'off'}", {key: on}))
        self.switches[key] = switch
        self.add(switch)

    def _choice(self, key: str) -> QComboBox:
        spec = Sheet.params()[key]
        assert isinstance(spec, Choice)
        box = shrinking(spec.label)
        box.setToolTip(spec.help)
        for value, text in spec.choices:
            box.addItem(text, value)
        box.currentIndexChanged.connect(
            lambda k: self.changed.emit(f"{spec.label}: {box.itemText(k)}", {key: box.itemData(k)})
        )
        self.lists[key] = box
        return box

    def _take_size(self, name: str) -> None:
        sheet = self._sheet
        if sheet is None or name == _OWN:
            return
        if name in ROLLS:
            self.changed.emit(f"Paper: {name}", {"width": round(ROLLS[name], 3)})
            return
        short, long = SIZES[name]
        lying = sheet.width >= sheet.height
        width, height = (long, short) if lying else (short, long)
        self.changed.emit(f"Paper: {name}", {"width": round(width, 3), "height": round(height, 3)})

    def _turn(self) -> None:
        if self._sheet is not None:
            self.changed.emit("Paper turned", {"width": self._sheet.height, "height": self._sheet.width})

    def _take_profile(self, box: QComboBox) -> None:
        chosen = box.currentData()
        if chosen == "another":
            path, _ = QFileDialog.getOpenFileName(self.window(), "The printer's profile", "", "Profiles (*.icc *.icm)")
            if not path:
                self._built = None
                if self._sheet is not None:
                    box.blockSignals(True)
                    box.setCurrentIndex(max(0, box.findData(self._sheet.profile)))
                    box.blockSignals(False)
                return
            chosen = path
        self.changed.emit("Profile", {"profile": chosen})
