"""Controls show a value without announcing it: only what a hand does is news."""

from __future__ import annotations

from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QAbstractButton, QComboBox


def show_choice(box: QComboBox, index: int) -> None:
    """The entry at a place of a list; none at −1."""
    with QSignalBlocker(box):
        box.setCurrentIndex(index)


def show_checked(switch: QAbstractButton, on: bool) -> None:
    """On or off."""
    with QSignalBlocker(switch):
        switch.setChecked(on)
