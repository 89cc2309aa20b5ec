"""Opening, saving, exporting and leaving, and what is remembered from one time to the next."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import (
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QImage,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMessageBox,
)

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.errors import Cancelled, FileError
from kyanoscript.files.export import Settings, kind_of
from kyanoscript.files.photo import Photo, open_photo, sha256
from kyanoscript.files.pictures import Pictures
from kyanoscript.files.remembered import Remembered, remember
from kyanoscript.files.scriptfile import SUFFIX, PhotoRef, read_script, write_script
from kyanoscript.files.state import Lost
from kyanoscript.ui import theme
from kyanoscript.ui.jobs import Job
from kyanoscript.ui.keeper import words
from kyanoscript.ui.service import screen
from kyanoscript.ui.window.parts import Parts

_PICTURES = "Photographs and scripts (*.jpg *.jpeg *.png *.tif *.tiff *.kyano *.json);;All files (*)"


class Filing(Parts):
    """Opening, saving, exporting and leaving, and what is remembered from one time to the next."""

    # What is remembered

    def _recall(self, remembered: Remembered) -> None:
        """Window and habits as they were left."""
        self.remembered = remembered
        self.resize(*remembered.size)
        self.easel.inset = remembered.inset
        self.slip.inks = remembered.inks
        if remembered.mat in theme.MATS:
            self.easel.mat = remembered.mat
        self._look = remembered.look
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.use(application, theme.LOOKS[self._look])
        self._fill_recent()
        self._fill_demos()

    def _fill_recent(self) -> None:
        self._recent_menu.clear()
        for name in self.remembered.recent:
            made = self._recent_menu.addAction(Path(name).name)
            made.setToolTip(name)
            made.triggered.connect(lambda _=False, path=Path(name): self.open(path))
        self._recent_menu.setEnabled(bool(self.remembered.recent))

    def _as_left(self) -> Remembered:
        top = self.window()
        size = top.size() if not top.isMaximized() else top.normalGeometry().size()
        return Remembered(
            self.remembered.recent,
            (size.width(), size.height()),
            top.isMaximized(),
            self._look,
            self.easel.mat,
            self.easel.inset,
            self.slip.inks,
        )

    def _keep_habits(self) -> None:
        """Write down what is to be remembered."""
        self.remembered = state = self._as_left()
        self.jobs.run(lambda _: remember(state))

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

    # Opening

    def ask_open(self) -> None:
        """Ask for a file and open it."""
        name, _ = QFileDialog.getOpenFileName(self, "Open a photograph or a script", str(self._folder), _PICTURES)
        if name:
            self.open(Path(name))

    def _fill_demos(self) -> None:
        """The demo prints, each to be put on the bench."""
        for one in demo.PRINTS:
            made = self._demo_menu.addAction(one.title)
            made.triggered.connect(lambda _=False, one=one: self.open(one.photo, one.script))

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
        from kyanoscript.ui.dialogs import ExportDialog  # not needed for a first look

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

            def watch(what: str, share: float) -> None:
                if job.stopping:
                    raise Cancelled

            return exporting.export(
                Renderer(photo.source, script, library=pictures, watch=watch),
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
        found = f"; it shows what {script.ending.title} found, not a print" if script.ending is not None else ""
        job.done.connect(
            lambda size: self._export_over(f"Wrote {path.name}, {size[0]} × {size[1]} pixels{found}", bool(found))
        )
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
