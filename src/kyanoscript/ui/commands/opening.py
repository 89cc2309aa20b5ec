"""Opening photographs and scripts, by asking, by name, by dropping them on the window."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QFileDialog

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import FileError
from kyanoscript.files.base.opening import PICTURES
from kyanoscript.files.kept.scriptfile import SUFFIX, read_script
from kyanoscript.files.kept.trust import allow, outside
from kyanoscript.files.photos.large import keep, open_for_screen
from kyanoscript.files.photos.photo import Photo, open_photo, open_preview
from kyanoscript.files.photos.pictures import Pictures
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.saving import Saving
from kyanoscript.ui.commands.view import Handlers, View
from kyanoscript.ui.jobs.lanes import Job, Lane, until

_NAMED = 6  # files that a question names


@dataclass(frozen=True)
class Opened:
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


class Opening(QObject):
    """Puts things on the desk; what is there stays until the new one has been read."""

    opened = Signal(object)  # the file that was opened and is not of the demo
    follow = Signal(object)  # a picture was dropped to be followed as a print

    def __init__(self, context: Context, saving: Saving) -> None:
        super().__init__()
        self.context, self._saving = context, saving
        self.running: Job | None = None  # what is being read

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        return {commands.OPEN: self.ask_open}

    def ask_open(self) -> None:
        """Ask for a file and open it."""
        start, top = str(self.context.folders.files), self.context.top
        kinds = tr("Photographs and scripts ({pictures} *.kyano *.json);;All files (*)", pictures=PICTURES)
        name, _ = QFileDialog.getOpenFileName(top, spoken("Open a photograph or a script"), start, kinds)
        if name:
            self.open(Path(name))

    def open(self, path: Path, script: Path | Script | None = None, trusted: bool | None = None) -> Job | None:
        """Open a photograph or a script file; the present work stays until the new one is there.

        ``script``: what the photograph is opened with: a script, or the file of one.
        ``trusted``: whether pictures outside the script's own folder are used; None: that is asked if it has any.
        """
        if self.context.desk.edited and not self.may_lose():
            return None
        return self._fetch(path, script, trusted)

    def _fetch(self, path: Path, script: Path | Script | None, trusted: bool | None) -> Job:
        """Read it, and put it on the desk."""
        self.context.foot.say(tr("Opening {name}…", name=path.name), stay=True)
        present = self.context.desk.photo

        def work(job: Job) -> Opened | _Outside:
            if path.suffix.lower() in (SUFFIX, ".json"):
                return _open_script(path, present, trusted, job)
            made = read_script(script).script if isinstance(script, Path) else script or Script()
            photo = open_preview(path) or open_for_screen(path, job.progress.emit, lambda: job.stopping)
            return Opened(photo, made, notes=photo.notes)

        job = self.context.jobs.run(work, Lane.READ, done=lambda found: self._found(path, found))
        self._follow(job)
        if not demo.holds(path.absolute()):
            self.context.folders.files = path.absolute().parent
        return job

    def _follow(self, job: Job) -> None:
        """Show how far reading is, where that takes long, and let it be stopped."""
        foot = self.context.foot

        def over() -> None:
            if self.running is job:
                self.running = None
                foot.show_progress(None)

        def progress(share: float) -> None:
            if self.running is job:
                foot.show_progress(share, "Stop opening; what is open stays")

        self.running = job
        job.progress.connect(progress)
        job.failed.connect(foot.warn)
        job.cancelled.connect(lambda: foot.say("Stopped; nothing was opened"))
        job.ended.connect(over)

    def _found(self, path: Path, found: Opened | _Outside) -> None:
        if isinstance(found, _Outside):
            self._ask_trust(path, found.pictures)
            return
        self.put_on_desk(found)
        if not demo.holds(found.photo.path):
            self.opened.emit(found.file or found.photo.path)
        self.context.foot.say("; ".join(found.notes), stay=bool(found.notes))
        if found.photo.stand_in:
            self._develop(found.photo)

    def _develop(self, preview: Photo) -> None:
        """Read the raw whose preview stands in for it; what has been done by then stays."""
        context = self.context
        context.foot.say(tr("The camera's own preview, until {name} is developed…", name=preview.path.name), stay=True)

        def done(photo: Photo) -> None:
            if context.desk.photo is preview:
                context.desk.exchange(photo)
                context.foot.say("; ".join(photo.notes), stay=bool(photo.notes))
                self._sum_up(photo)

        context.jobs.run(lambda _: open_photo(preview.path, half=True), Lane.READ, done=done, failed=context.foot.warn)

    def open_page(self, number: int) -> Job | None:
        """Another page of the file that is open, with all that has been done."""
        photo = self.context.desk.photo
        if photo is None or photo.page == number:
            return None
        self.context.foot.say(tr("Opening page {number} of {name}…", number=number, name=photo.path.name), stay=True)

        def done(found: Photo) -> None:
            if self.context.desk.photo is photo:
                self.context.desk.exchange(found)
                self.context.foot.say("")

        def work(job: Job) -> Photo:
            return open_for_screen(photo.path, job.progress.emit, lambda: job.stopping, number)

        job = self.context.jobs.run(work, Lane.READ, done=done)
        self._follow(job)
        return job

    def put_on_desk(self, found: Opened, safe: bool = True) -> None:
        """The document is another one; ``safe``: closing it would lose nothing."""
        pictures = Pictures(found.photo.path, found.file, found.refused)
        self.context.desk.open(found.photo, found.script, found.file, safe, found.digest, pictures)
        if not found.photo.stand_in:
            self._sum_up(found.photo)

    def _sum_up(self, photo: Photo) -> None:
        """Its digest: saving needs it, and must not wait for a large file to be read again."""
        self.context.jobs.run(lambda _: keep(photo), Lane.READ)
        original = photo.original
        if original is not None:
            self.context.jobs.run(lambda _: original.digest(), Lane.READ)

    def _ask_trust(self, path: Path, pictures: tuple[Path, ...]) -> None:
        """A script from anybody may name any file: tell which, and ask."""
        self.context.foot.say("")
        named = [str(picture) for picture in pictures[:_NAMED]]
        if len(pictures) > _NAMED:
            named.append(tr("and {count} more", count=len(pictures) - _NAMED))
        answer = ask(
            self.context.top,
            tr("{name} uses pictures outside its own folder:", name=path.name),
            "\n".join(named) + "\n\nIf the script is not yours, look at whether you want to use them.",
            ("Use them", "Leave them out", "Do not open it"),
        )
        if answer != "Do not open it":
            self._fetch(path, None, answer == "Use them")

    def may_lose(self) -> bool:
        """Ask before work is lost; True to go on."""
        answers = ("Save…", "Go on without saving", "Stay")
        answer = ask(self.context.top, "The script has changes that are not saved.", "", answers)
        if answer == "Go on without saving":
            return True
        if answer == "Save…" and self._saving.save() is not None:
            until(lambda: self._saving.running is None)
        return not self.context.desk.edited

    def drag(self, event: QDragEnterEvent) -> None:
        """Something is dragged over the window."""
        if any(url.isLocalFile() for url in event.mimeData().urls()):
            event.acceptProposedAction()

    def drop(self, event: QDropEvent, view: View | None) -> None:
        """It is dropped there; a view may have a use for it of its own. With Ctrl held it is a print to follow."""
        files = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if files:
            event.acceptProposedAction()
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier and self.context.desk.photo is not None:
                self.follow.emit(files[0])
            elif view is None or not view.take_drop(files):
                self.open(files[0])


def _open_script(path: Path, present: Photo | None, trusted: bool | None, job: Job) -> Opened | _Outside:
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
    notes = tuple(tr("{name} is left out", name=picture.name) for picture in others if picture != named)
    if found.photo is None:
        assert present is not None
        return Opened(
            present,
            found.script,
            path,
            found.digest,
            (tr("{name} is on {name2}", name=path.name, name2=present.path.name), *notes),
            others,
        )
    if named in others:
        raise FileError(path, "its photograph was left out", "Open the photograph first, then this script")
    assert named is not None
    if not named.exists():
        raise FileError(
            path, tr("its photograph {named} is not there", named=named), "Put it back, or open it and then this script"
        )
    photo = open_preview(named) or open_for_screen(named, job.progress.emit, lambda: job.stopping, found.photo.page)
    if photo.original is not None and photo.original.digest() != found.photo.sha256:
        notes = (tr("{name} has changed since the script was saved", name=photo.path.name), *notes)
    return Opened(photo, found.script, path, found.digest, (*notes, *photo.notes), others)
