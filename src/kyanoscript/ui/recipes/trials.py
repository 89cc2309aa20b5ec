"""What is tried in the Recipes view: the contacts of all recipes, one recipe large on the easel, its strengths.

It holds the four widgets that stand in for ladder, easel, slip and run, and knows what is looked at.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QScrollArea

from kyanoscript.core.script import Script
from kyanoscript.files.kept.cookbook import Contents
from kyanoscript.files.kept.recipes import Recipe
from kyanoscript.translation import spoken, tr
from kyanoscript.ui.document.desk import Desk
from kyanoscript.ui.easel.easel import Easel
from kyanoscript.ui.recipes.groups import ALL, Groups
from kyanoscript.ui.recipes.page import RecipePage
from kyanoscript.ui.service import display
from kyanoscript.ui.service.requests import PROOFS, proofs
from kyanoscript.ui.service.results import Survey, Thumbnail
from kyanoscript.ui.service.service import RenderService
from kyanoscript.ui.widgets.chooser import THUMB, Choice, Grid
from kyanoscript.ui.widgets.developing import Developing
from kyanoscript.ui.widgets.plain import hint

_MARGIN = 14  # round the contacts
_SCROLLED = 100  # milliseconds
_ABOUT = 138  # pixels that a small picture is wide, or a little more


class Trials(QObject):
    """What is looked at, and its four widgets."""

    large_changed = Signal()  # one is large on the easel, or none is any more
    used = Signal(str, object, int)  # what was done, the Script it gives, the tray to choose

    def __init__(self, desk: Desk, service: RenderService, easel: Easel, say: Callable[[str], None]) -> None:
        super().__init__(easel)  # it hears of nothing once its widgets are gone
        self.desk, self.service, self.easel = desk, service, easel
        self.contents = Contents()
        self.active = False  # the view is on the screen
        self.added = False  # recipes are laid on the print as it is, and added after the run
        self.trial: Recipe | None = None  # the one that is large, with the strengths tried on it
        self.strength = 100.0  # of the whole of it
        self._left: tuple[object, Recipe, float] | None = None  # the photograph, and what was large when the view went
        self._base: tuple[object, Script] | None = None  # what the small pictures were made on
        self._made: dict[str, Script] = {}  # what each was made of
        self._tag: tuple[int, int] = (id(self), 0)
        self._dragging = False
        self.groups, self.page = Groups(), RecipePage(say)
        self.grid = Grid(5, QSize(_ABOUT, _ABOUT * 2 // 3))
        self.grid.take_keys()
        self.grid.setAccessibleName(spoken("Recipes on this picture"))
        hint(
            self.grid,
            "A press shows one large, another uses it; hold H and it comes up from nothing",
            "Chosen by its name and not by the eye",
        )
        self.contacts = _Area(self.grid)
        self.contacts.setAccessibleName(spoken("Contact sheet"))
        self.row = Grid(1, THUMB, one_row=True)
        self.row.setAccessibleName(spoken("Recipes"))
        self.below = _Area(self.row)
        self.below.setFixedHeight(148)
        self._asking = QTimer(self.contacts)  # many changes at once ask for pictures once
        self._asking.setSingleShot(True)
        self._asking.setInterval(0)
        self._asking.timeout.connect(self._ask)
        self._scrolled = QTimer(self.contacts)  # what has come into sight is asked for first, once scrolling rests
        self._scrolled.setSingleShot(True)
        self._scrolled.setInterval(_SCROLLED)
        self._scrolled.timeout.connect(self._ask)
        self.developing = Developing(self)
        self.developing.came.connect(self._set_strength)
        self._before = 100.0  # the strength, before developing
        self._connect()

    def _connect(self) -> None:
        self.groups.asked.connect(self._fill)
        self.groups.down.connect(self.grid.setFocus)
        self.contacts.resized.connect(self._resized)
        self.grid.chosen.connect(self.look)
        self.grid.pointed.connect(self._pointed)
        self.row.chosen.connect(self._press_again)
        self.page.added.connect(self.lay_on)
        self.page.strength.connect(self._try)
        self.page.began.connect(self._begin)
        self.page.ended.connect(self._end)
        self.page.given_up.connect(self._give_up)
        self.page.develop.connect(lambda down: self.start_developing() if down else self.stop_developing())
        self.page.acts |= {"use": self.use, "back": self.back}
        self.service.answers(Thumbnail).connect(self._proof)
        self.desk.script_changed.connect(lambda _: self._asking.start())
        self.desk.photo_changed.connect(self._asking.start)
        self.service.answers(Survey).connect(self._surveyed)
        self.contacts.verticalScrollBar().valueChanged.connect(lambda _: self._scrolled.start())

    # The contacts of all

    def show_contents(self, contents: Contents) -> None:
        """The recipes have been read, or have changed."""
        self.contents = contents
        self.groups.show_contents(contents)
        self._fill()
        if self.trial is not None:
            present = next((recipe for recipe in contents.recipes if recipe.word == self.trial.word), None)
            if present is None:
                self.back()
            else:
                self.trial = replace(present, script=self.trial.script)
                self._show_page()

    def shown(self) -> list[Recipe]:
        """The recipes that are shown, in order."""
        group, asked = self.groups.group, self.groups.search.text().strip().lower()
        return [
            recipe for recipe in self.contents.recipes if group in (ALL, recipe.group) and _choice(recipe).fits(asked)
        ]

    def _fill(self) -> None:
        choices = [_choice(recipe) for recipe in self.shown()]
        self._make_room()
        self.grid.show_choices(choices, self.grid.current)
        self.row.show_choices(choices, self.row.current)
        self._asking.start()

    def enter(self) -> None:
        """The view comes onto the screen."""
        self.active = True
        self._make_room()
        self._asking.start()
        left, self._left = self._left, None
        if left is not None and left[0] is self.desk.photo:
            self.look(left[1].word)
            if self.trial is not None:
                self.trial, self.strength = replace(self.trial, script=left[1].script), left[2]
                self._show_page()
                self._show()

    def leave(self) -> None:
        """It goes; what was tried is there again when it comes back."""
        self._left = None if self.trial is None else (self.desk.photo, self.trial, self.strength)
        self.back()
        self.active = False
        self.service.ask_instead(PROOFS, ())

    def base(self) -> Script:
        """What the recipes are laid on."""
        script = self.desk.script
        return script if self.added else replace(script, passes=(), stencils=())

    def lay_on(self, added: bool) -> None:
        """On the print as it is, to be added after the run; or on the photo, to take the run's place."""
        self.added = added
        self._show_page()
        self._asking.start()
        self._show()

    def _make_room(self) -> None:
        """As many columns as fit, their pictures shaped like the print."""
        width = self.contacts.viewport().width() - 2
        columns = max(1, width // (_ABOUT + 16))
        wide = width // columns - 16
        across, down = self.desk.print_size()
        share = min(max(down / across, 0.6), 1.2) if across else 2 / 3
        self.grid.set_room(columns, QSize(wide, round(wide * share)))

    def _resized(self) -> None:
        self._make_room()
        self._asking.start()

    def _ask(self) -> None:
        """Ask for the small pictures that are missing, those in sight first."""
        photo = self.desk.photo
        if photo is None:
            return
        if self._base != (photo, self.base()):
            self._base = (photo, self.base())
            self.grid.forget()
            self.row.forget()
            self._make_room()
            self._show()
        if not self.active:
            return
        here = self.grid.pictured()
        first = self.contacts.viewport().rect().translated(0, self.contacts.verticalScrollBar().value())
        boxes = set(self.grid.shown())

        def far(recipe: Recipe) -> int:
            return 2 if recipe.word not in boxes else int(not self.grid.box(recipe.word).toRect().intersects(first))

        held = frozenset(recipe.word for recipe in self.contents.recipes if self._held(recipe))
        self.grid.hold(held)
        self.row.hold(held)
        missing = (
            recipe
            for recipe in self.contents.recipes
            if (recipe.word not in here or self._made.get(recipe.word) != recipe.script) and recipe.word not in held
        )
        wanted = sorted(missing, key=far)
        self._made.update({recipe.word: recipe.script for recipe in wanted})
        ratio = self.grid.devicePixelRatioF()
        size = (round(self.grid.thumb.width() * ratio), round(self.grid.thumb.height() * ratio))
        base = self.base()
        self._tag = (id(self), self._tag[1] + 1)
        scripts = {recipe.word: recipe.used(base, added=self.added, shape=self.desk.shape) for recipe in wanted}
        in_sight = frozenset(recipe.word for recipe in wanted if not far(recipe))
        self.service.ask_instead(PROOFS, proofs(self._tag, scripts, size, in_sight))

    def _held(self, recipe: Recipe) -> bool:
        """Whether a small picture is not made yet: a colour photograph is not looked over like a scan unasked."""
        asked_for = self.groups.group == recipe.group or self.groups.search.text().strip()
        return self.easel.in_colour and recipe.script.takes_long and not asked_for

    def _surveyed(self, survey: Survey) -> None:
        if survey.without_colour and self.grid.held:
            self._asking.start()

    def _proof(self, proof: Thumbnail) -> None:
        if proof.tag == self._tag:
            image = display.image(proof.pixels)
            self.grid.take(proof.key, image)
            ratio = self.row.devicePixelRatioF()
            smooth = Qt.TransformationMode.SmoothTransformation
            room = QSize(round(THUMB.width() * ratio), round(THUMB.height() * ratio))
            self.row.take(proof.key, image.scaled(room, Qt.AspectRatioMode.KeepAspectRatio, smooth))

    def _pointed(self, key: str) -> None:
        self.page.tell(next((recipe for recipe in self.contents.recipes if recipe.word == key), None))
        if key and self.grid.hasFocus():
            box = self.grid.box(key)
            self.contacts.ensureVisible(int(box.center().x()), int(box.center().y()), 20, int(box.height() / 2 + 30))

    # One of them large

    def look(self, word: str) -> None:
        """Show a recipe large on the easel."""
        found = next((recipe for recipe in self.contents.recipes if recipe.word == word), None)
        if found is None:
            return
        first = self.trial is None
        self.stop_developing()
        self.trial, self.strength = found, 100.0
        self.grid.look_at(word)
        self.row.look_at(word)
        self._show_page()
        if first:
            self.large_changed.emit()
        self._show()
        box = self.row.box(word) if word in self.row.shown() else None
        if box is not None:
            self.below.ensureVisible(int(box.center().x()), int(box.center().y()), int(box.width() * 1.5), 0)

    def back(self) -> None:
        """Back to all recipes."""
        if self.trial is not None:
            self.developing.stop()
            self.trial, self._dragging = None, False
            self.easel.stand_in(None)
            self._show_page()
            self.large_changed.emit()

    def step(self, by: int) -> None:
        """The recipe before, or after, the one that is large."""
        words = self.row.shown()
        if self.trial is not None and words:
            at = words.index(self.trial.word) + by if self.trial.word in words else 0
            self.look(words[min(max(at, 0), len(words) - 1)])

    def script(self) -> Script:
        """What is on the easel."""
        assert self.trial is not None
        return self.trial.used(self.base(), self.strength, self.added, self.desk.shape)

    def use(self) -> None:
        """Put the recipe on the bench as it is shown."""
        trial = self.trial
        if trial is None:
            return
        script, first = self.script(), len(self.base().passes)
        tried = [k for k, recipe in enumerate(trial.script.passes) if recipe.kind in trial.tries]
        self.used.emit(
            tr("Recipe {name}", name=trial.name), script, first + (tried[0] if tried and self.strength >= 100 else 0)
        )
        self._left = None  # it is on the bench now

    def _press_again(self, word: str) -> None:
        if self.trial is not None and self.trial.word == word:
            self.use()
        else:
            self.look(word)

    def _show_page(self) -> None:
        self.page.show_recipe(self.trial, self.added)
        self._pointed(self.grid.current)
        if self.page.whole is not None:
            self.page.whole.set_value(self.strength)

    def _show(self, changing: int | None = None) -> None:
        """The trial on the easel; ``changing``: the pass whose strength is being dragged."""
        if self.trial is None:
            return
        caption = self.trial.name if self.strength >= 100 else f"{self.trial.name}, {self.strength:.0f} %"
        quick = None
        if self._dragging or self.developing.running:
            quick = len(self.base().passes) + (changing if changing is not None and self.strength >= 100 else 0)
        self.easel.stand_in(self.script(), caption, self.grid.picture(self.trial.word), quick)
        self.easel.update()

    # Strengths

    def _try(self, place: int | None, value: float) -> None:
        assert self.trial is not None
        if place is None:
            self.strength = value
        else:
            run = self.trial.script.passes
            changed = run[place].model_copy(update={"strength": value})
            self.trial = replace(self.trial, script=self.trial.script.with_pass(place, changed))
        self._show(place)

    def strengthen(self, by: float) -> None:
        """The strength of the whole, from the keyboard."""
        if self.page.whole is not None:
            self.strength = min(max(self.strength + by, 0.0), 100.0)
            self.page.whole.set_value(self.strength)
            self._show()

    def _begin(self) -> None:
        self._dragging = True
        self._before_drag = self.trial, self.strength

    def _end(self) -> None:
        self._dragging = False
        self._show()

    def _give_up(self) -> None:
        self.trial, self.strength = self._before_drag
        self._dragging = False
        self._show_page()
        self._show()

    def start_developing(self) -> None:
        """The look comes up from nothing while this is held."""
        if self.trial is not None and not self.developing.running:
            self._before = self.strength
            self.developing.start()

    def stop_developing(self) -> None:
        """Let go: the strength stays where it is."""
        if self.developing.stop():
            self._show()

    def give_up_developing(self) -> bool:
        """Escape: the strength is as before. False if nothing was being developed."""
        if not self.developing.stop():
            return False
        self._set_strength(self._before)
        return True

    def _set_strength(self, value: float) -> None:
        self.strength = value
        if self.page.whole is not None:
            self.page.whole.set_value(value)
        self._show()


def _choice(recipe: Recipe) -> Choice:
    group = recipe.group.capitalize() if recipe.group.islower() else recipe.group
    kinds = " ".join(p.label for p in recipe.script.passes)
    return Choice(recipe.word, recipe.name, group, recipe.about, kinds)


class _Area(QScrollArea):
    """Where small pictures scroll."""

    resized = Signal()

    def __init__(self, grid: Grid) -> None:
        super().__init__()
        self.setWidget(grid)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setViewportMargins(_MARGIN, _MARGIN - 4, 2, 4)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.resized.emit()
