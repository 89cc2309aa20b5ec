"""The contact sheet of an edition: every photograph small, as it is printed and as it was taken, told by how it stands.

Only what is in sight is drawn, and only small pictures of that are asked for: a thousand are as quick as three.
"""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QApplication, QFrame, QScrollArea, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.edition.series import State, Tile
from kyanoscript.ui.edition.smalls import Small
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Item, Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

PICTURE = QSize(168, 112)
_RIM, _GAP, _ROW, _WORDS = 20, 24, 152, 20
_DIM = {State.FAILED: 0.45, State.OUT: 0.2}
_WAITS = 0.45  # of its strength, while others are printed
_KEYS = Qt.Key
_BY = {_KEYS.Key_Left: -1, _KEYS.Key_Right: 1}
_ENDS = (_KEYS.Key_Home, _KEYS.Key_End, _KEYS.Key_PageUp, _KEYS.Key_PageDown, _KEYS.Key_Up, _KEYS.Key_Down)
_TAKES = (_KEYS.Key_Return, _KEYS.Key_Enter)
_SHIFT, _CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class Tiles(QWidget):
    """A press chooses, with Shift all up to there, with Ctrl one more; what is chosen can be dragged to its place."""

    chose = Signal()  # others are chosen
    entered = Signal()  # the Return key, or a second press
    moved = Signal(int)  # what is chosen is to stand before this place; that of the last: at the end
    seen = Signal()  # others are in sight

    def __init__(self) -> None:
        super().__init__()
        self.tiles: tuple[Tile, ...] = ()
        self.current = 0  # among the tiles
        self.chosen: frozenset[int] = frozenset()  # places among all photographs
        self.at_work = False
        self.nothing = ""  # said where there is none
        self.held = ""  # "photo" or "plain" is shown in place of each print, as long as a key is held
        self._images: dict[object, tuple[Small, str, QImage]] = {}  # of those in sight
        self._smalls: dict[object, Small] = {}
        self._from = 0  # where a choice with Shift begins
        self._pressed: QPointF | None = None
        self._to: int | None = None  # where what is dragged would stand
        self.own_keys = frozenset((*_BY, *_ENDS, *_TAKES))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Photographs of the edition"))
        hint(self, "Each as it will be; hold O for the photograph, Return puts one on the bench")
        self.area = _Area(self)
        self.area.verticalScrollBar().valueChanged.connect(lambda _: self.seen.emit())
        self.area.resized.connect(self._lay)

    # What there is

    def show_tiles(self, tiles: Sequence[Tile]) -> None:
        """Others, or they stand otherwise; what was chosen stays so, as far as it is there."""
        before = self.tiles[self.current].entry.photo if self.tiles else None
        again = len(tiles) == len(self.tiles)
        self.tiles = tuple(tiles)
        if not again:
            places = [k for k, tile in enumerate(tiles) if tile.entry.photo == before]
            self.current = places[0] if places else min(self.current, max(0, len(tiles) - 1))
        here = {tile.at for tile in tiles}
        left = self.chosen & here
        if left != self.chosen or not left:
            self.chosen = left or (frozenset((tiles[self.current].at,)) if tiles else frozenset())
            self._from = self.current
            self.chose.emit()
        self._lay()
        self.update()
        tell(self)

    def show_smalls(self, smalls: dict[object, Small]) -> None:
        """Small pictures of those in sight, by their photographs."""
        self._smalls = smalls
        self._images = {key: held for key, held in self._images.items() if key in smalls}
        self.update()

    def hold(self, what: str) -> None:
        """While a key is held: ``photo``, ``plain`` or nothing else than the print."""
        self.held = what
        self.update()

    def tile(self) -> Tile | None:
        """The one that has the keyboard."""
        return self.tiles[self.current] if self.current < len(self.tiles) else None

    def in_sight(self) -> list[Tile]:
        """Those that are seen, and after them the row that comes next."""
        top, high = self.area.verticalScrollBar().value(), self.area.viewport().height()
        columns = self._columns()
        first, last = max(0, (top - _RIM) // _ROW), (top + high) // _ROW + 1
        return list(self.tiles[first * columns : (last + 1) * columns])

    def told(self) -> Told:
        """For assistive technology: the one that has the keyboard, and what is in sight."""
        now = self.tile()
        words = f"{now.name}, {now.words}" if now is not None else "no photographs"
        top, high = self.area.verticalScrollBar().value(), self.area.viewport().height()
        items = tuple(
            Item(f"{tile.name}, {tile.words}", self.box(k).toAlignedRect(), tile.at in self.chosen)
            for k, tile in enumerate(self.tiles)
            if self.box(k).intersects(QRectF(0, top, self.width(), high))
        )
        last = max(0, len(self.tiles) - 1)
        return Told(Role.List, words, self.current, 0, last, 1.0, lambda value: self.choose(round(value)), items)

    # Where they lie

    def _columns(self) -> int:
        return max(1, (self.area.viewport().width() - _RIM + _GAP) // (PICTURE.width() + _GAP))

    def box(self, k: int) -> QRectF:
        """Where one is, with its words."""
        columns = self._columns()
        pitch = (self.area.viewport().width() - _RIM) / columns
        return QRectF(_RIM + k % columns * pitch, 16 + k // columns * _ROW, pitch - 14, _ROW - 12)

    def _lay(self) -> None:
        rows = -(-len(self.tiles) // self._columns())
        self.setFixedHeight(max(self.area.viewport().height(), rows * _ROW + 24))
        self.seen.emit()

    def _at(self, at: QPointF) -> int | None:
        columns = self._columns()
        pitch = (self.area.viewport().width() - _RIM) / columns
        column, row = int((at.x() - _RIM) // pitch), int((at.y() - 16) // _ROW)
        k = row * columns + column
        return k if 0 <= column < columns and 0 <= k < len(self.tiles) and self.box(k).contains(at) else None

    def _gap(self, at: QPointF) -> int:
        """The place between tiles that is nearest."""
        columns = self._columns()
        pitch = (self.area.viewport().width() - _RIM) / columns
        row = max(0, int((at.y() - 16) // _ROW))
        column = min(max(0, round((at.x() - _RIM) / pitch)), columns)
        return min(row * columns + column, len(self.tiles))

    # Choosing

    def choose(self, k: int, more: bool = False, up_to: bool = False) -> None:
        """One of them; ``more``: it too, or not any more; ``up_to``: all from the one before up to it."""
        if not self.tiles:
            return
        self.current = k = min(max(k, 0), len(self.tiles) - 1)
        at = self.tiles[k].at
        if up_to:
            low, high = sorted((self._from, k))
            self.chosen = frozenset(tile.at for tile in self.tiles[low : high + 1])
        else:
            self.chosen = (self.chosen ^ {at} or frozenset((at,))) if more else frozenset((at,))
            self._from = k
        box = self.box(k)
        self.area.ensureVisible(int(box.center().x()), int(box.center().y()), 0, int(box.height() / 2) + 12)
        self.update()
        self.chose.emit()
        tell(self)

    def choose_all(self) -> None:
        """Every one that is shown."""
        self.chosen = frozenset(tile.at for tile in self.tiles)
        self.update()
        self.chose.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        up_to = bool(event.modifiers() & _SHIFT)
        columns = self._columns()
        page = max(1, self.area.viewport().height() // _ROW) * columns
        by = {**_BY, _KEYS.Key_Up: -columns, _KEYS.Key_Down: columns, _KEYS.Key_PageUp: -page, _KEYS.Key_PageDown: page}
        if key in by:
            self.choose(self.current + by[key], up_to=up_to)
        elif key in (_KEYS.Key_Home, _KEYS.Key_End):
            self.choose(0 if key == _KEYS.Key_Home else len(self.tiles) - 1, up_to=up_to)
        elif key in _TAKES:
            self.entered.emit()
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        k = self._at(event.position())
        if k is None or event.button() != Qt.MouseButton.LeftButton:
            return
        keys = event.modifiers()
        if self.tiles[k].at not in self.chosen or keys & (_SHIFT | _CONTROL):
            self.choose(k, bool(keys & _CONTROL), bool(keys & _SHIFT))
        self._pressed = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pressed = self._pressed
        far = QApplication.startDragDistance()
        if pressed is not None and (self._to is not None or (event.position() - pressed).manhattanLength() >= far):
            self._to = self._gap(event.position())
            self.area.ensureVisible(int(event.position().x()), int(event.position().y()), 0, 40)
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed, to, self._to = self._pressed, None, self._to, None
        if pressed is None:
            return
        if to is not None:
            self.moved.emit(self.tiles[to].at if to < len(self.tiles) else self.tiles[-1].at + 1)
            self.update()
        elif not event.modifiers() & (_SHIFT | _CONTROL) and len(self.chosen) > 1:
            k = self._at(event.position())
            if k is not None:
                self.choose(k)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self._at(event.position()) is not None:
            self._pressed = None
            self.entered.emit()

    # Drawing

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        columns = self._columns()
        first = max(0, (event.rect().top() - _RIM) // _ROW) * columns
        last = (event.rect().bottom() // _ROW + 1) * columns
        for k in range(first, min(last, len(self.tiles))):
            self._paint(painter, k)
        if self._to is not None:
            self._paint_gap(painter, self._to)
        if not self.tiles:
            painter.setFont(theme.sans(13))
            painter.setPen(theme.colour("quiet"))
            painter.drawText(self.rect().adjusted(40, 0, -40, 0), Qt.AlignmentFlag.AlignCenter, spoken(self.nothing))
        painter.end()

    def _paint(self, painter: QPainter, k: int) -> None:
        tile, box = self.tiles[k], self.box(k)
        place = QRectF(box.x(), box.y(), PICTURE.width(), PICTURE.height())
        if k == self.current or (tile.at in self.chosen and not tile.copy):
            painter.fillRect(box.adjusted(-8, -8, 0, 4), theme.colour("soft"))
            if k == self.current and self.hasFocus():
                painter.setPen(theme.colour("accent"))
                painter.drawRect(box.adjusted(-8, -8, -1, 3))
        image = self._image(tile)
        lies = QRectF(place)
        if image.isNull():
            painter.fillRect(place, theme.colour("ground"))
            self._explain(painter, tile, place)
        else:
            ratio = self.devicePixelRatioF()
            lies = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
            lies.moveCenter(place.center())
            lies.moveTo(round(lies.x()), round(lies.y()))
            waits = self.at_work and tile.state in (State.WAITING, State.CHANGED)
            painter.setOpacity(1.0 if self.held else _WAITS if waits else _DIM.get(tile.state, 1.0))
            painter.drawImage(lies, image)
            painter.setOpacity(1.0)
        if tile.state == State.WORKING:
            painter.fillRect(QRectF(lies.x(), lies.bottom() - 3, lies.width(), 3), theme.colour("accent"))
        if tile.entry.own is not None:
            painter.fillRect(QRectF(lies.x(), lies.y() - 5, lies.width(), 3), theme.colour("accent"))
        if tile.state == State.OUT:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(theme.colour("quiet"), 1.2))
            painter.drawLine(lies.topLeft(), lies.bottomRight())
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        self._write(painter, tile, QRectF(box.x(), place.bottom() + 3, box.width() - 8, _WORDS))

    def _explain(self, painter: QPainter, tile: Tile, place: QRectF) -> None:
        """Why there is no picture of it."""
        small = self._smalls.get(tile.entry.photo)
        if small is not None and small.wrong:
            painter.setFont(theme.sans(12))
            painter.setPen(theme.colour("quiet"))
            said = small.wrong.removeprefix(f"{tile.entry.photo.name}: ").partition(". ")[0]
            wrap = Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignCenter
            painter.drawText(place.adjusted(10, 6, -10, -6), wrap, spoken(said[:1].upper() + said[1:]))

    def _write(self, painter: QPainter, tile: Tile, box: QRectF) -> None:
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        middle = Qt.TextElideMode.ElideMiddle
        painter.setFont(theme.sans(12))
        metrics = painter.fontMetrics()
        words = tile.words
        room = int(box.width() - min(metrics.horizontalAdvance(spoken(words)), box.width() * 0.55) - 8)
        name = metrics.elidedText(spoken(tile.name), middle, room)
        painter.setPen(theme.colour("text"))
        painter.drawText(box, left, spoken(name))
        rest = box.adjusted(metrics.horizontalAdvance(spoken(name)) + 8, 0, 0, 0)
        painter.setPen(theme.colour("warning" if tile.state == State.FAILED else "quiet"))
        painter.drawText(rest, left, metrics.elidedText(spoken(words), Qt.TextElideMode.ElideRight, int(rest.width())))

    def _paint_gap(self, painter: QPainter, to: int) -> None:
        columns = self._columns()
        box = self.box(to) if to % columns or to < len(self.tiles) else self.box(max(0, to - 1))
        if to and (to == len(self.tiles) or not to % columns):
            box = self.box(to - 1)
            at = box.x() + PICTURE.width() + 7
        else:
            at = box.x() - 12
        painter.fillRect(QRectF(at, box.y(), 2, PICTURE.height()), theme.colour("accent"))

    def _image(self, tile: Tile) -> QImage:
        key = tile.entry.photo
        small = self._smalls.get(key)
        if small is None:
            return QImage()
        known = self._images.get(key)
        if known is not None and known[0] is small and known[1] == self.held:
            return known[2]
        pixels = {"photo": small.before, "plain": small.plain}.get(self.held)
        pixels = pixels if pixels is not None else small.after if small.after is not None else small.before
        image = display.image(pixels) if pixels is not None else QImage()
        self._images[key] = (small, self.held, image)
        return image

    def focusInEvent(self, event: QFocusEvent) -> None:
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        self.update()


class _Area(QScrollArea):
    """Where they scroll."""

    resized = Signal()

    def __init__(self, tiles: Tiles) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setWidget(tiles)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.resized.emit()
