"""Six likely tints for a part of the scene, and the list of its parts."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QKeyEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QListWidget, QListWidgetItem

from kyanoscript.core.tint.dabs import Dab
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.slip.tints import Swatches
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

_CELL, _HIGH, _WORD = 43, 30, 15
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
_DIGITS = tuple(Qt.Key(Qt.Key.Key_1 + k) for k in range(6))
_ROW, _ROWS = 22, 9


class Offers(Swatches):
    """The six, likeliest first; shown on the print while the pointer is over them."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__("Likely tints", _CELL, _HIGH + _WORD, (*_STEPS, *_DIGITS))
        hint(
            self, "Six likely tints, seen on the print under the pointer; a press takes one", "Full tints look painted"
        )
        self.tints: list[str] = []
        self.taken = ""  # the tint that the part has

    @property
    def inks(self) -> Sequence[str]:
        """The tints, #rrggbb."""
        return self.tints

    def _words(self, k: int) -> str:
        words = "; the likeliest" if k == 0 else ""
        return tr("{tints}{words}  (Alt+{k})", tints=self.tints[k], words=words, k=k + 1)

    def _chose(self, k: int) -> None:
        self.chosen.emit(k)

    def show_tints(self, tints: Sequence[str], taken: str) -> None:
        """Other tints, or another of them taken."""
        if (list(tints), taken) != (self.tints, self.taken):
            self.tints, self.taken = list(tints), taken
            self._at = self.tints.index(taken) if taken in self.tints else 0
            self.update()

    def sizeHint(self) -> QSize:
        return QSize(6 * _CELL, _HIGH + _WORD)

    def told(self) -> Told:
        """For assistive technology: the tint that is looked at."""
        words = (
            tr("tint {at} of {count}, {tints}", at=self._at + 1, count=len(self.tints), tints=self.tints[self._at])
            if self.tints
            else "none"
        )
        if self.tints and self.tints[self._at] == self.taken:
            words += ", taken"
        return Told(Role.List, words, self._at, 0, max(0, len(self.tints) - 1), 1.0, self._look_at)

    def box(self, k: int) -> QRectF:
        """Where a tint is."""
        return QRectF(k * _CELL + 1, 2, _CELL - 6, _HIGH - 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.sans(11))
        for k, ink in enumerate(self.tints):
            box = self.box(k)
            painter.fillRect(box, display.ink(ink))
            here = self.hasFocus() and k == self._at
            mark = here or ink == self.taken
            painter.setPen(QPen(theme.colour("accent" if mark else "line"), 2 if mark else 1))
            painter.drawRect(box)
            painter.setPen(theme.colour("accent" if ink == self.taken else "quiet"))
            under = QRectF(box.x(), _HIGH, box.width(), _WORD)
            painter.drawText(
                under,
                Qt.AlignmentFlag.AlignCenter,
                spoken(tr("{k} taken", k=k + 1) if ink == self.taken else f"{k + 1}"),
            )
        painter.end()

    def focusOutEvent(self, event: object) -> None:
        self._point(-1)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in _DIGITS:
            self._take(_DIGITS.index(key))
        elif key in _STEPS and self.tints:
            self._at = min(max(self._at + _STEPS[key], 0), len(self.tints) - 1)
            self._point(self._at)  # as the pointer shows it
            self.update()
            tell(self)
        elif key in self.own_keys:
            self._take(self._at)
        else:
            super().keyPressEvent(event)


class Parts(QListWidget):
    """Every part by name, with its tint, or that it waits for one."""

    wanted = Signal(str)  # a part is to be worked on

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName(spoken("Parts of the scene"))
        hint(
            self,
            "What waits for a tint, was guessed, was chosen; a press shows it",
            "Named by rules, a wall may be called a sky",
        )
        self.setFont(theme.sans(12))
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._rows: list[tuple[str, str, str]] = []
        self.itemPressed.connect(lambda item: self.wanted.emit(item.data(Qt.ItemDataRole.UserRole)))
        self.itemActivated.connect(lambda item: self.wanted.emit(item.data(Qt.ItemDataRole.UserRole)))

    def show_parts(self, dabs: Sequence[Dab], chosen: str) -> None:
        """All parts, those that wait first."""
        first: dict[str, Dab] = {}
        for dab in dabs:
            if dab.name and dab.tints:
                first.setdefault(dab.name, dab)
        ordered = sorted(first.values(), key=lambda dab: not dab.offered)
        rows = [(dab.name, "" if dab.offered else dab.colour, _state(dab)) for dab in ordered]
        if rows != self._rows:
            self._rows = rows
            self.clear()
            for name, ink, state in rows:
                large, told = spoken(f"{name[:1].upper()}{name[1:]}"), spoken(state)
                item = QListWidgetItem(_swatch(ink), f"{large} \N{EN DASH} {told}")
                item.setData(Qt.ItemDataRole.UserRole, name)
                item.setSizeHint(QSize(10, _ROW))
                self.addItem(item)
            self.setFixedHeight(_ROW * min(len(rows), _ROWS) + 4)
        names = [name for name, _, _ in rows]
        row = names.index(chosen) if chosen in names else -1
        if row != self.currentRow():
            self.setCurrentRow(row)


def _state(dab: Dab) -> str:
    return "waits" if dab.offered else "guessed" if dab.guess else "chosen"


def _swatch(ink: str) -> QIcon:
    """A small square of a tint; an empty one of what waits."""
    made = QPixmap(14, 14)
    made.fill(display.ink(ink) if ink else theme.colour("panel"))
    painter = QPainter(made)
    painter.setPen(theme.colour("line"))
    painter.drawRect(0, 0, 13, 13)
    painter.end()
    return QIcon(made)
