"""What walks there are: data. Where a step happens and when it is done is asked of the window."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from PySide6.QtCore import QRect
from PySide6.QtWidgets import QWidget

from kyanoscript import demo
from kyanoscript.core.passes.base import Pass
from kyanoscript.core.passes.toning.hand_tint import HandTint

Place = QWidget | tuple[QWidget, QRect] | None  # a widget, or a box of one


@dataclass
class Course:
    """A walk that is under way."""

    window: Any  # the `Window`, whose type would be a circle here
    before: Any = None  # what was so when the step began
    wrote: list[Path] = field(default_factory=list)  # files, since the step began

    def kinds(self) -> list[str]:
        """The passes of the print."""
        return [step.kind for step in self.window.desk.script.passes]

    def step(self, kind: str) -> Pass | None:
        """The pass of a kind."""
        return next((step for step in self.window.desk.script.passes if step.kind == kind), None)

    def choose(self, kind: str) -> None:
        """Bring a pass onto the slip."""
        if kind in self.kinds():
            self.window.desk.select(self.kinds().index(kind))


@dataclass(frozen=True)
class Step:
    """One thing to be done."""

    words: str
    where: Callable[[Course], Place]  # what it is told at
    done: Callable[[Course], object]
    do: Callable[[Course], object]  # the program does it
    note: Callable[[Course], object] = lambda _: None  # what is to be another afterwards
    prepare: Callable[[Course], object] = lambda _: None  # before it


@dataclass(frozen=True)
class Walk:
    """Five steps on a demo photograph."""

    title: str
    about: str
    photo: Path
    steps: tuple[Step, ...]
    script: Path | None = None


def _way(course: Course, name: str) -> QWidget | None:
    begins = getattr(course.window.bench.slip.page, "begins", None)
    return begins.ways.get(name) if begins is not None else None


def _press(widget: QWidget | None) -> None:
    if widget is not None:
        widget.click()  # type: ignore[attr-defined]  # they are buttons


def _editor(course: Course, name: str) -> QWidget | None:
    slip = course.window.bench.slip
    return slip.sliders.get(name) or slip.editors.get(name)


def _add_place(course: Course) -> Place:
    trays = course.window.bench.run.trays
    return trays, trays.places.end().toRect()


def _tints(course: Course) -> Place:
    found = [_editor(course, name) for name in ("offers", "parts")]
    return next((widget for widget in found if widget is not None and widget.isVisible()), course.window.bench.slip)


def _value(kind: str, name: str) -> Callable[[Course], object]:
    return lambda course: getattr(course.step(kind), name, None)


def _set(course: Course, kind: str, words: str, **values: object) -> None:
    course.choose(kind)
    course.window.desk.set_values(words, **values)


def _add(course: Course, kind: str) -> None:
    course.window.bench.passes.add(kind, len(course.kinds()))


def _tinted(course: Course) -> int:
    step = course.step("hand-tint")
    dabs = step.dabs if isinstance(step, HandTint) else ()
    return sum(dab.region and not dab.guess for dab in dabs)


def _take_a_tint(course: Course) -> None:
    tool = course.window.easel.dabs
    tool.next_that_waits()
    tool.take(0)


def _export(course: Course) -> None:
    course.window.printing.ask_export()


def _sheet(course: Course) -> Any:
    return course.window.sheet.laying.sheets.sheet


def _turn(page: str) -> Callable[[Course], object]:
    def turn(course: Course) -> None:
        if course.window.registry.view is course.window.sheet:
            course.window.sheet.laying.turn(page)

    return turn


def _on_sheet(name: str) -> Callable[[Course], QWidget | None]:
    def find(course: Course) -> QWidget | None:
        page = course.window.sheet.laying.page
        return page.editors.get(name) or page.sliders.get(name) or page.words.get(name)

    return find


_TONED = Walk(
    "A toned print",
    "From a photograph in colour, by gray and a bath",
    demo.photo("ferry-landing"),
    (
        Step(
            "This is the ferry landing of Marrow Quay, as it was photographed. Press “A gray” here: its colours are "
            "weighed into tones.",
            lambda c: _way(c, "A gray"),
            lambda c: "gray-weights" in c.kinds(),
            lambda c: _press(_way(c, "A gray")),
        ),
        Step(
            "How bright is the sky to be? Slide “Blue”: to the left blue things go darker and the clouds come "
            "out. Too far, then back a little.",
            lambda c: _editor(c, "blue"),
            lambda c: not c.window.desk.dragging and _value("gray-weights", "blue")(c) != c.before,
            lambda c: _set(c, "gray-weights", "Gray weights", blue=-20.0),
            note=_value("gray-weights", "blue"),
            prepare=lambda c: c.choose("gray-weights"),
        ),
        Step(
            "Now a bath. Press A, or “Add a pass” at the end of the run, and choose “Toner bath”: every pass is "
            "shown on this picture.",
            _add_place,
            lambda c: "toner-bath" in c.kinds(),
            lambda c: _add(c, "toner-bath"),
        ),
        Step(
            "Hold this button, or H: the bath comes up from nothing. Let go where it looks right. Again, as often "
            "as you like.",
            lambda c: getattr(c.window.bench.slip.page, "develop_button", None),
            lambda c: not c.window.bench.slip.developing.running and _value("toner-bath", "strength")(c) != c.before,
            lambda c: _set(c, "toner-bath", "Develop", strength=72.0),
            note=_value("toner-bath", "strength"),
            prepare=lambda c: c.choose("toner-bath"),
        ),
        Step(
            "Hold O for the photograph as it was, and let go. Then write the print into a file: “Export” in the "
            "menu File, or Ctrl+E.",
            lambda c: c.window.menus,
            lambda c: c.wrote,
            _export,
        ),
    ),
)
_SCAN = Walk(
    "An old scan",
    "Mended, then tinted part by part",
    demo.photo("yard-scan"),
    (
        Step(
            "An old print, scanned: dust, scratches, faded. Press “Mend it” here.",
            lambda c: _way(c, "Mend it"),
            lambda c: "mend" in c.kinds(),
            lambda c: _press(_way(c, "Mend it")),
        ),
        Step(
            "Look closely: press 1 for actual pixels, and hold P for the scan without the mending. F shows the whole "
            "print again.",
            lambda c: c.window.foot.pixels,
            lambda c: not c.window.easel.sight.whole,
            lambda c: c.window.looking.actual(),
        ),
        Step(
            "Now colour. Press A, or “Add a pass” at the end of the run, and choose “Hand-tint”: the scene is "
            "divided into parts, which takes a moment.",
            _add_place,
            lambda c: "hand-tint" in c.kinds(),
            lambda c: _add(c, "hand-tint"),
            prepare=lambda c: c.window.easel.show_whole(),
        ),
        Step(
            "Press a part of the picture, or U for the next that waits. The pointer over one of its six tints "
            "shows it on the print; a press takes it.",
            _tints,
            lambda c: _tinted(c) > (c.before or 0),
            _take_a_tint,
            note=_tinted,
            prepare=lambda c: c.choose("hand-tint"),
        ),
        Step(
            "So part by part; or “Take the likeliest of the rest”, and undo what you do not like. Then write the "
            "print: “Export” in the menu File, or Ctrl+E.",
            _tints,
            lambda c: c.wrote,
            _export,
        ),
    ),
)
_PAPER = Walk(
    "A print on paper",
    "Its sheet, its proof, and a file of the exact size",
    demo.finished("duotone").photo,
    (
        Step(
            "This print is done. Press “Sheet”, to see it on its paper.",
            lambda c: c.window.masthead.views[c.window.sheet],
            lambda c: c.window.registry.view is c.window.sheet,
            lambda c: c.window.registry.go(c.window.sheet),
        ),
        Step(
            "Which paper? Choose another one here. No paper is as white as a screen, and no ink as black; the "
            "sheet shows both as they will be.",
            _on_sheet("stock"),
            lambda c: _sheet(c).paper.stock != c.before,
            lambda c: c.window.sheet.laying.sheets.put("Paper", stock="washi"),
            note=lambda c: _sheet(c).paper.stock,
            prepare=_turn("Paper"),
        ),
        Step(
            "How large? “Fill the margins” leaves the same margin all round; or drag the print by its corners, or "
            "type its width.",
            _on_sheet("fill"),
            lambda c: not c.window.desk.dragging and _sheet(c).placing != c.before,
            lambda c: c.window.sheet.laying.sheets.fill(),
            note=lambda c: _sheet(c).placing,
            prepare=_turn("Print"),
        ),
        Step(
            "Hold P: the print without its paper. What you see go is what the paper takes; let go and it is back.",
            lambda c: c.window.sheet.laying.paper,
            lambda c: c.window.sheet.laying.held,
            lambda c: c.window.registry.go(c.window.sheet),
        ),
        Step(
            "“Print…” is for a printer. Here we write a PDF of the exact size: “Write to a file…”, or Ctrl+E.",
            _on_sheet("file"),
            lambda c: any(path.suffix == ".pdf" for path in c.wrote),
            lambda c: c.window.sheet.write(),
        ),
    ),
    demo.finished("duotone").script,
)
WALKS = (_TONED, _SCAN, _PAPER)
