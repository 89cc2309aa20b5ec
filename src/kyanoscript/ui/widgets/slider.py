"""A number to slide, to step and to type over."""

from __future__ import annotations

import ast
import operator
from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from kyanoscript.core.paper.measure import UNITS, millimetres
from kyanoscript.core.params import LENGTH, Number
from kyanoscript.core.quoting import cut
from kyanoscript.translation import decimal, spoken, tr
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import tip

_ARROWS = {
    Qt.Key.Key_Left: -1,
    Qt.Key.Key_Down: -1,
    Qt.Key.Key_Right: 1,
    Qt.Key.Key_Up: 1,
    Qt.Key.Key_PageDown: -10,
    Qt.Key.Key_PageUp: 10,
}


_SIGNS: dict[type[ast.AST], Callable[..., float]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.USub: operator.neg,
    ast.UAdd: operator.pos,
}


def read_number(text: str, spec: Number) -> float | None:
    """The number in what was typed, or the result of a simple sum (55+10, 120/2); None if there is none.

    The unit may be there or not, the decimal sign be a point or a comma, the minus sign any. Lengths on paper may have
    any unit: 30 cm, 11 3/4 in.
    """
    if spec.unit in UNITS:
        try:
            return millimetres(text, spec.unit) / UNITS[spec.unit]
        except ValueError:
            pass
    plain = text.replace("\N{MINUS SIGN}", "-").replace("\N{MULTIPLICATION SIGN}", "*").replace(",", ".")
    plain = plain.strip().removesuffix(spec.unit).removesuffix(spoken(spec.unit)).strip()
    if len(plain) > 60:
        return None
    try:
        value = _worked_out(ast.parse(plain, mode="eval").body)
    except (SyntaxError, ValueError, ZeroDivisionError, OverflowError, RecursionError):
        return None
    return value if value == value and abs(value) != float("inf") else None


def _worked_out(node: ast.AST) -> float:
    """Numbers, the four signs and brackets; ValueError for anything else."""
    if isinstance(node, ast.Constant) and isinstance(node.value, int | float) and type(node.value) is not bool:
        return float(node.value)
    if isinstance(node, ast.BinOp) and type(node.op) in _SIGNS:
        return _SIGNS[type(node.op)](_worked_out(node.left), _worked_out(node.right))
    if isinstance(node, ast.UnaryOp) and type(node.op) in _SIGNS:
        return _SIGNS[type(node.op)](_worked_out(node.operand))
    raise ValueError("not a number")


