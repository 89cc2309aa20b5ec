"""Comparing, and choosing by eye."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.blend import MODES
from kyanoscript.core.passes import load_all
from tests.ui.conftest import Bench

SHIFT = Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def toned(bench: Bench):
    bench.add("gray-weights", "gradient-map")
    bench.easel.inset = False
    return bench


def colour_at(bench, at):
    bench.settle()
    return bench.easel.grab().toImage().pixelColor(at.toPoint()).getRgb()[:3]


def test_c_goes_from_whole_to_split_to_side_by_side_and_back(toned: Bench):
    bench = toned
    left, right = bench.on_print(0.25, 0.4), bench.on_print(0.75, 0.4)
    print_left, print_right = colour_at(bench, left), colour_at(bench, right)
    QTest.keyPress(bench.easel, Qt.Key.Key_O)
    photo_left = colour_at(bench, left)
    QTest.keyRelease(bench.easel, Qt.Key.Key_O)
    bench.key(Qt.Key.Key_C)
    assert colour_at(bench, left) == photo_left
    assert colour_at(bench, right) == print_right
    edge = QPointF(bench.easel.width() / 2, bench.easel.height() / 2)
    bench.drag(bench.easel, edge, QPointF(left.x() - 40, edge.y()))  # the line between them is dragged
    assert colour_at(bench, left) == print_left
    bench.key(Qt.Key.Key_C)
    assert bench.easel.comparing == "side by side"
    place = bench.on_print(0.25, 0.4)
    assert place.x() > bench.easel.width() / 2
    beside = place - QPointF(bench.easel.pane().left(), 0)
    assert colour_at(bench, place) == pytest.approx(print_left, abs=12)
    assert colour_at(bench, beside) == pytest.approx(photo_left, abs=12)
    bench.key(Qt.Key.Key_C)
    assert colour_at(bench, left) == print_left


def test_side_by_side_is_zoomed_and_moved_together(toned: Bench):
    bench = toned
    bench.key(Qt.Key.Key_C)
    bench.key(Qt.Key.Key_C)
    beside = bench.on_print(0.3, 0.3) - QPointF(bench.easel.pane().left(), 0)
    spot = bench.easel.to_picture(bench.easel.lane(beside))
    assert (spot.x(), spot.y()) == pytest.approx((0.3, 0.3), abs=0.01)
    QTest.mouseDClick(bench.easel, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, beside.toPoint())
    bench.settle()
    assert bench.easel.magnification() == 1
    found = bench.easel.to_picture(bench.easel.lane(beside))
    assert (found.x(), found.y()) == pytest.approx((0.3, 0.3), abs=0.01)  # the place pressed on stays where it is
    frames = bench.easel.frame, bench.easel.comparison.beside
    assert frames[0].rect == frames[1].rect
    assert frames[0].scale == frames[1].scale == 1


def test_the_values_at_the_pointer_are_there_on_either_picture(toned: Bench):
    bench = toned
    bench.key(Qt.Key.Key_C)
    bench.key(Qt.Key.Key_C)
    place = bench.on_print(0.3, 0.3)
    for at in (place, place - QPointF(bench.easel.pane().left(), 0)):
        bench.move(bench.easel, at)
        bench.settle()
        assert bench.easel.pointer == pytest.approx((0.3, 0.3), abs=0.02)


def test_the_other_picture_may_be_the_print_without_the_chosen_pass(toned: Bench):
    bench = toned
    bench.key(Qt.Key.Key_C, SHIFT)
    assert bench.easel.comparing == "split"
    assert len(set(colour_at(bench, bench.on_print(0.25, 0.4)))) == 1  # gray: without the gradient map
    assert bench.easel.other().passes == bench.desk.script.passes[:1]
    bench.desk.select(0)
    bench.settle()
    assert bench.easel.other().passes == bench.desk.script.passes[1:]
    bench.key(Qt.Key.Key_C, SHIFT)
    assert bench.easel.other().passes == ()


def test_every_pass_is_shown_on_this_picture_in_the_chooser(toned: Bench):
    bench = toned
    bench.key(Qt.Key.Key_A)
    sheet = bench.window.bench.passes.choosers.present
    bench.settle()
    assert set(sheet.grid.shown()) == set(load_all())
    assert sheet.grid.pictured() == set(load_all())
    plain = image(sheet, "dodge-burn")  # draws nothing yet, so it shows the print as it is
    assert image(sheet, "negative") != plain
    assert image(sheet, "exposure") != plain
    assert image(sheet, "levels") != plain
    QTest.keyClicks(sheet.search, "strengthened")
    assert sheet.grid.shown() == ["hue-chroma"]
    QTest.keyClicks(sheet.search, "xyz")
    assert sheet.grid.shown() == []
    QTest.keyClick(sheet.search, Qt.Key.Key_Return)
    assert len(bench.desk.script.passes) == 2
    QTest.keyClick(sheet.search, Qt.Key.Key_Escape)


def image(sheet, key):
    return sheet.grid.picture(key)


def test_every_blend_mode_is_shown_and_the_one_looked_at_is_on_the_easel(toned: Bench):
    bench = toned
    normal = bench.shown()
    entries = len(bench.desk.entries)
    bench.key(Qt.Key.Key_B, SHIFT)
    sheet = bench.window.bench.passes.choosers.present
    bench.settle()
    assert sheet.grid.pictured() == set(MODES)
    assert sheet.grid.current == "normal"
    QTest.keyClick(sheet.search, Qt.Key.Key_Right)
    assert sheet.grid.current == MODES[1]
    assert bench.shown() != normal
    assert len(bench.desk.entries) == entries  # looking is not doing
    QTest.keyClick(sheet.search, Qt.Key.Key_Escape)
    bench.qtbot.waitUntil(lambda: bench.easel.held is None)
    assert bench.shown() == normal
    bench.key(Qt.Key.Key_B, SHIFT)
    sheet = bench.window.bench.passes.choosers.present
    QTest.keyClick(sheet.search, Qt.Key.Key_Down)
    below = sheet.grid.current
    bench.click(sheet.grid, sheet.grid.box(below).center())
    assert bench.desk.selected_pass.blend == below
    assert len(bench.desk.entries) == entries + 1
