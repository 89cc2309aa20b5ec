"""The window: masthead, ladder, easel with its foot, slip and run; and everything that can be done in it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QImage,
    QKeyEvent,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMainWindow,
    QMenu,
    QMenuBar,
    QMessageBox,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from kyanoscript import demo
from kyanoscript.core import passes
from kyanoscript.core.blend import MODES
from kyanoscript.core.script import Script, ScriptError, dumps, loads
from kyanoscript.files.errors import FileError
from kyanoscript.files.export import Settings, kind_of
from kyanoscript.files.photo import Photo, open_photo, sha256
from kyanoscript.files.pictures import Pictures
from kyanoscript.files.scriptfile import SUFFIX, PhotoRef, read_script, write_script
from kyanoscript.files.state import Lost, Remembered, remember
from kyanoscript.ui import controls, theme
from kyanoscript.ui.actions import ACTIONS, Action
from kyanoscript.ui.chooser import Chooser
from kyanoscript.ui.desk import FRAME, PHOTO, Desk
from kyanoscript.ui.dialogs import ExportDialog, KeysDialog
from kyanoscript.ui.easel import Easel
from kyanoscript.ui.foot import Foot
from kyanoscript.ui.history import History
from kyanoscript.ui.jobs import Job, Jobs
from kyanoscript.ui.keeper import Keeper, words
from kyanoscript.ui.ladder import Ladder
from kyanoscript.ui.run import THUMB_H, THUMB_W, Run, without_selected
from kyanoscript.ui.service import RenderService, Spot, Wanted, screen
from kyanoscript.ui.slip.slip import Slip

_PICTURES = "Photographs and scripts (*.jpg *.jpeg *.png *.tif *.tiff *.kyano *.json);;All files (*)"


class Window(QMainWindow):
    """One print on the bench."""

    def __init__(self, remembered: Remembered | None = None) -> None:
        super().__init__()
        self.setWindowTitle("Kyanoscript")
        self.setAcceptDrops(True)
        self.setMinimumSize(960, 600)
        self.desk = Desk()
        self.service = RenderService()
        self.jobs = Jobs()
        self.easel = Easel(self.desk, self.service)
        self.foot = Foot()
        self.ladder = Ladder(self.desk, self.service, self.easel)
        self.slip = Slip(self.desk, self.service)
        self.run = Run(self.desk, self.service, self.easel)
        self.keeper = Keeper(self.desk, self.jobs)
        self._lost: Lost | None = None
        self._exporting: Job | None = None
        self._pictures: Pictures | None = None
        self._export_settings = Settings()
        self._folder = Path.home()
        self._held_key = 0
        self._actions: list[tuple[Action, QAction]] = []
        self._lay_out()
        self._make_actions()
        self._connect()
        self._retitle()
        self._recall(remembered or Remembered())
        application = QApplication.instance()
        assert application is not None
        application.installEventFilter(self)
        self.easel.setFocus()

    def _lay_out(self) -> None:
        self._chrome: list[QWidget] = []
        middle = QWidget()
        grid = QGridLayout(middle)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._recovery())
        column.addWidget(self.easel, 1)
        foot_line = controls.line()
        column.addWidget(foot_line)
        column.addWidget(self.foot)
        parts: list[tuple[QWidget, tuple[int, ...]]] = [
            (self._masthead(), (0, 0, 1, 5)),
            (controls.line(), (1, 0, 1, 5)),
            (self.ladder, (2, 0)),
            (controls.line(vertical=True), (2, 1)),
            (right, (2, 2)),
            (controls.line(vertical=True), (2, 3)),
            (self.slip, (2, 4)),
            (controls.line(), (3, 0, 1, 5)),
            (self.run, (4, 0, 1, 5)),
        ]
        for widget, place in parts:
            grid.addWidget(widget, *place)
            if widget is not right:
                self._chrome.append(widget)
        self._chrome += [self.foot, foot_line]
        grid.setColumnStretch(2, 1)
        grid.setRowStretch(2, 1)
        self.setCentralWidget(middle)

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
        view = QLabel("Bench")
        view.setFont(theme.serif(18))
        view.setFixedHeight(44)
        view.setObjectName("view")
        row.addWidget(view)
        row.addSpacing(28)
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
        self.take_up.clicked.connect(self.take_up_lost)
        self.drop.clicked.connect(self.drop_lost)
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
                if action.keys == "Tab":  # elsewhere Tab walks from control to control
                    made.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
                    self.easel.addAction(made)
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
        self.service.failed.connect(lambda text: foot.say(text.strip().splitlines()[-1], warning=True, stay=True))
        foot.hold_original.connect(lambda down: self.hold_photo() if down else self.let_go())
        foot.next_mat.connect(self.next_mat)
        foot.whole.connect(self.whole)
        foot.actual.connect(self.actual)
        foot.stop.connect(lambda: self._exporting.cancel() if self._exporting else None)
        self.service.touched.connect(lambda _: foot.say(easel.touch.words()))
        self.slip.touch.connect(self.touch)
        self.keeper.lost.connect(self._offer)
        self.keeper.said.connect(lambda text: foot.say(text, warning=True, stay=True))
        self.slip.said.connect(lambda text: foot.say(text, warning=True))
        self.slip.double.connect(self.double)
        self.slip.turn_left.connect(self.turn_left)
        self.slip.turn_right.connect(self.turn_right)
        self.slip.remove.connect(self.remove)
        self.run.trays.add.connect(self._choose_pass)
        self.run.trays.menu.connect(self._tray_menu)

    # What is remembered

    def _recall(self, remembered: Remembered) -> None:
        """Window and habits as they were left."""
        self.remembered = remembered
        self.resize(*remembered.size)
        if remembered.maximised:
            self.setWindowState(Qt.WindowState.WindowMaximized)
        self.easel.inset = remembered.inset
        if remembered.mat in theme.MATS:
            self.easel.mat = remembered.mat
        self._look = remembered.look
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.use(application, theme.LOOKS[self._look])
        self._fill_recent()

    def _fill_recent(self) -> None:
        self._recent_menu.clear()
        for name in self.remembered.recent:
            made = self._recent_menu.addAction(Path(name).name)
            made.setToolTip(name)
            made.triggered.connect(lambda _=False, path=Path(name): self.open(path))
        self._recent_menu.setEnabled(bool(self.remembered.recent))

    def _as_left(self) -> Remembered:
        size = self.size() if not self.isMaximized() else self.normalGeometry().size()
        return Remembered(
            self.remembered.recent,
            (size.width(), size.height()),
            self.isMaximized(),
            self._look,
            self.easel.mat,
            self.easel.inset,
        )

    def look_for_lost(self) -> None:
        """Offer work that an interrupted program left behind."""
        self.keeper.look()

    def _offer(self, lost: Lost) -> None:
        self._lost = lost
        self._recovery_text.setText(words(lost))
        self.recovery.show()

    def take_up_lost(self) -> Job | None:
        """Open the lost work as it was."""
        lost = self._lost
        if lost is None or (self.desk.edited and not self._may_lose()):
            return None

        def work(_: Job) -> Photo:
            return open_photo(lost.photo)

        def done(photo: Photo) -> None:
            self.desk.open(photo, lost.script, lost.file, safe=False)
            self.foot.say("Taken up where it was left; save it to keep it")
            # The journal of this window has it first, and only then is the old one forgotten.
            written = self.keeper.write()
            if written is not None:
                written.done.connect(lambda _: self.drop_lost())

        job = self.jobs.run(work)
        job.done.connect(done)
        job.failed.connect(lambda text: self.foot.say(text, warning=True, stay=True))
        return job

    def drop_lost(self) -> None:
        """Forget the lost work."""
        lost, self._lost = self._lost, None
        self.recovery.hide()
        if lost is not None:
            self.jobs.run(lambda _: lost.drop())

    # What is shown

    def _photo_changed(self) -> None:
        assert self.desk.photo is not None
        self._pictures = Pictures(self.desk.photo.path, self.desk.file)
        self.service.set_source(self.desk.photo.source, self._pictures)
        self.easel.show_whole()
        self._survey_timer.start()
        self._retitle()

    def _ask_survey(self) -> None:
        if self.desk.photo is not None:
            ratio = self.devicePixelRatioF()
            tray = (round(THUMB_W * ratio), round(THUMB_H * ratio))
            self.service.look_over(Wanted(self.desk.script, self.desk.selected, tray))

    def _pointed(self, x: float, y: float) -> None:
        self._pointer = (x, y)
        self._ask_spot()

    def _pointer_left(self) -> None:
        self._pointer = None
        self.foot.show_spot(None)

    def _ask_spot(self) -> None:
        if self._pointer is not None and self.desk.photo is not None:
            self.service.ask_spot(self.desk.script, self.desk.selected, self.easel.render_scale(), *self._pointer)

    def _spot(self, spot: Spot) -> None:
        if self._pointer is not None:
            self.foot.show_spot(spot)

    def _retitle(self) -> None:
        photo, desk = self.desk.photo, self.desk
        if photo is None:
            self.about_file.setText("")
            self.setWindowTitle("Kyanoscript")
        else:
            state = "edited" if desk.edited else (desk.file.name if desk.file else "")
            width, height = desk.print_size()
            facts = [photo.path.name, f"{width} × {height}", state]
            self.about_file.setText("    ".join(fact for fact in facts if fact))
            self.setWindowTitle(f"{photo.path.name}{' (edited)' if desk.edited else ''} – Kyanoscript")
        has = {"": True, "photo": photo is not None, "pass": desk.selected_pass is not None}
        for action, made in self._actions:
            if action.hold:
                continue
            made.setEnabled(has[action.wants])
            if action.do == "undo":
                made.setEnabled(bool(desk.undo_label))
                made.setText(f"Undo: {desk.undo_label}" if desk.undo_label else "Undo")
            elif action.do == "redo":
                made.setEnabled(bool(desk.redo_label))
                made.setText(f"Redo: {desk.redo_label}" if desk.redo_label else "Redo")

    # Opening

    def ask_open(self) -> None:
        """Ask for a file and open it."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a photograph or a script", str(self._folder), _PICTURES)
        if name:
            self.open(Path(name))

    def open_demo(self) -> None:
        """Open the demo photograph that is not on the bench."""
        present = self.desk.photo.path if self.desk.photo else None
        name = next(n for n in demo.NAMES if demo.photo(n) != present)
        self.open(demo.photo(name), demo.script(name))

    def open(self, path: Path, script: Path | None = None) -> Job | None:
        """Open a photograph or a script file; the present work stays until the new one is there."""
        if self.desk.edited and not self._may_lose():
            return None
        self.foot.say(f"Opening {path.name}…", stay=True)

        def work(_: Job) -> tuple[Photo, Script, Path | None, str]:
            if path.suffix.lower() in (SUFFIX, ".json"):
                return _open_script(path, self.desk.photo)
            made = read_script(script).script if script else Script()
            photo = open_photo(path)
            return photo, made, None, photo.notes[0] if photo.notes else ""

        job = self.jobs.run(work)
        job.done.connect(lambda found: self._opened(*found))
        job.failed.connect(lambda text: self.foot.say(text, warning=True, stay=True))
        self._folder = path.resolve().parent
        return job

    def _opened(self, photo: Photo, script: Script, file: Path | None, note: str) -> None:
        self.desk.open(photo, script, file)
        if not demo.holds(photo.path):
            self._add_recent(file or photo.path)
        self.foot.say(note)

    def _add_recent(self, path: Path) -> None:
        self.remembered = state = self._as_left().with_recent(path)
        self._fill_recent()
        self.jobs.run(lambda _: remember(state))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            event.acceptProposedAction()
            self.open(files[0])

    # Saving and exporting

    def save(self) -> Job | None:
        """Save the script where it was saved before, or ask."""
        return self.save_to(self.desk.file) if self.desk.file else self.save_as()

    def save_as(self) -> Job | None:
        """Ask for a name and save."""
        photo = self.desk.photo
        if photo is None:
            return None
        start = self._folder / f"{photo.path.stem}{SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, "Save the script", str(start), "Scripts (*.kyano *.json)")
        if not name:
            return None
        path = Path(name)
        return self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path) -> Job | None:
        """Save the script into a file."""
        photo, script, pictures = self.desk.photo, self.desk.script, self._pictures
        if photo is None:
            return None

        def work(_: Job) -> None:
            reference = PhotoRef(photo.path.resolve(), sha256(photo.path), photo.width, photo.height)
            write_script(path, script, reference, _preview(photo, script, pictures))

        job = self.jobs.run(work)
        job.done.connect(lambda _: self._saved(path, script))
        job.failed.connect(lambda text: self.foot.say(text, warning=True, stay=True))
        return job

    def _saved(self, path: Path, script: Script) -> None:
        self._folder = path.resolve().parent
        self.desk.saved_as(path, script)
        self.foot.say(f"Saved {path.name}")

    def ask_export(self) -> None:
        """Ask how and where to, then export."""
        photo = self.desk.photo
        if photo is None:
            return
        target = self._folder / f"{photo.path.stem}-print.tif"
        dialog = ExportDialog(self, target, self.desk.print_size(), self._export_settings)
        if dialog.exec():
            self.export(*dialog.result_settings())

    def export(self, path: Path, settings: Settings) -> Job | None:
        """Write the print into a file, with progress in the foot."""
        from kyanoscript.core.render.renderer import Renderer
        from kyanoscript.files import export as exporting

        photo, script, pictures = self.desk.photo, self.desk.script, self._pictures
        if photo is None or self._exporting is not None:
            self.foot.say("A print is being written already; wait or press Stop", warning=True)
            return None
        self._export_settings = settings

        def work(job: Job) -> tuple[int, int]:
            kind_of(path)
            if pictures is not None:
                pictures.check(script)  # a print is not written without one of its plates
            return exporting.export(
                Renderer(photo.source, script, library=pictures),
                path,
                settings,
                photo.path,
                job.progress.emit,
                lambda: job.stopping,
            )

        self._exporting = job = self.jobs.run(work)
        self.foot.say(f"Writing {path.name}…", stay=True)
        self.foot.show_progress(0.0)
        job.progress.connect(self.foot.show_progress)
        job.done.connect(lambda size: self._export_over(f"Wrote {path.name}, {size[0]} × {size[1]} pixels"))
        job.cancelled.connect(lambda: self._export_over("Stopped; nothing was written"))
        job.failed.connect(lambda text: self._export_over(text, warning=True))
        return job

    def _export_over(self, text: str, warning: bool = False) -> None:
        self._exporting = None
        self.foot.show_progress(None)
        self.foot.say(text, warning=warning, stay=warning)

    # Leaving

    def _may_lose(self) -> bool:
        """Ask before work is lost; True to go on."""
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText("The script has changes that are not saved.")
        save = box.addButton("Save…", QMessageBox.ButtonRole.AcceptRole)
        leave = box.addButton("Go on without saving", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is leave:
            return True
        if box.clickedButton() is save:
            job = self.save()
            if job is not None:
                self._wait(job)
        return not self.desk.edited

    def _wait(self, job: Job) -> None:
        """Stay responsive until a job is over."""
        over: list[bool] = []
        for signal in (job.done, job.failed, job.cancelled):
            signal.connect(lambda *_: over.append(True))
        while not over:
            QApplication.processEvents(maxtime=50)

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.desk.edited and not self._may_lose():
            event.ignore()
            return
        application = QApplication.instance()
        assert application is not None
        application.removeEventFilter(self)
        self.keeper.stop()
        state = self._as_left()
        self.jobs.last(lambda: remember(state))
        self.jobs.stop()
        self.service.stop()
        event.accept()

    # Passes

    def ask_add(self) -> None:
        """Open the chooser for a pass after the chosen one."""
        if self.desk.photo is not None:
            index = max(0, self.desk.selected + 1)
            box = self.run.trays.thumb(index).center().toPoint()
            self._choose_pass(index, self.run.trays.mapToGlobal(box))

    def _choose_pass(self, index: int, at: QPoint) -> None:
        chooser = Chooser(self)
        chooser.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        chooser.chosen.connect(lambda kind: self.add(kind, index))
        chooser.pop_up(at)
        self.chooser = chooser

    def add(self, kind: str, index: int | None = None) -> None:
        """Put a new pass into the run, before ``index`` (at the end without one)."""
        model = passes.load_all()[kind]
        index = len(self.desk.script.passes) if index is None else index
        self.desk.change(f"Add {model.label}", self.desk.script.inserted(index, [model()]), select=index)
        self.easel.setFocus()

    def double(self) -> None:
        """The chosen pass once more after it."""
        one, index = self.desk.selected_pass, self.desk.selected
        if one is not None:
            self.desk.change(f"Double {one.label}", self.desk.script.inserted(index + 1, [one]), select=index + 1)

    def copy_pass(self) -> None:
        """The chosen pass onto the clipboard, as the JSON text of a script."""
        one = self.desk.selected_pass
        if one is not None:
            QGuiApplication.clipboard().setText(dumps(Script((one,))))
            self.foot.say(f"{one.label} is on the clipboard")

    def paste_passes(self) -> None:
        """Passes from the clipboard, after the chosen one."""
        try:
            passes_ = loads(QGuiApplication.clipboard().text()).settled().passes
        except ScriptError as wrong:
            self.foot.say(f"Nothing to paste: {wrong}", warning=True)
            return
        if self.desk.photo is not None and passes_:
            index = max(0, self.desk.selected + 1)
            words = passes_[0].label if len(passes_) == 1 else f"{len(passes_)} passes"
            script = self.desk.script.inserted(index, passes_)
            self.desk.change(f"Paste {words}", script, select=index + len(passes_) - 1)

    def remove(self) -> None:
        """Take the chosen pass out."""
        one, index = self.desk.selected_pass, self.desk.selected
        if one is not None:
            rest = self.desk.script.without(index)
            select = min(index, len(rest.passes) - 1) if rest.passes else PHOTO
            self.desk.change(f"Remove {one.label}", rest, select=select)

    def _tray_menu(self, index: int, at: QPoint) -> None:
        menu = QMenu(self)
        for action, made in self._actions:
            if action.do in ("double", "lamp", "move_left", "move_right", "remove"):
                menu.addAction(made)
        menu.exec(at)

    def lamp(self) -> None:
        """Switch the chosen pass on or off."""
        one = self.desk.selected_pass
        if one is not None:
            self.desk.set_values(f"{one.label} {'off' if one.on else 'on'}", on=not one.on)

    def _strength(self, by: float) -> None:
        one = self.desk.selected_pass
        if one is not None:
            strength = min(max(one.strength + by, 0.0), 100.0)
            self.desk.set_values(f"{one.label}: strength", merge="strength", strength=strength)

    def stronger(self) -> None:
        """Strength up by 1 %."""
        self._strength(1)

    def weaker(self) -> None:
        """Strength down by 1 %."""
        self._strength(-1)

    def much_stronger(self) -> None:
        """Strength up by 10 %."""
        self._strength(10)

    def much_weaker(self) -> None:
        """Strength down by 10 %."""
        self._strength(-10)

    def next_blend(self) -> None:
        """The next blend mode, to be watched on the picture."""
        self._blend(1)

    def blend_before(self) -> None:
        """The blend mode before."""
        self._blend(-1)

    def _blend(self, by: int) -> None:
        one = self.desk.selected_pass
        if one is not None:
            mode = MODES[(MODES.index(one.blend) + by) % len(MODES)]
            self.desk.set_values(f"{one.label}: blend", merge="blend", blend=mode)
            self.foot.say(f"Blend: {mode.replace('-', ' ')}")

    def to_nothing(self) -> None:
        """Strength to 0."""
        self._strength(-100)

    def before(self) -> None:
        """Choose the tray to the left."""
        self.desk.select(self.desk.selected - 1)

    def after(self) -> None:
        """Choose the tray to the right."""
        self.desk.select(self.desk.selected + 1)

    def move_left(self) -> None:
        """Move the chosen tray to the left."""
        self.run.trays.move(self.desk.selected, self.desk.selected - 1)

    def move_right(self) -> None:
        """Move the chosen tray to the right."""
        self.run.trays.move(self.desk.selected, self.desk.selected + 1)

    def undo(self) -> None:
        """Take back."""
        self.desk.undo()

    def redo(self) -> None:
        """Do again."""
        self.desk.redo()

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
        show = not self._chrome[0].isVisible()
        for part in self._chrome:
            part.setVisible(show)
        self.easel.setFocus()

    def full_screen(self) -> None:
        """The print alone on the whole screen, and back."""
        full = not self.isFullScreen()
        self.setWindowState(self.windowState() ^ Qt.WindowState.WindowFullScreen)
        if full == self._chrome[0].isVisible():
            self.only_print()

    def first_start(self) -> None:
        """The demo print is on the bench, and one quiet line says what to try first."""
        job = self.open(demo.photo(), demo.script())
        if job is not None:
            words_ = "A demo print. Hold O to see its photograph, H to let the chosen pass come up from nothing."
            job.done.connect(lambda _: self.foot.say(words_, stay=True))

    def next_part(self) -> None:
        """Move the keyboard to the next part of the window."""
        slip = next((s for s in self.slip.sliders.values() if s.isVisible()), None)
        stops = [part for part in (self.easel, slip, self.run.trays, self.ladder) if part is not None]
        focus = QApplication.focusWidget()
        inside = [k for k, part in enumerate(stops) if part is focus]
        if not inside and focus is not None and self.slip.isAncestorOf(focus):
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

    def show_keys(self) -> None:
        """The page of keys."""
        KeysDialog(self).exec()

    # Holding

    def hold_photo(self) -> None:
        """The photograph as opened."""
        self.easel.hold(Script(frame=self.desk.script.frame), "the photo as opened")

    def hold_without(self) -> None:
        """The print without the chosen pass."""
        script = without_selected(self.desk)
        if script is not None:
            one = self.desk.selected_pass
            self.easel.hold(script, f"without {one.label if one else ''}")

    def let_go(self) -> None:
        """Back to the print."""
        self.easel.hold(None)

    def hold_develop(self) -> None:
        """Develop from nothing."""
        self.slip.start_developing()

    def let_develop(self) -> None:
        """Keep the strength."""
        self.slip.stop_developing()

    def hold_space(self) -> None:
        """The print can be dragged."""
        self.easel.hold_space(True)

    def let_space(self) -> None:
        """No longer."""
        self.easel.hold_space(False)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind == QEvent.Type.WindowDeactivate and watched is self and self._held_key:
            self._end_hold()
        if kind == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            # A control that has the keyboard keeps the keys it works with; all others are shortcuts.
            if event.key() in getattr(watched, "own_keys", ()):
                event.accept()
                return True
            return False
        if isinstance(event, QKeyEvent) and isinstance(watched, QWidget) and watched.window() is self:
            if kind == QEvent.Type.KeyPress:
                return self._key_down(event)
            if kind == QEvent.Type.KeyRelease and event.key() == self._held_key and not event.isAutoRepeat():
                self._end_hold()
                return True
        return super().eventFilter(watched, event)

    def _key_down(self, event: QKeyEvent) -> bool:
        """Start a hold; True if the key was one."""
        if event.key() == Qt.Key.Key_Escape and (self.slip.give_up_developing() or self.desk.dragging):
            self.desk.abort()
            self.easel.touch.give_up()
            self.easel.frame_tool.give_up()
            self._held_key = 0
            return False
        action = _HOLDS.get(event.key())
        typing = isinstance(QApplication.focusWidget(), QLineEdit)
        if action is None or typing or event.modifiers() != Qt.KeyboardModifier.NoModifier:
            return False
        presses = isinstance(QApplication.focusWidget(), (QAbstractButton, QComboBox))
        space_on_button = event.key() == Qt.Key.Key_Space and presses
        if self.desk.photo is None or space_on_button:
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


def _open_script(path: Path, present: Photo | None) -> tuple[Photo, Script, Path | None, str]:
    """A script file with its photograph; one without goes onto the photograph that is open."""
    found = read_script(path)
    if found.photo is None:
        if present is None:
            raise FileError(path, "this script names no photograph", "Open a photograph first, then the script")
        return present, found.script, path, f"{path.name} is on {present.path.name}"
    if not found.photo.path.exists():
        raise FileError(
            path, f"its photograph {found.photo.path} is not there", "Put it back, or open it and then this script"
        )
    photo = open_photo(found.photo.path)
    changed = sha256(found.photo.path) != found.photo.sha256
    note = f"{photo.path.name} has changed since the script was saved" if changed else ""
    return photo, found.script, path, note


def _preview(photo: Photo, script: Script, pictures: Pictures | None) -> bytes:
    """A small PNG of the print, for file managers."""
    from PySide6.QtCore import QBuffer, QByteArray

    from kyanoscript.core.picture import Rect
    from kyanoscript.core.render.renderer import Renderer

    renderer = Renderer(photo.source, script, library=pictures)
    scale = min(1.0, 512 / max(renderer.size(1.0)))
    pixels = screen(renderer.region(Rect(0, 0, *renderer.size(scale)), scale))
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(data.data())
