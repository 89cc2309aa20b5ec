"""What is looked at in the States view: which prints hang, which one is chosen, and the widgets that show it.

Longer than most: it is the one place that knows all of them, and every press in the view ends here.
"""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from kyanoscript.core.script import Script, State, numeral
from kyanoscript.core.script.differ import Difference, differ, same_print
from kyanoscript.translation import tr, trn
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.easel.wall import MOST, Piece, Wall
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Thumbnail
from kyanoscript.ui.service.walls import ValuesThere
from kyanoscript.ui.states.descent import Descent, Node
from kyanoscript.ui.states.judge import Judge
from kyanoscript.ui.states.page import StatePage
from kyanoscript.ui.states.pasts import TwoPasts
from kyanoscript.ui.states.rack import THUMB, Line, StateRack
from kyanoscript.ui.widgets import furniture

PHOTO, BENCH, _NONE = 0, -1, -2  # items besides the states, which have their numbers
_NAMES = {PHOTO: "The photo", BENCH: "On the bench"}


class Gallery(QObject):
    """The wall, the rack, the page and the drawing of descent."""

    judging_changed = Signal()
    changed = Signal()
    bench_wanted = Signal(str)  # the Bench is to be gone to; what is said there
    rename = Signal()
    keep = Signal()

    def __init__(self, context: Context) -> None:
        super().__init__()
        self.context, self.desk = context, context.desk
        self.kept = context.desk.kept
        self.active = False
        self.hung: list[int] = []
        self.current = BENCH
        self.against = PHOTO
        self.judging = False
        self._seen: object = None  # the photograph that the wall was hung for
        self._known: set[int] = set()  # states that there were
        self._made: dict[int, Script] = {}  # what the small pictures were made of
        self._asked: dict[int, Script] = {}  # and what they were last asked for of
        self._tag: tuple[int, int] = (id(self), 0)
        self.past = TwoPasts(self.desk, self.kept)
        self.rack, self.wall, self.page = StateRack(), Wall(context.desk, context.service), StatePage()
        self.descent, self.judge = Descent(), Judge()
        self.nothing = QWidget()  # on the left while one judges
        self.nothing.setFixedWidth(24)
        self.below = QWidget()
        row = QHBoxLayout(self.below)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        side = QWidget()
        side.setFixedWidth(132)
        inner = QHBoxLayout(side)
        inner.setContentsMargins(14, 0, 4, 0)
        self.keep_word = furniture.word(
            "Keep this state  S", "The print as it is on the bench, from any view", act=self.keep
        )
        inner.addWidget(self.keep_word)
        row.addWidget(side)
        row.addWidget(furniture.line(vertical=True))
        row.addWidget(self.descent.area, 1)
        self.below.setFixedHeight(148)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self.show)
        self._connect()

    def _connect(self) -> None:
        for signal in (self.kept.changed, self.desk.script_changed, self.desk.photo_changed):
            signal.connect(lambda *_: self._soon.start())
        self.context.service.answers(Thumbnail).connect(self._proof)
        for part in (self.rack, self.wall, self.descent):
            part.chosen.connect(self.choose)
        self.rack.pressed_twice.connect(self.hang_or_take_down)
        self.wall.taken_down.connect(self.take_down)
        self.wall.entered.connect(lambda: self.hang_or_take_down(self.current))
        self.wall.dropped.connect(self.hang)
        self.wall.zoomed.connect(self._tell_zoom)
        self.wall.valued.connect(self._tell_values)
        page = self.page
        page.against.connect(self.compare_with)
        page.take_over.connect(self.take_over)
        page.acts = {
            "rename": self.rename.emit,
            "let go": self.let_go,
            "go on": self.go_on,
            "hang": lambda: self.hang_or_take_down(self.current),
            "judge": self.start_judging,
        }
        self.judge.pair.connect(self._show_pair)
        self.judge.over.connect(self.stop_judging)
        self.judge.noted.connect(self._note)

    # What there is

    def script(self, item: int) -> Script:
        """The script of an item, as it hangs: without papers and states."""
        bench = self.desk.script
        if item == PHOTO:
            return Script(frame=bench.frame, develop=bench.develop)
        state = self.kept.find(item)
        return replace(state.script if state is not None else bench, sheets=(), states=(), origin=0)

    def state(self) -> State | None:
        """The state that is chosen, if one is."""
        return self.kept.find(self.current) if self.current > 0 else None

    def items(self) -> list[int]:
        """All of them: the photo, the states, the bench."""
        return [PHOTO, *(state.number for state in self.kept.states), BENCH]

    def title(self, item: int) -> str:
        """What it is called."""
        state = self.kept.find(item)
        return state.title if state is not None else _NAMES.get(item, "")

    def _piece(self, item: int) -> Piece:
        state = self.kept.find(item)
        number, name = (numeral(state.number), state.name) if state is not None else ("", _NAMES[item])
        return Piece(item, self.script(item), number, name, self.rack.images.get(item))

    def enter(self) -> None:
        """The view comes."""
        self.active = True
        self.show()
        self._tell_zoom()

    def leave(self) -> None:
        """It goes."""
        if self.judging:
            self.stop_judging()
        self.active = False
        self.context.service.ask_instead(PROOFS, ())
        self.context.service.forget("hang")

    def show(self) -> None:
        """Bring everything up to date."""
        if not self.active or self.desk.photo is None:
            return
        self._hang_what_is_new()
        items = self.items()
        self.hung = [item for item in self.hung if item in items]
        if self.current not in items:
            self.current = items[-2] if len(items) > 2 else BENCH
        if self.judging:
            return
        self._show_rack()
        self.wall.mat = self.context.easel.mat
        self.wall.more = len(self.hung) < len(items) and len(self.hung) < MOST
        self.wall.show_pieces([self._piece(item) for item in self.hung], self.current)
        self._show_descent()
        self._show_page()
        self._ask()
        self.changed.emit()

    def _hang_what_is_new(self) -> None:
        """States of another photograph hang from the last on; a state just kept joins those that hang."""
        numbers = [state.number for state in self.kept.states]
        if self._seen is not self.desk.photo:
            self._seen = self.desk.photo
            self.rack.images.clear()
            self._made.clear()
            self.past = TwoPasts(self.desk, self.kept)
            self.hung = numbers[-4:] or [BENCH]
            self.current = numbers[-1] if numbers else BENCH
        else:
            for number in numbers:
                if number not in self._known:
                    if self.hung == [BENCH]:
                        self.hung = []
                    if len(self.hung) < MOST:
                        self.hung.append(number)
                    self.current = number
        self._known = set(numbers)

    def _show_rack(self) -> None:
        today = self.kept.now()
        lines = []
        for item in self.items():
            state = self.kept.find(item)
            number = numeral(state.number) if state is not None else ""
            name = state.name if state is not None else ("Photo" if item == PHOTO else "Bench")
            lines.append(Line(item, number, name, _short(state, today), item in self.hung))
        self.rack.show_lines(lines, self.current)

    def _show_descent(self) -> None:
        nodes = [Node(PHOTO, "photo", None)]
        nodes += [Node(s.number, s.title, s.script.origin) for s in self.kept.states]
        nodes.append(Node(BENCH, "on the bench now", self.desk.origin[0]))
        self.descent.show_nodes(nodes, self.current)

    def _show_page(self) -> None:
        state, item = self.state(), self.current
        if not self.kept.states and item == BENCH:
            self.page.show_empty()
            return
        others = [other for other in (*(s.number for s in self.kept.states), BENCH, PHOTO) if other != item]
        if self.against not in others:
            origin = state.script.origin if state is not None else self.desk.origin[0]
            self.against = origin if origin in others else others[0]
        one, other = self.script(item), self.script(self.against)
        about = [_told(state, self.title(state.script.origin))] if state is not None else []
        if state is not None:
            about.append(state.note)
        self.page.show_item(
            self.title(item),
            about,
            state is not None,
            [(k, self._word(k), self.title(k)) for k in others] if item != PHOTO else [],
            self.against,
            differ(one, other) if item != PHOTO else [],
            same_print(one, other),
            item in self.hung,
            len(self.hung) > 1,
            item not in (BENCH, PHOTO),
        )

    def _word(self, item: int) -> str:
        return {PHOTO: "the photo", BENCH: "the bench"}.get(item) or numeral(item)

    # Choosing and hanging

    def choose(self, item: int) -> None:
        """Another one; while one judges, the better one."""
        if self.judging:
            if not self.judge.showing:
                self.judge.choose([piece.item for piece in self.wall.pieces].index(item))
            return
        if item != self.current:
            if self.against == item:
                self.against = self.current
            self.current = item
            self.show()

    def step(self, by: int) -> None:
        """The one before, or after."""
        items = self.items()
        self.choose(items[min(max(items.index(self.current) + by, 0), len(items) - 1)])

    def compare_with(self, item: int) -> None:
        """Say how the chosen one differs from another."""
        self.against = item
        self._show_page()

    def hang(self, item: int, at: int | None = None) -> None:
        """Hang one, at the end or in a place; where another hangs there it moves on."""
        if item not in self.items():
            return
        if item not in self.hung and len(self.hung) >= MOST:
            self.context.foot.say(tr("{most} prints hang at most; take one down first", most=MOST))
            return
        left = [other for other in self.hung if other != item]
        place = len(left) if at is None else min(at, len(left))
        self.hung = [*left[:place], item, *left[place:]]
        self.current = item
        self.show()

    def take_down(self, item: int) -> None:
        """It hangs no longer; it is kept."""
        self.hung = [other for other in self.hung if other != item]
        self.show()

    def hang_or_take_down(self, item: int) -> None:
        """The other of the two."""
        if self.judging:
            return
        if item in self.hung:
            self.take_down(item)
        else:
            self.hang(item)

    # What is done with a state

    def let_go(self) -> None:
        """Keep the chosen one no longer."""
        state = self.state()
        if state is None:
            self.context.foot.say("The photo and the bench stay; only states can be let go")
            return
        items = self.items()
        self.past.with_states()
        self.kept.let_go(state.number)
        self.current = items[max(1, items.index(state.number) - 1)] if len(items) > 3 else BENCH
        self.show()
        self.context.foot.say(tr("Let go of {title}; Ctrl+Z takes it back", title=state.title))

    def describe(self, words: list[str]) -> None:
        """Another name and note for the chosen one."""
        state = self.state()
        if state is not None:
            self.past.with_states()
            self.kept.describe(state.number, words[0], words[1])

    def take_over(self, difference: Difference) -> None:
        """One thing of the chosen state onto the bench."""
        before = self.desk.script
        after = difference.onto(before)
        if after == before:
            self.context.foot.say(
                tr("{title}: the bench has it already, or nothing that could take it", title=difference.title)
            )
            return
        self.past.on_bench()
        self.desk.change(tr("{title} from {current}", title=difference.title, current=self.title(self.current)), after)
        self.context.foot.say(
            tr("{title} {words}: on the bench; Ctrl+Z takes it back", title=difference.title, words=difference.words)
        )

    def go_on(self) -> None:
        """The chosen state comes onto the bench."""
        state = self.state()
        if state is None:
            return
        script = replace(state.script, sheets=self.desk.script.sheets, states=(), origin=0)
        self.desk.change(tr("Go on from state {title}", title=state.title), script)
        self.desk.mark(state.number)
        self.bench_wanted.emit(tr("State {title} is on the bench; Ctrl+Z takes it back", title=state.title))

    def _note(self, lines: dict[int, str]) -> None:
        self.past.with_states()
        self.kept.note(lines)
        self.stop_judging()
        self.context.foot.say("The ranking stands in the notes of the states")

    # Holding

    def flick(self, down: bool) -> None:
        """While held, the one it is compared with in the place of the chosen one."""
        if self.current in self.hung and not self.judging:
            script = self.script(self.against) if down else None
            self.wall.hold(self.current, script, self.title(self.against))

    def hold_photo(self, down: bool) -> None:
        """While held, the photograph in the place of the chosen one."""
        if self.current in self.hung and not self.judging:
            self.wall.hold(self.current, self.script(PHOTO) if down else None, "the photo as opened")

    # Judging blind

    def start_judging(self) -> None:
        """Pairs of those that hang."""
        if len(self.hung) < 2:
            self.context.foot.say("Hang two prints at least; they are judged in pairs")
            return
        self.judging = True
        self.wall.blind = True
        self.judge.begin([self._piece(item) for item in self.hung])
        self.judging_changed.emit()

    def stop_judging(self) -> None:
        """Back to the wall."""
        self.judging = False
        self.wall.blind = False
        self.judging_changed.emit()
        self.show()

    def _show_pair(self, pair: tuple[Piece, ...]) -> None:
        self.wall.show_pieces(pair, _NONE)
        self.changed.emit()

    # Pictures and words

    def _ask(self) -> None:
        """Small pictures of what is new."""
        wanted = {item: self.script(item) for item in self.items()}
        missing = {str(item): script for item, script in wanted.items() if self._made.get(item) != script}
        self._asked = wanted
        if missing:
            self._tag = (id(self), self._tag[1] + 1)
            ratio = self.rack.devicePixelRatioF()
            size = (round(THUMB.width() * ratio), round(THUMB.height() * ratio))
            self.context.service.ask_instead(PROOFS, proofs(self._tag, missing, size))

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag == self._tag:
            item = int(proof.key)
            self._made[item] = self._asked[item]
            self.rack.take(item, display.image(proof.pixels))

    def _tell_zoom(self) -> None:
        if self.active:
            self.context.foot.show_zoom(self.wall.whole, self.wall.magnification())

    def _tell_values(self, found: ValuesThere | None) -> None:
        if found is None:
            self.context.foot.show_words("")
            return
        count = len(self.hung)
        together = " · all hang at the same zoom and place" if count > 1 else ""
        self.context.foot.show_words(
            tr("Photo {join}{together}", join=" ".join(map(str, found.photo)), together=together)
        )


def _short(state: State | None, today: datetime) -> str:
    """When a state was kept, as short as it can be told."""
    when = _when(state)
    if when is None:
        return ""
    return f"{when:%H:%M}" if when.date() == today.date() else f"{when.day} {when:%b}"


def _when(state: State | None) -> datetime | None:
    try:
        return datetime.fromisoformat(state.kept) if state is not None and state.kept else None
    except ValueError:  # written by hand
        return None


def _told(state: State, origin: str) -> str:
    """When it was kept, after how much, and what it was made from."""
    when = _when(state)
    kept = tr("Kept {day} {when:%B} at {when:%H:%M}", day=when.day, when=when) if when is not None else "Kept"
    steps = trn(", after {steps} step", ", after {steps} steps", state.steps, steps=state.steps) if state.steps else ""
    made = tr("; made from {origin}", origin=origin) if state.script.origin and origin else tr("; made from the photo")
    return f"{kept}{steps}{made}"
