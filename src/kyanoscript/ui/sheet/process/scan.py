"""A scan with the squares that were read; or the film of a chart, before there is one."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF

from kyanoscript.core.process.reading import Scan
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.bykeyboard import ByKeyboard
from kyanoscript.ui.widgets.plain import hint

_READ, _LEFT = QColor("#B4D424"), QColor("#D9602B")
_STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}


class ScanView(ByKeyboard):
    """The picture, whole; a press on a patch leaves it out or takes it back."""

    pointed = Signal(int)  # a patch; −1: none
    pressed = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.image: QImage | None = None
        self.scan: Scan | None = None
        self.used: tuple[bool, ...] = ()
        self.words = ""
        self.at = -1
        self._scale = 1.0  # pixels of the image to one of the scan
        self.own_keys = frozenset((*_STEPS, Qt.Key.Key_Space))
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Scan"))
        hint(
            self,
            "The dried print; a press on a square leaves it out or takes it back",
            "A marker that is cut off, and nothing can be read",
        )
        self.setMinimumSize(120, 120)

    def show_scan(
        self, image: QImage | None, scan: Scan | None, scale: float, used: tuple[bool, ...], words: str
    ) -> None:
        """Another picture; ``scale``: its size against the scan that was read."""
        self.image, self.scan, self._scale, self.used, self.words = image, scan, scale, used, words
        self.at = min(self.at, len(used) - 1)
        self.update()
        tell(self)

    def told(self) -> Told:
        """For assistive technology: the patch that is looked at."""
        count = len(self.scan.patches) if self.scan is not None else 0
        words = self.words or "nothing yet"
        if 0 <= self.at < count and self.scan is not None:
            one = self.scan.patches[self.at]
            words = tr(
                "patch {value:g} %, L* {lab:.1f}{used}",
                value=one.patch.value,
                lab=one.lab[0],
                used="" if self.used[self.at] else ", left out",
            )
        return Told(Role.List, words, max(0, self.at), 0, max(0, count - 1), 1.0, lambda value: self._go(round(value)))

    # Where things are

    def _box(self) -> QRectF:
        assert self.image is not None
        room = QRectF(self.rect()).adjusted(20, 20, -20, -40)
        scale = min(room.width() / self.image.width(), room.height() / self.image.height())
        wide, high = self.image.width() * scale, self.image.height() * scale
        return QRectF(room.center().x() - wide / 2, room.center().y() - high / 2, wide, high)

    def square(self, k: int) -> QPolygonF:
        assert self.scan is not None
        assert self.image is not None
        box = self._box()
        each = self._scale * box.width() / self.image.width()
        return QPolygonF([box.topLeft() + QPointF(x * each, y * each) for x, y in self.scan.patches[k].corners])

    def _under(self, at: QPointF) -> int:
        if self.scan is None or self.image is None:
            return -1
        return next((k for k in range(len(self.scan.patches))
                     if self.square(k).boundingRect().adjusted(-6, -6, 6, 6).contains(at)), -1)  # fmt: skip

    def _go(self, at: int) -> None:
        if at != self.at:
            self.at = at
            self.pointed.emit(at)
            self.update()
            tell(self)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._go(self._under(event.position()))

    def leaveEvent(self, event: object) -> None:
        if not self.hasFocus():
            self._go(-1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        at = self._under(event.position())
        if at >= 0 and event.button() == Qt.MouseButton.LeftButton:
            self.pressed.emit(at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        count = len(self.scan.patches) if self.scan is not None else 0
        step = _STEPS.get(Qt.Key(event.key()), 0)
        if step and count:
            self._go(min(max(self.at + step, 0), count - 1))
        elif event.key() == Qt.Key.Key_Space and self.at >= 0:
            self.pressed.emit(self.at)
        elif not step:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), QColor(theme.MATS["mid gray"]))
        if self.image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            box = self._box()
            painter.drawImage(box, self.image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            if self.scan is not None:
                self._squares(painter)
            painter.setFont(theme.sans(12))
            if self.words:
                self._words(painter, box)
        else:
            painter.setFont(theme.sans(13))
            painter.setPen(QColor("#FFFFFF"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, spoken(self.words))
        self.paint_focus(painter)
        painter.end()

    def _words(self, painter: QPainter, box: QRectF) -> None:
        """Below the picture, in as many lines as they need."""
        middle = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        needs = painter.boundingRect(QRectF(0, 0, self.width() - 44, 200), middle, self.words)
        wide, high = needs.width() + 18, max(22.0, needs.height() + 6)
        place = QRectF(max(12.0, box.center().x() - wide / 2), self.height() - 10 - high, wide, high)
        painter.fillRect(place, theme.colour("panel"))
        painter.setPen(theme.colour("text"))
        painter.drawText(place, middle, spoken(self.words))

    def _squares(self, painter: QPainter) -> None:
        assert self.scan is not None
        for k in range(len(self.scan.patches)):
            on = self.used[k]
            painter.setPen(QPen(_READ if on else _LEFT, 2.4 if k == self.at else 1.2))
            square = self.square(k)
            painter.drawPolygon(square)
            if not on:
                painter.drawLine(square.at(0), square.at(2))
                painter.drawLine(square.at(1), square.at(3))
