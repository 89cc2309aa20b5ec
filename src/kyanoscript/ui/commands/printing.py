"""Writing prints into files."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple, TypeVar

from PySide6.QtCore import QMimeData, QObject, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import QDrag, QGuiApplication, QImage, QPixmap

from kyanoscript.core.script import Script
from kyanoscript.files.photos.photo import Photo
from kyanoscript.files.prints.settings import Settings
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.jobs.lanes import Job, Lane, in_words

if TYPE_CHECKING:
    from kyanoscript.files.prints.out import Out, What, Written

W = TypeVar("W", bound="What")
_AS_USUAL = Settings()
_DRAGGED = 160  # pixels of the small print under the pointer
_COPIED = 4096  # pixels of the longer side, at most: what is on the clipboard is held by every program that looks


_FOR_OTHERS = Settings(bits=8, profile="srgb", notes="none", longer_side=_COPIED)


class Carried(NamedTuple):
    """A print that is ready to be dragged."""

    of: tuple[Photo, Script]
    path: Path
    image: QImage
    small: QImage


class Printing(QObject):
    """One print at a time, with progress in the foot."""

    wrote = Signal(tuple)  # files

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.running: Job | None = None
        self._settings = Settings()
        self._folder: tempfile.TemporaryDirectory[str] | None = None  # of what is dragged: it is read after the drop
        self._carried: Carried | None = None
        context.easel.taken_out.connect(self.drag_out)

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        return {commands.EXPORT: self.ask_export, commands.COPY_PRINT: self.copy}

    def ask_export(self) -> None:
        """Ask how and where to, then export."""
        desk, folders = self.context.desk, self.context.folders
        photo = desk.photo
        if photo is None:
            return
        if photo.stand_in:
            self.context.foot.say("The raw is being developed; it can be exported in a moment", warning=True)
            return
        target = (folders.prints or folders.files) / f"{photo.path.stem}-print.tif"
        from kyanoscript.ui.commands.export_dialog import ExportDialog  # not needed for a first look

        # Of a raw half of the pixels are on the bench, and all of them are written.
        times = max(photo.size) / max(photo.width, photo.height)
        width, height = (round(side * times) for side in desk.print_size())
        dialog = ExportDialog(self.context.top, target, (width, height), self._settings, photo.ppi)
        if dialog.exec():
            self.export(*dialog.result_settings())

    def export(self, path: Path, settings: Settings) -> Job | None:
        """Write the print into a file."""
        from kyanoscript.files.prints.whole import WholePrint

        self._settings = settings
        ending = self.context.desk.script.ending
        found = tr("it shows what {title} found, not a print", title=ending.title) if ending is not None else ""
        return self.write(WholePrint(), path, settings, remark=found)

    def copy(self) -> Job | None:
        """Put the print on the clipboard, as other programs have pictures: in sRGB, and not larger than they like."""
        from kyanoscript.files.prints.out import write
        from kyanoscript.files.prints.whole import WholePrint

        out = self.out(WholePrint(), Path("print.png"), _FOR_OTHERS)
        if out is None or self.busy():
            return None

        def work(job: Job) -> QImage:
            with tempfile.TemporaryDirectory(prefix="kyanoscript-") as folder:
                target = Path(folder) / "print.png"
                write(replace(out, target=target), job.going)
                return QImage(str(target))

        def told(image: QImage) -> tuple[str, bool]:
            QGuiApplication.clipboard().setImage(image)
            return tr("Copied the print, {image} × {image2} pixels", image=image.width(), image2=image.height()), False

        return self.start("Copying the print…", work, told, "Stopped; nothing was copied")

    def drag_out(self) -> Job | None:
        """The print is dragged into another program or folder: as a file, as soon as that is written."""
        from kyanoscript.files.prints.out import write
        from kyanoscript.files.prints.whole import WholePrint

        photo, made = self.context.desk.photo, self._carried
        if made is not None and made.of == (photo, self.context.desk.script):
            self.carry(made)
            return None
        if photo is None or self.busy():
            return None
        out = self.out(WholePrint(), Path(f"{photo.path.stem}-print.png"), _FOR_OTHERS)
        if out is None:
            return None

        def work(job: Job) -> Carried:
            if self._folder is None:
                self._folder = tempfile.TemporaryDirectory(prefix="kyanoscript-")
            target = Path(tempfile.mkdtemp(dir=self._folder.name)) / out.target.name
            write(replace(out, target=target), job.going)
            image = QImage(str(target))
            return Carried((photo, out.script), target, image, image.scaledToWidth(_DRAGGED))

        def told(made: Carried) -> tuple[str, bool]:
            self._carried = made
            if not QGuiApplication.mouseButtons() & Qt.MouseButton.LeftButton:
                return "The print is ready now: drag it once more, and drop it where it is wanted", False
            QTimer.singleShot(0, lambda: self.carry(made))  # a drag has an event loop of its own
            return "Drop the print where it is wanted", False

        return self.start("The print is made ready to be dragged…", work, told, "Stopped; nothing is dragged")

    def carry(self, made: Carried) -> Qt.DropAction:
        """Drag a file of the print, with its picture for programs that want that."""
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(made.path))])
        mime.setImageData(made.image)
        drag = QDrag(self.context.easel)
        drag.setMimeData(mime)
        drag.setPixmap(QPixmap.fromImage(made.small))
        return drag.exec(Qt.DropAction.CopyAction)

    def end(self) -> None:
        """The window closes: what was dragged is read by now."""
        if self._folder is not None:
            self.context.jobs.last(self._folder.cleanup)

    def out(self, what: W, target: Path, settings: Settings) -> Out[W] | None:
        """What is to be written of the photograph on the bench; None if it cannot be now, which is said."""
        from kyanoscript.files.prints.out import Out  # not needed for a first look

        desk = self.context.desk
        if desk.photo is None or desk.pictures is None:
            return None
        if desk.photo.stand_in:
            self.context.foot.say("The raw is being developed; it can be printed in a moment", warning=True)
            return None
        never = (desk.file,) if desk.file else ()
        return Out(desk.photo, desk.script, desk.pictures, target, what, settings, never)

    def write(
        self, what: What, path: Path, settings: Settings = _AS_USUAL, words: str = "", remark: str = ""
    ) -> Job | None:
        """Write into a file, or files; ``words``: what is being written, before the name; ``remark``: a warning."""
        from kyanoscript.files.prints.out import write

        out = self.out(what, path, settings)
        if out is None or self.busy():
            return None
        self.context.folders.prints = path.absolute().parent

        def told(made: Written) -> tuple[str, bool]:
            self.wrote.emit(tuple(made.files))
            names = ", ".join(file.name for file in made.files)
            more = "".join(f"; {line}" for line in (*made.remarks, *([remark] if remark else [])))
            return tr(
                "Wrote {names}, {width} × {height} pixels{more}",
                names=names,
                width=made.width,
                height=made.height,
                more=more,
            ), bool(more)

        return self.start(
            tr("Writing {words}{name}…", words=words, name=path.name),
            in_words(path.name, lambda job: write(out, job.going)),
            told,
        )

    def busy(self) -> bool:
        """Whether something is being written already; then that is said."""
        if self.running is not None:
            self.context.foot.say("A print is being written already; wait or press Stop", warning=True)
        return self.running is not None

    def start(
        self, words: str, work: Callable[[Job], Any], told: Callable[[Any], tuple[str, bool]], stopped: str = ""
    ) -> Job:
        """Write something in another thread; ``told``: what is said of what came of it, and whether it warns."""
        foot = self.context.foot
        self.running = job = self.context.jobs.run(work, Lane.LONG)
        foot.say(words, stay=True)
        foot.show_progress(0.0)
        job.progress.connect(foot.show_progress)
        job.done.connect(lambda made: self._over(*told(made)))
        job.cancelled.connect(lambda: self._over(stopped or "Stopped; nothing was written"))
        job.failed.connect(lambda text: self._over(text, warning=True))
        return job

    def _over(self, text: str, warning: bool = False) -> None:
        self.running = None
        self.context.foot.show_progress(None)
        self.context.foot.say(text, warning=warning, stay=warning)
