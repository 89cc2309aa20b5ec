"""Touch: pressing on the picture instead of guessing the hue or the tone."""

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core import colour
from tests.ui.conftest import Bench


@pytest.fixture
def inks(bare: Bench, tmp_path):
    """Red beside blue beside gray."""
    pixels = np.zeros((120, 360, 3), np.uint8)
    pixels[:, :120], pixels[:, 120:240], pixels[:, 240:] = (190, 70, 60), (60, 90, 180), (120, 120, 120)
    file = tmp_path / "inks.png"
    Image.fromarray(pixels).save(file)
    bare.open(file)
    return bare


def touch(bench, x, *ups):
    """Press at a share of the width, wait for what is found, drag up by pixels, let go."""
    at = bench.easel.from_picture(QPointF(x, 0.5))
    bench.press(bench.easel, at)
    bench.settle()
    for up in ups:
        bench.move(bench.easel, at - QPointF(0, up))
    bench.release(bench.easel, at - QPointF(0, ups[-1]))
    bench.settle()


def hue_of(rgb):
    return float(colour.to_oklch(np.array(rgb).reshape(3, 1) / 255, colour.SRGB)[2, 0])


def test_pressing_on_skin_and_dragging_up_lifts_its_hue_on_the_ring(inks: Bench):
    inks.add("gray-weights")
    inks.key(Qt.Key.Key_T)
    touch(inks, 0.15, 20, 60)
    ((hue, lift),) = inks.desk.selected_pass.ring
    assert hue == pytest.approx(hue_of((190, 70, 60)), abs=1)
    assert lift == pytest.approx(30, abs=1)
    assert inks.desk.entries[-1] == "Touch: gray weights"
    touch(inks, 0.5, -40)  # the sky beside it, down
    assert len(inks.desk.selected_pass.ring) == 2
    assert inks.desk.selected_pass.ring[1][1] == pytest.approx(-20, abs=1)
    touch(inks, 0.2, 20)  # the same hue again: its handle goes on
    assert inks.desk.selected_pass.ring[0][1] == pytest.approx(40, abs=1)
    before = inks.desk.script
    touch(inks, 0.9, 50)  # a gray has no hue
    assert inks.desk.script == before
    assert "no colour" in inks.said()


def test_on_curves_the_tone_found_there_moves(inks: Bench):
    inks.add("gray-weights", "curves")
    inks.key(Qt.Key.Key_T)
    touch(inks, 0.9, 40)
    points = inks.desk.selected_pass.every
    assert (120.0, 140.0) in points
    assert len(points) == 3


def test_on_exposure_it_is_the_light(inks: Bench):
    inks.add("exposure")
    inks.slip.editors["touch"].click()
    touch(inks, 0.9, 50)
    assert inks.desk.selected_pass.exposure == pytest.approx(0.5)


def test_escape_gives_a_touch_up_and_other_passes_say_why_not(inks: Bench):
    inks.add("gray-weights")
    inks.key(Qt.Key.Key_T)
    at = inks.easel.from_picture(QPointF(0.15, 0.5))
    inks.press(inks.easel, at)
    inks.settle()
    inks.move(inks.easel, at - QPointF(0, 40))
    assert inks.desk.selected_pass.ring
    QTest.keyClick(inks.easel, Qt.Key.Key_Escape)
    inks.release(inks.easel, at)
    assert inks.desk.selected_pass.ring == ()
    inks.add("levels")
    inks.key(Qt.Key.Key_T)
    assert "choose one of them" in inks.said()


def test_a_stencil_is_told_on_the_slip_and_can_be_taken_off(inks: Bench):
    from kyanoscript.core.stencil import Oval, Stencil

    inks.add("negative")
    inks.desk.set_values("Stencil", stencil=Stencil(shapes=(Oval(width=100, height=100),)))
    inks.settle()
    off = inks.slip.editors["stencil"]
    assert off.isVisible()
    off.click()
    assert inks.desk.selected_pass.stencil is None
    assert inks.desk.entries[-1] == "Negative: take the stencil off"
    assert not off.isVisible()
