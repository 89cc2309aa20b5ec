"""Draws the pictures in docs/screenshots from the demo data. Run by ``make screenshots``."""

from __future__ import annotations

import itertools
import os
import tempfile
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

import staged
from kyanoscript import demo
from kyanoscript.core.frame import Frame
from kyanoscript.core.passes import load_all
from kyanoscript.core.script.dials import Dial
from kyanoscript.files.base import log
from kyanoscript.ui.app.picture import settle
from kyanoscript.ui.app.window import Window
from kyanoscript.ui.document.desk import FRAME
from kyanoscript.ui.jobs.lanes import until
from kyanoscript.ui.sheet.process.steps import CURVE
from kyanoscript.ui.widgets import theme

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"


def main() -> None:
    """Every picture that is kept."""
    application = QApplication([])
    theme.apply(application)
    window = Window()
    window.show()
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    settle(window)
    spot = window.easel.from_picture(QPointF(0.33, 0.78))
    QTest.mouseMove(window.easel, spot.toPoint())
    settle(window)
    TARGET.mkdir(parents=True, exist_ok=True)
    draw(window, "bench")
    recipes(window)
    portrait(window)
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    settle(window)
    states(window)
    strip(window)
    after(window)
    sheet(window)
    ink_and_light(window)
    edition(window)
    stencil(window)
    compare(window)
    window.opening.open(demo.finished("sepia").photo, demo.finished("sepia").script)
    settle(window)
    window.desk.select(FRAME)
    window.desk.set_values("Frame", ratio="5:4", tilt=2.5, x=56.0, width=80.0, height=80.0)
    draw(window, "frame")
    window.bench.passes.add("curves", 1)
    start = load_all()["curves"].starts["S for contrast"]
    window.desk.set_values("Curves", **start)
    window.looking.safelight()
    draw(window, "safelight")
    window.desk.saved_as(Path(), window.desk.whole)
    window.close()


def recipes(window: Window) -> None:
    """The contact sheet."""
    window.registry.go(window.recipes)
    settle(window)
    window.recipes.trials.contacts.verticalScrollBar().setValue(340)
    window.recipes.trials.grid.look_at("sepia-bath")
    draw(window, "recipes")
    window.registry.go(window.bench)


def portrait(window: Window) -> None:
    """The parts of an old landscape with what is offered, and an old portrait, finished."""
    window.opening.open(demo.photo("landing-scan"))
    settle(window)
    whole = window.desk.script
    window.desk.change("Frame", replace(whole, frame=Frame(x=50.0, y=50.0, width=86.0, height=84.0)))
    window.bench.passes.add("mend", 0)
    window.bench.passes.add("hand-tint", 1)
    settle(window)
    tool = window.easel.dabs
    for wanted in ("sky", "sky 2"):  # the sky has its tint; what lies beside it waits for one
        tool.show_named(wanted)
        settle(window)
        tool.take(1 if wanted == "sky" else 0)
        settle(window)
    tool.next_that_waits()
    draw(window, "offers")
    window.desk.saved_as(Path(), window.desk.whole)
    print_ = demo.finished("two-dyers")
    window.opening.open(print_.photo, print_.script)
    settle(window)
    draw(window, "portrait")
    window.desk.saved_as(Path(), window.desk.whole)


def states(window: Window) -> None:
    """Four versions of one print hung, one of them read against another; two judged blind."""
    staged.hang(window)
    gallery = window.states.gallery
    QTest.mouseMove(gallery.wall, gallery.wall.cells()[0].center().toPoint())
    QTest.qWait(200)
    draw(window, "states")
    gallery.judge.dice.seed(4)
    gallery.start_judging()
    for side in (0, 1, 1):
        gallery.judge.choose(side)
    draw(window, "judge-blind")
    gallery.stop_judging()
    window.registry.go(window.bench)


