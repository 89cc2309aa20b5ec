"""Menus and shortcuts, made from the list of commands and kept up to date."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu, QMenuBar, QSizePolicy, QWidget

from kyanoscript.translation import spoken
from kyanoscript.ui.commands.list import OPEN, REDO, UNDO, Command
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.plain import tip

WITHOUT_MENU = ("Hold", "Tint")  # what is held, or belongs to one kind of pass, is on the page of keys
_ALSO = {"Ctrl++": "Ctrl+="}  # the same key without Shift


class Menus(QMenuBar):
    """One menu a word of the list."""

    def __init__(self, registry: Registry, window: QWidget, easel: QWidget) -> None:
        super().__init__()
        self.registry = registry
        self.actions_of: dict[Command, QAction] = {}
        self.setNativeMenuBar(False)
        self.setFont(theme.sans(13))
        self.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Maximum)
        menus: dict[str, QMenu] = {}
        for command in registry.every():
            made = self._action(command, window, easel)
            if command.menu not in WITHOUT_MENU:
                menu = menus.get(command.menu)
                if menu is None:
                    menu = menus[command.menu] = self.addMenu(spoken(command.menu))
                if command.rule:
                    menu.addSeparator()
                menu.addAction(made)
                if command is OPEN:
                    self.recent = menu.addMenu(spoken("Open recent"))
                    self.demos = menu.addMenu(spoken("Demo prints"))
        for view in registry.views.values():
            for command, widgets in view.hears().items():
                for widget in widgets:
                    widget.addAction(self.actions_of[command])
        registry.changed.connect(self.bring_up_to_date)

    def _action(self, command: Command, window: QWidget, easel: QWidget) -> QAction:
        made = QAction(spoken(command.text), window)
        made.setStatusTip(command.help)
        tip(made, command.help)
        self.actions_of[command] = made
        if command.held:
            made.setEnabled(False)  # held keys are followed by an event filter; the menu only shows them
            made.setText(spoken(f"{command.text}\t{command.keys}"))
            return made
        if command.keys:
            made.setShortcuts([QKeySequence(keys) for keys in (command.keys, _ALSO.get(command.keys)) if keys])
        if not command.everywhere:  # elsewhere the key belongs to the control that has the keyboard
            made.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            easel.addAction(made)
        made.triggered.connect(lambda _=False: self.registry.do(command))
        window.addAction(made)
        return made

    def bring_up_to_date(self) -> None:
        """What can be done now, and what undo would take back."""
        undo, redo = self.registry.undo_words()
        for command, action in self.actions_of.items():
            if not command.held:
                action.setEnabled(self.registry.possible(command))
        for command, words in ((UNDO, undo), (REDO, redo)):
            action = self.actions_of[command]
            action.setEnabled(bool(words))
            action.setText(spoken(f"{command.text}: {words}" if words else command.text))
