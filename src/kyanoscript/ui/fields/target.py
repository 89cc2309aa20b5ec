"""A page of the slip, and what its controls show and change."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets.slider import ValueSlider


class Target:
    """What a group of controls shows and changes: here, whatever is chosen on the desk."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def thing(self) -> Any:
        """The declared values as they are now; None if there are none any more."""
        return self.desk.shown_thing

    def set(self, label: str, merge: str = "", **values: object) -> None:
        """Change values: in a drag, or as one edit."""
        self.desk.set_values(label, merge, **values)

    def begin(self, label: str) -> None:
        """A drag begins."""
        self.desk.begin(label)

    def commit(self) -> None:
        """It is done."""
        self.desk.commit()

    def abort(self) -> None:
        """It is given up."""
        self.desk.abort()


class Page(QObject):
    """One page of the slip: its controls by name, and what brings them up to date."""

    said = Signal(str)  # something for the foot
    model = Signal(str)  # a photograph whose colours are to be lent is to be shown
    pick = Signal(object)  # a colour is to be picked from the picture; called with it
    keep = Signal(str)  # a colour to be kept
    drop = Signal(str)  # a kept one no longer

    def __init__(self, desk: Desk, inks: Callable[[], tuple[str, ...]]) -> None:
        super().__init__()
        self.desk, self.inks = desk, inks
        self.widget = QWidget()
        self.widget.setObjectName("page")
        self.column = QVBoxLayout(self.widget)
        self.column.setContentsMargins(20, 6, 16, 4)
        self.column.setSpacing(3)
        self.sliders: dict[str, ValueSlider] = {}
        self.editors: dict[str, QWidget] = {}
        self.shows: list[Callable[[], None]] = []
        self.surveyed: list[Callable[[Survey], None]] = []
        self.held = False  # the hand is on one of the controls, in a drag
        self.marks: tuple[str, ...] = ()  # parameters whose tones have handles on the ladder while this page is shown

    def show_values(self) -> None:
        """Bring every control up to date."""
        for show in self.shows:
            show()

    def come(self) -> None:
        """Be shown."""
        for control in self.widget.findChildren(QWidget):
            control.blockSignals(False)
        self.widget.show()

    def leave(self) -> None:
        """Be shown no more: what is typed half is dropped, and nothing here speaks of what is chosen then."""
        for control in self.widget.findChildren(QWidget):
            control.blockSignals(True)
        self.widget.hide()
        for slider in self.sliders.values():
            slider.stop_typing()

    def take(self, survey: Survey) -> None:
        """Hand a survey on to the controls that show something of the picture."""
        for take in self.surveyed:
            take(survey)

    def longer(self) -> float | None:
        """The photograph's longer side, in which lengths are shown."""
        photo = self.desk.photo
        return float(max(photo.width, photo.height)) if photo else None
