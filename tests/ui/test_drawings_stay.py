"""What every widget of the sheet, the process, the strip and the states draws, stroke for stroke, in its states.

Kept in ``tests/ui/drawings``, a file a drawing, to be read. What is meant to be otherwise is kept anew by
``KYANOSCRIPT_KEEP=1 python -m pytest -n 0 tests/ui/test_drawings_stay.py``; the files' difference is looked at.
"""

import os
from dataclasses import replace
from datetime import datetime
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage
from PySide6.QtTest import QTest

from kyanoscript.core.paper.sheet import Sheet
from kyanoscript.core.process.process import Process, Proved, Reading
from kyanoscript.core.script import Script
from kyanoscript.files.colour.proofs import proof_of
from kyanoscript.ui.easel.wall import Piece
from kyanoscript.ui.service.papers import Tones
from kyanoscript.ui.sheet.leaves import Leaves
from kyanoscript.ui.sheet.paper import PaperView
from kyanoscript.ui.sheet.process.graph import CurveView
from kyanoscript.ui.sheet.process.scan import ScanView
from kyanoscript.ui.sheet.process.steps import Steps
from kyanoscript.ui.sheet.process.worked import work_out
from kyanoscript.ui.sheet.rack import SheetRack
from kyanoscript.ui.states.descent import Descent, Node
from kyanoscript.ui.states.gallery import BENCH, PHOTO
from kyanoscript.ui.states.rack import Line, StateRack
from tests.ui.conftest import Bench
from tests.ui.drawn import drawing, same
from tests.ui.test_drawn import squares
from tests.ui.test_strip_drawn import ONE, OTHER, strip_of

KEPT = Path(__file__).parent / "drawings"
KEY = Qt.Key
ALONE = [
    "paper", "paper-without-its-print", "paper-in-inches", "paper-marked", "paper-turned-over", "paper-of-film",
    "paper-upright", "paper-of-many", "paper-at-the-keyboard", "paper-with-nothing", "paper-dragged",
    "leaves", "leaves-and-tones", "leaves-and-dots", "leaf-alone", "sheets", "sheets-at-the-keyboard",
    "curve", "curve-proved", "curve-of-density", "curve-wrong", "curve-without-readings", "curve-pointed-at",
    "scan", "scan-without-words", "scan-none", "scan-at-the-keyboard", "steps", "steps-worked", "steps-proved",
    "states-rack", "states-rack-none-chosen", "states-rack-pictures", "descent", "descent-of-the-photo",
]  # fmt: skip
WALLS = [
    "strip", "strip-down", "strip-two", "strip-same", "strip-at-actual-pixels", "strip-pointed-at", "grid",
    "wall", "wall-with-room", "wall-blind", "wall-chosen", "wall-at-actual-pixels", "wall-held", "wall-pointed-at",
    "wall-named", "wall-empty",
]  # fmt: skip


@pytest.fixture
def kept():
    """Compares a drawing with the one of its name that is kept, or keeps it."""

    def compare(name, widget):
        now, place = drawing(widget), KEPT / f"{name}.txt"
        if "KYANOSCRIPT_KEEP" in os.environ:
            place.write_text(now)
        assert same(now, place.read_text()) == "", name

    return compare


def test_every_drawing_is_of_something():
    assert {path.stem for path in KEPT.glob("*.txt")} == {*ALONE, *WALLS}


def test_a_drawing_that_is_otherwise_is_noticed():
    text = (KEPT / "paper.txt").read_text()
    line = next(line for line in text.splitlines() if line.startswith("box"))
    number = line.split(" at ")[1].split(",")[0]
    for other in (line.replace(f" at {number}", f" at {int(number) + 2}"), line.replace("box", "ring"), ""):
        assert same(text.replace(line, other), text)


@pytest.mark.parametrize("name", ALONE)
def test_a_widget_draws_what_it_did(qtbot, kept, name):
    widget = globals()[name.split("-")[0]](name)
    top = getattr(widget, "area", widget)
    qtbot.addWidget(top)
    top.show()
    if "keyboard" in name:
        top.activateWindow()
        qtbot.waitUntil(top.isActiveWindow)
        widget.clearFocus()
        widget.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(widget, KEY.Key_Right if name.startswith("scan") else KEY.Key_Shift)
    if name == "paper-dragged":
        middle = QPoint(450, 300)
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=middle)
        QTest.mouseMove(widget, middle + QPoint(3, 0))
        assert widget.lines
    if name == "curve-pointed-at":
        QTest.mouseMove(widget, QPoint(200, 200))
    kept(name, widget)


