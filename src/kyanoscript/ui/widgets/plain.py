"""Words on the screen are words: nothing that a file says is taken for markup.

Qt looks at a text and makes a document of it where it seems to be one: what a note such as ``<img src='/dev/zero'>``
names would be loaded. Labels, tool tips and questions are made here and nowhere else (a test looks for others).
"""

from __future__ import annotations

import html

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtWidgets import QLabel, QListWidgetItem, QMessageBox, QToolTip, QWidget

from kyanoscript.core.quoting import visible
from kyanoscript.translation import spoken

_PLACE = "guide"


class Label(QLabel):
    """A label whose text is text."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def setText(self, text: str) -> None:
        """Show a text, in the person's language; letters that would act are spelt out."""
        super().setText(visible(spoken(text)))


def shown(text: str) -> str:
    """What a part of Qt has to be told that knows of no plain text, so that a text is shown as it is."""
    text = visible(text)
    if "<" not in text and "&" not in text:
        return text
    return f"<span style='white-space: pre-wrap'>{html.escape(text)}</span>"


def tip(of: QWidget | QAction | QListWidgetItem, text: str, wrong: str = "") -> None:
    """Give something a tool tip; the foot tells it too, with what goes ``wrong``, while pointer or focus is there."""
    of.setToolTip(shown(spoken(text)))
    hint(of, text, wrong)


def hint(of: QWidget | QAction | QListWidgetItem, text: str, wrong: str = "") -> None:
    """What the foot tells while pointer or keyboard is there: what something does, and what goes wrong with it."""
    parts = (spoken(part).rstrip(".") for part in (text, wrong) if part)
    of.setStatusTip(visible(". ".join(parts).replace("\n", " ")))


def hinted(widget: QWidget | None) -> str:
    """What is told of a widget, or of what it is a part of."""
    while widget is not None and not widget.isWindow():
        if widget.statusTip():
            return widget.statusTip()
        widget = widget.parentWidget()
    return ""


def lead(widget: QWidget, place: str) -> None:
    """Where the guide tells of a control: a page and a place on it, as "paper#proof"."""
    widget.setProperty(_PLACE, place)


def led(widget: QWidget | None) -> str:
    """Where the guide tells of a control, or of what it is a part of; empty if nothing is known."""
    while widget is not None:
        if place := widget.property(_PLACE):
            return str(place)
        widget = widget.parentWidget()
    return ""


def tip_at(place: QPoint, text: str, of: QWidget) -> None:
    """Show a tool tip at a place of the screen; an empty one goes."""
    QToolTip.showText(place, shown(spoken(text)), of)


def question(over: QWidget, text: str, more: str) -> QMessageBox:
    """A question in a box, without its buttons."""
    box = QMessageBox(over)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(visible(spoken(text)))
    box.setInformativeText(shown(spoken(more)))
    return box
