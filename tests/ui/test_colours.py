"""Choosing colours: the plane, lightness, numbers, picking, kept inks."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from kyanoscript.core.colour import SRGB, parse_hex, to_oklch
from kyanoscript.ui.fields.colour import ColourField, kept
from kyanoscript.ui.fields.plane import painted, strongest
from tests.ui.conftest import Bench, typed


def oklch(ink):
    return to_oklch(np.array(parse_hex(ink)).reshape(3, 1), SRGB)[:, 0]


@pytest.fixture
def field(bench: Bench):
    bench.add("gradient-map")
    bench.desk.choose_handle(1)
    bench.desk.set_values("Ink", stops=((0.0, "#101418"), (100.0, "#8a6a50")))
    return bench.slip.editors["stops"].colour


def stop(bench):
    return bench.desk.selected_pass.stops[1][1]


def test_round_the_plane_lightness_stays_and_the_rim_is_the_strongest(bench: Bench, field):
    before = oklch(stop(bench))[0]
    middle = QPointF(field.plane.width() / 2, field.plane.height() / 2)
    seen = set()
    for across, down in ((40, 0), (0, -40), (-40, 0), (0, 40)):
        bench.drag(field.plane, middle, middle + QPointF(across, down))
        found = oklch(stop(bench))
        seen.add(stop(bench))
        assert found[0] == pytest.approx(before, abs=0.006)
        assert found[2] == pytest.approx(np.degrees(np.arctan2(-down, across)) % 360, abs=2)
    assert len(seen) == 4
    bench.drag(field.plane, middle, middle + QPointF(300, 0))
    assert oklch(stop(bench))[1] == pytest.approx(strongest(before, 0), abs=0.006)
    entries = len(bench.desk.entries)
    bench.drag(field.plane, middle, middle + QPointF(10, 10), middle + QPointF(20, 20))
    assert len(bench.desk.entries) == entries + 1  # one gesture, one step


def test_a_dark_colours_hues_are_readable_and_its_rim_lies_within_the_plane(bench: Bench, field):
    """At L 20 % every hue looks black: the plane is painted lighter, and a line is the rim of what there is."""
    bench.desk.set_values("Ink", stops=((0.0, "#101418"), (100.0, "#1c2030")))
    dark = oklch(stop(bench))[0]
    assert dark < 0.3
    plane = field.plane
    image = plane.grab().toImage()
    ratio, middle = plane.devicePixelRatioF(), QPointF(plane.width() / 2, plane.height() / 2)
    red, green = (image.pixelColor(*(int(v * ratio) for v in (spot.x(), spot.y())))
                  for spot in (middle + QPointF(18, 0), middle + QPointF(-12, -12)))  # fmt: skip
    assert red.red() > red.green() + 30
    assert green.green() > green.red() + 8
    rim = plane.rim().boundingRect()
    assert rim.width() < 0.7 * plane.width()
    bench.drag(plane, middle, middle + QPointF(300, 0))  # beyond the rim there is nothing stronger
    chosen = oklch(stop(bench))
    assert chosen[0] == pytest.approx(dark, abs=0.01)
    assert chosen[1] == pytest.approx(strongest(dark, 0), abs=0.01)


def test_a_colour_of_readable_lightness_has_the_whole_plane(bench: Bench, field):
    light = oklch(stop(bench))[0]
    assert painted(light) == light
    assert field.plane.rim().boundingRect().width() == pytest.approx(field.plane.width() - 10, abs=2)


def test_lightness_keeps_hue(bench: Bench, field):
    hue = oklch(stop(bench))[2]
    bench.drag(field.band, QPointF(10, 70), QPointF(10, 40))
    assert oklch(stop(bench))[0] == pytest.approx(1 - 35 / 134, abs=0.01)
    assert oklch(stop(bench))[2] == pytest.approx(hue, abs=3)
    field.band.setFocus()
    light = oklch(stop(bench))[0]
    QTest.keyClick(field.band, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert oklch(stop(bench))[0] == pytest.approx(light - 0.1, abs=0.005)
    field.plane.setFocus()
    QTest.keyClick(field.plane, Qt.Key.Key_Left)
    assert oklch(stop(bench))[2] == pytest.approx(hue + 1, abs=3)


def test_numbers_and_nonsense(bench: Bench, field):
    typed(field.numbers[0], "50")
    assert oklch(stop(bench))[0] == pytest.approx(0.5, abs=0.003)
    ink = stop(bench)
    typed(field.numbers[2], "much")
    assert "not within" in bench.said()
    assert stop(bench) == ink
    typed(field.hex, "25bf21")
    assert stop(bench) == "#25bf21"


def test_a_colour_is_picked_from_the_photograph_or_with_shift_from_the_print(bench: Bench, field):
    field.pick_word.click()
    assert bench.easel.picker.active
    assert "Press on the picture" in bench.said()
    at = bench.on_print(0.3, 0.3)
    bench.click(bench.easel, at)
    bench.settle()
    assert not bench.easel.picker.active
    photo = np.asarray(parse_hex(stop(bench)))
    print_ = bench.print_at(0.3, 0.3)
    field.pick_word.click()
    QTest.mouseClick(bench.easel, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ShiftModifier, at.toPoint())
    bench.settle()
    assert np.abs(np.asarray(parse_hex(stop(bench))) * 255 - print_).max() < 12
    assert np.abs(photo * 255 - print_).max() > 12
    field.pick_word.click()
    bench.key(Qt.Key.Key_Escape)
    assert not bench.easel.picker.active


def test_inks_are_kept_for_the_next_time(bench: Bench, field, qtbot):
    from kyanoscript.files.kept.remembered import recall

    typed(field.hex, "#25bf21")
    field.keep_word.click()
    typed(field.hex, "#a8d9a7")
    field.keep_word.click()
    assert field.inks.inks == ("#a8d9a7", "#25bf21")
    qtbot.waitUntil(lambda: recall().inks == ("#a8d9a7", "#25bf21"))
    bench.click(field.inks, field.inks.box(1).center())
    assert stop(bench) == "#25bf21"
    field.inks.setFocus()
    QTest.keyClick(field.inks, Qt.Key.Key_Delete)
    assert field.inks.inks == ("#a8d9a7",)
    assert kept(tuple(f"#0000{k:02x}" for k in range(14)), "#ffffff")[0] == "#ffffff"
    assert len(kept(tuple(f"#0000{k:02x}" for k in range(14)), "#ffffff")) == 14


def test_of_several_colours_each_is_folded_away_behind_its_swatch(bench: Bench):
    bench.add("inks")
    field, swatch = bench.slip.editors["ink_1"], bench.slip.editors["ink_1 swatch"]
    assert not field.isVisible()
    swatch.click()
    assert field.isVisible()
    typed(field.hex, "#25bf21")
    assert bench.desk.selected_pass.ink_1 == "#25bf21"
    bench.type("count", "3")
    assert bench.desk.selected_pass.count == 3
    bench.slip.editors["group Ink 2"].click()
    assert "ink_2" in bench.slip.editors


def test_any_colour_is_shown_and_left_as_it_was(qapp):
    field = ColourField()
    came: list[str] = []
    field.moved.connect(came.append)

    @given(st.integers(0, 0xFFFFFF))
    def shown(number):
        ink = f"#{number:06x}"
        field.show_colour(ink)
        assert field.ink == ink
        QTest.keyClick(field.numbers[0], Qt.Key.Key_Return)  # leaving an entry without a change
        QTest.keyClick(field.hex, Qt.Key.Key_Return)

    shown()
    assert came == []  # showing announces nothing
    field.deleteLater()