def picture(width=60, height=40, colour="#b43c14"):
    image = QImage(width, height, QImage.Format.Format_RGB32)
    image.fill(QColor(colour))
    return image


# The sheet


def paper(name):
    view = PaperView()
    view.resize(900, 600)
    sheet, unit, shape = Sheet.of(width=300, height=200, across=120, left=40, top=50), "mm", 1.5
    view.take(picture())
    if name == "paper-without-its-print":
        view.take(None)
    if name == "paper-in-inches":
        unit = "in"
    if name in ("paper-marked", "paper-turned-over", "paper-of-film"):
        marks = {"registers": True, "cuts": True, "wedge": True, "steps": 5, "caption": "Marrow Quay, the dye works"}
        sheet = sheet.with_values(mat=10.0, **marks)
        view.white = QColor("#f6f0e0")
    if name == "paper-turned-over":
        sheet = sheet.with_values(mirrored=True)
    if name == "paper-of-film":
        view.film = lambda level: QColor("#ffe000") if level > 0.5 else QColor("#101010")
    if name == "paper-upright":
        sheet, shape = Sheet.of(width=210, height=297, across=190, left=5, top=2), 2 / 3
    if name == "paper-of-many":
        sheet = sheet.with_values(columns=2, rows=2, across=100, gutter=6, left=20, top=20, cuts=True)
    if name == "paper-dragged":
        sheet = sheet.with_values(left=90, top=60, middle=False)
    if name != "paper-with-nothing":
        view.show_sheet(sheet, shape, unit)
    return view


def leaves(name):
    view = Leaves()
    view.resize(900, 148)
    view.show_leaves(("Print", "Plate 1 of the long caption", "Negative"), 1)
    view.take("Print", picture(40, 60))
    view.take("Negative", picture(200, 50))
    if name == "leaves-and-tones":
        tone = np.linspace(0, 100, 33)
        view.show_tones(Tones(proof_of(Sheet()), tuple(tone), tuple(10 + 0.8 * tone)))
    if name == "leaves-and-dots":
        view.show_dots(picture(300, 300, "#808080"))
    return view


def leaf(name):
    view = Leaves()
    view.resize(900, 148)
    view.show_leaves(("Print",), 0)
    view.take("Print", picture())
    return view


def sheets(name):
    rack = SheetRack("Sheets", ("New", ""), ("Other", ""))
    rack.resize(132, 400)
    rack.show_lines([("First sheet", "A4"), ("A wall of the ferry, long", "300 × 200 mm"), ("C", "a3")], 1)
    lines = rack.lines
    lines.area = rack
    return lines


# The process


def measured(**more):
    values = np.linspace(0, 100, 11)
    rows = [Reading(value=v, lightness=95 - 60 * (v / 100) ** 0.6 + d) for v in values for d in (-0.5, 0.4)]
    return Process(name="Evening blue", readings=tuple(rows), **more)


def curve(name):
    view = CurveView()
    view.resize(520, 520)
    proof = tuple(Proved(tone=v, lightness=94 - 0.6 * v) for v in np.linspace(0, 100, 6))
    one = {
        "curve-proved": measured(proof=proof), "curve-of-density": measured(aim="density"),
        "curve-wrong": Process(readings=(Reading(value=0, lightness=95),)), "curve-without-readings": Process(),
    }.get(name, measured())  # fmt: skip
    view.show_worked(work_out(one))
    return view


def scan(name):
    view = ScanView()
    view.resize(440, 200)
    words = "" if name == "scan-without-words" else "4 of 4 patches read"
    if name == "scan-none":
        view.show_scan(None, None, 1.0, (), "No scan yet")
    else:
        view.show_scan(picture(200, 50), squares(), 0.5, (True, True, False, True), words)
    return view


