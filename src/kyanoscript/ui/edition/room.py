"""Everything of the Edition view: its widgets, and what is done with each word of them."""

from __future__ import annotations

import functools
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from kyanoscript.core.script import Script
from kyanoscript.files.editions.manifest import Differs
from kyanoscript.translation import tr
from kyanoscript.ui.commands.asking import ask
from kyanoscript.ui.commands.book import Book
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.edition.chosen import Below
from kyanoscript.ui.edition.page import EditionPage
from kyanoscript.ui.edition.rack import Rack
from kyanoscript.ui.edition.record import Record
from kyanoscript.ui.edition.series import Series, State, Tile
from kyanoscript.ui.edition.setup import Setup
from kyanoscript.ui.edition.smalls import Smalls
from kyanoscript.ui.edition.tiles import PICTURE, Tiles
from kyanoscript.ui.edition.work import Work
from kyanoscript.ui.service import display

_AT_ONCE = 90  # milliseconds between two looks at what is asked for while one scrolls
_NONE = (
    "Add a folder of photographs, or drop them here.\n\n"
    "Choose what all of them are printed through, and where the prints go.\n"
    "One that wants something else is opened on the bench, and kept as an exception."
)


class Room(QObject):
    """One edition at a time, with its widgets."""

    changed = Signal()  # other things can be done
    emptied = Signal()  # there is nothing any more to be shown, or something again
    open_wanted = Signal(object, object)  # a photograph, and the script that it is to be on the bench with

    def __init__(self, context: Context, book: Book, recent: Callable[[], Sequence[str]]) -> None:
        super().__init__(context.top)  # it hears of nothing once its widgets are gone
        self.context, self._book = context, book
        self.active = False
        self._screen = display.screen()  # that the small pictures were made for
        self.shown: State | None = None  # only those that stand so; None: all
        self.series = Series(context)
        self.work, self.smalls = Work(self.series), Smalls(context.jobs, self)
        self.tiles, self.rack, self.page, self.below = Tiles(), Rack(), EditionPage(), Below()
        self.middle = self.tiles.area
        self.setup = Setup(context, book, recent, self.series, self.rack)
        self._soon, self._sights = QTimer(self), QTimer(self)
        for timer, wait, act in ((self._soon, 0, self.show), (self._sights, _AT_ONCE, self._want)):
            timer.setSingleShot(True)
            timer.setInterval(wait)
            timer.timeout.connect(act)
        self._connect()

    def _connect(self) -> None:
        series, work, foot = self.series, self.work, self.context.foot
        for signal in (series.changed, work.went, self._book.changed, self.context.desk.kept.changed):
            signal.connect(lambda: self._soon.start())
        self.context.desk.photo_changed.connect(lambda: self._soon.start())
        for said in (series.said, work.said):
            said.connect(foot.say)
        for warned in (series.warned, work.warned):
            warned.connect(functools.partial(foot.say, warning=True, stay=True))
        self.smalls.made.connect(lambda _: self._show_smalls())
        self.tiles.chose.connect(self._show_chosen)
        self.tiles.seen.connect(lambda: None if self._sights.isActive() else self._sights.start())
        self.tiles.entered.connect(self.open)
        self.tiles.moved.connect(lambda to: series.move(self.tiles.chosen, to))
        self.rack.counts.chosen.connect(self.filter)
        setup = self.setup
        self.rack.folder.connect(setup.ask_folder)
        self.rack.photographs.connect(setup.ask_photographs)
        self.rack.recent.connect(setup.ask_recent)
        self.rack.order.connect(setup.ask_order)
        page = self.page
        page.changed.connect(lambda words, values: series.put(words, **values))
        for signal, act in ((page.took, setup.take), (page.laid, setup.lay)):
            signal.connect(act)
            signal.connect(lambda _: self._soon.start())  # the list shows what is, whatever was chosen in it
        page.wants_cluster.connect(setup.ask_cluster)
        page.wants_cluster.connect(self._soon.start)
        page.acts = {
            "into": setup.ask_into, "more": setup.ask_more, "match": self.match, "unmatch": self.unmatch, "go": self.go,
            "check": self.check, "record": self.record, "out": self.leave_out, "off": self.remove,
            "again": self.try_again,
        }  # fmt: skip
        self.below.bench.connect(self.open)
        self.below.others.connect(self.as_others)

    # Coming and going

    def enter(self) -> None:
        """It comes onto the screen."""
        self.active = True
        self.smalls.doubt()
        self.series.recall()
        self._book.read()
        self.series.look()
        self.show()

    def leave(self) -> None:
        """It goes; what is at work goes on."""
        self.active = False
        self.smalls.want(())
        self.context.foot.show_words("")
        self.context.foot.show_progress(None)

    # Showing

    def show(self) -> None:
        """Bring everything up to date."""
        if not self.active:
            return
        every = self.series.tiles()
        counts: Counter[State | None] = Counter(tile.state for tile in every)
        counts[None] = len(every)
        self.rack.show_counts(counts, self.shown)
        there = bool(self.tiles.tiles)
        self.tiles.nothing = _NONE if not every else "None of them stands so"
        self.tiles.at_work = self.work.running is not None
        self.tiles.show_tiles([tile for tile in every if self.shown in (None, tile.state)])
        if bool(self.tiles.tiles) != there:
            self.emptied.emit()
        edition = self.series.edition
        self.page.show_edition(edition, self.setup.scripts(), self.setup.sheets(), self._example)
        begun = counts[State.DONE] + counts[State.FAILED] + counts[State.CHANGED] > 0
        self.page.show_run(self.work.running is not None, self.work.paused, begun, self.series.problem)
        self._show_chosen()
        self._show_foot(counts)
        self._want()
        self.changed.emit()

    def _show_foot(self, counts: Counter[State | None]) -> None:
        foot, work = self.context.foot, self.work
        if work.running is not None:
            foot.show_words(work.progress())
            foot.show_progress(work.share, "Stop; what is done stays, and the others can be gone on with", work.paused)
        else:
            checking = self.work.checking is not None
            foot.show_progress(self.work.share_checked if checking else None, "Stop looking; nothing changes")
            out = tr(", {counts} left out", counts=counts[State.OUT]) if counts[State.OUT] else ""
            wanted = counts[None] - counts[State.OUT]
            foot.show_words(
                tr(
                    "{counts} of {wanted} done{out}    Hold O: as photographed",
                    counts=counts[State.DONE],
                    wanted=wanted,
                    out=out,
                )
                if wanted
                else ""
            )

    def _show_chosen(self) -> None:
        tile = self.tiles.tile()
        self.page.show_chosen(tile, len(self.tiles.chosen))
        self._show_below(tile)
        self._want()

    def _show_below(self, tile: Tile | None) -> None:
        if tile is None:
            self.below.show_small("", False, None, Script(), Script())
            return
        series, entry = self.series, tile.entry
        small = self.smalls.find(series.small(entry, stages=True)) or self.smalls.find(series.small(entry))
        mine = series.edition.asked_for(entry).script
        others = series.edition.asked_for(replace(entry, own=None)).script
        self.below.show_small(entry.photo.stem, entry.own is not None, small, mine, others)

    def _show_smalls(self) -> None:
        series = self.series
        found = {tile.entry.photo: self.smalls.find(series.small(tile.entry)) for tile in self.tiles.in_sight()}
        self.tiles.show_smalls({photo: small for photo, small in found.items() if small is not None})
        self._show_below(self.tiles.tile())

    def _want(self) -> None:
        """Ask for the small pictures of what is in sight, and for the passes of the chosen one."""
        if not self.active:
            return
        ratio = self.tiles.devicePixelRatioF()
        size = (round(PICTURE.width() * ratio), round(PICTURE.height() * ratio))
        if (self.smalls.size, self._screen) != (size, display.screen()):
            self.smalls.size, self._screen = size, display.screen()
            self.smalls.forget_all()
        series, tile = self.series, self.tiles.tile()
        first = [series.small(tile.entry, stages=True)] if tile is not None else []
        photo = tile.entry.photo if tile is not None else None
        rest = {t.entry.photo: series.small(t.entry) for t in self.tiles.in_sight() if t.entry.photo != photo}
        self.smalls.want([*first, *rest.values()])
        self._show_smalls()

    def _example(self) -> tuple[Path | None, dict[str, str | int]]:
        edition = self.series.edition
        first = edition.included[0].photo if edition.included else None
        recipe = edition.asked.recipe.word if edition.asked.recipe is not None else ""
        return first, {"script": edition.stem, "state": edition.state, "recipe": recipe}

    def filter(self, what: State | None) -> None:
        """Only those that stand so, or all."""
        self.shown = what
        self.show()

    # Photographs

    def leave_out(self) -> None:
        """Those that are chosen, or take them in again."""
        tile = self.tiles.tile()
        if tile is not None:
            self.series.leave_out(self.tiles.chosen, not tile.entry.out)

    def remove(self) -> None:
        """Those that are chosen are none of the edition's any more."""
        if self.tiles.chosen:
            count = len(self.tiles.chosen)
            self.series.remove(self.tiles.chosen)
            self.context.foot.say(
                tr("Taken off: {count}; Ctrl+Z takes it back. Their files stay as they are", count=count)
            )

    def shift(self, by: int) -> None:
        """The chosen ones one place earlier, or later."""
        places = sorted(self.tiles.chosen)
        if places:
            to = max(0, places[0] - 1) if by < 0 else min(len(self.series.edition.entries), places[-1] + 2)
            self.series.move(places, to)
            first = to if by < 0 else to - len(places)
            self.tiles.chosen = frozenset(range(first, first + len(places)))
            self.show()
            here = (k for k, tile in enumerate(self.tiles.tiles) if tile.at == first)
            self.tiles.current = next(here, self.tiles.current)

    # Exceptions

    def open(self) -> None:
        """The chosen one onto the bench, with what it is printed through."""
        tile = self.tiles.tile()
        if tile is not None:
            self.open_wanted.emit(tile.entry.photo, self.series.edition.asked_for(tile.entry).script)

    def as_others(self) -> None:
        """The chosen one is printed as all the others again."""
        tile = self.tiles.tile()
        if tile is not None:
            self.series.except_(tile.entry.photo, None)

    def keep_exception(self, photo: Path, script: Script) -> bool:
        """A photograph is printed through a script of its own; False if it is none of the edition's."""
        places = [k for k, entry in enumerate(self.series.edition.entries) if entry.photo == photo]
        if not places:
            return False
        self.series.except_(photo, replace(script, sheets=(), states=(), origin=0))
        self.shown = None
        self.show()
        self.tiles.choose(next((k for k, tile in enumerate(self.tiles.tiles) if tile.at == places[0]), 0))
        return True

    # Tones

    def match(self) -> None:
        """Every print is brought to the tones of the chosen one's."""
        tile = self.tiles.tile()
        if tile is not None:
            self.series.put(tr("Match to {stem}", stem=tile.entry.photo.stem), match=tile.entry.photo, tones=None)

    def unmatch(self) -> None:
        """Every print as its photograph makes it."""
        self.series.put("No match", match=None, tones=None)

    # At work

    def go(self) -> None:
        """Begin, or go on; while it is at work: pause, or no longer."""
        if self.work.running is not None:
            self.work.pause()
        else:
            self.series.look(self._begin)

    def try_again(self) -> None:
        """Only the chosen one."""
        tile = self.tiles.tile()
        if tile is not None and tile.result is not None:
            name = tile.result.file
            self.series.look(lambda: self.work.start({name}))

    def _begin(self) -> None:
        series = self.series
        if series.problem:
            self.context.foot.say(f"{series.problem[:1].upper()}{series.problem[1:]}", warning=True)
            return
        if series.strange and not series.edition.leaves:
            answers = ("Replace", "Leave as it is", "Do not begin")
            words = "One file has the name of a print already, and no edition made it."
            if series.strange > 1:
                words = tr(
                    "{strange} files have names of prints already, and no edition made them.", strange=series.strange
                )
            said = ask(self.context.top, words, str(series.edition.folder), answers)
            if said == answers[2]:
                return
            if said == answers[1]:
                series.put("What is there stays", leaves=True)
                series.look(self.work.start)
                return
        self.work.start()

    def check(self) -> None:
        """Compare what is there with what was written."""
        self.context.foot.say("Reading every print…", stay=True)
        self.work.check(self._checked)

    def _checked(self, differ: Sequence[Differs], count: int) -> None:
        foot = self.context.foot
        if not differ:
            foot.say(
                tr("All {count} prints are as they were written", count=count)
                if count != 1
                else "The print is as it was written"
            )
            return
        first = f"{differ[0].file}: {differ[0].reason}"
        more = tr(", and {count} more", count=len(differ) - 1) if len(differ) > 1 else ""
        foot.say(
            tr(
                "{count} of {count2} prints are as they were written; {first}{more}",
                count=count - len(differ),
                count2=count,
                first=first,
                more=more,
            ),
            True,
            True,
        )

    def record(self) -> None:
        """Which were printed, and when."""
        folder = self.series.edition.folder
        if folder is not None:
            Record(self.context, folder).ask()

    def stops(self) -> list[QWidget]:
        """Where the keyboard goes from part to part."""
        return [self.tiles, self.page.words["go"], self.rack.counts]
