"""Where the print lies on the easel: zoom, the place in the middle, and the way between the two."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtWidgets import QWidget

from kyanoscript.core.picture import Rect
from kyanoscript.ui.easel.glimpse import MARGIN

MOST = 16.0  # screen pixels to one of the photograph's


def laid(place: QRectF, size: tuple[int, int], rect: Rect) -> QRectF:
    """Where a part of a print, of ``size`` pixels as rendered, lies while the whole of it lies at ``place``."""
    across, down = place.width() / size[0], place.height() / size[1]
    return QRectF(place.x() + rect.x * across, place.y() + rect.y * down, rect.width * across, rect.height * down)


class Sight:
    """How one looks at a print of a size, through a pane of a widget.

    ``size`` tells its width and height in pixels at a scale, (0, 0) if there is none; ``pane`` the part of the widget.
    """

    def __init__(
        self,
        widget: QWidget,
        size: Callable[[float], tuple[int, int]],
        pane: Callable[[], QRectF],
        margin: float = MARGIN,
    ) -> None:
        self._widget, self._size, self._pane, self._margin = widget, size, pane, margin
        self.whole = True  # fitted to the pane
        self.zoom = 1.0  # screen pixels to one of the photograph's, when not whole
        self.centre = QPointF(0.5, 0.5)  # the place of the picture in the middle

    @property
    def ratio(self) -> float:
        """Pixels of the device to a point of the widget."""
        return self._widget.devicePixelRatioF()

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        width, height = self._size(1.0)
        if not self.whole or not width:
            return self.zoom
        pane = self._pane()
        wide = max(32.0, (pane.width() - 2 * self._margin) * self.ratio)
        high = max(32.0, (pane.height() - 2 * self._margin) * self.ratio)
        return min(wide / width, high / height, MOST)

    def render_scale(self) -> float:
        """Scale at which the print is rendered: never above the photograph's own pixels."""
        return min(1.0, self.magnification())

    def place(self) -> QRectF:
        """The whole print on the widget, in pixels of the screen (those of the device)."""
        if not self._size(1.0)[0]:
            return QRectF()
        if self.magnification() <= 1:
            width, height = (float(v) for v in self._size(self.render_scale()))
        else:
            width, height = (v * self.magnification() for v in self._size(1.0))
        centre = QPointF(0.5, 0.5) if self.whole else self.centre
        middle = self._pane().center() * self.ratio
        x, y = middle.x() - centre.x() * width, middle.y() - centre.y() * height
        return QRectF(round(x), round(y), width, height)

    def to_picture(self, at: QPointF) -> QPointF:
        """Place in the picture, 0…1 (outside when off the print), of a point of the widget."""
        place, ratio = self.place(), self.ratio
        if place.isEmpty():
            return QPointF(-1, -1)
        return QPointF((at.x() * ratio - place.x()) / place.width(), (at.y() * ratio - place.y()) / place.height())

    def from_picture(self, at: QPointF) -> QPointF:
        """Point of the widget of a place in the picture, 0…1."""
        place, ratio = self.place(), self.ratio
        return QPointF((place.x() + at.x() * place.width()) / ratio, (place.y() + at.y() * place.height()) / ratio)

    def seen(self) -> Rect | None:
        """The part of the print that is in the pane, in pixels of the print as rendered; empty if it is elsewhere."""
        scale = self.render_scale()
        size = self._size(scale)
        place, ratio, pane = self.place(), self.ratio, self._pane()
        each = place.width() / size[0]  # screen pixels to one rendered pixel
        lies = QRectF(pane.x() * ratio, pane.y() * ratio, pane.width() * ratio, pane.height() * ratio)
        visible = lies.intersected(place)
        if visible.isEmpty():
            return None
        x0, y0 = math.floor((visible.left() - place.x()) / each), math.floor((visible.top() - place.y()) / each)
        x1, y1 = math.ceil((visible.right() - place.x()) / each), math.ceil((visible.bottom() - place.y()) / each)
        return Rect(x0, y0, x1 - x0, y1 - y0).clipped(*size)

    # Zooming and moving

    def fit(self) -> None:
        """All of the print."""
        self.whole = True
        self.centre = QPointF(0.5, 0.5)

    def zoom_to(self, zoom: float, at: QPointF) -> None:
        """Another magnification; the place under a point of the widget stays where it is."""
        spot = self.to_picture(at)
        self.whole = False
        least = min(0.02, 64 / max(self._size(1.0)))
        self.zoom = min(max(zoom, least), MOST)
        shift = (at - self._pane().center()) * self.ratio
        size = self.place().size()
        self._centre_on(QPointF(spot.x() - shift.x() / size.width(), spot.y() - shift.y() / size.height()))

    def move_by(self, way: QPointF) -> None:
        """The print follows the hand by so many points of the widget."""
        if self.whole:
            self.zoom, self.whole = self.magnification(), False
        by, size = way * self.ratio, self.place().size()
        self._centre_on(self.centre - QPointF(by.x() / size.width(), by.y() / size.height()))

    def _centre_on(self, centre: QPointF) -> None:
        """A part of the print always stays in sight."""
        self.centre = QPointF(min(max(centre.x(), 0.0), 1.0), min(max(centre.y(), 0.0), 1.0))
