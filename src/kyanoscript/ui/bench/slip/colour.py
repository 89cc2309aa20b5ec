"""Choosing a colour: a plane of hue and chroma, lightness beside it, numbers, and inks that are kept.

All of it in Oklch (B. Ottosson, "A perceptual color space for image processing", 2020), so that going round the plane
keeps the lightness. The plane's rim is the strongest colour of each hue that a screen can show at that lightness.
"""

from __future__ import annotations

import functools
import math

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kyanoscript.core.colour import from_oklab, from_oklch, hex_of, parse_hex, to_oklch
from kyanoscript.core.params import Number
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.slider import read_number

_SIDE = 144  # of the plane
_FINE = 88  # pixels that the plane is worked out in; it is smooth
_GRAY = 0.002  # Oklch chroma below which a colour has no hue of its own
_INKS = 14  # kept at most
_AXES = (
    Number(label="Lightness", help="How light the colour is", unit="%", high=100, decimals=1),
    Number(label="Chroma", help="How strong the colour is", high=0.4, step=0.005, decimals=3),
    Number(label="Hue", help="Degrees of Oklch", unit="°", high=360, decimals=1),
)
Lch = tuple[float, float, float]  # lightness 0…1, chroma, hue in degrees


def _inside(rgb: NDArray[np.float64]) -> NDArray[np.bool_]:
    return np.all((rgb >= -1e-3) & (rgb <= 1 + 1e-3), axis=0)


def _limits(lightness: NDArray[np.float64], hue: NDArray[np.float64]) -> NDArray[np.float64]:
    """The largest chroma that can be shown at each lightness and hue (radians), by halving."""
    low, high = np.zeros(lightness.shape), np.full(lightness.shape, 0.4)
    for _ in range(14):
        middle = (low + high) / 2
        fits = _inside(from_oklab(np.stack([lightness, middle * np.cos(hue), middle * np.sin(hue)])))
        low, high = np.where(fits, middle, low), np.where(fits, high, middle)
    return low


@functools.lru_cache(maxsize=128)
def _strongest(percent: int) -> NDArray[np.float64]:
    """The largest chroma that each of 360 hues has at a lightness."""
    return np.maximum(_limits(np.full(360, percent / 100), np.radians(np.arange(360.0))), 0.004)


def strongest(lightness: float, hue: float) -> float:
    """The largest chroma that a screen can show of a hue at a lightness."""
    return float(_strongest(round(lightness * 100))[round(hue) % 360])


@functools.lru_cache(maxsize=32)
def _disc(percent: int, pixels: int) -> QImage:
    """The plane at a lightness."""
    across, down = np.meshgrid(np.linspace(-1, 1, pixels), np.linspace(1, -1, pixels))
    hue = np.arctan2(down, across)
    rim = np.append(_strongest(percent), _strongest(percent)[0])
    most = np.interp(np.degrees(hue) % 360, np.arange(361), rim)
    chroma = np.hypot(across, down) * most
    lab = np.stack([np.full_like(across, percent / 100), chroma * np.cos(hue), chroma * np.sin(hue)])
    rgb = from_oklab(lab.reshape(3, -1)).reshape(3, pixels, pixels)
    return display.colours(rgb, (np.hypot(across, down) <= 1).astype(float))


