"""Where things stand in the window: one page of each place is seen, or the place is gone."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QApplication, QGridLayout, QStackedWidget, QVBoxLayout, QWidget

from kyanoscript.ui.commands.view import Panels
from kyanoscript.ui.widgets import furniture


class Place(QStackedWidget):
    """As large as the page that is seen wants to be."""

    def show_page(self, page: QWidget | None) -> None:
        """Another page; None: the place is gone."""
        if page is not None:
            if self.indexOf(page) < 0:
                self.addWidget(page)
            self.setCurrentWidget(page)
            self.updateGeometry()
        self.setVisible(page is not None)

    def sizeHint(self) -> QSize:
        page = self.currentWidget()
        return _allowed(page, page.sizeHint()) if page is not None else QSize()

    def minimumSizeHint(self) -> QSize:
        page = self.currentWidget()
        return _allowed(page, page.minimumSizeHint()) if page is not None else QSize()


def _allowed(page: QWidget, size: QSize) -> QSize:
    return size.expandedTo(page.minimumSize()).boundedTo(page.maximumSize())


def _holds(part: QWidget, widget: QWidget | None) -> bool:
    return widget is not None and (part is widget or part.isAncestorOf(widget))


class Places(QWidget):
    """Head, left, middle with its foot, right, below; hairlines between them."""

    def __init__(self, head: QWidget, above: QWidget, easel: QWidget, foot: QWidget) -> None:
        super().__init__()
        self._easel = easel
        self.left, self.middle, self.right, self.below = (Place() for _ in range(4))
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        foot_line = furniture.line()
        for part, stretch in ((above, 0), (self.middle, 1), (foot_line, 0), (foot, 0)):
            column.addWidget(part, stretch)
        self._below_line = furniture.line()
        self._chrome: list[QWidget] = [
            head,
            furniture.line(),
            furniture.line(vertical=True),
            furniture.line(vertical=True),
        ]
        spots = ((0, 0, 1, 5), (1, 0, 1, 5), (2, 1, 1, 1), (2, 3, 1, 1))
        for part, spot in zip(self._chrome, spots, strict=True):
            grid.addWidget(part, *spot)
        self._chrome += [foot_line, foot]
        grid.addWidget(self.left, 2, 0)
        grid.addWidget(centre, 2, 2)
        grid.addWidget(self.right, 2, 4)
        grid.addWidget(self._below_line, 3, 0, 1, 5)
        grid.addWidget(self.below, 4, 0, 1, 5)
        grid.setColumnStretch(2, 1)
        grid.setRowStretch(2, 1)

    def arrange(self, panels: Panels, bare: bool, focus: QWidget | None) -> None:
        """Show a view's panels; ``bare``: nothing but what is in the middle.

        ``focus`` gets the keyboard if what has it goes.
        """
        middle = panels.middle or self._easel
        stay = [middle] if bare else [middle, panels.left, panels.right, panels.below, *self._chrome]
        present = QApplication.focusWidget()
        inside = any(part is not None and _holds(part, present) for part in stay)
        # Before its widget goes, lest Qt hand the keyboard on as if by the Tab key.
        if present is not None and self.isAncestorOf(present) and not inside:
            if self.middle.indexOf(middle) >= 0:
                self.middle.show_page(middle)
            (focus or middle).setFocus(Qt.FocusReason.OtherFocusReason)
        self.middle.show_page(middle)
        for place, page in ((self.left, panels.left), (self.right, panels.right), (self.below, panels.below)):
            place.show_page(None if bare else page)
        self._below_line.setVisible(panels.below is not None and not bare)
        for part in self._chrome:
            part.setVisible(not bare)
