"""The run: several trays at once, names and notes, and a plate's own run."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from kyanoscript.core.script import loads
from tests.ui.conftest import Bench, point

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def four(bench: Bench):
    bench.add("exposure", "gray-weights", "levels", "gradient-map")
    return bench


def kinds(bench):
    return [step.kind for step in bench.desk.script.passes]


def press(bench, k, modifier=Qt.KeyboardModifier.NoModifier, trays=None):
    trays = trays or bench.trays
    QTest.mouseClick(trays, LEFT, modifier, point(trays.places.thumb(k).center()))


def test_several_passes_are_chosen_and_worked_on_at_once(four: Bench):
    bench = four
    press(bench, 0)
    press(bench, 2, CTRL)
    assert bench.desk.chosen == (0, 2)
    bench.key(Qt.Key.Key_X)
    assert [p.on for p in bench.desk.script.passes] == [False, True, False, True]
    assert bench.desk.chosen == (0, 2)
    bench.key(Qt.Key.Key_X)
    bench.key(Qt.Key.Key_Down, SHIFT)
    assert [p.strength for p in bench.desk.script.passes] == [90, 100, 90, 100]
    bench.key(Qt.Key.Key_C, CTRL)
    copied = loads(QGuiApplication.clipboard().text()).passes
    assert [p.kind for p in copied] == ["exposure", "levels"]
    bench.key(Qt.Key.Key_Delete)
    assert kinds(bench) == ["gray-weights", "gradient-map"]
    bench.key(Qt.Key.Key_V, CTRL)
    assert kinds(bench) == ["gray-weights", "exposure", "levels", "gradient-map"]
    for _ in range(2):
        bench.window.desk.undo()
    assert kinds(bench) == ["exposure", "gray-weights", "levels", "gradient-map"]


def test_a_row_of_trays_is_chosen_with_shift_and_moved_together(four: Bench):
    bench = four
    press(bench, 0)
    press(bench, 1, SHIFT)
    assert bench.desk.chosen == (0, 1)
    start = bench.trays.places.thumb(1).center()
    bench.drag(bench.trays, start, start + QPointF(90, 0), bench.trays.places.thumb(3).center() + QPointF(80, 0))
    assert kinds(bench) == ["levels", "gradient-map", "exposure", "gray-weights"]
    assert bench.desk.chosen == (2, 3)
    bench.key(Qt.Key.Key_Left, SHIFT)
    assert kinds(bench) == ["levels", "exposure", "gray-weights", "gradient-map"]
    bench.key(Qt.Key.Key_D)
    assert kinds(bench) == ["levels", "exposure", "gray-weights", "exposure", "gray-weights", "gradient-map"]
    press(bench, 1)
    assert bench.desk.chosen == (1,)
    bench.key(Qt.Key.Key_A, CTRL)
    assert len(bench.desk.chosen) == 6


def test_holding_p_leaves_out_all_that_are_chosen(four: Bench):
    bench = four
    press(bench, 1)
    press(bench, 3, CTRL)
    QTest.keyPress(bench.easel, Qt.Key.Key_P)
    colours = bench.shown()
    QTest.keyRelease(bench.easel, Qt.Key.Key_P)
    assert len(set(colours)) == 3  # neither gray nor toned: the photograph's own colours


def test_letting_go_of_one_of_several_leaves_the_others(four: Bench):
    bench = four
    press(bench, 0)
    press(bench, 1, CTRL)
    press(bench, 2, CTRL)
    press(bench, 1, CTRL)
    assert bench.desk.chosen == (0, 2)
    press(bench, 0, CTRL)
    assert bench.desk.chosen == (2,)
    press(bench, 2, CTRL)
    assert bench.desk.chosen == (2,)  # one always stays
    start = bench.trays.places.thumb(2).center()
    bench.click(bench.trays, start)
    assert bench.desk.chosen == (2,)


def test_a_pass_has_a_name_and_a_note(four: Bench):
    bench = four
    press(bench, 2)
    bench.key(Qt.Key.Key_F2)
    sheet = bench.passes.naming
    QTest.keyClicks(sheet.lines[0], "Open the shadows")
    sheet.lines[1].setFocus()
    QTest.keyClicks(sheet.lines[1], "before the toning, never after")
    QTest.keyClick(sheet.lines[1], Qt.Key.Key_Return)
    step = bench.desk.selected_pass
    assert (step.name, step.note) == ("Open the shadows", "before the toning, never after")
    assert bench.trays.name_of(2) == "Open the shadows"
    assert bench.slip.page.widget.isVisible()
    texts = [label.text() for label in bench.slip.page.widget.findChildren(QLabel)]
    assert any("before the toning" in text for text in texts)
    assert any(text.startswith("Levels:") for text in texts)
    bench.double(bench.trays, bench.trays.places.name_box(2).center())
    sheet = bench.passes.naming
    assert sheet.lines[0].text() == "Open the shadows"
    sheet.lines[0].clear()
    QTest.keyClick(sheet.lines[0], Qt.Key.Key_Return)
    assert bench.desk.selected_pass.title == "Levels"
    saved = loads('{"kyanoscript": 1, "passes": [{"pass": "levels", "name": "x", "note": "y"}]}')
    assert saved.passes[0].title == "x"


@pytest.fixture
def plate(bench: Bench):
    bench.add("gray-weights", "plate")
    bench.desk.set_values("Plate", source="photo", blend="multiply")
    bench.settle()
    return bench


def test_a_plate_opens_a_second_row_and_has_a_run_of_its_own(plate: Bench):
    bench = plate
    second = bench.window.bench.run.second
    assert second.isVisible()
    bench.click(second, second.places.end().center())
    QTest.keyClicks(bench.window.bench.passes.choosers.present.search, "threshold")
    QTest.keyClick(bench.window.bench.passes.choosers.present.search, Qt.Key.Key_Return)
    bench.settle()
    assert [step.kind for step in bench.desk.script.passes[1].run] == ["threshold"]
    assert (bench.desk.path, bench.desk.selected) == ((1,), 0)
    assert bench.slip.sliders["level"].isVisible()
    bench.type("level", "200")
    assert bench.desk.script.passes[1].run[0].level == 200
    assert len(second.images) == 2
    bench.add("negative")
    assert [step.kind for step in bench.desk.script.passes[1].run] == ["threshold", "negative"]
    bench.key(Qt.Key.Key_Left, SHIFT)
    assert [step.kind for step in bench.desk.script.passes[1].run] == ["negative", "threshold"]
    bench.key(Qt.Key.Key_Delete)
    assert [step.kind for step in bench.desk.script.passes[1].run] == ["threshold"]
    bench.window.desk.undo()
    bench.window.desk.undo()
    assert (bench.desk.path, bench.desk.selected) == ((1,), 1)
    bench.key(Qt.Key.Key_Left)
    bench.key(Qt.Key.Key_Left)  # before the first pass lies the plate itself
    assert (bench.desk.path, bench.desk.selected) == ((), 1)
    bench.key(Qt.Key.Key_Return)
    assert (bench.desk.path, bench.desk.selected) == ((1,), 0)
    bench.key(Qt.Key.Key_Return)
    assert bench.desk.path == ()
    bench.desk.select(0)
    assert not second.isVisible()


def test_what_enters_a_pass_of_a_plate_is_what_the_slip_and_ladder_show(plate: Bench):
    bench = plate
    bench.add_to((1,), "gray-weights", "levels")
    bench.settle()
    script, index = bench.desk.entering()
    assert [step.kind for step in script.passes] == ["gray-weights", "levels"]  # on the photograph
    assert index == 1
    survey = bench.slip.survey
    assert survey.wanted.looked_at == (script, 1)
    assert len(survey.within) == 3
    place = bench.on_print(0.3, 0.3)
    bench.move(bench.easel, place)
    bench.settle()
    assert len(bench.window.bench.run.second.spot.row) == 2
    assert len(bench.window.bench.run.trays.spot.trace) == 2


def test_a_plate_within_a_plate(plate: Bench):
    bench = plate
    bench.add_to((1,), "plate")
    bench.add_to((1, 0), "negative", "levels")
    bench.settle()
    assert bench.desk.path == (1, 0)
    inner = bench.desk.script.passes[1].run[0].run
    assert [step.kind for step in inner] == ["negative", "levels"]
    bench.slide("strength", 40)
    assert bench.desk.script.passes[1].run[0].run[1].strength == pytest.approx(40, abs=2)
    second = bench.window.bench.run.second
    bench.click(second, second.places.thumb(-1).center())  # its first tray leads back to the plate
    assert (bench.desk.path, bench.desk.selected) == ((1,), 0)
    bench.window.desk.undo()
    bench.window.desk.undo()
    assert [step.kind for step in bench.desk.script.passes[1].run[0].run] == ["negative"]
    bench.desk.select(1, ())
    bench.key(Qt.Key.Key_Delete)
    assert kinds(bench) == ["gray-weights"]


def test_a_placed_picture_is_moved_scaled_and_turned_on_the_easel(bench: Bench, photo):
    from PIL import Image

    Image.new("RGBA", (80, 40), (200, 30, 30, 255)).save(photo.parent / "stamp.png")
    bench.add("plate")
    bench.desk.set_values("Plate", source="picture", picture="stamp.png", size=30.0)
    bench.settle()
    assert bench.easel.aspect == 2
    tool = bench.easel.placed
    assert tool.active
    assert bench.print_at(0.5, 0.5)[0] == 200
    bench.drag(bench.easel, bench.on_print(0.5, 0.5), bench.on_print(0.4, 0.45), bench.on_print(0.3, 0.3))
    step = bench.desk.selected_pass
    assert (step.x, step.y) == pytest.approx((30, 30), abs=0.5)
    bench.settle()
    corner = tool.hold.handles(step, 2.0)["corner 2"]
    middle = tool.hold.handles(step, 2.0)["middle"]
    bench.drag(bench.easel, corner, middle + (corner - middle) * 1.5)
    assert bench.desk.selected_pass.size == pytest.approx(45, abs=0.6)
    turn = tool.hold.handles(bench.desk.selected_pass, 2.0)["turn"]
    bench.drag(bench.easel, turn, middle + QPointF(120, 0))
    assert bench.desk.selected_pass.turn == pytest.approx(90, abs=1)
    assert bench.desk.entries[-1] == "Plate: place"


def test_a_plates_slip_shows_only_what_its_source_needs(bench: Bench):
    bench.add("plate")
    slip = bench.slip
    assert not slip.sliders["size"].isVisible()
    box = slip.editors["source"]
    box.setCurrentIndex(box.findData("flat"))
    assert slip.editors["tone"].isVisible()
    assert not slip.editors["picture"].isVisible()
    box.setCurrentIndex(box.findData("picture"))
    assert not slip.editors["tone"].isVisible()
    assert slip.sliders["size"].isVisible()
