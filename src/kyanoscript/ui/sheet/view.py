"""The Sheet view: the print on its paper, proofed, measured, printed."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QWidget

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.print.bands import Bands
from kyanoscript.core.process.baths import BATHS
from kyanoscript.core.process.process import AS_IT_IS, Process
from kyanoscript.files.colour.proofs import Proof, proof_of
from kyanoscript.translation import tr
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.printing import Printing
from kyanoscript.ui.commands.registry import Registry
from kyanoscript.ui.commands.view import Handlers, Held, Panels, View
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.sheet.process.shelf import bath_of
from kyanoscript.ui.sheet.process.steps import PROVE
from kyanoscript.ui.widgets.naming import Entry, Naming

if TYPE_CHECKING:
    from kyanoscript.ui.sheet.laying import Laying
    from kyanoscript.ui.sheet.out import SheetsOut
    from kyanoscript.ui.sheet.process.work import ProcessWork


class SheetView(View):
    """From the easel to paper."""

    title = "Sheet"
    keys = "Ctrl+5"
    help = "The print on its paper"
    guide = "paper"
    wants = "photo"
    refusal = "Open a photograph first; a sheet is for its print"

    def __init__(self, context: Context, registry: Registry, home: View, printing: Printing) -> None:
        super().__init__()
        self.context, self.registry, self._home, self._printing = context, registry, home, printing
        self._laying: Laying | None = None
        self._out: SheetsOut | None = None
        self.naming: Naming | None = None
        self._holding = False  # the key of the proof on the easel
        self._work: ProcessWork | None = None
        self.measuring = False  # the Process page is turned to

    @property
    def laying(self) -> Laying:
        """What is laid; made when it is first wanted."""
        if self._laying is None:
            from kyanoscript.ui.sheet.laying import Laying  # not needed for a first look

            self._laying = made = Laying(self.context)
            made.changed.connect(self.registry.changed)
            made.page.turned.connect(self._turn)
            made.page.acts = self._acts()
            made.films.process_of = self.work.shelf.named
            self.work.changed.connect(self._tell_processes)
        return self._laying

    @property
    def work(self) -> ProcessWork:
        """Processes; made when they are first wanted."""
        if self._work is None:
            from kyanoscript.ui.sheet.process.work import ProcessWork

            self._work = made = ProcessWork(self.context)
            made.changed.connect(self.registry.changed)
            made.page.turned.connect(self._back)
            made.used.connect(self._use)
        return self._work

    @property
    def out(self) -> SheetsOut:
        """Files and printers."""
        if self._out is None:
            from kyanoscript.ui.sheet.out import SheetsOut

            self._out = SheetsOut(self.context, self._printing)
        return self._out

    # What the window asks of a view

    def enter(self) -> None:
        """As it was left."""
        self.context.foot.say("")
        self.work.shelf.load(self._tell_processes)
        if self.measuring:
            self.work.enter()
            self.work.steps.setFocus()
        else:
            self.laying.enter()
            self.laying.paper.setFocus()

    def leave(self) -> None:
        """It goes."""
        self.context.service.forget("hang")
        self.context.foot.show_words("")
        self.context.easel.zoomed.emit()

    def panels(self) -> Panels:
        """Sheets, paper, page, what goes out."""
        if self.measuring:
            work = self.work
            return Panels(work.rack, work.page, work.steps, work.middle)
        laying = self.laying
        return Panels(laying.rack, laying.page, laying.leaves, laying.paper)

    def commands(self) -> Handlers:
        """Its own keys."""
        laying, desk = self.laying, self.context.desk
        if self.measuring:
            work = self.work
            return {
                commands.UNDO: work.shelf.undo,
                commands.REDO: work.shelf.redo,
                commands.RENAME: work.about,
                commands.REMOVE: work.shelf.remove,
                commands.EXPORT: lambda: work.ask_write(work.step == PROVE),
            }
        return {
            commands.UNDO: desk.undo,
            commands.REDO: desk.redo,
            commands.RENAME: self.rename,
            commands.REMOVE: laying.sheets.remove,
            commands.EXPORT: self.write,
            commands.HOLD_WITHOUT: Held(lambda: laying.hold(True), lambda: laying.hold(False)),
        }

    def anywhere(self) -> Handlers:
        """What is done with paper whatever the view."""
        return {
            commands.PRINT: self.print_from_anywhere,
            commands.GAMUT: self.gamut,
            commands.HOLD_PROOF: Held(self._hold_proof, self._end_proof),
        }

    def undo_words(self) -> tuple[str, str]:
        """Of the script, which holds the sheets."""
        if self.measuring:
            return self.work.shelf.undo_words()
        return self.context.desk.undo_label, self.context.desk.redo_label

    def chosen(self) -> bool:
        """A sheet always is."""
        return self.context.desk.photo is not None

    def stops(self) -> list[QWidget]:
        """Paper, sheets; or what the Process page has."""
        return self.work.stops() if self.measuring else self.laying.stops()

    def focus(self) -> QWidget | None:
        """The paper, or the steps."""
        return self.work.steps if self.measuring else self.laying.paper

    def escape(self) -> bool:
        """From the Process page to the sheet; from there to the bench. In a drag: only from that."""
        if self.work.shelf.dragging if self.measuring else self.context.desk.dragging:
            return False
        if self.measuring:
            self._back("Paper")
        else:
            self.registry.go(self._home)
        return True

    # Plates, negatives, processes

    def _turn(self, page: str) -> None:
        """The Process page has the whole view."""
        if page == "Process":
            self.measure()

    def measure(self) -> None:
        """To the processes."""
        self.measuring = True
        self.context.foot.show_words("")
        self.context.foot.say("")
        self.rearranged.emit()
        self.registry.changed.emit()
        self.work.enter()

    def _back(self, page: str) -> None:
        """To a page of the sheet."""
        self.measuring = False
        self.context.foot.show_words("")
        self.context.foot.say("")
        self.rearranged.emit()
        self.registry.changed.emit()
        self.laying.turn(page)
        self.laying.enter()

    def _use(self, name: str) -> None:
        """A process for the negative of this print."""
        self._back("Negative")
        self.laying.sheets.put(tr("Process {name}", name=name), process="" if name == AS_IT_IS.name else name)

    def _tell_processes(self) -> None:
        if self._laying is None or self._work is None:
            return
        names = [(process.name, _known(process)) for process in self._work.shelf.processes if process is not AS_IT_IS]
        self._laying.films.processes = tuple(names)
        if not self.measuring:
            self._laying.enter()

    def _acts(self) -> dict[str, Callable[[], object]]:
        """What the words on the pages do."""
        out, laying = self.out, self.laying
        return {
            "print": self.print,
            "file": self.write,
            "keep": laying.sheets.keep,
            "fill": laying.sheets.fill,
            "plates": lambda: out.ask_plates(laying.sheets.name, laying.sheets.sheet),
            "negative": lambda: out.ask_negative(laying.sheets.name, laying.sheets.sheet, (laying.films.process,)),
            "negatives": lambda: out.ask_negative(laying.sheets.name, laying.sheets.sheet, laying.films.layers()),
            "expose": self._expose,
        }

    def _expose(self) -> None:
        laying = self.laying
        process = laying.films.process
        self.out.expose(laying.sheets.sheet, process, BATHS[bath_of(process, self.work.bath)], laying.take_dried)

    # What is done here

    def lay_strip(self, strip: Bands) -> None:
        """A test strip on the sheet, to be judged on paper."""
        self.measuring = False
        self.registry.go(self)
        if self.registry.view is self:
            self.laying.take_strip(strip)
            self.context.foot.say("The strip lies on the sheet: what is printed or written now is the strip")

    def print(self) -> None:
        """Ask which printer, and print."""
        self.out.ask_print(self.laying.sheets.name, self.laying.sheets.sheet, self.laying.films.bands)

    def print_from_anywhere(self) -> None:
        """Come here, and ask."""
        self.registry.go(self)
        if self.registry.view is self:
            self.print()

    def gamut(self) -> None:
        """Mark what the printer has not, or no longer; from another view: come here."""
        here = self.registry.view is self
        self.registry.go(self)
        if self.registry.view is self:
            self.laying.set_marking(not self.laying.marking or not here)

    def _hold_proof(self) -> None:
        """The easel as the first sheet's paper has it, once that is known."""
        desk = self.context.desk
        sheet = desk.script.sheets[0][1] if desk.script.sheets else Sheet()
        self._holding = True

        def done(proof: Proof) -> None:
            if self._holding:
                self.context.easel.hold_proof(proof, "as paper has it")

        self.context.jobs.run(lambda job: proof_of(sheet), Lane.READ, done=done, failed=self.context.foot.warn)

    def _end_proof(self) -> None:
        self._holding = False
        self.context.easel.hold_proof(None)

    def write(self) -> None:
        """Ask where to, and write."""
        self.out.ask_write(self.laying.sheets.name, self.laying.sheets.sheet, self.laying.films.bands)

    def rename(self) -> None:
        """Another name for the sheet."""
        lines = self.laying.rack.lines
        entry = Entry("Name", self.laying.sheets.name, "What this sheet is for")
        self.naming = Naming(self.context.top, (entry,))
        self.naming.named.connect(lambda names: self.laying.sheets.rename(names[0]))
        self.naming.pop_up(lines.mapToGlobal(QPoint(12, 50 * (self.laying.sheets.current + 1))), above=False)


def _known(process: Process) -> str:
    """What a process is, in a line."""
    parts = [process.paper, process.chemistry, tr("{minutes:g} min", minutes=process.minutes)]
    if process.ink != "#000000":
        parts.append(tr("ink {ink}", ink=process.ink))
    return ", ".join(part for part in parts if part)
