"""Charts of a process read: from scans, lists, the bench densitometer, the bench darkroom. All in other threads."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from kyanoscript.core.late import cv2
from kyanoscript.core.picture import Rect, read
from kyanoscript.core.print.chart import film_of
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import Chart, wedge
from kyanoscript.core.process.process import Process, Reading
from kyanoscript.core.process.reading import Scan
from kyanoscript.core.process.taken import strip_of, taken
from kyanoscript.files.kept import cgats, processfile
from kyanoscript.files.photos.photo import open_photo
from kyanoscript.files.prints import chartfiles
from kyanoscript.files.standins import darkroom
from kyanoscript.translation import tr
from kyanoscript.ui.easel.foot import Foot
from kyanoscript.ui.jobs.lanes import Job, Jobs, Lane, in_words
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet.process.shelf import Shelf

_LONGER = 1400  # pixels of the picture of a scan that is shown
_EARLY, _LATE = 100.0, 6.0  # a strip of exposures in the bench darkroom: a part of the time, and times it

Pixels = NDArray[np.uint8]
Found = tuple[Process, list[str], Scan, Pixels]


@dataclass
class Picture:
    """A scan on the screen."""

    image: QImage
    scale: float  # of the picture against the scan that was read
    scan: Scan
    proving: bool = False


class Readings(QObject):
    """Reads, and changes the process by what was read."""

    took = Signal(bool)  # readings came; whether they are of a proof
    pictured = Signal()  # a picture of a scan came

    def __init__(self, shelf: Shelf, jobs: Jobs, foot: Foot) -> None:
        super().__init__()
        self.shelf, self._jobs, self._foot = shelf, jobs, foot
        self.adding = False  # new readings join the old
        self.pictures: dict[tuple[str, bool], Picture] = {}  # by a process's name, and whether it is a proof
        self._seed = 1

    def practise(self, chart: Chart, bath: str, proving: bool = False) -> Job:
        """Expose a chart in the bench darkroom, scan and read it."""
        process, adding = self.shelf.process, self.adding
        strip: tuple[float, ...] = ()
        if chart.covered:
            strip = strip_of(f"{process.minutes / _EARLY:g}..{process.minutes * _LATE:g}")
        self._seed += 1
        seed = self._seed

        def work() -> Found:
            picture, scan = darkroom.practised(process, BATHS[bath], chart, proving, strip, seed)
            made, said = taken(process, scan, proving, adding, strip)
            return made, said, scan, picture

        label = BATHS[bath].label.lower()
        self._foot.say(tr("Exposing in the bench darkroom: {label}…", label=label))
        return self._read("Bench darkroom", work, proving, tr("{label} exposed and read", label=label))

    def read(self, path: Path, proving: bool = False, strip: tuple[float, ...] = ()) -> Job:
        """Read a scan; ``strip``: minutes of each patch, of a strip of exposures."""
        process, adding = self.shelf.process, self.adding

        def work() -> Found:
            scan, picture = _opened(path, process.white)
            made, said = taken(process, scan, proving, adding, strip)
            return made, said, scan, picture

        return self._read(path.name, work, proving, tr("{name} read", name=path.name))

    def _read(self, name: str, work: Callable[[], Found], proving: bool, words: str) -> Job:
        process = self.shelf.process

        def done(found: Found) -> None:
            made, said, scan, picture = found
            if self.shelf.process.name != process.name:
                self._foot.say(
                    tr(
                        "It was read for {name}, and another is looked at by now; read it again there",
                        name=process.name,
                    )
                )
                return
            # What was changed meanwhile stays.
            self.shelf.put(words, **{name: value for name, value in made if value != getattr(process, name)})
            self.take_picture(self.shelf.process.name, proving, scan, picture)
            self.took.emit(proving)
            told = "; ".join([*scan.said(), *said])
            self._foot.say(told[:1].upper() + told[1:])

        return self._jobs.run(in_words(name, lambda job: work()), Lane.READ, done=done, failed=self._foot.warn)

    def take_picture(self, name: str, proving: bool, scan: Scan, picture: Pixels) -> None:
        """A picture of what was read."""
        high, wide = picture.shape[:2]
        scale = min(1.0, _LONGER / max(high, wide))
        small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else picture
        rgb = np.ascontiguousarray(np.asarray(small).transpose(2, 0, 1), np.float32) / np.float32(255)
        self.pictures[name, proving] = Picture(display.colours(rgb), scale, scan, proving)

    def find_demo(self, process: Process) -> None:
        """The scan that ships with a process of the demo."""
        path = processfile.demo_folder() / f"{process.name}.scan.jpg"
        if (process.name, False) in self.pictures or process not in self.shelf.ships:
            return

        def done(found: tuple[Scan, Pixels] | None) -> None:
            if found is not None:
                self.take_picture(process.name, False, *found)
                self.pictured.emit()

        self._jobs.run(lambda job: _opened(path) if path.exists() else None, Lane.READ).done.connect(done)

    def renamed(self, old: str, new: str) -> None:
        """A process has another name."""
        for proving in (False, True):
            if (old, proving) in self.pictures:
                self.pictures[new, proving] = self.pictures[old, proving]

    # Without a scan

    def take_list(self, readings: tuple[Reading, ...]) -> None:
        """Readings that were typed, measured, or came from a file."""
        self.pictures.pop((self.shelf.process.name, False), None)
        self.shelf.replace(f"{len(readings)} readings", self.shelf.process.read(readings, self.adding))
        self._foot.say(tr("{count} readings taken", count=len(readings)))

    def read_list(self, path: Path) -> Job:
        """Read a file of readings."""
        return self._jobs.run(
            lambda job: cgats.read_readings(path), Lane.READ, done=self.take_list, failed=self._foot.warn
        )

    def measure(self, bath: str) -> Job:
        """The bench densitometer: the wedge patch after patch."""
        process, chart = self.shelf.process, wedge(self.shelf.process.steps)
        self._seed += 1
        seed = self._seed

        def work() -> tuple[Reading, ...]:
            film = film_of(chart, process.with_(mirrored=False), darkroom.FINE)
            planes = film.region(Rect(0, 0, *film.size(1.0)))
            rows = darkroom.densitometer(BATHS[bath], chart, planes, darkroom.FINE, process.minutes, seed)
            return cgats.typed("\n".join(f"{value} {density}" for value, density in rows), "density")

        return self._jobs.run(
            in_words("Bench densitometer", lambda job: work()), Lane.READ, done=self.take_list, failed=self._foot.warn
        )

    # By hand

    def used(self, picture: Picture) -> tuple[bool, ...]:
        """Which patches of a scan count."""
        first = self._first(picture)
        if first < 0:
            return tuple(not one.damage for one in picture.scan.patches)
        return tuple(one.used for one in self.shelf.process.readings[first:])

    def toggle(self, picture: Picture, at: int) -> None:
        """Leave a reading out, or take it back."""
        first, readings = self._first(picture), list(self.shelf.process.readings)
        if first < 0:
            return
        one = readings[first + at]
        readings[first + at] = one.model_copy(update={"used": not one.used})
        words = tr("patch of {value:g} % {used}", value=one.value, used="left out" if one.used else "taken back")
        self.shelf.put(words, readings=tuple(readings))

    def _first(self, picture: Picture) -> int:
        """Where the readings of a scan begin among those of the process; −1: it has none."""
        if picture.proving or not picture.scan.chart.strip:
            return -1
        return len(self.shelf.process.readings) - len(picture.scan.patches)


def _opened(path: Path, white: float = 0.0) -> tuple[Scan, Pixels]:
    """Read a scan, and have a picture of it. Raises FileError."""
    scan = chartfiles.read_scan(path, white or None)
    photo = open_photo(path, hold=False)
    scale = min(1.0, _LONGER / max(photo.width, photo.height))
    size = max(1, round(photo.width * scale)), max(1, round(photo.height * scale))
    planes = read(photo.source, Rect(0, 0, *size), scale)
    whole = np.rint(np.clip(planes if len(planes) == 3 else np.repeat(planes, 3, axis=0), 0, 1) * 255).astype(np.uint8)
    return scan.enlarged(scale), np.ascontiguousarray(whole.transpose(1, 2, 0))
