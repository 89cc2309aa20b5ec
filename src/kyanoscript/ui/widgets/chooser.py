"""Sheets to choose from in which every choice is shown on this picture: passes, blend modes.

The small pictures come one by one from the render service; nothing waits for them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFocusEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from kyanoscript.core.script import Script
from kyanoscript.translation import spoken
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.popup import pop_up

HELD = "Looks the picture over: open its group to see it"
THUMB = QSize(120, 80)
_MOST_FOUND = 40
_RIM, _NAME, _GAP, _HEAD = 6, 20, 4, 26
_ARROWS = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
_TAKES = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


@dataclass(frozen=True)
class Choice:
    """One thing to choose."""

    key: str
    name: str
    group: str = ""
    help: str = ""
    words: str = ""  # other words it is found by

    def fits(self, asked: str) -> bool:
        """Whether it is found by what was typed, in small letters."""
        return asked in f"{self.name} {self.key} {self.group} {self.help} {self.words}".lower()

    def nearness(self, asked: str) -> int:
        """How near it is to what was typed: its name begins so, a word of it does, it has that, something else has."""
        name = self.name.lower()
        if name.startswith(asked):
            return 0
        if any(word.startswith(asked) for word in name.replace("-", " ").split()):
            return 1
        return 2 if asked in name else 3


class Grid(QWidget):
    """The choices, group after group, or all in one row."""

    chosen = Signal(str)
    pointed = Signal(str)  # another choice is looked at

    def __init__(self, columns: int, thumb: QSize = THUMB, one_row: bool = False) -> None:
        super().__init__()
        self.columns, self.thumb, self._one_row = columns, thumb, one_row
        self.current = ""
        self.own_keys: frozenset[Qt.Key] = frozenset()  # see Window.eventFilter
        self._choices: list[Choice] = []
        self._images: dict[str, QImage] = {}
        self.held: frozenset[str] = frozenset()
        self._held_words = HELD
        self._boxes: dict[str, QRectF] = {}
        self._heads: list[tuple[float, str]] = []
        self.setMouseTracking(True)
        self.setAccessibleName(spoken("Choices"))

    def take_keys(self) -> None:
        """The grid itself can have the keyboard (in a chooser the line to search by has it)."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.own_keys = frozenset((*_ARROWS, *_TAKES))

    def cell(self) -> QSize:
        """Width and height of a choice."""
        return QSize(self.thumb.width() + 2 * _RIM, self.thumb.height() + _RIM + _NAME)

    def set_room(self, columns: int, thumb: QSize) -> None:
        """Other sizes; pictures that no longer fit are forgotten."""
        if (columns, thumb) != (self.columns, self.thumb):
            if thumb != self.thumb:
                self._images.clear()
            self.columns, self.thumb = columns, thumb
            self.show_choices(self._choices, self.current)

    def show_choices(self, choices: list[Choice], current: str = "") -> None:
        """Lay out the choices."""
        self._choices, self._boxes, self._heads = choices, {}, []
        width, height = self.cell().width(), self.cell().height()
        columns = max(1, len(choices)) if self._one_row else self.columns
        y, column, group = 0.0, 0, ""
        for choice in choices:
            if choice.group != group and not self._one_row:
                if column:
                    y, column = y + height, 0
                group = choice.group
                self._heads.append((y, group))
                y += _HEAD
            if column == columns:
                y, column = y + height, 0
            self._boxes[choice.key] = QRectF(column * (width + _GAP), y, width, height)
            column += 1
        self.setFixedSize(columns * (width + _GAP), int(y + (height if choices else _HEAD)))
        keys = list(self._boxes)
        self.look_at(current if current in keys else (keys[0] if keys else ""))
        self.update()

    def told(self) -> Told:
        """For assistive technology: the choice that is looked at."""
        keys = list(self._boxes)
        at = keys.index(self.current) if self.current in keys else 0
        words = next((choice.name for choice in self._choices if choice.key == self.current), "nothing")
        last = max(0, len(keys) - 1)
        return Told(
            Role.List, words, at, 0, last, 1.0, lambda value: self.look_at(keys[round(value)]) if keys else None
        )

    def box(self, key: str) -> QRectF:
        """Where a choice is."""
        return self._boxes[key]

    def shown(self) -> list[str]:
        """The choices in order, by their keys."""
        return list(self._boxes)

    def take(self, key: str, image: QImage) -> None:
        """A small picture has come."""
        self._images[key] = image
        if key in self._boxes:
            self.update(self._boxes[key].toAlignedRect())

    def pictured(self) -> set[str]:
        """The choices whose picture has come."""
        return set(self._images)

    def picture(self, key: str) -> QImage:
        """The small picture of a choice; an empty one if it has not come."""
        return self._images.get(key, QImage())

    def hold(self, keys: frozenset[str], words: str = HELD) -> None:
        """Choices whose picture is not made yet, and that say so."""
        if keys != self.held:
            self.held, self._held_words = keys, words
            self.update()

    def forget(self) -> None:
        """Another picture is on the bench: all small pictures are out of date."""
        self._images.clear()
        self.update()

    def look_at(self, key: str) -> None:
        """Another choice."""
        if key != self.current:
            self.current = key
            self.setAccessibleDescription(
                spoken(next((f"{c.name}: {c.help}" for c in self._choices if c.key == key), ""))
            )
            self.update()
            tell(self)
            self.pointed.emit(key)

    def step(self, across: int, down: int) -> None:
        """The nearest choice to one side."""
        if self.current not in self._boxes:
            return
        keys = list(self._boxes)
        here = self._boxes[self.current].center()
        if across:
            self.look_at(keys[min(max(keys.index(self.current) + across, 0), len(keys) - 1)])
            return
        beyond = [(abs(b.center().y() - here.y()), abs(b.center().x() - here.x()), k)
                  for k, b in self._boxes.items() if (b.center().y() - here.y()) * down > 1]  # fmt: skip
        if beyond:
            self.look_at(min(beyond)[2])

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.serif(15, italic=True))
        painter.setPen(theme.colour("quiet"))
        for y, text in self._heads:
            painter.drawText(
                QRectF(6, y, self.width(), _HEAD - 2), Qt.AlignmentFlag.AlignVCenter, spoken(text.capitalize())
            )
        if not self._boxes:
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, spoken("Nothing of that name"))
        for choice in self._choices:
            box = self._boxes[choice.key]
            if event.rect().intersects(box.toAlignedRect()):
                self._paint_choice(painter, choice, box)
        painter.end()

    def _paint_choice(self, painter: QPainter, choice: Choice, box: QRectF) -> None:
        if choice.key == self.current:
            painter.fillRect(box, theme.colour("soft"))
            painter.fillRect(QRectF(box.left(), box.top(), box.width(), 2), theme.colour("accent"))
            if self.hasFocus():
                painter.setPen(QPen(theme.colour("accent"), 2))
                painter.drawRect(box.adjusted(1, 1, -1, -1))
        place = QRectF(box.left() + _RIM, box.top() + _RIM, self.thumb.width(), self.thumb.height())
        image = self._images.get(choice.key)
        if image is None:
            painter.fillRect(place, theme.colour("ground"))
            if choice.key in self.held:
                painter.setFont(theme.sans(12))
                painter.setPen(theme.colour("quiet"))
                flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
                painter.drawText(place.adjusted(8, 4, -8, -4), flags, spoken(self._held_words))
        else:
            ratio = self.devicePixelRatioF()
            inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
            inner.moveCenter(place.center())
            inner.moveTo(round(inner.x()), round(inner.y()))  # on whole pixels, so that it stays sharp
            painter.drawImage(inner, image)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.colour("text"))
        name = painter.fontMetrics().elidedText(spoken(choice.name), Qt.TextElideMode.ElideRight, int(place.width()))
        text = QRectF(place.left(), place.bottom() + 1, place.width(), _NAME - 2)
        painter.drawText(text, Qt.AlignmentFlag.AlignVCenter, spoken(name))

    def _under(self, at: QPointF) -> str:
        return next((key for key, box in self._boxes.items() if box.contains(at)), "")

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        key = self._under(event.position())
        if key:
            self.look_at(key)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        key = self._under(event.position())
        if key:
            self.look_at(key)
            self.chosen.emit(key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key in _ARROWS:
            self.step(*_ARROWS[key])
        elif key in _TAKES and self.current:
            self.chosen.emit(self.current)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()


class Chooser(QFrame):
    """Pops up with its choices, a line to search by and a line that says what the one looked at does."""

    chosen = Signal(str)
    pointed = Signal(str)
    closed = Signal()

    def __init__(
        self,
        parent: QWidget,
        service: RenderService,
        choices: list[Choice],
        script_of: Callable[[str], Script],
        columns: int,
        question: str = "",
        current: str = "",
        search: Callable[[str], list[Choice]] | None = None,
    ) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.service, self._choices, self._script_of = service, choices, script_of
        self._search = search  # what fits what was typed, the nearest first: among more than what is shown at first
        self._known = {choice.key: choice for choice in choices}
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setFrameShape(QFrame.Shape.Box)
        self.setObjectName("popup")
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 10, 10, 8)
        column.setSpacing(6)
        self.search = QLineEdit()
        self.search.setFont(theme.sans(13))
        self.search.setPlaceholderText(spoken(question))
        self.search.setAccessibleName(spoken(question or "Search"))
        self.search.textChanged.connect(self._find)
        self.search.installEventFilter(self)
        column.addWidget(self.search)
        self.grid = Grid(columns)
        self._area = QScrollArea()
        self._area.setWidget(self.grid)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area.setFrameShape(QFrame.Shape.NoFrame)
        column.addWidget(self._area)
        self.help = furniture.label("", quiet=True)
        self.help.setFixedHeight(20)
        column.addWidget(self.help)
        self.grid.chosen.connect(self._take)
        self.grid.pointed.connect(self._pointed)
        service.answers(Thumbnail).connect(self._proof)
        self.grid.show_choices(choices, current)
        self._area.setFixedSize(self.grid.width() + 12, min(self.grid.height(), 470))

    def pop_up(self, at: QPoint) -> None:
        """Show it near a point, within the screen, and ask for the small pictures."""
        self.adjustSize()
        pop_up(self, at)
        self.search.setFocus()
        self._ask(self._choices)

    def _ask(self, choices: list[Choice]) -> None:
        """Small pictures of these, but for those that look the picture over first."""
        ratio = self.devicePixelRatioF()
        size = (round(THUMB.width() * ratio), round(THUMB.height() * ratio))
        wanted = [c.key for c in choices if c.key not in self.grid.pictured()]
        scripts = {key: self._script_of(key) for key in wanted}
        first = {choice.key for choice in self._choices}
        held = frozenset(key for key, script in scripts.items() if key not in first and script.takes_long)
        self.grid.hold(held, "Looks the picture over, which takes seconds")
        now = {key: script for key, script in scripts.items() if key not in held}
        self.service.ask_instead(PROOFS, proofs(id(self), now, size))

    def search_again(self) -> None:
        """There is more to be found than before."""
        if self.search.text().strip():
            self._find(self.search.text())

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag == id(self):
            self.grid.take(proof.key, display.image(proof.pixels))

    def _find(self, text: str) -> None:
        asked = text.strip().lower()
        if not asked:
            self.grid.show_choices(self._choices, self.grid.current)
            return
        if self._search is not None:
            choices = self._search(asked)[:_MOST_FOUND]
            self._known.update({choice.key: choice for choice in choices})
            self.grid.show_choices([replace(c, group="") for c in choices])
            self._ask(choices)
            return
        found = sorted((c for c in self._choices if c.fits(asked)), key=lambda c: c.nearness(asked))
        self.grid.show_choices([replace(c, group="") for c in found])  # the nearest first, whatever its group

    def _pointed(self, key: str) -> None:
        self.help.setText(spoken(self._known[key].help if key in self._known else ""))
        if key:
            box = self.grid.box(key)
            self._area.ensureVisible(int(box.center().x()), int(box.center().y()), 20, int(box.height() / 2 + 8))
        self.pointed.emit(key)

    def _take(self, key: str) -> None:
        if key:
            self.hide()
            self.chosen.emit(key)
            self.close()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.search and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = Qt.Key(event.key())
            if key in _ARROWS:
                self.grid.step(*_ARROWS[key])
                return True
            if key in _TAKES:
                self._take(self.grid.current)
                return True
        return False

    def hideEvent(self, event: object) -> None:
        self.service.ask_instead(PROOFS, ())
        self.closed.emit()
