"""The window drawn into a file; and whether what was drawn is what a person should see."""

from __future__ import annotations

import os
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QRectF, QTimer
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from kyanoscript.files.base import log
from kyanoscript.terminal import FAULT, OK, complain
from kyanoscript.translation import tr
from kyanoscript.ui.app.window import Window

_PATIENCE = 120.0  # seconds that the print may take
_APART = 3  # of 255: so far the middle pixel of the drawn print may be from the print that was rendered


def draw(window: Window, target: Path, asked: bool, failed: list[str], warned: list[str]) -> int:
    """Wait for the whole print, draw the window into a file and leave; returns the exit status.

    ``asked``: a print is to be on it; ``failed``: why it could not be opened; ``warned``: what the foot warned of.
    Status 1, and a line on standard error for each reason, where the picture does not show what it should.
    """
    quiet = settle(window, _PATIENCE)
    status = OK
    if failed:
        status = complain(failed[0])
    else:
        drawn = window.window().grab()
        if not drawn.save(str(target), "PNG"):
            status = complain(tr("{name} could not be written. Check the folder", name=target.name))
        else:
            print(tr("The window was drawn into {target}", target=os.path.abspath(target)))
            for said in _wrong(window, drawn.toImage(), asked, quiet, warned):
                complain(said)
                status = FAULT
    window.desk.saved_as(window.desk.file, window.desk.whole)
    window.close()
    return status


def settle(window: Window, seconds: float = _PATIENCE) -> bool:
    """Let the window work until nothing is under way, nor about to begin; whether it came to that in time."""

    def about_to_begin(timer: QTimer) -> bool:
        return timer.isActive() and timer.isSingleShot() and timer.interval() < 100

    end = time.monotonic() + seconds
    quiet = 0
    while quiet < 5 and time.monotonic() < end:
        QApplication.processEvents()
        busy = window.jobs.busy or not window.service.idle()
        busy = busy or any(map(about_to_begin, window.window().findChildren(QTimer)))
        quiet = 0 if busy else quiet + 1
        time.sleep(0.002)
    return quiet >= 5


def _wrong(window: Window, drawn: QImage, asked: bool, quiet: bool, warned: list[str]) -> list[str]:
    """What keeps the picture from showing what it should."""
    said = [tr("the window warns: {text}", text=text) for text in dict.fromkeys(warned)]
    if asked and not quiet:
        said.append(tr("the print was not ready after {patience:.0f} seconds", patience=_PATIENCE))
    elif asked and not _shows_the_print(window, drawn):
        said.append("the print is not on the picture")
    if log.faults():
        said.append(tr("something went wrong that should not; what it was stands in {log}", log=log.path()))
    return said


def _shows_the_print(window: Window, drawn: QImage) -> bool:
    """Whether the whole print, as it was rendered for this script, is what the picture has where the print lies."""
    easel = window.easel
    place, ratio = easel.place(), easel.devicePixelRatioF()
    if not easel.complete or place.isEmpty():
        return False
    corner = easel.mapTo(window.window(), easel.rect().topLeft())
    lies = QRectF(place.x() + corner.x() * ratio, place.y() + corner.y() * ratio, place.width(), place.height())
    there = _gray(drawn.copy(lies.toRect()))
    wanted = _gray(easel.image.scaled(there.shape[1], there.shape[0]))
    # The middle one of all: handles, and the print at arm's length in its corner, lie over some of them.
    return float(np.median(np.abs(there - wanted))) <= _APART


def _gray(image: QImage) -> np.ndarray:
    """Grays 0…255 of a picture."""
    plain = image.convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : plain.width()].astype(np.float64)
