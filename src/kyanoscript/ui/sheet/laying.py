"""What is laid on paper: the sheets of the script, which one is looked at, its proof, and what is done with it.

Long, since paper, page, rack and leaves hear of each other here and nowhere else.
"""

from __future__ import annotations

from dataclasses import replace

import shiboken6
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtGui import QColor, QImage
from PySide6.QtWidgets import QWidget

from kyanoscript.core.geometry import framing
from kyanoscript.core.paper.layout import laid, pixels_per_inch, remarks
from kyanoscript.core.paper.measure import told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.paper.sizes import name_of
from kyanoscript.core.picture import Rect
from kyanoscript.core.print.bands import Bands
from kyanoscript.files.colour import proofs
from kyanoscript.files.colour.proofs import Proof
from kyanoscript.translation import tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Lane
from kyanoscript.ui.service import display
from kyanoscript.ui.service.papers import Dots, Filmed, HungOnPaper, OnPaper, Tones, TonesOf
from kyanoscript.ui.sheet.films import DRIED, NEGATIVE, PRINT, STRIP, Films, Lying
from kyanoscript.ui.sheet.leaves import Leaves
from kyanoscript.ui.sheet.page import SheetPage
from kyanoscript.ui.sheet.paper import PaperView
from kyanoscript.ui.sheet.rack import SheetRack
from kyanoscript.ui.sheet.sheets import Sheets

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
        self.paper, self.page, self.leaves = PaperView(), SheetPage(context.foot.say), Leaves()
        self.sheets = Sheets(context, self.rack)
        self.sheets.followed.connect(self._follow)
        self.proofing, self.marking, self.held = True, False, False
        self.outside = 0.0
        self.tones: Tones | None = None
        self.films = Films(context, lambda: self.sheets.sheet, lambda: self.sheets.shape)
        self.on_paper: Proof | None = None
        self._proof_of: Sheet | None = None
        self._paper_white: tuple[float, ...] = (1.0, 1.0, 1.0)
        self._ask = QTimer(self.paper)
        self._ask.setSingleShot(True)
        self._ask.setInterval(30)
        self._ask.timeout.connect(self.refresh)
        rack, paper, page = self.rack, self.paper, self.page
        rack.chosen.connect(self.sheets.choose)
        rack.new.connect(self.sheets.add)
        rack.other.connect(self.sheets.offer_kept)
        paper.moved.connect(self.sheets.moved)
        paper.sized.connect(self.sheets.sized)
        paper.nudged.connect(self.sheets.nudged)
        paper.grip_changed.connect(self.sheets.grip)
        paper.resized.connect(self._ask.start)
        page.changed.connect(lambda words, values: self.sheets.put(words, **values))
        page.began.connect(lambda: self.sheets.grip(True))
        page.ended.connect(lambda: self.sheets.grip(False))
        page.given_up.connect(context.desk.abort)
        page.turned.connect(self.turn)
        page.unit_changed.connect(self._set_unit)
        page.showing.connect(lambda what, on: (self.set_proofing if what == "proof" else self.set_marking)(on))
        self.films.found.connect(lambda: self.turn(self.page.page) if self.there else None)
        self.films.told.connect(self._show)
        self.leaves.chosen.connect(lambda at: self.show_leaf(self.films.leaves()[at]))
        context.service.answers(HungOnPaper).connect(self._take)
        context.service.answers(Dots).connect(self._take_dots)
        context.service.answers(Filmed).connect(self._take_leaf)
        context.service.answers(Tones).connect(self._take_tones)
        context.desk.script_changed.connect(self._follow)
        context.desk.photo_changed.connect(self._another)
        self.setParent(paper)  # what is still on its way when the window goes comes to nobody

    # What lies on the paper

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
        self.sheets.unit = self.page.unit = unit
        self._show()

    # What is seen

    def enter(self) -> None:
        """It comes onto the screen."""
        self._follow()

    def _another(self) -> None:
        self.sheets.current, self._proof_of = 0, None
        self.films.another()
        self.paper.take(None)

    def _follow(self) -> None:
        self._show()
        if self.there:
            self._ask.start()
        self.changed.emit()

    @property
    def there(self) -> bool:
        """Whether the view is on the screen; not once its window is gone, though an answer may still come."""
        return shiboken6.isValid(self.paper) and (self.paper.isVisible() or self.page.isVisible())

    @property
    def proof(self) -> Proof | None:
        """The way onto this sheet; None if its profile cannot be used, is being read, or there is none to be seen."""
        if self._proof_of is None or _ways(self._proof_of) != _ways(self.sheets.sheet):
            self._learn()
        return self.on_paper if self.proofing and not self.held else None

    def _learn(self) -> None:
        """Find the way onto the sheet: of a profile's file in another thread."""
        sheet, photo = self.sheets.sheet, self.context.desk.photo
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
            self.paper.show_sheet(None, 1.5, self.sheets.unit)
            return
        sheet, shape = self.sheets.sheet, self.sheets.shape
        self.sheets.current = min(self.sheets.current, len(self.sheets.all) - 1)
        self.rack.show_lines([(name, _about(one)) for name, one in self.sheets.all], self.sheets.current)
        self.paper.white = self._white()
        self.paper.film = self.films.tone if self.films.leaf == NEGATIVE else None
        self.paper.show_sheet(self.films.sheet(), shape, self.sheets.unit)
        found = remarks(sheet, shape, self.sheets.across)
        films, page = self.films, self.page
        self.leaves.show_leaves(tuple(leaf.name for leaf in films.leaves()), films.at())
        page.known = films.known()
        self.page.show_sheet(self.sheets.name, sheet, shape, self.sheets.across, found[0] if found else "")
        size = name_of(sheet.paper.width, sheet.paper.height)
        width, height = (told(length, self.sheets.unit) for length in (sheet.paper.width, sheet.paper.height))
        measures = f"{width.rsplit(' ', 1)[0]} × {height}"
        facts = f"{size.partition(',')[0] + ' ' if size else ''}{measures}"
        facts += tr(
            " · {across:.0f} ppi in the photograph, ", across=pixels_per_inch(self.sheets.across, sheet.placing.across)
        )
        facts += tr("written at {resolution:.0f}", resolution=sheet.output.resolution)
        if self.on_paper is not None and self.on_paper.icc and self.proofing:
            facts += tr(" · {outside:.1f} % out of gamut", outside=100 * self.outside)
        self.context.foot.show_words(facts)

    def _white(self) -> QColor:
        proof = self.proof if self.films.leaf.proofed else None
        return QColor("#FFFFFF") if proof is None or not proof.paper_white else QColor.fromRgbF(*self._paper_white)

    def refresh(self) -> None:
        """Ask for the print as it lies there."""
        desk, paper = self.context.desk, self.paper
        if desk.photo is None or not self.there or not paper.isVisible() or paper.sheet is None:
            return
        box = paper.box(laid(self.sheets.sheet, self.sheets.shape).prints[0])
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
                part, slot = ((rect, scale), "paper") if large else ((tiny, small), tr("small {name}", name=leaf.name))
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
