"""The ladder: black at the bottom, white at the top. The gray going in, how much of it there is, the colour coming out.

It looks at the selected tray: the histogram is of what enters that pass, the colours are what becomes of each gray by
the end of the run. Tones of the chosen pass are taken hold of here: see `handles`.
"""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QKeyEvent,
    QLinearGradient,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QPolygonF,
)
from PySide6.QtWidgets import QWidget

from kyanoscript.core.colour import ZONES
from kyanoscript.core.colour.zones import middle_of, zone_begins, zone_index
from kyanoscript.core.params import Stop
from kyanoscript.core.passes.base import Pass
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.bench.handles import Handle, Handles, MarkHandles, StopHandles
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Pointed, Survey
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.widgets.access import Role, Told, tell
from kyanoscript.ui.widgets.plain import hint, tip_at

_TOP, _BOTTOM = 44, 26  # room for the title and for the figures beneath
_GRAY, _BARS, _COLOUR = (32, 12), (50, 40), (96, 14)  # left edge and width of the three columns
_HIT = 7  # pixels around a handle
_TAB = 10  # pixels: width of what a mark is held by
_KEYS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Delete)


class Ladder(QWidget):
    """Shows the tones of the selected pass and holds its stops."""

    def __init__(self, desk: Desk, service: RenderService, easel: Easel) -> None:
        super().__init__()
        self.desk, self.easel = desk, easel
        self._survey: Survey | None = None
        self._spot: Pointed | None = None
        self._drag: str | None = None  # the handle that is being dragged
        self._marks: tuple[str, ...] = ()  # parameters that the slip shows and whose tones have handles here
        self._zone: int | None = None
        self._still: QPixmap | None = None
        self._drawn: tuple[Handle, ...] = ()  # the handles as last drawn
        self.setFixedWidth(132)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(spoken("Ladder of tones"))
        hint(
            self,
            "The tones of the print, white above; the handles are those of Levels",
            "Beyond its ends tones are cut off",
        )
        service.answers(Survey).connect(self._take)
        service.answers(Pointed).connect(self._take_spot)
        easel.left.connect(lambda: self._take_spot(None))
        desk.script_changed.connect(self._follow)
        for signal in (desk.selection_changed, desk.handle_changed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(132, 400)

    def _follow(self, *_: object) -> None:
        """Only the handles follow the script at once; the rest comes with the next survey."""
        if self.every() != self._drawn:
            self.update()
            tell(self)

    def told(self) -> Told:
        """For assistive technology: the chosen handle, and its tone in per cent."""
        handles, every = self.handles(), self.every()
        if handles is None or not every:
            return Told(Role.Chart, "No handles", 0.0, 0.0, 100.0, 1.0, lambda _: None)
        handle = every[min(self.desk.handle, len(every) - 1)]
        return Told(
            Role.Chart, handle.words, handle.tone * 100, 0.0, 100.0, 1.0, lambda to: handles.move(handle.key, to / 100)
        )

    def show_marks(self, names: tuple[str, ...]) -> None:
        """The slip shows other parameters: theirs are the handles."""
        if names != self._marks:
            self._marks = names
            if self._drag is not None:
                self._drag = None
                self.desk.commit()
        self.update()

    def _take(self, survey: Survey) -> None:
        old, self._survey = self._survey, survey
        same = (
            old is not None
            and old.out_ends == survey.out_ends
            and np.array_equal(old.wedge, survey.wedge)
            and np.array_equal(old.histogram, survey.histogram)
        )
        if not same:
            self._still = None
        if not same or self.every() != self._drawn:  # values taken from the picture come with the survey
            self.update()

    def changeEvent(self, event: QEvent) -> None:
        """Another look: what was drawn once is drawn again."""
        if event.type() in (QEvent.Type.PaletteChange, QEvent.Type.StyleChange):
            self.redraw()
        super().changeEvent(event)

    def redraw(self) -> None:
        """Draw everything again, in another look."""
        self._still = None
        self.update()

    def _take_spot(self, spot: Pointed | None) -> None:
        self._spot = spot
        self.update()

    # Tones and places

    def _scale(self) -> tuple[float, float]:
        return float(_TOP), float(self.height() - _BOTTOM)

    def y_of(self, tone: float) -> float:
        """Height on the widget of a tone 0…1."""
        top, bottom = self._scale()
        return bottom - tone * (bottom - top)

    def tone_at(self, y: float) -> float:
        """Tone 0…1 at a height of the widget."""
        top, bottom = self._scale()
        return min(max((bottom - y) / (bottom - top), 0.0), 1.0)

    @property
    def own_keys(self) -> frozenset[Qt.Key]:
        """Keys that are not shortcuts while the ladder has the keyboard; see Window.eventFilter."""
        handles = self.handles()
        if handles is None:
            return frozenset()
        return frozenset(key for key in _KEYS if handles.grows or key != Qt.Key.Key_Delete)

    def handles(self) -> Handles | None:
        """The handles of the chosen pass, if it has any."""
        if self.stops() is not None:
            return StopHandles(self.desk)
        marks = MarkHandles(self.desk, self._marks)
        return marks if marks.specs else None

    def every(self) -> tuple[Handle, ...]:
        """All handles that there are now."""
        found = self.handles()
        return found.every() if found is not None else ()

    def stops(self) -> tuple[Stop, ...] | None:
        """The stops of the chosen pass, if they lie on the scale of tones."""
        step = self.desk.selected_pass
        has_inks = step is not None and type(step).ink_at is not Pass.ink_at
        return getattr(step, "stops", None) if has_inks else None

    def paintEvent(self, event: QPaintEvent) -> None:
        ratio = self.devicePixelRatioF()
        if self._still is None or self._still.size() != self.size() * ratio:
            self._still = QPixmap(self.size() * ratio)
            self._still.setDevicePixelRatio(ratio)
            self._paint_still(QPainter(self._still))
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_handles(painter)
        self._paint_spot(painter)
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(self.rect().adjusted(1, 1, -1, -1))
        painter.end()

    def _paint_still(self, painter: QPainter) -> None:
        """All that changes only with a survey: drawn once, since a drag repaints the handles many times a second."""
        painter.fillRect(self.rect(), theme.colour("panel"))
        painter.setFont(theme.serif(18))
        painter.setPen(theme.colour("text"))
        painter.drawText(QRectF(16, 6, 110, 30), Qt.AlignmentFlag.AlignVCenter, spoken("Ladder"))
        self._paint_zones(painter)
        self._paint_bars(painter)
        self._paint_colours(painter)
        painter.end()

    def _paint_zones(self, painter: QPainter) -> None:
        top, bottom = self._scale()
        gray = QLinearGradient(0, bottom, 0, top)
        gray.setColorAt(0, QColor(0, 0, 0))
        gray.setColorAt(1, QColor(255, 255, 255))
        painter.fillRect(QRectF(_GRAY[0], top, _GRAY[1], bottom - top), gray)
        painter.setFont(theme.sans(11))
        least = painter.fontMetrics().height() * 0.8
        written = bottom + least  # where the last name is
        for k, name in enumerate(ZONES):
            y = bottom - zone_begins(k) * (bottom - top)
            middle = bottom - middle_of(k) * (bottom - top)
            if written - middle >= least:  # in the deepest darks zones are narrower than their names
                written = middle
                painter.setPen(theme.colour("quiet"))
                box = QRectF(0, middle - 10, 27, 20)
                painter.drawText(box, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, spoken(name))
            if k:
                painter.fillRect(QRectF(_GRAY[0], y, _GRAY[1], 1), theme.colour("panel"))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawRect(QRectF(_GRAY[0] - 0.5, top - 0.5, _GRAY[1] + 1, bottom - top + 1))

    def _paint_bars(self, painter: QPainter) -> None:
        if self._survey is None:
            return
        counts = self._survey.histogram.astype(float)
        # The very ends often hold a spike that would flatten everything else.
        most = max(1.0, float(np.percentile(counts, 99.5)), float(counts[1:255].max()))
        top, bottom = self._scale()
        height = (bottom - top) / 64
        shares = np.minimum(counts.reshape(64, 4).mean(1) / most, 1) ** 0.6
        bars = [
            QRectF(_BARS[0], bottom - (k + 1) * height, max(1.0, share * _BARS[1]), max(1.0, height - 1))
            for k, share in enumerate(shares.tolist())
            if share > 0
        ]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor("#8E8E8E"))
        painter.drawRects(bars)
        black, white = self._survey.out_ends
        clipped = max(black, white) >= 0.0005
        painter.setFont(theme.sans(10.5))
        painter.setPen(theme.colour("warning" if max(black, white) > 0.02 else "quiet"))
        text = (
            tr("clips {black:.1%} · {white:.1%}", black=black, white=white).replace("%", " %")
            if clipped
            else "no clipping"
        )
        painter.drawText(QRectF(4, bottom + 4, 126, 18), Qt.AlignmentFlag.AlignCenter, spoken(text))

    def _paint_colours(self, painter: QPainter) -> None:
        if self._survey is None:
            return
        top, bottom = self._scale()
        image = display.colours(self._survey.wedge[::-1].T.reshape(3, 256, 1) / 255)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(QRectF(_COLOUR[0], top, _COLOUR[1], bottom - top), image)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(_COLOUR[0] - 0.5, top - 0.5, _COLOUR[1] + 1, bottom - top + 1))

    def _paint_handles(self, painter: QPainter) -> None:
        self._drawn = self.every()
        stops = self.stops() is not None
        if not stops:
            self._paint_beyond(painter)
        for k, handle in enumerate(self._drawn):
            y, chosen = self.y_of(handle.tone), k == self.desk.handle
            painter.setPen(QPen(theme.colour("accent"), 2.2 if chosen else 1.2))
            painter.setBrush(display.ink(handle.ink))
            x = _COLOUR[0] + _COLOUR[1] + 2
            if stops:
                painter.drawPolygon(QPolygonF([QPointF(x, y), QPointF(x + 12, y - 6), QPointF(x + 12, y + 6)]))
                continue
            # A line across what it is set on, with a tab to hold it by.
            left, right = (_GRAY[0], _BARS[0] + _BARS[1]) if handle.coming_in else (_COLOUR[0], x)
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            at = _BARS[0] + _BARS[1] - _TAB if handle.coming_in else x
            painter.drawRect(QRectF(at, min(max(y - 4, _TOP - 4), self.height() - _BOTTOM - 4), _TAB, 8))

    def _paint_beyond(self, painter: QPainter) -> None:
        """What comes in below the black mark or above the white one is pale: it becomes one tone."""
        edges = [handle.tone for handle in self._drawn if handle.coming_in]
        if len(edges) < 2:
            return
        veil = QColor(theme.colour("panel"))
        veil.setAlpha(170)
        top, bottom = self._scale()
        for y0, y1 in ((self.y_of(min(edges)), bottom), (top, self.y_of(max(edges)))):
            painter.fillRect(QRectF(_BARS[0], y0, _BARS[1], max(0.0, y1 - y0)), veil)

    def _paint_spot(self, painter: QPainter) -> None:
        if self._spot is None:
            return
        y = self.y_of(self._spot.entering)
        painter.setPen(QPen(theme.colour("accent"), 1.5))
        painter.drawLine(QPointF(_GRAY[0] - 3, y), QPointF(_COLOUR[0] + _COLOUR[1] + 2, y))

    # Handles and zones

    def _under(self, at: QPointF) -> str | None:
        """The handle under a point; of several on one spot the one that can still move."""
        near = []
        for k, handle in enumerate(self.every()):
            low, high = (_GRAY[0] + _GRAY[1] - 6, _BARS[0] + _BARS[1] + 2) if handle.coming_in else (_COLOUR[0], 132)
            if self.stops() is not None:
                low = _COLOUR[0] + _COLOUR[1]
            away = abs(self.y_of(handle.tone) - at.y())
            if low <= at.x() <= high and away <= _HIT:
                near.append((away, k, handle.key))
        if not near:
            return None
        best = [key for away, _, key in near if away <= min(near)[0] + 0.5]
        # Two marks on white: the first of them could go down, so take that; on black the last could go up.
        return best[0] if at.y() < self.y_of(0.5) else best[-1]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at, handles = event.position(), self.handles()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        found = self._under(at)
        if found is not None and handles is not None:
            self._choose(found)
            self.desk.begin(handles.label(found))
            self._drag = found
        elif isinstance(handles, StopHandles) and at.x() >= _COLOUR[0]:
            handles.add(self.tone_at(at.y()))
        elif at.x() < _GRAY[0] + _GRAY[1]:
            self._zone = zone_index(self.tone_at(at.y()))
            self.easel.hold_zone(self._zone)
            self.update()

    def _choose(self, key: str) -> None:
        self.desk.choose_handle(next((k for k, handle in enumerate(self.every()) if handle.key == key), 0))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        handles, at = self.handles(), event.position()
        if self._drag is not None:
            if handles is not None and self.desk.dragging:
                handles.move(self._drag, self.tone_at(at.y()))
            return
        over = self._under(at)
        self.setCursor(Qt.CursorShape.SizeVerCursor if over is not None else Qt.CursorShape.ArrowCursor)
        if over is not None:
            words = next(handle.words for handle in self.every() if handle.key == over)
            tip_at(event.globalPosition().toPoint(), words, self)
        elif at.x() < _GRAY[0] + _GRAY[1]:
            zone = ZONES[zone_index(self.tone_at(at.y()))]
            tip_at(event.globalPosition().toPoint(), tr("Hold to see where zone {zone} is", zone=zone), self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._drag = None
            self.desk.commit()
        if self._zone is not None:
            self._zone = None
            self.easel.hold_zone(None)
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found, handles = self._under(event.position()), self.handles()
        if found is not None and isinstance(handles, StopHandles):
            self.desk.abort()
            self._drag = None
            handles.remove(found)
        elif found is not None and handles is not None:  # put back
            self.desk.abort()
            self._drag = None
            step = self.desk.selected_pass
            if step is not None:
                value = type(step).model_fields[found].default
                self.desk.set_values(tr("{found} put back", found=handles.label(found)), **{found: value})
        else:
            self.mousePressEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down move the chosen handle, left and right choose another; Insert adds a stop, Delete removes it."""
        handles, every = self.handles(), self.every()
        if handles is None or not every:
            super().keyPressEvent(event)
            return
        chosen = min(self.desk.handle, len(every) - 1)
        handle = every[chosen]
        step = 0.01 if isinstance(handles, StopHandles) else 1 / 255
        step *= 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        match event.key():
            case Qt.Key.Key_Escape if self._drag is not None:
                self._drag = None
                self.desk.abort()
            case Qt.Key.Key_Up:
                handles.move(handle.key, min(1.0, handle.tone + step))
            case Qt.Key.Key_Down:
                handles.move(handle.key, max(0.0, handle.tone - step))
            case Qt.Key.Key_Left:
                self.desk.choose_handle(max(0, chosen - 1))
            case Qt.Key.Key_Right:
                self.desk.choose_handle(min(len(every) - 1, chosen + 1))
            case Qt.Key.Key_Insert if isinstance(handles, StopHandles):
                handles.add(min(1.0, handle.tone + 0.1))
            case Qt.Key.Key_Delete if isinstance(handles, StopHandles):
                handles.remove(handle.key)
            case _:
                super().keyPressEvent(event)
