"""What this is: versions, licences of what it ships and of what it is built on, where the log lies."""

from __future__ import annotations

import platform
from importlib import metadata, resources

from PySide6.QtCore import Qt, qVersion
from PySide6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QPlainTextEdit, QVBoxLayout, QWidget

from kyanoscript import __version__
from kyanoscript.files.base import log
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.choicebox import ChoiceBox

_BUILT_ON = (
    "numpy",
    "scipy",
    "numba",
    "opencv-python-headless",
    "imagecodecs",
    "tifffile",
    "pillow",
    "simplejpeg",
    "rawpy",
    "OpenEXR",
)
_NAMES = {"opencv-python-headless": "OpenCV", "numpy": "NumPy", "scipy": "SciPy", "numba": "Numba", "pillow": "Pillow"}

# What lies in the program beside its own code, and under which licence
TEXTS = (
    ("Kyanoscript: MIT", "MIT.txt"),
    ("Qt and PySide6: LGPL 3", "LGPL-3.0.txt"),
    ("GNU GPL 3, which the LGPL refers to", "GPL-3.0.txt"),
    ("EB Garamond: SIL Open Font License", "OFL-EBGaramond.txt"),
    ("Figtree: SIL Open Font License", "OFL-Figtree.txt"),
    ("Networks that read scenes and people: Apache 2.0", "Apache-2.0.txt"),
)


class About(QDialog):
    """One page of facts."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle(spoken("About Kyanoscript"))
        self.setMinimumSize(560, 520)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 16, 24, 16)
        column.setSpacing(8)
        column.addWidget(furniture.title("Kyanoscript"))
        column.addWidget(
            furniture.label("Monochrome, toned and hand-tinted prints from photographs, worked by eye", quiet=True)
        )
        rows = QFormLayout()
        rows.setHorizontalSpacing(16)
        rows.setVerticalSpacing(2)
        for name, value in facts():
            shown = furniture.label(value)
            shown.setWordWrap(True)
            shown.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
            rows.addRow(furniture.label(name, quiet=True), shown)
        column.addLayout(rows)
        column.addSpacing(6)
        self.which = ChoiceBox("Licence")
        for words, _ in TEXTS:
            self.which.addItem(spoken(words))
        column.addWidget(self.which)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setAccessibleName(spoken("Text of the licence"))
        self.text.setFont(theme.sans(12))
        column.addWidget(self.text, 1)
        self.which.currentIndexChanged.connect(self._show)
        self._show(0)
        buttons = QDialogButtonBox()
        buttons.addButton(spoken("Close"), QDialogButtonBox.ButtonRole.RejectRole)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)

    def _show(self, index: int) -> None:
        folder = resources.files("kyanoscript") / "licences"
        self.text.setPlainText((folder / TEXTS[index][1]).read_text(encoding="utf-8"))


def facts() -> list[tuple[str, str]]:
    """What is known of the program, by name."""
    built = ", ".join(f"{_NAMES.get(name, name)} {_version(name)}" for name in _BUILT_ON)
    return [
        ("Version", tr("{version}, MIT licence", version=__version__)),
        (
            "Window",
            tr(
                "Qt {qversion} with PySide6 {version}, used under the LGPL 3",
                qversion=qVersion(),
                version=_version("PySide6-Essentials"),
            ),
        ),
        ("Built on", tr("Python {platform}, {built}", platform=platform.python_version(), built=built)),
        ("Log", str(log.path())),
    ]


def _version(name: str) -> str:
    try:
        return metadata.version(name)
    except metadata.PackageNotFoundError:
        return "(unknown)"
