"""A page of controls, and what they show and change."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from kyanoscript.core.params import Param
from kyanoscript.core.params.kinds import Choice
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.widgets.slider import ValueSlider


class Target:
    """What a group of controls shows and changes: declared values of any kind, wherever they are kept."""

    def thing(self) -> Any:
        """The declared values as they are now; None if there are none any more."""
        raise NotImplementedError

    def value(self, name: str) -> Any:
        """One of them."""
        return getattr(self.thing(), name)

    def default(self, declared: Any, name: str) -> Any:
        """The value that one has where nobody has chosen; None if there is none."""
        field = type(declared).model_fields.get(name)
        return field.default if field is not None else None

    def words(self, declared: Any, spec: Param, says: str) -> str:
        """What is done when one gets another value; ``says``: that value in words."""
        group = f"{spec.group} ".lower() if spec.group else ""
        return f"{declared.label}: {group}{spec.label.lower()}" + (f" {says}" if isinstance(spec, Choice) else "")

    def set(self, label: str, merge: str = "", **values: object) -> None:
        """Change values: in a drag, or as one edit."""
        raise NotImplementedError

    def begin(self, label: str) -> None:
        """A drag begins."""

    def commit(self) -> None:
        """It is done."""

    def abort(self) -> None:
        """It is given up."""


class Chosen(Target):
    """Whatever is chosen on the desk."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    def thing(self) -> Any:
        return self.desk.shown_thing

    def set(self, label: str, merge: str = "", **values: object) -> None:
        self.desk.set_values(label, merge, **values)

    def begin(self, label: str) -> None:
        self.desk.begin(label)

    def commit(self) -> None:
        self.desk.commit()

    def abort(self) -> None:
        self.desk.abort()


class Page(QObject):
    """One page: its controls by name, and what brings them up to date."""

    labels = 0  # pixels: how wide the names before controls are; 0: as wide as each is

    said = Signal(str)  # something for the foot
    model = Signal(str)  # a photograph whose colours are to be lent is to be shown
    pick = Signal(object)  # a colour is to be picked from the picture; called with it
    keep = Signal(str)  # a colour to be kept
    drop = Signal(str)  # a kept one no longer

    def __init__(self, widget: QWidget | None = None, column: QVBoxLayout | None = None) -> None:
        super().__init__()
        self.widget = widget or QWidget()
        self.column = column or QVBoxLayout(self.widget)
        self.sliders: dict[str, ValueSlider] = {}
        self.editors: dict[str, QWidget] = {}
        self.rows: dict[str, QWidget] = {}  # what stands on the page of each value: its control, with its name
        self.shows: list[Callable[[], None]] = []
        self.aside: QWidget | None = None  # what is shown only where there is room for it
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

    # What is known of the photograph; nothing, where a page is not about one

    def longer(self) -> float | None:
        """The photograph's longer side, in which lengths are shown."""
        return None

    def folder(self) -> Path | None:
        """Where it lies."""
        return None

    def inks(self) -> tuple[str, ...]:
        """Colours that were kept."""
        return ()

    def handle(self) -> int:
        """Which point of an editor is chosen."""
        return 0

    def choose_handle(self, index: int) -> None:
        """Another one is."""


class SlipPage(Page):
    """A page of the slip: about something on the desk."""

    def __init__(self, desk: Desk, inks: Callable[[], tuple[str, ...]], ask: Callable[[Any], None]) -> None:
        super().__init__()
        self.desk, self._inks = desk, inks
        self.ask = ask  # for a command: something that is done elsewhere
        self.widget.setObjectName("page")
        self.column.setContentsMargins(20, 6, 16, 4)
        self.column.setSpacing(3)

    def longer(self) -> float | None:
        photo = self.desk.photo
        return float(max(photo.width, photo.height)) if photo else None

    def folder(self) -> Path | None:
        return self.desk.photo.path.parent if self.desk.photo is not None else None

    def inks(self) -> tuple[str, ...]:
        return self._inks()

    def handle(self) -> int:
        return self.desk.handle

    def choose_handle(self, index: int) -> None:
        self.desk.choose_handle(index)
