"""What is done with the passes of the run, and with the stencil of the chosen one."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu

from kyanoscript.core import passes
from kyanoscript.core.blend import MODES
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.tone.levels import Levels
from kyanoscript.core.script import Script, ScriptError, dumps, fresh, loads, mapped
from kyanoscript.core.stencil.shapes import Stencil
from kyanoscript.ui.document.desk import PHOTO
from kyanoscript.ui.widgets.chooser import Choice, Sheet
from kyanoscript.ui.widgets.naming import Entry, Naming
from kyanoscript.ui.window.filing import Filing

_ITSELF, _SHARES = "model", (25, 50, 75, 100)
_SHEET_ROOM = 40  # pixels that a chooser's left rim lies left of what it belongs to


class Working(Filing):
    """What is done with the passes of the run, and with the stencil of the chosen one."""

    # Adding

    def ask_add(self) -> None:
        """Open the chooser for a pass after the chosen one."""
        if self.desk.photo is not None:
            index = max(0, self.desk.selected + 1)
            self._choose_pass(index, self.desk.path, self.run.place_of(self.desk.path, index))

    def _choose_pass(self, index: int, path: tuple[int, ...], at: QPoint) -> None:
        """A sheet of all passes, each shown on this picture where it would stand."""
        script, known = self.desk.script, passes.load_all()
        run = script.run(path)

        def with_it(kind: str) -> Script:
            return script.with_run(path, (*run[:index], known[kind](**known[kind].samples), *run[index:]))

        choices = [Choice(kind, model.label, model.stage, model.about) for kind, model in known.items()]
        self.chooser = Sheet(self, self.service, choices, with_it, 5, "Which pass?")
        self.chooser.chosen.connect(lambda kind: self.add(kind, index, path))
        self.chooser.closed.connect(self.window().activateWindow)
        self.chooser.pop_up(at - QPoint(_SHEET_ROOM, 560))

    def add(self, kind: str, index: int | None = None, path: tuple[int, ...] | None = None) -> None:
        """Put a new pass into the run, before ``index`` (at the end without one)."""
        model = passes.load_all()[kind]
        path = self.desk.path if path is None else path
        run = self.desk.script.run(path)
        index = len(run) if index is None else index
        script = self.desk.script.with_run(path, (*run[:index], model(), *run[index:]))
        self.desk.change(f"Add {model.label}", script)
        if model.waits:
            self.foot.say(model.waits)
        self.desk.select(index, path)
        self.easel.setFocus()

    # Passes that take seconds

    def _looking(self, what: str, share: float) -> None:
        """How far long work within a pass has come."""
        if self._exporting is not None:
            return  # the foot tells of the file that is written
        if share < 1:
            if not self.foot.working:
                self.foot.say(f"{what}…", stay=True)
            self.foot.show_progress(share, "Stop this; the pass is switched off")
        elif self.foot.working:
            self.foot.show_progress(None)
            self.foot.say("")

    def stop_work(self) -> None:
        """End what the foot shows the progress of."""
        if self._exporting is not None:
            self._exporting.cancel()
            return
        self.service.give_up()
        script = self.desk.script
        self.desk.change("Stop looking", script.with_run((), mapped(script.passes, _unless_it_waits)))
        self.foot.say("Stopped; the pass is off. Its lamp starts it again")

    def choose_blend(self) -> None:
        """A sheet of the blend modes, each shown on this picture; the one looked at is on the easel too."""
        one, desk = self.desk.selected_pass, self.desk
        if one is None:
            return
        run, index = desk.run, desk.selected

        def with_it(mode: str) -> Script:
            changed = one.model_copy(update={"blend": mode})
            return desk.script.with_run(desk.path, (*run[:index], changed, *run[index + 1 :]))

        choices = [Choice(mode, mode.replace("-", " "), "") for mode in MODES]
        sheet = Sheet(self, self.service, choices, with_it, 5, "Which blend mode?", one.blend)
        self.chooser = sheet

        def look(mode: str) -> None:
            self.easel.hold(with_it(mode) if mode else None, mode.replace("-", " "))

        sheet.pointed.connect(look)
        sheet.closed.connect(lambda: (self.easel.hold(None), self.window().activateWindow()))

        def take(mode: str) -> None:
            if desk.run[index : index + 1] == (one,):  # unless another hand has been at work behind the sheet
                desk.set_values_at(index, f"{one.label}: blend {mode}", blend=mode)

        sheet.chosen.connect(take)
        beside = self.slip.editors.get("blend", self.slip)  # a page of the slip need not show it
        sheet.pop_up(beside.mapToGlobal(QPoint(-sheet.sizeHint().width() - (140 if beside is not self.slip else 0), 0)))

    # A model

    def show_model(self, name: str) -> None:
        """A photograph that is to lend its colours, and what it makes of this picture; used only once chosen."""
        one, pictures = self.desk.selected_pass, self._pictures
        if one is None or pictures is None:
            return
        job = self.jobs.run(lambda _: pictures.open(name))
        job.failed.connect(lambda text: self.foot.say(text, warning=True))
        job.done.connect(lambda _: self._choose_share(one, name) if self.desk.selected_pass == one else None)

    def _choose_share(self, one: Pass, name: str) -> None:
        """A sheet of the model itself and of its shares on this picture; the one looked at is on the easel too."""
        desk, k = self.desk, self.desk.selected
        plate = passes.load_all()["plate"]
        itself = Script((plate(source="flat"), plate(source="picture", picture=name, size=100)), desk.script.frame)

        def with_it(key: str) -> Script:
            if key == _ITSELF:
                return itself
            values = {"model": name, "share": float(key)}
            return desk.script.with_run(desk.path, (*desk.run[:k], one.model_copy(update=values), *desk.run[k + 1 :]))

        choices = [Choice(_ITSELF, Path(name).stem, "The model", "Pressed, it lends all of its colours")]
        choices += [
            Choice(str(n), f"{n} %", "Its share", "So much of its colours lies beneath the dabs") for n in _SHARES
        ]
        sheet = Sheet(self, self.service, choices, with_it, 4, "How much of it?", str(_SHARES[-1]))
        self.chooser = sheet
        sheet.pointed.connect(
            lambda key: self.easel.hold(
                with_it(key) if key else None, Path(name).name if key == _ITSELF else f"{key} %"
            )
        )
        sheet.closed.connect(lambda: (self.easel.hold(None), self.window().activateWindow()))

        def take(key: str) -> None:
            share = float(_SHARES[-1] if key == _ITSELF else key)
            desk.set_values(f"{one.label}: model", model=name, share=share)

        sheet.chosen.connect(take)
        entry = self.slip.editors.get("model", self.slip)
        sheet.pop_up(entry.mapToGlobal(QPoint(-sheet.sizeHint().width() - 40, 0)))

    # Chosen passes

    def _words(self) -> str:
        """What is chosen."""
        one, count = self.desk.selected_pass, len(self.desk.chosen)
        return f"{count} passes" if count > 1 else one.title if one is not None else ""

    def _change_chosen(self, label: str, merge: str = "", **values: Any) -> None:
        """The same change to all chosen passes; a value may be a function of the pass."""

        def changed(one: Pass) -> Pass:
            found = {n: v(one) if callable(v) else v for n, v in values.items()}
            return type(one)(**{**dict(one), **found})

        run, chosen = self.desk.run, self.desk.chosen
        if not chosen:
            return
        also = self.desk.also
        made = [changed(one) if k in chosen else one for k, one in enumerate(run)]
        self.desk.change_run(label, made, merge=merge)
        self._choose_again(also)

    def _choose_again(self, also: frozenset[int]) -> None:
        """After a change the same trays are chosen as before."""
        for k in also - self.desk.also:
            self.desk.choose_also(k)

    def double(self) -> None:
        """The chosen passes once more after them."""
        chosen = self.desk.chosen
        if chosen:
            run, after = self.desk.run, chosen[-1] + 1
            again = fresh(run[k] for k in chosen)
            self.desk.change_run(f"Double {self._words()}", (*run[:after], *again, *run[after:]), select=after)

    def copy_pass(self) -> None:
        """The chosen passes onto the clipboard, as the JSON text of a script."""
        chosen = self.desk.chosen
        if chosen:
            script = Script(tuple(self.desk.run[k] for k in chosen), stencils=self.desk.script.stencils).settled()
            QGuiApplication.clipboard().setText(dumps(Script(script.passes)))
            self.foot.say(f"{self._words()} {'is' if len(chosen) == 1 else 'are'} on the clipboard")

    def paste_passes(self) -> None:
        """Passes from the clipboard, after the chosen one."""
        try:
            found = fresh(loads(QGuiApplication.clipboard().text()).settled().passes)
        except ScriptError as wrong:
            self.foot.say(f"Nothing to paste: {wrong}", warning=True)
            return
        if self.desk.photo is not None and found:
            run, index = self.desk.run, max(0, self.desk.selected + 1)
            words = found[0].title if len(found) == 1 else f"{len(found)} passes"
            made = (*run[:index], *found, *run[index:])
            self.desk.change_run(f"Paste {words}", made, select=index + len(found) - 1)

    def remove(self) -> None:
        """Take the chosen passes out; while a stencil is worked on, its chosen part."""
        tool, chosen = self.easel.stencil, self.desk.chosen
        if self.easel.dabs.remove():
            return
        if tool.active:
            if tool.part is not None:
                tool.remove((tool.chosen,))
            else:
                self.foot.say("Choose a part of the stencil to take it away, or press M to leave the stencil")
        elif chosen:
            rest = [one for k, one in enumerate(self.desk.run) if k not in chosen]
            select = min(chosen[0], len(rest) - 1) if rest else PHOTO
            self.desk.change_run(f"Remove {self._words()}", rest, select=select)

    def _tray_menu(self, at: QPoint) -> None:
        menu = QMenu(self)
        for action, made in self._actions:
            if action.do in (
                "double", "lamp", "rename", "copy_pass", "paste_passes", "draw_stencil", "copy_stencil",
                "paste_stencil", "keep_recipe", "move_left", "move_right", "remove",
            ):  # fmt: skip
                menu.addAction(made)
        menu.exec(at)

    def rename(self) -> None:
        """Name and note of the chosen pass."""
        one = self.desk.selected_pass
        if one is not None:
            params = one.params()
            entries = (
                Entry(params["name"].label, one.name, params["name"].help, one.label),
                Entry(params["note"].label, one.note, params["note"].help),
            )
            self.naming = Naming(self, entries)
            self.naming.named.connect(
                lambda words: self.desk.set_values(f"Name {one.label}", name=words[0], note=words[1])
            )
            self.naming.pop_up(self.run.place_of(self.desk.path, self.desk.selected))

    def choose_all(self) -> None:
        """Every pass of the run."""
        run = self.desk.run
        if run:
            self.desk.select(0)
            self.desk.choose_also(len(run) - 1, through=True)

    def lamp(self) -> None:
        """Switch the chosen passes on or off."""
        one = self.desk.selected_pass
        if one is not None:
            self._change_chosen(f"{self._words()} {'off' if one.on else 'on'}", on=not one.on)

    def _strength(self, by: float) -> None:
        self._change_chosen(
            f"{self._words()}: strength",
            merge="strength",
            strength=lambda one: min(max(one.strength + by, 0.0), 100.0),
        )

    def stronger(self) -> None:
        """Strength up by 1 %."""
        self._strength(1)

    def weaker(self) -> None:
        """Strength down by 1 %."""
        self._strength(-1)

    def much_stronger(self) -> None:
        """Strength up by 10 %."""
        self._strength(10)

    def much_weaker(self) -> None:
        """Strength down by 10 %."""
        self._strength(-10)

    def to_nothing(self) -> None:
        """Strength to 0."""
        self._strength(-100)

    def next_blend(self) -> None:
        """The next blend mode, to be watched on the picture."""
        self._blend(1)

    def blend_before(self) -> None:
        """The blend mode before."""
        self._blend(-1)

    def _blend(self, by: int) -> None:
        one = self.desk.selected_pass
        if one is not None:
            mode = MODES[(MODES.index(one.blend) + by) % len(MODES)]
            self.desk.set_values(f"{one.label}: blend", merge="blend", blend=mode)
            self.foot.say(f"Blend: {mode.replace('-', ' ')}")

    # Going along the run

    def before(self) -> None:
        """Choose the tray to the left; before the first of a plate's run lies the plate."""
        self.desk.select(self.desk.selected - 1)

    def after(self) -> None:
        """Choose the tray to the right."""
        self.desk.select(self.desk.selected + 1)

    def go_in(self) -> None:
        """From a plate to the first pass of its run; from there back to the plate."""
        desk = self.desk
        if self.easel.stencil.finish():
            return
        if desk.opened and desk.opened != desk.path:
            if desk.script.run(desk.opened):
                desk.select(0, desk.opened)
            else:
                self._choose_pass(0, desk.opened, self.run.place_of(desk.opened, 0))
        elif desk.path:
            desk.select(-1)
        else:
            self.foot.say("A plate has a run of its own; choose a plate first")

    def move_left(self) -> None:
        """Move the chosen trays to the left."""
        if self.desk.chosen:
            self.desk.move_chosen(self.desk.chosen[0] - 1)

    def move_right(self) -> None:
        """Move the chosen trays to the right."""
        if self.desk.chosen:
            self.desk.move_chosen(self.desk.chosen[-1] + 2)

    def undo(self) -> None:
        """Take back."""
        self.desk.undo()

    def redo(self) -> None:
        """Do again."""
        self.desk.redo()

    # Stencil

    def draw_stencil(self) -> None:
        """Start or stop working on the stencil of the chosen pass."""
        tool = self.easel.stencil
        if self.desk.selected_pass is None:
            self.foot.say("A stencil belongs to a pass; choose one first")
            return
        tool.switch(not tool.on)
        self.easel.setFocus()

    def next_display(self) -> None:
        """Show the stencil in another way."""
        tool = self.easel.stencil
        if tool.active:
            self.foot.say(f"Stencil: {tool.next_display()}")
        else:
            self.foot.say("The stencil is shown while it is worked on; press M")

    def copy_stencil(self) -> None:
        """The stencil of the chosen pass onto the clipboard."""
        stencil = self.desk.stencil
        if stencil is None:
            self.foot.say("This pass has no stencil")
            return
        # As a script with one pass that does nothing but have it, so that any window and any file can take it.
        QGuiApplication.clipboard().setText(dumps(Script((Levels(stencil=stencil),))))
        self.foot.say("The stencil is on the clipboard; paste it on another pass with Ctrl+Shift+V")

    def paste_stencil(self) -> None:
        """The stencil from the clipboard onto the chosen passes."""
        try:
            found = loads(QGuiApplication.clipboard().text()).settled().passes
        except ScriptError as wrong:
            self.foot.say(f"Nothing to paste: {wrong}", warning=True)
            return
        stencil = next((one.stencil for one in found if isinstance(one.stencil, Stencil)), None)
        if stencil is None:
            self.foot.say("There is no stencil on the clipboard", warning=True)
        else:
            self._change_chosen(f"{self._words()}: stencil", stencil=stencil)

    def smaller_brush(self) -> None:
        """A smaller brush."""
        self._resize(1 / 1.15)

    def larger_brush(self) -> None:
        """A larger brush."""
        self._resize(1.15)

    def _resize(self, by: float) -> None:
        easel = self.easel
        tool = next((one for one in (easel.stencil, easel.strokes, easel.dabs) if one.active), None)
        if tool is not None:
            tool.resize(by)

    def marks(self) -> None:
        """Handles, stencil and everything else over the print: hidden, or shown again."""
        self.easel.marks = not self.easel.marks
        self.easel.setCursor(Qt.CursorShape.ArrowCursor)
        self.foot.say("" if self.easel.marks else "Everything over the print is hidden; V shows it again", stay=True)
        self.easel.update()


def _unless_it_waits(step: Pass) -> Pass:
    """A pass that takes seconds, off; any other as it is."""
    return step.model_copy(update={"on": False}) if step.on and step.waits else step
