"""What is tried in the Strip view, and the widgets that show it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QFileDialog

from kyanoscript.core.print.bands import Bands
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial, dials, narrowed
from kyanoscript.files.prints.strips import InBands
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.jobs.lanes import Job
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail
from kyanoscript.ui.strip.bands import BandsShown
from kyanoscript.ui.strip.below import Below, nothing
from kyanoscript.ui.strip.page import StripPage
from kyanoscript.ui.strip.subject import Axis, Strip, Subject, axis, of_dial
from kyanoscript.ui.widgets.chooser import Choice


class Trial(QObject):
    """One strip at a time."""

    taken = Signal(str, object, object)  # what was done, the Script, and the Dial that was tried
    several = Signal()  # several values are to be sought
    laid = Signal(object)  # a core.print.bands.Bands, for the sheet

    def __init__(self, context: Context, printing: Printing) -> None:
        super().__init__()
        self.context, self.desk, self.printing = context, context.desk, printing
        self.active = False
        self.strip: Strip | None = None
        self.current = 0
        self.given: Subject | None = None  # something else than a number of the script, as a recipe's strength
        self.base: Script | None = None  # what that is laid on
        self.dials_of: list[Dial] = []
        self._tag: tuple[int, int] = (id(self), 0)
        self._asked: dict[str, Script] = {}  # what the small pictures were made of
        self.page, self.bands = StripPage(context.foot.say), BandsShown(context.desk, context.service)
        self.nothing = nothing()
        self.below = Below("Every band whole", "Every step as a whole print")
        self.row = self.below.row
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._ask)
        self._connect()

    def _connect(self) -> None:
        self.bands.chosen.connect(self.choose)
        self.bands.pressed_again.connect(self.narrow)
        self.bands.entered.connect(self.take)
        self.bands.zoomed.connect(self._tell_zoom)
        self.row.chosen.connect(lambda key: self.bands.press(int(key)))
        self.page.of.connect(self._of)
        self.page.changed.connect(self._changed)
        self.page.acts = {
            "one": lambda: self.set_kind(False),
            "two": lambda: self.set_kind(True),
            "several": self.several.emit,
            "take": self.take,
            "keep": self.keep_all,
            "write": self.ask_write,
            "lay": lambda: self.laid.emit(laid_of(self.strip)) if self.strip is not None else None,
        }
        self.context.service.answers(Thumbnail).connect(self._proof)
        for signal in (self.desk.script_changed, self.desk.photo_changed):
            signal.connect(lambda *_: self.begin() if self.active else None)

    # Beginning

    def script(self) -> Script:
        """What is tried on: the print on the bench, with what its chosen pass takes from the picture as its own."""
        desk, script = self.desk, self.desk.script
        step = desk.selected_pass
        if step is not None and step.auto and desk.taken:
            own = {name: value for name, value in desk.taken.items() if name in step.suggested()}
            run = desk.run
            made = step.model_copy(update={**own, "auto": False})
            script = script.with_run(desk.path, (*run[: desk.selected], made, *run[desk.selected + 1 :]))
        return script

    def begin(self, dial: Dial | None = None) -> None:
        """A strip of a number; of none given: of the one tried last, or the first of the chosen pass."""
        script = self.script()
        raw = self.desk.photo is not None and self.desk.photo.raw
        self.dials_of = dials(script, raw)
        step = self.desk.selected_pass
        before = self.strip.first.subject.key if self.strip is not None else None
        own = [found for found in self.dials_of if step is not None and found.step == step.id and found.of == "pass"]
        wanted = [dial, before, *own[:1], *self.dials_of[:1]]
        chosen = next((found for found in wanted if found in self.dials_of), None)
        self.given = None
        if chosen is None:
            self.strip = None
            self._show()
            return
        if self.strip is not None and dial is None and chosen == before:
            self._again(script)
            return
        subject = of_dial(script, chosen)
        assert subject is not None
        self._put(Strip(script, axis(subject), None, self._down, self._same))

    def begin_with(self, subject: Subject, base: Script) -> None:
        """A strip of something else, as a recipe's strength, laid on a script."""
        self.given, self.dials_of = subject, []
        self._put(Strip(base, axis(subject), None, self._down, self._same))

    def _again(self, script: Script) -> None:
        """The script is another one: the same strip of it, if that makes sense still."""
        strip = self.strip
        assert strip is not None
        axes = []
        for old in (strip.first, strip.second):
            found = of_dial(script, old.subject.key) if old is not None and isinstance(old.subject.key, Dial) else None
            axes.append(replace(old, subject=found) if old is not None and found is not None else None)
        if axes[0] is None:
            self.strip = None
            self.begin()
            return
        self._put(replace(strip, base=script, first=axes[0], second=axes[1]))

    @property
    def _down(self) -> bool:
        return self.strip.down if self.strip is not None else self.desk.shape < 1  # along the longer side

    @property
    def _same(self) -> bool:
        return self.strip.same if self.strip is not None else False

    def _put(self, strip: Strip, current: int | None = None) -> None:
        self.strip = strip
        self.current = strip.present if current is None else min(current, len(strip.cells) - 1)
        self._show()

    def _of(self, which: int, index: int) -> None:
        """Another value, or another second one."""
        strip = self.strip
        if strip is None or (which == 0 and self.given is not None):
            return
        script = strip.base
        if which == 1 and index < 0:
            first = replace(strip.first, count=7) if strip.second is not None else strip.first
            self._put(replace(strip, first=first, second=None))
            return
        subject = of_dial(script, self.dials_of[index])
        assert subject is not None
        if which == 0:
            self._put(replace(strip, first=axis(subject, strip.second is not None)))
        elif subject.key == strip.first.subject.key:
            self.context.foot.say("A field needs two values; this one is tried already")
            self._show()
        else:
            few = axis(strip.first.subject, field=True)
            self._put(replace(strip, first=few, second=axis(subject, field=True)))

    def set_kind(self, two: bool) -> None:
        """One value in steps, or two as a field: with the next one that can be tried."""
        strip = self.strip
        if strip is None or two == (strip.second is not None):
            self._show()
        elif not two:
            self._of(1, -1)
        elif self.given is not None or len(self.dials_of) < 2:
            self.context.foot.say("There is no second value to try with it")
            self._show()
        else:
            self._of(1, (self._place(strip.first) + 1) % len(self.dials_of))

    def _changed(self, strip: Strip) -> None:
        """Other ends, another count, laid otherwise."""
        old = self.strip
        value = old.cells[self.current] if old is not None else None
        cells = strip.cells
        self._put(strip, cells.index(value) if value in cells else None)

    # Choosing

    def choose(self, cell: int) -> None:
        """Another band."""
        if self.strip is not None and 0 <= cell < len(self.strip.cells):
            self.current = cell
            self._show()

    def narrow(self, cell: int) -> None:
        """Go on between a band's neighbours in half the steps."""
        strip = self.strip
        if strip is None:
            return
        values = strip.cells[cell]

        def closer(old: Axis, value: float) -> Axis:
            low, high, count = narrowed(old.values, old.values.index(value))
            return replace(old, subject=replace(old.subject, value=value), low=low, high=high, count=count)

        first = closer(strip.first, values[0])
        second = closer(strip.second, values[1]) if strip.second is not None else None
        if first.values == strip.first.values or len(set(first.values)) < 2:
            self.context.foot.say("The steps are as fine as this value can be set")
            return
        self._put(replace(strip, first=first, second=second))
        self.context.foot.say(
            tr("Round {current} in half the steps", current=self.strip.text(self.current)) if self.strip else ""
        )

    def take(self) -> None:
        """The chosen value onto the bench; one step of undo."""
        strip = self.strip
        if strip is None:
            return
        script = strip.script(self.current)
        words = strip.first.subject.words
        if strip.second is not None:
            words += tr(" and {words}", words=strip.second.subject.words)
        self.taken.emit(f"{spoken(words)} {strip.text(self.current)}", script, strip.first.subject.key)

    def keep_all(self) -> None:
        """Every band as a state."""
        strip = self.strip
        if strip is None:
            return
        cells = range(len(strip.cells))
        scripts = tuple(strip.script(k) for k in cells)
        names = tuple(f"{spoken(strip.first.subject.words)} {strip.text(k)}" for k in cells)
        made = self.desk.kept.keep_all(scripts, names)
        if made:
            self.context.foot.say(
                tr(
                    "Kept {count} states, {title} to {title2}; Ctrl+3 shows them",
                    count=len(made),
                    title=made[0].title,
                    title2=made[-1].title,
                )
            )

    # Writing

    def ask_write(self) -> None:
        """Ask for a name and write the strip with its labels."""
        photo = self.desk.photo
        if photo is None or self.strip is None:
            return
        folder = self.context.folders.prints or photo.path.parent
        start = str(folder / f"{photo.path.stem}-strip.tif")
        name, _ = QFileDialog.getSaveFileName(
            self.context.top, spoken("Write the strip"), start, "Pictures (*.tif *.png *.jpg)"
        )
        if name:
            self.write(Path(name))

    def write(self, path: Path) -> Job | None:
        """Write the strip into a file."""
        strip = self.strip
        return None if strip is None else self.printing.write(InBands(laid_of(strip)), path, words="the strip: ")

    # Showing

    def enter(self) -> None:
        """The view comes."""
        self.active = True
        self.bands.mat = self.context.easel.mat
        self.given = None
        self.begin()
        self._tell_zoom()

    def leave(self) -> None:
        """It goes; what was narrowed starts anew the next time."""
        self.active, self.given = False, None
        self.context.service.ask_instead(PROOFS, ())
        self.context.service.forget("hang")

    def _show(self) -> None:
        if not self.active or self.desk.photo is None:
            return
        strip = self.strip
        self.bands.show_strip(strip, self.current)
        if strip is None:
            self.page.show_empty()
            self.row.show_choices([])
            return
        names = [self.given.words] if self.given is not None else [dial.words(strip.base) for dial in self.dials_of]
        first = 0 if self.given is not None else self._place(strip.first)
        second = -1 if strip.second is None else self._place(strip.second)
        self.page.show_strip(strip, names, (first, second), strip.text(self.current))
        choices = [Choice(str(k), strip.text(k)) for k in range(len(strip.cells))]
        self.row.show_choices(choices, str(self.current))
        self._soon.start()

    def _place(self, of: Axis) -> int:
        return self.dials_of.index(of.subject.key) if of.subject.key in self.dials_of else 0

    def _ask(self) -> None:
        """Every band whole, small."""
        strip = self.strip
        if strip is None or not self.active:
            return
        scripts = {str(k): strip.script(k) for k in range(len(strip.cells))}
        if self._asked == scripts:
            return
        self._asked = scripts
        self.row.forget()
        self._tag = (id(self), self._tag[1] + 1)
        self.context.service.ask_instead(PROOFS, proofs(self._tag, scripts, self.below.size_in_pixels()))

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag == self._tag:
            image = display.image(proof.pixels)
            self.row.take(proof.key, image)
            if self.strip is not None and int(proof.key) == self.strip.present:
                self.bands.small = image

    def _tell_zoom(self) -> None:
        if self.active:
            self.context.foot.show_zoom(self.bands.sight.whole, self.bands.magnification())


def laid_of(strip: Strip) -> Bands:
    """A strip as it is written: without sheets and states, which no band shows."""
    cells = range(len(strip.cells))
    scripts = tuple(replace(strip.script(k), sheets=(), states=()) for k in cells)
    return Bands(scripts, tuple(strip.text(k) for k in cells), strip.grid, strip.same)
