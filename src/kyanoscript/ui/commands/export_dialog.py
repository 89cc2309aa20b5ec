"""How a print is to be written, and where."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.core.params import Number
from kyanoscript.files.prints.formats import FORMATS
from kyanoscript.files.prints.settings import PPI, SPACES, Settings
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.fields.fields import Fields, shrinking
from kyanoscript.ui.fields.target import Page, Target
from kyanoscript.ui.widgets import furniture
from kyanoscript.ui.widgets.quiet import show_choice

_FORMATS = tuple(
    (words, format.endings[0], bits) for format in FORMATS.values() if not format.page for words, bits in format.choices
)
_LOSSY = tuple(format.endings[0] for format in FORMATS.values() if format.lossy)
_FILE = "a profile's file…"
_SMALL = 2048  # pixels of a print that is reduced, before another number is said


class Drafted(Target):
    """The settings as they are in the dialog; nothing is written before it is done."""

    def __init__(self, dialog: ExportDialog) -> None:
        self.dialog = dialog

    def thing(self) -> Settings:
        return self.dialog.settings

    def set(self, label: str, merge: str = "", **values: object) -> None:
        self.dialog.change(**values)


class ExportDialog(QDialog):
    """Asks for format, colours, resolution, size, notes and name."""

    def __init__(
        self,
        parent: QWidget,
        target: Path,
        size: tuple[int, int],
        settings: Settings,
        own_ppi: float | None = None,
        many: bool = False,
    ) -> None:
        """``many``: it is asked how files are written, and not which."""
        super().__init__(parent)
        self.setWindowTitle(spoken("Files" if many else "Export"))
        self.setMinimumWidth(500)
        self._size, self._many = size, many
        self.settings = settings.with_(
            ppi=settings.ppi or own_ppi or PPI, longer_side=min(max(size), settings.longer_side or _SMALL)
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        column.addWidget(furniture.title("How files are written" if many else "Export"))
        self.page = page = Page()
        page.labels = 90
        page.column.setContentsMargins(0, 0, 0, 0)
        page.column.setSpacing(8)
        column.addWidget(page.widget)
        self.fields = fields = Fields(page, Drafted(self))
        self.format = shrinking("Format")
        for text, _, _ in _FORMATS:
            self.format.addItem(spoken(text))
        kind = fields.beside("Format", self.format)
        page.column.addWidget(kind)
        kind.setVisible(not many)
        if many:
            wanted = (target.suffix, settings.bits)
            at = (k for k, (_, suffix, bits) in enumerate(_FORMATS) if suffix == wanted[0] and bits <= wanted[1])
            self.format.setCurrentIndex(next(at, 0))
        self._values("compression", "quality", "dither")
        self.profile = self._profiles()
        page.column.addWidget(fields.beside("Colours", self.profile))
        self._values("intent", "black_point", "ppi")
        self.reduce = QCheckBox(spoken("Reduce"))
        self.reduce.setChecked(many and settings.longer_side is not None)
        page.column.addWidget(self.reduce)
        self._values(longer_side=replace(Settings.number("longer_side"), high=float(max(size))))
        self._values("notes")
        self.target = QLineEdit(str(target))
        self.target.setAccessibleName(spoken("File to write"))
        browse = furniture.word("Choose…", "Choose folder and name", act=self._browse)
        where = fields.beside("File", self.target, browse)
        where.setVisible(not many)
        page.column.addWidget(where)
        self.said = furniture.label("", quiet=True)
        column.addWidget(self.said)
        buttons = QDialogButtonBox()
        words = "As this" if many else "Export"
        self.accept_button = buttons.addButton(spoken(words), QDialogButtonBox.ButtonRole.AcceptRole)
        self.accept_button.setObjectName("main")
        self.accept_button.setDefault(True)
        buttons.addButton(spoken("Cancel"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        page.said.connect(self.said.setText)
        self.format.currentIndexChanged.connect(self._format_changed)
        self.reduce.toggled.connect(self._show)
        self.target.textChanged.connect(self._describe)
        self._format_changed()

    def _values(self, *names: str, **own: Number) -> None:
        params = {**{name: Settings.params()[name] for name in names}, **own}
        self.fields.add(params, self.settings)

    def change(self, **values: Any) -> None:
        """Other settings."""
        self.settings = self.settings.with_(**values)
        self._show()

    def _format_changed(self) -> None:
        _, suffix, bits = _FORMATS[self.format.currentIndex()]
        self.target.setText(str(Path(self.target.text()).with_suffix(suffix)))
        self.change(bits=bits)

    def _show(self) -> None:
        """Every control as the settings are, and those alone that mean something."""
        _, suffix, bits = _FORMATS[self.format.currentIndex()]
        self.page.show_values()
        means = {
            "compression": FORMATS["tiff"].endings[0] == suffix,
            "quality": suffix in _LOSSY,
            "dither": bits == 8,
            "intent": self.settings.profile not in SPACES,
            "black_point": self.settings.profile not in SPACES,
            "longer_side": self.reduce.isChecked(),
        }
        for name, there in means.items():
            self.page.rows[name].setVisible(there)
        self._describe()
        self.adjustSize()

    def _describe(self) -> None:
        if self._many:
            return
        width, height = self._size
        settings = self.result_settings()[1]
        if settings.longer_side is not None:
            share = settings.longer_side / max(self._size)
            width, height = max(1, round(width * share)), max(1, round(height * share))
        ppi = settings.ppi or PPI
        exists = "; replaces the file of that name" if Path(self.target.text()).exists() else ""
        self.said.setText(
            tr(
                "{width} × {height} pixels, {width2:.0f} × {height2:.0f} mm on paper{exists}",
                width=width,
                height=height,
                width2=width / ppi * 25.4,
                height2=height / ppi * 25.4,
                exists=exists,
            )
        )

    # Colours

    def _profiles(self) -> QComboBox:
        """The spaces by name, a profile that was chosen before, and the way to another."""
        box = shrinking("Colours")
        for value, text in SPACES.items():
            box.addItem(spoken(text), value)
        if self.settings.profile not in SPACES:
            box.addItem(spoken(Path(self.settings.profile).name), self.settings.profile)
        box.addItem(spoken(_FILE), "")
        box.setCurrentIndex(box.findData(self.settings.profile))
        box.activated.connect(self._profile_chosen)
        return box

    def _profile_chosen(self, index: int) -> None:
        """The last entry asks for a file."""
        chosen = self.profile.itemData(index)
        if not chosen:
            chosen, _ = QFileDialog.getOpenFileName(
                self, spoken("A colour profile"), "", "Colour profiles (*.icc *.icm)"
            )
            if chosen and self.profile.findData(chosen) < 0:
                self.profile.insertItem(self.profile.count() - 1, Path(chosen).name, chosen)
        if chosen:
            self.change(profile=chosen)
        show_choice(self.profile, self.profile.findData(self.settings.profile))

    def _browse(self) -> None:
        _, suffix, _ = _FORMATS[self.format.currentIndex()]
        name, _ = QFileDialog.getSaveFileName(self, spoken("Export"), self.target.text(), f"*{suffix}")
        if name:
            path = Path(name)
            self.target.setText(str(path if path.suffix else path.with_suffix(suffix)))

    def result_settings(self) -> tuple[Path, Settings]:
        """Where to and how."""
        settings = self.settings if self.reduce.isChecked() else self.settings.with_(longer_side=None)
        return Path(self.target.text()).expanduser(), settings
