"""The right side of the Sheet view: the paper, the print on it, its colours, and what goes out."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QFileDialog

from kyanoscript.core.paper.layout import pixels_per_inch, start, stock_of
from kyanoscript.core.paper.sheet import HOME, Sheet, declaration
from kyanoscript.core.paper.sizes import ROLLS, SIZES, name_of
from kyanoscript.core.params import Declared, Number, Param
from kyanoscript.files.colour.proofs import BENCH
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.sheet.furnished import SheetFurniture, add_pages
from kyanoscript.ui.sheet.inkpages import Known, negative, plates
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.quiet import show_choice

_OWN = "own size"
_DOWN = replace(declaration("across"), label="Print's height", help="Its width follows from its shape")
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
    showing = Signal(str, bool)  # "proof" or "gamut", and whether

    def __init__(self, say: Callable[[str], None]) -> None:
        super().__init__("Sheet", say)
        self.known = Known()
        self.page = "Paper"
        self.shown = {"proof": True, "gamut": False}
        self._built: object = None
        self._sheet, self._shape, self._pixels = Sheet(), 1.5, 1

    def thing(self) -> Sheet:
        return self._sheet

    def declaration(self, key: str) -> Param:
        return {"down": _DOWN, "fine": _FINE}.get(key) or declaration(key)

    def owner(self, key: str) -> Declared:
        part: Declared = getattr(self._sheet, HOME[key]) if key in HOME else self._sheet
        return part

    def value(self, key: str) -> Any:
        sheet = self._sheet
        if key == "down":
            return sheet.placing.across / self._shape
        if key == "fine":
            return pixels_per_inch(self._pixels, sheet.placing.across)
        if sheet.placing.middle and key in ("left", "top"):
            return start(sheet, self._shape)[key == "top"]
        return sheet.value(key)

    def show_sheet(self, name: str, sheet: Sheet, shape: float, pixels: int, warning: str) -> None:
        """The sheet as it is, and of how many ``pixels`` of the photograph a print is wide."""
        self._sheet, self._shape, self._pixels = sheet, shape, pixels
        lies = sheet.placing
        built = (
            name,
            self.page,
            self.unit,
            sheet.paper.stock == "own",
            sheet.marks.wedge,
            lies.middle,
            sheet.output.profile,
            lies.columns * lies.rows > 1,
            self.known.built(self.page, sheet),
        )
        if built != self._built:
            self._build(name, sheet)
            self._built = built
        self.controls.show_values()
        for key, on in self.shown.items():
            if key in self.words:
                self.words[key].setChecked(on)
        inked = self.page in ("Plates", "Negative")
        said = "\n".join(words[:1].upper() + words[1:] for words in self.known.remarks)
        self.say("\n".join(self.known.lines) if inked else "", said if inked else warning)

    def _build(self, name: str, sheet: Sheet) -> None:
        column = self.begin()
        column.addWidget(furniture.elided_title(name))
        column.addWidget(furniture.label("What lies on the paper", quiet=True))
        add_pages(self, self.page, self.turned.emit)
        if self.page in ("Plates", "Negative"):
            {"Plates": plates, "Negative": negative}[self.page](self, sheet, self.known)
        else:
            {"Paper": self._paper, "Print": self._print, "Colour": self._colour, "Marks": self._marks}[self.page](sheet)
            column.addWidget(self.facts)
            column.addWidget(self.remarks)
            self.rule()
            self.main("print", "Print…", "On a printer of this machine, or on the bench printer")
            self.line(("file", "Write to a file…", "PDF at its exact size, TIFF, PNG or JPEG"),
                      ("keep", "Keep for others", "This sheet is there for other photographs too"))  # fmt: skip
        column.addStretch()
        self.end()

    # The pages

    def _paper(self, sheet: Sheet) -> None:
        size = self.list("size", "Size", "Of the paper")
        for name in (_OWN, *SIZES, *ROLLS):
            size.addItem(spoken(name), name)
        size.currentIndexChanged.connect(lambda at: self._take_size(size.itemData(at)))
        self.controls.shows.append(lambda: self._show_size(size))
        turn = furniture.word("Turn", "Upright or lying", act=self._turn)
        units = []
        for unit, text in (("mm", "Millimetres"), ("in", "Inches")):
            word = furniture.word(text, "What lengths are shown and typed in", checkable=True)
            word.setChecked(unit == self.unit)
            word.clicked.connect(lambda _=False, unit=unit: self.unit_changed.emit(unit))
            units.append(word)
        self.column.addLayout(furniture.in_a_row(turn, *units))
        self.show_value("width", "height", "stock")
        if sheet.paper.stock == "own":
            self.show_value("white_l", "white_a", "white_b", "density")
        paper = stock_of(sheet)
        white = " ".join(f"{v:g}".replace("-", "\N{MINUS SIGN}") for v in paper.white)
        self.add(furniture.wrapped(tr("White L* {white} · black D {density:.2f}", white=white, density=paper.density)))
        self.show_value("mat")

    def _print(self, sheet: Sheet) -> None:
        self.show_value("across", "down", "fine")
        self.add(self.word("fill", "Fill the margins", "As large as leaves the same margin all round"))
        self.show_value("middle", "left", "top")
        for key in ("left", "top"):
            self.sliders[key].setEnabled(not sheet.placing.middle)
        self.show_value("columns", "rows")
        if sheet.placing.columns * sheet.placing.rows > 1:
            self.show_value("gutter")
        self.show_value("mirrored")

    def _colour(self, sheet: Sheet) -> None:
        self.show_value("resolution", "sharpen")
        profile = self.list("profile", "Profile", "Of the printer")
        profile.addItem(spoken(_WITHOUT_PROFILE), "")
        profile.addItem(spoken("the bench printer's"), BENCH)
        if sheet.output.profile not in ("", BENCH):
            profile.addItem(spoken(Path(sheet.output.profile).name), sheet.output.profile)
        profile.addItem(spoken("another…"), "another")
        profile.setCurrentIndex(max(0, profile.findData(sheet.output.profile)))
        profile.currentIndexChanged.connect(lambda _: self._take_profile(profile))
        self.show_value("intent", "black_point", "paper_white")
        words = []
        for key, text, help in (
            ("proof", "Proof", "As this paper will have it; hold P for without"),
            ("gamut", "Out of gamut", "Marks what the printer has not (Shift+R)"),
        ):
            word = furniture.word(text, help, checkable=True)
            word.setChecked(self.shown[key])
            word.clicked.connect(lambda on, key=key: self.showing.emit(key, on))
            self.words[key] = word
            words.append(word)
        self.column.addLayout(furniture.in_a_row(*words))

    def _marks(self, sheet: Sheet) -> None:
        self.show_value("registers", "cuts", "wedge")
        if sheet.marks.wedge:
            self.show_value("steps")
        self.show_value("caption")

    # What is chosen

    def _show_size(self, box: QComboBox) -> None:
        paper = self._sheet.paper
        show_choice(box, max(0, box.findData(name_of(paper.width, paper.height).partition(",")[0])))

    def _take_size(self, name: str) -> None:
        paper = self._sheet.paper
        if name == _OWN:
            return
        if name in ROLLS:
            self.changed.emit(tr("Paper: {name}", name=name), {"width": round(ROLLS[name], 3)})
            return
        short, long = SIZES[name]
        width, height = (long, short) if paper.width >= paper.height else (short, long)
        self.changed.emit(tr("Paper: {name}", name=name), {"width": round(width, 3), "height": round(height, 3)})

    def _turn(self) -> None:
        paper = self._sheet.paper
        self.changed.emit("Paper turned", {"width": paper.height, "height": paper.width})

    def _take_profile(self, box: QComboBox) -> None:
        chosen = box.currentData()
        if chosen == "another":
            path, _ = QFileDialog.getOpenFileName(
                self.window(), spoken("The printer's profile"), "", "Profiles (*.icc *.icm)"
            )
            if not path:
                self._built = None
                show_choice(box, max(0, box.findData(self._sheet.output.profile)))
                return
            chosen = path
        self.changed.emit("Profile", {"profile": chosen})
