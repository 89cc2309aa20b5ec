"""Touch: press on the picture and drag up or down; what lies there is lightened or darkened by the chosen pass.

On gray weights the hue found there moves on the ring, on curves the tone found there moves, exposure becomes more or
less. Which value it is, each pass declares (`Pass.touches`).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter, QPen

from kyanoscript.core.params.kinds import Curve, Number, Ring
from kyanoscript.core.tones import curve_at
from kyanoscript.translation import tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.service.requests import Feel
from kyanoscript.ui.service.results import Felt
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import theme

RADIUS = 6  # pixels of the screen: the disc that is looked at
_NEAR_HUE, _NEAR_TONE = 20.0, 12.0  # a handle or point this near is taken instead of making another
_DULL = 0.02  # Oklch chroma below which a spot has no hue worth the name


class TouchTool:
    """Follows the pointer while Touch is on."""

    def __init__(self, easel: Stage, desk: Desk, service: RenderService) -> None:
        self.easel, self.desk, self.service = easel, desk, service
        self.on = False
        self.found: Felt | None = None
        self._from: QPointF | None = None
        self._at: QPointF | None = None
        self._start: Any = None  # the pass as it was
        self._late = False  # the hand has let go before it was known what lies there
        service.answers(Felt).connect(self._take)

    @property
    def active(self) -> bool:
        """Whether a press on the picture is a touch."""
        step = self.desk.selected_pass
        return self.on and step is not None and bool(step.touches)

    def press(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Look at what lies there; the drag begins."""
        spot = self.easel.to_picture(at)
        if not (0 <= spot.x() < 1 and 0 <= spot.y() < 1):
            return
        step = self.desk.selected_pass
        assert step is not None
        self.found, self._from, self._at, self._start = None, at, at, step
        self.desk.begin(tr("Touch: {label}", label=step.label.lower()))
        scale = self.easel.render_scale()
        script, index = self.desk.entering()
        self.service.ask(Feel(script, index, scale, spot.x(), spot.y(), RADIUS, "touch"))

    def _take(self, found: Felt) -> None:
        if found.tag == "touch" and self._from is not None and self.found is None:
            self.found = found
            self._apply()
            if self._late:
                self.release(self._from)
            self.easel.update()

    def move(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float = 1.0) -> None:
        """Follow the pointer."""
        if self._from is not None and not self._late:
            self._at = at
            self._apply()
            self.easel.update()

    def release(self, at: QPointF) -> None:
        """Let go."""
        if self._from is not None and self.found is None:
            self._late = True  # what lies there is not known yet: the hand was quicker
        elif self._from is not None:
            self.give_up()
            self.desk.commit()

    def give_up(self) -> None:
        """The drag is over, for whatever reason."""
        self._from = self.found = None
        self._late = False
        self.easel.update()

    def away(self) -> None:
        """The pointer has left the easel."""

    def cursor(self, at: QPointF) -> Qt.CursorShape:
        """The pointer's shape."""
        return Qt.CursorShape.SizeVerCursor

    def words(self) -> str:
        """What was found, for the foot."""
        found = self.found
        if found is None:
            return ""
        hue = tr("hue {hue:.0f}°", hue=found.hue) if found.chroma >= _DULL else "no colour"
        return tr("Found there: {hue}, tone {gray:.0f}", hue=hue, gray=found.gray * 255)

    def _apply(self) -> None:
        if self.found is None or self._from is None or self._at is None:
            return
        up = (self._from.y() - self._at.y()) / 2
        step, name = self._start, self._start.touches
        spec = step.params()[name]
        if isinstance(spec, Ring):
            if self.found.chroma < _DULL:
                return  # a gray has no hue to move
            value: Any = _ring(getattr(step, name), self.found.hue, up)
        elif isinstance(spec, Curve):
            value = _curve(getattr(step, name), self.found.gray * 255, up)
        else:
            assert isinstance(spec, Number)
            value = round(spec.held(getattr(step, name) + up / 50), 2)
        self.desk.set_values("Touch", **{name: value})

    def paint(self, painter: QPainter) -> None:
        """A ring round the spot, and the way the pointer has come."""
        if self._from is None or self._at is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for pen in (QPen(theme.colour("panel"), 3), QPen(theme.colour("accent"), 1.5)):
            painter.setPen(pen)
            painter.drawEllipse(self._from, RADIUS, RADIUS)
            painter.drawLine(self._from, QPointF(self._from.x(), self._at.y()))


def _ring(handles: tuple[tuple[float, float], ...], hue: float, up: float) -> tuple[tuple[float, float], ...]:
    """The handle nearest to a hue lifted, or another one made there."""
    away = [abs((h - hue + 180) % 360 - 180) for h, _ in handles]
    k = min(range(len(handles)), key=away.__getitem__, default=-1)
    if k < 0 or (away[k] > _NEAR_HUE and len(handles) < 64):
        return (*handles, (round(hue, 1) % 360, round(min(max(up, -100.0), 100.0), 1)))
    moved = (handles[k][0], round(min(max(handles[k][1] + up, -100.0), 100.0), 1))
    return (*handles[:k], moved, *handles[k + 1 :])


def _curve(points: tuple[tuple[float, float], ...], tone: float, up: float) -> tuple[tuple[float, float], ...]:
    """The point nearest to a tone raised, or another one made there."""
    points = points or ((0.0, 0.0), (255.0, 255.0))
    k = min(range(len(points)), key=lambda k: abs(points[k][0] - tone))
    if abs(points[k][0] - tone) > _NEAR_TONE and len(points) < 32:
        level = float(curve_at(points, np.array([tone / 255]))[0]) * 255
        return tuple(sorted((*points, (round(tone), _held(level + up)))))
    return (*points[:k], (points[k][0], _held(points[k][1] + up)), *points[k + 1 :])


def _held(tone: float) -> float:
    return float(round(min(max(tone, 0.0), 255.0)))
