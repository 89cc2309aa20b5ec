"""Keys that Qt's shortcuts cannot do: those that are held, and Escape, which leaves one thing after another."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QKeyCombination, QObject, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLineEdit, QWidget

from kyanoscript.ui.commands.list import COMMANDS
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Held
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.easel import Easel

_HELD = {
    QKeySequence.fromString(command.keys)[0].key().value: command  # type: ignore[index]  # a sequence of keys
    for command in COMMANDS
    if command.held
}


# Where letters are on a keyboard, by the numbers that X11 and Wayland give its keys, if it has no Latin letters
_PLACES = {
    first + k: ord(letter)
    for first, row in ((24, "QWERTYUIOP[]"), (38, "ASDFGHJKL"), (52, "ZXCVBNM,."))
    for k, letter in enumerate(row)
}
_LATIN = 0x250  # letters below are Latin ones


def _by_place(event: QKeyEvent) -> int:
    """The key; of a letter that is no Latin one, the key of its place: with Cyrillic letters all would be dead else."""
    letter = event.key()
    foreign = _LATIN <= letter < Qt.Key.Key_Escape.value
    return _PLACES.get(event.nativeScanCode(), letter) if foreign else letter


class Keys(QObject):
    """Watches every key of one window, at the control that has the keyboard.

    Not at the application: then every event of every object would go through Python.
    """

    returned = Signal()  # to the window, from another
    came = Signal(object)  # the keyboard, to a control of the window

    def __init__(self, window: QWidget, registry: Registry, desk: Desk, easel: Easel) -> None:
        super().__init__(window)
        self._window, self._registry, self._desk, self._easel = window, registry, desk, easel
        self._key = 0
        self._held: Held | None = None
        for widget in self._always():
            widget.installEventFilter(self)
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.focusChanged.connect(self._follow)
        application.aboutToQuit.connect(self.stop)
        self._stopped = False

    def stop(self) -> None:
        """The window goes, or the program: what filters events must not outlive either."""
        if self._stopped:
            return
        self._stopped = True
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        application.focusChanged.disconnect(self._follow)
        for widget in (application.focusWidget(), *self._always()):
            if widget is not None:
                widget.removeEventFilter(self)

    def _always(self) -> tuple[QWidget, ...]:
        """Watched with the keyboard and without; the window has it where no control has it, and comes and goes."""
        return self._easel, self._window, self._window.window()

    def _follow(self, before: QWidget | None, now: QWidget | None) -> None:
        if before is not None and before not in self._always():
            before.removeEventFilter(self)
        if now is not None and now.window() is self._window.window():
            now.installEventFilter(self)
            self.came.emit(now)

    def let_go(self) -> None:
        """Whatever is held has come to its end already."""
        self._key, self._held = 0, None

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind, top = event.type(), self._window.window()
        if kind == QEvent.Type.Show and watched is self._window:
            top.installEventFilter(self)
        if kind == QEvent.Type.WindowActivate and watched is top:
            self.returned.emit()
        if kind == QEvent.Type.WindowDeactivate and watched is top and self._key:
            self._end()
        if kind == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            # A control that has the keyboard keeps the keys it works with; all others are shortcuts.
            if event.key() in getattr(watched, "own_keys", ()):
                event.accept()
                return True
            return False
        if isinstance(event, QKeyEvent) and isinstance(watched, QWidget) and watched.window() is top:
            if kind == QEvent.Type.KeyPress:
                return self._down(event)
            if kind == QEvent.Type.KeyRelease and self._key == event.key() != 0 and not event.isAutoRepeat():
                self._end()
                return True
        return False

    def _down(self, event: QKeyEvent) -> bool:
        """Start a hold, or leave something; True if that was the key's meaning."""
        view, focus = self._registry.view, QApplication.focusWidget()
        if event.key() == Qt.Key.Key_Escape:
            if view is not None and view.escape():
                self.let_go()
                return True
            if self._desk.dragging:
                self._desk.abort()
                self._easel.give_up()
                self.let_go()
            elif self._easel.hasFocus():
                self._easel.give_up()
            return False
        key = _by_place(event)
        command = _HELD.get(key)
        typing = isinstance(focus, QLineEdit)
        if key != event.key() and command is None and self._did(key, event.modifiers(), typing):
            return True
        if command is None or typing or event.modifiers() != Qt.KeyboardModifier.NoModifier:
            return False
        presses = isinstance(focus, QAbstractButton | QComboBox)
        space_on_button = event.key() == Qt.Key.Key_Space and presses
        found = self._registry.handler(command)
        if not self._registry.possible(command) or space_on_button or not isinstance(found, Held):
            return False
        if not event.isAutoRepeat() and not self._key:
            self._key, self._held = event.key(), found  # as it will come when it is let go
            found.start()
        return True

    def _did(self, key: int, modifiers: Qt.KeyboardModifier, typing: bool) -> bool:
        """Do what a key's place means, where no letter of the keyboard's own means anything; whether there was such."""
        if typing and modifiers in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier):
            return False
        pressed = QKeyCombination(modifiers, Qt.Key(key))
        for command in self._registry.every():
            keys = QKeySequence(command.keys)
            meant = keys.count() == 1 and keys[0] == pressed  # type: ignore[index]  # a sequence of keys
            if meant and not command.held and self._registry.possible(command):
                self._registry.do(command)
                return True
        return False

    def _end(self) -> None:
        held = self._held
        self.let_go()
        if held is not None:
            held.end()
