"""How a print is to be written, and where."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QDoubleSpinBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.files.prints.formats import FORMATS
from kyanoscript.files.prints.settings import PPI, Settings
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import tip

_FORMATS = tuple(
    (words, format.endings[0], bits) for format in FORMATS.values() if not format.page for words, bits in format.choices
)
_LOSSY = tuple(format.endings[0] for format in FORMATS.values() if format.lossy)
_SPACES = (
    ("as the print is", "auto"),
    ("the photograph's", "photo"),
    ("sRGB", "srgb"),
    ("Display P3", "display-p3"),
    ("opRGB", "oprgb"),
    ("BT.2020", "bt2020"),
    ("ROMM RGB", "romm"),
    ("gray", "gray"),
)
_FILE = "a profile's file…"
_PACKED = (("not packed", "none"), ("LZW", "lzw"), ("deflate", "deflate"))
_INTENTS = (
    ("relative colorimetric", "relative"),
    ("perceptual", "perceptual"),
    ("saturation", "saturation"),
    ("absolute colorimetric", "absolute"),
)
_NOTES = (
    ("all of the photograph's", "all"),
    ("all but where it was taken", "no-place"),
    ("only the rights", "rights"),
    ("none", "none"),
)


class ExportDialog(QDialog):
    """Asks for format, colours, resolution, size, notes and name."""

    def __init__(
        self, parent: QWidget, target: Path, size: tuple[int, int], settings: Settings, own_ppi: float | None = None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Export")
        self.setMinimumWidth(500)
        self._size = size
        self._before = settings
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        column.addWidget(furniture.title("Export"))
        self.form = form = QFormLayout()
        form.setVerticalSpacing(8)
        form.setHorizontalSpacing(16)
        self.format = QComboBox()
        for text, _, _ in _FORMATS:
            self.format.addItem(text)
        form.addRow("Format", self.format)
        self.packing = _choices(_PACKED, settings.compression)
        form.addRow("Packed", self.packing)
        self.quality = QSpinBox()
        self.quality.setRange(1, 100)
        self.quality.setValue(settings.quality)
        form.addRow("Quality", self.quality)
        self.dither = QCheckBox("Fine noise in place of steps in smooth tones")
        self.dither.setChecked(settings.dither)
        form.addRow("Eight bits", self.dither)
        self.profile = _choices(_SPACES, settings.profile)
        if self.profile.currentData() != settings.profile:
            self._add_file(settings.profile)
        self.profile.addItem(_FILE, "")
        self._profile_at = self.profile.currentIndex()
        form.addRow("Colours", self.profile)
        self.intent = _choices(_INTENTS, settings.intent)
        form.addRow("Intent", self.intent)
        self.black = QCheckBox("Black point compensation")
        self.black.setChecked(settings.black_point)
        form.addRow("", self.black)
        self.ppi = QDoubleSpinBox()
        self.ppi.setRange(1, 10_000)
        self.ppi.setDecimals(0)
        self.ppi.setSuffix(" pixels per inch")
        self.ppi.setValue(settings.ppi or own_ppi or PPI)
        form.addRow("Resolution", self.ppi)
        reduce = QHBoxLayout()
        reduce.setSpacing(10)
        self.reduce = QCheckBox("Reduce to")
        self.side = QSpinBox()
        self.side.setRange(1, max(size))
        self.side.setValue(min(max(size), settings.longer_side or 2048))
        self.side.setSuffix(" px on the longer side")
        self.side.setEnabled(False)
        self.reduce.toggled.connect(self.side.setEnabled)
        reduce.addWidget(self.reduce)
        reduce.addWidget(self.side, 1)
        form.addRow("Size", reduce)
        self.notes = _choices(_NOTES, settings.carried)
        tip(self.notes, "Date, author, rights, camera, keywords and captions in the photograph's file")
        form.addRow("Notes", self.notes)
        place = QHBoxLayout()
        self.target = QLineEdit(str(target))
        self.target.setAccessibleName("File to write")
        browse = furniture.word("Choose…", "Choose folder and name")
        browse.clicked.connect(self._browse)
        place.addWidget(self.target, 1)
        place.addWidget(browse)
        form.addRow("File", place)
        for spin in (self.quality, self.ppi, self.side):
            spin.setFont(theme.sans(13))
            spin.lineEdit().setTextMargins(6, 0, 0, 0)  # as far from the rim as the other fields' words
        column.addLayout(form)
        self.said = furniture.label("", quiet=True)
        column.addWidget(self.said)
        buttons = QDialogButtonBox()
        self.accept_button = buttons.addButton("Export", QDialogButtonBox.ButtonRole.AcceptRole)
        self.accept_button.setObjectName("main")
        self.accept_button.setDefault(True)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self.format.currentIndexChanged.connect(self._format_changed)
        self.profile.activated.connect(self._profile_chosen)
        for signal in (self.ppi.valueChanged, self.side.valueChanged, self.reduce.toggled, self.target.textChanged):
            signal.connect(self._describe)
        self._format_changed()

    def _format_changed(self) -> None:
        _, suffix, bits = _FORMATS[self.format.currentIndex()]
        self.target.setText(str(Path(self.target.text()).with_suffix(suffix)))
        self.form.setRowVisible(self.packing, FORMATS["tiff"].endings[0] == suffix)
        self.form.setRowVisible(self.quality, suffix in _LOSSY)
        self.form.setRowVisible(self.dither, bits == 8)
        self._profile_changed()

    def _profile_chosen(self, index: int) -> None:
        """The last entry asks for a file."""
        if self.profile.itemData(index) == "":
            name, _ = QFileDialog.getOpenFileName(self, "A colour profile", "", "Colour profiles (*.icc *.icm)")
            self.profile.setCurrentIndex(self._add_file(name) if name else self._profile_at)
        self._profile_at = self.profile.currentIndex()
        self._profile_changed()

    def _add_file(self, name: str) -> int:
        """A profile's file among the choices; where it stands."""
        at = max(0, self.profile.findData("")) or self.profile.count()
        self.profile.insertItem(at, Path(name).name, name)
        self.profile.setCurrentIndex(at)
        return at

    def _profile_changed(self) -> None:
        named = any(self.profile.currentData() == value for _, value in _SPACES)
        self.form.setRowVisible(self.intent, not named)
        self.form.setRowVisible(self.black, not named)
        self._describe()
        self.adjustSize()

    def _describe(self) -> None:
        width, height = self._size
        if self.reduce.isChecked():
            share = self.side.value() / max(self._size)
            width, height = max(1, round(width * share)), max(1, round(height * share))
        ppi = self.ppi.value()
        exists = "; replaces the file of that name" if Path(self.target.text()).exists() else ""
        self.said.setText(
            f"{width} × {height} pixels, {width / ppi * 25.4:.0f} × {height / ppi * 25.4:.0f} mm on paper{exists}"
        )

    def _browse(self) -> None:
        _, suffix, _ = _FORMATS[self.format.currentIndex()]
        name, _ = QFileDialog.getSaveFileName(self, "Export", self.target.text(), f"*{suffix}")
        if name:
            path = Path(name)
            self.target.setText(str(path if path.suffix else path.with_suffix(suffix)))

    def result_settings(self) -> tuple[Path, Settings]:
        """Where to and how."""
        _, _, bits = _FORMATS[self.format.currentIndex()]
        settings = replace(
            self._before,
            bits=bits,
            profile=self.profile.currentData(),
            ppi=self.ppi.value(),
            quality=self.quality.value(),
            longer_side=self.side.value() if self.reduce.isChecked() else None,
            compression=self.packing.currentData(),
            intent=self.intent.currentData(),
            black_point=self.black.isChecked(),
            dither=self.dither.isChecked(),
            carried=self.notes.currentData(),
        )
        return Path(self.target.text()).expanduser(), settings


def _choices(entries: tuple[tuple[str, str], ...], value: str) -> QComboBox:
    box = QComboBox()
    for text, data in entries:
        box.addItem(text, data)
    box.setCurrentIndex(max(0, box.findData(value)))
    return box
