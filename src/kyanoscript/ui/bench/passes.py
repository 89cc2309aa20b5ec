"""What is done with the passes of the run."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication

from kyanoscript.core import passes
from kyanoscript.core.blend import MODES
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.script import Script, ScriptError, dumps, fresh, loads
from kyanoscript.translation import spoken, tr, trn
from kyanoscript.ui.bench.choosers import Choosers
from kyanoscript.ui.bench.run import Run
from kyanoscript.ui.bench.slip.slip import Slip
from kyanoscript.ui.commands import list as commands
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.commands.view import Handlers
from kyanoscript.ui.document.desk import FRAME, PHOTO
from kyanoscript.ui.widgets.naming import Entry, Naming


class Passes:
    """The chosen passes, and where one goes from there."""

    def __init__(self, context: Context, run: Run, slip: Slip) -> None:
        self.context, self.run, self.slip = context, run, slip
        self.choosers = Choosers(context, slip)
        self.naming: Naming | None = None  # the popup that is open, or was last
        for trays in (run.trays, run.second):
            trays.add.connect(self.choose)
            trays.rename.connect(self.rename)

    def commands(self) -> Handlers:
        """What is done by key and menu."""
        desk = self.context.desk
        return {
            commands.UNDO: desk.undo,
            commands.REDO: desk.redo,
            commands.CHOOSE_ALL: self.choose_all,
            commands.COPY: self.copy,
            commands.PASTE: self.paste,
            commands.ADD: self.ask_add,
            commands.DOUBLE: self.double,
            commands.RENAME: self.rename,
            commands.REMOVE: self.remove,
            commands.LAMP: self.lamp,
            commands.TOUCH: self.touch,
            commands.STRONGER: lambda: self.strengthen(1),
            commands.WEAKER: lambda: self.strengthen(-1),
            commands.MUCH_STRONGER: lambda: self.strengthen(10),
            commands.MUCH_WEAKER: lambda: self.strengthen(-10),
            commands.TO_NOTHING: lambda: self.strengthen(-100),
            commands.NEXT_BLEND: lambda: self._blend(1),
            commands.BLEND_BEFORE: lambda: self._blend(-1),
            commands.CHOOSE_BLEND: self.choosers.choose_blend,
            commands.CHOOSE_START: self.choosers.choose_start,
            commands.GO_IN: self.go_in,
            commands.BEFORE: lambda: desk.select(desk.selected - 1),
            commands.AFTER: lambda: desk.select(desk.selected + 1),
            commands.MOVE_LEFT: lambda: self._move(-1),
            commands.MOVE_RIGHT: lambda: self._move(1),
            commands.NEXT_WAITING: self.context.easel.dabs.next_that_waits,
            commands.WAITING_BEFORE: lambda: self.context.easel.dabs.next_that_waits(back=True),
            **{one: functools.partial(self.context.easel.dabs.take, k) for k, one in enumerate(commands.TAKE_TINT)},
            commands.TURN_LEFT: lambda: self.turn(3),
            commands.TURN_RIGHT: lambda: self.turn(1),
        }

    # Adding

    def ask_add(self) -> None:
        """Open the chooser for a pass after the chosen one."""
        desk = self.context.desk
        if desk.photo is not None:
            index = max(0, desk.selected + 1)
            self.choose(index, desk.path, self.run.place_of(desk.path, index))

    def choose(self, index: int, path: tuple[int, ...], at: QPoint) -> None:
        """Open the chooser for a pass to stand before ``index``."""
        self.choosers.choose_pass(index, path, at, lambda address: self.add_found(address, index, path))

    def add_found(self, address: str, index: int, path: tuple[int, ...]) -> None:
        """Put what was found into the run: a pass, one with the values of a start, or all of a recipe."""
        if address in passes.load_all():
            self.add(address, index, path)
            return
        desk, made = self.context.desk, fresh(self.choosers.meant(address))
        if not made:
            return
        run = desk.script.run(path)
        words = made[0].label if len(made) == 1 else "a recipe"
        desk.change(tr("Add {words}", words=words), desk.script.with_run(path, (*run[:index], *made, *run[index:])))
        if any(step.waits for step in made):
            self.context.foot.say(next(step.waits for step in made if step.waits))
        desk.select(index + len(made) - 1, path)
        self.context.easel.setFocus()

    def add(self, kind: str, index: int | None = None, path: tuple[int, ...] | None = None) -> None:
        """Put a new pass into the run, before ``index`` (at the end without one)."""
        desk, model = self.context.desk, passes.load_all()[kind]
        path = desk.path if path is None else path
        run = desk.script.run(path)
        index = len(run) if index is None else index
        made = self._new(model)
        desk.change(
            tr("Add {label}", label=model.label), desk.script.with_run(path, (*run[:index], made, *run[index:]))
        )
        if model.waits:
            self.context.foot.say(model.waits)
        desk.select(index, path)
        self.context.easel.setFocus()

    def begin(self, words: str, kinds: Sequence[str]) -> None:
        """The first passes of a print, the last of them chosen."""
        desk = self.context.desk
        made = tuple(self._new(passes.load_all()[kind]) for kind in kinds)
        desk.change(
            tr("Begin with {lower}{words}", lower=words[:1].lower(), words=words[1:]), desk.script.with_run((), made)
        )
        if made[-1].waits:
            self.context.foot.say(made[-1].waits)
        desk.select(len(made) - 1, ())
        self.context.easel.setFocus()

    def _new(self, model: type[Pass]) -> Pass:
        made = model(**model.on_gray) if model.on_gray and self._on_gray() else model()
        return made.suited(self.context.desk.shape)

    def _on_gray(self) -> bool:
        """Whether the photograph has no colour."""
        photo, survey = self.context.desk.photo, self.slip.survey
        if photo is not None and photo.source.channels == 1:
            return True
        return survey is not None and survey.without_colour

    # Chosen passes

    def words(self) -> str:
        """What is chosen."""
        step, count = self.context.desk.selected_pass, len(self.context.desk.chosen)
        return tr("{count} passes", count=count) if count > 1 else step.title if step is not None else ""

    def change(self, label: str, merge: str = "", **values: Any) -> None:
        """The same change to all chosen passes; a value may be a function of the pass."""
        desk = self.context.desk

        def changed(step: Pass) -> Pass:
            found = {name: value(step) if callable(value) else value for name, value in values.items()}
            return type(step)(**{**dict(step), **found})

        run, chosen = desk.run, desk.chosen
        if chosen:
            also = desk.also
            made = [changed(step) if k in chosen else step for k, step in enumerate(run)]
            desk.change_run(label, made, merge=merge)
            for k in also - desk.also:  # the same trays are chosen as before
                desk.choose_also(k)

    def double(self) -> None:
        """The chosen passes once more after them."""
        desk, chosen = self.context.desk, self.context.desk.chosen
        if chosen:
            run, after = desk.run, chosen[-1] + 1
            again = fresh(run[k] for k in chosen)
            desk.change_run(tr("Double {self}", self=self.words()), (*run[:after], *again, *run[after:]), select=after)

    def copy(self) -> None:
        """The chosen passes onto the clipboard, as the JSON text of a script."""
        desk, chosen = self.context.desk, self.context.desk.chosen
        if chosen:
            script = Script(tuple(desk.run[k] for k in chosen), stencils=desk.script.stencils).settled()
            QGuiApplication.clipboard().setText(spoken(dumps(Script(script.passes))))
            self.context.foot.say(
                trn("{self} is on the clipboard", "{self} are on the clipboard", len(chosen), self=self.words())
            )

    def paste(self) -> None:
        """Passes from the clipboard, after the chosen one."""
        desk = self.context.desk
        try:
            found = fresh(loads(QGuiApplication.clipboard().text()).settled().passes)
        except ScriptError as wrong:
            self.context.foot.say(tr("Nothing to paste: {wrong}", wrong=wrong), warning=True)
            return
        if desk.photo is not None and found:
            run, index = desk.run, max(0, desk.selected + 1)
            words = found[0].title if len(found) == 1 else tr("{count} passes", count=len(found))
            desk.change_run(
                tr("Paste {words}", words=words), (*run[:index], *found, *run[index:]), select=index + len(found) - 1
            )

    def remove(self) -> None:
        """Take the chosen passes out; while a stencil is worked on, its chosen part."""
        desk, easel = self.context.desk, self.context.easel
        tool, chosen = easel.stencil, desk.chosen
        if easel.dabs.remove():
            return
        if tool.active:
            if tool.part is not None:
                tool.remove((tool.chosen,))
            else:
                self.context.foot.say("Choose a part of the stencil to take it away, or press M to leave the stencil")
        elif chosen:
            rest = [step for k, step in enumerate(desk.run) if k not in chosen]
            select = min(chosen[0], len(rest) - 1) if rest else PHOTO
            desk.change_run(tr("Remove {self}", self=self.words()), rest, select=select)

    def rename(self) -> None:
        """Name and note of the chosen pass."""
        desk, step = self.context.desk, self.context.desk.selected_pass
        if step is not None:
            params = step.params()
            entries = (
                Entry(params["name"].label, step.name, params["name"].help, step.label),
                Entry(params["note"].label, step.note, params["note"].help),
            )
            self.naming = Naming(self.context.top, entries)
            self.naming.named.connect(
                lambda words: desk.set_values(tr("Name {label}", label=step.label), name=words[0], note=words[1])
            )
            self.naming.pop_up(self.run.place_of(desk.path, desk.selected))

    def choose_all(self) -> None:
        """Every pass of the run."""
        desk = self.context.desk
        if desk.run:
            desk.select(0)
            desk.choose_also(len(desk.run) - 1, through=True)

    def lamp(self) -> None:
        """Switch the chosen passes on or off."""
        step = self.context.desk.selected_pass
        if step is not None:
            self.change(f"{self.words()} {'off' if step.on else 'on'}", on=not step.on)

    def strengthen(self, by: float) -> None:
        """The strength of the chosen passes up or down by so many per cent."""
        self.change(
            tr("{self}: strength", self=self.words()),
            merge="strength",
            strength=lambda step: min(max(step.strength + by, 0.0), 100.0),
        )

    def _blend(self, by: int) -> None:
        """Another blend mode, to be watched on the picture."""
        step = self.context.desk.selected_pass
        if step is not None:
            mode = MODES[(MODES.index(step.blend) + by) % len(MODES)]
            self.context.desk.set_values(tr("{label}: blend", label=step.label), merge="blend", blend=mode)
            self.context.foot.say(tr("Blend: {mode}", mode=mode.replace("-", " ")))

    def touch(self) -> None:
        """Touch on or off."""
        step, easel = self.context.desk.selected_pass, self.context.easel
        if step is None or not step.touches:
            self.context.foot.say("Touch works on gray weights, curves and exposure; choose one of them first")
            return
        easel.touch.on = not easel.touch.on
        self.slip.show_touch(easel.touch.on)
        self.context.foot.say("Touch: press on the picture and drag up or down" if easel.touch.on else "")
        easel.setCursor(Qt.CursorShape.ArrowCursor)

    # Going along the run

    def go_in(self) -> None:
        """From a plate to the first pass of its run; from there back to the plate."""
        desk = self.context.desk
        if self.context.easel.stencil.finish():
            return
        if desk.opened and desk.opened != desk.path:
            if desk.script.run(desk.opened):
                desk.select(0, desk.opened)
            else:
                self.choose(0, desk.opened, self.run.place_of(desk.opened, 0))
        elif desk.path:
            desk.select(-1)
        else:
            self.context.foot.say("A plate has a run of its own; choose a plate first")

    def _move(self, by: int) -> None:
        """Move the chosen trays to the left or right."""
        desk = self.context.desk
        if desk.chosen:
            desk.move_chosen(desk.chosen[0] - 1 if by < 0 else desk.chosen[-1] + 2)

    def turn(self, by: int) -> None:
        """The picture so many quarter turns to the right."""
        frame = self.context.desk.script.frame
        x, y = (100 - frame.y, frame.x) if by == 1 else (frame.y, 100 - frame.x)
        self.context.desk.set_values_at(
            FRAME, "Quarter turn", turns=(frame.turns + by) % 4, x=x, y=y, width=frame.height, height=frame.width
        )
