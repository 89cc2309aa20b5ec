"""What is laid on paper: the sheets of the script, which one is looked at, its proof, and what is done with it.

Long, since paper, page, rack and leaves hear of each other here and nowhere else.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QMenu, QWidget

from kyanoscript.core.geometry import framing
from kyanoscript.core.paper.layout import fitting, laid, pixels_per_inch, remarks, start
from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.paper.sizes import name_of
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import Bands
from kyanoscript.files.colour import proofs
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.files.kept import sheetfile
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.service.papers import Dots, Filmed, HungOnPaper, OnPaper, Tones, TonesOf
from kyanoscript.ui.sheet.films import DRIED, NEGATIVE, PRINT, STRIP, Films, Lying
from kyanoscript.ui.sheet.leaves import Leaves
from kyanoscript.ui.sheet.page import SheetPage
from kyanoscript.ui.sheet.paper import Paper
from kyanoscript.ui.sheet.rack import SheetRack

_FIRST = Sheet.of(width=297, height=210, across=220, middle=True)
_MARGIN = 25.0  # mm: of a print that fills its margins
_SMALL = 2 * 112  # pixels across of the small pictures below


class Laying(QObject):
    """Everything that the Sheet view shows, put together."""

    changed = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context = context
        self.rack = SheetRack(
            "Sheets",
            ("New sheet", "Another paper for this print"),
            ("From the kept…", "A sheet that was kept for every photograph"),
        )
        self.paper, self.page, self.leaves = Paper(), SheetPage(context.foot.say), Leaves()
        self.current = 0
        self.unit = "mm"
        self.proofing, self.marking, self.held = True, False, False
        self.outside = 0.0
        self.tones: Tones | None = None
        self.menu: QMenu | None = None
        self.films = Films(context, lambda: self.sheet, lambda: self.shape)
        self.on_paper: Proof | None = None
        self._proof_of: Sheet | None = None
        self._paper_white: tuple[float, ...] = (1.0, 1.0, 1.0)
        self._ask = QTimer(self.paper)
        self._ask.setSingleShot(True)
        self._ask.setInterval(30)
        self._ask.timeout.connect(self.refresh)
        rack, paper, page = self.rack, self.paper, self.page
        rack.chosen.connect(self.choose)
        rack.new.connect(self.add)
        rack.other.connect(self.offer_kept)
        paper.moved.connect(self._moved)
        paper.sized.connect(self._sized)
        paper.nudged.connect(self._nudged)
        paper.grip_changed.connect(self._grip)
        paper.resized.connect(self._ask.start)
        page.changed.connect(lambda words, values: self.put(words, **values))
        page.began.connect(lambda: self._grip(True))
        page.ended.connect(lambda: self._grip(False))
        page.given_up.connect(context.desk.abort)
        page.turned.connect(self.turn)
        page.unit_changed.connect(self._set_unit)
        page.showing.connect(lambda what, on: (self.set_proofing if what == "proof" else self.set_marking)(on))
        self.films.found.connect(lambda: self.turn(self.page.page) if self.there else None)
        self.leaves.chosen.connect(lambda at: self.show_leaf(self.films.leaves()[at]))
        context.service.answers(HungOnPaper).connect(self._take)
        context.service.answers(Dots).connect(self._take_dots)
        context.service.answers(Filmed).connect(self._take_leaf)
        context.service.answers(Tones).connect(self._take_tones)
        context.desk.script_changed.connect(self._follow)
        context.desk.photo_changed.connect(self._another)
        self.setParent(paper)  # what is still on its way when the window goes comes to nobody

    # The sheets

    @property
    def sheets(self) -> tuple[tuple[str, Sheet], ...]:
        """Those of the script, or one that is not kept before it is changed."""
        return self.context.desk.script.sheets or (("First sheet", _FIRST),)

    @property
    def sheet(self) -> Sheet:
        """The one that is looked at."""
        return self.sheets[min(self.current, len(self.sheets) - 1)][1]

    @property
    def name(self) -> str:
        """What it is called."""
        return self.sheets[min(self.current, len(self.sheets) - 1)][0]

    @property
    def shape(self) -> float:
        """A print's width over its height."""
        width, height = self.context.desk.print_size()
        return width / max(1, height)

    @property
    def across(self) -> int:
        """How many pixels of the photograph the print is wide."""
        desk = self.context.desk
        if desk.photo is None:
            return 1
        times = max(desk.photo.size) / max(desk.photo.width, desk.photo.height)
        return round(desk.print_size()[0] * times)

    def _write(self, words: str, sheets: tuple[tuple[str, Sheet], ...], merge: str = "") -> None:
        desk = self.context.desk
        script = replace(desk.script, sheets=sheets)
        if desk.dragging:
            desk.move(script)
        else:
            desk.change(words, script, merge=merge)

    def put(self, words: str, **values: object) -> None:
        """Change values of the sheet that is looked at."""
        if "down" in values:
            values["across"] = max(1.0, float(values.pop("down")) * self.shape)  # type: ignore[arg-type]
        if "fine" in values:
            values["across"] = max(1.0, round(self.across * INCH / float(values.pop("fine")), 2))  # type: ignore[arg-type]
        if ("left" in values or "top" in values) and self.sheet.placing.middle:
            x, y = start(self.sheet, self.shape)
            values = {"left": round(x, 3), "top": round(y, 3), "middle": False, **values}
        if values.get("middle") is False and self.sheet.placing.middle and "left" not in values:
            x, y = start(self.sheet, self.shape)
            values.update(left=round(x, 3), top=round(y, 3))
        made = self.sheet.with_values(**values)
        if made.output.profile not in ("", self.sheet.output.profile):
            self._try_profile(made)
        elif made != self.sheet:
            self._put(words, made, values)

    def _try_profile(self, made: Sheet) -> None:
        """Look whether it can be printed with, in another thread; then it is taken."""
        job = self.context.jobs.run(
            lambda job: proofs.read_profile(proofs.profile_path(made.output.profile)),
            Lane.READ,
            done=lambda _: self._put("Profile", made, {"profile": made.output.profile}),
            failed=self.context.foot.warn,
        )
        job.failed.connect(lambda _: self._show())

    def _put(self, words: str, made: Sheet, values: Mapping[str, object]) -> None:
        at = min(self.current, len(self.sheets) - 1)
        sheets = (*self.sheets[:at], (self.name, made), *self.sheets[at + 1 :])
        self._write(f"Sheet: {words}", sheets, merge=f"sheet {' '.join(values)}")

    def choose(self, at: int) -> None:
        """Look at another sheet."""
        self.current = at
        self._follow()

    def add(self) -> None:
        """One more, as the present one is."""
        names = {name for name, _ in self.sheets}
        name = next(f"Sheet {k}" for k in range(2, 10_000) if f"Sheet {k}" not in names)
        sheets = (*self.sheets, (name, self.sheet))
        self.current = len(sheets) - 1
        self._write(f"New sheet: {name}", sheets)
        self.context.foot.say(f"{name} begins as {self.sheets[self.current - 1][0]} is; F2 gives it another name")

    def remove(self) -> None:
        """Take the present one away."""
        at = min(self.current, len(self.sheets) - 1)
        gone, sheets = self.name, (*self.sheets[:at], *self.sheets[at + 1 :])
        self.current = max(0, at - 1)
        self._write(f"Sheet {gone} taken away", sheets)
        self.context.foot.say(f"{gone} was taken away; Ctrl+Z brings it back")

    def rename(self, name: str) -> None:
        """Call the present one something else."""
        name = " ".join(name.split())[:80]
        if not name or name == self.name:
            return
        if any(name == other for other, _ in self.sheets):
            self.context.foot.say(f"There is a sheet {name} already")
            return
        at = min(self.current, len(self.sheets) - 1)
        self._write(f"Sheet: {name}", (*self.sheets[:at], (name, self.sheet), *self.sheets[at + 1 :]))

    def take_over(self, name: str, sheet: Sheet) -> None:
        """One that was kept for other photographs."""
        names = {known for known, _ in self.sheets}
        made = (
            name if name not in names else next(f"{name} {k}" for k in range(2, 10_000) if f"{name} {k}" not in names)
        )
        own = self.context.desk.script.sheets
        sheets = (*own, (made, sheet))
        self.current = len(sheets) - 1
        self._write(f"Sheet: {made}", sheets)

    def keep(self) -> None:
        """Keep it for other photographs."""
        name, sheet = self.name, self.sheet

        def work(job: object) -> Path:
            return sheetfile.keep(name, sheet)

        self.context.jobs.run(
            work,
            Lane.SHORT,
            done=lambda _: self.context.foot.say(f"{name} is kept; another photograph finds it under From the kept…"),
            failed=self.context.foot.warn,
        )

    def offer_kept(self) -> None:
        """A list of those that were kept; a press takes one over."""
        self.context.jobs.run(lambda job: sheetfile.kept(), Lane.READ, done=self._offer)

    def _offer(self, kept: list[tuple[str, Sheet]]) -> None:
        if not kept:
            self.context.foot.say("No sheet is kept yet; Keep for others does it")
            return
        menu = self.menu = QMenu(self.rack)
        for name, sheet in kept:
            made = menu.addAction(name)
            made.triggered.connect(lambda _=False, name=name, sheet=sheet: self.take_over(name, sheet))
        menu.popup(self.rack.mapToGlobal(self.rack.rect().bottomLeft()))

    def fill(self) -> None:
        """As large as leaves the same margin all round."""
        across = round(fitting(self.sheet, self.shape, _MARGIN), 2)
        self.put(f"Print {told(across, self.unit)} wide", across=across, middle=True)

    # The hand on the paper

    def _grip(self, down: bool) -> None:
        desk = self.context.desk
        if down:
            desk.begin("Sheet: print moved")
        else:
            desk.commit()

    def _moved(self, x: float, y: float) -> None:
        self.put("print moved", left=round(x, 3), top=round(y, 3), middle=False)

    def _sized(self, across: float, x: float, y: float) -> None:
        values: dict[str, object] = {"across": round(across, 3)}
        if not self.sheet.placing.middle:
            values.update(left=round(x, 3), top=round(y, 3))
        self.put("print sized", **values)

    def _nudged(self, x: float, y: float) -> None:
        left, top = start(self.sheet, self.shape)
        self.put("print moved", left=round(left + x, 3), top=round(top + y, 3), middle=False)

    def turn(self, page: str) -> None:
        """To another page of the sheet; the processes are another view's."""
        if page == "Process":
            return
        self.page.page = page
        before = self.films.leaf
        self.films.turn(page)
        if self.films.leaf != before:
            self.paper.take(None)
        self._follow()

    def show_leaf(self, leaf: Lying) -> None:
        """Another leaf onto the paper."""
        self.films.leaf = leaf
        self.paper.take(None)
        self._follow()

    def take_strip(self, strip: Bands) -> None:
        """A test strip onto the paper."""
        self.films.take_strip(strip)
        self.paper.take(None)
        self._follow()

    def take_dried(self, image: QImage) -> None:
        """The print out of the bench darkroom."""
        self.films.take_dried(image)
        self.paper.take(image)
        self.leaves.take(DRIED.name, image)
        self._follow()

    def _set_unit(self, unit: str) -> None:
        self.unit = self.page.unit = unit
        self._show()

    # What is seen

    def enter(self) -> None:
        """It comes onto the screen."""
        self._follow()

    def _another(self) -> None:
        self.current, self._proof_of = 0, None
        self.films.another()
        self.paper.take(None)

    def _follow(self) -> None:
        self._show()
        if self.there:
            self._ask.start()
        self.changed.emit()

    @property
    def there(self) -> bool:
        """Whether the view is on the screen."""
        return self.paper.isVisible() or self.page.isVisible()

    @property
    def proof(self) -> Proof | None:
        """The way onto this sheet; None if its profile cannot be used, is being read, or there is none to be seen."""
        if self._proof_of is None or _ways(self._proof_of) != _ways(self.sheet):
            self._learn()
        return self.on_paper if self.proofing and not self.held else None

    def _learn(self) -> None:
        """Find the way onto the sheet: of a profile's file in another thread."""
        sheet, photo = self.sheet, self.context.desk.photo
        self._proof_of = sheet
        if photo is None:
            return
        space = photo.source.space

        def work(job: object) -> tuple[Proof, tuple[float, ...]]:
            proof = proofs.proof_of(sheet)
            return proof, tuple(float(v) for v in proofs.table(proof, space)[-1, -1, -1])

        def done(found: tuple[Proof, tuple[float, ...]]) -> None:
            if self._proof_of is sheet:
                self.on_paper, self._paper_white = found
                self._show()
                self.refresh()

        def failed(text: str) -> None:
            if self._proof_of is sheet:
                self.on_paper = None
                self.context.foot.warn(text)

        self.context.jobs.run(work, Lane.READ, done=done, failed=failed)

    def _show(self) -> None:
        if not self.there:  # what was asked for before it was left still arrives, and the foot is another view's
            return
        if self.context.desk.photo is None:
            self.paper.show_sheet(None, 1.5, self.unit)
            return
        sheet, shape = self.sheet, self.shape
        self.current = min(self.current, len(self.sheets) - 1)
        self.rack.show_lines([(name, _about(one)) for name, one in self.sheets], self.current)
        self.paper.white = self._white()
        self.paper.film = self.films.tone if self.films.leaf == NEGATIVE else None
        self.paper.show_sheet(self.films.sheet(), shape, self.unit)
        found = remarks(sheet, shape, self.across)
        films, page = self.films, self.page
        self.leaves.show_leaves(tuple(leaf.name for leaf in films.leaves()), films.at())
        page.known = films.known()
        self.page.show_sheet(self.name, sheet, shape, self.across, found[0] if found else "")
        size = name_of(sheet.paper.width, sheet.paper.height)
        measures = f"{told(sheet.paper.width, self.unit).rsplit(' ', 1)[0]} × {told(sheet.paper.height, self.unit)}"
        facts = f"{size.partition(',')[0] + ' ' if size else ''}{measures}"
        facts += f" · {pixels_per_inch(self.across, sheet.placing.across):.0f} ppi in the photograph, "
        facts += f"written at {sheet.output.resolution:.0f}"
        if self.on_paper is not None and self.on_paper.icc and self.proofing:
            facts += f" · {100 * self.outside:.1f} % out of gamut"
        self.context.foot.show_words(facts)

    def _white(self) -> QColor:
        proof = self.proof if self.films.leaf.proofed else None
        return QColor("#FFFFFF") if proof is None or not proof.paper_white else QColor.fromRgbF(*self._paper_white)

    def refresh(self) -> None:
        """Ask for the print as it lies there."""
        desk, paper = self.context.desk, self.paper
        if desk.photo is None or not paper.isVisible() or paper.sheet is None:
            return
        box = paper.box(laid(self.sheet, self.shape).prints[0])
        ratio = paper.devicePixelRatioF()
        scale = min(1.0, max(0.01, box.width() * ratio / max(1, desk.print_size()[0])))
        size = framing(desk.script.frame, desk.photo.width, desk.photo.height).size(scale)
        bare = replace(desk.script, sheets=())
        rect, service = Rect(0, 0, *size), self.context.service
        films = self.films
        small = min(scale, _SMALL / max(1, desk.print_size()[0]))
        if films.leaf == DRIED:
            self.paper.take(films.dried)
        elif films.leaf.film is not None:
            service.ask(films.request(bare, rect, scale, films.leaf, True))
        size = framing(desk.script.frame, desk.photo.width, desk.photo.height).size(small)
        tiny = Rect(0, 0, *size)
        for leaf, bands in ((PRINT, None), (STRIP, films.strip)):
            if leaf in films.leaves():
                large = films.leaf == leaf
                part, slot = ((rect, scale), "paper") if large else ((tiny, small), f"small {leaf.name}")
                service.ask(OnPaper(bare, *part, slot=slot, proof=self.proof, marked=self.marking, bands=bands))
        dots = films.dots(bare)
        if dots is None:
            self.leaves.show_dots(None)
        else:
            service.ask(dots)
        for leaf in films.leaves():
            if leaf.film is not None:
                service.ask(films.request(bare, tiny, small, leaf, False))
        if self.on_paper is not None and (self.tones is None or self.tones.proof != self.on_paper):
            self.context.service.ask(TonesOf(self.on_paper))

    def _take(self, frame: HungOnPaper) -> None:
        look = frame.look
        if not isinstance(look, OnPaper) or look.proof != self.proof:  # of another way onto paper
            return
        image = display.image(frame.pixels)
        leaf = PRINT if look.bands is None else STRIP
        if leaf == self.films.leaf and look.slot == "paper":
            self.paper.take(image)
            self.outside = frame.outside
        self.leaves.take(leaf.name, image)
        self._show()

    def _take_leaf(self, frame: Filmed) -> None:
        found = self.films.picture(frame)
        if found is None:
            return
        leaf, image, large = found
        if not large:
            self.leaves.take(leaf.name, image)
        elif leaf == self.films.leaf:
            self.paper.take(image)

    def _take_dots(self, dots: Dots) -> None:
        if self.films.dots(None) is not None:
            self.leaves.show_dots(display.image(dots.pixels))

    def _take_tones(self, tones: Tones) -> None:
        self.tones = tones
        self.leaves.show_tones(tones)

    def hold(self, down: bool) -> None:
        """A held key: without the proof."""
        self.held = down
        self._show()
        self.refresh()

    def set_proofing(self, on: bool) -> None:
        """As paper has it, or as the screen does."""
        self.proofing = self.page.shown["proof"] = on
        self._show()
        self.refresh()

    def set_marking(self, on: bool) -> None:
        """What the printer has not is marked."""
        self.marking = self.page.shown["gamut"] = on
        self._show()
        self.refresh()

    def stops(self) -> list[QWidget]:
        """Where the keyboard goes from part to part."""
        return [self.paper, self.leaves, self.rack.lines]


def _ways(sheet: Sheet) -> tuple[object, ...]:
    """What its proof depends on."""
    paper, out = sheet.paper, sheet.output
    return (out.profile, paper.stock, paper.white_l, paper.white_a, paper.white_b, paper.density, out.intent,
            out.black_point, out.paper_white)  # fmt: skip


def _about(sheet: Sheet) -> str:
    paper = sheet.paper
    size = name_of(paper.width, paper.height).partition(",")[0]
    return f"{size or f'{paper.width:.0f} × {paper.height:.0f}'}, {paper.stock}"
