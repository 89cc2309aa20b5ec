"""Draws the pictures of the guide from the demo data: see `guide`."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

import staged
from kyanoscript import demo
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.script.dials import Dial
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.sheet.process.steps import CURVE
from kyanoscript.ui.widgets import theme

SIZE = 1000, 640  # of the window: its words can be read on a page
QUALITY = 88
_PLAIN = Qt.KeyboardModifier.NoModifier


def draw_all(target: Path) -> None:
    """Every picture, in a state of its own."""
    target.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as state:
        os.environ["KYANOSCRIPT_DATA"] = os.environ["KYANOSCRIPT_STATE"] = state
        application = QApplication.instance() or QApplication([])
        assert isinstance(application, QApplication)
        theme.apply(application)
        window = Window()
        window.resize(*SIZE)
        window.show()

        def draw(name: str) -> None:
            settle(window)
            message = window.foot.message
            if message.objectName() == "warning" and message.text():
                raise SystemExit(f"{name}: the foot warns: {message.text()}")
            file = target / f"{name}.jpg"
            window.grab().save(str(file), "JPEG", QUALITY)
            print(file.relative_to(Path.cwd()) if file.is_relative_to(Path.cwd()) else file)

        for part in (_first_print, _pages, _scans, _states, _ink_and_light, _edition):
            part(window, draw)
            window.registry.go(window.bench)
        window.desk.saved_as(Path(), window.desk.whole)
        window.close()


def _open(window: Window, photo: Path, script: Path | None = None) -> None:
    window.desk.saved_as(Path(), window.desk.whole)  # nothing is asked about what was done before
    window.opening.open(photo, script)
    settle(window)


def _finished(window: Window, word: str) -> None:
    print_ = demo.finished(word)
    _open(window, print_.photo, print_.script)


def _first_print(window: Window, draw: Callable[[str], None]) -> None:
    """The ten pictures of the first page."""
    desk, easel = window.desk, window.easel
    _open(window, demo.photo("ferry-landing"))
    draw("first-1")
    window.registry.go(window.recipes)
    draw("first-2")
    window.registry.go(window.bench)
    window.bench.passes.add("gray-weights", 0)
    desk.set_values("Gray weights", **load_all()["gray-weights"].starts["red glass"])
    draw("first-3")
    window.bench.passes.add("levels", 1)
    desk.set_values("Levels", in_black=14, in_white=240)
    draw("first-4")
    window.bench.passes.add("local-exposure", 2)
    draw("first-5")
    window.bench.stencils.draw()
    tool = easel.stencil
    tool.take("ramp")
    start, end = (easel.from_picture(QPointF(0.5, y)) for y in (0.55, 0.3))
    tool.press(start, _PLAIN)
    for k in range(1, 9):
        tool.move(start + (end - start) * (k / 8), _PLAIN)
    tool.release(end)
    draw("first-6")
    window.bench.stencils.draw()
    window.bench.passes.add("toner-bath", 3)
    draw("first-7")
    step = desk.script.passes[3]
    window.strip.start(Dial("pass", "strength", step.id))
    settle(window)
    draw("first-8")
    window.registry.go(window.bench)
    easel.set_compare("side by side")
    draw("first-9")
    easel.set_compare("whole")
    window.registry.go(window.sheet)
    _proofed(window)
    draw("first-10")


def _pages(window: Window, draw: Callable[[str], None]) -> None:
    """The bench, gray, toning, paper."""
    _finished(window, "quad-tone")
    QTest.mouseMove(window.easel, window.easel.from_picture(QPointF(0.33, 0.78)).toPoint())
    draw("bench")
    _open(window, demo.photo("ferry-landing"))
    window.bench.passes.add("gray-weights", 0)
    window.desk.set_values("Gray weights", ring=((40.0, 25.0), (250.0, -45.0)))
    draw("gray")
    _finished(window, "sepia")
    kinds = [step.kind for step in window.desk.script.passes]
    if "toner-bath" not in kinds:
        window.bench.passes.add("toner-bath", len(kinds))
    else:
        window.desk.select(kinds.index("toner-bath"))
    draw("toning")
    _finished(window, "duotone")
    window.registry.go(window.sheet)
    window.sheet.laying.turn("Print")
    _proofed(window)
    draw("paper")


def _scans(window: Window, draw: Callable[[str], None]) -> None:
    """The parts of an old landscape, with what is offered for one of them."""
    _open(window, demo.photo("landing-scan"))
    whole = window.desk.script
    window.desk.change("Frame", replace(whole, frame=Frame(x=50.0, y=50.0, width=86.0, height=84.0)))
    window.bench.passes.add("mend", 0)
    window.bench.passes.add("hand-tint", 1)
    settle(window)
    window.easel.dabs.next_that_waits()
    draw("scans")


def _states(window: Window, draw: Callable[[str], None]) -> None:
    """Four versions of a print, a value of it in steps, several sought; and a print that is followed."""
    _finished(window, "quad-tone")
    staged.hang(window)
    draw("states")
    _finished(window, "quad-tone")
    step = next(step for step in window.desk.script.passes if step.kind == "levels")
    window.strip.start(Dial("pass", "gamma", step.id))
    settle(window)
    draw("strips")
    _finished(window, "sepia")
    staged.seek(window)
    draw("seek")
    window.strip.turn(False)
    _open(window, demo.photo("marsh-at-dusk"))
    with tempfile.TemporaryDirectory() as folder:
        staged.follow(window, Path(folder))
        draw("after")
        window.recipes.following.stop()
    window.foot.say("")


def _ink_and_light(window: Window, draw: Callable[[str], None]) -> None:
    """A process, its negative, and the plate of an ink."""
    _finished(window, "cyanotype")
    window.registry.go(window.sheet)
    window.sheet.measure()
    work, laying = window.sheet.work, window.sheet.laying
    until(lambda: work.scan.image is not None and work.worked.curve is not None, 30)
    work.go(CURVE)
    work.scan._go(40)
    draw("process")
    window.sheet._back("Negative")
    until(lambda: laying.paper.image is not None and "Negative" in laying.leaves.images, 30)
    draw("negative")
    _finished(window, "two-inks")
    laying.turn("Plates")
    until(lambda: laying.paper.image is not None and "Plate 2" in laying.leaves.images, 30)
    laying.show_leaf(next(leaf for leaf in laying.films.leaves() if leaf.name == "Plate 2"))
    until(lambda: laying.paper.image is not None, 30)
    draw("plates")


def _edition(window: Window, draw: Callable[[str], None]) -> None:
    """Twenty photographs, to be printed by one script."""
    with tempfile.TemporaryDirectory() as place:
        quay = Path(place) / "Quay"
        quay.mkdir()
        photos = sorted({print_.photo for print_ in demo.PRINTS})
        for k in range(20):
            source = photos[(k * 5 + k // 9) % len(photos)]
            (quay / f"quay-{1001 + k}{source.suffix}").write_bytes(source.read_bytes())
        _finished(window, "quad-tone")
        window.registry.go(window.edition)
        room = window.edition.room
        room.setup.add([quay])
        settle(window)
        room.series.whence(window.desk.script, "the bench, as it was", "quay")
        room.series.put("Into", folder=Path(place) / "Prints" / "quay", pattern="{name}-{n:03}")
        settle(window)
        window.foot.say("")
        draw("edition")
        window.registry.go(window.bench)
        settle(window)


def _proofed(window: Window) -> None:
    laying = window.sheet.laying
    until(lambda: laying.on_paper is not None and laying.paper.image is not None and laying.tones is not None, 30)
    settle(window)
    QTest.qWait(300)
