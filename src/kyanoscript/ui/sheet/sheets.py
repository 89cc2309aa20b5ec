"""The sheets of the script: which one is looked at, and what is done with it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QMenu, QWidget

from kyanoscript.core.paper.customs import usual_unit
from kyanoscript.core.paper.layout import MARGIN, first_sheet, fitting, start
from kyanoscript.core.paper.measure import INCH, told
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.files.colour import proofs
from kyanoscript.files.kept import sheetfile
from kyanoscript.translation import tr
from kyanoscript.ui.commands.context import Context
from kyanoscript.ui.jobs.lanes import Lane


class Sheets(QObject):
    """What is done with sheets, each thing one step of undo."""

    followed = Signal()  # another is looked at, or what is shown may be wrong

    def __init__(self, context: Context, rack: QWidget) -> None:
        super().__init__(rack)
        self.context = context
        self.current = 0
        self.unit = usual_unit()  # that lengths are told in
        self.menu: QMenu | None = None
        self._rack = rack  # beneath which those that were kept are offered

    @property
    def all(self) -> tuple[tuple[str, Sheet], ...]:
        """Those of the script, or one that is not kept before it is changed."""
        return self.context.desk.script.sheets or (("First sheet", first_sheet(self.shape)),)

    @property
    def sheet(self) -> Sheet:
        """The one that is looked at."""
        return self.all[min(self.current, len(self.all) - 1)][1]

    @property
    def name(self) -> str:
        """What it is called."""
        return self.all[min(self.current, len(self.all) - 1)][0]

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

        def failed(text: str) -> None:
            self.context.foot.warn(text)
            self.followed.emit()

        self.context.jobs.run(
            lambda job: proofs.read_profile(proofs.profile_path(made.output.profile)),
            Lane.READ,
            done=lambda _: self._put("Profile", made, {"profile": made.output.profile}),
            failed=failed,
        )

    def _put(self, words: str, made: Sheet, values: Mapping[str, object]) -> None:
        at = min(self.current, len(self.all) - 1)
        sheets = (*self.all[:at], (self.name, made), *self.all[at + 1 :])
        self._write(tr("Sheet: {words}", words=words), sheets, merge=f"sheet {' '.join(values)}")

    def choose(self, at: int) -> None:
        """Look at another sheet."""
        self.current = at
        self.followed.emit()

    def add(self) -> None:
        """One more, as the present one is."""
        names = {name for name, _ in self.all}
        name = next(tr("Sheet {k}", k=k) for k in range(2, 10_000) if f"Sheet {k}" not in names)
        sheets = (*self.all, (name, self.sheet))
        self.current = len(sheets) - 1
        self._write(tr("New sheet: {name}", name=name), sheets)
        self.context.foot.say(
            tr("{name} begins as {all} is; F2 gives it another name", name=name, all=self.all[self.current - 1][0])
        )

    def remove(self) -> None:
        """Take the present one away."""
        at = min(self.current, len(self.all) - 1)
        gone, sheets = self.name, (*self.all[:at], *self.all[at + 1 :])
        self.current = max(0, at - 1)
        self._write(tr("Sheet {gone} taken away", gone=gone), sheets)
        self.context.foot.say(tr("{gone} was taken away; Ctrl+Z brings it back", gone=gone))

    def rename(self, name: str) -> None:
        """Call the present one something else."""
        name = " ".join(name.split())[:80]
        if not name or name == self.name:
            return
        if any(name == other for other, _ in self.all):
            self.context.foot.say(tr("There is a sheet {name} already", name=name))
            return
        at = min(self.current, len(self.all) - 1)
        self._write(tr("Sheet: {name}", name=name), (*self.all[:at], (name, self.sheet), *self.all[at + 1 :]))

    def take_over(self, name: str, sheet: Sheet) -> None:
        """One that was kept for other photographs."""
        own = self.context.desk.script.sheets
        names = {known for known, _ in own}
        made = (
            name if name not in names else next(f"{name} {k}" for k in range(2, 10_000) if f"{name} {k}" not in names)
        )
        sheets = (*own, (made, sheet))
        self.current = len(sheets) - 1
        self._write(tr("Sheet: {made}", made=made), sheets)

    def keep(self) -> None:
        """Keep it for other photographs."""
        name, sheet = self.name, self.sheet

        def work(job: object) -> Path:
            return sheetfile.keep(name, sheet)

        self.context.jobs.run(
            work,
            Lane.SHORT,
            done=lambda _: self.context.foot.say(
                tr("{name} is kept; another photograph finds it under From the kept…", name=name)
            ),
            failed=self.context.foot.warn,
        )

    def offer_kept(self) -> None:
        """A list of those that were kept; a press takes one over."""
        self.context.jobs.run(lambda job: sheetfile.kept(), Lane.READ, done=self._offer)

    def _offer(self, kept: list[tuple[str, Sheet]]) -> None:
        if not kept:
            self.context.foot.say("No sheet is kept yet; Keep for others does it")
            return
        menu = self.menu = QMenu(self._rack)
        for name, sheet in kept:
            made = menu.addAction(name)
            made.triggered.connect(lambda _=False, name=name, sheet=sheet: self.take_over(name, sheet))
        menu.popup(self._rack.mapToGlobal(self._rack.rect().bottomLeft()))

    def fill(self) -> None:
        """As large as leaves the same margin all round."""
        across = round(fitting(self.sheet, self.shape, MARGIN), 2)
        self.put(tr("Print {across} wide", across=told(across, self.unit)), across=across, middle=True)

    # The hand on the paper

    def grip(self, down: bool) -> None:
        desk = self.context.desk
        if down:
            desk.begin("Sheet: print moved")
        else:
            desk.commit()

    def moved(self, x: float, y: float) -> None:
        self.put("print moved", left=round(x, 3), top=round(y, 3), middle=False)

    def sized(self, across: float, x: float, y: float) -> None:
        values: dict[str, object] = {"across": round(across, 3)}
        if not self.sheet.placing.middle:
            values.update(left=round(x, 3), top=round(y, 3))
        self.put("print sized", **values)

    def nudged(self, x: float, y: float) -> None:
        left, top = start(self.sheet, self.shape)
        self.put("print moved", left=round(left + x, 3), top=round(top + y, 3), middle=False)
