"""What assistive technology is told of controls that are drawn by hand: role, name, value, range and steps.

A control that has `told` is known by what that gives; every other widget is left to Qt.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Protocol

from PySide6.QtCore import QObject, QRect, Qt
from PySide6.QtGui import (
    QAccessible,
    QAccessibleActionInterface,
    QAccessibleInterface,
    QAccessibleValueChangeEvent,
    QAccessibleValueInterface,
)
from PySide6.QtWidgets import QAccessibleWidget, QWidget
from shiboken6 import VoidPtr

from kyanoscript.translation import spoken

Role = QAccessible.Role


@dataclass(frozen=True)
class Item:
    """One of several things that a control shows."""

    words: str
    box: QRect  # in the control
    chosen: bool


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
    items: tuple[Item, ...] = ()  # of a list, from left to right or from the top


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


class _Actions(QAccessibleActionInterface):
    """What can be done with a control: it can be given the keyboard, and then has its keys."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__()
        self._widget = widget

    def actionNames(self) -> list[str]:
        return [QAccessibleActionInterface.setFocusAction()]

    def doAction(self, name: str) -> None:
        if name == QAccessibleActionInterface.setFocusAction():
            self._widget.setFocus(Qt.FocusReason.OtherFocusReason)

    def keyBindingsForAction(self, name: str) -> list[str]:
        return []


class _Shown(QAccessibleInterface):
    """An item of a list, by its number: there as long as the list has so many."""

    def __init__(self, list_: _Access, at: int) -> None:
        super().__init__()
        self._list, self._at = list_, at

    @property
    def _item(self) -> Item | None:
        items = self._list.items()
        return items[self._at] if self._at < len(items) else None

    def isValid(self) -> bool:
        return self._item is not None

    def object(self) -> Any:
        return None

    def parent(self) -> QAccessibleInterface:
        return self._list

    def child(self, index: int) -> Any:
        return None

    def childAt(self, x: int, y: int) -> Any:
        return None

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1

    def role(self) -> QAccessible.Role:
        return Role.ListItem

    def rect(self) -> QRect:
        return self._item.box.translated(self._list.rect().topLeft()) if self._item is not None else QRect()

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        state.selectable = True
        state.selected = self._item is not None and self._item.chosen
        return state

    def text(self, kind: QAccessible.Text) -> str:
        return spoken(self._item.words) if self._item is not None and kind == QAccessible.Text.Name else ""

    def setText(self, kind: QAccessible.Text, text: str) -> None:
        pass


class _Access(QAccessibleWidget):
    """A control as Qt hands it on."""

    def __init__(self, control: Any) -> None:
        super().__init__(control, control.told().role)
        self._control: Telling = control
        self._value, self._actions = _Value(control), _Actions(control)
        self._shown: list[_Shown] = []

    def items(self) -> tuple[Item, ...]:
        """What it shows, now."""
        return self._control.told().items

    def childCount(self) -> int:
        return len(self.items()) or super().childCount()

    def child(self, index: int) -> Any:
        if not 0 <= index < len(self.items()):
            return super().child(index)
        self._shown += [_Shown(self, k) for k in range(len(self._shown), index + 1)]
        return self._shown[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._shown.index(child) if child in self._shown else super().indexOfChild(child)

    def text(self, kind: QAccessible.Text) -> str:
        if kind == QAccessible.Text.Value:
            return spoken(self._control.told().words)
        return super().text(kind)

    def interface_cast(self, kind: QAccessible.InterfaceType) -> Any:
        if kind == QAccessible.InterfaceType.ValueInterface:
            return self._value
        if kind == QAccessible.InterfaceType.ActionInterface:
            return self._actions
        return VoidPtr(0)  # with None the program ends as soon as anybody on the bus asks (PySide6 6.11)


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
        QAccessible.updateAccessibility(QAccessibleValueChangeEvent(control, spoken(control.told().words)))
