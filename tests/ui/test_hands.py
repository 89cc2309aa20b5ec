"""Small things that hands get used to: sums, copying passes, stepping through blend modes, the whole screen."""

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QKeyEvent, QWheelEvent
from PySide6.QtWidgets import QApplication

from kyanoscript import demo
from kyanoscript.core.blend import MODES
from kyanoscript.core.params import Number
from kyanoscript.ui.widgets.slider import read_number
from tests.ui.conftest import Bench

PERCENT = Number(label="Red", unit="%", low=-200, high=300)


@pytest.mark.parametrize(
    ("typed", "value"),
    [
        ("55", 55),
        ("−35 %", -35),
        ("12,5", 12.5),
        ("55+10", 65),
        ("120/4 %", 30),
        ("2×(3-1)", 4),
        ("1/0", None),
        ("lots", None),
        ("2**9", None),
        ("__import__('os')", None),
        ("[1]", None),
        ("9" * 80, None),
        ("", None),
    ],
)
def test_numbers_and_simple_sums_are_read_and_nothing_else(typed, value):
    assert read_number(typed, PERCENT) == value


def test_a_sum_is_typed_on_the_slip(bench: Bench):
    bench.add("gray-weights")
    bench.type("red", "29.9+10")
    assert bench.desk.selected_pass.red == pytest.approx(39.9)


def test_a_pass_is_copied_as_text_and_pasted_where_one_stands(bench: Bench):
    bench.add("levels", "gradient-map")
    bench.desk.select(0)
    bench.type("gamma", "1.6")
    bench.key(Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert '"pass": "levels"' in QGuiApplication.clipboard().text()
    bench.desk.select(1)
    bench.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert [p.kind for p in bench.desk.script.passes] == ["levels", "gradient-map", "levels"]
    assert bench.desk.script.passes[2].gamma == 1.6
    assert bench.desk.entries[-1] == "Paste Levels"
    QGuiApplication.clipboard().setText("half a sentence")
    bench.key(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    assert "Nothing to paste" in bench.said()
    assert len(bench.desk.script.passes) == 3


def test_blend_modes_are_stepped_through_while_watching(bench: Bench):
    bench.add("gradient-map")
    entries = len(bench.desk.entries)
    for mode in MODES[1:4]:
        bench.key(Qt.Key.Key_N)
        assert bench.desk.selected_pass.blend == mode
    bench.key(Qt.Key.Key_N, Qt.KeyboardModifier.ShiftModifier)
    assert bench.desk.selected_pass.blend == MODES[2]
    assert len(bench.desk.entries) == entries + 1  # one entry, as it was one stepping through
    assert "screen" in bench.said()


def test_the_print_on_the_whole_screen_and_back(bench: Bench):
    bench.key(Qt.Key.Key_F11)
    assert bench.window.isFullScreen()
    assert not bench.slip.isVisible()
    bench.key(Qt.Key.Key_F11)
    assert not bench.window.isFullScreen()
    assert bench.slip.isVisible()


def test_the_first_start_has_the_demo_print_and_a_word_of_what_to_try(bare: Bench):
    bare.window.open_demo()
    bare.settle()
    assert bare.desk.photo.path == demo.photo()
    assert bare.desk.script.passes
    assert "Hold O" in bare.said()


def test_values_taken_from_the_picture_are_shown_and_become_ones_own(bench: Bench):
    bench.add("gray-weights")
    bench.start("automatic: neighbouring colours apart")
    bench.settle()
    taken = bench.desk.taken
    assert sum(taken.values()) == pytest.approx(100)
    assert bench.slip.sliders["green"].value == taken["green"]
    bench.type("red", "45")
    step = bench.desk.selected_pass
    assert (step.auto, step.red) == (False, 45)
    assert (step.green, step.blue) == (taken["green"], taken["blue"])
    bench.add("levels")
    bench.desk.set_values("Ends", auto=True)
    bench.settle()
    assert set(bench.desk.taken) == {"in_black", "in_white"}


def test_what_one_pass_takes_from_the_picture_never_gets_into_another(bench: Bench):
    bench.add("gray-weights", "levels")
    bench.desk.set_values("Ends", auto=True)
    bench.desk.select(0)
    bench.desk.set_values("Shares", auto=True)
    bench.settle()
    assert "red" in bench.desk.taken
    bench.desk.select(1)
    bench.desk.set_values("In black", in_black=20.0)  # before anything has been worked out for it
    assert (bench.desk.selected_pass.auto, bench.desk.selected_pass.in_black) == (False, 20)


def test_a_print_is_not_written_without_its_plates_picture(bench: Bench, tmp_path):
    from kyanoscript.files.prints.settings import Settings

    bench.add("plate")
    bench.desk.set_values("Picture", source="picture", picture="gone.png")
    bench.window.printing.export(tmp_path / "a.tif", Settings())
    bench.settle()
    assert "gone.png: there is no such file" in bench.said()
    assert not (tmp_path / "a.tif").exists()


def test_the_middle_of_a_lengths_slider_is_near_the_geometric_middle_and_keys_and_typing_are_as_ever(bench: Bench):
    """A radius of 0…300 ‰ by steps of 0.1: half the way is 5.5, not 150."""
    bench.add("soften")
    slider = bench.slip.sliders["radius"]
    left, right, y = slider.track()
    bench.drag(slider, QPointF(slider.handle_x(), y), QPointF((left + right) / 2, y))
    middle = (slider.spec.step * slider.spec.high) ** 0.5
    assert slider.value == pytest.approx(middle, rel=0.06)
    assert slider.handle_x() == pytest.approx((left + right) / 2, abs=1)
    bench.type("radius", "100 ‰")
    assert bench.desk.selected_pass.radius == 100
    slider.setFocus()
    bench.key(Qt.Key.Key_Right, on=slider)
    assert slider.value == pytest.approx(100 + slider.spec.step)
    bench.key(Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier, on=slider)
    assert slider.value == pytest.approx(100 - 9 * slider.spec.step)
    turn(slider, 1)
    assert slider.value == pytest.approx(100 - 8 * slider.spec.step)


def turn(widget, notches):
    """The mouse's wheel over a control."""
    at = QPointF(widget.width() / 2, widget.height() / 2)
    none, still = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
    event = QWheelEvent(
        at,
        widget.mapToGlobal(at),
        QPoint(),
        QPoint(0, 120 * notches),
        none,
        Qt.KeyboardModifier.NoModifier,
        still,
        False,
    )
    QGuiApplication.sendEvent(widget, event)


def test_with_cyrillic_letters_alone_keys_are_found_by_their_place(bench: Bench):
    """A keyboard that has no Latin letter: the key of A gives Ф."""
    bench.add("levels")

    def cyrillic(kind, letter, place, modifiers=Qt.KeyboardModifier.NoModifier):
        event = QKeyEvent(kind, ord(letter), modifiers, place, 0, 0, letter.lower())
        QApplication.sendEvent(bench.easel, event)

    press, release = QKeyEvent.Type.KeyPress, QKeyEvent.Type.KeyRelease
    cyrillic(press, "Ч", 53)  # where X is
    assert bench.desk.selected_pass.on is False
    cyrillic(press, "Я", 52, Qt.KeyboardModifier.ControlModifier)  # where Z is
    assert bench.desk.selected_pass.on is True
    cyrillic(press, "Щ", 32)  # where O is: held
    assert bench.easel.held is not None
    cyrillic(release, "Щ", 32)
    assert bench.easel.held is None
    cyrillic(press, "Ж", 47)  # where no letter is that means anything
    assert bench.desk.selected_pass.on is True