@functools.lru_cache(maxsize=64)
def _wedge(chroma: float, hue: int) -> QImage:
    """A colour at every lightness, white at the top, as strong as it can be shown."""
    light = np.linspace(1, 0, 72)
    angle = math.radians(hue)
    held = np.minimum(chroma, _limits(light, np.full(72, angle)))
    rgb = from_oklab(np.stack([light, held * math.cos(angle), held * math.sin(angle)]))
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
        self.setAccessibleName(name)
        self.setAccessibleDescription(help)
        self.setToolTip(help)

    def show_lch(self, lch: Lch) -> None:
        """Show a colour."""
        if lch != self.lch:
            self.lch = lch
            self.update()

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
        self.setFixedSize(_SIDE, _SIDE)

    def _radius(self) -> float:
        return self.width() / 2 - 5

    def at(self, point: QPointF) -> Lch:
        away = point - QPointF(self.width() / 2, self.height() / 2)
        share = min(math.hypot(away.x(), away.y()) / self._radius(), 1.0)
        hue = math.degrees(math.atan2(-away.y(), away.x())) % 360 if share > 0.01 else self.lch[2]
        return self.lch[0], round(share * strongest(self.lch[0], hue), 4), round(hue, 1)

    def stepped(self, across: int, up: int, large: bool) -> Lch:
        size = 5 if large else 1
        return self.lch[0], max(0.0, round(self.lch[1] + up * size * 0.004, 4)), (self.lch[2] - across * size) % 360

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        middle, radius = QPointF(self.width() / 2, self.height() / 2), self._radius()
        ring = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        percent = round(self.lch[0] * 100)
        painter.drawImage(ring, _disc(percent, _FINE))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(ring)
        share = min(self.lch[1] / strongest(self.lch[0], self.lch[2]), 1.0)
        angle = math.radians(self.lch[2])
        spot = middle + QPointF(math.cos(angle), -math.sin(angle)) * (share * radius)
        for pen in (QPen(QColor("#FFFFFF"), 3.4), QPen(QColor("#1C1C1C"), 1.6)):
            painter.setPen(pen)
            painter.drawEllipse(spot, 5.5, 5.5)
        self._focus_frame(painter)
        painter.end()


class Strip(_Field):
    """Lightness, black at the bottom."""

    def __init__(self) -> None:
        super().__init__("Lightness of the colour", "Lightness, black at the bottom")
        self.setFixedSize(20, _SIDE)

    def at(self, point: QPointF) -> Lch:
        share = 1 - min(max((point.y() - 5) / (self.height() - 10), 0.0), 1.0)
        return round(share, 3), self.lch[1], self.lch[2]

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


class Inks(QWidget):
    """Kept colours, to be pressed."""

    chosen = Signal(str)
    dropped = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.inks: tuple[str, ...] = ()
        self.current = 0
        self.own_keys = frozenset(
            (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Delete)
        )
        self.setFixedHeight(20)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Kept inks")
        self.setToolTip("Kept inks: press to use, press with the right button to drop")

    def show_inks(self, inks: tuple[str, ...]) -> None:
        """Show kept colours."""
        self.inks = inks
        self.current = min(self.current, max(0, len(inks) - 1))
        self.setVisible(bool(inks))
        self.update()

    def box(self, index: int) -> QRectF:
        """Where a colour is."""
        return QRectF(1 + index * 18.5, 2, 16, 16)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        for k, ink in enumerate(self.inks):
            painter.fillRect(self.box(k), QColor(ink))
            chosen = self.hasFocus() and k == self.current
            painter.setPen(QPen(theme.colour("accent" if chosen else "line"), 2 if chosen else 1))
            painter.drawRect(self.box(k))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for k, ink in enumerate(self.inks):
            if self.box(k).contains(event.position()):
                self.current = k
                (self.dropped if event.button() == Qt.MouseButton.RightButton else self.chosen).emit(ink)
                return

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self.inks:
            self.current = (self.current + (1 if key == Qt.Key.Key_Right else -1)) % len(self.inks)
            self.update()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.inks:
            self.chosen.emit(self.inks[self.current])
        elif key == Qt.Key.Key_Delete and self.inks:
            self.dropped.emit(self.inks[self.current])
        else:
            super().keyPressEvent(event)


