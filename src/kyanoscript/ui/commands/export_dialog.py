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

from kyanoscript.files.export import Settings
from kyanoscript.ui.widgets import furniture, theme

_FORMATS = (("TIFF, 16-bit", ".tif", 16), ("PNG, 16-bit", ".png", 16), ("PNG, 8-bit", ".png", 8), ("JPEG", ".jpg", 8))


class ExportDialog(QDialog):
    """Asks for format, profile, resolution, size and name."""

    def __init__(self, parent: QWidget, target: Path, size: tuple[int, int], settings: Settings) -> None:
        super().__init__(parent)
        self.setWindowTitle("Export")
        self.setMinimumWidth(470)
        self._size = size
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 16)
        column.setSpacing(10)
        column.addWidget(furniture.title("Export"))
        form = QFormLayout()
        form.setVerticalSpacing(8)
        form.setHorizontalSpacing(16)
        self.format = QComboBox()
        for text, _, _ in _FORMATS:
            self.format.addItem(text)
        form.addRow("Format", self.format)
        self.quality = QSpinBox()
        self.quality.setRange(1, 100)
        self.quality.setValue(settings.quality)
        self._quality_label = furniture.label("Quality")
        form.addRow(self._quality_label, self.quality)
        self.profile = QComboBox()
        for text, value in (("as the print is", "auto"), ("sRGB", "srgb"), ("gray", "gray")):
            self.profile.addItem(text, value)
        form.addRow("Colour profile", self.profile)
        self.ppi = QDoubleSpinBox()
        self.ppi.setRange(1, 10_000)
        self.ppi.setDecimals(0)
        self.ppi.setSuffix(" pixels per inch")
        self.ppi.setValue(settings.ppi)
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
        for signal in (self.ppi.valueChanged, self.side.valueChanged, self.reduce.toggled, self.target.textChanged):
            signal.connect(self._describe)
        self._format_changed()

    def _format_changed(self) -> None:
        _, suffix, _ = _FORMATS[self.format.currentIndex()]
        self.target.setText(str(Path(self.target.text()).with_suffix(suffix)))
        jpeg = suffix == ".jpg"
        self.quality.setVisible(jpeg)
        self._quality_label.setVisible(jpeg)
        self._describe()

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
        settings = Settings(
            bits=16 if bits == 16 else 8,
            profile=self.profile.currentData(),
            ppi=self.ppi.value(),
            quality=self.quality.value(),
        )
        if self.reduce.isChecked():
            settings = replace(settings, longer_side=self.side.value())
        return Path(self.target.text()).expanduser(), settings
