"""Choosers of the Bench: passes, blend modes and models, each shown on this picture."""

from __future__ import annotations

import functools
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

import shiboken6
from PySide6.QtCore import QPoint

from kyanoscript.core import finding, passes
from kyanoscript.core.blend import MODES
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.plate.plate import Plate
from kyanoscript.core.script import Script
from kyanoscript.translation import tr
from kyanoscript.ui.bench.slip.slip import Slip
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.widgets.chooser import Choice, Chooser

if TYPE_CHECKING:
    from kyanoscript.files.kept.recipes import Recipe

_ITSELF, _SHARES = "model", (25, 50, 75, 100)
_ROOM = 40  # pixels that a chooser's left rim lies left of what it belongs to


def _recipes(_: object) -> tuple[Recipe, ...]:
    """Those that ship and one's own."""
    from kyanoscript.files.kept.cookbook import Cookbook  # not needed for a first look

    return Cookbook().read().recipes


def _said(thing: finding.Thing) -> str:
    """What it is, and what it does."""
    if thing.address.startswith(finding.RECIPE):
        return tr("Recipe: {lower}{about}", lower=thing.about[:1].lower(), about=thing.about[1:])
    return f"{thing.of}, {thing.name}" if thing.of else thing.about


class Choosers:
    """Opens them one at a time."""

    def __init__(self, context: Context, slip: Slip) -> None:
        self.context, self.slip = context, slip
        self.present: Chooser | None = None  # the one that is open, or was last
        self.recipes: dict[str, Recipe] = {}  # by their words, once they have been read

    def _open(
        self,
        choices: list[Choice],
        with_it: Callable[[str], Script],
        columns: int,
        question: str,
        current: str = "",
        shown: Callable[[str], str] | None = None,
        search: Callable[[str], list[Choice]] | None = None,
    ) -> Chooser:
        """A chooser; with ``shown``, which gives the words for it, what is looked at is on the easel too."""
        easel, top = self.context.easel, self.context.top
        made = Chooser(top, self.context.service, choices, with_it, columns, question, current, search)
        self.present = made

        def look(key: str) -> None:
            assert shown is not None
            easel.hold(with_it(key) if key else None, shown(key) if key else "")

        def close() -> None:
            if shown is not None:
                easel.hold(None)
            top.window().activateWindow()

        if shown is not None:
            made.pointed.connect(look)
        made.closed.connect(close)
        return made

    def choose_pass(self, index: int, path: tuple[int, ...], at: QPoint, then: Callable[[str], object]) -> None:
        """All passes, each where it would stand."""
        script, known = self.context.desk.script, passes.load_all()
        run = script.run(path)

        def with_it(address: str) -> Script:
            if address in known:
                added: tuple[Pass, ...] = (known[address](**known[address].samples),)
            else:
                added = self.meant(address)
            return script.with_run(path, (*run[:index], *added, *run[index:]))

        choices = [Choice(kind, model.label, model.stage, model.about) for kind, model in known.items()]
        made = self._open(
            choices, with_it, 5, "Which pass? Or a start, a recipe, a word of the trade", search=self._found
        )
        made.chosen.connect(then)
        made.pop_up(at - QPoint(_ROOM, 560))
        self.context.jobs.run(_recipes, done=functools.partial(self._have, made))

    def _have(self, chooser: Chooser, recipes: tuple[Recipe, ...]) -> None:
        """Recipes have been read: they can be found, too."""
        self.recipes = {recipe.word: recipe for recipe in recipes}
        if chooser is self.present and shiboken6.isValid(chooser):
            chooser.search_again()

    def _found(self, asked: str) -> list[Choice]:
        """Passes, their starts and recipes, the nearest first."""
        recipes = [finding.recipe(r.word, r.name, r.about, r.group) for r in self.recipes.values()]
        things = finding.found(asked, [*finding.passes_and_starts(), *recipes])
        return [Choice(thing.address, thing.name, help=_said(thing)) for thing in things]

    def meant(self, address: str) -> tuple[Pass, ...]:
        """The passes that an address means: one, or those of a recipe, suited to the print."""
        desk = self.context.desk
        if address.startswith(finding.RECIPE):
            recipe = self.recipes.get(address.removeprefix(finding.RECIPE))
            return recipe.used(Script(), shape=desk.shape).passes if recipe is not None else ()
        step = finding.pass_of(address)
        return (step.suited(desk.shape),) if step is not None else ()

    def choose_start(self) -> None:
        """The starts of the chosen pass."""
        desk, step = self.context.desk, self.context.desk.selected_pass
        if step is None or not step.starts:
            return
        run, index = desk.run, desk.selected

        def with_it(start: str) -> Script:
            made = step.with_(**step.start(start, desk.shape))
            return desk.script.with_run(desk.path, (*run[:index], made, *run[index + 1 :]))

        def take(start: str) -> None:
            if desk.run[index : index + 1] == (step,):  # unless another hand has been at work behind the chooser
                desk.set_values_at(index, f"{step.label}: {start}", **step.start(start, desk.shape))

        choices = [Choice(start, start, help=f"{start}  ·  {step.use}") for start in step.starts]
        made = self._open(choices, with_it, 4, "Which start?", shown=lambda start: start)
        made.chosen.connect(take)
        beside = self.slip.editors.get("start", self.slip)
        left = made.sizeHint().width() + (140 if beside is not self.slip else 0)
        made.pop_up(beside.mapToGlobal(QPoint(-left, 0)))

    def choose_blend(self) -> None:
        """The blend modes of the chosen pass."""
        desk, step = self.context.desk, self.context.desk.selected_pass
        if step is None:
            return
        run, index = desk.run, desk.selected

        def with_it(mode: str) -> Script:
            changed = step.model_copy(update={"blend": mode})
            return desk.script.with_run(desk.path, (*run[:index], changed, *run[index + 1 :]))

        def take(mode: str) -> None:
            if desk.run[index : index + 1] == (step,):  # unless another hand has been at work behind the chooser
                desk.set_values_at(index, tr("{label}: blend {mode}", label=step.label, mode=mode), blend=mode)

        choices = [Choice(mode, mode.replace("-", " "), "") for mode in MODES]
        made = self._open(choices, with_it, 5, "Which blend mode?", step.blend, lambda mode: mode.replace("-", " "))
        made.chosen.connect(take)
        beside = self.slip.editors.get("blend", self.slip)  # a page of the slip need not show it
        left = made.sizeHint().width() + (140 if beside is not self.slip else 0)
        made.pop_up(beside.mapToGlobal(QPoint(-left, 0)))

    def show_model(self, name: str) -> None:
        """A photograph that is to lend its colours, and what it makes of this picture; used only once chosen."""
        desk, step = self.context.desk, self.context.desk.selected_pass
        pictures = desk.pictures
        if step is None or pictures is None:
            return
        self.context.jobs.run(
            lambda _: pictures.open(name),
            failed=lambda text: self.context.foot.say(text, warning=True),
            done=lambda _: self._choose_share(step, name) if desk.selected_pass == step else None,
        )

    def _choose_share(self, step: Pass, name: str) -> None:
        """The model itself, and its shares on this picture."""
        desk, k = self.context.desk, self.context.desk.selected
        itself = Script((Plate(source="flat"), Plate(source="picture", picture=name, size=100)), desk.script.frame)

        def with_it(key: str) -> Script:
            if key == _ITSELF:
                return itself
            values = {"model": name, "share": float(key)}
            return desk.script.with_run(desk.path, (*desk.run[:k], step.model_copy(update=values), *desk.run[k + 1 :]))

        def take(key: str) -> None:
            share = float(_SHARES[-1] if key == _ITSELF else key)
            desk.set_values(tr("{label}: model", label=step.label), model=name, share=share)

        choices = [Choice(_ITSELF, Path(name).stem, "The model", "Pressed, it lends all of its colours")]
        choices += [
            Choice(str(n), f"{n} %", "Its share", "So much of its colours lies beneath the dabs") for n in _SHARES
        ]
        words = Path(name).name
        made = self._open(
            choices,
            with_it,
            4,
            "How much of it?",
            str(_SHARES[-1]),
            lambda key: words if key == _ITSELF else f"{key} %",
        )
        made.chosen.connect(take)
        entry = self.slip.editors.get("model", self.slip)
        made.pop_up(entry.mapToGlobal(QPoint(-made.sizeHint().width() - _ROOM, 0)))