class ColourField(QWidget):
    """A colour with everything to choose it by."""

    began = Signal(str)
    moved = Signal(str)  # #rrggbb
    ended = Signal()
    given_up = Signal()
    refused = Signal(str)
    pick = Signal()  # from the picture
    keep = Signal(str)
    drop = Signal(str)

    def __init__(self, words: str = "Colour") -> None:
        super().__init__()
        self.ink = "#000000"
        self._lch: Lch = (0.0, 0.0, 0.0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(8)
        self.plane, self.strip = Plane(), Strip()
        for part in (self.plane, self.strip):
            part.began.connect(lambda: self.began.emit(words))
            part.moved.connect(self._set)
            part.ended.connect(self.ended)
            part.given_up.connect(self.given_up)
            row.addWidget(part)
        side = QVBoxLayout()
        side.setSpacing(2)
        self.hex = self._entry("Colour as #rrggbb", self._typed)
        side.addWidget(self.hex)
        self.numbers = []
        for k, spec in enumerate(_AXES):
            line = QHBoxLayout()
            line.setSpacing(4)
            line.addWidget(furniture.label("LCH"[k], quiet=True))
            entry = self._entry(spec.label, lambda k=k: self._number_typed(k))
            entry.setToolTip(f"{spec.label}: {spec.help.lower()}")
            self.numbers.append(entry)
            line.addWidget(entry)
            side.addLayout(line)
        words_ = QHBoxLayout()
        words_.setSpacing(4)
        self.pick_word = furniture.word("Pick", "From the picture: press on it; with Shift from the print as it is")
        self.pick_word.clicked.connect(self.pick)
        self.keep_word = furniture.word("Keep", "Keep this ink for other prints")
        self.keep_word.clicked.connect(lambda: self.keep.emit(self.ink))
        for button in (self.pick_word, self.keep_word):
            words_.addWidget(button)
        words_.addStretch()
        side.addLayout(words_)
        side.addStretch()
        row.addLayout(side, 1)
        column.addLayout(row)
        self.inks = Inks()
        self.inks.chosen.connect(self.take)
        self.inks.dropped.connect(self.drop)
        self.inks.hide()
        column.addWidget(self.inks)

    def sizeHint(self) -> QSize:
        return QSize(264, _SIDE + 8)

    def _entry(self, name: str, done: object) -> QLineEdit:
        entry = QLineEdit()
        entry.setFont(theme.sans(13))
        entry.setAccessibleName(name)
        entry.setMinimumWidth(40)
        entry.editingFinished.connect(done)
        return entry

    def show_colour(self, ink: str) -> None:
        """Show a colour without announcing it."""
        self.ink = ink
        if hex_of(from_oklch(*self._lch)) != ink:  # else it came from here, with finer values
            lightness, chroma, hue = (float(v) for v in to_oklch(np.array(parse_hex(ink)).reshape(3, 1))[:, 0])
            if chroma < _GRAY:
                chroma, hue = 0.0, self._lch[2]
            self._lch = (round(lightness, 4), round(chroma, 4), round(hue, 1))
        self._show()

    def show_inks(self, inks: tuple[str, ...]) -> None:
        """Show kept colours."""
        self.inks.show_inks(inks)

    def _show(self) -> None:
        self.hex.setText(self.ink)
        lightness, chroma, hue = self._lch
        for entry, text in zip(self.numbers, (f"{lightness * 100:.1f}", f"{chroma:.3f}", f"{hue:.0f}"), strict=True):
            entry.setText(text)
        self.plane.show_lch(self._lch)
        self.strip.show_lch(self._lch)

    def _set(self, lch: Lch) -> None:
        self._lch = lch
        self.ink = hex_of(from_oklch(*lch))
        self._show()
        self.moved.emit(self.ink)

    def take(self, ink: str) -> None:
        """Another colour, from a kept ink or from the picture."""
        if ink != self.ink:
            self.show_colour(ink)
            self.moved.emit(ink)

    def _typed(self) -> None:
        text = self.hex.text().strip()
        try:
            self.take(hex_of(parse_hex(text if text.startswith("#") else f"#{text}")))
        except ValueError as wrong:
            self.refused.emit(str(wrong))
            self.hex.setText(self.ink)

    def _number_typed(self, k: int) -> None:
        spec, text = _AXES[k], self.numbers[k].text()
        value = read_number(text, spec)
        if value is None or not spec.low <= value <= spec.high:
            self.refused.emit(f"{spec.label}: “{text}” is not within {spec.range_text()}")
            self._show()
            return
        present = (f"{self._lch[0] * 100:.1f}", f"{self._lch[1]:.3f}", f"{self._lch[2]:.0f}")[k]
        if text != present:
            lch = list(self._lch)
            lch[k] = value / 100 if k == 0 else value
            self._set((lch[0], lch[1], lch[2]))


def kept(inks: tuple[str, ...], ink: str) -> tuple[str, ...]:
    """The kept inks with one more at the head."""
    return (ink, *(one for one in inks if one != ink))[:_INKS]
