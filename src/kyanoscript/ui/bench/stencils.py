"""What is done with the stencil of the chosen pass."""

from __future__ import annotations

from PySide6.QtGui import QGuiApplication

from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.script import Script, ScriptError, dumps, loads
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.passes import Passes
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers

_FINER = 1.15  # a step of the brush's size


class Stencils:
    """Drawing, showing, copying."""

    def __init__(self, context: Context, passes: Passes) -> None:
        self.context, self._passes = context, passes
        context.easel.stencil.said.connect(context.foot.say)
        context.easel.dabs.said.connect(context.foot.say)
        for trays in (passes.run.trays, passes.run.second):
            trays.stencil.connect(self.draw)

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        return {
            commands.DRAW_STENCIL: self.draw,
            commands.NEXT_DISPLAY: self.next_display,
            commands.SMALLER_BRUSH: lambda: self.resize(1 / _FINER),
            commands.LARGER_BRUSH: lambda: self.resize(_FINER),
            commands.COPY_STENCIL: self.copy,
            commands.PASTE_STENCIL: self.paste,
        }

    def draw(self) -> None:
        """Start or stop working on the stencil of the chosen pass."""
        tool = self.context.easel.stencil
        if self.context.desk.selected_pass is None:
            self.context.foot.say("A stencil belongs to a pass; choose one first")
            return
        tool.switch(not tool.on)
        self.context.easel.setFocus()

    def next_display(self) -> None:
        """Show the stencil in another way."""
        tool = self.context.easel.stencil
        if tool.active:
            self.context.foot.say(tr("Stencil: {tool}", tool=tool.next_display()))
        else:
            self.context.foot.say("The stencil is shown while it is worked on; press M")

    def copy(self) -> None:
        """The stencil of the chosen pass onto the clipboard."""
        stencil = self.context.desk.stencil
        if stencil is None:
            self.context.foot.say("This pass has no stencil")
            return
        # As a script with one pass that does nothing but have it, so that any window and any file can take it.
        QGuiApplication.clipboard().setText(spoken(dumps(Script((Levels(stencil=stencil),)))))
        self.context.foot.say("The stencil is on the clipboard; paste it on another pass with Ctrl+Shift+V")

    def paste(self) -> None:
        """The stencil from the clipboard onto the chosen passes."""
        try:
            found = loads(QGuiApplication.clipboard().text()).settled().passes
        except ScriptError as wrong:
            self.context.foot.say(tr("Nothing to paste: {wrong}", wrong=wrong), warning=True)
            return
        stencil = next((step.stencil for step in found if isinstance(step.stencil, Stencil)), None)
        if stencil is None:
            self.context.foot.say("There is no stencil on the clipboard", warning=True)
        else:
            self._passes.change(tr("{passes}: stencil", passes=self._passes.words()), stencil=stencil)

    def resize(self, by: float) -> None:
        """A larger or smaller brush."""
        easel = self.context.easel
        tool = next((tool for tool in (easel.stencil, easel.strokes, easel.dabs) if tool.active), None)
        if tool is not None:
            tool.resize(by)