def edition(window: Window) -> None:
    """Forty photographs at work: one that is cut short, one with an exception, one left out."""
    with tempfile.TemporaryDirectory() as place:
        quay = Path(place) / "Quay"
        quay.mkdir()
        photos = sorted({print_.photo for print_ in demo.PRINTS})
        for k in range(40):
            source = photos[(k * 5 + k // 9) % len(photos)]
            data = source.read_bytes()
            (quay / f"quay-{1001 + k}{source.suffix}").write_bytes(data[: len(data) // (4 if k == 6 else 1)])
        window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
        settle(window)
        window.registry.go(window.edition)
        room, desk = window.edition.room, window.desk
        room.setup.add([quay])
        settle(window)
        room.series.whence(desk.script, "the bench, as it was", "quay")
        room.series.put("Into", folder=Path(place) / "Prints" / "quay", pattern="{name}-{n:03}")
        tone = next(k for k, step in enumerate(desk.run) if step.kind == "quad-tone")
        blue = desk.run[tone].model_copy(update={"stops": ((0.0, "#0e1826"), (55.0, "#5d7288"), (100.0, "#eef3f6"))})
        room.keep_exception(room.series.edition.entries[4].photo, desk.script.with_pass(tone, blue))
        room.series.leave_out({9}, True)
        settle(window)
        room.go()
        until(lambda: room.work.share > 0.24 and bool(room.series.begun), 120)
        window.foot.say("")
        QApplication.processEvents()
        save(window, "edition")
        room.work.stop()
        until(lambda: room.work.running is None, 60)
        settle(window)
        window.foot.say("")
        noted = [line for line in log.path().read_text().splitlines() if line[:2] == "20"]
        meant = ("quay-1007.jpg cannot be decoded", "a JPEG was not decoded without a warning")  # it is cut short
        if others := [line for line in noted if not line.endswith(meant)]:
            raise SystemExit(f"edition: something went wrong: {others[0]}")
        log.path().unlink()
        window.registry.go(window.bench)
        settle(window)


def strip(window: Window) -> None:
    """Seven bands of a middle."""
    step = next(step for step in window.desk.script.passes if step.kind == "levels")
    window.strip.start(Dial("pass", "gamma", step.id))
    settle(window)
    trial = window.strip.trial
    trial.page.sliders["from"]._announce(0.7)
    trial.page.sliders["to"]._announce(2.0)
    trial.choose(4)
    draw(window, "strip")
    seek(window)
    window.foot.say("")
    window.registry.go(window.bench)
    window.desk.saved_as(Path(), window.desk.whole)
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    settle(window)


def seek(window: Window) -> None:
    """Eight values of the sepia print, sought by choosing: after four looks."""
    print_ = demo.finished("sepia")
    window.desk.saved_as(Path(), window.desk.whole)
    window.opening.open(print_.photo, print_.script)
    settle(window)
    staged.seek(window)
    draw(window, "seek")
    window.strip.turn(False)


def after(window: Window) -> None:
    """A print of the ferry landing is followed by the marsh, without the recipe that it is known by."""
    window.desk.saved_as(Path(), window.desk.whole)
    window.opening.open(demo.photo("marsh-at-dusk"))
    settle(window)
    with tempfile.TemporaryDirectory() as folder:
        staged.follow(window, Path(folder))
        draw(window, "after")
        window.recipes.following.stop()
    window.registry.go(window.bench)
    window.desk.saved_as(Path(), window.desk.whole)


def sheet(window: Window) -> None:
    """A print on A3, proofed through the bench printer's profile; and what that printer has not."""
    print_ = demo.finished("duotone")
    window.opening.open(print_.photo, print_.script)
    settle(window)
    window.registry.go(window.sheet)
    laying = window.sheet.laying
    laying.turn("Print")
    _proofed(window)
    draw(window, "sheet")
    window.registry.go(window.bench)
    window.opening.open(demo.photo("table-by-the-window"))
    settle(window)
    window.registry.go(window.sheet)
    laying.sheets.put("Profile", profile="bench")
    laying.turn("Colour")
    laying.set_marking(True)
    until(lambda: bool(window.desk.script.sheets), 10)
    _proofed(window)
    draw(window, "sheet-proof")
    laying.set_marking(False)
    window.registry.go(window.bench)
    window.desk.saved_as(Path(), window.desk.whole)
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    settle(window)


def ink_and_light(window: Window) -> None:
    """The demo's cyanotype: its process with its scan and curve, its negative; a print in two inks, a plate of it."""
    print_ = demo.finished("cyanotype")
    window.opening.open(print_.photo, print_.script)
    settle(window)
    window.registry.go(window.sheet)
    window.sheet.measure()
    work, laying = window.sheet.work, window.sheet.laying
    until(lambda: work.scan.image is not None and work.worked.curve is not None, 20)
    work.go(CURVE)
    work.scan._go(40)
    draw(window, "process")
    window.sheet._back("Negative")
    until(lambda: laying.paper.image is not None and "Negative" in laying.leaves.images, 20)
    draw(window, "negative")
    print_ = demo.finished("two-inks")
    window.opening.open(print_.photo, print_.script)
    settle(window)
    laying.turn("Plates")
    until(lambda: laying.paper.image is not None and "Plate 2" in laying.leaves.images, 20)
    laying.show_leaf(next(leaf for leaf in laying.films.leaves() if leaf.name == "Plate 2"))
    until(lambda: laying.paper.image is not None, 20)
    draw(window, "plates")
    window.registry.go(window.bench)
    window.opening.open(demo.PRINTS[0].photo, demo.PRINTS[0].script)
    settle(window)


def _proofed(window: Window) -> None:
    laying = window.sheet.laying
    until(lambda: laying.on_paper is not None and laying.paper.image is not None and laying.tones is not None, 20)
    settle(window)
    QTest.qWait(300)


def stencil(window: Window) -> None:
    """A burn kept to the table's edge and off the bell, being worked on."""
    plain = Qt.KeyboardModifier.NoModifier
    easel, tool = window.easel, window.easel.stencil
    window.bench.passes.add("exposure")
    window.desk.set_values("Exposure", exposure=-1.2)
    window.bench.stencils.draw()
    tool.take("oval")
    draw_on(window, (0.52, 0.5), (0.86, 0.86))
    window.bench.slip.editors["inverted"].click()  # type: ignore[attr-defined]
    tool.take("eraser")
    tool.set_brush(size=110.0, hardness=40.0)
    draw_on(window, (0.86, 0.52), (0.88, 0.66), (0.88, 0.78))
    tool.choose(0)
    tool.take("oval")
    tool.choose(0)
    tool.move(easel.from_picture(QPointF(0.7, 0.3)), plain)
    draw(window, "stencil")
    window.bench.stencils.draw()


def compare(window: Window) -> None:
    """The photograph and the print side by side, a plate's run open, several trays chosen."""
    window.bench.passes.add("plate")
    window.desk.set_values("Plate", blend="soft-light", strength=45.0)
    window.bench.passes.add("soften", None, (window.desk.selected,))
    window.desk.set_values("Soften", radius=15.0)
    window.easel.set_compare("side by side")
    draw(window, "compare")
    window.easel.set_compare("whole")
    window.desk.saved_as(Path(), window.desk.whole)


def draw_on(window: Window, *places: tuple[float, float]) -> None:
    """Press on the print, go from place to place, let go."""
    plain = Qt.KeyboardModifier.NoModifier
    tool = window.easel.stencil
    points = [window.easel.from_picture(QPointF(*place)) for place in places]
    tool.press(points[0], plain)
    for start, end in itertools.pairwise(points):
        for k in range(1, 13):
            tool.move(start + (end - start) * (k / 12), plain)
    tool.release(points[-1])
    settle(window)


def draw(window: Window, name: str) -> None:
    """One picture, when everything is rendered."""
    settle(window)
    message = window.foot.message
    if message.objectName() == "warning" and message.text():
        raise SystemExit(f"{name}: the foot warns: {message.text()}")
    if log.path().exists():
        raise SystemExit(f"{name}: something went wrong: {log.path().read_text()}")
    save(window, name)


def save(widget: QWidget, name: str) -> None:
    """A picture of what is on the screen."""
    file = TARGET / f"{name}.png"
    widget.grab().save(str(file))
    print(file.relative_to(Path.cwd()) if file.is_relative_to(Path.cwd()) else file)


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as state:
        os.environ["KYANOSCRIPT_DATA"] = state
        os.environ["KYANOSCRIPT_STATE"] = state  # what the person at this machine does is left alone
        main()
