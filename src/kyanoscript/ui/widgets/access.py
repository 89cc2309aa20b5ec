"""What assistive technology is told of controls that are drawn by hand: role, name, value, range and steps.

A control that has `told` is known by what that gives; every other widget is left to Qt.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from PySide6.QtCore import QObject
from PySide6.QtGui import QAccessible, QAccessibleInterface, QAccessibleValueChangeEvent, QAccessibleValueInterface
from PySide6.QtWidgets import QAccessibleWidget, QWidget

Role = QAccessible.Role


@dataclass(frozen=True)
class Told:
    """A control as it is now."""

    role: QAccessible.Role
    words: str  # its value as people read it
    value: float  # and as a number, between low and high
    low: float
    high: float
    step: float
    put: Callable[[float], object]  # another value


class Telling(Protocol):
    """A widget that can be told of."""

    def told(self) -> Told:
        """What it is, and its value."""
        ...


class _Value(QAccessibleValueInterface):
    """The value of a control, to be read and set."""

    def __init__(self, control: Telling) -> None:
        super().__init__()
        self._control = control

    def currentValue(self) -> Any:
        return self._control.told().value

    def minimumValue(self) -> Any:
        return self._control.told().low

    def maximumValue(self) -> Any:
        return self._control.told().high

    def minimumStepSize(self) -> Any:
        return self._control.told().step

    def setCurrentValue(self, value: Any) -> None:
        told = self._control.told()
        told.put(min(max(float(value), told.low), told.high))


class _Access(QAccessibleWidget):
    """A control as Qt hands it on."""

    def __init__(self, control: Any) -> None:
        super().__init__(control, control.told().role)
        self._control: Telling = control
        self._value = _Value(control)

    def text(self, kind: QAccessible.Text) -> str:
        if kind == QAccessible.Text.Value:
            return self._control.told().words
        return super().text(kind)

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        if kind == QAccessible.InterfaceType.ValueInterface:
            return self._value
        return super().interface_cast(kind)


_kept: dict[int, _Access] = {}  # Qt does not keep what the factory makes alive on Python's side


def _made(_kind: str, thing: QObject) -> QAccessibleInterface | None:
    if not isinstance(thing, QWidget) or not hasattr(thing, "told"):
        return None
    key = id(thing)
    made = _kept[key] = _Access(thing)
    thing.destroyed.connect(lambda: _kept.pop(key, None))
    return made


def install() -> None:
    """Once for the whole program."""
    QAccessible.installFactory(_made)


def tell(control: Any) -> None:
    """The value has changed: whoever listens is told."""
    if QAccessible.isActive():
        QAccessible.updateAccessibility(QAccessibleValueChangeEvent(control, control.told().words))
