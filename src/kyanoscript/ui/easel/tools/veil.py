"""A stencil shown over the print: tinted, or in black and white."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter, qRgba

from kyanoscript.core.picture import Rect
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.stage import Stage
from kyanoscript.ui.service.requests import Cut, Mask
from kyanoscript.ui.service.service import RenderService

DISPLAYS = ("tint", "black and white", "not shown")
_TINT = (0xE2, 0x5B, 0x2C, 120)  # of where the pass acts


class Veil:
    """Asks for the mask of the chosen pass while its stencil is worked on, and paints it."""

    def __init__(self, easel: Stage, desk: Desk, service: RenderService, wanted: Callable[[], bool]) -> None:
        self._easel, self._desk, self._service, self._wanted = easel, desk, service, wanted
        self.display = DISPLAYS[0]
        self._mask: Mask | None = None
        self._image = QImage()
        self._asked: Cut | None = None
        service.answers(Mask).connect(self._take)

    def drop(self) -> None:
        """What was shown is of another stencil."""
        self._mask = None

    def show_as(self, display: str) -> None:
        """Tint, black and white, or not at all."""
        self.display = display
        self._draw()

    def refresh(self, active: bool) -> None:
        """Ask for the stencil as it is now, for the part of the print that is on the easel."""
        if not active or self.display == "not shown" or self._desk.stencil is None:
            if self._mask is not None:
                self._mask = None
                self._easel.update()
            return
        seen = self._easel.seen()
        if seen is not None:
            script, index = self._desk.entering()
            # The part of the print that is seen was worked out for what is shown, which may have a frame of its own.
            script = replace(script, frame=self._easel.shown().frame)
            cut = Cut(script, index, *seen, drawing=self._desk.dragging)
            if replace(cut, drawing=False) != self._asked or self._mask is None:
                self._asked = replace(cut, drawing=False)
                self._service.ask(cut)

    def _take(self, mask: Mask) -> None:
        if not self._wanted():
            return
        fresh = self._mask is None or mask.changed is None
        self._mask = mask
        self._draw()
        if fresh or mask.changed is None:
            self._easel.update()
            return
        part = mask.changed
        box = Rect(mask.cut.rect.x + part.x, mask.cut.rect.y + part.y, part.width, part.height)
        ratio = self._easel.devicePixelRatioF()
        lies = self._on_easel(box, mask.cut.scale)
        dirty = QRectF(lies.topLeft() / ratio, lies.size() / ratio).toAlignedRect()
        self._easel.update(dirty.adjusted(-1, -1, 1, 1))

    def _draw(self) -> None:
        """The mask as a picture: its tones stand for tint, or for grays."""
        if self._mask is None:
            return
        values = np.ascontiguousarray(self._mask.values)
        height, width = values.shape
        image = QImage(values.data, width, height, width, QImage.Format.Format_Indexed8)
        if self.display == "tint":
            r, g, b, most = _TINT
            table = [qRgba(r, g, b, most * k // 255) for k in range(256)]
        else:
            table = [qRgba(k, k, k, 255) for k in range(256)]
        image.setColorTable(table)
        self._image = image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)

    def paint(self, painter: QPainter) -> None:
        """Over the print; the painter counts pixels of the device."""
        mask = self._mask
        if mask is not None and self.display != "not shown":
            painter.drawImage(self._on_easel(mask.cut.rect, mask.cut.scale), self._image)

    def _on_easel(self, rect: Rect, scale: float) -> QRectF:
        """A part of the print at a scale, in pixels of the screen."""
        place = self._easel.place()
        width, height = self._desk.print_size(scale)
        across, down = place.width() / width, place.height() / height
        return QRectF(place.x() + rect.x * across, place.y() + rect.y * down, rect.width * across, rect.height * down)
