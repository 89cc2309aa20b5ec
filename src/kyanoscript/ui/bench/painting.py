"""How trays are drawn."""

from __future__ import annotations

from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen

from kyanoscript.core.passes.base import Pass
from kyanoscript.translation import spoken
from kyanoscript.ui.bench.row import MAIN, Row, TrayPlaces
from kyanoscript.ui.document.desk import FRAME, Desk
from kyanoscript.ui.service.results import Pointed
from kyanoscript.ui.widgets import theme


class Painted(Protocol):
    """What is asked of `trays.Trays`."""

    desk: Desk
    row: Row
    second: bool
    spot: Pointed | None
    hover: tuple[str, int] | None
    drop: int | None
    onto: int | None

    @property
    def passes(self) -> tuple[Pass, ...]: ...
    @property
    def selected(self) -> int: ...
    def chosen(self, k: int) -> bool: ...
    @property
    def places(self) -> TrayPlaces: ...
    def image(self, k: int) -> QImage | None: ...
    def name_of(self, k: int) -> str: ...
    def hasFocus(self) -> bool: ...
    def devicePixelRatioF(self) -> float: ...


def paint_tray(painter: QPainter, trays: Painted, k: int, only_value: bool) -> None:
    """All of a tray, or its picture with the value at the pointer, which follows the hand."""
    step = trays.passes[k] if k >= 0 else None
    tray, box = trays.places.tray(k), trays.places.thumb(k)
    if trays.chosen(k) or k == trays.onto:
        painter.fillRect(tray, theme.colour("soft"))
        leads = k == trays.selected and not (trays.row is MAIN and trays.desk.path)
        painter.fillRect(QRectF(tray.left(), tray.top(), tray.width(), 3 if leads else 1), theme.colour("accent"))
        if trays.hasFocus() and k == trays.selected:
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(tray.adjusted(1, 1, -1, -1))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.fillRect(box, theme.colour("ground"))
    image = trays.image(k)
    if image is not None:
        ratio = trays.devicePixelRatioF()
        inner = QRectF(0, 0, image.width() / ratio, image.height() / ratio)
        if trays.second:
            inner.setSize(inner.size().scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio))
        inner.moveCenter(box.center())
        painter.setOpacity(1.0 if step is None or step.on else 0.45)
        painter.drawImage(inner, image)
        painter.setOpacity(1.0)
    if only_value:
        paint_value(painter, trays, k)
        return
    if step is not None and step.stencil is not None:  # it acts in places only
        notch = trays.places.notch(k)
        painter.fillRect(notch, theme.colour("panel"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme.colour("accent"), 1))
        painter.setBrush(theme.colour("accent"))
        painter.drawEllipse(notch.center(), 7, 4.5)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setFont(theme.serif(trays.row.serif, italic=step is not None and bool(step.name)))
    painter.setPen(theme.colour("text" if step is None or step.on else "quiet"))
    room = trays.places.name_box(k)
    name = painter.fontMetrics().elidedText(spoken(trays.name_of(k)), Qt.TextElideMode.ElideRight, int(room.width()))
    painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, spoken(name))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if step is not None:
        paint_bar(painter, trays, k, step.strength, step.on)
    paint_value(painter, trays, k)
    if k >= 0:
        paint_adder(painter, trays, k)


def paint_bar(painter: QPainter, trays: Painted, k: int, strength: float, on: bool) -> None:
    bar = trays.places.bar(k)
    y = bar.center().y()
    painter.setPen(QPen(theme.colour("line"), 3))
    painter.drawLine(QPointF(bar.left() + 1.5, y), QPointF(bar.right() - 1.5, y))
    if strength > 0:
        painter.setPen(QPen(theme.colour("accent" if on else "quiet"), 3))
        painter.drawLine(
            QPointF(bar.left() + 1.5, y), QPointF(bar.left() + 1.5 + (bar.width() - 3) * strength / 100, y)
        )
    painter.setPen(QPen(theme.colour("accent" if on else "quiet"), 1.5))
    painter.setBrush(theme.colour("accent" if on else "panel"))
    painter.drawEllipse(trays.places.lamp(k), 4.5, 4.5)


def paint_value(painter: QPainter, trays: Painted, k: int) -> None:
    """The pointer's spot as it leaves this tray."""
    spot = trays.spot
    values = spot.row if spot is not None and trays.second else spot.trace if spot is not None else []
    if spot is None or k >= len(values) or (k == FRAME and not trays.second) or (trays.second and k < 0):
        return
    r, g, b = spot.photo if k < 0 else values[k]
    text = str(r) if r == g == b else f"{r} {g} {b}"
    painter.setFont(theme.sans(10.5))
    width = painter.fontMetrics().horizontalAdvance(spoken(text)) + 10
    box = QRectF(trays.places.thumb(k).left(), trays.places.thumb(k).bottom() - 17, width, 17)
    painter.fillRect(box, theme.colour("panel"))
    painter.setPen(theme.colour("text"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken(text))


def paint_adder(painter: QPainter, trays: Painted, k: int) -> None:
    box = trays.places.adder(k)
    hot = trays.hover == ("adder", k)
    painter.setFont(theme.sans(17 if hot else 14))
    painter.setPen(theme.colour("accent" if hot else "quiet"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken("+" if hot else "›"))


def paint_end(painter: QPainter, trays: Painted) -> None:
    box = trays.places.end()
    hot = trays.hover is not None and trays.hover[0] == "end"
    painter.setPen(QPen(theme.colour("accent"), 1, Qt.PenStyle.DashLine))
    painter.setBrush(theme.colour("soft") if hot else Qt.BrushStyle.NoBrush)
    painter.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5))
    painter.setFont(theme.sans(13))
    painter.setPen(theme.colour("accent"))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, spoken("Add\na pass"))


def paint_drop(painter: QPainter, trays: Painted) -> None:
    if trays.drop is not None:
        x = trays.places.thumb(trays.drop).left() - 11
        painter.fillRect(QRectF(x - 1.5, 4, 3, trays.row.height - 6), theme.colour("accent"))
