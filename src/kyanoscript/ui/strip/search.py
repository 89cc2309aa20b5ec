"""What is sought in the Strip view, and the widgets that show it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial, dials
from kyanoscript.core.seek.seek import LEAST, MOST, SIDES, Seek, Sought, choices, script_at
from kyanoscript.translation import tr, trn
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail
from kyanoscript.ui.service.seeks import Learn, Learned, Turn, Turned
from kyanoscript.ui.strip.below import Below, nothing
from kyanoscript.ui.strip.searchpage import SearchPage
from kyanoscript.ui.strip.sought import SoughtWall
from kyanoscript.ui.widgets.chooser import Choice

_FIRST = 3  # values of the chosen pass that are ticked at first
_TRYING = "Trying the values small…"
_NOTHING = "Tick the values on the right; prints to choose from come here"


class Search(QObject):
    """One search at a time: where it stands, the way so far, and what is shown of it."""

    taken = Signal(str, object)  # what was done, and the Script
    changed = Signal()  # the search is another, or can be undone otherwise

    def __init__(self, context: Context, script: Callable[[], Script]) -> None:
        super().__init__()
        self.context, self.desk, self._script = context, context.desk, script
        self.judged: Callable[[], Iterable[tuple[Script, Script]]] = tuple  # pairs judged blind, the better first
        self.active = False
        self.sought: dict[Dial, Sought] = {}  # what is ticked
        self.way: list[Seek] = []  # the search after every look
        self.at = 0  # where on it one is
        self._whole: Script | None = None  # what the search began on, with papers and states
        self._own_side: int | None = None  # prints each way, if the person chose them
        self._photo: object = None
        self._pending: object = None  # what was asked for and has not come
        self._tag: tuple[int, int] = (id(self), 0)
        self._listed = True  # the values to be ticked are on the page
        self.page, self.wall = SearchPage(), SoughtWall(context.desk, context.service)
        self.nothing = nothing()
        self.below = Below("The way so far", "What was taken at each look; press one to go on from there")
        self.row = self.below.row
        self._connect()

    def _connect(self) -> None:
        service, wall, page = self.context.service, self.wall, self.page
        service.answers(Learned).connect(self._trying)
        service.answers(Turned).connect(self._turned)
        service.answers(Thumbnail).connect(self._proof)
        service.failed.connect(lambda _: self._fell_short())
        wall.chosen.connect(lambda item: self.choose(wall.place_of(item)))
        wall.entered.connect(lambda: self.choose(wall.at))
        wall.back.connect(self.back)
        wall.zoomed.connect(self._tell_zoom)
        self.row.chosen.connect(lambda key: self.go_to(int(key)))
        page.ticked.connect(self.tick)
        page.narrowed.connect(self.narrow)
        page.locks.connect(lambda told: self.lock(*told))
        page.refused.connect(self.context.foot.say)
        page.acts.update(
            {
                "begin": self.begin,
                "return": self._show,
                "take": self.take,
                "keep": self.keep,
                "values": self.list_values,
                "back": self.back,
                "grid 3": lambda: self.wide(3),
                "grid 5": lambda: self.wide(5),
            }
        )
        for signal in (self.desk.script_changed, self.desk.photo_changed):
            signal.connect(lambda *_: self._other_print())

    # Which values

    @property
    def seek(self) -> Seek | None:
        """Where the search stands; None: there is none yet."""
        return self.way[self.at] if self.way else None

    def dials(self) -> list[Dial]:
        """What can be sought, the chosen pass's first."""
        photo, step = self.desk.photo, self.desk.selected_pass
        found = dials(self._script(), photo is not None and photo.raw)
        return sorted(found, key=lambda dial: step is None or dial.step != step.id)

    def add(self, dial: Dial) -> bool:
        """One more is to be sought; whether it is."""
        self._forget_others()
        if dial in self.sought or len(self.sought) < MOST:
            self.tick(dial, True)
        return dial in self.sought

    def tick(self, dial: Dial, on: bool) -> None:
        """A value is to be sought, or not."""
        script = self._script()
        if on and dial.spec(script) is not None:
            self.sought[dial] = Sought.of(script, dial)
        elif not on:
            self.sought.pop(dial, None)
        if self.active and self._listed:
            self.list_values()

    def narrow(self, dial: Dial, low: float, high: float) -> None:
        """Other ends of a value."""
        if dial in self.sought:
            self.sought[dial] = self.sought[dial].narrowed(low, high)

    def list_values(self) -> None:
        """The page of values to be ticked."""
        self._listed = True
        script, found = self._script(), self.dials()
        self.sought = {dial: sought for dial, sought in self.sought.items() if dial in found}
        self.page.show_values(script, found, self.sought, bool(self.way))
        if not self.way:
            self.wall.show_words("" if self._pending is not None else _NOTHING)
        self.changed.emit()

    def _forget_others(self) -> None:
        """What was ticked for another photograph: now the first values of the chosen pass are."""
        if self._photo is not self.desk.photo:
            self._photo = self.desk.photo
            self.sought, self.way, self.at, self._pending, self._own_side = {}, [], 0, None, None
            script, step = self._script(), self.desk.selected_pass
            own = [dial for dial in self.dials() if step is not None and dial.step == step.id and dial.of == "pass"]
            self.sought = {dial: Sought.of(script, dial) for dial in own[:_FIRST] if dial.name != "strength"}

    # The search

    def begin(self) -> None:
        """The values are tried small, then there is something to choose."""
        if not LEAST <= len(self.sought) <= MOST:
            self.context.foot.say(tr("Tick {least} to {most} values", least=LEAST, most=MOST))
            return
        whole = self._script()
        base = replace(whole, sheets=(), states=(), origin=0)
        order = [dial for dial in dials(whole, True) if dial in self.sought]
        sought = tuple(Sought.of(base, dial).narrowed(*self._ends(dial)) for dial in order)
        self._whole, self.way, self.at = whole, [], 0
        self.wall.base = base
        self.wall.show_words(_TRYING)
        self.row.show_choices([])
        asked = Learn(base, sought, self._side(), choices(base, sought, self.judged()))
        self._ask(asked)

    def _ends(self, dial: Dial) -> tuple[float, float]:
        return self.sought[dial].low, self.sought[dial].high

    def _side(self) -> int:
        return self._own_side or next((side for side in reversed(SIDES) if self.wall.roomy(side)), SIDES[0])

    def choose(self, place: int) -> None:
        """A print was taken: it is the middle of the next ones."""
        seek = self.seek
        if seek is None or self._pending is not None or not 0 <= place < len(seek.now.points):
            return
        side = self._side()
        self._ask(Turn(lambda: replace(seek, side=side).choose(place)))

    def back(self) -> None:
        """One look back."""
        if self.at > 0:
            self.go_to(self.at - 1)
        else:
            self.context.foot.say("This is the start")

    def forth(self) -> None:
        """And forth again."""
        self.go_to(self.at + 1)

    def go_to(self, at: int) -> None:
        """To a look of the way; those after it stay until another print is taken."""
        if 0 <= at < len(self.way) and self._pending is None:
            self.at = at
            self._show()

    def lock(self, dial: int, on: bool) -> None:
        """A value stays where the best so far has it, or may go on."""
        seek = self.seek
        if seek is not None and self._pending is None:
            locked = seek.locked | {dial} if on else seek.locked - {dial}
            if len(locked) > len(seek.dials) - LEAST:
                self.context.foot.say(tr("{least} values at least are left to be sought", least=LEAST))
                self._show()
                return
            self._ask(Turn(lambda: seek.lock(locked)))

    def wide(self, side: int) -> None:
        """So many prints each way."""
        seek, self._own_side = self.seek, side
        if seek is not None and self._pending is None:
            if not self.wall.roomy(side):
                self.context.foot.say("The prints are small now: there is no room for so many")
            self._ask(Turn(lambda: seek.wide(side)))

    def _ask(self, asked: Learn | Turn) -> None:
        self._pending = asked
        self.context.service.ask(asked)

    def _trying(self, learned: Learned) -> None:
        if learned.asked is self._pending:
            self.context.foot.say(tr("Trying the values small: {share:.0f} %", share=100 * learned.share))

    def _turned(self, turned: Turned) -> None:
        if turned.asked is not self._pending:
            return
        self._pending = None
        before, seek = self.seek, turned.seek
        if isinstance(turned.asked, Learn):
            self.way, self.at = [seek], 0
            self._say_judged(seek)
        elif before is not None and seek.count == before.count:  # others to choose from at the same look
            self.way[self.at :] = [seek]
        else:
            self.way[self.at + 1 :] = [seek]
            self.at += 1
        if self.active:
            self._show()

    def _fell_short(self) -> None:
        """Something could not be worked out, which the foot tells: what was asked for is not waited for any more."""
        if self._pending is not None:
            self._pending = None
            if self.active:
                self._show() if self.way else self.list_values()

    def _say_judged(self, seek: Seek) -> None:
        count = len(seek.judged)
        self.context.foot.say(
            trn(
                "{count} pair that was judged blind counts",
                "{count} pairs that were judged blind count",
                count,
                count=count,
            )
            if count
            else "Press the print you like best; press the middle one if none is better"
        )

    # What is done with it

    def take(self) -> None:
        """The best so far onto the bench."""
        seek = self.seek
        if seek is not None and self._whole is not None:
            words = trn("Seek: {count} value", "Seek: {count} values", len(seek.dials), count=len(seek.dials))
            self.taken.emit(words, script_at(self._whole, seek.dials, seek.best))

    def keep(self) -> None:
        """The framed print as a state."""
        seek = self.seek
        if seek is None or not 0 <= self.wall.at < len(seek.now.points):
            self.context.foot.say("There is no print to keep yet")
            return
        script = seek.script(seek.now.points[self.wall.at])
        same = self.desk.kept.same_as(script)
        if same is not None:
            self.context.foot.say(tr("This print is kept already, as state {title}", title=same.title))
            return
        made = self.desk.kept.keep_all((script,), (tr("Look {look}", look=seek.count + 1),))
        if made:
            self.context.foot.say(tr("Kept as state {title}; Ctrl+3 shows all states", title=made[0].title))

    def hold(self, script: Script | None) -> None:
        """Another print in the place of all of them, until called with None."""
        for piece in self.wall.pieces:
            self.wall.hold(piece.item, script)

    def hold_start(self) -> None:
        """The print that the search began at."""
        if self.seek is not None:
            self.hold(self.seek.base)

    def hold_photo(self) -> None:
        """The photograph."""
        if self.seek is not None:
            self.hold(Script(frame=self.seek.base.frame, develop=self.seek.base.develop))

    # Showing

    def enter(self) -> None:
        """The view comes."""
        self.active = True
        self.wall.mat = self.context.easel.mat
        self._forget_others()
        if self.way:
            self._show()
        else:
            self.list_values()

    def leave(self) -> None:
        """It goes; the search is there again when one comes back."""
        self.active = False
        self.context.service.ask_instead(PROOFS, ())
        self.context.service.forget("hang")

    def _other_print(self) -> None:
        """The bench has another print than the search began on: states and papers do not matter."""
        now = replace(self._script(), sheets=(), states=(), origin=0)
        if not self.way:
            if isinstance(self._pending, Learn) and now != self._pending.base:
                self._pending = None  # what is learned is of another print
            if self.active:
                self._forget_others()
                self.list_values()
            return
        if self._photo is not self.desk.photo or now != self.way[0].base:
            self.row.show_choices([])
            self.way, self.at, self._pending = [], 0, None
            self._forget_others()
            script = self._script()
            self.sought = {dial: Sought.of(script, dial) for dial in self.sought if dial.spec(script) is not None}
            if self.active:
                self.list_values()
                self.context.foot.say("The print on the bench is another one; the search begins anew")

    def _show(self) -> None:
        seek = self.seek
        if seek is None or not self.active or self.desk.photo is None:
            return
        self._listed = False
        self.wall.show_prints(seek.base, seek.scripts(), seek.side)
        self.page.show_seek(seek)
        self._tell_zoom()
        names = [Choice(str(k), tr("start") if not k else tr("look {look}", look=k)) for k in range(len(self.way))]
        self.row.show_choices(names, str(self.at))
        self.below.show_key(str(self.at))
        self._tag = (id(self), self._tag[1] + 1)
        scripts = {str(k): step.script(step.best) for k, step in enumerate(self.way)}
        self.context.service.ask_instead(PROOFS, proofs(self._tag, scripts, self.below.size_in_pixels()))
        self.changed.emit()

    def _tell_zoom(self) -> None:
        if self.active and self.wall.pieces:
            self.context.foot.show_zoom(self.wall.whole, self.wall.magnification())

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag == self._tag:
            self.row.take(proof.key, display.image(proof.pixels))
