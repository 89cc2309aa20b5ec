"""What a print becomes on its way to ink and light: which plates and negative there are, and what lies on the paper."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QColor, QImage

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes.apart import Apart
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.inks import Inks
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.print.film import beyond_rim, check_size, film_sheet
from kyanoscript.core.print.plates import Making, apart_of, left_out, making_of, pass_of, plates_of, printing
from kyanoscript.core.print.reckoned import press_of, untouched
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.service import display, papers
from kyanoscript.ui.service.papers import DotsOf, Filmed, OnFilm
from kyanoscript.ui.sheet.inkpages import Known

DOTS = (360, 100)  # pixels that are shown of them


@dataclass(frozen=True)
class Lying:
    """What can lie on the paper."""

    name: str
    film: int | None = None  # which plate, or `papers.NEGATIVE`; None: it is no film
    proofed: bool = False  # ink on paper, seen as paper will have it


PRINT, STRIP, DRIED = Lying("Print", proofed=True), Lying("Strip", proofed=True), Lying("Dried print")
NEGATIVE = Lying("Negative", papers.NEGATIVE)


def plate(k: int) -> Lying:
    """One of the plates, counted from 0."""
    return Lying(tr("Plate {k}", k=k + 1), k)


class Films(QObject):
    """Leaves of the sheet that is looked at."""

    found = Signal()  # the inks of a quad-tone
    told = Signal()  # what is to be known of plates

    def __init__(self, context: Context, sheet: Callable[[], Sheet], shape: Callable[[], float]) -> None:
        super().__init__()
        self.context, self._sheet, self._shape = context, sheet, shape
        self.leaf = PRINT  # what lies on the paper
        self.strip: Bands | None = None  # of the Strip view, as it was laid on the sheet
        self.dried: QImage | None = None  # out of the bench darkroom
        self.process_of: Callable[[str], Process | None] = lambda name: None
        self.processes: tuple[tuple[str, str], ...] = ()  # names, and what is known of each
        self._tones: tuple[float, ...] = (1.0, 0.0)  # of the film, for grays of the print
        self._told: tuple[tuple[str, ...], tuple[str, ...]] = (), ()  # of the plates: a line each, and what to know
        self._told_of: object = None  # passes, and how they are made
        self._telling = False
        self._asked = ""  # the page of the sheet that is turned to
        self._apart: Apart | None = None  # the inks of a quad-tone
        self._apart_of: Pass | None = None

    def another(self) -> None:
        """Another photograph."""
        self.leaf, self.dried, self.strip = PRINT, None, None

    def turn(self, page: str) -> None:
        """To a page of the sheet: what it is about lies on the paper."""
        self._asked = page
        if page == "Plates":
            self._take_apart()
        wanted = {"Plates": plate(0), "Negative": NEGATIVE}.get(page, STRIP if self.leaf == STRIP else PRINT)
        self.leaf = wanted if wanted in self.leaves() else PRINT

    def take_strip(self, strip: Bands) -> None:
        """A test strip, to be judged on paper."""
        self.strip, self.leaf = strip, STRIP

    def take_dried(self, image: QImage) -> None:
        """The print out of the bench darkroom."""
        self.dried, self.leaf = image, DRIED

    # What there is

    def leaves(self) -> tuple[Lying, ...]:
        """What goes out."""
        found = [PRINT, *([STRIP] if self.strip is not None else [])]
        found += [plate(k) for k in range(len(self.inks))]
        if self._sheet().film.process or self._asked == "Negative":
            found.append(NEGATIVE)
        if self.dried is not None:
            found.append(DRIED)
        return tuple(found)

    def at(self) -> int:
        """Which of them lies on the paper."""
        found = self.leaves()
        if self.leaf not in found:
            self.leaf = PRINT
        return found.index(self.leaf)

    @property
    def bands(self) -> Bands | None:
        """Those of the strip, where it lies on the paper."""
        return self.strip if self.leaf == STRIP else None

    @property
    def inks(self) -> tuple[str, ...]:
        """Colours of the inks of this print; of a quad-tone only when its plates are asked for: they take seconds."""
        try:
            _, step = pass_of(self.context.desk.script)
        except ValueError:
            return ()
        if isinstance(step, Inks):
            return tuple(tint for tint, _ in step.inks())
        return self._apart.inks if self._apart is not None and self._apart_of == step else ()

    @property
    def process(self) -> Process:
        """That the negative is for."""
        return self.process_of(self._sheet().film.process) or AS_IT_IS

    def layers(self) -> tuple[Process, ...]:
        """That the inks are for, one each; the sheet's own where none is named."""
        names = [*self._sheet().film.layers]
        names += [""] * (len(self.inks) - len(names))
        return tuple(self.process_of(name) or self.process for name in names[: len(self.inks)])

    def _take_apart(self) -> None:
        """Find the inks of a quad-tone, in another thread."""
        script = self.context.desk.script
        try:
            _, step = pass_of(script)
        except ValueError:
            return
        if isinstance(step, Inks) or self._apart_of == step:
            return
        self._apart, self._apart_of = None, step
        self.context.foot.say("Taking the tones apart into four inks…")

        def done(made: Apart) -> None:
            if self._apart_of == step:
                self._apart = made
                self.context.foot.say("")
                if self._asked == "Plates":
                    self.found.emit()

        self.context.jobs.run(lambda job: apart_of(script), Lane.READ, done=done, failed=self.context.foot.warn)

    # In words

    def known(self) -> Known:
        """What the pages of plates and of the negative are told."""
        if self._asked == "Plates":
            lines, said = self._plates()
            return Known(self.inks, lines, self.processes, said)
        return Known(self.inks, (), self.processes, self._negative() if self._asked == "Negative" else ())

    def _plates(self) -> tuple[tuple[str, ...], tuple[str, ...]]:
        """The plates, a line each, and what should be known of them; while they are reckoned, as they were before."""
        script, making = self.context.desk.script, making_of(self._sheet())
        if not self.inks:
            return (), ()
        of = script.passes, making
        if of == self._told_of:
            return self._told
        if untouched(apart_of(script), making.press):
            self._told_of, self._told = of, _told(script, making)
        elif not self._telling:
            self._telling = True
            self.context.jobs.run(lambda job: _told(script, making), Lane.READ,
                                  done=lambda told: self._take_told(of, told), failed=self._not_told)  # fmt: skip
        return self._told

    def _take_told(self, of: object, told: tuple[tuple[str, ...], tuple[str, ...]]) -> None:
        """They are reckoned; if others are wanted by now, these are asked for."""
        self._telling, self._told_of, self._told = False, of, told
        self.told.emit()

    def _not_told(self, words: str) -> None:
        self._telling = False
        self.context.foot.warn(words)

    def _negative(self) -> tuple[str, ...]:
        """What should be known of the negative."""
        sheet, process = self._sheet(), self.process
        said = []
        if sheet.film.process and self.process_of(sheet.film.process) is None:
            said.append(tr("there is no process {process} any more", process=sheet.film.process))
        elif sheet.film.process and not process.readings:
            said.append(tr("{name} has no readings yet: the film gets the tones as they are", name=process.name))
        try:
            check_size(sheet, self._shape())
        except ValueError as error:
            said.append(str(error))
        else:
            beyond = beyond_rim(sheet, process, self._shape())
            said += [beyond] if beyond else []
        return (*said, *process.stale())

    # As pictures

    def request(self, script: Script, rect: Rect, scale: float, film: Lying, large: bool) -> OnFilm:
        """What the render threads are asked for of a plate, or of the negative."""
        slot = "leaf" if large else tr("small {name}", name=film.name)
        if film.film is None or film == NEGATIVE:
            return OnFilm(script, rect, scale, slot=slot, process=self.process)
        plates = self._sheet().plates
        making = Making(knock_out=plates.knock_out, press=press_of(self._sheet()))
        return OnFilm(script, rect, scale, slot=slot, leaf=film.film, making=making)

    def dots(self, script: Script | None) -> DotsOf | None:
        """The request for the dots of screened plates, while these are looked at."""
        sheet = self._sheet()
        if self._asked != "Plates" or sheet.plates.screen == "none" or not self.inks:
            return None
        return DotsOf(script or self.context.desk.script, sheet, DOTS)

    def picture(self, frame: Filmed) -> tuple[Lying, QImage, bool] | None:
        """What came: of which leaf, as it lies, and whether it is the large one."""
        look = frame.look
        if not isinstance(look, OnFilm):
            return None
        image = display.image(frame.pixels)
        if look.process is None:
            return plate(look.leaf), image, look.slot == "leaf"
        self._tones = frame.tones
        large = look.slot == "leaf"
        if look.process.mirrored and look.process.negative and not large:  # the paper itself lies turned over
            image = image.flipped(Qt.Orientation.Horizontal)
        return NEGATIVE, image, large

    def sheet(self) -> Sheet:
        """The sheet as it lies: as film, or as paper."""
        return film_sheet(self._sheet(), self.process) if self.leaf == NEGATIVE else self._sheet()

    def tone(self, level: float) -> QColor:
        """What becomes of a tone of the wedge on the film."""
        at = level * (len(self._tones) - 1)
        below = min(int(at), len(self._tones) - 2)
        amount = 1 - (self._tones[below] + (at - below) * (self._tones[below + 1] - self._tones[below]))
        ink = display.ink(self.process.ink)
        return QColor.fromRgbF(*(1 - amount * (1 - v) for v in (ink.redF(), ink.greenF(), ink.blueF())))


def _told(script: Script, making: Making) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """Plates, a line each, and what should be known of them. May take a while."""
    dotted = making.screen is not None and making.screen.dots
    lines = [f"{plate.name}, {plate.most:g} %{f', at {plate.angle:g}°' if dotted else ''}"
             for plate in plates_of(script, making)]  # fmt: skip
    words = printing(script, making)
    lines += [words[:1].upper() + words[1:]] if words else []
    return tuple(lines), tuple(left_out(script, making))
