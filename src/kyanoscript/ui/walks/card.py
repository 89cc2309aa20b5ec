"""What is said on a walk, beside what it is said of; and the line round that."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPoint, QRect, Qt
from PySide6.QtGui import QAccessible, QAccessibleEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.widgets import furniture, theme

_WIDE, _ASIDE, _ROUND = 320, 14, 3
_PAGE, _HEAD, _RUN = 304, 60, 170  # pixels: how wide the page at the right is; how high head and run are


class Card(QFrame):
    """A title, some words, and what can be pressed."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self._over = over
        self.setObjectName("popup")
        self.setFixedWidth(_WIDE)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 12, 18, 12)
        column.setSpacing(6)
        self.title = furniture.title("", 17)
        self.text = furniture.label("")
        self.text.setWordWrap(True)
        column.addWidget(self.title)
        column.addWidget(self.text)
        self.row = QHBoxLayout()
        self.row.setSpacing(14)
        column.addLayout(self.row)
        self.column = QVBoxLayout()
        self.column.setSpacing(0)
        column.insertLayout(2, self.column)
        self.hide()

    def tell(self, title: str, text: str, words: Sequence[QWidget], below: Sequence[QWidget] = ()) -> None:
        """Say something else. ``words``: beside each other, ``below``: beneath the text."""
        for layout in (self.row, self.column):
            while (item := layout.takeAt(0)) is not None:
                if (old := item.widget()) is not None:
                    old.hide()
                    old.deleteLater()
        self.title.setText(spoken(title))
        self.text.setText(text)
        for layout, added in ((self.row, words), (self.column, below)):
            for word in added:
                layout.addWidget(word)
                word.show()  # else it has no height yet
        self.row.addStretch()
        self.setAccessibleName(spoken(title))
        self.setAccessibleDescription(spoken(text))
        self.show()
        self.raise_()
        self.setFixedHeight(self.heightForWidth(_WIDE))
        QAccessible.updateAccessibility(QAccessibleEvent(self, QAccessible.Event.Alert))

    def lie_beside(self, box: QRect | None) -> None:
        """Beside a box of the window where there is room, the left side first; without one in the lower middle."""
        over = self._over.rect().adjusted(_ASIDE, _ASIDE, -_ASIDE, -_ASIDE)
        size = self.size()
        if box is None:
            spots = [QPoint(over.center().x() - size.width() // 2, over.bottom() - size.height() - 210)]
        else:
            middle = box.center()
            left = min(box.left(), self._over.width() - _PAGE) if middle.x() > over.width() // 2 else box.left()
            spots = [
                QPoint(left - size.width() - _ASIDE, middle.y() - size.height() // 2),
                QPoint(box.right() + _ASIDE, middle.y() - size.height() // 2),
                QPoint(middle.x() - size.width() // 2, box.bottom() + _ASIDE),
                QPoint(middle.x() - size.width() // 2, box.top() - size.height() - _ASIDE),
            ]
            if box.bottom() < _HEAD:  # what stands in the head is told below it
                spots.insert(0, spots.pop(2))
            if box.top() > self._over.height() - _RUN:  # and what stands below the easel above it
                spots.insert(0, spots.pop(3))
        held = [QRect(_within(spot, size.width(), size.height(), over), size) for spot in spots]
        free = [place for place in held if box is None or not place.intersects(box)]
        self.move((free or held)[0].topLeft())


def _within(spot: QPoint, width: int, height: int, over: QRect) -> QPoint:
    return QPoint(
        max(over.left(), min(spot.x(), over.right() - width)), max(over.top(), min(spot.y(), over.bottom() - height))
    )


class Round(QWidget):
    """A line round a part of the window; presses go through it."""

    def __init__(self, over: QWidget) -> None:
        super().__init__(over)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.hide()

    def lie_round(self, box: QRect | None) -> None:
        """Round a box of the window; None: nowhere."""
        self.setVisible(box is not None)
        if box is not None:
            self.setGeometry(box.adjusted(-_ROUND, -_ROUND, _ROUND, _ROUND))
            self.raise_()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()
