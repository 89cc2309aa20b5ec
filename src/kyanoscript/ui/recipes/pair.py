"""The print that is followed and this photograph beside it, each with the ladder of its tones."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QLinearGradient, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QGridLayout, QWidget

from kyanoscript.core.after.picture import Array, Ladder
from kyanoscript.core.after.tint import rgb_of_lab
from kyanoscript.translation import spoken
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.wall import Wall
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.plain import hint


class TintLadder(QWidget):
    """The tint of each tone of a print, white above, and how much there is of it."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.ladder: Ladder | None = None
        self._shares = np.zeros(1)
        self.setFixedWidth(56)
        self.setAccessibleName(spoken(name))
        hint(self, "The tint of each tone, white above; to its left how much there is of it")

    def show_print(self, ladder: Ladder | None, light: Array | None) -> None:
        """Another print: its ladder, and the L* of its pixels."""
        self.ladder = ladder
        if light is not None:
            counts = np.histogram(light, 50, (0, 100))[0].astype(float)
            self._shares = counts / max(float(np.quantile(counts, 0.96)), 1.0)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        ladder = self.ladder
        if ladder is None:
            painter.end()
            return
        box = QRectF(32, 8, 16, self.height() - 16)
        lights = np.linspace(0, 100, 51)
        inks = rgb_of_lab(np.stack([lights, *ladder.at(lights)]))
        colours = QLinearGradient(box.bottomLeft(), box.topLeft())
        for k, light in enumerate(lights):
            colours.setColorAt(light / 100, QColor(*(round(255 * float(v)) for v in inks[:, k])))
        painter.fillRect(box, colours)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(box)
        painter.setPen(QPen(theme.colour("accent"), 2))
        for light in (ladder.light[0], ladder.light[-1]):  # the deepest black and the white of the paper
            y = box.bottom() - light / 100 * box.height()
            painter.drawLine(QPointF(box.left() - 3, y), QPointF(box.right() + 3, y))
        points = [QPointF(28, box.bottom())]
        for k, share in enumerate(self._shares):
            points.append(
                QPointF(28 - 22 * min(float(share), 1.0), box.bottom() - (k + 0.5) / len(self._shares) * box.height())
            )
        points.append(QPointF(28, box.top()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour("line"))
        painter.drawPolygon(QPolygonF(points))
        painter.end()


class Still(QWidget):
    """A picture that is only looked at."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.picture: QImage | None = None
        self.mat = "mid gray"
        self.words = ""
        self.setAccessibleName(spoken(name))
        hint(self, "The print that is followed")

    def show_picture(self, picture: QImage | None, words: str = "") -> None:
        """Another picture, or words in its place."""
        self.picture, self.words = picture, words
        self.update()

    def place(self) -> QRectF:
        """Where the picture lies."""
        if self.picture is None:
            return QRectF()
        room = QRectF(self.rect()).adjusted(20, 20, -20, -20)
        share = min(room.width() / self.picture.width(), room.height() / self.picture.height())
        wide, high = self.picture.width() * share, self.picture.height() * share
        return QRectF(room.x() + (room.width() - wide) / 2, room.y() + (room.height() - high) / 2, wide, high)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.picture is not None:
            painter.drawImage(self.place(), self.picture)
        else:
            painter.setFont(theme.sans(15))
            painter.setPen(QColor("#FFFFFF" if self.mat != "paper white" else "#1C1C1C"))
            room = QRectF(self.rect()).adjusted(30, 20, -30, -20)
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, spoken(self.words))
        painter.end()


class Pair(QWidget):
    """Both prints; the wall on the right has one, which is zoomed as always."""

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__()
        self.setAccessibleName(spoken("The print that is followed, and this one"))
        self.still, self.wall = Still("The print that is followed"), Wall(desk, service)
        self.wall.setAcceptDrops(False)
        self.wall.blind = True
        self.theirs, self.own = TintLadder("Its tones"), TintLadder("The tones of this one")
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        for column, (words, picture, ladder) in enumerate(
            (
                ("The print that is followed", self.still, self.theirs),
                ("This photograph, after it", self.wall, self.own),
            )
        ):
            title = furniture.title(words, 18)
            title.setContentsMargins(14, 6, 8, 4)
            grid.addWidget(title, 0, 2 * column, 1, 2)
            grid.addWidget(picture, 1, 2 * column + column)
            grid.addWidget(ladder, 1, 1 if not column else 2)
            grid.setColumnStretch(2 * column + column, 1)
        grid.setRowStretch(1, 1)

    def set_mat(self, mat: str) -> None:
        """What both lie on."""
        self.still.mat = self.wall.mat = mat
        self.update()
