"""Saving the script, and noticing that somebody else has been at its files."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QObject
from PySide6.QtWidgets import QFileDialog

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.base.errors import ChangedOnDisk, FileError
from kyanoscript.files.base.opening import sha256
from kyanoscript.files.kept.scriptfile import SUFFIX, PhotoRef, write_script
from kyanoscript.files.kept.trust import allow
from kyanoscript.files.photos.photo import Photo
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.service.results import Survey


class _PhotoChanged(FileError):
    """The photograph on the disk is not the one on the bench any more."""


class Saving(QObject):
    """Knows what lies on the disk."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.running: Job | None = None
        self._on_disk: dict[Path, str] = {}  # what script files were when last read or written here, by SHA-256
        self._accepted: Photo | None = None  # saved although the file on the disk is another one now
        self._survey: Survey | None = None  # the latest of this photograph
        self._told = ""  # what was said of files that others have changed
        context.service.answers(Survey).connect(self._keep)
        context.desk.photo_changed.connect(self._new_photo)

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        return {commands.SAVE: self.save, commands.SAVE_AS: self.save_as}

    def _keep(self, survey: Survey) -> None:
        self._survey = survey

    def _new_photo(self) -> None:
        desk = self.context.desk
        self._survey, self._accepted = None, None
        self._on_disk = {desk.file: desk.digest} if desk.file is not None else {}

    def save(self) -> Job | None:
        """Save the script where it was saved before, or ask."""
        file = self.context.desk.file
        return self.save_to(file) if file else self.save_as()

    def save_as(self) -> Job | None:
        """Ask for a name and save."""
        photo = self.context.desk.photo
        if photo is None:
            return None
        start = self.context.folders.files / f"{photo.path.stem}{SUFFIX}"
        top = self.context.top
        name, _ = QFileDialog.getSaveFileName(top, spoken("Save the script"), str(start), "Scripts (*.kyano *.json)")
        if not name:
            return None
        path = Path(name)
        return self.save_to(path if path.suffix else path.with_suffix(SUFFIX))

    def save_to(self, path: Path, over: bool = False) -> Job | None:
        """Save the script into a file; ``over``: whatever has happened to the file and the photograph since."""
        desk = self.context.desk
        photo, script, pictures, survey = desk.photo, desk.whole, desk.pictures, self._survey
        if photo is None or pictures is None:
            return None
        on_disk, again = self._on_disk, path == desk.file and not over
        asked = over or self._accepted is photo

        def work(_: Job) -> str:
            original = photo.original
            if not asked and original is not None and original.state() == "changed":
                raise _PhotoChanged(photo.path, "the photograph on the disk is not the one on the bench any more")
            reference = PhotoRef(photo.path.absolute(), original.digest() if original else "", *photo.size, photo.page)
            used = pictures.files(script)
            # What lies there is known by the file's own thread: two saves in a row are no strangers to each other.
            known = on_disk.get(path, "") if again else None
            digest = on_disk[path] = write_script(path, script, reference, _preview(survey), used, known)
            allow(path, [reference.path, *(file for file in used if file not in pictures.refused)])
            return digest

        self.running = job = self.context.jobs.run(
            work,
            done=lambda digest: self._saved(path, script, digest),
            failed=lambda text: self._not_saved(job, path, text),
        )
        return job

    def _saved(self, path: Path, script: Script, digest: str) -> None:
        self.running = None
        if not demo.holds(path.absolute()):
            self.context.folders.files = path.absolute().parent
        self.context.desk.saved_as(path, script, digest)
        self.context.foot.say(tr("Saved {name}", name=path.name))

    def _not_saved(self, job: Job, path: Path, text: str) -> None:
        """Say why; where another hand has been at work, ask what is to be done."""
        self.running = None
        photo, top = self.context.desk.photo, self.context.top
        if isinstance(job.error, ChangedOnDisk):
            answer = ask(
                top,
                tr("{name} has been changed by another program or window since it was opened here.", name=path.name),
                "Replacing it would lose what was done there.",
                ("Replace it", "Save under another name…", "Stay"),
            )
            if answer == "Replace it":
                self.save_to(path, over=True)
            elif answer != "Stay":
                self.save_as()
        elif isinstance(job.error, _PhotoChanged) and photo is not None:
            answer = ask(
                top,
                tr("{name} on the disk is not the photograph on the bench any more.", name=photo.path.name),
                "The script would be saved with the name of the new file and the mark of the one that was opened.",
                ("Save all the same", "Stay"),
            )
            if answer != "Stay":
                self._accepted = photo
                self.save_to(path)
        else:
            self.context.foot.say(text, warning=True, stay=True)

    def look_again(self) -> None:
        """Coming back to the window: say if its files have been changed meanwhile."""
        photo, file, on_disk = self.context.desk.photo, self.context.desk.file, self._on_disk
        if photo is None or photo.original is None:
            return
        original = photo.original

        def work(_: Job) -> str:
            if original.state() == "changed":
                return tr(
                    "{name} has changed on the disk; the photograph on the bench is the one that was opened",
                    name=photo.path.name,
                )
            if file is not None and file in on_disk and file.exists() and sha256(file) != on_disk[file]:
                return tr(
                    "{name} has been changed by another program or window since it was opened here", name=file.name
                )
            return ""

        self.context.jobs.run(work, Lane.READ, done=self._tell_change, failed=lambda _: None)

    def _tell_change(self, text: str) -> None:
        if text and text != self._told:
            self.context.foot.say(text, warning=True, stay=True)
        self._told = text

    def drawn(self) -> Survey | None:
        """The print as it was last seen whole; None before that."""
        return self._survey


def _preview(survey: Survey | None) -> bytes | None:
    """A small PNG of the print, for file managers: as it is on the screen already."""
    if survey is None:
        return None
    data = QByteArray()
    buffer = QBuffer(data)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    display.view(survey.kept).save(buffer, "PNG")  # type: ignore[call-overload]  # a device is taken, too
    return bytes(data.data())
