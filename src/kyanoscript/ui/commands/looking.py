"""Looking at the print, whatever is done to it: zoom, mat, what is hidden, daylight or safelight."""

from __future__ import annotations

from PySide6.QtCore import QObject, QPointF, Qt, Signal
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QWidget

from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held
from kyanoscript.ui.widgets import theme

_NEARER = 1.25


class Looking(QObject):
    """What is done with the easel, and with the window round it."""

    rearranged = Signal()

    def __init__(self, context: Context, registry: Registry) -> None:
        super().__init__()
        self.context, self.registry = context, registry
        self.bare = False  # everything but the print is hidden
        self.look = "daylight"
        easel, foot = context.easel, context.foot
        easel.zoomed.connect(lambda: foot.show_zoom(easel.sight.whole, easel.magnification()))
        QGuiApplication.styleHints().colorSchemeChanged.connect(self._follow_desktop)
        foot.hold_original.connect(self._hold_original)
        for signal, command in (
            (foot.next_mat, commands.NEXT_MAT),
            (foot.whole, commands.WHOLE),
            (foot.actual, commands.ACTUAL),
        ):
            signal.connect(lambda command=command: registry.do(command))

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        easel = self.context.easel
        return {
            commands.WHOLE: easel.show_whole,
            commands.ACTUAL: self.actual,
            commands.NEARER: lambda: easel.set_zoom(easel.magnification() * _NEARER),
            commands.FARTHER: lambda: easel.set_zoom(easel.magnification() / _NEARER),
            commands.NEXT_MAT: self.next_mat,
            commands.INSET: self.inset,
            commands.ONLY_PRINT: self.only_print,
            commands.SAFELIGHT: self.safelight,
            commands.FULL_SCREEN: self.full_screen,
            commands.NEXT_PART: self.next_part,
            commands.HOLD_PHOTO: Held(self.hold_photo, lambda: easel.hold(None)),
            commands.HOLD_SPACE: Held(lambda: easel.hold_space(True), lambda: easel.hold_space(False)),
            commands.KEYS: self.show_keys,
            commands.ABOUT: self.about,
        }

    def _hold_original(self, down: bool) -> None:
        held = self.registry.handler(commands.HOLD_PHOTO)
        if isinstance(held, Held):
            (held.start if down else held.end)()

    def actual(self) -> None:
        """Actual pixels, at the pointer if it is on the print."""
        easel = self.context.easel
        easel.show_actual(easel.from_picture(QPointF(*easel.pointer)) if easel.pointer else None)

    def next_mat(self) -> None:
        """Another mat."""
        easel, names = self.context.easel, list(theme.MATS)
        easel.mat = names[(names.index(easel.mat) + 1) % len(names)]
        self.context.foot.say(tr("Mat: {mat}", mat=easel.mat))
        easel.update()

    def inset(self) -> None:
        """Arm's length on or off."""
        self.context.easel.inset = not self.context.easel.inset
        self.context.easel.update()

    def hold_photo(self) -> None:
        """The photograph as opened."""
        script = self.context.desk.script
        self.context.easel.hold(Script(frame=script.frame, develop=script.develop), "the photo as opened")

    def only_print(self) -> None:
        """Hide everything but the print, or show it again."""
        self.bare = not self.bare
        self.rearranged.emit()
        self.context.easel.setFocus()

    def full_screen(self) -> None:
        """The print alone on the whole screen, and back."""
        top = self.context.top.window()
        full = not top.isFullScreen()
        top.setWindowState(top.windowState() ^ Qt.WindowState.WindowFullScreen)
        if full != self.bare:
            self.only_print()

    def next_part(self) -> None:
        """Move the keyboard to the next part of the window."""
        focus, view = QApplication.focusWidget(), self.registry.view
        stops = [part for part in (view.stops() if view is not None else []) if part.isVisible()]
        if not stops:
            return
        inside = [k for k, part in enumerate(stops) if part is focus]
        beside = view.panels().right if view is not None else None
        if not inside and focus is not None and beside is not None and beside.isAncestorOf(focus):
            inside = [1]
        following = stops[(inside[0] + 1) % len(stops)] if inside else stops[0]
        following.setFocus(Qt.FocusReason.TabFocusReason)

    def use_look(self, look: str) -> None:
        """Daylight, which is as light or dark as the desktop, or safelight."""
        self.look = look
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.use(application, theme.look_for(look))

    def safelight(self) -> None:
        """The other look."""
        self.use_look("safelight" if self.look == "daylight" else "daylight")
        self._repaint()

    def _follow_desktop(self) -> None:
        """The desktop has become dark, or light."""
        self.use_look(self.look)
        self._repaint()

    def _repaint(self) -> None:
        for widget in self.context.top.findChildren(QWidget):
            widget.update()

    def about(self) -> None:
        """Versions, licences, and where the log lies."""
        from kyanoscript.ui.widgets.about import About  # not needed for a first look

        About(self.context.top).exec()

    def show_keys(self) -> None:
        """The page of keys."""
        from kyanoscript.ui.commands.page import KeysDialog  # not needed for a first look

        KeysDialog(self.context.top, self.registry.every()).exec()
