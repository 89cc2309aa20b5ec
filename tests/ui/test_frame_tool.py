"""The frame on the easel, as a person drags it."""

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.frame import Frame
from kyanoscript.ui.document.desk import FRAME, PHOTO
from tests.ui.conftest import Bench


@pytest.fixture
def framing(bench: Bench):
    bench.add("gray-weights")
    bench.desk.select(FRAME)
    bench.settle()
    return bench


def test_a_corner_is_dragged_in_and_the_ratio_holds(framing: Bench):
    tool = framing.easel.frame_tool
    corners = tool.corners()
    framing.drag(framing.easel, corners[2], corners[2] - QPointF(60, 40), corners[2] - QPointF(200, 133))
    width, height = framing.desk.print_size()
    assert width < 360
    assert width / height == pytest.approx(1.5, abs=0.02)
    kept = tool.corners()[0]
    assert (kept - corners[0]).manhattanLength() < 3  # what lies opposite stays
    assert framing.desk.entries[-1] == "Size of the frame"


def test_a_free_frame_has_sides_and_is_moved_from_inside(framing: Bench):
    framing.desk.set_values("Ratio", ratio="free")
    tool = framing.easel.frame_tool
    corners = tool.corners()
    right = (corners[1] + corners[2]) / 2
    framing.drag(framing.easel, right, right - QPointF(150, 0))
    width, height = framing.desk.print_size()
    assert height == 240
    assert width < 330
    x = framing.desk.script.frame.x
    middle = (tool.corners()[0] + tool.corners()[2]) / 2
    framing.drag(framing.easel, middle, middle + QPointF(60, 0))
    assert framing.desk.script.frame.x > x
    assert framing.desk.print_size() == (width, height)
    assert framing.desk.entries[-1] == "Move the frame"


def test_dragging_outside_tilts_and_the_frame_stays_covered(framing: Bench):
    framing.desk.set_values("Size", width=50.0, height=50.0)
    at = framing.easel.from_picture(QPointF(0.95, 0.5))
    framing.drag(framing.easel, at, at + QPointF(0, 30), at + QPointF(0, 60))
    frame = framing.desk.script.frame
    assert 5 < frame.tilt < 25
    framing.desk.set_values("Size", width=100.0, height=100.0)
    place = framing.easel.place()
    for corner in framing.easel.frame_tool.corners():
        assert place.adjusted(-1, -1, 1, 1).contains(corner * framing.easel.devicePixelRatioF())


def test_a_line_along_the_horizon_sets_it_level(framing: Bench):
    easel = framing.easel
    start, end = easel.from_picture(QPointF(0.2, 0.5)), easel.from_picture(QPointF(0.8, 0.55))
    QTest.mousePress(easel, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, start.toPoint())
    QTest.mouseMove(easel, end.toPoint())
    QTest.mouseRelease(easel, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, end.toPoint())
    assert framing.desk.script.frame.tilt == pytest.approx(3.18, abs=0.3)  # atan(0.05 · 240 / (0.6 · 360))


def test_escape_gives_a_drag_up(framing: Bench):
    corners = framing.easel.frame_tool.corners()
    framing.press(framing.easel, corners[2])
    framing.move(framing.easel, corners[2] - QPointF(100, 60))
    assert framing.desk.script.frame != Frame()
    QTest.keyClick(framing.easel, Qt.Key.Key_Escape)
    framing.release(framing.easel, corners[2] - QPointF(100, 60))
    assert framing.desk.script.frame == Frame()


def test_quarter_turns_guides_and_putting_back(framing: Bench):
    framing.key(Qt.Key.Key_BracketRight)
    assert framing.desk.print_size() == (240, 360)
    framing.key(Qt.Key.Key_BracketLeft)
    assert framing.desk.print_size() == (360, 240)
    framing.key(Qt.Key.Key_G)
    assert "diagonals" in framing.said()
    framing.desk.set_values("Tilt", tilt=5.0)
    framing.desk.set_values("Put the frame back", **dict(Frame()))
    assert framing.desk.script.frame == Frame()


def test_the_trays_show_the_framed_print_and_the_photo_its_own(framing: Bench):
    framing.slip.editors["ratio"].setCurrentIndex(framing.slip.editors["ratio"].findData("1:1"))
    framing.settle()
    trays = framing.trays
    assert trays.photo.width() > trays.photo.height()
    assert trays.images[0].width() == trays.images[0].height()
    framing.key(Qt.Key.Key_Left, on=framing.trays)
    assert framing.desk.selected == PHOTO
    framing.settle()
    place = framing.easel.place()
    assert place.width() == pytest.approx(place.height(), abs=1)
