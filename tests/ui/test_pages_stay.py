"""What stands on every page, word for word: texts, tips, names, what can be pressed or is chosen, values and ranges.

Kept in ``tests/ui/pages``, a file a page, to be read. What is meant to be otherwise is kept anew by
``python -m tests.ui.test_pages_stay``, and looked at in the difference of the files.
"""

from __future__ import annotations

import os
import sys
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from unittest.mock import patch

import pytest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QLabel,
    QLineEdit,
    QProgressBar,
    QScrollArea,
    QWidget,
)

from kyanoscript import demo
from kyanoscript.core import machine
from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.passes import load_all
from kyanoscript.core.script import Script
from kyanoscript.core.script.dials import Dial
from kyanoscript.files.prints.settings import Settings
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.commands.export_dialog import ExportDialog
from kyanoscript.ui.document.desk import FRAME
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.widgets.slider import ValueSlider

PAGES = Path(__file__).parent / "pages"
SHEET = ("Paper", "Print", "Colour", "Marks", "Plates", "Negative")


def lines(widget: QWidget, depth: int = 0) -> Iterator[str]:
    """A widget and what is seen in it, a line each."""
    said = described(widget)
    if said:
        yield "  " * depth + said
        depth += 1
    if isinstance(widget, QComboBox):
        return
    for child in widget.children():
        if isinstance(child, QWidget) and child.isVisibleTo(widget) and not child.isWindow():
            yield from lines(child, depth)


def described(widget: QWidget) -> str:
    """In a line; nothing for what only holds others."""
    kind, words = type(widget).__name__, []
    if isinstance(widget, QLabel | QAbstractButton):
        words.append(repr(widget.text()))
    elif isinstance(widget, QLineEdit):
        words.append(f"{widget.text()!r} ({widget.placeholderText()!r}, {widget.maxLength()})")
    elif isinstance(widget, QComboBox):
        words.append(f"{widget.currentText()!r} of {[widget.itemText(k) for k in range(widget.count())]}")
    elif isinstance(widget, ValueSlider):
        spec = widget.spec
        words.append(f"{spec.label!r} {widget.text()!r}, {spec.range_text()}, default {widget.default:g}")
    elif not isinstance(widget, QScrollArea | QProgressBar) and hasattr(widget, "told"):
        told = widget.told()
        words.append(f"{told.words!r} {told.value:g} of {told.low:g}…{told.high:g}")
    if isinstance(widget, QAbstractButton) and widget.isCheckable():
        words.append("on" if widget.isChecked() else "off")
    if not widget.isEnabled():
        words.append("cannot be used")
    for name, text in (
        ("tip", widget.toolTip()),
        ("name", widget.accessibleName()),
        ("about", widget.accessibleDescription()),
    ):
        if text and repr(text) not in words:
            words.append(f"{name} {text!r}")
    if widget.objectName() in ("main", "warning", "quiet"):
        words.append(widget.objectName())
    if widget.minimumWidth() == widget.maximumWidth():
        words.append(f"{widget.minimumWidth()} wide")
    if widget.minimumHeight() == widget.maximumHeight():
        words.append(f"{widget.minimumHeight()} high")
    plain = kind in ("QWidget", "QFrame", "QScrollBar", "QStackedWidget", "QSplitter")
    return f"{kind} {', '.join(words)}" if words and not (plain and len(words) == 1 and words[0][0].isdigit()) else ""


def pages(window: Window) -> Iterator[tuple[str, list[QWidget]]]:
    """Every page that there is, with its widgets."""
    ink = demo.finished("two-inks")
    window.desk.kept.now = lambda: datetime(2026, 11, 26, 10, 26)
    window.opening.open(ink.photo, ink.script)
    settle(window)
    bench = window.bench
    for name, at in (("photo", -2), ("frame", FRAME), ("inks", 0)):
        window.desk.select(at)
        settle(window)
        yield f"slip-{name}", [bench.slip]
    for kind in ("levels", "gray-weights", "curves", "gradient-map", "plate", "hand-tint", "lettering"):
        bench.passes.add(kind)
        settle(window)
        yield f"slip-{kind}", [bench.slip]
        window.desk.undo()
    yield "masthead-and-foot", [window.masthead, window.foot]
    yield from states(window)
    window.strip.start(Dial("pass", "strength", window.desk.run[0].id))
    settle(window)
    trial = window.strip.trial
    yield "strip", [trial.page, trial.bands, trial.row]
    window.registry.go(window.sheet)
    laying = window.sheet.laying
    for page in SHEET:
        laying.turn(page)
        settle(window)
        yield f"sheet-{page.lower()}", [laying.page, laying.rack]
    window.sheet.measure()
    work = window.sheet.work
    until(lambda: len(work.shelf.processes) > 1 and not work.working, 60)
    for step in range(5):
        work.go(step)
        settle(window)
        yield f"process-{step + 1}", [work.page, work.rack, work.steps]
    window.registry.go(window.recipes)
    settle(window)
    trials = window.recipes.trials
    yield "recipes", [trials.groups, trials.page]
    trials.look(trials.contents.recipes[0].word)
    settle(window)
    yield "recipe", [trials.page]
    yield from edition(window)
    window.registry.go(bench)
    dialog = ExportDialog(window, Path("landing.tif"), (2400, 1600), Settings(), 300.0)
    dialog.show()
    yield "export", [dialog]
    dialog.close()


