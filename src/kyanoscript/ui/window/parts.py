"""The parts of the window: masthead, ladder, easel with its foot, slip and run; and what they show of the desk."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtGui import (
    QAction,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QApplication,
    QGridLayout,
    QHBoxLayout,
    QMenu,
    QMenuBar,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kyanoscript.files.export import Settings
from kyanoscript.files.photo import Photo
from kyanoscript.files.pictures import Pictures
from kyanoscript.files.state import Lost
from kyanoscript.ui.bench.ladder import Ladder
from kyanoscript.ui.bench.run import THUMB_H, THUMB_W, Run
from kyanoscript.ui.bench.slip.slip import Slip
from kyanoscript.ui.commands.list import ACTIONS, Action
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.document.keeper import Keeper
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Job, Jobs
from kyanoscript.ui.service.service import RenderService, Spot, Survey, Wanted, Within
from kyanoscript.ui.widgets import controls, theme

if TYPE_CHECKING:
    from kyanoscript.ui.recipes.view import RecipesView

_EVERY = ("bench", "sheet", "large")


class Parts(QWidget):
    """The parts of the window, and what they show of the desk."""

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Kyanoscript")
        self.setAcceptDrops(True)
        self.setMinimumSize(960, 600)
        self.desk = Desk()
        self.service = RenderService()
        self.jobs = Jobs()
        self.desk.photo_changed.connect(self._new_source)  # before the easel asks for a view of it
        self.easel = Easel(self.desk, self.service)
        self.foot = Foot()
        self.ladder = Ladder(self.desk, self.service, self.easel)
        self.slip = Slip(self.desk, self.service, self.easel)
        self.run = Run(self.desk, self.service, self.easel)
        self.keeper = Keeper(self.desk, self.jobs)
        self._sheet: QWidget | None = None
        self._lost: Lost | None = None
        self._exporting: Job | None = None
        self._pictures: Pictures | None = None
        self._export_settings = Settings()
        self._folder = Path.home()
        self._prints: Path | None = None  # where the last print was written
        self._refused: tuple[Path, ...] = ()  # pictures outside a script's folder that were left out
        self._on_disk: dict[Path | None, str] = {}  # what script files were when last read or written here, by SHA-256
        self._survey: Survey | None = None  # the latest of this photograph
        self._accepted: Photo | None = None  # saved although the file on the disk is another one now
        self._saving: Job | None = None
        self._told = ""  # what was said of files that others have changed
        self._closing = False
        self.keeps = True
        self.left_behind = False  # it was closed while something was still at work
        self._held_key = 0
        self.view = "bench"
        self._bare = False  # everything but the print is hidden
        self._actions: list[tuple[Action, QAction]] = []
        self._lay_out()
        self._make_actions()

    def _lay_out(self) -> None:
        self._parts: list[tuple[QWidget, tuple[str, ...]]] = []  # what is seen when: see `_arrange`
        middle = QWidget()
        self._grid = grid = QGridLayout(middle)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        right = QWidget()
        self._centre = column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._recovery())
        column.addWidget(self.easel, 1)
        foot_line = controls.line()
        column.addWidget(foot_line)
        column.addWidget(self.foot)
        grid.addWidget(right, 2, 2)
        self._place(self._masthead(), (0, 0, 1, 5), *_EVERY)
        self._place(controls.line(), (1, 0, 1, 5), *_EVERY)
        self._place(self.ladder, (2, 0), "bench")
        self._place(controls.line(vertical=True), (2, 1), *_EVERY)
        self._place(controls.line(vertical=True), (2, 3), *_EVERY)
        self._place(self.slip, (2, 4), "bench")
        self._place(controls.line(), (3, 0, 1, 5), "bench", "large")
        self._place(self.run, (4, 0, 1, 5), "bench")
        self._parts += [(self.foot, _EVERY), (foot_line, _EVERY)]
        grid.setColumnStretch(2, 1)
        grid.setRowStretch(2, 1)
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(middle)

    def _place(self, widget: QWidget, place: tuple[int, ...], *when: str) -> None:
        self._grid.addWidget(widget, *place)
        self._parts.append((widget, when))

    def _lay_in(self, view: RecipesView) -> None:
        """The Recipes view's widgets, where ladder, easel, slip and run are on the Bench."""
        self._place(view.groups, (2, 0), "sheet", "large")
        self._place(view.page, (2, 4), "sheet", "large")
        self._place(view.strip, (4, 0, 1, 5), "large")
        self._centre.insertWidget(1, view.sheet, 1)
        self._sheet = view.sheet
        self._arrange()

    def _state(self) -> str:
        """What is on the screen: the bench, the sheet of recipes, or one of them large."""
        return "bench"

    def _first_of_sheet(self) -> QWidget:
        """What has the keyboard on the sheet of recipes."""
        return self.easel

    def _arrange(self) -> None:
        """Show what belongs to the view."""
        state = self._state()
        gone = [part for part, when in self._parts if self._bare or state not in when]
        centre, other = (self.easel, self._sheet) if state != "sheet" else (self._sheet, self.easel)
        assert centre is not None
        centre.show()
        focus = QApplication.focusWidget()
        leaving = [part for part in (*gone, other) if part is not None]
        if focus is not None and any(part is focus or part.isAncestorOf(focus) for part in leaving):
            # Before its widget goes, lest Qt hand the keyboard on as if by the Tab key.
            (centre if state != "sheet" else self._first_of_sheet()).setFocus(Qt.FocusReason.OtherFocusReason)
        for part in leaving:
            part.hide()
        for part, _ in self._parts:
            if part not in gone:
                part.show()
        self.foot.show_easel(state != "sheet")

    def _go(self, view: str) -> None:
        """Another view."""
        self.view = view
        for name, word in self.views.items():
            word.setChecked(name == view)
        self._arrange()
        self._retitle()

    def _masthead(self) -> QWidget:
        masthead = QWidget()
        masthead.setFixedHeight(44)
        row = QHBoxLayout(masthead)
        row.setContentsMargins(20, 0, 12, 0)
        row.setSpacing(8)
        name = controls.title("Kyanoscript", 23)
        name.setObjectName("name")
        row.addWidget(name)
        row.addSpacing(32)
        self.views: dict[str, QPushButton] = {}
        for view, text, help in (
            ("bench", "Bench", "Work on one print  (Ctrl+1)"),
            ("recipes", "Recipes", "Every recipe on this picture  (Ctrl+2)"),
        ):
            word = QPushButton(text)
            word.setFont(theme.serif(18))
            word.setFixedHeight(44)
            word.setObjectName("view")
            word.setCheckable(True)
            word.setChecked(view == self.view)
            word.setToolTip(help)
            word.setCursor(theme.HAND)
            word.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            word.clicked.connect(lambda _=False, name=f"show_{view}": getattr(self, name)())
            self.views[view] = word
            row.addWidget(word)
            row.addSpacing(12)
        row.addSpacing(16)
        self.menus = QMenuBar()
        self.menus.setNativeMenuBar(False)
        self.menus.setFont(theme.sans(13))
        self.menus.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Maximum)
        row.addWidget(self.menus, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addStretch(1)
        self.about_file = controls.label("", quiet=True)
        row.addWidget(self.about_file)
        row.addSpacing(8)
        return masthead

    def _recovery(self) -> QWidget:
        """The quiet line that offers work which an interrupted program left behind."""
        self.recovery = QWidget()
        self.recovery.setObjectName("bar")
        self.recovery.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.recovery.setFixedHeight(36)
        row = QHBoxLayout(self.recovery)
        row.setContentsMargins(14, 0, 10, 0)
        self._recovery_text = controls.label("")
        self._recovery_text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        row.addWidget(self._recovery_text, 1)
        self.take_up, self.drop = (
            controls.word("Take it up", "Open it as it was"),
            controls.word("Drop it", "Forget it"),
        )
        row.addWidget(self.take_up)
        row.addWidget(self.drop)
        self.recovery.hide()
        return self.recovery

    def _make_actions(self) -> None:
        menus: dict[str, QMenu] = {}
        for action in ACTIONS:
            made = QAction(action.text, self)
            made.setStatusTip(action.help)
            made.setToolTip(action.help)
            if action.hold:
                made.setEnabled(False)  # held keys are followed by the event filter; the menu only shows them
                made.setText(f"{action.text}\t{action.keys}")
            else:
                if action.keys:
                    keys = [QKeySequence(action.keys)]
                    if action.keys == "Ctrl++":
                        keys.append(QKeySequence("Ctrl+="))
                    made.setShortcuts(keys)
                if action.keys in ("Tab", "Return"):  # elsewhere they belong to the control that has the keyboard
                    made.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
                    self.easel.addAction(made)
                if action.keys == "Return":
                    self.run.trays.addAction(made)
                    self.run.second.addAction(made)
                made.triggered.connect(lambda _=False, name=action.do: getattr(self, name)())
                self.addAction(made)
            if action.menu != "Hold":
                menu = menus.get(action.menu)
                if menu is None:
                    menu = menus[action.menu] = self.menus.addMenu(action.menu)
                if action.rule:
                    menu.addSeparator()
                menu.addAction(made)
            self._actions.append((action, made))
            if action.do == "ask_open":
                self._recent_menu = menus["File"].addMenu("Open recent")
                self._demo_menu = menus["File"].addMenu("Demo prints")

    # What is shown

    def _new_source(self) -> None:
        assert self.desk.photo is not None
        self._pictures = Pictures(self.desk.photo.path, self.desk.file, self._refused)
        self.service.set_source(self.desk.photo.source, self._pictures)

    def _photo_changed(self) -> None:
        self._survey_timer.start()
        self._retitle()

    def _keep_survey(self, survey: Survey) -> None:
        self._survey = survey

    def _ask_survey(self) -> None:
        if self.desk.photo is not None:
            ratio = self.devicePixelRatioF()
            self.service.look_over(self._wanted((round(THUMB_W * ratio), round(THUMB_H * ratio))))

    def _wanted(self, tray: tuple[int, int] = (1, 1)) -> Wanted:
        """What is chosen, and the second row of the run if there is one."""
        desk = self.desk
        selected = desk.path[0] if desk.path else desk.selected
        if not desk.opened:
            return Wanted(desk.script, selected, tray)
        script, first = desk.script.unrolled(desk.opened)
        inside = desk.opened == desk.path
        at = first + desk.selected if inside else (first if desk.path else -1)
        return Wanted(desk.script, selected, tray, Within(script, first, at))

    def _pointed(self, x: float, y: float) -> None:
        self._pointer = (x, y)
        self._ask_spot()

    def _pointer_left(self) -> None:
        self._pointer = None
        self.foot.show_spot(None)

    def _ask_spot(self) -> None:
        if self._pointer is not None and self.desk.photo is not None:
            self.service.ask_spot(self._wanted(), self.easel.render_scale(), *self._pointer)

    def _spot(self, spot: Spot) -> None:
        if self._pointer is not None:
            self.foot.show_spot(spot)

    def _retitle(self) -> None:
        photo, desk = self.desk.photo, self.desk
        if photo is None:
            self.about_file.setText("")
            self.window().setWindowTitle("Kyanoscript")
        else:
            state = "edited" if desk.edited else (desk.file.name if desk.file else "")
            width, height = desk.print_size()
            facts = [photo.path.name, f"{width} × {height}", state]
            self.about_file.setText("    ".join(fact for fact in facts if fact))
            self.window().setWindowTitle(f"{photo.path.name}{' (edited)' if desk.edited else ''} – Kyanoscript")
        state = self._state()
        chosen = desk.selected_pass is not None if state == "bench" else state == "large"
        has = {"": True, "photo": photo is not None, "pass": chosen}
        undo, redo = self._can_undo()
        for action, made in self._actions:
            if action.hold:
                continue
            made.setEnabled(has[action.wants] and action.at in ("", self.view))
            if action.do in ("undo", "redo"):
                what = undo if action.do == "undo" else redo
                made.setEnabled(bool(what))
                made.setText(f"{action.text}: {what}" if what else action.text)

    def _can_undo(self) -> tuple[str, str]:
        """What undo would take back and redo do again, in words; empty if nothing."""
        return self.desk.undo_label, self.desk.redo_label
