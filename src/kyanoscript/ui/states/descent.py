"""How the states came about: drawn from the photo on the left to the bench on the right."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import furniture, theme

_R, _TOP, _LEFT = 6.0, 44, 34
_ROW, _ROW_LEAST, _STEP, _STEP_LEAST = 34.0, 22.0, 150.0, 64.0


@dataclass(frozen=True)
class Node:
    """The photo, a state, or the bench."""

    item: int
    words: str
    origin: int | None  # the item that it was made from; None: the first


def laid_out(nodes: Sequence[Node]) -> dict[int, tuple[int, float]]:
    """Column and row of every item: children right of their parent, every line of descent in a row of its own."""
    children: dict[int | None, list[Node]] = {}
    known = {node.item for node in nodes}
    first = nodes[0].item
    for node in nodes[1:]:
        origin = node.origin if node.origin in known and node.origin != node.item else first
        children.setdefault(origin, []).append(node)
    places: dict[int, tuple[int, float]] = {}
    row = 0

    def lay(item: int, column: int) -> float:
        nonlocal row
        places[item] = (column, 0.0)  # lest a circle of origins in a strange file go round for ever
        rows = [lay(child.item, column + 1) for child in children.get(item, ()) if child.item not in places]
        if rows:
            found = (rows[0] + rows[-1]) / 2
        else:
            found, row = float(row), row + 1
        places[item] = (column, found)
        return found

    lay(first, 0)
    for node in nodes:
        if node.item not in places:
            places[node.item] = (1, float(row))
            row += 1
    return places


class Descent(QWidget):
    """A press on one chooses it."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.nodes: tuple[Node, ...] = ()
        self.current = 0
        self.setAccessibleName(spoken("How they came about"))
        self.area = furniture.scrolling()
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAsNeeded)
        self.area.setWidget(self)
        self.area.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def show_nodes(self, nodes: Sequence[Node], current: int) -> None:
        """Those that there are."""
        self.nodes, self.current = tuple(nodes), current
        places = laid_out(nodes) if nodes else {}
        rows = max((row for _, row in places.values()), default=0) + 1
        columns = max((column for column, _ in places.values()), default=0)
        self.setMinimumHeight(int(_TOP + rows * _ROW_LEAST + 6))
        self.setMinimumWidth(int(_LEFT + columns * _STEP_LEAST + 160))
        told = [tr("{words} from {origin}", words=node.words, origin=self._words(node.origin)) for node in nodes[1:]]
        self.setAccessibleDescription(spoken("; ".join(told) or "only the photo"))
        self.update()

    def _words(self, item: int | None) -> str:
        return next((node.words for node in self.nodes if node.item == item), "the photo")

    def places(self) -> dict[int, QPointF]:
        """Where each is."""
        if not self.nodes:
            return {}
        laid = laid_out(self.nodes)
        rows = max(row for _, row in laid.values()) + 1
        columns = max(1, *(column for column, _ in laid.values()))
        down = min(_ROW, max(_ROW_LEAST, (self.height() - _TOP - 8) / rows))
        across = min(_STEP, max(_STEP_LEAST, (self.width() - _LEFT - 150) / columns))
        return {
            item: QPointF(_LEFT + column * across, _TOP + (row + 0.5) * down) for item, (column, row) in laid.items()
        }

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for item, at in self.places().items():
            if (event.position() - at).manhattanLength() < 3 * _R:
                self.chosen.emit(item)
                return

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(theme.serif(18))
        painter.setPen(theme.colour("text"))
        title = QRectF(20, 8, self.width(), 28)
        painter.drawText(title, Qt.AlignmentFlag.AlignVCenter, spoken("How they came about"))
        places = self.places()
        painter.setPen(QPen(theme.colour("quiet"), 1))
        for node in self.nodes[1:]:
            parent = node.origin if node.origin in places else self.nodes[0].item
            painter.drawLine(places[parent], places[node.item])
        across = min((b.x() - a.x() for a in places.values() for b in places.values() if b.x() > a.x()), default=150)
        for node in self.nodes:
            at = places[node.item]
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(theme.colour("accent" if node.item == self.current else "panel"))
            painter.drawEllipse(at, _R, _R)
            painter.setFont(theme.serif(14))
            last = not any(other.origin == node.item for other in self.nodes)
            room = 240.0 if last else across - 4 * _R
            box = QRectF(at.x() + 11, at.y() - 20 if not last else at.y() - 11, room, 20)
            words = painter.fontMetrics().elidedText(spoken(node.words), Qt.TextElideMode.ElideRight, int(room))
            box.setWidth(painter.fontMetrics().horizontalAdvance(spoken(words)) + 1)
            painter.fillRect(box.adjusted(-2, 2, 2, -2), theme.colour("panel"))  # lines go behind it
            painter.setPen(theme.colour("text"))
            painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, spoken(words))
        painter.end()
