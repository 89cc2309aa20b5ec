"""What goes wrong in the print: a quiet line for each, with the place on the easel and the value that mends it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from kyanoscript.core.render.faults import Fault
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.service.results import Told
from kyanoscript.ui.widgets import furniture, theme

_MARGINS = (20, 4, 16, 8)
_STRIPE, _DARK, _LIGHT = 3, 180, 110  # pixels of the small picture, and how opaque stripes are


class ToldLines(QWidget):
    """Below the page of the slip; as long as there is something to say."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.desk, self.easel = context.desk, context.easel
        self.faults: tuple[Fault, ...] = ()
        self.shows: list[QPushButton] = []  # the words that show where, and those that mend; a line each
        self.mends: list[QPushButton] = []
        self._lines: list[QWidget] = []
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(*_MARGINS)
        self.column.setSpacing(4)
        self.setAccessibleName(spoken("What goes wrong"))
        self.column.addWidget(furniture.line())
        context.service.answers(Told).connect(self._take)
        self.desk.script_changed.connect(self._follow)
        self.desk.photo_changed.connect(lambda *_: self.show_faults(()))
        self.hide()

    def _take(self, told: Told) -> None:
        if told.script == self.desk.script:
            self.show_faults(told.faults)

    def _follow(self, *_: object) -> None:
        """Another script: what was shown on the easel lies elsewhere, perhaps."""
        for show in self.shows:
            show.setChecked(False)
        self.easel.show_where(QImage())

    def show_faults(self, faults: Sequence[Fault]) -> None:
        """These, and no others."""
        before = [(fault.what, fault.words, fault.mends) for fault in self.faults]
        self.faults = tuple(faults)
        if [(fault.what, fault.words, fault.mends) for fault in faults] == before:
            return  # the lines are there already, and perhaps under the hand
        self._follow()
        for line in self._lines:
            line.hide()
            line.deleteLater()
        self.shows, self.mends = [], []
        self._lines = [self._line(k, fault) for k, fault in enumerate(self.faults)]
        for line in self._lines:
            self.column.addWidget(line)
        self.setVisible(bool(faults))

    def _line(self, k: int, fault: Fault) -> QWidget:
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        row.addWidget(furniture.wrapped(fault.words), 1)
        show = furniture.word("Show", "Where it is on the print", checkable=True)
        show.setAccessibleName(tr("Show: {words}", words=fault.words))
        show.toggled.connect(lambda on: self._show(k, on))
        mend = furniture.word("Mend", fault.mends, act=lambda: self._mend(k))
        mend.setAccessibleName(tr("Mend: {words}", words=fault.words))
        for word, means in ((show, fault.where is not None), (mend, bool(fault.mend))):
            row.addWidget(word)  # first: a word that belongs nowhere would be shown as a window of its own
            word.setVisible(means)
        self.shows.append(show)
        self.mends.append(mend)
        return line

    def _show(self, k: int, on: bool) -> None:
        for other, word in enumerate(self.shows):
            if on and other != k:
                word.setChecked(False)
        where = self.faults[k].where
        self.easel.show_where(_veil(where) if on and where is not None else QImage())

    def _mend(self, k: int) -> None:
        fault, script = self.faults[k], self.desk.script
        at = next((j for j, step in enumerate(script.passes) if step.id == fault.step), None)
        if at is not None:
            step = script.passes[at]
            label = f"{step.label}: {fault.mends[:1].lower()}{fault.mends[1:]}"
            self.desk.change(label, script.with_pass(at, step.with_(**fault.mend)))


def _veil(where: np.ndarray) -> QImage:
    """The accent over the places, in stripes with white, so that it is seen on dark prints and on light ones."""
    accent, (height, width) = theme.colour("accent"), where.shape
    down, across = np.indices(where.shape)
    light = where & ((across + down) // _STRIPE % 2 == 0)
    pixels = np.zeros((height, width, 4), np.uint8)
    pixels[where] = (*(np.array([accent.blue(), accent.green(), accent.red()]) * _DARK // 255), _DARK)
    pixels[light] = _LIGHT
    return QImage(pixels.tobytes(), width, height, 4 * width, QImage.Format.Format_ARGB32_Premultiplied).copy()