class ValueSlider(QWidget):
    """A number: its label, its value to type over, and a hairline with a handle.

    Double-press on the label puts the default back. The wheel acts only while it has the keyboard.
    """

    began = Signal()  # a drag starts
    moved = Signal(float)  # a new value, in a drag or on its own
    ended = Signal()  # the drag is over
    given_up = Signal()  # Escape in a drag
    refused = Signal(str)  # what was typed was not usable, and why
    wanted_strip = Signal()  # a test strip of it, from its menu
    wanted_seek = Signal()  # it is to be sought with others: Ctrl and a press on its name, or from its menu

    def __init__(
        self, spec: Number, default: float, parent: QWidget | None = None, longer: float | None = None
    ) -> None:
        super().__init__(parent)
        self.spec = spec
        self._per_pixel = 1000 / longer if longer and spec.unit == LENGTH else None  # lengths are shown in pixels
        self.default = default
        self.own_keys = frozenset(_ARROWS)  # see Window.eventFilter
        self.has_strip = False  # whether a test strip of it can be made
        self.value = default
        self._dragging = False
        self.entry: QLineEdit | None = None
        self.setFixedHeight(37)
        self.setMinimumWidth(120)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(spoken(spec.label))
        self.setAccessibleDescription(spoken(f"{spec.help} ({spec.range_text()})"))
        tip(self, spec.help)
        self.setMouseTracking(True)

    def set_value(self, value: float) -> None:
        """Show a value without announcing it."""
        if value != self.value:
            self.value = value
            self.update()
            tell(self)

    def told(self) -> Told:
        """For assistive technology."""
        spec = self.spec
        return Told(Role.Slider, self.text(), self.value, spec.low, spec.high, spec.step, self._announce)

    def sizeHint(self) -> QSize:
        return QSize(240, 38)

    def text(self) -> str:
        """The value as it is shown: lengths in pixels of the photograph."""
        if self._per_pixel is None:
            return self.spec.text(self.value)
        pixels = self.value / self._per_pixel
        shown = f"{pixels:.{0 if abs(pixels) >= 100 else 1 if abs(pixels) >= 10 else 2}f}"
        shown = shown.rstrip("0").rstrip(".") if "." in shown else shown
        return decimal(shown).replace("-", "\N{MINUS SIGN}") + " px"

    def track(self) -> tuple[float, float, float]:
        return 5.0, self.width() - 5.0, 28.0

    def handle_x(self) -> float:
        left, right, _ = self.track()
        return left + self.spec.share(self.value) * (right - left)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        focus = self.hasFocus()
        painter.setFont(theme.sans(13))
        painter.setPen(theme.colour("accent" if focus else "text"))
        top = QRectF(0, 0, self.width(), 20)
        painter.drawText(top, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, spoken(self.spec.label))
        painter.setPen(theme.colour("text"))
        shown = self.text()
        painter.drawText(top, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, spoken(shown))
        left, right, y = self.track()
        x = self.handle_x()
        zero = min(max(0.0, self.spec.low), self.spec.high)
        origin = left + self.spec.share(zero) * (right - left)
        painter.setPen(QPen(theme.colour("line"), 2))
        painter.drawLine(QPointF(1, y), QPointF(self.width() - 1, y))
        if self.spec.low < 0 < self.spec.high:
            painter.drawLine(QPointF(origin, y - 4), QPointF(origin, y + 4))
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawLine(QPointF(1 if origin == left else origin, y), QPointF(x, y))
        painter.setPen(QPen(theme.colour("accent"), 2 if focus else 1.4))
        painter.setBrush(theme.colour("soft" if focus else "panel"))
        painter.drawRect(QRectF(x - 4, y - 7, 8, 14))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if event.position().y() < 20:
            if event.position().x() > self.width() - self._value_width():
                self._edit()
            elif self.has_strip and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.wanted_seek.emit()
            return
        self._dragging = True
        self.began.emit()
        self._to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._to(event.position().x())
        over_value = event.position().y() < 20 and event.position().x() > self.width() - self._value_width()
        self.setCursor(Qt.CursorShape.IBeamCursor if over_value else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self.ended.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.position().y() < 20 and event.position().x() <= self.width() - self._value_width():
            self._announce(self.default)
        else:
            self.mousePressEvent(event)

    def menu(self) -> QMenu:
        """What can be done with the value."""
        menu = QMenu(self)
        if self.has_strip:
            menu.addAction(spoken("Test strip of this value\tW")).triggered.connect(lambda: self.wanted_strip.emit())
            menu.addAction(spoken("Seek it with others")).triggered.connect(lambda: self.wanted_seek.emit())
        menu.addAction(spoken("Type a value\tReturn")).triggered.connect(lambda: self._edit())
        menu.addAction(spoken("Put the default back")).triggered.connect(lambda: self._announce(self.default))
        return menu

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu().exec(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.hasFocus():
            event.ignore()
            return
        self._step(1 if event.angleDelta().y() > 0 else -1, event.modifiers())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        if key == Qt.Key.Key_Escape and self._dragging:
            self._dragging = False
            self.given_up.emit()
        elif key in _ARROWS:
            self._step(_ARROWS[key], event.modifiers())
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._edit()
        else:
            super().keyPressEvent(event)

    def _step(self, steps: int, modifiers: Qt.KeyboardModifier) -> None:
        size = self.spec.step
        if modifiers & Qt.KeyboardModifier.ShiftModifier:
            size *= 10
        elif modifiers & Qt.KeyboardModifier.ControlModifier and self.spec.decimals:
            size = 10.0**-self.spec.decimals
        self._announce(self.value + steps * size)

    def _to(self, x: float) -> None:
        left, right, _ = self.track()
        share = min(max((x - left) / max(1.0, right - left), 0.0), 1.0)
        value = self.spec.at(share)
        self._announce(round(value / self.spec.step) * self.spec.step)

    def _announce(self, value: float) -> None:
        value = min(max(round(value, 6), self.spec.low), self.spec.high)
        if value != self.value:
            self.value = value
            self.update()
            tell(self)
            self.moved.emit(value)

    def _value_width(self) -> float:
        return max(48.0, QFontMetricsF(theme.sans(13)).horizontalAdvance(spoken(self.text())) + 10)

    def _edit(self) -> None:
        """Type a value over the shown one."""
        if self.entry is not None:
            return
        entry = QLineEdit(self.text(), self)
        entry.setFont(theme.sans(13))
        entry.setAlignment(Qt.AlignmentFlag.AlignRight)
        entry.setGeometry(self.width() - 84, -2, 84, 25)
        entry.setAccessibleName(tr("{label}, value", label=self.spec.label))
        entry.selectAll()
        entry.editingFinished.connect(self._edited)
        entry.installEventFilter(self)
        self.entry = entry
        entry.show()
        entry.setFocus()

    def eventFilter(self, watched: object, event: QEvent) -> bool:
        """Return takes what was typed, Escape drops it; neither goes on to the slider beneath."""
        if watched is self.entry and isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            if event.key() == Qt.Key.Key_Escape:
                self.stop_typing()
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._edited()
                return True
        return False

    def _edited(self) -> None:
        if self.entry is None:
            return
        typed = self.entry.text()
        self.stop_typing()
        value = read_number(typed.removesuffix("px") if self._per_pixel else typed, self.spec)
        if value is not None and self._per_pixel and not typed.strip().endswith(LENGTH):
            value *= self._per_pixel
        if value is None:
            self.refused.emit(tr("{label}: “{typed}” is not a number", label=self.spec.label, typed=cut(typed)))
            return
        if not self.spec.low <= value <= self.spec.high:
            self.refused.emit(
                tr(
                    "{label} goes from {replace}",
                    label=self.spec.label,
                    replace=self.spec.range_text().replace("…", " to "),
                )
            )
        self._announce(value)

    def stop_typing(self) -> None:
        """What is typed and not taken yet goes."""
        entry, self.entry = self.entry, None
        if entry is not None:
            entry.removeEventFilter(self)
            entry.hide()
            entry.deleteLater()
            if self.isVisible():
                self.setFocus()
