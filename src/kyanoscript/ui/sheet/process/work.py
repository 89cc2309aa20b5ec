"""The Process page, put together: which step, what is seen at it, and what is asked for there."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QHBoxLayout, QWidget

from kyanoscript.core.picture import Rect
from kyanoscript.core.print.chart import film_of
from kyanoscript.core.process.chart import Chart, called, wedge
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.translation import tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Job, Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.sheet.process.filed import ProcessFiles, ask
from kyanoscript.ui.sheet.process.graph import CurveView
from kyanoscript.ui.sheet.process.page import ProcessPage, State
from kyanoscript.ui.sheet.process.readings import Picture, Readings
from kyanoscript.ui.sheet.process.scan import ScanView
from kyanoscript.ui.sheet.process.shelf import Shelf, about, bath_of
from kyanoscript.ui.sheet.process.steps import CURVE, EXPOSE, PROVE, READ, WEDGE, Steps
from kyanoscript.ui.sheet.process.worked import Worked, work_out
from kyanoscript.ui.sheet.rack import SheetRack
from kyanoscript.ui.widgets.naming import Entry, Naming

_FILM = 72.0  # pixels per inch of the film that is shown


class ProcessWork(QObject):
    """Rack, picture, curve, page and steps."""

    changed = Signal()
    used = Signal(str)  # this process, for the negative

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.shelf = Shelf(context.jobs, context.foot)
        self.readings = Readings(self.shelf, context.jobs, context.foot)
        self.rack = SheetRack("Processes", ("New process…", "Another way to print"), ("From a file…", "A process file"))
        self.scan, self.graph, self.page, self.steps = ScanView(), CurveView(), ProcessPage(context.foot.say), Steps()
        self.middle = QWidget()
        row = QHBoxLayout(self.middle)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.scan, 1)
        row.addWidget(self.graph, 1)
        self.step, self.chart, self.bath, self.shown = READ, "21", "cyanotype", "Both"
        self.worked = Worked(AS_IT_IS)
        self.film: dict[object, QImage] = {}
        self.naming: Naming | None = None
        self._gone = False  # with the window; what is still under way comes to nothing
        self.middle.destroyed.connect(self._leave)
        self.working = False
        self._wanted: object = None  # the picture of film that is being made
        self.files = ProcessFiles(context, self.shelf, self.readings, self.page)
        self._connect()

    def _connect(self) -> None:
        page, rack, shelf, readings = self.page, self.rack, self.shelf, self.readings
        rack.chosen.connect(self.choose)
        rack.new.connect(self.add)
        rack.other.connect(self.files.ask_import)
        shelf.followed.connect(self._follow)
        readings.took.connect(lambda proving: self.go(PROVE if proving else READ))
        readings.pictured.connect(self._show)
        page.changed.connect(lambda words, values: shelf.put(words, **values))
        page.began.connect(shelf.begin)
        page.ended.connect(shelf.commit)
        page.given_up.connect(shelf.abort)
        page.acts = self._acts()
        page.chart_chosen.connect(self.set_chart)
        page.bath_chosen.connect(self.set_bath)
        page.showing.connect(self.set_shown)
        page.adding.connect(self.set_adding)
        self.steps.chosen.connect(self.go)
        self.steps.practise.connect(self.practise_wedge)
        self.scan.pressed.connect(self._press)
        self.scan.pointed.connect(self._tell_patch)
        self.graph.pointed.connect(lambda tone: self.context.foot.show_words(self.worked.at(tone) if tone >= 0 else ""))

    @property
    def process(self) -> Process:
        """The one that is looked at."""
        return self.shelf.process

    def enter(self) -> None:
        """It comes onto the screen."""
        self.shelf.load(self._show)
        self._show()

    def choose(self, at: int) -> None:
        """Look at another."""
        self.shelf.choose(at)
        self.chart = str(self.process.steps)
        self.bath = bath_of(self.process, self.bath)
        self._show()

    def add(self) -> None:
        """A new one."""
        self.shelf.add()
        self.go(WEDGE)
        self.context.foot.say("Write its wedge first; F2 gives it a name and says what it is")

    # What is seen

    def go(self, step: int) -> None:
        """To another step."""
        self.step = step
        self._show()
        self.changed.emit()

    def set_chart(self, chart: str) -> None:
        """Another chart; of a wedge the process remembers which."""
        self.chart = chart
        if called(chart).is_wedge and int(chart) != self.process.steps and self.shelf.mine:
            self.shelf.put(tr("wedge of {chart} steps", chart=chart), steps=int(chart))
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
        self.readings.adding = on

    def _follow(self) -> None:
        """Another process, or the same changed: work it out, in another thread."""
        if self._gone:
            return
        self._show()
        self.changed.emit()
        if self.working:
            return
        self.working = True
        process = self.process

        def done(found: Worked) -> None:
            self.working = False
            self.worked = found
            if self.process != process:
                self._follow()
            self._show()

        self.context.jobs.run(lambda job: work_out(process), Lane.READ, done=done, failed=self.context.foot.warn)
        self.readings.find_demo(process)

    def chart_of(self) -> Chart:
        """The chart that is chosen."""
        return called(self.chart)

    def _leave(self) -> None:
        self._gone = True

    def _show(self) -> None:
        if self._gone:
            return
        process, processes = self.process, self.shelf.processes
        worked = self.worked if self.worked.process == process else Worked(process)
        at = next(k for k, one in enumerate(processes) if one.name == process.name)
        self.rack.show_lines([(one.name, about(one)) for one in processes], at)
        self.page.show_state(State(worked, self.step, self.chart, self.bath, self.shown, self.readings.adding,
                                   self.shelf.mine, self.shelf.dragging))  # fmt: skip
        self.graph.show_worked(worked)
        early, picture = self.step in (WEDGE, EXPOSE), self._picture()
        nothing = picture is None and worked.response is not None  # readings without a scan: the curve is all there is
        seen = {
            self.scan: early or (self.shown != "Curve" and not nothing),
            self.graph: not early and (self.shown != "Scan" or nothing),
        }
        for part, there in seen.items():
            if not there and part.hasFocus():  # or Qt would hand the keyboard on as if by the Tab key
                self.steps.setFocus()
            part.setVisible(there)
        self._want_film()
        if early:
            chart, process = self.chart_of(), self.process
            what = "The film of it" if process.negative else "The sheet of it"
            words = tr(
                "{what}: {width:g} × {height:g} mm, {count} patches",
                what=what,
                width=chart.width,
                height=chart.height,
                count=len(chart.patches),
            )
            self.scan.show_scan(self.film.get(self._film_key()), None, 1.0, (), words)
        elif picture is not None:
            words = " · ".join(picture.scan.said()[:2])
            self.scan.show_scan(picture.image, picture.scan, picture.scale, self.readings.used(picture), words)
        else:
            what = "proof" if self.step == PROVE else "wedge"
            self.scan.show_scan(None, None, 1.0, (), tr("No scan of the {what} yet", what=what))
        read = self.readings.pictures.get((process.name, False))
        images = [self.film.get(self._film_key()), None, read.image if read is not None else None, None, None]
        self.steps.show_steps(self.step, worked.words(), images, worked)

    def _picture(self) -> Picture | None:
        return self.readings.pictures.get((self.process.name, self.step == PROVE))

    def _film_key(self) -> tuple[object, ...]:
        process = self.process
        return self.chart, process.ink, process.negative, process.mirrored

    def _want_film(self) -> None:
        """A picture of the chart's film, made in another thread."""
        key, chart, process = self._film_key(), self.chart_of(), self.process
        if key in self.film or key == self._wanted:
            return
        self._wanted = key

        def work(job: Job) -> NDArray[np.float32]:
            film = film_of(chart, process, _FILM)
            planes = film.region(Rect(0, 0, *film.size(1.0)))
            return planes if len(planes) == 3 else np.repeat(planes, 3, axis=0)

        def done(planes: NDArray[np.float32]) -> None:
            self.film[key] = display.colours(planes)
            if self._film_key() == key:
                self._show()

        self.context.jobs.run(work, Lane.READ).done.connect(done)

    def _tell_patch(self, at: int) -> None:
        picture, words = self._picture(), ""
        if at >= 0 and picture is not None and at < len(picture.scan.patches):
            one = picture.scan.patches[at]
            words = tr(
                "Patch {colour}: L* {lab:.1f}", colour=one.patch.colour or f"{one.patch.value:g} %", lab=one.lab[0]
            )
            if one.damage:
                words += tr(", left out: {damage}", damage=one.damage)
            elif not one.patch.colour:
                words += self.worked.wanted(one.patch.value, picture.proving)
        self.context.foot.show_words(words)

    def _press(self, at: int) -> None:
        picture = self._picture()
        if picture is not None:
            self.readings.toggle(picture, at)

    # What is done

    def _acts(self) -> dict[str, Callable[[], object]]:
        """What the words on the page do."""
        files, shelf = self.files, self.shelf
        return {
            "write": self.ask_write, "practise": self.practise, "scan": lambda: files.ask_scan(self.chart),
            "typed": files.type_in, "list": files.ask_list,
            "densitometer": lambda: self.readings.measure(self.bath),
            "use": lambda: self.used.emit(self.process.name), "proof": lambda: self.ask_write(proving=True),
            "scan proof": lambda: files.ask_scan(self.chart, proving=True), "improve": self.improve,
            "about": self.about, "practise proof": lambda: self.practise(proving=True), "export": files.ask_export,
            "cgats": files.ask_cgats, "remove": shelf.remove,
        }  # fmt: skip

    def practise_wedge(self) -> None:
        """From any step: the wedge exposed, scanned and read in the bench darkroom."""
        if not called(self.chart).is_wedge:
            self.chart = str(self.process.steps)
        self.practise()

    def practise(self, proving: bool = False) -> Job | None:
        """Expose the chart in the bench darkroom, scan and read it."""
        if proving and self._no_curve():
            return None
        return self.readings.practise(wedge(self.process.steps) if proving else self.chart_of(), self.bath, proving)

    def _no_curve(self) -> bool:
        """Whether there is none yet; then that is said."""
        if self.worked.response is None:
            self.context.foot.say("There is no curve yet; read the wedge first")
        return self.worked.response is None

    def improve(self) -> None:
        """The proof's readings join the others."""
        self.shelf.replace("improved with its proof", self.process.proved())
        self.go(CURVE)

    def about(self) -> None:
        """Its name, and what it was made with."""
        process, params = self.process, Process.params()
        entries = [Entry("Name", process.name, "What it is called", longest=80)]
        for key in ("paper", "chemistry", "light", "notes"):
            entries.append(Entry(params[key].label, getattr(process, key), params[key].help))
        self.naming = ask(self.context.top, self.page, entries, self._take_about)

    def ask_write(self, proving: bool = False) -> None:
        """Ask where the chart goes, or the wedge through the curve, and write it."""
        if not (proving and self._no_curve()):
            self.files.ask_write(wedge(self.process.steps) if proving else self.chart_of(), proving)

    def _take_about(self, words: list[str]) -> None:
        name, paper, chemistry, light, notes = words
        old = self.process.name
        name = " ".join(name.split()) or old
        if name != old and self.shelf.named(name) is not None:
            self.context.foot.say(tr("There is a process {name} already", name=name))
            name = old
        self.readings.renamed(old, name)
        made = self.process.with_(name=name, paper=paper, chemistry=chemistry, light=light, notes=notes)
        self.shelf.replace("about it", made)

    def stops(self) -> list[QWidget]:
        """Where the keyboard goes from part to part."""
        return [widget for widget in (self.scan, self.graph) if widget.isVisible()] + [self.steps, self.rack.lines]
