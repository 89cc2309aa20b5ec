"""What the tools see of the easel they work on."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter

from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.ui.widgets.bykeyboard import ByKeyboard


class Stage(ByKeyboard):
    """A print on a widget: where it lies, and what of it is seen."""

    aspect = 1.0  # width to height of the chosen plate's picture

    def to_picture(self, at: QPointF) -> QPointF:
        """Place in the picture, 0…1 (outside when off the print), of a point of the widget."""
        raise NotImplementedError

    def from_picture(self, at: QPointF) -> QPointF:
        """Point of the widget of a place in the picture, 0…1."""
        raise NotImplementedError

    def place(self) -> QRectF:
        """The whole print on the widget, in pixels of the screen (those of the device)."""
        raise NotImplementedError

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        raise NotImplementedError

    def render_scale(self) -> float:
        """Scale at which the print is rendered: never above the photograph's own pixels."""
        raise NotImplementedError

    def seen(self) -> tuple[Rect, float] | None:
        """Which part of the print is on the widget, and at what scale."""
        raise NotImplementedError

    def shown(self) -> Script:
        """What is on the widget."""
        raise NotImplementedError

    def hold(self, script: Script | None, caption: str = "") -> None:
        """Show another script's print until called with None."""
        raise NotImplementedError

    def refresh(self, *_: object) -> None:
        """Ask for what should be seen now."""
        raise NotImplementedError


class Tool(Protocol):
    """What follows the pointer on the easel, in points of the easel."""

    @property
    def active(self) -> bool:
        """Whether a press on the picture is for it."""

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> object:
        """The hand comes down."""

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """The pointer goes on, whether the hand is down or not."""

    def release(self, at: QPointF) -> None:
        """The hand lets go."""

    def give_up(self) -> None:
        """What the hand was doing is over, for whatever reason."""

    def away(self) -> None:
        """The pointer has left the easel."""

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape at a place."""

    def paint(self, painter: QPainter) -> None:
        """What it shows over the print."""