def edition(window: Window) -> Iterator[tuple[str, list[QWidget]]]:
    """The Edition view on a machine of two processors: empty, and with photographs, one of them an exception."""
    photos = sorted({print_.photo for print_ in demo.PRINTS})[:3]
    with patch.object(machine, "processors", lambda: 2), patch.object(machine, "free", lambda: 4 << 30):
        window.registry.go(window.edition)
        room = window.edition.room
        settle(window)
        yield "edition-none", [room.rack, room.page]
        room.setup.add(photos)
        settle(window)
        room.series.whence(window.desk.script, "the bench, as it was", "quay")
        room.series.put("Into", folder=Path("/Marrow Quay/Prints"), match=photos[0], pattern="{name}-{n:03}")
        room.keep_exception(photos[1], Script(window.desk.script.passes[1:]))
        room.series.leave_out({2}, True)
        settle(window)
        yield "edition", [room.rack, room.tiles, room.page, room.below]
        room.series.remove({1, 2})
        room.series.put("Numbered", copies=25, sheet=Sheet(), sheet_name="A4", caption="Quay, {n}/{count}")
        settle(window)
        yield "edition-numbered", [room.rack, room.tiles, room.page]


def states(window: Window) -> Iterator[tuple[str, list[QWidget]]]:
    """The States view, empty, with two states, while one judges, and with a ranking."""
    window.registry.go(window.states)
    gallery = window.states.gallery
    until(lambda: gallery.active and bool(gallery.wall.pieces), 10)
    yield "states-none", [gallery.page]
    window.states.keep()
    window.bench.passes.add("soften")
    window.states.keep()
    gallery.show()
    settle(window)
    window.desk.kept.describe(1, "two inks", "as it was")
    gallery.choose(1)
    settle(window)
    yield "states", [gallery.page, gallery.rack, gallery.wall, gallery.below]
    gallery.judge.dice.seed(3)
    gallery.start_judging()
    yield "judging", [gallery.judge.page]
    for _ in range(4):
        gallery.judge.choose(0)
    gallery.judge.rank()
    yield "ranking", [gallery.judge.page]
    gallery.stop_judging()
    window.registry.go(window.bench)
    window.desk.undo()


def texts(window: Window) -> dict[str, str]:
    """What stands on them."""
    here = f"{demo.PRINTS[0].photo.parent}/"  # another on every machine
    return {
        name: "\n".join(row.replace(here, "") for part in parts for row in lines(part)) + "\n"
        for name, parts in pages(window)
    }


@pytest.fixture(scope="module")
def found(tmp_path_factory, _dressed):
    place = tmp_path_factory.mktemp("pages")
    before = {name: os.environ.get(name) for name in ("KYANOSCRIPT_STATE", "XDG_DATA_HOME")}
    os.environ |= {"KYANOSCRIPT_STATE": str(place / "state"), "XDG_DATA_HOME": str(place / "data")}
    window = Window()
    window.resize(1280, 800)
    window.show()
    try:
        yield texts(window)
    finally:
        window.desk.saved_as(Path(), window.desk.whole)
        window.close()
        for name, value in before.items():
            if value is None:
                os.environ.pop(name)
            else:
                os.environ[name] = value


def test_every_page_is_kept(found):
    assert {path.stem for path in PAGES.glob("*.txt")} == found.keys()


@pytest.mark.parametrize("name", sorted(path.stem for path in PAGES.glob("*.txt")))
def test_a_page_is_as_it_was_kept(found, name):
    assert found[name] == (PAGES / f"{name}.txt").read_text()


def main() -> None:
    """Keep all pages anew."""
    import tempfile

    from kyanoscript.ui.widgets import theme

    with tempfile.TemporaryDirectory() as place:
        os.environ |= {"KYANOSCRIPT_STATE": f"{place}/state", "XDG_DATA_HOME": f"{place}/data"}
        application = QApplication(sys.argv)
        theme.apply(application)
        window = Window()
        window.resize(1280, 800)
        window.show()
        PAGES.mkdir(exist_ok=True)
        for old in PAGES.glob("*.txt"):
            old.unlink()
        for name, text in texts(window).items():
            (PAGES / f"{name}.txt").write_text(text)
            print(name, text.count("\n"))
        window.desk.saved_as(Path(), window.desk.whole)
        window.close()


if __name__ == "__main__":
    load_all()
    main()
