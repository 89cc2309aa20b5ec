"""A plane of hue and chroma, and lightness beside it, to choose a colour in.

All of it in Oklch (B. Ottosson, "A perceptual color space for image processing", 2020), so that going round the plane
keeps the lightness. The plane's rim is the strongest colour of each hue that a screen can show at the lightness the
plane is painted in. That is the chosen one where hues can be told apart at it; for a colour that is darker or lighter
than that it is the nearest such lightness, and a line within the plane is the rim of what there is of the chosen one.
"""

from __future__ import annotations

import functools
import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from kyanoscript.core.colour import SRGB, from_oklab
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import tip

SIDE = 144  # of the plane
READABLE = (0.45, 0.9)  # lightness at which hues can be told apart
_FINE = 88  # pixels that the plane is worked out in; it is smooth
Lch = tuple[float, float, float]  # lightness 0…1, chroma, hue in degrees


def _inside(rgb: NDArray[np.float64]) -> NDArray[np.bool_]:
    return np.all((rgb >= -1e-3) & (rgb <= 1 + 1e-3), axis=0)


def _limits(lightness: NDArray[np.float64], hue: NDArray[np.float64]) -> NDArray[np.float64]:
    """The largest chroma that can be shown at each lightness and hue (radians), by halving."""
    low, high = np.zeros(lightness.shape), np.full(lightness.shape, 0.4)
    for _ in range(14):
        middle = (low + high) / 2
        fits = _inside(from_oklab(np.stack([lightness, middle * np.cos(hue), middle * np.sin(hue)]), SRGB))
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


@functools.lru_cache(maxsize=128)
def _strongest(percent: int) -> NDArray[np.float64]:
    """The largest chroma that each of 360 hues has at a lightness."""
    return np.maximum(_limits(np.full(360, percent / 100), np.radians(np.arange(360.0))), 0.004)


def strongest(lightness: float, hue: float) -> float:
    """The largest chroma that a screen can show of a hue at a lightness."""
    return float(_strongest(round(lightness * 100))[round(hue) % 360])


def painted(lightness: float) -> float:
    """The lightness that the plane is painted in, for a colour of some lightness."""
    return min(max(lightness, READABLE[0]), READABLE[1])


@functools.lru_cache(maxsize=32)
def _disc(percent: int, pixels: int) -> QImage:
    """The plane at a lightness."""
    across, down = np.meshgrid(np.linspace(-1, 1, pixels), np.linspace(1, -1, pixels))
    hue = np.arctan2(down, across)
    rim = np.append(_strongest(percent), _strongest(percent)[0])
    most = np.interp(np.degrees(hue) % 360, np.arange(361), rim)
    chroma = np.hypot(across, down) * most
    lab = np.stack([np.full_like(across, percent / 100), chroma * np.cos(hue), chroma * np.sin(hue)])
    rgb = from_oklab(lab.reshape(3, -1), SRGB).reshape(3, pixels, pixels)
    return display.colours(rgb, (np.hypot(across, down) <= 1).astype(float))


@functools.lru_cache(maxsize=64)
def _wedge(chroma: float, hue: int) -> QImage:
    """A colour at every lightness, white at the top, as strong as it can be shown."""
    light = np.linspace(1, 0, 72)
    angle = math.radians(hue)
    held = np.minimum(chroma, _limits(light, np.full(72, angle)))
    rgb = from_oklab(np.stack([light, held * math.cos(angle), held * math.sin(angle)]), SRGB)
    return display.colours(rgb.reshape(3, 72, 1))


class _Field(QWidget):
    """Something pressed and dragged in to set the colour."""

    began = Signal()
    moved = Signal(object)  # Lch
    ended = Signal()
    given_up = Signal()

    def __init__(self, name: str, help: str) -> None:
        super().__init__()
        self.lch: Lch = (0.5, 0.0, 0.0)
        self._dragging = False
        self.own_keys = frozenset((Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken(name))
        self.setAccessibleDescription(spoken(help))
        tip(self, help)

    def show_lch(self, lch: Lch) -> None:
        """Show a colour."""
        if lch != self.lch:
            self.lch = lch
            self.update()
            tell(self)

    def told(self) -> Told:
        """For assistive technology."""
        raise NotImplementedError

    def at(self, point: QPointF) -> Lch:
        """The colour at a place."""
        raise NotImplementedError

    def stepped(self, across: int, up: int, large: bool) -> Lch:
        """The colour some steps away."""
        raise NotImplementedError

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self.began.emit()
            self.moved.emit(self.at(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self.moved.emit(self.at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self.ended.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }.get(Qt.Key(event.key()))
        if event.key() == Qt.Key.Key_Escape and self._dragging:
            self._dragging = False
            self.given_up.emit()
        elif steps is not None:
            self.moved.emit(self.stepped(*steps, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)))
        else:
            super().keyPressEvent(event)

    def _focus_frame(self, painter: QPainter) -> None:
        if self.hasFocus():
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))


