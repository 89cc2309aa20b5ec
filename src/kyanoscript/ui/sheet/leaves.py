"""What goes out, small, below the paper; and what the paper does to the tones."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.ui.service.papers import Tones
from kyanoscript.ui.widgets import theme

_WIDE, _HIGH = 112, 75


class Leaves(QWidget):
    """The print on its paper; beside it a line of the tones: in the print across, on the paper up."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(148)
        self.setAccessibleName("What goes out")
        self.image: QImage | None = None
        self.tones: Tones | None = None

    def take(self, image: QImage) -> None:
        """The print."""
        self.image = image
        self.update()

    def show_tones(self, tones: Tones) -> None:
        """What becomes of grays."""
        self.tones = tones
        self.setAccessibleDescription(f"black comes out at L* {tones.paper[0]:.0f}, white at L* {tones.paper[-1]:.0f}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setFont(theme.serif(17))
        painter.setPen(theme.colour("text"))
        painter.drawText(QPointF(20, 26), "What goes out")
        if self.image is not None:
            share = min(_WIDE / self.image.width(), _HIGH / self.image.height())
            box = QRectF(20, 38, self.image.width() * share, self.image.height() * share)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(box, self.image)
            painter.setFont(theme.sans(12))
            painter.drawText(QPointF(20, 38 + _HIGH + 16), "Print")
        if self.tones is not None:
            self._paint_tones(painter, self.tones)
        painter.end()

    def _paint_tones(self, painter: QPainter, tones: Tones) -> None:
        """The ladder on paper: where the line lies flat, zones run together."""
        box = QRectF(220, 36, 150, 84)
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
        painter.drawText(QPointF(220, 26), "Tones on this paper")
        painter.setPen(theme.colour("quiet"))
        lines = (
            f"White comes out at L* {tones.paper[-1]:.1f}",
            f"Black comes out at L* {tones.paper[0]:.1f}",
            _blocked(tones),
        )
        for k, words in enumerate(lines):
            painter.drawText(QRectF(386, 44 + 22 * k, 420, 20), Qt.AlignmentFlag.AlignLeft, words)


def _blocked(tones: Tones) -> str:
    """Which zones run together on the paper: less than two of L* between neighbours of the eleven."""
    steps = [min(range(len(tones.tone)), key=lambda k: abs(tones.tone[k] - 100 * z / 10)) for z in range(11)]
    on = [tones.paper[k] for k in steps]
    names = ("0", "I", "II", "III", "IV", "V", "VI", "VII", "VIII", "IX", "X")
    together = [f"{names[z]} and {names[z + 1]}" for z in range(10) if on[z + 1] - on[z] < 2.0]
    return f"Zones {', '.join(together)} run together" if together else "All zones stay apart"
