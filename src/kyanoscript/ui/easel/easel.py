"""The easel: the print on its mat, to be zoomed and moved, with the whole print small at arm's length.

Longer than most: it is one widget, and every event of it comes in here. Where the print lies (`sight`), another beside
it (`comparison`), the small print (`inset`) and words over it (`notices`) are parts of their own.
"""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QMouseEvent,
    QNativeGestureEvent,
    QPainter,
    QPaintEvent,
    QPointingDevice,
    QResizeEvent,
    QTabletEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QApplication, QGestureEvent, QPinchGesture

from kyanoscript.core.colour import ZONES
from kyanoscript.core.geometry import framing
from kyanoscript.core.picture import Rect
from kyanoscript.core.script import Script
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.document.desk import Desk, without_chosen
from kyanoscript.ui.easel.comparison import COMPARE, Comparison
from kyanoscript.ui.easel.glimpse import paint_glimpse
from kyanoscript.ui.easel.inset import Inset
from kyanoscript.ui.easel.notices import paint_caption, paint_empty, paint_preparing
from kyanoscript.ui.easel.sight import Sight
from kyanoscript.ui.easel.stage import Stage, Tool
from kyanoscript.ui.easel.tools.dab import DabTool
from kyanoscript.ui.easel.tools.frame import FrameTool
from kyanoscript.ui.easel.tools.picker import Picker
from kyanoscript.ui.easel.tools.stencil import StencilTool
from kyanoscript.ui.easel.tools.stroke import PlacedTool, StrokeTool
from kyanoscript.ui.easel.tools.touch import TouchTool
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import Ready
from kyanoscript.ui.service.results import Survey
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.service.views import Look, LookBeside, Sharp, Shown
from kyanoscript.ui.widgets import theme

_OWN = tuple(kind.__name__ for kind in (Look, Sharp, LookBeside))  # slots of what lies on it
_WHEEL = 1.25


