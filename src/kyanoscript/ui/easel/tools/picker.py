"""Picking a colour from the picture: the next press takes it, from the photograph or, with Shift, from the print."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QPointF, Qt
from PySide6.QtGui import QPainter

from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.service.requests import Feel, FindWhite
from kyanoscript.ui.service.results import Felt, WhiteFound
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets.pens import haloed

_RADIUS = 3  # pixels of the screen: the disc that is averaged


class Picker(QObject):
    """Waits for one press."""

    def __init__(self, easel: Stage, desk: Desk, service: RenderService) -> None:
        super().__init__(easel)
        self.easel, self.desk, self.service = easel, desk, service
        self._give: Callable[[str], None] | None = None  # who is waiting for a colour
        self._give_gray: Callable[[float, float], None] | None = None  # or for the light that is to be white
        self._at = QPointF(-1e4, -1e4)
        service.answers(Felt).connect(self._take)
        service.answers(WhiteFound).connect(self._take_gray)

    @property
    def active(self) -> bool:
        """Whether a colour is wanted."""
        return self._give is not None or self._give_gray is not None

    def begin(self, give: Callable[[str], None]) -> None:
        """The next press on the picture hands its colour, #rrggbb, on."""
        self._give, self._give_gray = give, None
        self.easel.update()

    def begin_gray(self, give: Callable[[float, float], None]) -> None:
        """The next press on the picture of a raw hands on the light, temperature and tint, that makes it gray there."""
        self._give, self._give_gray = None, give
        self.easel.update()

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Ask for the colour there."""
        spot = self.easel.to_picture(at)
        if not (0 <= spot.x() < 1 and 0 <= spot.y() < 1):
            return
        script = self.desk.script
        upto = len(script.passes) if modifiers & Qt.KeyboardModifier.ShiftModifier else 0
        scale = self.easel.render_scale()
        if self._give_gray is not None:
            self.service.ask(FindWhite(script, scale, spot.x(), spot.y(), _RADIUS))
            return
        self.service.ask(Feel(script, upto, scale, spot.x(), spot.y(), _RADIUS, "pick"))

    def _take(self, found: Felt) -> None:
        give = self._give
        if found.tag == "pick" and give is not None:
            self.give_up()
            give(found.colour)

    def _take_gray(self, found: WhiteFound) -> None:
        give = self._give_gray
        if give is not None:
            self.give_up()
            give(found.kelvin, found.tint)

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        self._at = at
        self.easel.update()

    def release(self, at: QPointF) -> None:
        """The press was all."""

    def give_up(self) -> None:
        """No colour is wanted any more."""
        self._give = self._give_gray = None
        self.easel.update()

    def away(self) -> None:
        """The pointer has left the easel."""
        self._at = QPointF(-1e4, -1e4)

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape."""
        return Qt.CursorShape.CrossCursor

    def paint(self, painter: QPainter) -> None:
        """A ring round the spot."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for pen in haloed(3, 1.4, 140):
            painter.setPen(pen)
            painter.drawEllipse(self._at, _RADIUS + 4, _RADIUS + 4)