class Plane(_Field):
    """Hue round about, chroma from the middle outwards."""

    def __init__(self) -> None:
        super().__init__("Hue and chroma", "Hue round about, chroma from the middle outwards")
        self.setFixedSize(SIDE, SIDE)

    def _radius(self) -> float:
        return self.width() / 2 - 5

    def at(self, point: QPointF) -> Lch:
        away = point - QPointF(self.width() / 2, self.height() / 2)
        light = self.lch[0]
        share = min(math.hypot(away.x(), away.y()) / self._radius(), 1.0)
        hue = math.degrees(math.atan2(-away.y(), away.x())) % 360 if share > 0.01 else self.lch[2]
        chroma = min(share * strongest(painted(light), hue), strongest(light, hue))
        return light, round(chroma, 4), round(hue, 1)

    def rim(self) -> QPainterPath:
        """The strongest colours of the chosen lightness, on the plane."""
        light, path = self.lch[0], QPainterPath()
        middle = QPointF(self.width() / 2, self.height() / 2)
        for hue in range(0, 360, 3):
            share = min(strongest(light, hue) / strongest(painted(light), hue), 1.0) * self._radius()
            spot = middle + QPointF(math.cos(math.radians(hue)), -math.sin(math.radians(hue))) * share
            path.lineTo(spot) if hue else path.moveTo(spot)
        path.closeSubpath()
        return path

    def told(self) -> Told:
        """For assistive technology: hue, to be turned; chroma in words."""
        light, chroma, hue = self.lch
        words = tr("Hue {hue:.0f} degrees, chroma {chroma:.3f}", hue=hue, chroma=chroma)
        return Told(
            Role.ColorChooser, words, hue, 0.0, 360.0, 1.0, lambda to: self.moved.emit((light, chroma, to % 360))
        )

    def stepped(self, across: int, up: int, large: bool) -> Lch:
        size = 5 if large else 1
        return self.lch[0], max(0.0, round(self.lch[1] + up * size * 0.004, 4)), (self.lch[2] - across * size) % 360

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        middle, radius = QPointF(self.width() / 2, self.height() / 2), self._radius()
        ring = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        light = self.lch[0]
        painter.drawImage(ring, _disc(round(painted(light) * 100), _FINE))
        if painted(light) != light:
            self._paint_rim(painter, ring)
        painter.setPen(QPen(theme.colour("rim"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(ring)
        share = min(self.lch[1] / strongest(painted(light), self.lch[2]), 1.0)
        angle = math.radians(self.lch[2])
        spot = middle + QPointF(math.cos(angle), -math.sin(angle)) * (share * radius)
        for pen in (QPen(QColor("#FFFFFF"), 3.4), QPen(QColor("#1C1C1C"), 1.6)):
            painter.setPen(pen)
            painter.drawEllipse(spot, 5.5, 5.5)
        self._focus_frame(painter)
        painter.end()

    def _paint_rim(self, painter: QPainter, ring: QRectF) -> None:
        """What there is not of the chosen lightness is paler, and a line parts it from what there is."""
        rim, beyond = self.rim(), QPainterPath()
        beyond.addEllipse(ring)
        veil = QColor(theme.colour("panel"))
        veil.setAlpha(150)
        painter.fillPath(beyond.subtracted(rim), veil)
        for pen in (QPen(QColor("#FFFFFF"), 2.6), QPen(QColor("#1C1C1C"), 1.2)):
            painter.strokePath(rim, pen)


class Band(_Field):
    """Lightness, black at the bottom."""

    def __init__(self) -> None:
        super().__init__("Lightness of the colour", "Lightness, black at the bottom")
        self.setFixedSize(20, SIDE)

    def at(self, point: QPointF) -> Lch:
        share = 1 - min(max((point.y() - 5) / (self.height() - 10), 0.0), 1.0)
        return round(share, 3), self.lch[1], self.lch[2]

    def told(self) -> Told:
        """For assistive technology."""
        light, chroma, hue = self.lch
        words = f"{light * 100:.0f} %"
        return Told(
            Role.Slider, words, light * 100, 0.0, 100.0, 1.0, lambda to: self.moved.emit((to / 100, chroma, hue))
        )

    def stepped(self, across: int, up: int, large: bool) -> Lch:
        step = (across + up) * (0.1 if large else 0.01)
        return round(min(max(self.lch[0] + step, 0.0), 1.0), 3), self.lch[1], self.lch[2]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        box = QRectF(3, 5, self.width() - 6, self.height() - 10)
        image = _wedge(round(self.lch[1], 3), round(self.lch[2]))
        painter.drawImage(box, image)
        y = box.top() + (1 - self.lch[0]) * box.height()
        painter.setPen(QPen(theme.colour("accent"), 1.6))
        painter.setBrush(theme.colour("panel"))
        painter.drawRect(QRectF(0.8, y - 3, self.width() - 1.6, 6))
        self._focus_frame(painter)
        painter.end()
