"""The window: everything that can be done in it by press and key."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import (
    QKeyEvent,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLineEdit,
    QWidget,
)

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.remembered import Remembered
from kyanoscript.ui.bench.history import History
from kyanoscript.ui.commands.list import ACTIONS, Action
from kyanoscript.ui.document.desk import FRAME, without_chosen
from kyanoscript.ui.easel.easel import COMPARE
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.window.cooking import Cooking


class Window(Cooking):
    """One print on the bench."""

    def __init__(self, remembered: Remembered | None = None, keeps: bool = True) -> None:
        super().__init__()
        self.keeps = keeps  # whether what is done here is remembered for the next start
        self._connect()
        self._retitle()
        self._recall(remembered or Remembered())
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)
        self.easel.setFocus()

    def _connect(self) -> None:
        desk, easel, foot = self.desk, self.easel, self.foot
        self._survey_timer = QTimer(self)
        self._survey_timer.setSingleShot(True)
        self._survey_timer.setInterval(0)
        self._survey_timer.timeout.connect(self._ask_survey)
        desk.script_changed.connect(lambda _: self._survey_timer.start())
        desk.selection_changed.connect(self._survey_timer.start)
        desk.photo_changed.connect(self._photo_changed)
        desk.history_changed.connect(self._retitle)
        desk.selection_changed.connect(self._retitle)
        self._pointer: tuple[float, float] | None = None
        easel.pointed.connect(self._pointed)
        easel.left.connect(self._pointer_left)
        easel.zoomed.connect(lambda: foot.show_zoom(easel.whole, easel.magnification()))
        self.service.spot.connect(self._spot)
        self.service.frame.connect(lambda _: self._ask_spot())
        self.service.failed.connect(lambda text: foot.say(text, warning=True, stay=True))
        self.service.survey.connect(self._keep_survey)
        foot.hold_original.connect(lambda down: self.hold_photo() if down else self.let_go())
        foot.next_mat.connect(self.next_mat)
        foot.whole.connect(self.whole)
        foot.actual.connect(self.actual)
        foot.stop.connect(self.stop_work)
        self.service.looking.connect(self._looking)
        self.service.touched.connect(lambda found: foot.say(easel.touch.words()) if found.tag == "touch" else None)
        self.slip.asked.connect(lambda name: getattr(self, name)())
        easel.stencil.said.connect(lambda text: foot.say(text))
        self.slip.inks_changed.connect(self._keep_habits)
        self.slip.model.connect(self.show_model)
        self.keeper.lost.connect(self._offer)
        self.take_up.clicked.connect(self.take_up_lost)
        self.drop.clicked.connect(self.drop_lost)
        desk.refused.connect(lambda text: foot.say(text, warning=True, stay=True))
        self.keeper.said.connect(lambda text: foot.say(text, warning=True, stay=True))
        self.slip.marks_changed.connect(self.ladder.show_marks)
        self.ladder.show_marks(self.slip.page.marks)
        self.slip.said.connect(lambda text: foot.say(text, warning=True))
        for trays in (self.run.trays, self.run.second):
            trays.add.connect(self._choose_pass)
            trays.menu.connect(self._tray_menu)
            trays.rename.connect(self.rename)
            trays.stencil.connect(self.draw_stencil)

    # Looking

    def whole(self) -> None:
        """Fit the print."""
        self.easel.show_whole()

    def actual(self) -> None:
        """Actual pixels, at the pointer if it is on the print."""
        at = self.easel.from_picture(QPointF(*self._pointer)) if self._pointer else None
        self.easel.show_actual(at)

    def nearer(self) -> None:
        """Zoom in."""
        self.easel.set_zoom(self.easel.magnification() * 1.25)

    def farther(self) -> None:
        """Zoom out."""
        self.easel.set_zoom(self.easel.magnification() / 1.25)

    def next_compare(self) -> None:
        """Whole, split, side by side."""
        how = COMPARE[(COMPARE.index(self.easel.compare) + 1) % len(COMPARE)]
        self.easel.set_compare(how)
        self.foot.say(f"Compare: {how}")

    def compare_with(self) -> None:
        """The photo, or the print without the chosen passes."""
        self.easel.against = "without" if self.easel.against == "photo" else "photo"
        words_ = "the photo as opened" if self.easel.against == "photo" else "the print without the chosen pass"
        self.foot.say(f"Compared with {words_}")
        self.easel.set_compare(self.easel.compare if self.easel.compare != COMPARE[0] else COMPARE[1])

    def next_mat(self) -> None:
        """Another mat."""
        names = list(theme.MATS)
        self.easel.mat = names[(names.index(self.easel.mat) + 1) % len(names)]
        self.foot.say(f"Mat: {self.easel.mat}")
        self.easel.update()

    def inset(self) -> None:
        """Arm's length on or off."""
        self.easel.inset = not self.easel.inset
        self.easel.update()

    def only_print(self) -> None:
        """Hide everything but the print, or show it again."""
        self._bare = not self._bare
        self._arrange()
        self.easel.setFocus()

    def full_screen(self) -> None:
        """The print alone on the whole screen, and back."""
        top = self.window()
        full = not top.isFullScreen()
        top.setWindowState(top.windowState() ^ Qt.WindowState.WindowFullScreen)
        if full != self._bare:
            self.only_print()

    def first_start(self) -> None:
        """The demo print is on the bench, and one quiet line says what to try first."""
        job = self.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
        if job is not None:
            words_ = "A demo print. Hold O to see its photograph, H to let the chosen pass come up from nothing."
            job.done.connect(lambda _: self.foot.say(words_, stay=True))

    def next_part(self) -> None:
        """Move the keyboard to the next part of the window."""
        focus = QApplication.focusWidget()
        if self.view == "bench":
            slip = next((s for s in self.slip.sliders.values() if s.isVisible()), None)
            every: tuple[QWidget | None, ...] = (self.easel, slip, self.run.trays, self.ladder)
        else:
            every = (self.easel, self.recipes.grid, self.recipes.page.whole, self.recipes.groups.search)
        stops = [part for part in every if part is not None and part.isVisible()]
        inside = [k for k, part in enumerate(stops) if part is focus]
        beside = self.slip if self.view == "bench" else self.recipes.page
        if not inside and focus is not None and beside.isAncestorOf(focus):
            inside = [1]
        following = stops[(inside[0] + 1) % len(stops)] if inside else stops[0]
        following.setFocus(Qt.FocusReason.TabFocusReason)

    def safelight(self) -> None:
        """The other look."""
        self._look = "safelight" if self._look == "daylight" else "daylight"
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.use(application, theme.LOOKS[self._look])
        self.ladder.redraw()
        for widget in self.findChildren(QWidget):
            widget.update()

    def show_history(self) -> None:
        """The history as a list of words."""
        self.history = History(self, self.desk)
        self.history.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.history.pop_up(self.easel.mapToGlobal(QPoint(24, 24)))

    def touch(self) -> None:
        """Touch on or off."""
        one = self.desk.selected_pass
        if one is None or not one.touches:
            self.foot.say("Touch works on gray weights, curves and exposure; choose one of them first")
            return
        self.easel.touch.on = not self.easel.touch.on
        self.slip.show_touch(self.easel.touch.on)
        self.foot.say("Touch: press on the picture and drag up or down" if self.easel.touch.on else "")
        self.easel.setCursor(Qt.CursorShape.ArrowCursor)

    def guides(self) -> None:
        """Other guides within the frame."""
        if self.easel.frame_tool.active:
            self.foot.say(f"Guides: {self.easel.frame_tool.next_guides()}")

    def turn_left(self) -> None:
        """The picture a quarter turn to the left."""
        self._turn(3)

    def turn_right(self) -> None:
        """The picture a quarter turn to the right."""
        self._turn(1)

    def _turn(self, by: int) -> None:
        frame = self.desk.script.frame
        x, y = (100 - frame.y, frame.x) if by == 1 else (frame.y, 100 - frame.x)
        self.desk.set_values_at(
            FRAME, "Quarter turn", turns=(frame.turns + by) % 4, x=x, y=y, width=frame.height, height=frame.width
        )

    def about(self) -> None:
        """Versions, licences, and where the log lies."""
        from kyanoscript.ui.app.about import About  # not needed for a first look

        About(self).exec()

    def show_keys(self) -> None:
        """The page of keys."""
        from kyanoscript.ui.widgets.dialogs import KeysDialog  # not needed for a first look

        KeysDialog(self).exec()

    # Holding

    def hold_photo(self) -> None:
        """The photograph as opened."""
        self.easel.hold(Script(frame=self.desk.script.frame), "the photo as opened")

    def hold_without(self) -> None:
        """The print without the chosen pass."""
        one = self.desk.selected_pass
        if one is not None:
            script = self.desk.script.with_run(self.desk.path, without_chosen(self.desk))
            count = len(self.desk.chosen)
            self.easel.hold(script, f"without {one.title if count == 1 else f'{count} passes'}")

    def let_go(self) -> None:
        """Back to the print."""
        self.easel.hold(None)

    def hold_develop(self) -> None:
        """Develop from nothing."""
        (self.slip if self.view == "bench" else self.recipes).start_developing()

    def let_develop(self) -> None:
        """Keep the strength."""
        (self.slip if self.view == "bench" else self.recipes).stop_developing()

    def hold_space(self) -> None:
        """The print can be dragged."""
        self.easel.hold_space(True)

    def let_space(self) -> None:
        """No longer."""
        self.easel.hold_space(False)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.WindowActivate and watched is self.window():
            self.look_again()
        if kind == QEvent.Type.WindowDeactivate and watched is self.window() and self._held_key:
            self._end_hold()
        if kind == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            # A control that has the keyboard keeps the keys it works with; all others are shortcuts.
            if event.key() in getattr(watched, "own_keys", ()):
                event.accept()
                return True
            return False
        if isinstance(event, QKeyEvent) and isinstance(watched, QWidget) and watched.window() is self.window():
            if kind == QEvent.Type.KeyPress:
                return self._key_down(event)
            if kind == QEvent.Type.KeyRelease and self._held_key == event.key() != 0 and not event.isAutoRepeat():
                self._end_hold()
                return True
        return super().eventFilter(watched, event)

    def _key_down(self, event: QKeyEvent) -> bool:
        """Start a hold; True if the key was one."""
        if event.key() == Qt.Key.Key_Escape and (self.slip.give_up_developing() or self.desk.dragging):
            self.desk.abort()
            self.easel.give_up()
            self._held_key = 0
            return False
        if event.key() == Qt.Key.Key_Escape and self.leave_recipe():
            return True
        if event.key() == Qt.Key.Key_Escape and self.easel.hasFocus():
            self.easel.give_up()
        action = _HOLDS.get(event.key())
        typing = isinstance(QApplication.focusWidget(), QLineEdit)
        if action is None or typing or event.modifiers() != Qt.KeyboardModifier.NoModifier:
            return False
        presses = isinstance(QApplication.focusWidget(), (QAbstractButton, QComboBox))
        space_on_button = event.key() == Qt.Key.Key_Space and presses
        if self.desk.photo is None or space_on_button or action.at not in ("", self.view):
            return False
        if not event.isAutoRepeat() and not self._held_key:
            self._held_key = event.key()
            getattr(self, action.do)()
        return True

    def _end_hold(self) -> None:
        action = _HOLDS[self._held_key]
        self._held_key = 0
        getattr(self, action.hold)()


_HOLDS: dict[int, Action] = {QKeySequence(a.keys)[0].key().value: a for a in ACTIONS if a.hold}
