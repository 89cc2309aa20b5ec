"""Processes in the window: which is looked at, at which step, and what is done with it.

Everything that reads, renders or works out is done in other threads. One's own processes are kept by themselves, a
moment after they were changed; what was done can be taken back.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QPoint, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QWidget

from kyanoscript.core.picture import Rect, read
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.chart import Chart, inks, times, wedge
from kyanoscript.core.process.process import AS_IT_IS, Process, Reading
from kyanoscript.core.process.reading import Scan
from kyanoscript.core.process.response import summed
from kyanoscript.core.process.taken import proved, strip_of, taken
from kyanoscript.files import cgats, chartfiles, darkroom, processfile
from kyanoscript.files.errors import FileError
from kyanoscript.files.opening import PICTURES
from kyanoscript.files.photo import open_photo
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet.process.graph import CurveView
from kyanoscript.ui.sheet.process.page import INKS, TIMES, ProcessPage, State
from kyanoscript.ui.sheet.process.scan import ScanView
from kyanoscript.ui.sheet.process.steps import CURVE, EXPOSE, PROVE, READ, WEDGE, Steps
from kyanoscript.ui.sheet.process.typing import Typing
from kyanoscript.ui.sheet.process.worked import Worked, work_out
from kyanoscript.ui.sheet.rack import Rack
from kyanoscript.ui.widgets.naming import Entry, Naming

_LONGER = 1400  # pixels of the picture of a scan that is shown
_STRIP = 12.0  # the longest time of a strip of exposures in the bench darkroom, of the process's own
_FILM = 72.0  # pixels per inch of the film that is shown


@dataclass
class Picture:
    """A scan on the screen."""

    image: QImage
    scale: float  # of the picture against the scan that was read
    scan: Scan
    proving: bool = False


@dataclass(frozen=True)
class _Before:
    """One thing that was done, to be taken back."""

    label: str
    processes: tuple[Process, ...]
    name: str


class ProcessWork(QObject):
    """Everything that the Process page shows, put together."""

    said = Signal(str)
    warned = Signal(str)
    changed = Signal()
    turned = Signal(str)  # to a page of the sheet
    used = Signal(str)  # this process, for the negative

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.rack = Rack("Processes", ("New process…", "Another way to print"), ("From a file…", "A process file"))
        self.scan, self.graph, self.page, self.steps = ScanView(), CurveView(), ProcessPage(), Steps()
        self.middle = QWidget()
        row = QHBoxLayout(self.middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.scan, 1)
        row.addWidget(self.graph, 1)
        self.own: tuple[Process, ...] = ()
        self.ships: tuple[Process, ...] = ()
        self.name = ""
        self.step, self.chart, self.bath, self.shown, self.adding = READ, "21", "cyanotype", "Both", False
        self.worked = Worked(AS_IT_IS)
        self.pictures: dict[tuple[str, bool], Picture] = {}  # by a process's name, and whether it is a proof
        self.film: dict[object, QImage] = {}
        self.naming: Naming | None = None
        self.typing: Typing | None = None
        self._loaded = False
        self._done: list[_Before] = []
        self._undone: list[_Before] = []
        self._drag: _Before | None = None
        self._working = False
        self._seed = 1
        self._connect()

    def _connect(self) -> None:
        page, rack = self.page, self.rack
        rack.chosen.connect(self.choose)
        rack.new.connect(self.add)
        rack.other.connect(self.ask_import)
        page.turned.connect(self.turned)
        page.changed.connect(lambda words, values: self.put(words, **values))
        page.began.connect(self._begin)
        page.ended.connect(self._commit)
        page.wanted.connect(self.do)
        page.chart_chosen.connect(self.set_chart)
        page.bath_chosen.connect(self.set_bath)
        page.showing.connect(self.set_shown)
        page.adding.connect(self.set_adding)
        page.refused.connect(self.said)
        self.steps.chosen.connect(self.go)
        self.steps.practise.connect(self.practise_wedge)
        self.scan.pressed.connect(self.toggle)
        self.scan.pointed.connect(self._tell_patch)
        self.graph.pointed.connect(lambda tone: self.context.foot.show_words(self.worked.at(tone) if tone >= 0 else ""))

    # Which process

    @property
    def processes(self) -> tuple[Process, ...]:
        """One's own, those that ship, and none."""
        names = {process.name for process in self.own}
        return (*self.own, *(process for process in self.ships if process.name not in names), AS_IT_IS)

    @property
    def process(self) -> Process:
        """The one that is looked at."""
        return next((process for process in self.processes if process.name == self.name), self.processes[0])

    @property
    def mine(self) -> bool:
        """Whether it is one's own."""
        return any(process.name == self.name for process in self.own)

    def named(self, name: str) -> Process | None:
        """A process by its name; None if there is none."""
        return next((process for process in self.processes if process.name == name), None)

    def load(self, then: Callable[[], None] = lambda: None) -> None:
        """Read what is kept, once."""
        if self._loaded:
            then()
            return

        def done(found: tuple[tuple[list[Process], list[str]], list[Process]]) -> None:
            (own, broken), ships = found
            self.own, self.ships, self._loaded = tuple(own), tuple(ships), True
            self.name = self.name or self.processes[0].name
            for line in broken[:1]:
                self.warned.emit(line)
            self._follow()
            then()

        job = self.context.jobs.run(lambda job: (processfile.kept(), processfile.demos()), Lane.READ)
        job.done.connect(done)
        job.failed.connect(self.warned)

    def enter(self) -> None:
        """It comes onto the screen."""
        self.load(self._show)
        self._show()

    def choose(self, at: int) -> None:
        """Look at another."""
        self.name = self.processes[at].name
        self.chart = str(self.process.steps)
        self._follow()

    def add(self) -> None:
        """A new one."""
        name = self._free("New process")
        self._change(f"New process: {name}", (*self.own, Process(name=name)), name)
        self.go(WEDGE)
        self.said.emit("Write its wedge first; F2 gives it a name and says what it is")

    def _free(self, name: str) -> str:
        names = {process.name for process in self.processes}
        return (
            name if name not in names else next(f"{name} {k}" for k in range(2, 10_000) if f"{name} {k}" not in names)
        )

    # Changing it

    def put(self, words: str, **values: Any) -> None:
        """Change values of the process; of one that ships or of none an own one is made."""
        self._put(words, self.process.with_(**values))

    def _put(self, words: str, made: Process) -> None:
        if made == self.process:
            return
        if self.process is AS_IT_IS and made.name == AS_IT_IS.name:
            made = made.with_(name=self._free("New process"), notes="")
        others = tuple(process for process in self.own if process.name != self.name)
        own = tuple(made if process.name == self.name else process for process in self.own)
        self._change(f"Process: {words}", own if self.mine else (*others, made), made.name)

    def _change(self, label: str, own: tuple[Process, ...], name: str) -> None:
        before = _Before(label, self.own, self.name)
        self.own, self.name = own, name
        if self._drag is None:
            self._done.append(before)
            self._undone.clear()
            self._keep(before.processes)
        self._follow()

    def _begin(self) -> None:
        self._drag = _Before("Process", self.own, self.name)

    def _commit(self) -> None:
        before, self._drag = self._drag, None
        if before is not None and before.processes != self.own:
            self._done.append(replace(before, label="Process: smoothed" if self.step == CURVE else "Process: time"))
            self._undone.clear()
            self._keep(before.processes)
            self.changed.emit()

    def _keep(self, before: tuple[Process, ...]) -> None:
        """Files become what the processes are."""
        own = self.own

        def work(job: Job) -> None:
            names = {process.name for process in own}
            for process in before:
                if process.name not in names:
                    processfile.remove(process)
            for process in own:
                if process not in before:
                    processfile.keep(process)

        self.context.jobs.run(work, Lane.SHORT).failed.connect(self.warned)

    def undo(self) -> None:
        """Take the last change back."""
        self._swap(self._done, self._undone)

    def redo(self) -> None:
        """Do it again."""
        self._swap(self._undone, self._done)

    def _swap(self, of: list[_Before], to: list[_Before]) -> None:
        if not of:
            return
        there = of.pop()
        to.append(_Before(there.label, self.own, self.name))
        before, self.own, self.name = self.own, there.processes, there.name
        self._keep(before)
        self._follow()

    def undo_words(self) -> tuple[str, str]:
        """What would be taken back, and done again."""
        return (self._done[-1].label if self._done else ""), (self._undone[-1].label if self._undone else "")

    def remove(self) -> None:
        """Take the process away."""
        if not self.mine:
            self.said.emit(f"{self.process.name} is none of your own, and stays")
            return
        gone = self.name
        own = tuple(process for process in self.own if process.name != gone)
        self._change(f"Process {gone} taken away", own, gone)
        if self.named(gone) is None:
            self.name = self.processes[0].name
            self._follow()
        self.said.emit(f"{gone} was taken away; Ctrl+Z brings it back")

    def about(self) -> None:
        """Its name, and what it was made with."""
        process = self.process
        entries = [
            Entry("Name", process.name, "What it is called", longest=80),
            *(Entry(Process.params()[key].label, getattr(process, key), Process.params()[key].help)
              for key in ("paper", "chemistry", "light", "notes")),
        ]  # fmt: skip
        self.naming = Naming(self.context.top, entries)
        self.naming.named.connect(self._take_about)
        self.naming.pop_up(self.page.mapToGlobal(QPoint(-380, 40)), above=False)

    def _take_about(self, words: list[str]) -> None:
        name, paper, chemistry, light, notes = words
        name = " ".join(name.split()) or self.process.name
        if name != self.process.name and self.named(name) is not None:
            self.said.emit(f"There is a process {name} already")
            name = self.process.name
        for proving in (False, True):
            if (self.name, proving) in self.pictures:
                self.pictures[name, proving] = self.pictures[self.name, proving]
        self._put("about it", self.process.with_(name=name, paper=paper, chemistry=chemistry, light=light, notes=notes))

    # What is seen

    def go(self, step: int) -> None:
        """To another step."""
        self.step = step
        self._show()
        self.changed.emit()

    def set_chart(self, chart: str) -> None:
        """Another chart; of a wedge the process remembers which."""
        self.chart = chart
        if chart not in (TIMES, INKS) and int(chart) != self.process.steps and self.mine:
            self.put(f"wedge of {chart} steps", steps=int(chart))
        self._show()

    def set_bath(self, bath: str) -> None:
        """What the bench darkroom prints with."""
        self.bath = bath
        self._show()

    def set_shown(self, shown: str) -> None:
        """Scan, curve, or both."""
        self.shown = shown
        self._show()

    def set_adding(self, on: bool) -> None:
        """Whether new readings are averaged with the old."""
        self.adding = on

    def _follow(self) -> None:
        """Another process, or the same changed: work it out."""
        self._show()
        self.changed.emit()
        if self._working:
            return
        self._working = True
        process = self.process

        def done(found: Worked) -> None:
            self._working = False
            self.worked = found
            if self.process != process:
                self._follow()
            self._show()

        job = self.context.jobs.run(lambda job: work_out(process), Lane.READ)
        job.done.connect(done)
        job.failed.connect(self.warned)
        self._find_scan(process)

    def _find_scan(self, process: Process) -> None:
        """The scan that ships with a process of the demo."""
        path = processfile.demo_folder() / f"{process.name}.scan.jpg"
        if (process.name, False) in self.pictures or process not in self.ships:
            return

        def work(job: Job) -> tuple[Scan, NDArray[np.uint8]] | None:
            return _read(path) if path.exists() else None

        def done(found: tuple[Scan, NDArray[np.uint8]] | None) -> None:
            if found is not None:
                self._take_picture(process.name, False, *found)
                self._show()

        self.context.jobs.run(work, Lane.READ).done.connect(done)

    def chart_of(self) -> Chart:
        """The chart that is chosen."""
        return {TIMES: times, INKS: inks}.get(self.chart, lambda: wedge(int(self.chart)))()

    def _show(self) -> None:
        process, worked = self.process, self.worked
        if worked.process != process:
            worked = Worked(process)
        at = next(k for k, one in enumerate(self.processes) if one.name == process.name)
        self.rack.show_lines([(one.name, _about(one)) for one in self.processes], at)
        self.page.show_state(State(worked, self.step, self.chart, self.bath, self.shown, self.adding, self.mine))
        self.graph.show_worked(worked)
        picture = self._picture()
        self.steps.show_steps(self.step, self._words(worked), self._small(picture), worked)
        early = self.step in (WEDGE, EXPOSE)
        self.scan.setVisible(early or self.shown != "Curve")
        self.graph.setVisible(not early and self.shown != "Scan")
        if early:
            self._show_film()
        elif picture is not None:
            words = " · ".join(picture.scan.said()[:2])
            self.scan.show_scan(picture.image, picture.scan, picture.scale, self._used(picture), words)
        else:
            what = "proof" if self.step == PROVE else "wedge"
            self.scan.show_scan(None, None, 1.0, (), f"No scan of the {what} yet")

    def _picture(self) -> Picture | None:
        return self.pictures.get((self.process.name, self.step == PROVE))

    def _used(self, picture: Picture) -> tuple[bool, ...]:
        patches = picture.scan.patches
        mine = self.process.readings[-len(patches) :]
        if not picture.proving and len(mine) == len(patches) and picture.scan.chart.strip:
            return tuple(one.used for one in mine)
        return tuple(not one.damage for one in patches)

    def _words(self, worked: Worked) -> list[str]:
        process = worked.process
        count = sum(one.used for one in process.readings)
        total = len(process.readings)
        left = f"{summed(worked.left)[1]:.1f} L* at 95 %" if worked.left else "not yet"
        even = "no curve yet" if worked.response is None else f"even in {process.aim}"
        found = f"{count} of {total}" if total else "not yet"
        return [f"{process.steps} steps", f"{process.minutes:g} min", found, even, left]

    def _small(self, picture: Picture | None) -> list[QImage | None]:
        read_ = self.pictures.get((self.process.name, False))
        return [self.film.get(self._film_key()), None, read_.image if read_ is not None else None, None, None]

    def _film_key(self) -> tuple[object, ...]:
        process = self.process
        return self.chart, process.ink, process.negative, process.mirrored

    def _show_film(self) -> None:
        key, chart, process = self._film_key(), self.chart_of(), self.process
        known = self.film.get(key)
        what = "The film of it" if process.negative else "The sheet of it"
        words = f"{what}: {chart.width:g} × {chart.height:g} mm, {len(chart.patches)} patches"
        self.scan.show_scan(known, None, 1.0, (), words if known is not None else "")
        if known is not None:
            return

        def work(job: Job) -> NDArray[np.float32]:
            film = chartfiles.film_of(chart, process, _FILM)
            planes = film.region(Rect(0, 0, *film.size(1.0)))
            return planes if len(planes) == 3 else np.repeat(planes, 3, axis=0)

        def done(planes: NDArray[np.float32]) -> None:
            self.film[key] = display.colours(planes)
            if self._film_key() == key:
                self._show()

        self.context.jobs.run(work, Lane.READ).done.connect(done)

    def _tell_patch(self, at: int) -> None:
        picture = self._picture()
        if at < 0 or picture is None:
            self.context.foot.show_words("")
            return
        one = picture.scan.patches[at]
        words = f"Patch {one.patch.colour or f'{one.patch.value:g} %'}: L* {one.lab[0]:.1f}"
        if one.damage:
            words += f", left out: {one.damage}"
        elif not one.patch.colour and self.worked.response is not None:
            words = self.worked.at(one.patch.value).replace("Tone", "Patch", 1)
            words = words.replace(words.partition(": L* ")[2].partition(",")[0], f"{one.lab[0]:.1f}", 1)
        self.context.foot.show_words(words)

    def toggle(self, at: int) -> None:
        """Leave a reading out, or take it back."""
        picture, process = self._picture(), self.process
        if picture is None or picture.proving or self.step == PROVE:
            return
        first = len(process.readings) - len(picture.scan.patches)
        if first < 0 or not picture.scan.chart.strip:
            return
        one = process.readings[first + at]
        readings = list(process.readings)
        readings[first + at] = one.model_copy(update={"used": not one.used})
        self.put(f"patch of {one.value:g} % {'left out' if one.used else 'taken back'}", readings=tuple(readings))

    # What is done

    def do(self, word: str) -> None:
        """Something of the page's, by its word."""
        known: dict[str, Callable[[], object]] = {
            "write": self.ask_write, "practise": self.practise, "scan": self.ask_scan, "typed": self.type_in,
            "list": self.ask_list, "densitometer": self.measure, "use": lambda: self.used.emit(self.process.name),
            "proof": lambda: self.ask_write(proving=True), "scan proof": lambda: self.ask_scan(proving=True),
            "practise proof": lambda: self.practise(proving=True), "improve": self.improve, "about": self.about,
            "export": self.ask_export, "cgats": self.ask_cgats, "remove": self.remove,
        }  # fmt: skip
        known[word]()

    def _folder(self) -> Path:
        return self.context.folders.prints or self.context.folders.files

    def ask_write(self, proving: bool = False) -> None:
        """Ask where a chart goes, and write it."""
        if proving and self.worked.response is None:
            self.said.emit("There is no curve yet; read the wedge first")
            return
        chart = wedge(self.process.steps) if proving else self.chart_of()
        name = f"{self.process.name}-{chart.name.lower()}{'-proof' if proving else ''}".replace(" ", "-").replace(
            ",", ""
        )
        path, _ = QFileDialog.getSaveFileName(
            self.context.top,
            "Write the chart",
            str(self._folder() / f"{name}.tif"),
            "TIFF (*.tif);;PNG (*.png);;PDF (*.pdf)",
        )
        if path:
            self.write(Path(path), chart, proving)

    def write(self, path: Path, chart: Chart, proving: bool = False) -> Job:
        """Write a chart."""
        process = self.process
        self.context.folders.prints = path.absolute().parent
        job = self.context.jobs.run(
            _in_words(path.name, lambda job: chartfiles.write_chart(path, chart, process, proving=proving)), Lane.LONG
        )
        job.done.connect(lambda size: self.said.emit(
            f"Wrote {path.name}, {chart.width:g} × {chart.height:g} mm; print it at its exact size, colours unmanaged"
        ))  # fmt: skip
        job.failed.connect(self.warned)
        return job

    def practise_wedge(self) -> None:
        """From any step: the wedge exposed, scanned and read in the bench darkroom."""
        if self.chart in (TIMES, INKS):
            self.chart = str(self.process.steps)
        self.practise()

    def practise(self, proving: bool = False) -> Job:
        """Expose the chart in the bench darkroom, scan and read it."""
        process, chart, bath = self.process, self.chart_of(), BATHS[self.bath]
        if proving:
            chart = wedge(process.steps)
        strip: tuple[float, ...] = ()
        if chart.number == times().number:
            strip = strip_of(f"{process.minutes / _STRIP:g}..{process.minutes * _STRIP:g}")
        self._seed += 1
        seed = self._seed

        def work(job: Job) -> tuple[Process, list[str], Scan, NDArray[np.uint8]]:
            picture, scan = darkroom.practised(process, bath, chart, proving, strip, seed)
            made, said = taken(process, scan, proving, self.adding, strip)
            return made, said, scan, picture

        self.said.emit(f"Exposing in the bench darkroom: {bath.label.lower()}…")
        return self._reading("Bench darkroom", work, proving, f"{bath.label.lower()} exposed and read")

    def ask_scan(self, proving: bool = False) -> None:
        """Ask for a scan, and read it."""
        path, _ = QFileDialog.getOpenFileName(
            self.context.top, "Read a scan", str(self.context.folders.files), f"Pictures ({PICTURES})"
        )
        if not path:
            return
        if self.chart != TIMES or proving:
            self.read(Path(path), proving)
            return
        self.naming = Naming(
            self.context.top, (Entry("Times, min", "1..45", "Of the twelve patches: 1,2,4… or 1..45"),)
        )
        self.naming.named.connect(lambda words: self._read_strip(Path(path), words[0]))
        self.naming.pop_up(self.page.mapToGlobal(QPoint(-380, 160)), above=False)

    def _read_strip(self, path: Path, words: str) -> None:
        try:
            self.read(path, strip=strip_of(words))
        except ValueError as error:
            self.warned.emit(str(error)[:1].upper() + str(error)[1:])

    def read(self, path: Path, proving: bool = False, strip: tuple[float, ...] = ()) -> Job:
        """Read a scan."""
        process, adding = self.process, self.adding
        self.context.folders.files = path.absolute().parent

        def work(job: Job) -> tuple[Process, list[str], Scan, NDArray[np.uint8]]:
            scan, picture = _read(path)
            made, said = taken(process, scan, proving, adding, strip)
            return made, said, scan, picture

        return self._reading(path.name, work, proving, f"{path.name} read")

    def _reading(
        self,
        name: str,
        work: Callable[[Job], tuple[Process, list[str], Scan, NDArray[np.uint8]]],
        proving: bool,
        words: str,
    ) -> Job:
        process = self.process

        def done(found: tuple[Process, list[str], Scan, NDArray[np.uint8]]) -> None:
            made, said, scan, picture = found
            if self.process.name != process.name:  # another is looked at by now
                return
            self.step = PROVE if proving else READ
            self._put(words, made)
            self._take_picture(self.process.name, proving, scan, picture)
            self._show()
            told = "; ".join([*scan.said(), *said])
            self.said.emit(told[:1].upper() + told[1:])

        job = self.context.jobs.run(_in_words(name, work), Lane.READ)
        job.done.connect(done)
        job.failed.connect(self.warned)
        return job

    def _take_picture(self, name: str, proving: bool, scan: Scan, picture: NDArray[np.uint8]) -> None:
        high, wide = picture.shape[:2]
        scale = min(1.0, _LONGER / max(high, wide))
        small = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else picture
        rgb = np.ascontiguousarray(np.asarray(small).transpose(2, 0, 1), np.float32) / np.float32(255)
        self.pictures[name, proving] = Picture(display.colours(rgb), scale, scan, proving)

    def type_in(self) -> None:
        """Type or paste readings."""
        self.typing = dialog = Typing(self.context.top)
        if dialog.exec():
            self.take_list(dialog.readings)

    def take_list(self, readings: tuple[Reading, ...], proving: bool = False) -> None:
        """Readings without a scan."""
        made = proved(self.process, readings) if proving else self.process.read(readings, self.adding)
        self.pictures.pop((self.process.name, proving), None)
        self._put(f"{len(readings)} readings", made)
        self.said.emit(f"{len(readings)} readings taken")

    def ask_list(self) -> None:
        """Ask for a file of readings."""
        path, _ = QFileDialog.getOpenFileName(
            self.context.top, "Readings from a file", str(self.context.folders.files),
            "Readings (*.txt *.cgats *.ti3 *.csv *.tsv);;All files (*)",
        )  # fmt: skip
        if path:
            self.read_list(Path(path))

    def read_list(self, path: Path) -> Job:
        """Read a file of readings."""
        job = self.context.jobs.run(lambda job: cgats.read_readings(path), Lane.READ)
        job.done.connect(self.take_list)
        job.failed.connect(self.warned)
        return job

    def measure(self) -> Job:
        """The bench densitometer: the wedge patch after patch."""
        process, chart, bath = self.process, wedge(self.process.steps), BATHS[self.bath]
        self._seed += 1
        seed = self._seed

        def work(job: Job) -> tuple[Reading, ...]:
            film = chartfiles.film_of(chart, process.with_(mirrored=False), darkroom.FINE)
            planes = film.region(Rect(0, 0, *film.size(1.0)))
            rows = darkroom.densitometer(bath, chart, planes, darkroom.FINE, process.minutes, seed)
            return cgats.typed("\n".join(f"{value} {density}" for value, density in rows), "density")

        job = self.context.jobs.run(_in_words("Bench densitometer", work), Lane.READ)
        job.done.connect(self.take_list)
        job.failed.connect(self.warned)
        return job

    def improve(self) -> None:
        """The proof's readings join the others."""
        try:
            self._put("improved with its proof", self.process.proved())
        except ValueError as error:
            self.warned.emit(str(error))
        self.go(CURVE)

    def ask_import(self) -> None:
        """Ask for a process file, and take it."""
        path, _ = QFileDialog.getOpenFileName(
            self.context.top, "A process from a file", str(self.context.folders.files), "Processes (*.json)"
        )
        if path:
            self.import_(Path(path))

    def import_(self, path: Path) -> Job:
        """Take a process from a file."""

        def done(process: Process) -> None:
            made = process.with_(name=self._free(process.name))
            self._change(f"Process {made.name} taken over", (*self.own, made), made.name)

        job = self.context.jobs.run(lambda job: processfile.read_process(path), Lane.READ)
        job.done.connect(done)
        job.failed.connect(self.warned)
        return job

    def ask_export(self) -> None:
        """Ask where the process's file goes."""
        target = self._folder() / f"{self.process.name}{processfile.SUFFIX}"
        path, _ = QFileDialog.getSaveFileName(self.context.top, "Keep as a file", str(target), "Processes (*.json)")
        if path:
            self._write_file(Path(path), lambda file, process: processfile.write_process(file, process))

    def ask_cgats(self) -> None:
        """Ask where its readings go."""
        target = self._folder() / f"{self.process.name}.txt"
        path, _ = QFileDialog.getSaveFileName(self.context.top, "Readings as text", str(target), "CGATS.17 (*.txt)")
        if path:
            self._write_file(Path(path), cgats.write_readings)

    def _write_file(self, path: Path, write: Callable[[Path, Process], None]) -> None:
        process = self.process
        job = self.context.jobs.run(lambda job: write(path, process), Lane.SHORT)
        job.done.connect(lambda _: self.said.emit(f"Wrote {path.name}"))
        job.failed.connect(self.warned)

    def stops(self) -> list[QWidget]:
        """Where the keyboard goes from part to part."""
        return [widget for widget in (self.scan, self.graph) if widget.isVisible()] + [self.steps, self.rack.lines]


def _read(path: Path) -> tuple[Scan, NDArray[np.uint8]]:
    """Read a scan, and have a picture of it. Raises FileError."""
    scan = chartfiles.read_scan(path)
    photo = open_photo(path, hold=False)
    scale = min(1.0, _LONGER / max(photo.width, photo.height))
    planes = read(
        photo.source, Rect(0, 0, max(1, round(photo.width * scale)), max(1, round(photo.height * scale))), scale
    )
    whole = np.rint(np.clip(planes if len(planes) == 3 else np.repeat(planes, 3, axis=0), 0, 1) * 255).astype(np.uint8)
    return scan.enlarged(scale), np.ascontiguousarray(whole.transpose(1, 2, 0))


def _in_words(name: str, work: Callable[[Job], Any]) -> Callable[[Job], Any]:
    """Of values that cannot be, the words are those that were meant for people."""

    def run(job: Job) -> Any:
        try:
            return work(job)
        except ValueError as error:
            raise FileError(name, str(error)) from error

    return run


def _about(process: Process) -> str:
    if process is AS_IT_IS:
        return "no curve"
    parts = [process.paper, f"{process.minutes:g} min"]
    return ", ".join(part for part in parts if part)
