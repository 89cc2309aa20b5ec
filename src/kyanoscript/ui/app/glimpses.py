"""Keeps a small picture of the print on the easel, for the next start (see `kyanoscript.files.kept.glimpses`)."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QObject, Qt, QTimer
from PySide6.QtGui import QImage

from kyanoscript import demo
from kyanoscript.core.script import Script
from kyanoscript.files.kept import glimpses
from kyanoscript.files.kept.scriptfile import read_script
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.service.views import Look

_STILL = 1200  # milliseconds that a print must have stood on the easel
_QUALITY = 85


class Glimpses(QObject):
    """Looks at the easel when the hand has rested for a while."""

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self._kept: tuple[Path | None, Look] | None = None
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_STILL)
        self._soon.timeout.connect(self.keep)
        context.easel.painted.connect(lambda _: self._soon.start())
        context.desk.history_changed.connect(self._soon.start)

    def keep(self) -> None:
        """Keep the print, if it is all on the easel and lies safely in its file."""
        desk, easel = self.context.desk, self.context.easel
        frame, photo = easel.frame, desk.photo
        if frame is None or photo is None or photo.stand_in or desk.edited:
            return
        whole = (frame.rect.width, frame.rect.height) == desk.print_size(frame.scale)
        if frame.coarse or frame.look.script != desk.script or not whole or self._kept == (desk.file, frame.look):
            return
        self._kept = (desk.file, frame.look)
        file, path, script, image = desk.file, photo.path, desk.script, easel.image.copy()
        self.context.jobs.run(lambda _: _write(file or _opened(path, script), image))


def _opened(photo: Path, script: Script) -> Path | None:
    """What was opened so that a photograph is there with a script that lies in no file of the person's."""
    first = demo.PRINTS[0]
    if photo == first.photo and script == read_script(first.script).script:
        return first.script
    return photo if script == Script() else None


def _write(file: Path | None, image: QImage) -> None:
    target = glimpses.place(file) if file is not None else None
    if target is None or target.exists():
        return
    if max(image.width(), image.height()) > glimpses.LONGEST:
        longest, smooth = glimpses.LONGEST, Qt.TransformationMode.SmoothTransformation
        image = image.scaled(longest, longest, Qt.AspectRatioMode.KeepAspectRatio, smooth)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    if image.save(buffer, "JPEG", _QUALITY):  # type: ignore[call-overload]
        glimpses.keep(target, bytes(buffer.data().data()))
