"""Opening, saving, exporting and leaving, and what is remembered from one time to the next."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QEventLoop, QStandardPaths, QTimer
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
from kyanoscript.files.errors import Cancelled, ChangedOnDisk, FileError
from kyanoscript.files.export import Settings, kind_of
from kyanoscript.files.opening import sha256
from kyanoscript.files.photo import Photo, open_photo
from kyanoscript.files.remembered import Remembered, remember
from kyanoscript.files.scriptfile import SUFFIX, PhotoRef, read_script, write_script
from kyanoscript.files.state import Lost
from kyanoscript.files.trust import allow, outside
from kyanoscript.ui.document.keeper import words
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.service.service import Survey
from kyanoscript.ui.widgets import theme
from kyanoscript.ui.window.parts import Parts

_PICTURES = "Photographs and scripts (*.jpg *.jpeg *.png *.tif *.tiff *.kyano *.json);;All files (*)"
_PATIENCE = 2.0  # seconds that closing may take without a word
_NAMED = 6  # files that a question names


class _PhotoChanged(FileError):
    """The photograph on the disk is not the one on the bench any more."""


@dataclass(frozen=True)
class _Opened:
    """A photograph with a script, off the disk."""

    photo: Photo
    script: Script
    file: Path | None = None  # the script's
    digest: str = ""
    notes: tuple[str, ...] = ()
    refused: tuple[Path, ...] = ()  # pictures that are left out


@dataclass(frozen=True)
class _Outside:
    """Pictures that a script names outside its own folder: asked about before any of them is opened."""

    pictures: tuple[Path, ...]


class Filing(Parts):
    """Opening, saving, exporting and leaving, and what is remembered from one time to the next."""

    # What is remembered

    def _recall(self, remembered: Remembered) -> None:
        """Window and habits as they were left."""
        self.remembered = remembered
        self._folder = _folder_of(remembered.folder)
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
            str(self._folder),
        )

    def _keep_habits(self) -> None:
        """Write down what is to be remembered."""
        self.remembered = state = self._as_left()
        if self.keeps:
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
            self._put_on_desk(_Opened(photo, lost.script, lost.file, lost.digest), safe=False)
            self.foot.say("Taken up where it was left; save it to keep it")
            # The journal of this window has it first, and only then is the old one forgotten.
            self.keeper.write().done.connect(lambda _: self.drop_lost())

        job = self.jobs.run(work, Lane.READ)
        job.done.connect(done)
        job.failed.connect(self._failed)
        return job

    def _failed(self, text: str) -> None:
        self.foot.say(text, warning=True, stay=True)

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

    def open(self, path: Path, script: Path | None = None, trusted: bool | None = None) -> Job | None:
        """Open a photograph or a script file; the present work stays until the new one is there.

        ``trusted``: whether pictures outside the script's own folder are used; None: that is asked if it has any.
        """
        if self.desk.edited and not self._may_lose():
            return None
        return self._fetch(path, script, trusted)

    def _fetch(self, path: Path, script: Path | None, trusted: bool | None) -> Job:
        """Read it, and put it on the desk."""
        self.foot.say(f"Opening {path.name}…", stay=True)
        present = self.desk.photo

        def work(_: Job) -> _Opened | _Outside:
            if path.suffix.lower() in (SUFFIX, ".json"):
                return _open_script(path, present, trusted)
            made = read_script(script).script if script else Script()
            photo = open_photo(path)
            return _Opened(photo, made, notes=photo.notes)

        job = self.jobs.run(work, Lane.READ)
        job.done.connect(lambda found: self._opened(path, found))
        job.failed.connect(self._failed)
        if not demo.holds(path.absolute()):
            self._folder = path.absolute().parent
        return job

    def _opened(self, path: Path, found: _Opened | _Outside) -> None:
        if isinstance(found, _Outside):
            self._ask_trust(path, found.pictures)
            return
        self._put_on_desk(found)
        if not demo.holds(found.photo.path):
            self._add_recent(found.file or found.photo.path)
        self.foot.say("; ".join(found.notes), stay=bool(found.notes))

    def _put_on_desk(self, found: _Opened, safe: bool = True) -> None:
        self._refused, self._survey, self._accepted = found.refused, None, None
        self._on_disk = {found.file: found.digest} if found.file is not None else {}
        self.desk.open(found.photo, found.script, found.file, safe, found.digest)
        original = found.photo.original
        if original is not None:  # saving needs it, and must not wait for a large file to be read again
            self.jobs.run(lambda _: original.digest(), Lane.READ)

    def _ask_trust(self, path: Path, pictures: tuple[Path, ...]) -> None:
        """A script from anybody may name any file: tell which, and ask."""
        self.foot.say("")
        named = [str(one) for one in pictures[:_NAMED]]
        if len(pictures) > _NAMED:
            named.append(f"and {len(pictures) - _NAMED} more")
        answer = self._ask(
            f"{path.name} uses pictures outside its own folder:",
            "\n".join(named) + "\n\nIf the script is not yours, look at whether you want to use them.",
            ("Use them", "Leave them out", "Do not open it"),
        )
        if answer == "Use them":
            self._fetch(path, None, True)
        elif answer == "Leave them out":
            self._fetch(path, None, False)

    def _ask(self, text: str, more: str, answers: tuple[str, ...]) -> str:
        """A question in the way; the last answer is what Escape means."""
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText(text)
        box.setInformativeText(more)
        buttons = {}
        for k, word in enumerate(answers):
            role = QMessageBox.ButtonRole.RejectRole if k == len(answers) - 1 else QMessageBox.ButtonRole.AcceptRole
            buttons[word] = box.addButton(word, role)
        box.setEscapeButton(buttons[answers[-1]])
        box.setDefaultButton(buttons[answers[-1]])
        box.exec()
        return next((word for word, button in buttons.items() if button is box.clickedButton()), answers[-1])

    def _add_recent(self, path: Path) -> None:
        self.remembered = state = self._as_left().with_recent(path)
        self._fill_recent()
        if self.keeps:
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

    def save_to(self, path: Path, over: bool = False) -> Job | None:
        """Save the script into a file; ``over``: whatever has happened to the file and the photograph since."""
        photo, script, pictures, survey = self.desk.photo, self.desk.script, self._pictures, self._survey
        if photo is None or pictures is None:
            return None
        on_disk, again = self._on_disk, path == self.desk.file and not over
        asked = over or self._accepted is photo
        refused = self._refused

        def work(_: Job) -> str:
            original = photo.original
            if not asked and original is not None and original.state() == "changed":
                raise _PhotoChanged(photo.path, "the photograph on the disk is not the one on the bench any more")
            reference = PhotoRef(
                photo.path.absolute(), original.digest() if original else "", photo.width, photo.height
            )
            used = pictures.files(script)
            # What lies there is known by the file's own thread: two saves in a row are no strangers to each other.
            known = on_disk.get(path, "") if again else None
            digest = on_disk[path] = write_script(path, script, reference, _preview(survey), used, known)
            allow(path, [reference.path, *(p for p in used if p not in refused)])
            return digest

        self._saving = job = self.jobs.run(work)
        job.done.connect(lambda digest: self._saved(path, script, digest))
        job.failed.connect(lambda text: self._not_saved(job, path, text))
        return job

    def _saved(self, path: Path, script: Script, digest: str) -> None:
        self._saving = None
        if not demo.holds(path.absolute()):
            self._folder = path.absolute().parent
        self.desk.saved_as(path, script, digest)
        self.foot.say(f"Saved {path.name}")

    def _not_saved(self, job: Job, path: Path, text: str) -> None:
        """Say why; where another hand has been at work, ask what is to be done."""
        self._saving = None
        photo = self.desk.photo
        if isinstance(job.error, ChangedOnDisk):
            answer = self._ask(
                f"{path.name} has been changed by another program or window since it was opened here.",
                "Replacing it would lose what was done there.",
                ("Replace it", "Save under another name…", "Stay"),
            )
            if answer == "Replace it":
                self.save_to(path, over=True)
            elif answer != "Stay":
                self.save_as()
        elif isinstance(job.error, _PhotoChanged) and photo is not None:
            answer = self._ask(
                f"{photo.path.name} on the disk is not the photograph on the bench any more.",
                "The script would be saved with the name of the new file and the mark of the one that was opened.",
                ("Save all the same", "Stay"),
            )
            if answer != "Stay":
                self._accepted = photo
                self.save_to(path)
        else:
            self._failed(text)

    def look_again(self) -> None:
        """Coming back to the window: say if its files have been changed meanwhile."""
        photo, file, on_disk = self.desk.photo, self.desk.file, self._on_disk
        if photo is None or photo.original is None:
            return
        original = photo.original

        def work(_: Job) -> str:
            if original.state() == "changed":
                return (
                    f"{photo.path.name} has changed on the disk; the photograph on the bench is the one that was opened"
                )
            if file in on_disk and file.exists() and sha256(file) != on_disk[file]:
                return f"{file.name} has been changed by another program or window since it was opened here"
            return ""

        job = self.jobs.run(work, Lane.READ)
        job.done.connect(self._tell_change)
        job.failed.connect(lambda _: None)

    def _tell_change(self, text: str) -> None:
        if text and text != self._told:
            self.foot.say(text, warning=True, stay=True)
        self._told = text

    def ask_export(self) -> None:
        """Ask how and where to, then export."""
        photo = self.desk.photo
        if photo is None:
            return
        target = (self._prints or self._folder) / f"{photo.path.stem}-print.tif"
        from kyanoscript.ui.widgets.dialogs import ExportDialog  # not needed for a first look

        dialog = ExportDialog(self, target, self.desk.print_size(), self._export_settings)
        if dialog.exec():
            self.export(*dialog.result_settings())

    def export(self, path: Path, settings: Settings) -> Job | None:
        """Write the print into a file, with progress in the foot."""
        from kyanoscript.core.render.renderer import Renderer
        from kyanoscript.files import export as exporting

        photo, script, pictures = self.desk.photo, self.desk.script, self._pictures
        if photo is None:
            return None
        if self._exporting is not None:
            self.foot.say("A print is being written already; wait or press Stop", warning=True)
            return None
        self._export_settings, self._prints = settings, path.absolute().parent
        never = [photo.path, *([self.desk.file] if self.desk.file else [])]

        def work(job: Job) -> tuple[int, int]:
            kind_of(path)
            if pictures is not None:
                pictures.check(script)  # a print is not written without one of its plates
                never.extend(pictures.files(script))

            def watch(what: str, share: float) -> None:
                if job.stopping:
                    raise Cancelled

            return exporting.export(
                Renderer(photo.source, script, library=pictures, watch=watch),
                path,
                settings,
                never,
                job.progress.emit,
                lambda: job.stopping,
            )

        self._exporting = job = self.jobs.run(work, Lane.LONG)
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
        answer = self._ask(
            "The script has changes that are not saved.", "", ("Save…", "Go on without saving", "Stay")
        )  # fmt: skip
        if answer == "Go on without saving":
            return True
        if answer == "Save…" and self.save() is not None:
            self._until(lambda: self._saving is None)
        return not self.desk.edited

    def _until(self, over: Callable[[], bool], seconds: float = 1e9, hands: bool = True) -> bool:
        """Stay responsive until something is over, or for so long; whether it is over."""
        end = time.monotonic() + seconds
        loop, beat = QEventLoop(), QTimer()
        beat.timeout.connect(lambda: loop.quit() if over() or time.monotonic() > end else None)
        beat.start(10)
        if not over():
            loop.exec(
                QEventLoop.ProcessEventsFlag.AllEvents if hands else QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents
            )
        beat.stop()
        return over()

    def quit(self) -> None:
        """Leave: the whole window, whatever holds this one."""
        self.window().close()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._closing or (self.desk.edited and not self._may_lose()):
            event.ignore()
            return
        self._closing = True
        application = QApplication.instance()
        assert application is not None
        application.removeEventFilter(self)
        self.keeper.stop()
        state = self._as_left()
        if self.keeps:
            self.jobs.last(lambda: remember(state))
        self.jobs.end()
        self.service.end()
        if not self._until(lambda: not self._left(), _PATIENCE, hands=False):
            self._wait_or_leave()
        event.accept()

    def _left(self) -> list[str]:
        """What has not ended yet, in words."""
        return [*self.jobs.left(), *self.service.left()]

    def _wait_or_leave(self) -> None:
        """Say what closing waits for, and offer to go without it."""
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.NoIcon)
        box.setText(f"Still at work: {', '.join(dict.fromkeys(self._left()))}.")
        box.setInformativeText("Your script is safe. The window closes as soon as this has stopped.")
        box.addButton("Leave now", QMessageBox.ButtonRole.AcceptRole)
        beat = QTimer(box)
        beat.timeout.connect(lambda: None if self._left() else box.accept())
        beat.start(50)
        box.exec()
        self.left_behind = bool(self._left())

    def end_at_once(self) -> None:
        """The system asks the program to end: what was done goes into the journal, and nothing is asked."""
        self.keeper.write_now()
        self.jobs.wait(1.0)


def _open_script(path: Path, present: Photo | None, trusted: bool | None) -> _Opened | _Outside:
    """A script file with its photograph; one without goes onto the photograph that is open."""
    found = read_script(path)
    if found.photo is None and present is None:
        raise FileError(path, "this script names no photograph", "Open a photograph first, then the script")
    named = found.photo.path if found.photo is not None else None
    others = () if trusted else tuple(outside(path, found.script, named))
    if others and trusted is None:
        return _Outside(others)
    if trusted:
        allow(path, outside(path, found.script, named))
    notes = tuple(f"{one.name} is left out" for one in others if one != named)
    if found.photo is None:
        assert present is not None
        return _Opened(
            present, found.script, path, found.digest, (f"{path.name} is on {present.path.name}", *notes), others
        )
    if named in others:
        raise FileError(path, "its photograph was left out", "Open the photograph first, then this script")
    assert named is not None
    if not named.exists():
        raise FileError(path, f"its photograph {named} is not there", "Put it back, or open it and then this script")
    photo = open_photo(named)
    if photo.original is not None and photo.original.digest() != found.photo.sha256:
        notes = (f"{photo.path.name} has changed since the script was saved", *notes)
    return _Opened(photo, found.script, path, found.digest, (*notes, *photo.notes), others)


def _folder_of(remembered: str) -> Path:
    """Where files are looked for first: as remembered, or the person's pictures."""
    pictures = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.PicturesLocation)
    places = (Path(name) for name in (remembered, pictures) if name)
    return next((place for place in places if place.is_dir() and not demo.holds(place / "x")), Path.home())


def _preview(survey: Survey | None) -> bytes | None:
    """A small PNG of the print, for file managers: as it is on the screen already."""
    from PySide6.QtCore import QBuffer, QByteArray

    if survey is None:
        return None
    pixels = survey.print
    height, width = pixels.shape[:2]
    image = QImage(pixels.data, width, height, width * 4, QImage.Format.Format_RGB32)
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(data.data())
