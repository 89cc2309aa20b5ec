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


class Label(QLabel):
    """A label whose text is text."""

    def __init__(self, text: str = "") -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)

    def setText(self, text: str) -> None:
        """Show a text; letters that would act are spelt out."""
        super().setText(visible(text))


def shown(text: str) -> str:
    """What a part of Qt has to be told that knows of no plain text, so that a text is shown as it is."""
    text = visible(text)
    if "<" not in text and "&" not in text:
        return text
    return f"<span style='white-space: pre-wrap'>{html.escape(text)}</span>"


def tip(of: QWidget | QAction | QListWidgetItem, text: str) -> None:
    """Give something a tool tip."""
    of.setToolTip(shown(text))


def tip_at(place: QPoint, text: str, of: QWidget) -> None:
    """Show a tool tip at a place of the screen; an empty one goes."""
    QToolTip.showText(place, shown(text), of)


def question(over: QWidget, text: str, more: str) -> QMessageBox:
    """A question in a box, without its buttons."""
    box = QMessageBox(over)
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(visible(text))
    box.setInformativeText(shown(more))
    return box