class Easel(Stage):
    """Shows the print of the desk's script, or another script while a key is held."""

    pointed = Signal(float, float)  # the pointer is over this place of the picture, 0…1
    left = Signal()
    zoomed = Signal()
    taken_out = Signal()  # the print is dragged, where no tool has the hand
    painted = Signal(object)  # what has just come onto the screen

    def __init__(self, desk: Desk, service: RenderService) -> None:
        super().__init__()
        self.desk, self.service = desk, service
        self.comparison = Comparison(self)
        self.sight = Sight(self, self._size, self.pane)
        self.mat = "mid gray"
        self.inset = True
        self.pointer: tuple[float, float] | None = None  # the place of the picture under it, 0…1
        self.marks = True  # whether handles, stencil, guides and the print at arm's length are shown
        self.frame_tool = FrameTool(self, desk)
        self.touch = TouchTool(self, desk, service)
        self.stencil = StencilTool(self, desk, service)
        self.strokes = StrokeTool(self, desk)
        self.dabs = DabTool(self, desk, service)
        self.placed = PlacedTool(self, desk)
        self.picker = Picker(self, desk, service)
        self._seen: tuple[Rect, float] | None = None
        self._dividing = False
        self._pen = False  # the pointer is a pen, which tells its pressure
        self.held: Script | None = None
        self._proof: Proof | None = None  # the paper that the print is shown as if on
        self._stand_in: Script | None = None
        self._stand_in_words = ""
        self._stand_in_small = QImage()
        self._quick: int | None = None
        self._caption = ""
        self._zone: int | None = None
        self._where = QImage()  # places that are shown on the print
        self.frame: Shown | None = None
        self.in_colour = True  # the photograph is, as far as is known
        self.image = QImage()
        self._backdrop = QImage()
        self._arms_length = Inset(self, lambda: self.frame_tool.grips() if self.tool is self.frame_tool else [])
        self._grip: QPointF | None = None
        self._taken: QPointF | None = None  # where the print was taken hold of, to be dragged out
        self._space = False
        self._framing = False
        self.preparing: float | None = None  # how far the program is made ready for this machine, while it is not
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.grabGesture(Qt.GestureType.PinchGesture)
        self.setMinimumSize(240, 160)
        self.setAccessibleName(spoken("Easel"))
        self.setAccessibleDescription(spoken("The print. Wheel zooms, Space and drag moves, double-press changes size"))
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        service.answers(Shown).connect(self._take)
        service.answers(Survey).connect(self._survey)
        service.preparing.connect(self._prepare)
        desk.script_changed.connect(self.refresh)
        desk.kept.changed.connect(self.refresh)
        desk.photo_changed.connect(self._new_photo)
        desk.selection_changed.connect(self._other_tray)
        self.setTabletTracking(True)

    # Where the picture lies

    @property
    def tool(self) -> Tool | None:
        """What a press on the picture is for, if it is for anything."""
        if self._stand_in is not None:
            return None
        every: tuple[Tool, ...] = (
            self.picker, self.frame_tool, self.stencil, self.strokes, self.dabs, self.touch, self.placed
        )  # fmt: skip
        return next((tool for tool in every if tool.active), None)

    @property
    def framing(self) -> bool:
        """Whether the frame is worked on, with everything beyond it in sight."""
        return self.frame_tool.active and self._stand_in is None

    @property
    def comparing(self) -> str:
        """How the print is compared at this moment."""
        alone = self.framing or self._stand_in is not None or self.desk.photo is None
        return COMPARE[0] if alone else self.comparison.how

    def pane(self) -> QRectF:
        """The part of the easel where the print is: all of it, or the right half."""
        return self.comparison.pane(self.comparing)

    def lane(self, at: QPointF) -> QPointF:
        """A point of the easel, or the one over the same place of the print if it is on the other picture."""
        pane = self.pane()
        return at if pane.contains(at) or pane.left() == 0 else at + QPointF(pane.left(), 0)

    def seen(self) -> tuple[Rect, float] | None:
        """Which part of the print is on the easel, and at what scale."""
        return self._seen

    def magnification(self) -> float:
        """Screen pixels to one of the photograph's."""
        return self.sight.magnification()

    def shown(self) -> Script:
        """What is on the easel: the print, another script while it is held, everything while the frame is worked on."""
        script = self.held or self._stand_in or self.desk.script
        return self.frame_tool.shown(script) if self.framing else script

    def _size(self, scale: float = 1.0) -> tuple[int, int]:
        """Width and height in pixels of what is shown, at a scale."""
        photo = self.desk.photo
        return framing(self.shown().frame, photo.width, photo.height).size(scale) if photo is not None else (0, 0)

    def render_scale(self) -> float:
        """Scale at which the print is rendered: never above the photograph's own pixels."""
        return self.sight.render_scale()

    def place(self) -> QRectF:
        """The whole print on the easel, in pixels of the screen (those of the device)."""
        return self.sight.place()

    def to_picture(self, at: QPointF) -> QPointF:
        """Place in the picture, 0…1 (outside when off the print), of a point of the widget."""
        return self.sight.to_picture(at)

    def from_picture(self, at: QPointF) -> QPointF:
        """Point of the widget of a place in the picture, 0…1."""
        return self.sight.from_picture(at)

    # What is shown

    def hold(self, script: Script | None, caption: str = "") -> None:
        """Show another script's print until called with None."""
        if script != self.held:
            self.held, self._caption = script, caption
            self.refresh()

    def hold_proof(self, proof: Proof | None, caption: str = "") -> None:
        """Show the print as this paper will have it, whatever is done to it, until called with None."""
        self._proof, self._caption = proof, caption
        self.refresh()

    def stand_in(
        self, script: Script | None, caption: str = "", small: QImage | None = None, quick: int | None = None
    ) -> None:
        """Show another script's print to be looked at only, with no tools, until called with None.

        ``small`` fills the place until it comes; ``quick``: the pass that is changing, in a drag.
        """
        self._stand_in_words, self._stand_in_small, self._quick = caption, small or QImage(), quick
        if script != self._stand_in:
            self._stand_in = script
            self.refresh()

    def hold_zone(self, zone: int | None) -> None:
        """Show which parts enter the chosen pass in a zone, until called with None."""
        self._zone = zone
        self._caption = "" if zone is None else tr("zone {zones}", zones=ZONES[zone])
        self.refresh()

    def show_where(self, veil: QImage) -> None:
        """Lay a small picture over the whole print, to show places on it; an empty one: nothing."""
        if not (veil.isNull() and self._where.isNull()):
            self._where = veil
            self.update()

    def refresh(self, *_: object) -> None:
        """Ask for what should be on the easel now."""
        photo = self.desk.photo
        if photo is None or self.width() < 2 or not self.isVisible():
            return
        scale, rect = self.render_scale(), self.sight.seen()
        if rect is None:
            self.update()
            return
        if rect.width < 1 or rect.height < 1:
            return
        self._seen = rect, scale
        screen = replace(display.screen(), proof=self._proof)
        self.stencil.refresh()
        if self._zone is not None:
            script, index = self.desk.entering()
            framed = replace(script, frame=self.shown().frame)  # what the rectangle was worked out for
            self.service.ask(Look(framed, rect, scale, max(0, index), self._zone, screen=screen))
            return
        keep = max(0, (*self.desk.path, self.desk.selected)[0]) if self.desk.dragging else self._quick
        self.service.ask(Look(self.shown(), rect, scale, keep=keep, screen=screen))
        other = self.other()
        if other is not None:
            asked = LookBeside(other, rect, scale, screen=screen)
            if self.comparison.beside is None or self.comparison.beside.look != asked:
                self.service.ask(asked)

    def make_ready(self) -> None:
        """Have what enters the chosen pass worked out as large as it is seen, so that a hand can begin at once."""
        chosen = (*self.desk.path, self.desk.selected)[0]
        if self._seen is not None and chosen > 0 and self._zone is None and not self.desk.dragging:
            self.service.ask(Ready(self.shown(), *self._seen, chosen))

    def other(self) -> Script | None:
        """The script whose print stands beside, if one does."""
        if self.comparing == COMPARE[0]:
            return None
        frame = self.shown().frame  # which need not be the desk's: another script may be held
        state = self.desk.kept.find(against) if isinstance(against := self.comparison.against, int) else None
        if state is not None:
            return replace(state.script, frame=frame, origin=0)
        if against != "without" or self.desk.selected_pass is None:
            return Script(frame=frame, develop=self.desk.script.develop)
        return replace(self.desk.script.with_run(self.desk.path, without_chosen(self.desk)), frame=frame)

    def compared_with(self) -> str:
        """What stands beside, in words."""
        against, step = self.comparison.against, self.desk.selected_pass
        state = self.desk.kept.find(against) if isinstance(against, int) else None
        if state is not None:
            return tr("state {title}", title=state.title)
        return "the photo" if against != "without" or step is None else tr("without {title}", title=step.title)

    def set_compare(self, how: str) -> None:
        """Whole, split or side by side."""
        self.comparison.how = how
        self.frame = None if how == "side by side" else self.frame
        self.comparison.beside = None
        self._moved()

    def _new_photo(self) -> None:
        self.frame = self.comparison.beside = None
        self._backdrop = QImage()
        self.in_colour = True
        self.show_whole()

    def _other_tray(self) -> None:
        """Coming to the frame, or leaving it, something else is on the easel."""
        self.dabs.reset()
        if self.frame_tool.active != self._framing:
            self._framing = self.frame_tool.active
            self.setCursor(Qt.CursorShape.ArrowCursor)
            self.frame = None
            self.show_whole()
        elif self.other() is not None:
            self.refresh()
        self.update()

    def _prepare(self, share: float) -> None:
        self.preparing = share if share < 1 else None
        self.update()

    def _take(self, frame: Shown) -> None:
        if isinstance(frame.look, LookBeside):
            self.comparison.take(frame)
            self.update()
            return
        current = self.shown() == frame.look.script or self.desk.dragging or self._quick is not None
        if frame.coarse and not current:
            return
        self.frame = frame
        self.image = display.view(frame.pixels)
        self.update()

    @property
    def complete(self) -> bool:
        """Whether all that is in sight of the print lies on the easel, as its script is now and at its full scale."""
        frame, seen = self.frame, self.sight.seen() if self.desk.photo is not None else None
        if frame is None or seen is None or frame.coarse or frame.look.script != self.shown():
            return False
        return frame.scale == self.render_scale() and frame.rect.holds(seen)

    def show_glimpse(self, image: QImage) -> None:
        """A small picture of the print that is being opened; an empty one if nothing is, after all."""
        self._backdrop = image
        self.update()

    def _survey(self, survey: Survey) -> None:
        self.aspect = survey.aspect
        self.in_colour = not survey.without_colour
        self._backdrop = display.image(survey.print)
        self._arms_length.take(self._backdrop)
        if self.inset:
            self._arms_length.repaint()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), QColor(theme.MATS[self.mat]))
        place, ratio = self.place(), self.devicePixelRatioF()
        if self.preparing is not None:
            paint_preparing(painter, QRectF(self.rect()), self.mat, self.preparing)
            return
        if self.desk.photo is None:
            if self._backdrop.isNull():
                paint_empty(painter, QRectF(self.rect()), self.mat)
            paint_glimpse(painter, QRectF(self.rect()), self._backdrop)
            return
        painter.save()
        painter.scale(1 / ratio, 1 / ratio)
        frame = self.frame
        if self.comparing == "side by side":
            pane = self.pane()
            painter.setClipRect(QRectF(pane.x() * ratio, 0, pane.width() * ratio, pane.height() * ratio))
        # With no frame for this size yet, the small print stands in, so that the easel is never empty.
        seen = self.sight.seen()
        covered = frame is not None and frame.scale == self.render_scale() and (not seen or frame.rect.holds(seen))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.magnification() < 2)
        backdrop = self._backdrop if self._stand_in is None else self._stand_in_small
        if not covered and not backdrop.isNull() and not self.framing:
            painter.drawImage(place, backdrop)
        if frame is not None:
            self._paint_frame(painter, frame, self.image, place)
        if not self._where.isNull() and self._stand_in is None:
            painter.drawImage(place, self._where)
        if self.marks and self._stand_in is None and self.stencil.active:
            self.stencil.veil.paint(painter)
        beside = self.comparison.beside
        if beside is not None and self.other() is not None:
            self._paint_beside(painter, beside, place)
        painter.restore()
        caption = self._caption or self._stand_in_words
        if caption:
            paint_caption(painter, caption)
        if self.comparing != COMPARE[0]:
            self.comparison.paint(painter, self.comparing, self.compared_with())
        tool = self.tool
        if tool is not None and self.marks:
            painter.save()
            if self.comparing == "side by side":
                painter.setClipRect(self.pane())
            tool.paint(painter)
            painter.restore()
        small = self.inset and self.marks and self.comparing != "side by side" and self._stand_in is None
        if small and not self._backdrop.isNull():
            self._arms_length.paint(painter)
        self.paint_focus(painter)
        painter.end()
        if frame is not None:
            self.painted.emit(frame)

    def _paint_frame(self, painter: QPainter, frame: Shown, image: QImage, place: QRectF) -> None:
        size = self._size(frame.scale)
        fx, fy = place.width() / size[0], place.height() / size[1]
        x, y = place.x() + frame.rect.x * fx, place.y() + frame.rect.y * fy
        if fx == 1 and fy == 1:
            painter.drawImage(QPoint(round(x), round(y)), image)
        else:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, fx < 2 or frame.coarse)
            painter.drawImage(QRectF(x, y, frame.rect.width * fx, frame.rect.height * fy), image)

    def _paint_beside(self, painter: QPainter, frame: Shown, place: QRectF) -> None:
        """The picture that the print is compared with: left of the split, or on the left half."""
        edge = self.comparison.edge(self.comparing) * self.devicePixelRatioF()
        painter.setClipRect(QRectF(0, 0, edge, self.height() * self.devicePixelRatioF()))
        shift = 0.0 if self.comparing == "split" else -edge
        self._paint_frame(painter, frame, self.comparison.image, place.translated(shift, 0))

    # Zooming and moving

    def show_whole(self) -> None:
        """Fit the whole print on the easel."""
        self.sight.fit()
        self._moved()

    def show_actual(self, at: QPointF | None = None) -> None:
        """One pixel of the photograph to one of the screen; the place ``at`` (widget) stays under the pointer."""
        self.set_zoom(1.0, at)

    def set_zoom(self, zoom: float, at: QPointF | None = None) -> None:
        """Zoom to a magnification, keeping the place under a point of the widget where it is."""
        if self.desk.photo is None:
            return
        self.sight.zoom_to(zoom, at or self.pane().center())
        self._moved()

    def _moved(self) -> None:
        self.refresh()
        self.update()
        self.zoomed.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        if steps:
            self.set_zoom(self.magnification() * _WHEEL**steps, self.lane(event.position()))

    def event(self, event: QEvent) -> bool:
        """Two fingers, on a screen or a pad, zoom where they are."""
        if isinstance(event, QNativeGestureEvent) and event.gestureType() == Qt.NativeGestureType.ZoomNativeGesture:
            self.set_zoom(self.magnification() * (1 + event.value()), self.lane(event.position()))
            return True
        if isinstance(event, QGestureEvent):
            pinch = event.gesture(Qt.GestureType.PinchGesture)
            if isinstance(pinch, QPinchGesture) and pinch.state() == Qt.GestureState.GestureUpdated:
                at = QPointF(self.mapFromGlobal(pinch.hotSpot().toPoint()))
                self.set_zoom(self.magnification() * pinch.scaleFactor(), self.lane(at))
            return True
        return super().event(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        tool = self.tool
        if tool is not None and tool is not self.placed:
            self.mousePressEvent(event)
        elif event.button() == Qt.MouseButton.LeftButton:
            if self.sight.whole or self.magnification() != 1:
                self.show_actual(self.lane(event.position()))
            else:
                self.show_whole()

    def hold_space(self, down: bool) -> None:
        """Space is held: the print can be dragged."""
        self._space = down
        self.setCursor(Qt.CursorShape.OpenHandCursor if down else Qt.CursorShape.ArrowCursor)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self._pen:
            self._press(event.position(), event.button(), event.modifiers(), 1.0)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._pen:
            self._follow(event.position(), event.modifiers(), 1.0)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._pen:
            self._pen = False
        else:
            self._release(event.position())

    def tabletEvent(self, event: QTabletEvent) -> None:
        """A pen presses as softly as the hand does; its other end wipes."""
        kind, at = event.type(), event.position()
        modifiers = event.modifiers()
        if event.pointerType() == QPointingDevice.PointerType.Eraser:
            modifiers |= Qt.KeyboardModifier.ControlModifier
        if kind == QEvent.Type.TabletPress:
            self._pen = True
            self._press(at, event.button(), modifiers, event.pressure())
        elif kind == QEvent.Type.TabletMove:
            self._follow(at, modifiers, event.pressure() if self._pen else 1.0)
        elif kind == QEvent.Type.TabletRelease:
            self._release(at)
            self._pen = False
        event.accept()

    def _press(self, at: QPointF, button: Qt.MouseButton, modifiers: Qt.KeyboardModifier, pressure: float) -> None:
        if button == Qt.MouseButton.MiddleButton or (button == Qt.MouseButton.LeftButton and self._space):
            self._grip = at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif button == Qt.MouseButton.LeftButton and self._over_divide(at):
            self._dividing = True
        elif button == Qt.MouseButton.LeftButton and self.tool is not None and self.marks:
            self.tool.press(self.lane(at), modifiers, pressure)
        elif button == Qt.MouseButton.LeftButton and self.tool is None:
            self._taken = at

    def _follow(self, at: QPointF, modifiers: Qt.KeyboardModifier, pressure: float) -> None:
        if self._grip is not None:
            self.sight.move_by(at - self._grip)
            self._grip = at
            self._moved()
            return
        if self._dividing:
            self.comparison.move_to(at.x())
            self.update()
            return
        if self._taken is not None and (at - self._taken).manhattanLength() > QApplication.startDragDistance():
            self._taken = None
            self.taken_out.emit()
            return
        at = self.lane(at)
        tool = self.tool if self.marks else None
        if tool is not None:
            tool.move(at, modifiers, pressure)
        if not self._space:
            shape = tool.cursor(at) if tool is not None else Qt.CursorShape.ArrowCursor
            self.setCursor(Qt.CursorShape.SplitHCursor if self._over_divide(at) else shape)
        if tool is self.frame_tool:
            return
        spot = self.to_picture(at)
        if 0 <= spot.x() < 1 and 0 <= spot.y() < 1:
            self.pointed.emit(spot.x(), spot.y())
        else:
            self.left.emit()
        if self.inset:
            self._arms_length.repaint()

    def _release(self, at: QPointF) -> None:
        self._taken = None
        if self._grip is not None:
            self._grip = None
            self.hold_space(self._space)
        elif self._dividing:
            self._dividing = False
        elif self.tool is not None:
            self.tool.release(self.lane(at))

    def give_up(self) -> None:
        """Escape: what the hand was doing is over."""
        if self.tool is not None:
            self.tool.give_up()

    def _over_divide(self, at: QPointF) -> bool:
        """The line of a split can be dragged; while a tool works along it too, by its grip alone."""
        return self.comparing == "split" and self.comparison.over(at, self.tool is not None)

    def leaveEvent(self, event: object) -> None:
        self.left.emit()
        if self.tool is not None:
            self.tool.away()
        self.update()

    def hideEvent(self, event: object) -> None:
        """Nothing is pointed at on a print that is not seen, and it need not be worked out."""
        self.left.emit()
        self.service.forget(*_OWN)

    def showEvent(self, event: object) -> None:
        """What has changed meanwhile is asked for."""
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.refresh()
        self.zoomed.emit()
