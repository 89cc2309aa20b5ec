"""The right side of the Sheet view: the paper, the print on it, its colours, and what goes out."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog, QHBoxLayout, QLineEdit, QPushButton

from kyanoscript.core.paper.layout import pixels_per_inch, start, stock_of
from kyanoscript.core.paper.measure import INCH
from kyanoscript.core.paper.sheet import HOME, Sheet, declaration
from kyanoscript.core.paper.sizes import ROLLS, SIZES, name_of
from kyanoscript.core.params import Number, Param
from kyanoscript.files.colour.proofs import BENCH
from kyanoscript.ui.fields.fields import shrinking
from kyanoscript.ui.sheet.furnished import SheetFurniture
from kyanoscript.ui.sheet.inkpages import Known, negative, plates
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.quiet import show_checked, show_choice

PAGES = (("Paper", "Print", "Colour", "Marks"), ("Plates", "Negative", "Process"))
_OWN = "own size"
_SLIDERS = {
    "Paper": ("width", "height"),
    "Print": ("across", "left", "top", "columns", "rows", "gutter"),
    "Colour": ("resolution", "sharpen"),
    "Marks": ("steps",),
}
_FINE = Number(
    label="Pixels per inch",
    help="Of the photograph: the size follows",
    low=20,
    high=2400,
    ratio=True,
    whole=True,
)
_WITHOUT_PROFILE = "none: the paper alone"


class SheetPage(SheetFurniture):
    """Built anew when another page is turned to, or the sheet is of another kind."""

    turned = Signal(str)
    unit_changed = Signal(str)
    printing = Signal()
    writing = Signal()
    keeping = Signal()
    showing = Signal(str, bool)  # "proof" or "gamut", and whether
    filling = Signal()

    def __init__(self) -> None:
        super().__init__("Sheet")
        self.known = Known()
        self.page = "Paper"
        self.shown = {"proof": True, "gamut": False}
        self.caption: QLineEdit | None = None
        self._built: object = None
        self._sheet: Sheet | None = None

    def declaration(self, key: str) -> Param:
        return declaration(key)

    def show_sheet(self, name: str, sheet: Sheet, shape: float, pixels: int, warning: str) -> None:
        """The sheet as it is, and of how many ``pixels`` of the photograph a print is wide."""
        built = (
            name,
            self.page,
            self.unit,
            sheet.paper.stock == "own",
            sheet.marks.wedge,
            sheet.placing.middle,
            sheet.output.profile,
            sheet.placing.columns * sheet.placing.rows > 1,
            self.known.built(self.page, sheet),
        )
        if built != self._built:
            self._build(name, sheet)
            self._built = built
        self._sheet = sheet
        each = 1.0 if self.unit == "mm" else INCH
        for key, slider in self.sliders.items():
            derived = {"down": sheet.placing.across / shape, "fine": pixels_per_inch(pixels, sheet.placing.across)}
            value = derived[key] if key in derived else sheet.value(key)
            if sheet.placing.middle and key in ("left", "top"):
                value = start(sheet, shape)[key == "top"]
            slider.set_value(value / each if slider.spec.unit in ("mm", "in") else value)
        for key, on in self.shown.items():
            if key in self.words:
                self.words[key].setChecked(on)
        for key, switch in self.switches.items():
            show_checked(switch, bool(sheet.value(key)))
        for key, box in self.lists.items():
            if key in HOME and key != "profile":
                show_choice(box, box.findData(sheet.value(key)))
        if "size" in self.lists:
            size = self.lists["size"]
            found = size.findText(name_of(sheet.paper.width, sheet.paper.height).partition(",")[0])
            show_choice(size, max(0, found))
        if self.caption is not None and not self.caption.hasFocus():
            self.caption.setText(sheet.marks.caption)
        inked = self.page in ("Plates", "Negative")
        said = "\n".join(words[:1].upper() + words[1:] for words in self.known.remarks)
        self.say("\n".join(self.known.lines) if inked else "", said if inked else warning)

    def _build(self, name: str, sheet: Sheet) -> None:
        self.empty()
        self.caption = None
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
        if self.page in ("Plates", "Negative"):
            {"Plates": plates, "Negative": negative}[self.page](self, sheet, self.known)
        else:
            {"Paper": self._paper, "Print": self._print, "Colour": self._colour, "Marks": self._marks}[self.page](sheet)
            column.addWidget(self.facts)
            column.addWidget(self.remarks)
            self._out()
        column.addStretch()
        self.end()

    def _out(self) -> None:
        """What is done with the sheet as a whole."""
        column = self.column
        self.rule()
        out = QPushButton("Print…")
        out.setObjectName("main")
        tip(out, "On a printer of this machine, or on the bench printer")
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
        for key in _SLIDERS[self.page]:
            self.slider(key)
        self.add(self.row("Paper", self.choice("stock")))
        if sheet.paper.stock == "own":
            for key in ("white_l", "white_a", "white_b", "density"):
                self.slider(key)
        paper = stock_of(sheet)
        white = " ".join(f"{v:g}".replace("-", "\N{MINUS SIGN}") for v in paper.white)
        self.add(furniture.wrapped(f"White L* {white} · black D {paper.density:.2f}"))
        self.slider("mat")

    def _print(self, sheet: Sheet) -> None:
        self.slider("across")
        down = replace(self.spec("across"), label="Print's height", help="Its width follows from its shape")
        self.slider("down", down)
        self.slider("fine", _FINE)
        fill = furniture.word("Fill the margins", "As large as leaves the same margin all round")
        fill.clicked.connect(self.filling)
        self.add(fill)
        self.switch("middle")
        for key in ("left", "top"):
            self.slider(key)
            self.sliders[key].setEnabled(not sheet.placing.middle)
        for key in ("columns", "rows", *(("gutter",) if sheet.placing.columns * sheet.placing.rows > 1 else ())):
            self.slider(key)
        self.switch("mirrored")

    def _colour(self, sheet: Sheet) -> None:
        for key in _SLIDERS[self.page]:
            self.slider(key)
        profile = shrinking("Profile of the printer")
        profile.addItem(_WITHOUT_PROFILE, "")
        profile.addItem("the bench printer's", BENCH)
        if sheet.output.profile not in ("", BENCH):
            profile.addItem(Path(sheet.output.profile).name, sheet.output.profile)
        profile.addItem("another…", "another")
        profile.setCurrentIndex(max(0, profile.findData(sheet.output.profile)))
        profile.currentIndexChanged.connect(lambda _: self._take_profile(profile))
        self.lists["profile"] = profile
        self.add(self.row("Profile", profile))
        self.add(self.row("Intent", self.choice("intent")))
        self.switch("black_point")
        self.switch("paper_white")
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
        self.switch("registers")
        self.switch("cuts")
        self.switch("wedge")
        if sheet.marks.wedge:
            self.slider("steps")
        caption = QLineEdit(sheet.marks.caption)
        caption.setAccessibleName("Caption")
        caption.setPlaceholderText("Landing, 3/25")
        caption.setMaxLength(200)
        caption.textEdited.connect(lambda text: self.changed.emit("Caption", {"caption": text}))
        self.caption = caption
        self.add(self.row("Caption", caption))

    # What is chosen

    def _take_size(self, name: str) -> None:
        sheet = self._sheet
        if sheet is None or name == _OWN:
            return
        if name in ROLLS:
            self.changed.emit(f"Paper: {name}", {"width": round(ROLLS[name], 3)})
            return
        short, long = SIZES[name]
        lying = sheet.paper.width >= sheet.paper.height
        width, height = (long, short) if lying else (short, long)
        self.changed.emit(f"Paper: {name}", {"width": round(width, 3), "height": round(height, 3)})

    def _turn(self) -> None:
        if self._sheet is not None:
            self.changed.emit("Paper turned", {"width": self._sheet.paper.height, "height": self._sheet.paper.width})

    def _take_profile(self, box: QComboBox) -> None:
        chosen = box.currentData()
        if chosen == "another":
            path, _ = QFileDialog.getOpenFileName(self.window(), "The printer's profile", "", "Profiles (*.icc *.icm)")
            if not path:
                self._built = None
                if self._sheet is not None:
                    show_choice(box, max(0, box.findData(self._sheet.output.profile)))
                return
            chosen = path
        self.changed.emit("Profile", {"profile": chosen})
