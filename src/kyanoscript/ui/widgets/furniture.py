"""The furniture of pages: words, lines and titles that everything else stands between."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QRectF, Qt, QTimer, SignalInstance
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QSizePolicy, QWidget
from shiboken6 import isValid

from kyanoscript.translation import spoken
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.plain import Label, tip

Act = Callable[[], Any] | SignalInstance


def line(vertical: bool = False) -> QFrame:
    """A hairline."""
    made = QFrame()
    made.setObjectName("line")
    (made.setFixedWidth if vertical else made.setFixedHeight)(1)
    return made


def scrolling() -> QScrollArea:
    """Where a page scrolls up and down, if it must; it takes the width there is."""
    made = QScrollArea()
    made.setWidgetResizable(True)
    made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    made.setFrameShape(QFrame.Shape.NoFrame)
    return made


def label(text: str, quiet: bool = False, pixels: float = 13) -> QLabel:
    """Plain text."""
    made = Label(text)
    made.setFont(theme.sans(pixels))
    if quiet:
        made.setObjectName("quiet")
    return made


def wrapped(text: str) -> QLabel:
    """Quiet text over as many lines as the room asks for."""
    made = label(text, quiet=True)
    made.setWordWrap(True)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    return made


def title(text: str, pixels: float = 21) -> QLabel:
    """A title in the book face."""
    made = Label(text)
    made.setFont(theme.serif(pixels))
    return made


class _Elided(Label):
    """A title that gives way where there is no room."""

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(self.font())
        painter.setPen(self.palette().windowText().color())
        shown = painter.fontMetrics().elidedText(spoken(self.text()), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, spoken(shown))
        painter.end()


def elided_title(text: str, pixels: float = 21) -> QLabel:
    """A title in the book face, cut short with an ellipsis where it is too long."""
    made = _Elided(text)
    made.setFont(theme.serif(pixels))
    tip(made, text)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    return made


def elided(text: str) -> QLabel:
    """A quiet line, cut short with an ellipsis where it is too long."""
    made = _Elided(text)
    made.setFont(theme.sans(13))
    made.setObjectName("quiet")
    tip(made, text)
    made.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
    return made


class Word(QPushButton):
    """A word that can be pressed, and may stay so.

    Assistive technology turns one that stays over, and that alone would not be heard as a press: here it is.
    """

    def __init__(self, text: str) -> None:
        super().__init__(spoken(text))
        self._known = False  # why it is turned over: the program shows something, or it was pressed
        self.toggled.connect(self._turned)

    def setChecked(self, on: bool) -> None:
        """Show whether it stays."""
        self._known = True
        super().setChecked(on)
        self._known = False

    def nextCheckState(self) -> None:
        self._known = True
        super().nextCheckState()
        self._known = False

    def _turned(self, _: bool) -> None:
        if not self._known:
            QTimer.singleShot(0, self._press)

    def _press(self) -> None:
        if isValid(self):
            self.setChecked(not self.isChecked())
            self.click()


def word(text: str, help: str = "", checkable: bool = False, act: Act | None = None) -> QPushButton:
    """A word that can be pressed, and what is done then."""
    made = Word(text)
    made.setObjectName("word")
    made.setCheckable(checkable)
    tip(made, help)
    made.setCursor(theme.HAND)
    made.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
    if act is not None:
        pressed(made, act)
    return made


def main(text: str, help: str, act: Act) -> QPushButton:
    """What is done on a page first of all."""
    made = QPushButton(spoken(text))
    made.setObjectName("main")
    tip(made, help)
    pressed(made, act)
    return made


def pressed(button: QPushButton, act: Act) -> None:
    """What is done when it is pressed; of a signal: it is sent."""
    then = act.emit if isinstance(act, SignalInstance) else act
    button.clicked.connect(lambda: then())


def in_a_row(*widgets: QWidget, spacing: int = 14) -> QHBoxLayout:
    """Beside each other, from the left."""
    row = QHBoxLayout()
    row.setSpacing(spacing)
    for widget in widgets:
        row.addWidget(widget)
    row.addStretch()
    return row


class Swatch(QPushButton):
    """A colour with its name: pressed, it shows or hides what it is chosen by."""

    def __init__(self, text: str, help: str) -> None:
        super().__init__()
        self.setObjectName("word")
        self.setFixedHeight(26)
        self.setCursor(theme.HAND)
        tip(self, help)
        self.setAccessibleName(spoken(text))
        self._text, self._ink = text, "#000000"

    def show_colour(self, ink: str) -> None:
        """Show a colour."""
        self._ink = ink
        self.setAccessibleDescription(spoken(ink))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(theme.sans(13))
        painter.setPen(theme.colour("text"))
        painter.drawText(self.rect(), middle | Qt.AlignmentFlag.AlignLeft, spoken(self._text))
        box = QRectF(self.width() - 40, 5, 39, self.height() - 10)
        painter.fillRect(box, display.ink(self._ink))
        focus = self.hasFocus()
        painter.setPen(QPen(theme.colour("accent" if focus else "line"), 2 if focus else 1))
        painter.drawRect(box)
        painter.setPen(theme.colour("quiet"))
        painter.drawText(
            QRectF(0, 0, box.left() - 8, self.height()), middle | Qt.AlignmentFlag.AlignRight, spoken(self._ink)
        )
        painter.end()
