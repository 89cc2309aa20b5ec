"""What is done with the passes of the run."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import (
    QGuiApplication,
)
from PySide6.QtWidgets import (
    QMenu,
)

from kyanoscript.core import passes
from kyanoscript.core.blend import MODES
from kyanoscript.core.script import Script, ScriptError, dumps, loads
from kyanoscript.ui.chooser import Chooser
from kyanoscript.ui.desk import PHOTO
from kyanoscript.ui.window.filing import Filing


class Working(Filing):
    """What is done with the passes of the run."""

    # Passes

    def ask_add(self) -> None:
        """Open the chooser for a pass after the chosen one."""
        if self.desk.photo is not None:
            index = max(0, self.desk.selected + 1)
            box = self.run.trays.thumb(index).center().toPoint()
            self._choose_pass(index, self.run.trays.mapToGlobal(box))

    def _choose_pass(self, index: int, at: QPoint) -> None:
        chooser = Chooser(self)
        chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        chooser.chosen.connect(lambda kind: self.add(kind, index))
        chooser.pop_up(at)
        self.chooser = chooser

    def add(self, kind: str, index: int | None = None) -> None:
        """Put a new pass into the run, before ``index`` (at the end without one)."""
        model = passes.load_all()[kind]
        index = len(self.desk.script.passes) if index is None else index
        self.desk.change(f"Add {model.label}", self.desk.script.inserted(index, [model()]), select=index)
        self.easel.setFocus()

    def double(self) -> None:
        """The chosen pass once more after it."""
        one, index = self.desk.selected_pass, self.desk.selected
        if one is not None:
            self.desk.change(f"Double {one.label}", self.desk.script.inserted(index + 1, [one]), select=index + 1)

    def copy_pass(self) -> None:
        """The chosen pass onto the clipboard, as the JSON text of a script."""
        one = self.desk.selected_pass
        if one is not None:
            QGuiApplication.clipboard().setText(dumps(Script((one,))))
            self.foot.say(f"{one.label} is on the clipboard")

    def paste_passes(self) -> None:
        """Passes from the clipboard, after the chosen one."""
        try:
            passes_ = loads(QGuiApplication.clipboard().text()).settled().passes
        except ScriptError as wrong:
            self.foot.say(f"Nothing to paste: {wrong}", warning=True)
            return
        if self.desk.photo is not None and passes_:
            index = max(0, self.desk.selected + 1)
            words = passes_[0].label if len(passes_) == 1 else f"{len(passes_)} passes"
            script = self.desk.script.inserted(index, passes_)
            self.desk.change(f"Paste {words}", script, select=index + len(passes_) - 1)

    def remove(self) -> None:
        """Take the chosen pass out."""
        one, index = self.desk.selected_pass, self.desk.selected
        if one is not None:
            rest = self.desk.script.without(index)
            select = min(index, len(rest.passes) - 1) if rest.passes else PHOTO
            self.desk.change(f"Remove {one.label}", rest, select=select)

    def _tray_menu(self, index: int, at: QPoint) -> None:
        menu = QMenu(self)
        for action, made in self._actions:
            if action.do in ("double", "lamp", "move_left", "move_right", "remove"):
                menu.addAction(made)
        menu.exec(at)

    def lamp(self) -> None:
        """Switch the chosen pass on or off."""
        one = self.desk.selected_pass
        if one is not None:
            self.desk.set_values(f"{one.label} {'off' if one.on else 'on'}", on=not one.on)

    def _strength(self, by: float) -> None:
        one = self.desk.selected_pass
        if one is not None:
            strength = min(max(one.strength + by, 0.0), 100.0)
            self.desk.set_values(f"{one.label}: strength", merge="strength", strength=strength)

    def stronger(self) -> None:
        """Strength up by 1 %."""
        self._strength(1)

    def weaker(self) -> None:
        """Strength down by 1 %."""
        self._strength(-1)

    def much_stronger(self) -> None:
        """Strength up by 10 %."""
        self._strength(10)

    def much_weaker(self) -> None:
        """Strength down by 10 %."""
        self._strength(-10)

    def next_blend(self) -> None:
        """The next blend mode, to be watched on the picture."""
        self._blend(1)

    def blend_before(self) -> None:
        """The blend mode before."""
        self._blend(-1)

    def _blend(self, by: int) -> None:
        one = self.desk.selected_pass
        if one is not None:
            mode = MODES[(MODES.index(one.blend) + by) % len(MODES)]
            self.desk.set_values(f"{one.label}: blend", merge="blend", blend=mode)
            self.foot.say(f"Blend: {mode.replace('-', ' ')}")

    def to_nothing(self) -> None:
        """Strength to 0."""
        self._strength(-100)

    def before(self) -> None:
        """Choose the tray to the left."""
        self.desk.select(self.desk.selected - 1)

    def after(self) -> None:
        """Choose the tray to the right."""
        self.desk.select(self.desk.selected + 1)

    def move_left(self) -> None:
        """Move the chosen tray to the left."""
        self.run.trays.move(self.desk.selected, self.desk.selected - 1)

    def move_right(self) -> None:
        """Move the chosen tray to the right."""
        self.run.trays.move(self.desk.selected, self.desk.selected + 1)

    def undo(self) -> None:
        """Take back."""
        self.desk.undo()

    def redo(self) -> None:
        """Do again."""
        self.desk.redo()
