"""What the window asks for by itself: surveys when something has changed, and the values under the pointer."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, QTimer

from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.service.requests import LookOver, Point
from kyanoscript.ui.service.results import Pointed, Wanted, Within
from kyanoscript.ui.service.views import Shown


def wanted(context: Context, tray: tuple[int, int] = (1, 1)) -> Wanted:
    """What is chosen on the desk, and the second row of the run if there is one."""
    desk = context.desk
    selected = desk.path[0] if desk.path else desk.selected
    if not desk.opened:
        return Wanted(desk.script, selected, tray)
    script, first = desk.script.unrolled(desk.opened)
    inside = desk.opened == desk.path
    at = first + desk.selected if inside else (first if desk.path else -1)
    return Wanted(desk.script, selected, tray, Within(script, first, at))


class Watching(QObject):
    """Follows desk and pointer."""

    def __init__(self, context: Context, registry: Registry, tray: tuple[int, int]) -> None:
        super().__init__()
        self.context, self.registry = context, registry
        self._tray = tray  # pixels of the screen that a tray's picture takes
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._look_over)
        desk, easel, service = context.desk, context.easel, context.service
        for signal in (desk.script_changed, desk.selection_changed, desk.photo_changed):
            signal.connect(lambda *_: self._soon.start())
        easel.pointed.connect(self._point)
        easel.left.connect(self._left)
        service.answers(Pointed).connect(self._told)
        service.answers(Shown).connect(lambda _: self._ask())

    def _look_over(self) -> None:
        if self.context.desk.photo is not None:
            ratio = self.context.top.devicePixelRatioF()
            width, height = (round(side * ratio) for side in self._tray)
            found = replace(wanted(self.context, (width, height)), rested=not self.context.desk.dragging)
            self.context.service.ask(LookOver(found))

    def _point(self, x: float, y: float) -> None:
        self.context.easel.pointer = (x, y)
        self._ask()

    def _left(self) -> None:
        self.context.easel.pointer = None
        self.context.foot.show_spot(None)

    def _ask(self) -> None:
        easel, view = self.context.easel, self.registry.view
        if easel.pointer is not None and self.context.desk.photo is not None and view is not None:
            found = view.wanted()
            if found is not None:
                self.context.service.ask(Point(found, easel.render_scale(), *easel.pointer))

    def _told(self, found: Pointed) -> None:
        if self.context.easel.pointer is not None:
            self.context.foot.show_spot(found)
