"""Stencils drawn on the easel, as a printmaker would."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QInputDevice, QPointingDevice, QTabletEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from kyanoscript.core.stencil.shapes import Hues, Outline, Oval, Ramp, Stencil, Stroke, Tones
from kyanoscript.ui.commands import list as commands
from tests.ui.conftest import Bench

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


@pytest.fixture
def negative(bench: Bench):
    """A pass that one sees at once, and its stencil being worked on."""
    bench.add("negative")
    bench.key(Qt.Key.Key_M)
    assert bench.easel.stencil.active
    return bench


def shapes(bench):
    return bench.desk.stencil.shapes if bench.desk.stencil else ()


def test_painting_limits_the_pass_to_where_the_brush_went(negative: Bench):
    bench = negative
    untouched = bench.print_at(0.9, 0.9)
    bench.easel.stencil.set_brush(size=100.0, flow=100.0, hardness=80.0)
    bench.draw((0.2, 0.5), (0.5, 0.5))
    assert len(shapes(bench)) == 1
    assert bench.desk.entries[-1] == "Brush"
    assert bench.mask(0.35, 0.5) > 0.95
    assert bench.mask(0.35, 0.9) == 0
    assert bench.print_at(0.9, 0.9) != untouched
    bench.window.desk.undo()
    assert bench.desk.stencil is None
    assert bench.print_at(0.9, 0.9) == untouched


def test_the_eraser_and_ctrl_wipe_and_wiping_everywhere_first_means_everywhere_else(negative: Bench):
    bench = negative
    bench.easel.stencil.set_brush(size=100.0, flow=100.0, hardness=80.0)
    bench.hand("eraser")
    bench.draw((0.3, 0.5), (0.6, 0.5))
    assert bench.mask(0.45, 0.5) < 0.05
    assert bench.mask(0.45, 0.95) == 1
    bench.draw((0.3, 0.5), (0.6, 0.5), modifier=CTRL)  # the eraser the other way round
    assert bench.mask(0.45, 0.5) > 0.95
    assert [s.join for s in shapes(bench)] == ["take-away", "add"]


def test_opacity_and_flow_of_the_brush_are_those_on_the_slip(negative: Bench):
    bench = negative
    bench.type("opacity", "10")
    bench.type("flow", "100")
    bench.type("hardness", "100")
    bench.draw((0.2, 0.5), (0.8, 0.5))
    bench.draw((0.8, 0.5), (0.2, 0.5))
    assert bench.mask(0.5, 0.5) == pytest.approx(1 - 0.9**2, abs=0.01)  # stroke upon stroke
    assert len(bench.desk.entries) == 4  # opened, added, two strokes: the brush itself is nobody's document


def test_comma_and_stop_change_the_brush(negative: Bench):
    bench = negative
    size = bench.easel.stencil.brush.size
    bench.key(Qt.Key.Key_Comma)
    assert bench.easel.stencil.brush.size == pytest.approx(size / 1.15, abs=0.01)
    bench.key(Qt.Key.Key_Period)
    assert bench.easel.stencil.brush.size == pytest.approx(size, abs=0.02)
    assert bench.slip.sliders["size"].value == bench.easel.stencil.brush.size


def test_escape_gives_a_stroke_up(negative: Bench):
    bench = negative
    bench.press(bench.easel, bench.on_print(0.2, 0.2))
    bench.move(bench.easel, bench.on_print(0.5, 0.2))
    assert shapes(bench)
    bench.key(Qt.Key.Key_Escape)
    bench.release(bench.easel, bench.on_print(0.5, 0.2))
    assert bench.desk.stencil is None


def test_a_pen_presses_as_softly_as_the_hand(negative: Bench):
    bench = negative
    bench.easel.stencil.set_brush(size=100.0, flow=100.0, hardness=100.0)
    pen = QPointingDevice(
        "pen", 7, QInputDevice.DeviceType.Stylus, QPointingDevice.PointerType.Pen,
        QInputDevice.Capability.Pressure | QInputDevice.Capability.Position, 1, 1,
    )  # fmt: skip

    def send(kind, at, pressure):
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.TabletMove else Qt.MouseButton.LeftButton
        place = bench.easel.mapToGlobal(at)
        event = QTabletEvent(kind, pen, at, QPointF(place), pressure, 0, 0, 0, 0, 0, Qt.KeyboardModifier.NoModifier,
                             button, Qt.MouseButton.LeftButton)  # fmt: skip
        QApplication.sendEvent(bench.easel, event)

    send(QEvent.Type.TabletPress, bench.on_print(0.2, 0.5), 0.25)
    for k in range(1, 30):
        send(QEvent.Type.TabletMove, bench.on_print(0.2 + k / 50, 0.5), 0.25)
    send(QEvent.Type.TabletRelease, bench.on_print(0.78, 0.5), 0)
    bench.settle()
    stroke = shapes(bench)[0]
    assert {dot[2] for dot in stroke.points} == {0.25}
    light = bench.mask(0.5, 0.5)
    assert 0.1 < light < 0.9
    bench.draw((0.2, 0.9), (0.8, 0.9))  # the mouse presses fully
    assert len(shapes(bench)[1].points[0]) == 2


def test_an_oval_is_laid_moved_turned_and_made_to_act_outside(negative: Bench):
    """An outside-oval darkening needs an oval, and the word Outside."""
    bench = negative
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.7, 0.8))
    oval = shapes(bench)[0]
    assert isinstance(oval, Oval)
    assert (oval.x, oval.y) == pytest.approx((50, 50), abs=0.5)
    assert oval.width == pytest.approx(400, abs=8)
    assert bench.mask(0.5, 0.5) == 1
    handles = bench.easel.stencil.hold.handles(oval)
    bench.drag(bench.easel, handles["right"], handles["right"] + QPointF(60, 0))
    assert shapes(bench)[0].width > oval.width
    assert shapes(bench)[0].height == oval.height
    bench.slip.editors["inverted"].click()
    assert bench.mask(0.5, 0.5) == 0
    assert bench.mask(0.02, 0.02) == 1
    bench.drag(bench.easel, handles["turn"], handles["turn"] + QPointF(200, 100))
    assert shapes(bench)[0].turn > 20


def test_a_middle_springs_to_the_prints_middle_and_alt_keeps_it_from_it(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.3, 0.3), (0.4, 0.4))
    middle, centre = bench.on_print(0.3, 0.3), bench.on_print(0.5, 0.5)
    bench.drag(bench.easel, middle, centre + QPointF(4, 40))
    oval = shapes(bench)[0]
    assert oval.x == pytest.approx(50, abs=0.15)
    assert oval.y > 52
    start = bench.easel.stencil.hold.handles(oval)["middle"]
    bench.press(bench.easel, start, Qt.KeyboardModifier.AltModifier)
    event_at = centre + QPointF(4, 0)
    QTest.mouseMove(bench.easel, event_at.toPoint())
    bench.easel.stencil.move(event_at, Qt.KeyboardModifier.AltModifier)
    bench.release(bench.easel, event_at)
    assert shapes(bench)[0].x != pytest.approx(50, abs=0.15)


def test_handles_beyond_the_picture_are_reached_on_the_mat(negative: Bench):
    bench = negative
    for _ in range(4):
        bench.window.registry.do(commands.FARTHER)
    bench.hand("ramp")
    outside = bench.on_print(0.5, -0.3)
    assert bench.easel.rect().contains(outside.toPoint())
    bench.drag(bench.easel, bench.on_print(0.5, 0.5), bench.on_print(0.5, 0.1), outside)
    ramp = shapes(bench)[0]
    assert isinstance(ramp, Ramp)
    assert ramp.y2 == pytest.approx(-30, abs=1)
    bench.drag(bench.easel, outside, outside + QPointF(0, -20))
    assert shapes(bench)[0].y2 < ramp.y2


def test_an_outline_is_drawn_in_one_go_or_corner_by_corner(negative: Bench):
    bench = negative
    bench.hand("outline")
    bench.draw((0.2, 0.2), (0.5, 0.2), (0.5, 0.6), (0.2, 0.6), (0.2, 0.22))
    assert isinstance(shapes(bench)[0], Outline)
    assert bench.mask(0.35, 0.4) == 1
    assert bench.mask(0.7, 0.4) == 0
    for place in ((0.6, 0.6), (0.9, 0.6), (0.9, 0.9)):
        bench.click(bench.easel, bench.on_print(*place))
    assert len(shapes(bench)) == 1  # not closed yet
    bench.key(Qt.Key.Key_Return)
    assert len(shapes(bench)[1].points) == 3
    assert bench.mask(0.85, 0.65) == 1
    for place in ((0.6, 0.1), (0.7, 0.1), (0.7, 0.2)):
        bench.click(bench.easel, bench.on_print(*place))
    bench.click(bench.easel, bench.on_print(0.6, 0.1))  # on the first corner again
    assert len(shapes(bench)) == 3
    corner = bench.easel.stencil.hold.handles(shapes(bench)[2])["1"]
    bench.drag(bench.easel, corner, corner + QPointF(30, 0))
    assert shapes(bench)[2].points[1][0] > 70


def test_tones_and_hues_are_found_by_pressing_and_widened_by_dragging(bench: Bench, tmp_path):
    inks = np.full((200, 300, 3), (200, 60, 50), np.uint8)
    inks[:, 150:] = (60, 90, 190)
    inks[150:] = (120, 120, 120)
    file = tmp_path / "inks.png"
    Image.fromarray(inks).save(file)
    bench.open(file)
    bench.add("negative")
    bench.key(Qt.Key.Key_M)
    bench.hand("hues")
    bench.draw((0.2, 0.3), (0.21, 0.3))
    hues = shapes(bench)[0]
    assert isinstance(hues, Hues)
    assert bench.mask(0.2, 0.3) > 0.9
    assert bench.mask(0.8, 0.3) == 0
    bench.window.desk.undo()
    bench.draw((0.2, 0.3), (0.9, 0.3))
    assert shapes(bench)[0].width > hues.width + 50
    bench.window.desk.undo()
    bench.draw((0.3, 0.9), (0.31, 0.9))
    assert shapes(bench) == ()
    assert "no hue" in bench.said()
    bench.hand("tones")
    bench.draw((0.3, 0.9), (0.31, 0.9))
    tones = shapes(bench)[0]
    assert isinstance(tones, Tones)
    assert tones.low < 120 < tones.high
    assert bench.mask(0.3, 0.9) == 1


def test_parts_join_as_asked_and_are_chosen_and_removed_on_the_slip(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.4, 0.5), (0.6, 0.8))
    bench.key(Qt.Key.Key_Escape)  # lets go of the oval
    box = bench.slip.editors["next join"]
    box.setCurrentIndex(box.findData("intersect"))
    bench.hand("ramp")
    bench.draw((0.3, 0.5), (0.6, 0.5))
    assert shapes(bench)[1].join == "intersect"
    assert bench.mask(0.25, 0.5) == 0
    assert bench.mask(0.52, 0.5) > 0.5
    rows = bench.slip.page.list
    assert [words for _, _, words in rows.rows] == ["Oval", "Ramp"]
    bench.click(rows, QPointF(60, 10))
    assert bench.easel.stencil.chosen == 0
    bench.type("soft", "0")
    assert shapes(bench)[0].soft == 0
    rows = bench.slip.page.list
    bench.click(rows, rows.cross(1).center())
    assert len(shapes(bench)) == 1
    bench.easel.stencil.choose(0)
    bench.key(Qt.Key.Key_Delete)  # takes the part, not the pass
    assert bench.desk.stencil is None
    assert len(bench.desk.script.passes) == 1


def test_grow_feather_invert_and_strength_belong_to_the_whole(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.6, 0.6))
    bench.slip.editors["invert"].click()
    assert bench.mask(0.5, 0.5) == 0
    bench.type("strength", "50")
    assert bench.mask(0.5, 0.5) == pytest.approx(0.5)
    bench.type("feather", "20")
    assert bench.desk.stencil.feather == pytest.approx(20 * 1000 / 360)


def test_it_is_shown_as_tint_as_black_and_white_or_not(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.6, 0.7))
    bench.easel.inset = False
    tint = bench.shown()
    bench.key(Qt.Key.Key_M, SHIFT)
    bench.easel.stencil.choose(-1)
    image = bench.easel
    bench.settle()
    grabbed = image.grab().toImage()
    inside = grabbed.pixelColor((bench.on_print(0.5, 0.5) + QPointF(14, 0)).toPoint()).getRgb()[:3]
    outside = grabbed.pixelColor(bench.on_print(0.05, 0.05).toPoint()).getRgb()[:3]
    assert inside == (255, 255, 255)
    assert outside == (0, 0, 0)
    bench.key(Qt.Key.Key_M, SHIFT)
    plain = bench.shown()
    assert plain != tint
    bench.key(Qt.Key.Key_M)
    assert not bench.easel.stencil.active
    assert bench.slip.editors["draw"].isVisible()


def test_v_hides_everything_over_the_print(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.7, 0.7))
    bench.settle()
    with_marks = bench.easel.grab().toImage()
    bench.key(Qt.Key.Key_V)
    bench.settle()
    bare = bench.easel.grab().toImage()
    assert bare != with_marks
    middle = bench.on_print(0.5, 0.5).toPoint()
    levels = bench.print_at(0.5, 0.5)
    assert bare.pixelColor(middle).getRgb()[:3] == pytest.approx(tuple(levels), abs=8)
    count = len(shapes(bench))
    bench.draw((0.1, 0.1), (0.2, 0.2))  # nothing can be drawn blindly
    assert len(shapes(bench)) == count
    bench.key(Qt.Key.Key_V)
    bench.settle()
    assert bench.easel.grab().toImage() == with_marks


def test_a_stencil_is_copied_to_another_pass(negative: Bench):
    bench = negative
    bench.hand("oval")
    bench.draw((0.5, 0.5), (0.6, 0.6))
    stencil = bench.desk.stencil
    bench.key(Qt.Key.Key_C, CTRL | SHIFT)
    assert '"kyanoscript"' in QGuiApplication.clipboard().text()
    bench.key(Qt.Key.Key_M)
    bench.add("levels", "threshold")
    bench.desk.select(1)
    bench.key(Qt.Key.Key_V, CTRL | SHIFT)
    assert bench.desk.script.passes[1].stencil == stencil
    notch = bench.trays.places.notch(1).center()
    bench.drag(bench.trays, notch, notch + QPointF(70, 0), bench.trays.places.thumb(2).center())
    assert bench.desk.script.passes[2].stencil == stencil
    assert bench.desk.entries[-1] == "Copy the stencil to Threshold"
    bench.click(bench.trays, bench.trays.places.notch(2).center())
    assert bench.easel.stencil.active
    QGuiApplication.clipboard().setText("not a stencil")
    bench.key(Qt.Key.Key_V, CTRL | SHIFT)
    assert bench.said().startswith("Nothing to paste")


def test_a_shared_stencil_changes_for_all_until_it_is_made_ones_own(bench: Bench):
    from dataclasses import replace

    bench.add("negative", "levels")
    oval = Stencil(shapes=(Oval(width=100, height=100),))
    script = bench.desk.script
    named = tuple(type(p)(**{**dict(p), "stencil": "sky"}) for p in script.passes)
    bench.desk.change("Share", replace(script, passes=named, stencils=(("sky", oval),)))
    bench.key(Qt.Key.Key_M)
    bench.draw((0.1, 0.1), (0.3, 0.1))
    assert len(dict(bench.desk.script.stencils)["sky"].shapes) == 2
    assert {p.stencil for p in bench.desk.script.passes} == {"sky"}
    next(b for b in bench.slip.page.widget.findChildren(type(bench.slip.editors["copy"]))
         if b.text() == "Make it its own").click()  # fmt: skip
    bench.draw((0.1, 0.5), (0.3, 0.5))
    assert len(dict(bench.desk.script.stencils)["sky"].shapes) == 2
    assert len(bench.desk.stencil.shapes) == 3


def test_strokes_stay_on_the_picture_when_the_frame_changes(negative: Bench):
    bench = negative
    bench.easel.stencil.set_brush(size=60.0, flow=100.0, hardness=100.0)
    bench.draw((0.25, 0.5), (0.26, 0.5))
    bench.desk.set_values_at(-1, "Turn", turns=1)
    bench.settle()
    assert bench.mask(0.5, 0.25) == 1  # a quarter turn to the right takes the left to the top
    bench.draw((0.5, 0.75), (0.51, 0.75))
    stroke = shapes(bench)[-1]
    assert isinstance(stroke, Stroke)
    assert stroke.points[0][:2] == pytest.approx((75, 50), abs=1)


def test_dodge_and_burn_is_drawn_and_ctrl_burns(bench: Bench):
    bench.add("gray-weights", "dodge-burn")
    before = bench.print_at(0.5, 0.5)[0]
    bench.type("size", "80")
    bench.draw((0.4, 0.5), (0.6, 0.5))
    assert len(bench.desk.selected_pass.strokes) == 1
    assert bench.print_at(0.5, 0.5)[0] > before
    bench.draw((0.4, 0.5), (0.6, 0.5), modifier=CTRL)
    assert bench.desk.selected_pass.strokes[1].exposure == -bench.desk.selected_pass.strokes[0].exposure
    assert bench.print_at(0.5, 0.5)[0] == pytest.approx(before, abs=2)
    assert bench.desk.entries[-1] == "Dodge and burn: stroke"
    bench.key(Qt.Key.Key_Period)
    assert bench.easel.strokes.brush.size == pytest.approx(80 * 1000 / 360 * 1.15, rel=0.01)
    bench.slip.editors["strokes"].click()
    assert bench.desk.selected_pass.strokes == ()