def steps(name):
    view = Steps()
    view.resize(1100, 148)
    words = ["21 steps", "10 min", "not yet", "no curve yet", "not yet"]
    proof = tuple(Proved(tone=v, lightness=94 - 0.6 * v) for v in np.linspace(0, 100, 6))
    worked = {"steps-worked": measured(), "steps-proved": measured(proof=proof)}.get(name)
    images = [picture(), None, picture(40, 60), None, None] if worked else [None] * 5
    view.show_steps(0 if worked is None else 3, words, images, work_out(worked) if worked else None)
    return view


# States


LINES = (
    Line(PHOTO, "", "Photo", "", False),
    Line(1, "I", "only the punch, and much more than fits", "10:26", True),
    Line(2, "II", "both", "10:30", False),
)


def states(name):
    rack = StateRack()
    rack.area.resize(132, 400)
    rack.show_lines(LINES, 0 if name == "states-rack-none-chosen" else 1)
    if name == "states-rack-pictures":
        rack.take(1, picture(100, 67))
        rack.take(2, picture(67, 100))
    return rack


def descent(name):
    view = Descent()
    view.area.resize(700, 260)
    nodes = (
        Node(PHOTO, "photo", None),
        Node(1, "I", PHOTO),
        Node(2, "II", 1),
        Node(3, "III", 1),
        Node(BENCH, "now", 3),
    )
    view.show_nodes(nodes, PHOTO if name == "descent-of-the-photo" else 3)
    view.resize(700, 260)
    return view


# Walls of prints, through the window


def test_a_strip_draws_what_it_did(bench: Bench, kept):
    bench.add("levels")
    bench.window.resize(1280, 800)
    bench.key(KEY.Key_W)
    trial = bench.window.strip.trial
    bands = trial.bands
    bench.settle()
    bands.resize(840, 560)
    bench.settle()
    kept("strip", bands)
    kept("grid", trial.row)
    for name, strip in (("strip-down", strip_of(ONE, down=True)), ("strip-two", strip_of(ONE, OTHER))):
        bands.show_strip(strip, 0)
        bench.settle()
        kept(name, bands)
    bands.show_strip(strip_of(ONE, OTHER, same=True), 7)
    bench.settle()
    kept("strip-same", bands)
    bands.show_strip(strip_of(ONE), 3)
    bands.show_actual(bands.box(2).center())
    bench.settle()
    kept("strip-at-actual-pixels", bands)
    bands.show_whole()
    bench.move(bands, bands.box(1).center())
    bench.settle()
    kept("strip-pointed-at", bands)


def test_a_wall_draws_what_it_did(bench: Bench, kept):
    bench.desk.kept.now = lambda: datetime(2026, 11, 26, 10, 26)
    bench.window.resize(1280, 800)
    for gamma in (0.7, 1.4):
        bench.add("levels")
        bench.desk.set_values("Levels: middle", gamma=gamma)
        bench.key(KEY.Key_S)
    bench.key(KEY.Key_3, Qt.KeyboardModifier.ControlModifier)
    wall = bench.window.states.gallery.wall
    wall.resize(900, 600)
    bench.settle()
    kept("wall", wall)
    bench.move(wall, wall.cell(wall.pieces[0].item).center())
    bench.settle()
    kept("wall-pointed-at", wall)
    wall.show_actual(wall.cell(wall.pieces[1].item).center())
    bench.settle()
    kept("wall-at-actual-pixels", wall)
    wall.show_whole()
    wall.hold(wall.pieces[0].item, Script(), "as it was")
    bench.settle()
    kept("wall-held", wall)
    wall.hold(wall.pieces[0].item, None)
    one = wall.pieces[0]
    wall.show_pieces([one, replace(one, item=7, name="a long name of a state, " * 6)], 7)
    bench.settle()
    kept("wall-named", wall)
    wall.more = True
    wall.show_pieces([Piece(k, Script(), "IVX"[k % 3], f"name {k}") for k in range(1, 6)], 1)
    bench.settle()
    kept("wall-with-room", wall)
    wall.current = 4
    wall.update()
    kept("wall-chosen", wall)
    wall.blind = True
    wall.show_pieces(wall.pieces[:2], 1)
    bench.settle()
    kept("wall-blind", wall)
    wall.blind = False
    wall.show_pieces([], 0)
    kept("wall-empty", wall)
