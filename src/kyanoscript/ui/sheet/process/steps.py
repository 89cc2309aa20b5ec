"""The five steps of measuring a process, from left to right below the picture."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QPushButton, QWidget

from kyanoscript.core.process.process import POINTS
from kyanoscript.translation import spoken
from kyanoscript.ui.sheet.process.worked import Worked
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

NAMES = ("Wedge", "Expose", "Read", "Curve", "Prove")
WEDGE, EXPOSE, READ, CURVE, PROVE = range(5)
_WIDE, _HIGH, _APART = 120, 80, 142
_ABOUT = (
    "No darkroom at hand? The bench darkroom, a stand-in, exposes the wedge and gives you a scan, as uneven and "
    "crooked as a real one."
)
_SHORT, _ROOM = "No darkroom at hand? There is a stand-in.", 56  # where there is no room for all of it, pixels high


class Steps(QWidget):
    """A press goes to a step; so do the arrow keys."""

    chosen = Signal(int)
    practise = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(148)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("Steps"))
        hint(self, "The five steps; arrows go from one to the next")
        self.current = READ
        self.words = [""] * len(NAMES)
        self.images: list[QImage | None] = [None] * len(NAMES)
        self.worked: Worked | None = None
        self.own_keys = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right))
        self._about = furniture.wrapped(_ABOUT)
        self._about.setParent(self)
        self.button: QPushButton = furniture.word(
            "Practise with it", "The bench darkroom exposes the wedge, scans it and reads it", act=self.practise
        )
        self.button.setParent(self)

    def show_steps(self, current: int, words: list[str], images: list[QImage | None], worked: Worked | None) -> None:
        """Where it stands."""
        self.current, self.words, self.images, self.worked = current, words, images, worked
        self.update()
        tell(self)

    def told(self) -> Told:
        """For assistive technology: the step."""
        words = f"{NAMES[self.current]}, {self.words[self.current]}"
        return Told(
            Role.List, words, self.current, 0, len(NAMES) - 1, 1.0, lambda value: self.chosen.emit(round(value))
        )

    def resizeEvent(self, event: object) -> None:
        left = 20 + _APART * len(NAMES) + 20
        wide = max(60, min(300, self.width() - left - 16))
        whole = self._about.heightForWidth(wide) <= _ROOM
        self._about.setText(spoken(_ABOUT if whole else _SHORT))
        self._about.setGeometry(left, 34, wide, _ROOM)
        self.button.adjustSize()
        self.button.move(left - 4, 38 + _ROOM)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = int((event.position().x() - 14) // _APART)
        if 0 <= at < len(NAMES):
            self.chosen.emit(at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if step:
            self.chosen.emit(min(max(self.current + step, 0), len(NAMES) - 1))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for k, name in enumerate(NAMES):
            box = QRectF(20 + _APART * k, 14, _WIDE, _HIGH)
            if k == self.current:
                painter.fillRect(box.adjusted(-6, -10, 6, 50), theme.colour("soft"))
                painter.fillRect(QRectF(box.x() - 6, 4, box.width() + 12, 3), theme.colour("accent"))
            painter.fillRect(box, theme.colour("ground"))
            self._inside(painter, k, box.adjusted(4, 4, -4, -4))
            painter.setFont(theme.serif(16))
            painter.setPen(theme.colour("accent" if self.hasFocus() and k == self.current else "text"))
            painter.drawText(QPointF(box.x(), box.bottom() + 19), spoken(name))
            painter.setFont(theme.sans(11))
            painter.setPen(theme.colour("quiet"))
            words = painter.fontMetrics().elidedText(spoken(self.words[k]), Qt.TextElideMode.ElideRight, _WIDE)
            painter.drawText(QPointF(box.x(), box.bottom() + 36), spoken(words))
            if k + 1 < len(NAMES):
                painter.setPen(theme.colour("text"))
                painter.drawText(
                    QPointF(box.right() + 9, box.center().y() + 4), "\N{SINGLE RIGHT-POINTING ANGLE QUOTATION MARK}"
                )
        painter.end()

    def _inside(self, painter: QPainter, k: int, box: QRectF) -> None:
        image = self.images[k]
        if image is not None:
            share = max(box.width() / image.width(), box.height() / image.height())
            wide, high = box.width() / share, box.height() / share
            part = QRectF((image.width() - wide) / 2, (image.height() - high) / 2, wide, high)
            painter.drawImage(box, image, part)
        elif k == EXPOSE:
            self._light(painter, box)
        elif k in (CURVE, PROVE) and self.worked is not None and self.worked.curve is not None:
            self._curve(painter, k, box, self.worked)

    def _light(self, painter: QPainter, box: QRectF) -> None:
        """Light from above on a sheet."""
        painter.setPen(QPen(theme.colour("quiet"), 1))
        middle = box.center().x()
        for k in range(-2, 3):
            painter.drawLine(QPointF(middle + 9 * k, box.y() + 16), QPointF(middle + 17 * k, box.bottom() - 16))
        painter.fillRect(QRectF(middle - 42, box.bottom() - 13, 84, 3), theme.colour("accent"))
        painter.fillRect(QRectF(middle - 42, box.bottom() - 8, 84, 3), QColor("#EDEADC"))

    def _curve(self, painter: QPainter, k: int, box: QRectF, worked: Worked) -> None:
        assert worked.curve is not None
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.colour("accent"), 2))
        inner = box.adjusted(6, 6, -6, -6)
        if k == CURVE:
            points = [
                QPointF(inner.x() + inner.width() * j / 32,
                        inner.bottom() - inner.height() * float(worked.curve[j * (POINTS - 1) // 32]) / 100)
                for j in range(33)
            ]  # fmt: skip
            painter.drawPolyline(QPolygonF(points))
        elif worked.left:
            middle = inner.center().y()
            painter.setPen(QPen(theme.colour("quiet"), 1))
            painter.drawLine(QPointF(inner.x(), middle), QPointF(inner.right(), middle))
            painter.setPen(QPen(theme.colour("accent"), 2))
            for one in worked.left:
                x = inner.x() + inner.width() * one.tone / 100
                off = min(max((one.wanted - one.read) / 3, -1.0), 1.0) * inner.height() / 2
                painter.drawLine(QPointF(x, middle), QPointF(x, middle + off))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
