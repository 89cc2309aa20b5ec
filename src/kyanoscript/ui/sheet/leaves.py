"""What goes out, small, below the paper; and what the paper does to the tones."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.translation import spoken, tr
from kyanoscript.ui.service.papers import Tones
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint

_WIDE, _HIGH, _APART = 112, 75, 136


class Leaves(QWidget):
    """The print, its plates, its negative: a press shows one on the paper. Beside them a line of the tones: in the
    print across, on the paper up."""

    chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(148)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken("What goes out"))
        hint(self, "The print, its plates and its negative; a press shows one on the paper")
        self.own_keys = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right))
        self.names: tuple[str, ...] = ("Print",)
        self.images: dict[str, QImage] = {}
        self.current = 0
        self.tones: Tones | None = None
        self.dots: QImage | None = None  # of screened plates

    def show_leaves(self, names: tuple[str, ...], current: int) -> None:
        """What there is, and which lies on the paper."""
        self.names, self.current = names, current
        self.update()
        tell(self)

    def take(self, name: str, image: QImage) -> None:
        """A small picture."""
        self.images[name] = image
        self.update()

    def show_dots(self, dots: QImage | None) -> None:
        """What screened plates print; None: they are grays, or are not looked at."""
        self.dots = dots
        self.update()

    def show_tones(self, tones: Tones) -> None:
        """What becomes of grays."""
        self.tones = tones
        self.setAccessibleDescription(
            tr(
                "black comes out at L* {paper:.0f}, white at L* {paper2:.0f}",
                paper=tones.paper[0],
                paper2=tones.paper[-1],
            )
        )
        self.update()

    def told(self) -> Told:
        """For assistive technology: what lies on the paper."""
        last = len(self.names) - 1
        return Told(
            Role.List, self.names[self.current], self.current, 0, last, 1.0, lambda v: self.chosen.emit(round(v))
        )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = int((event.position().x() - 12) // _APART)
        if 0 <= at < len(self.names):
            self.chosen.emit(at)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        if step:
            self.chosen.emit(min(max(self.current + step, 0), len(self.names) - 1))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.serif(17))
        painter.setPen(theme.colour("text"))
        painter.drawText(QPointF(20, 26), spoken("What goes out"))
        for k, name in enumerate(self.names):
            self._leaf(painter, k, name)
        left = max(220, 20 + _APART * len(self.names) + 40)
        if self.dots is not None:
            self._paint_dots(painter, self.dots, left)
        elif self.tones is not None:
            self._paint_tones(painter, self.tones, left)
        painter.end()

    def _leaf(self, painter: QPainter, k: int, name: str) -> None:
        x = 20 + _APART * k
        if k == self.current and len(self.names) > 1:
            painter.fillRect(QRectF(x - 6, 33, _WIDE + 12, _HIGH + 30), theme.colour("soft"))
            painter.fillRect(QRectF(x - 6, 33, _WIDE + 12, 2), theme.colour("accent"))
        image = self.images.get(name)
        if image is not None:
            share = min(_WIDE / image.width(), _HIGH / image.height())
            box = QRectF(x, 38, image.width() * share, image.height() * share)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(box, image)
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawRect(box)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.colour("accent" if self.hasFocus() and k == self.current else "text"))
        shown = painter.fontMetrics().elidedText(spoken(name), Qt.TextElideMode.ElideRight, _WIDE)
        painter.drawText(QPointF(x, 38 + _HIGH + 16), spoken(shown))

    def _paint_dots(self, painter: QPainter, dots: QImage, left: int) -> None:
        """As they lie on one another."""
        painter.setFont(theme.sans(12))
        painter.setPen(theme.colour("text"))
        painter.drawText(QPointF(left, 26), spoken("Dots from the middle of the print, a pixel of the device each"))
        painter.drawImage(QPointF(left, 36), dots)

    def _paint_tones(self, painter: QPainter, tones: Tones, left: int) -> None:
        """The ladder on paper: where the line lies flat, zones run together."""
        box = QRectF(left, 36, 150, 84)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        painter.drawLine(box.bottomLeft(), box.topRight())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.colour("accent"), 2))

        def at(tone: float, paper: float) -> QPointF:
            return QPointF(box.x() + box.width() * tone / 100, box.bottom() - box.height() * paper / 100)

        points = [at(t, p) for t, p in zip(tones.tone, tones.paper, strict=True)]
        painter.drawPolyline(points)
        painter.setFont(theme.sans(12))
        painter.setPen(theme.colour("text"))
        painter.drawText(QPointF(left, 26), spoken("Tones on this paper"))
        painter.setPen(theme.colour("quiet"))
        lines = (
            tr("White comes out at L* {paper:.1f}", paper=tones.paper[-1]),
            tr("Black comes out at L* {paper:.1f}", paper=tones.paper[0]),
            blocked(tones),
        )
        for k, words in enumerate(lines):
            painter.drawText(QRectF(left + 166, 44 + 22 * k, 420, 20), Qt.AlignmentFlag.AlignLeft, spoken(words))


def blocked(tones: Tones) -> str:
    """Which zones run together on the paper: less than two of L* between neighbours of the eleven."""
    steps = [min(range(len(tones.tone)), key=lambda k: abs(tones.tone[k] - 100 * z / 10)) for z in range(11)]
    on = [tones.paper[k] for k in steps]
    names = ("0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X")
    together = [
        tr("{names} and {names2}", names=names[z], names2=names[z + 1]) for z in range(10) if on[z + 1] - on[z] < 2.0
    ]
    return tr("Zones {together} run together", together=", ".join(together)) if together else "All zones stay apart"
