"""The slip offers the newest form, starts on this picture, and what goes wrong; words of the trade find things."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from kyanoscript.core.script import Script
from tests.ui.conftest import Bench


def texts(bench):
    return [label.text() for label in bench.slip.findChildren(type(bench.window.foot.values)) if label.isVisible()]


@pytest.fixture
def older(bench: Bench):
    """A script of before: grain of the first form."""
    bench.add("grain")
    step = bench.desk.selected_pass
    bench.desk.change("Open", Script((type(step)(of=1),)))
    bench.desk.select(0)
    bench.settle()
    return bench


def test_an_older_pass_offers_its_newest_form_and_says_what_changes(older: Bench):
    use = older.slip.editors["form"]
    assert use.isVisible()
    assert any("every tone keeps its mean light" in text for text in texts(older))
    before = older.shown()
    QTest.mouseClick(use, Qt.MouseButton.LeftButton)
    older.settle()
    assert older.desk.selected_pass.which_form == 2
    assert older.desk.entries[-1] == "Grain: its newest form"
    assert not use.isVisible()
    assert older.shown() != before
    older.desk.undo()
    older.settle()
    assert older.desk.selected_pass.which_form == 1
    assert use.isVisible()
    assert older.shown() == before


def test_a_pass_that_is_added_is_of_the_newest_form_and_offers_none(bench: Bench):
    bench.add("grain")
    assert bench.desk.selected_pass.which_form == 2
    assert not bench.slip.editors["form"].isVisible()
    assert "form" not in {name for name, widget in bench.slip.sliders.items() if widget.isVisible()}


def test_values_of_a_later_form_are_shown_with_it_alone(bench: Bench):
    bench.add("inks")
    assert bench.slip.sliders["deepest"].isVisible()
    bench.desk.change("Open", Script((type(bench.desk.selected_pass)(of=1),)))
    bench.desk.select(0)
    bench.settle()
    assert not bench.slip.sliders["deepest"].isVisible()


def test_the_slip_says_when_to_use_a_pass_and_what_goes_wrong(bench: Bench):
    bench.add("vignette")
    said = texts(bench)
    assert "To lead the eye inward." in said
    assert "It has gone too far when one sees the oval." in said


def test_starts_are_chosen_on_this_picture(bench: Bench):
    bench.add("toner-bath")
    bench.key(Qt.Key.Key_P, Qt.KeyboardModifier.ShiftModifier)
    chooser = bench.passes.choosers.present
    starts = list(bench.desk.selected_pass.starts)
    assert chooser.grid.shown() == starts
    bench.qtbot.waitUntil(lambda: chooser.grid.pictured() == set(starts))
    pictures = {chooser.grid.picture(start).pixelColor(60, 40).name() for start in starts}
    assert len(pictures) > 3  # each as it would be
    QTest.keyClick(chooser.search, Qt.Key.Key_Right)
    bench.settle()
    step = bench.desk.selected_pass
    assert bench.easel.held.passes == (step.with_(**step.starts[starts[1]]),)  # it is on the easel, too
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    bench.settle()
    assert bench.slip.editors["start"].currentText() == starts[1]
    assert bench.desk.entries[-1] == f"Toner bath: {starts[1]}"


def found(bench, words):
    bench.key(Qt.Key.Key_A)
    chooser = bench.passes.choosers.present
    bench.qtbot.waitUntil(lambda: bool(bench.passes.choosers.recipes))
    QTest.keyClicks(chooser.search, words)
    return chooser


def test_a_word_of_the_trade_finds_recipes_and_starts_with_their_pictures(bench: Bench):
    chooser = found(bench, "lith")
    first = chooser.grid.shown()[:8]
    assert {"recipe lith-warm", "colour-balance: lith", "grain: lith, in clumps"} <= set(first)
    bench.qtbot.waitUntil(lambda: set(first) <= chooser.grid.pictured())
    chooser.grid.look_at("recipe lith-warm")
    assert chooser.help.text().startswith("Recipe: ")
    chooser.grid.look_at("grain: lith, in clumps")
    assert chooser.help.text() == "Grain, lith, in clumps"
    chooser.close()


def test_a_start_that_was_found_is_added_with_its_values(bench: Bench):
    chooser = found(bench, "clumps")
    assert chooser.grid.current == "grain: lith, in clumps"
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    bench.settle()
    step = bench.desk.selected_pass
    assert (step.kind, step.spread, step.which_form) == ("grain", "clumped", 2)
    assert bench.desk.entries[-1] == "Add Grain"


def test_a_recipe_that_was_found_is_added_where_one_stands(bench: Bench):
    bench.add("levels")
    chooser = found(bench, "platinum")
    assert chooser.grid.current == "recipe platinum"
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    bench.settle()
    kinds = [step.kind for step in bench.desk.script.passes]
    assert kinds[0] == "levels"
    assert kinds[1:] == [step.kind for step in bench.passes.choosers.recipes["platinum"].script.passes]
    assert bench.desk.entries[-1] == "Add a recipe"
    bench.desk.undo()
    assert [step.kind for step in bench.desk.script.passes] == ["levels"]


def test_what_takes_seconds_is_held_and_says_so(bench: Bench):
    chooser = found(bench, "old photo")
    assert "recipe old-portrait" in chooser.grid.held
    assert "recipe old-portrait" in chooser.grid.shown()
    chooser.close()


def test_nothing_of_that_name_says_so(bench: Bench):
    chooser = found(bench, "zzzz")
    assert chooser.grid.shown() == []
    QTest.keyClick(chooser.search, Qt.Key.Key_Return)
    assert chooser.isVisible()
    chooser.close()
    assert bench.desk.script.passes == ()


# What goes wrong, told


@pytest.fixture
def oval(bench: Bench):
    bench.add("gray-weights", "vignette")
    bench.desk.set_values("Vignette", amount=-3.0, soft=5.0)
    bench.settle()
    return bench


def test_what_goes_wrong_is_told_in_a_line_and_mended_by_a_press(oval: Bench):
    told = oval.slip.wrong
    assert told.isVisible()
    assert "The vignette's oval is seen" in texts(oval)
    at = next(k for k, fault in enumerate(told.faults) if fault.what == "oval")
    QTest.mouseClick(told.mends[at], Qt.MouseButton.LeftButton)
    oval.settle()
    assert oval.desk.entries[-1].startswith("Vignette: softness")
    assert "oval" not in {fault.what for fault in told.faults}
    assert "The vignette's oval is seen" not in texts(oval)
    oval.desk.undo()
    oval.settle()
    assert "oval" in {fault.what for fault in told.faults}


def drawn(bench):
    bench.settle()
    return bench.easel.grab().toImage()


def test_show_marks_the_place_on_the_easel_until_it_is_let_go_or_something_changes(oval: Bench):
    told = oval.slip.wrong
    at = next(k for k, fault in enumerate(told.faults) if fault.what == "oval")
    before = drawn(oval)
    QTest.mouseClick(told.shows[at], Qt.MouseButton.LeftButton)
    assert drawn(oval) != before
    QTest.mouseClick(told.shows[at], Qt.MouseButton.LeftButton)
    assert drawn(oval) == before
    QTest.mouseClick(told.shows[at], Qt.MouseButton.LeftButton)
    oval.desk.set_values("Vignette", amount=-2.9)
    oval.settle()
    assert not any(word.isChecked() for word in told.shows)
    assert oval.easel._where.isNull()


def test_of_a_sound_print_nothing_is_told_and_the_lines_take_no_room(bench: Bench):
    bench.add("gray-weights")
    assert bench.slip.wrong.faults == ()
    assert not bench.slip.wrong.isVisible()


def test_lines_that_come_and_go_take_nobody_the_keyboard(bench: Bench):
    """A word that is shown before it stands anywhere is a window of its own, and takes the hand off the slider."""
    bench.add("gray-weights", "vignette")
    slider = bench.slip.sliders["soft"]
    slider.setFocus()
    for soft in (5.0, 90.0, 5.0):
        bench.desk.set_values("Vignette", amount=-3.0, soft=soft)
        bench.settle()
        assert bool(bench.slip.wrong.faults) == (soft < 50)
        assert slider.hasFocus()
        assert bench.window.isActiveWindow()


def test_what_stands_aside_gives_way_where_the_page_has_no_room(bench: Bench):
    bench.add("grain")
    bench.window.resize(1280, 800)
    bench.settle()
    aside = bench.slip.page.aside
    assert aside.isVisible()
    bench.window.resize(1280, 560)
    bench.settle()
    assert not aside.isVisible()
    bench.window.resize(1280, 800)
    bench.settle()
    assert aside.isVisible()
