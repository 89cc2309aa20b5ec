"""Choosing a colour: a plane of hue and chroma, lightness beside it, numbers, and inks that are kept."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from kyanoscript.core.colour import SRGB, from_oklch, hex_of, parse_hex, to_oklch
from kyanoscript.core.params import Number
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.fields.plane import SIDE, Band, Lch, Plane
from kyanoscript.ui.service import display
from kyanoscript.ui.widgets import furniture, theme
from kyanoscript.ui.widgets.access import Role, Told
from kyanoscript.ui.widgets.plain import tip
from kyanoscript.ui.widgets.slider import read_number

_GRAY = 0.002  # Oklch chroma below which a colour has no hue of its own
_INKS = 14  # kept at most
_AXES = (
    Number(label="Lightness", help="How light the colour is", unit="%", high=100, decimals=1),
    Number(label="Chroma", help="How strong the colour is", high=0.4, step=0.005, decimals=3),
    Number(label="Hue", help="Degrees of Oklch", unit="°", high=360, decimals=1),
)

_BESIDE = 88  # pixels that two words have beside the plane


class KeptInks(QWidget):
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
        self.setAccessibleName(spoken("Kept inks"))
        tip(self, "Kept inks: press to use, press with the right button to drop")

    def show_inks(self, inks: tuple[str, ...]) -> None:
        """Show kept colours."""
        self.inks = inks
        self.current = min(self.current, max(0, len(inks) - 1))
        self.setVisible(bool(inks))
        self.update()

    def told(self) -> Told:
        """For assistive technology: the ink that is looked at."""
        words, last = (self.inks[self.current], len(self.inks) - 1) if self.inks else ("none", 0)
        return Told(Role.List, words, self.current, 0, last, 1.0, self._look_at)

    def _look_at(self, index: float) -> None:
        self.current = round(index)
        self.update()

    def box(self, index: int) -> QRectF:
        """Where a colour is."""
        return QRectF(1 + index * 18.5, 2, 16, 16)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        for k, ink in enumerate(self.inks):
            painter.fillRect(self.box(k), display.ink(ink))
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
        self.plane, self.band = Plane(), Band()
        for part in (self.plane, self.band):
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
            tip(entry, f"{spec.label}: {spec.help[:1].lower()}{spec.help[1:]}")
            self.numbers.append(entry)
            line.addWidget(entry)
            side.addLayout(line)
        self.pick_word = furniture.word(
            "Pick", "From the picture: press on it; with Shift from the print as it is", act=self.pick
        )
        self.keep_word = furniture.word("Keep", "Keep this ink for other prints", act=lambda: self.keep.emit(self.ink))
        both = (self.pick_word, self.keep_word)
        if sum(word.sizeHint().width() for word in both) <= _BESIDE:
            side.addLayout(furniture.in_a_row(*both, spacing=4))
        else:  # in a language with longer words
            for word in both:
                side.addWidget(word)
        side.addStretch()
        row.addLayout(side, 1)
        column.addLayout(row)
        self.inks = KeptInks()
        self.inks.chosen.connect(self.take)
        self.inks.dropped.connect(self.drop)
        self.inks.hide()
        column.addWidget(self.inks)

    def sizeHint(self) -> QSize:
        return QSize(264, SIDE + 8)

    def _entry(self, name: str, done: object) -> QLineEdit:
        entry = QLineEdit()
        entry.setFont(theme.sans(13))
        entry.setAccessibleName(spoken(name))
        entry.setMinimumWidth(40)
        entry.editingFinished.connect(done)
        return entry

    def show_colour(self, ink: str) -> None:
        """Show a colour without announcing it."""
        if ink == self.ink == self.hex.text():
            return
        self.ink = ink
        if hex_of(from_oklch(*self._lch)) != ink:  # else it came from here, with finer values
            lightness, chroma, hue = (float(v) for v in to_oklch(np.array(parse_hex(ink)).reshape(3, 1), SRGB)[:, 0])
            if chroma < _GRAY:
                chroma, hue = 0.0, self._lch[2]
            self._lch = (round(lightness, 4), round(chroma, 4), round(hue, 1))
        self._show()

    def show_inks(self, inks: tuple[str, ...]) -> None:
        """Show kept colours."""
        self.inks.show_inks(inks)

    def _show(self) -> None:
        self.hex.setText(spoken(self.ink))
        lightness, chroma, hue = self._lch
        for entry, text in zip(self.numbers, (f"{lightness * 100:.1f}", f"{chroma:.3f}", f"{hue:.0f}"), strict=True):
            entry.setText(text)
        self.plane.show_lch(self._lch)
        self.band.show_lch(self._lch)

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
            self.hex.setText(spoken(self.ink))

    def _number_typed(self, k: int) -> None:
        spec, text = _AXES[k], self.numbers[k].text()
        value = read_number(text, spec)
        if value is None or not spec.low <= value <= spec.high:
            self.refused.emit(
                tr("{label}: “{text}” is not within {spec}", label=spec.label, text=text, spec=spec.range_text())
            )
            self._show()
            return
        present = (f"{self._lch[0] * 100:.1f}", f"{self._lch[1]:.3f}", f"{self._lch[2]:.0f}")[k]
        if text != present:
            lch = list(self._lch)
            lch[k] = value / 100 if k == 0 else value
            self._set((lch[0], lch[1], lch[2]))


def kept(inks: tuple[str, ...], ink: str) -> tuple[str, ...]:
    """The kept inks with one more at the head."""
    return (ink, *(other for other in inks if other != ink))[:_INKS]
